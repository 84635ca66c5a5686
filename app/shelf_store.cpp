// Reading and writing the workshop's shelf.
#include "shelf_store.h"

#include "document.h"

#include <QDir>
#include <QFileInfo>
#include <spdlog/spdlog.h>

namespace {
constexpr std::size_t most_undo = 200;
}

ShelfStore::ShelfStore(QString path, QObject* parent) : QObject(parent), path_(std::move(path)) {
  QByteArray bytes;
  if (!QFileInfo::exists(path_)) {
    starter_ = true;
  } else if (read_whole_file(path_, &bytes, &problem_)) {
    try {
      shelf_ = arc::read_shelf({bytes.constData(), static_cast<std::size_t>(bytes.size())});
      return;
    } catch (const arc::ShelfError& error) {
      problem_ = QString::fromStdString(error.what());
    }
    QString kept = path_ + ".unreadable"; // nothing typed is lost
    for (int i = 2; QFileInfo::exists(kept); ++i) kept = QString("%1.unreadable%2").arg(path_).arg(i);
    QFile::copy(path_, kept);
  }
  if (!problem_.isEmpty()) spdlog::warn("shelf not read: {}", problem_.toStdString());
  shelf_ = arc::starter_shelf();
}

void ShelfStore::edit(const std::function<void(arc::Shelf&)>& change) {
  history_.push_back(shelf_);
  if (history_.size() > most_undo) history_.erase(history_.begin());
  change(shelf_);
  starter_ = false;
  write();
  Q_EMIT changed();
}

void ShelfStore::undo() {
  if (history_.empty()) return;
  shelf_ = std::move(history_.back());
  history_.pop_back();
  write();
  Q_EMIT changed();
}

void ShelfStore::write() {
  QString problem;
  if (!QDir().mkpath(QFileInfo(path_).path()) ||
      !write_whole_file(path_, QByteArray::fromStdString(arc::write_shelf(shelf_)), &problem)) {
    spdlog::warn("shelf not written: {}", problem.toStdString());
    Q_EMIT trouble("The shelf could not be kept: " + problem + ". Export it to another place.");
  }
}
