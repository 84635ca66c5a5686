// The window's part in files: opening, saving, kinds of coil, leaving.
#include "coil_views/tolerance_sheet.h"
#include "craft/kind.h"
#include "file/design_file.h"
#include "file/examples.h"
#include "stages/first_fault_sheet.h"
#include "stages/stage.h"
#include "toolkit/common.h"
#include "toolkit/file_dialogs.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/spoken.h"
#include "toolkit/text.h"
#include "window/main_window.h"
#include "window/recovery_strip.h"
#include "workshop/start.h"
#include <QAbstractItemView>
#include <QAction>
#include <QApplication>
#include <QButtonGroup>
#include <QCheckBox>
#include <QClipboard>
#include <QCloseEvent>
#include <QComboBox>
#include <QDateTime>
#include <QDialog>
#include <QFile>
#include <QFileInfo>
#include <QFrame>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLayoutItem>
#include <QMenu>
#include <QMimeData>
#include <QScreen>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <functional>
#include <utility>

namespace {

constexpr int most_recent_files = 8;

} // namespace

bool MainWindow::open_file(const QString& path) {
  QString problem;
  if (!document().open(path, &problem)) {
    notify(QString("%1 was not opened: %2").arg(QFileInfo(path).fileName(), problem));
    return false;
  }
  notice_->hide();
  if (document().open_elsewhere())
    notify(
        QString("%1 is open in another window too. What is saved last counts; save one of them under another name.")
            .arg(QFileInfo(path).fileName()));
  remember(path);
  return true;
}

bool MainWindow::open_demo(const std::string& kind) {
  const arc::CoilKind* row = arc::coil_kind(kind);
  QFile file(row ? QString(":/examples/%1.json").arg(text_of(row->demo)) : QString());
  if (!file.open(QIODevice::ReadOnly)) return false;
  document().start(arc::read_design(file.readAll().toStdString()));
  return true;
}

void MainWindow::new_design() {
  new_of_kind(document().design().kind);
}

// A row of a menu for a kind: what it is for, and below it what it takes.
QAction* MainWindow::add_kind(QMenu& menu, const arc::CoilKind& kind) {
  QAction* action = menu.addAction(QString("%1: %2").arg(text_of(kind.title), text_of(kind.purpose)));
  action->setObjectName("kind " + text_of(kind.key));
  QAction* needs = menu.addAction("      " + text_of(kind.needs));
  needs->setEnabled(false);
  return action;
}

void MainWindow::choose_kind() {
  QMenu menu(this);
  menu.setObjectName("kinds");
  for (const arc::CoilKind* row : arc::coil_kinds()) {
    const arc::CoilKind& kind = *row;
    QAction* action = add_kind(menu, kind);
    action->setCheckable(true);
    action->setChecked(kind.key == document().design().kind);
    connect(action, &QAction::triggered, this, [this, key = std::string(kind.key)] { switch_kind(key); });
  }
  menu.exec(kind_button_->mapToGlobal(QPoint(0, kind_button_->height())));
}

void MainWindow::switch_kind(const std::string& key) {
  document().edit("Kind of coil",
                  [&](arc::Design& design) { design = arc::as_kind(design, *arc::coil_kind(key)); });
}

// Stages, shortcuts and names of the design's kind.
void MainWindow::refresh_kind() {
  const arc::CoilKind& kind = arc::kind_of(document().design());
  if (shown_kind_ == kind.key) return;
  shown_kind_ = kind.key;
  kind_button_->setText(text_of(kind.title) + " ▾");
  kind_button_->setAccessibleName("Kind of coil: " + text_of(kind.title));
  rail_->show_kind();
  follows_->setVisible(kind.tank);
  int place = 0;
  for (const StageSpec& stage : stages()) {
    auto* action = findChild<QAction*>("action stage " + stage.key);
    const bool here = belongs_to(stage, kind);
    action->setEnabled(here);
    action->setText(title_of(stage, kind));
    if (stage.place == RailPlace::work)
      action->setShortcut(here ? QKeySequence(QString("Alt+%1").arg(++place)) : QKeySequence());
  }
  if (!belongs_to(stages()[static_cast<std::size_t>(canvas_->currentIndex())], kind)) show_stage(0);
}

void MainWindow::new_of_kind(const std::string& key) {
  if (!may_leave()) return;
  const arc::Design& here = document().design(); // the mains at hand
  arc::Design fresh =
      arc::new_design(*arc::coil_kind(key), here.site.mains_voltage_v, here.site.mains_frequency_hz);
  for (const char* mains : {"site.mains_voltage_v", "site.mains_frequency_hz"})
    if (here != arc::Design{} && !arc::is_example(here, mains)) arc::take_example(fresh, mains);
  document().start(std::move(fresh));
  show_stage(0);
  offer_first_steps();
}

void MainWindow::take_wanted(Workspace::Want what, const QString& which) {
  if (what == Workspace::Want::fresh) return new_of_kind(which.toStdString());
  if (what == Workspace::Want::file && which.isEmpty()) return choose_file();
  if (!may_leave()) return;
  if (what == Workspace::Want::demo)
    open_demo(which.toStdString());
  else if (!open_file(which))
    return; // said already
  show_stage(0);
}

void MainWindow::take_offered(arc::Design design) {
  const arc::Design& now = document().design();
  if (document().path().isEmpty() && now.runs.empty()) { // undo brings the old one back
    design.variants = now.variants;
    const bool taken = document().edit("Take the proposed design", [&](arc::Design& d) { d = std::move(design); });
    if (!taken) return;
  } else { // a file of its own
    if (!may_leave()) return;
    document().start(std::move(design));
  }
  show_stage(0);
}

void MainWindow::choose_file() {
  if (!may_leave()) return;
  const QString path = file_dialogs::to_open(this, "Open a design", "High Arc designs (*.json);;All files (*)");
  if (!path.isEmpty()) open_file(path);
}

bool MainWindow::write_to(const QString& path) {
  QString problem;
  if (!document().save_as(path, &problem)) {
    notify(QString("Not saved: %1. Your work is still here; save it somewhere else, or try again.").arg(problem));
    return false;
  }
  notice_->hide();
  remember(path);
  return true;
}

bool MainWindow::save() {
  if (document().path().isEmpty()) return save_as();
  if (document().changed_on_disk()) {
    MessageBox ask(QMessageBox::Warning, "Changed by somebody else",
                   QString("%1 has been changed or removed since it was read here, by another window or program. "
                           "Saving replaces what it holds now.")
                       .arg(QFileInfo(document().path()).fileName()),
                   QMessageBox::Cancel, this);
    ask.setObjectName("changed on disk");
    const auto* replace = ask.addButton("Replace it", QMessageBox::DestructiveRole);
    auto* elsewhere = ask.addButton("Save as…", QMessageBox::AcceptRole);
    ask.setDefaultButton(elsewhere);
    ask.exec();
    if (ask.clickedButton() == elsewhere) return save_as();
    if (ask.clickedButton() != replace) return false;
  }
  return write_to(document().path());
}

bool MainWindow::save_as() {
  QString suggested =
      document().path().isEmpty() ? document().title().toLower().replace(' ', '-') + ".json" : document().path();
  const QString path = file_dialogs::to_save(this, "Save the design", suggested, "High Arc designs (*.json)");
  return !path.isEmpty() && write_to(path);
}

void MainWindow::remember(const QString& path) {
  QStringList recent = settings_.value("recent").toStringList();
  const QString full = QFileInfo(path).absoluteFilePath();
  recent.removeAll(full);
  recent.prepend(full);
  settings_.setValue("recent", recent.mid(0, most_recent_files));
  workspace_.set_recent_files(recent.mid(0, most_recent_files));
}

void MainWindow::start_again() {
  if (!close()) return;
  restart_(document().path().isEmpty() ? QStringList() : QStringList(document().path()));
}

bool MainWindow::may_leave() {
  if (const QString why = workspace_.firing.holds(); !why.isEmpty()) {
    notify(why);
    return false;
  }
  return settle_run(false) != Leave::stay && settle_changes() != Leave::stay;
}

// A run, notes or observations that are not in the record; `quitting` with a coil that may be live.
MainWindow::Leave MainWindow::settle_run(bool quitting) {
  if (auto* field = qobject_cast<QuantityField*>(QApplication::focusWidget())) field->commit();
  Firing& firing = workspace_.firing;
  const QString live = firing.holds();
  if (!firing.arming().unlogged() && live.isEmpty()) return Leave::go;
  MessageBox ask(QMessageBox::Question, "A run is not logged",
                 live.isEmpty() ? QString("What was timed and noted at the coil is not in the record yet.")
                                : live + " What was timed and noted is not in the record yet.",
                 QMessageBox::Cancel, this);
  ask.setObjectName("unlogged run");
  const QAbstractButton* log = live.isEmpty() ? ask.addButton("Log it", QMessageBox::AcceptRole) : nullptr;
  const QAbstractButton* keep =
      quitting ? ask.addButton("Keep it for the next start", QMessageBox::AcceptRole) : nullptr;
  const QAbstractButton* drop =
      live.isEmpty() ? ask.addButton("Throw it away", QMessageBox::DestructiveRole) : nullptr;
  ask.setDefaultButton(QMessageBox::Cancel);
  ask.exec();
  const QAbstractButton* answer = ask.clickedButton();
  if (log && answer == log) return firing.log() ? Leave::go : Leave::stay;
  if (keep && answer == keep) return Leave::keep;
  return drop && answer == drop ? Leave::go : Leave::stay;
}

MainWindow::Leave MainWindow::settle_changes() {
  if (auto* field = qobject_cast<QuantityField*>(QApplication::focusWidget())) field->commit();
  if (!document().modified()) return Leave::go;
  MessageBox ask(QMessageBox::Question, "Unsaved changes",
                 QString("“%1” has changes that are not saved.").arg(document().title()),
                 QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  ask.setObjectName("unsaved changes");
  ask.setDefaultButton(QMessageBox::Save);
  const int answer = ask.exec();
  if (answer == QMessageBox::Save) return save() ? Leave::go : Leave::stay;
  return answer == QMessageBox::Discard ? Leave::go : Leave::stay; // thrown away with what comes next, not before
}

void MainWindow::closeEvent(QCloseEvent* event) {
  const Leave run = settle_run(true);
  if (run == Leave::stay || (run == Leave::go && settle_changes() == Leave::stay)) {
    event->ignore();
    return;
  }
  settings_.setValue("geometry", saveGeometry());
  settings_.setValue("folder", file_dialogs::folder());
  if (run == Leave::keep)
    document().autosave(); // offered at the next start, with changes that are not saved
  else
    document().discard_recovery(); // saved, or given up
  event->accept();
}

// A design dropped on the window is opened, as from the menu.
void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  const QList<QUrl> urls = event->mimeData()->urls();
  if (urls.size() == 1 && urls.front().isLocalFile()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  const QString path = event->mimeData()->urls().value(0).toLocalFile();
  event->acceptProposedAction();
  if (!path.isEmpty() && may_leave()) open_file(path);
}
