// One folder for the whole program; the window keeps it in its settings.
#include "widgets/file_dialogs.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>

namespace file_dialogs {
namespace {

QString& kept() {
  static QString folder;
  return folder;
}

QString left_in(const QString& path) {
  if (!path.isEmpty()) kept() = QFileInfo(path).absolutePath();
  return path;
}

} // namespace

QString folder() {
  return QDir(kept()).exists() ? kept() : QString();
}

void set_folder(const QString& folder) {
  kept() = folder;
}

QString to_save(QWidget* parent, const QString& title, const QString& name, const QString& filter) {
  const bool whole = QFileInfo(name).isAbsolute() || folder().isEmpty();
  return left_in(QFileDialog::getSaveFileName(parent, title, whole ? name : QDir(folder()).filePath(name), filter));
}

QString to_open(QWidget* parent, const QString& title, const QString& filter) {
  return left_in(QFileDialog::getOpenFileName(parent, title, folder(), filter));
}

} // namespace file_dialogs
