// Files through a temporary one that is renamed over the old.
#include "base/file_io.h"

#include "file/design_file.h"
#include "quantity/text_file.h"

#include <QCryptographicHash>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSaveFile>
#include <cerrno>
#include <cstring>

namespace {

constexpr QFileDevice::Permissions own_file = QFileDevice::ReadOwner | QFileDevice::WriteOwner;

// What the system said; Qt's own words where it has better ones.
QString reason(const QFileDevice& file, int number) {
  switch (number) {
  case ENOSPC:
  case EDQUOT:
    return "the disk is full";
  case EFBIG:
    return "the disk or the quota has no room for it";
  case EROFS:
    return "the disk is read-only";
  case EACCES:
  case EPERM:
    return "this account may not write there";
  case ENOENT:
    return "the folder does not exist";
  default:
    break;
  }
  const QString words = file.errorString();
  return words.isEmpty() || words == "Unknown error" ? QString::fromLocal8Bit(std::strerror(number ? number : EIO))
                                                     : words;
}

} // namespace

bool read_whole_file(const QString& path, QByteArray* bytes, QString* problem, std::size_t beside) {
  try {
    *bytes = QByteArray::fromStdString(
        arc::read_text_file(QFile::encodeName(path).toStdString(), arc::largest_design_file_bytes + beside));
    return true;
  } catch (const arc::TextFileError& error) {
    *problem = QString("the file %1").arg(error.what());
    return false;
  }
}

bool write_whole_file(const QString& path, const QByteArray& bytes, QString* problem, Readers readers) {
  QSaveFile file(path);
  errno = 0;
  // commit() alone does not notice that the buffer could not be written: flush first.
  if (file.open(QIODevice::WriteOnly) && (readers == Readers::as_usual || file.setPermissions(own_file)) &&
      file.write(bytes) == bytes.size() && file.flush() && file.commit())
    return true;
  *problem = reason(file, errno);
  file.cancelWriting();
  return false;
}

bool make_private_folder(const QString& path) {
  if (!QFileInfo(path).isDir() && !QDir().mkpath(path)) return false;
  if (!(QFileInfo(path).permissions() & QFileDevice::WriteOther)) // a folder shared on purpose stays so
    QFile::setPermissions(path, own_file | QFileDevice::ExeOwner);
  return true;
}

void make_private(const QString& path) {
  if (QFileInfo::exists(path)) QFile::setPermissions(path, own_file);
}

QByteArray file_identity(const QString& path) {
  const QString canonical = QFileInfo(path).canonicalFilePath();
  return (canonical.isEmpty() ? QFileInfo(path).absoluteFilePath() : canonical).toUtf8();
}

QString FileStamp::text() const {
  if (!there_) return {};
  return QString("%1 %2 %3").arg(size_).arg(when_.toMSecsSinceEpoch()).arg(QString::fromLatin1(digest_.toHex()));
}

FileStamp FileStamp::from_text(const QString& text) {
  FileStamp out;
  const QStringList parts = text.split(' ');
  if (parts.size() != 3) return out;
  bool size = false, when = false;
  out.size_ = parts[0].toLongLong(&size);
  out.when_ = QDateTime::fromMSecsSinceEpoch(parts[1].toLongLong(&when));
  out.digest_ = QByteArray::fromHex(parts[2].toLatin1());
  out.there_ = size && when && !out.digest_.isEmpty();
  return out;
}

FileStamp FileStamp::before_reading(const QString& path) {
  FileStamp out;
  const QFileInfo info(path);
  out.there_ = info.exists();
  if (!out.there_) return out;
  out.size_ = info.size();
  out.when_ = info.lastModified();
  return out;
}

void FileStamp::was_read(const QByteArray& bytes) {
  size_ = bytes.size();
  digest_ = QCryptographicHash::hash(bytes, QCryptographicHash::Sha1);
}

FileStamp FileStamp::of(const QString& path) {
  FileStamp out = before_reading(path);
  QByteArray bytes;
  QString problem;
  if (out.there_ && read_whole_file(path, &bytes, &problem)) out.was_read(bytes);
  return out;
}

bool FileStamp::differs(const QString& path) const {
  if (!there_) return false;
  const QFileInfo info(path);
  if (!info.exists()) return true;
  if (info.size() == size_ && info.lastModified() == when_) return false;
  return of(path).digest_ != digest_; // touched, perhaps, but the same
}
