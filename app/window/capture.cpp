// One picture for each main view.
#include "window/capture.h"

#include "base/craft_window.h"
#include "circuit/feed.h"
#include "coil_views/coil_view.h"
#include "stages/stage.h"
#include "toolkit/reading_button.h"
#include "workshop/bank_search.h"

#include <QAction>
#include <QApplication>
#include <QComboBox>
#include <QDialog>
#include <QDir>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QPushButton>
#include <QStackedWidget>
#include <QTimer>
#include <algorithm>

namespace {

bool shoot(QWidget& widget, const QString& path, QString* problem) {
  QEventLoop settle; // tables scroll and plots replot once they have their size
  QTimer::singleShot(260, &settle, &QEventLoop::quit);
  settle.exec();
  if (widget.grab().save(path)) return true;
  *problem = "cannot write " + path;
  return false;
}

// What is proposed for a coil that stands beside the bench.
bool capture_brief(MainWindow& window, const QString& path, QString* problem) {
  const auto start = std::ranges::find(stages(), QString("start"), &StageSpec::key);
  window.show_stage(static_cast<int>(start - stages().begin()));
  window.findChild<QPushButton*>("start brief")->click();
  auto* sheet = window.findChild<QDialog*>("brief sheet");
  auto* size = sheet->findChild<QComboBox*>("brief size");
  size->setCurrentIndex(2);
  Q_EMIT size->activated(2);
  auto* run = sheet->findChild<QPushButton*>("propose");
  run->click();
  QElapsedTimer waiting;
  constexpr int patience_ms = 120'000;
  for (waiting.start(); !run->isEnabled() && waiting.elapsed() < patience_ms;)
    QApplication::processEvents(QEventLoop::WaitForMoreEvents);
  const bool done = shoot(*sheet, path, problem);
  sheet->close();
  return done;
}

} // namespace

bool capture_stages(MainWindow& window, const QString& folder, QString* problem) {
  const arc::CoilKind& kind = arc::kind_of(window.document().design());
  for (std::size_t i = 0; i < stages().size(); ++i) {
    if (!belongs_to(stages()[i], kind) || stages()[i].key == "shelf") continue; // that one is a table
    window.show_stage(static_cast<int>(i));
    if (!shoot(window, folder + "/" + stages()[i].key + ".png", problem)) return false;
  }
  return true;
}

bool capture_views(MainWindow& window, QSize size, const QString& folder, QString* problem) {
  if (!QDir().mkpath(folder)) {
    *problem = "cannot make the folder " + folder;
    return false;
  }
  window.resize(size);
  window.show();
  window.workspace().shelf.edit(
      [](arc::Shelf& shelf) { shelf.invented_count = true; }); // a shelf that offers something
  window.document().wait_for_analysis();
  window.document().wait_for_simulation();
  const auto show = [&](const char* key) {
    const auto stage = std::ranges::find(stages(), QString(key), &StageSpec::key);
    window.show_stage(static_cast<int>(stage - stages().begin()));
  };
  if (!capture_stages(window, folder, problem)) return false;
  window.show_stage(0);
  QWidget* front = window.findChild<QStackedWidget*>("canvas")->currentWidget();
  auto* field = front->findChild<QPushButton*>("overlay field");
  field->click();
  front->findChild<CoilView*>("coil")->field().wait();
  if (!shoot(window, folder + "/field.png", problem)) return false;
  field->click();
  if (!capture_brief(window, folder + "/brief.png", problem)) return false;
  window.open_demo(); // nothing to undo or redo in the last pictures
  window.document().wait_for_simulation();
  show("fire");
  window.set_dark(true);
  if (!shoot(window, folder + "/fire-dark-room.png", problem)) return false;
  window.set_dark(false);
  window.show_stage(0);
  // The stages of the other kinds that differ most.
  for (const CraftWindow* craft : craft_windows())
    for (const DemoPicture& p : craft->pictures) {
      window.open_demo(p.kind);
      window.document().wait_for_analysis();
      window.document().wait_for_simulation();
      show(p.stage);
      if (!shoot(window, folder + "/" + p.name + ".png", problem)) return false;
    }
  return true;
}
