// Whole files in and out, with reasons that a person can act on; and how to tell that somebody else has changed
// one.
#pragma once

#include <QByteArray>
#include <QDateTime>
#include <QString>

/// Reads a whole file; false with the reason when it cannot be read or is too large for a design.
bool read_whole_file(const QString& path, QByteArray* bytes, QString* problem);
/// Writes a whole file atomically; false with the reason, and the old file untouched, when it cannot.
bool write_whole_file(const QString& path, const QByteArray& bytes, QString* problem);

/// A file as it was when this program last read or wrote it.
class FileStamp {
 public:
  FileStamp() = default;
  /// As it is now.
  static FileStamp of(const QString& path);
  /// Whether the file has other contents now, or is gone; false while nothing was stamped.
  bool differs(const QString& path) const;
  /// There was no file.
  bool absent() const { return !there_; }

 private:
  bool there_ = false;
  qint64 size_ = 0;
  QDateTime when_;
  QByteArray digest_;
};
