// Files through a temporary one that is renamed over the old.
#include "file_io.h"

#include "coil/design_file.h"

#include <QCryptographicHash>
#include <QFile>
#include <QFileInfo>
#include <QSaveFile>
#include <cerrno>
#include <cstring>

namespace {

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

bool read_whole_file(const QString& path, QByteArray* bytes, QString* problem) {
  QFile file(path);
  if (QFileInfo(path).isDir())
    *problem = "this is a folder; choose a file in it";
  else if (!file.open(QIODevice::ReadOnly))
    *problem = file.errorString();
  else if (file.size() > static_cast<qint64>(arc::largest_design_file_bytes))
    *problem = QString("the file is %1 MB; a design is never larger than %2 MB")
                   .arg(file.size() >> 20)
                   .arg(arc::largest_design_file_bytes >> 20);
  else {
    *bytes = file.readAll();
    if (file.error() == QFileDevice::NoError) return true;
    *problem = file.errorString();
  }
  return false;
}

bool write_whole_file(const QString& path, const QByteArray& bytes, QString* problem) {
  QSaveFile file(path);
  errno = 0;
  // commit() alone does not notice that the buffer could not be written: flush first.
  if (file.open(QIODevice::WriteOnly) && file.write(bytes) == bytes.size() && file.flush() && file.commit())
    return true;
  *problem = reason(file, errno);
  file.cancelWriting();
  return false;
}

FileStamp FileStamp::of(const QString& path) {
  FileStamp out;
  const QFileInfo info(path);
  out.there_ = info.exists();
  if (!out.there_) return out;
  out.size_ = info.size();
  out.when_ = info.lastModified();
  QFile file(path);
  if (file.open(QIODevice::ReadOnly)) {
    QCryptographicHash hash(QCryptographicHash::Sha1);
    hash.addData(&file);
    out.digest_ = hash.result();
  }
  return out;
}

bool FileStamp::differs(const QString& path) const {
  if (!there_) return false;
  const QFileInfo info(path);
  if (!info.exists()) return true;
  if (info.size() == size_ && info.lastModified() == when_) return false;
  return of(path).digest_ != digest_; // touched, perhaps, but the same
}
