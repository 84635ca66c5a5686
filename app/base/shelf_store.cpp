// Reading, writing and sharing the workshop's shelf.
#include "base/shelf_store.h"

#include <QDir>
#include <QFileInfo>
#include <QLockFile>
#include <algorithm>

namespace {
constexpr std::size_t most_undo = 200;
constexpr int lock_wait_ms = 2000;
} // namespace

ShelfStore::ShelfStore(QString path, QObject* parent) : QObject(parent), path_(std::move(path)) {
  connect(&watcher_, &QFileSystemWatcher::directoryChanged, this, &ShelfStore::take_in);
  connect(&watcher_, &QFileSystemWatcher::fileChanged, this, &ShelfStore::take_in);
  if (!QFileInfo::exists(path_)) {
    shelf_ = arc::starter_shelf();
  } else if (!read(&shelf_, &problem_)) {
    QString kept = path_ + ".unreadable"; // nothing typed is lost
    for (int i = 2; QFileInfo::exists(kept); ++i) kept = QString("%1.unreadable%2").arg(path_).arg(i);
    QFile::copy(path_, kept);
    make_private(kept);
    log_warning("shelf not read: " + problem_);
    shelf_ = arc::starter_shelf();
  }
  stamp_ = FileStamp::of(path_);
  watch();
}

bool ShelfStore::has_invented() const {
  for (const auto& [group, parts] : shelf_.parts)
    if (std::ranges::any_of(parts, &arc::ShelfPart::invented)) return true;
  return false;
}

bool ShelfStore::read(arc::Shelf* shelf, QString* problem) const {
  QByteArray bytes;
  if (!read_whole_file(path_, &bytes, problem)) return false;
  try {
    *shelf = arc::read_shelf({bytes.constData(), static_cast<std::size_t>(bytes.size())});
    return true;
  } catch (const std::exception& error) { // whatever a file holds, the program starts
    *problem = QString::fromUtf8(error.what());
    return false;
  }
}

// Files that are replaced by a rename are watched through their folder.
void ShelfStore::watch() {
  const QString folder = QFileInfo(path_).path();
  if (!watcher_.directories().contains(folder) && QFileInfo::exists(folder)) watcher_.addPath(folder);
  if (!watcher_.files().contains(path_) && QFileInfo::exists(path_)) watcher_.addPath(path_);
}

bool ShelfStore::changed_elsewhere() const {
  return QFileInfo::exists(path_) && (stamp_.absent() || stamp_.differs(path_));
}

void ShelfStore::take_in() {
  watch();
  arc::Shelf theirs;
  QString problem;
  if (!changed_elsewhere() || !read(&theirs, &problem)) return; // our own stays; the next change writes it again
  stamp_ = FileStamp::of(path_);
  shelf_ = std::move(theirs);
  history_.clear(); // undoing what came before would undo the other window's change as well
  Q_EMIT changed();
}

void ShelfStore::edit(const std::function<void(arc::Shelf&)>& change) {
  history_.push_back(shelf_);
  if (history_.size() > most_undo) history_.erase(history_.begin());
  arc::Shelf wanted = shelf_;
  change(wanted);
  replace(wanted);
}

void ShelfStore::undo() {
  if (history_.empty()) return;
  const arc::Shelf before = std::move(history_.back());
  history_.pop_back();
  replace(before);
}

// Makes the change from what is shown to `wanted`, to what the file holds by now.
void ShelfStore::replace(const arc::Shelf& wanted) {
  QString problem;
  make_private_folder(QFileInfo(path_).path());
  QLockFile lock(path_ + ".lock");
  lock.tryLock(lock_wait_ms); // where no lock can be had the write below says what is wrong
  arc::Shelf result = wanted, theirs;
  if (changed_elsewhere() && read(&theirs, &problem)) {
    result = arc::merged_shelf(shelf_, wanted, theirs);
    history_.clear();
  }
  shelf_ = std::move(result);
  if (write_whole_file(path_, QByteArray::fromStdString(arc::write_shelf(shelf_)), &problem,
                       Readers::nobody_else)) {
    stamp_ = FileStamp::of(path_);
  } else {
    log_warning("shelf not written: " + problem);
    Q_EMIT trouble("The shelf could not be kept: " + problem + ". Export it to another place.");
  }
  watch();
  Q_EMIT changed();
}
