// One picture for each main view.
#include "capture.h"

#include "circuit/feed.h"
#include "stages/stage.h"
#include "widgets/coil_view.h"
#include "widgets/reading_button.h"
#include "workshop/bank_search.h"

#include <QAction>
#include <QApplication>
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

// A sheet with work in the background: pictured once its part called `ready` is on the screen.
bool shoot_sheet(MainWindow& window, const QString& name, const QString& ready, const QString& path,
                 QString* problem) {
  QDialog* sheet = nullptr; // two stages may have a sheet of this name: the open one
  for (QDialog* candidate : window.findChildren<QDialog*>(name))
    if (candidate->isVisible()) sheet = candidate;
  if (!sheet) {
    *problem = "the sheet did not open: " + name;
    return false;
  }
  QElapsedTimer waited;
  waited.start();
  const auto there = [&] {
    auto* part = sheet->findChild<QWidget*>(ready);
    return part && part->isVisible();
  };
  while (!there() && waited.elapsed() < 60000) QApplication::processEvents(QEventLoop::AllEvents, 20);
  const bool done = shoot(*sheet, path, problem);
  sheet->close();
  QApplication::processEvents();
  return done;
}

} // namespace

bool capture_stages(MainWindow& window, const QString& folder, QString* problem) {
  const arc::CoilKind& kind = arc::kind_of(window.document().design());
  for (std::size_t i = 0; i < stages().size(); ++i) {
    if (!belongs_to(stages()[i], kind)) continue;
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
  if (auto* record = window.findChild<QPushButton*>("fire page Record")) {
    record->click();
    if (!shoot(window, folder + "/record.png", problem)) return false;
    window.findChild<QPushButton*>("fire page Run")->click();
  }
  window.show_stage(0);
  QWidget* front = window.findChild<QStackedWidget*>("canvas")->currentWidget();
  auto* field = front->findChild<QPushButton*>("overlay field");
  field->click();
  front->findChild<CoilView*>("coil")->field().wait();
  if (!shoot(window, folder + "/field.png", problem)) return false;
  field->click();
  // Two toploads beside the demo's own, the sampled bands, a stacked and a drawn topload: shown, then undone.
  window.document().edit("Kept toploads", [](arc::Design& design) {
    auto large = design.topload, ball = design.topload;
    large[0].outer_diameter_m *= 1.4;
    large[0].centre_above_winding_m += 0.02;
    ball[0].shape = "sphere";
    ball[0].diameter_m = 0.25;
    ball[0].centre_above_winding_m = 0.14;
    design.topload_variants = {{"Larger ring", large, {}}, {"Ball", ball, {}}};
  });
  window.document().wait_for_analysis();
  front->findChild<QPushButton*>("compare toploads")->click();
  if (!shoot_sheet(window, "topload comparison", "candidate 2", folder + "/comparison.png", problem)) return false;
  window.document().history().undo();
  window.document().edit("Stack", [](arc::Design& design) {
    arc::ToploadPart bowl;
    bowl.shape = "profile";
    bowl.points_m = {{0, 0}, {0.09, 0}, {0.13, 0.03}, {0.14, 0.07}, {0.11, 0.11}, {0.05, 0.135}, {0, 0.14}};
    bowl.centre_above_winding_m = 0.127;
    design.topload.push_back(bowl);
  });
  window.document().wait_for_analysis();
  if (!shoot(window, folder + "/topload-stack.png", problem)) return false;
  window.document().history().undo();
  window.document().wait_for_analysis();
  window.findChild<QPushButton*>("from shelf")->click();
  if (!shoot_sheet(window, "bank finder", "bank offers", folder + "/bank-finder.png", problem)) return false;
  window.open_demo(); // nothing to undo or redo in the last pictures
  window.document().wait_for_simulation();
  show("fire");
  window.set_dark(true);
  if (!shoot(window, folder + "/fire-dark-room.png", problem)) return false;
  window.set_dark(false);
  window.show_stage(0);
  // The stages of the other kinds that differ most.
  struct Picture {
    const char *kind, *stage, *name;
  };
  for (const Picture& p : {Picture{"exciter", "driver", "exciter-driver"}, Picture{"bridge", "feed", "bridge-feed"},
                           Picture{"bridge", "bridge", "bridge"}, Picture{"bridge", "gate", "gate"},
                           Picture{"dual-resonant", "bridge", "dual-resonant"},
                           Picture{"tube", "oscillator", "tube"}, Picture{"tube", "staccato", "staccato"},
                           Picture{"flame", "oscillator", "flame"}}) {
    window.open_demo(p.kind);
    window.document().wait_for_analysis();
    window.document().wait_for_simulation();
    show(p.stage);
    if (!shoot(window, folder + "/" + p.name + ".png", problem)) return false;
  }
  return true;
}
