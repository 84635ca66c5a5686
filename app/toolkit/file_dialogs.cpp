// One folder for the whole program; the window keeps it in its settings.
#include "toolkit/file_dialogs.h"

#include "toolkit/text.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QPushButton>
#include <QRegularExpression>

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
  QFileDialog dialog(parent, title, whole ? QFileInfo(name).absolutePath() : folder(), filter);
  dialog.setAcceptMode(QFileDialog::AcceptSave);
  dialog.selectFile(QFileInfo(name).fileName());
  // The suffix is there before the dialog looks whether it would replace something.
  const auto suffix = [&dialog] {
    return dialog.selectedNameFilter().section("*.", 1).section(QRegularExpression("[ )]"), 0, 0);
  };
  const auto take = [&] { dialog.setDefaultSuffix(suffix()); };
  take();
  QObject::connect(&dialog, &QFileDialog::filterSelected, &dialog, take);
  if (dialog.exec() != QDialog::Accepted || dialog.selectedFiles().isEmpty()) return {};
  const QString chosen = left_in(dialog.selectedFiles().front());
  if (!QFileInfo(chosen).suffix().isEmpty()) return chosen;
  // A desktop's own dialog may have asked about the name without it.
  const QString path = chosen + "." + suffix();
  if (!QFileInfo::exists(path)) return path;
  MessageBox ask(QMessageBox::Warning, title,
                 QString("%1 is there already. Saving replaces what it holds now.").arg(QFileInfo(path).fileName()),
                 QMessageBox::Cancel, parent);
  ask.setObjectName("replace file");
  const QAbstractButton* replace = ask.addButton("Replace it", QMessageBox::DestructiveRole);
  ask.exec();
  return ask.clickedButton() == replace ? path : QString();
}

QString to_open(QWidget* parent, const QString& title, const QString& filter) {
  return left_in(QFileDialog::getOpenFileName(parent, title, folder(), filter));
}

} // namespace file_dialogs
