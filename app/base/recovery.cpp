// Recovery files: the design and the path that it belongs to, as JSON.
#include "base/recovery.h"

#include "base/file_io.h"

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <QUuid>

namespace {

constexpr int longest_name = 40;

// A design's name as part of a file name.
QString slug(const std::string& name) {
  QString out;
  for (const QChar c : QString::fromStdString(name).toLower()) {
    if (out.size() == longest_name) break;
    if (c.isLetterOrNumber())
      out += c;
    else if (!out.endsWith('-') && !out.isEmpty())
      out += '-';
  }
  return out.isEmpty() ? "untitled" : out;
}

QString lock_of(const QString& file) {
  return file + ".lock";
}

std::unique_ptr<QLockFile> make_lock(const QString& file) {
  auto lock = std::make_unique<QLockFile>(lock_of(file));
  lock->setStaleLockTime(0); // a lock is stale only when its process is gone
  return lock;
}

std::string_view view_of(const QByteArray& bytes) {
  return {bytes.constData(), static_cast<std::size_t>(bytes.size())};
}

} // namespace

Recovery::Recovery(QString folder) : folder_(std::move(folder)) {}

Recovery::~Recovery() =
    default; // the file stays, the lock goes: a window that ends without deciding leaves its work

bool Recovery::own_file(const QString& name, QString* problem) {
  if (!path_.isEmpty()) return true;
  if (!make_private_folder(folder_)) {
    *problem = QString("the folder %1 cannot be made").arg(folder_);
    return false;
  }
  const QString path =
      QString("%1/%2-%3.json").arg(folder_, name, QUuid::createUuid().toString(QUuid::Id128).left(8));
  auto lock = make_lock(path);
  if (!lock->tryLock(0)) {
    *problem = QString("%1 cannot be locked").arg(path);
    return false;
  }
  path_ = path;
  lock_ = std::move(lock);
  return true;
}

bool Recovery::keep(const arc::Unsaved& work, QString* problem) {
  return own_file(slug(work.design.name), problem) &&
         write_whole_file(path_, QByteArray::fromStdString(arc::write_unsaved(work)), problem,
                          Readers::nobody_else);
}

void Recovery::forget() {
  if (path_.isEmpty()) return;
  QFile::remove(path_);
  lock_.reset(); // unlocks, and takes the lock file away
  path_.clear();
}

std::vector<RecoverableWork> Recovery::left_behind() const {
  std::vector<RecoverableWork> out;
  const QDir folder(folder_);
  for (const QFileInfo& info : folder.entryInfoList({"*.json"}, QDir::Files, QDir::Time)) {
    if (info.absoluteFilePath() == QFileInfo(path_).absoluteFilePath()) continue;
    const auto lock = make_lock(info.absoluteFilePath());
    if (!lock->tryLock(0)) continue; // a running window's
    RecoverableWork work{info.absoluteFilePath(), info.completeBaseName(), {}, info.lastModified()};
    QByteArray bytes;
    QString problem;
    if (read_whole_file(work.file, &bytes, &problem, arc::most_beside_design)) try {
        const arc::UnsavedHead head = arc::read_unsaved_head(view_of(bytes));
        work.name = QString::fromStdString(head.name);
        work.origin = QString::fromStdString(head.origin);
        work.changed = head.changed;
        work.run = head.run;
      } catch (const arc::DesignFileError&) { // offered all the same: reading it says what is wrong
      }
    out.push_back(std::move(work));
  }
  return out;
}

bool Recovery::read(const RecoverableWork& work, arc::Unsaved* unsaved, QString* problem) {
  QByteArray bytes;
  if (!read_whole_file(work.file, &bytes, problem, arc::most_beside_design)) return false;
  try {
    *unsaved = arc::read_unsaved(view_of(bytes));
    return true;
  } catch (const arc::DesignFileError& error) {
    *problem = QString::fromStdString(error.what());
    return false;
  }
}

void Recovery::remove(const RecoverableWork& work) {
  QFile::remove(work.file);
  QFile::remove(lock_of(work.file));
}
