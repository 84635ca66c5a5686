// Whole files in and out, with reasons that a person can act on; and how to tell that somebody else has changed
// one.
#pragma once

#include <QByteArray>
#include <QDateTime>
#include <QString>

/// Reads a whole file; false with the reason when it is no ordinary file, cannot be read or is too large for a
/// design with `beside` bytes around it.
bool read_whole_file(const QString& path, QByteArray* bytes, QString* problem, std::size_t beside = 0);
/// Who may read what is written: as the account's other files, or nobody else.
enum class Readers { as_usual, nobody_else };
/// Writes a whole file atomically; false with the reason, and the old file untouched, when it cannot.
bool write_whole_file(const QString& path, const QByteArray& bytes, QString* problem,
                      Readers readers = Readers::as_usual);
/// Makes a folder that only this account can look into; false when there is none then.
bool make_private_folder(const QString& path);
/// Takes the right to read an existing file from everybody else.
void make_private(const QString& path);
/// What names the same file by whatever path, links resolved.
QByteArray file_identity(const QString& path);

/// A file as it was when this program last read or wrote it.
class FileStamp {
 public:
  FileStamp() = default;
  /// As it is now.
  static FileStamp of(const QString& path);
  /// As it is before it is read; what was read then counts, whatever stands there by now.
  static FileStamp before_reading(const QString& path);
  void was_read(const QByteArray& bytes);
  /// Whether the file has other contents now, or is gone; false while nothing was stamped.
  bool differs(const QString& path) const;
  /// As text for another window, and back; an unknown stamp from what is none.
  QString text() const;
  static FileStamp from_text(const QString& text);
  bool known() const { return there_; }
  /// There was no file.
  bool absent() const { return !there_; }

 private:
  bool there_ = false;
  qint64 size_ = 0;
  QDateTime when_;
  QByteArray digest_;
};
