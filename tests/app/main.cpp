// Runs the interface tests on the offscreen platform. With --edit-steadily FOLDER SEED it is the victim of the kill
// tests: a real window in which work goes on faster than anybody works, by typing, dragging and saving, until it is
// killed. Each edit is told on standard output as soon as it is made. With --fire FOLDER STATE the victim stands at
// the coil in that state of the armed coil, and notes are typed.
#include "toolkit/quantity_field.h"
#include "window/main_window.h"

#include <QApplication>
#include <QTest>
#include <cstdio>
#include <cstdlib>
#include <gtest/gtest.h>
#include <random>

namespace {

// Goes to Fire and on to the wanted state, tells when it is there, and types notes until it is killed.
int fire_until_killed(const char* folder, const std::string& wanted) {
  MainWindow window(folder);
  window.open_demo();
  window.show();
  window.document().wait_for_simulation();
  Firing& firing = window.workspace().firing;
  firing.observe("arc_length_m", 0.4);
  for (const arc::CheckItem& check : firing.arming().checks()) firing.tick(check.key, true);
  if (wanted != "checking" && !firing.arm("to be killed")) return 5;
  if (wanted == "running" || wanted == "after") firing.start_run();
  if (wanted == "after") firing.stop_run();
  if (arc::word_of(firing.state()) != wanted) return 6;
  for (int n = 1; n < 4000; ++n) {
    firing.note(QString("note %1").arg(n), {});
    if (n == 1) window.document().autosave();
    std::printf("%d\n", n);
    std::fflush(stdout);
    QTest::qWait(20);
  }
  return 4;
}

int edit_until_killed(const char* folder, unsigned seed) {
  MainWindow window(folder);
  window.open_demo();
  window.show();
  std::mt19937 random(seed);
  auto* turns = window.findChild<QuantityField*>("secondary.turns");
  for (int n = 1; n < 4000; ++n) {
    const int what = static_cast<int>(random() % 12);
    if (what == 0) { // by dragging
      window.document().edit(
          "Drag", [](arc::Design& d) { d.secondary.base_height_m += 0.001; }, "drag");
    } else if (what == 1) {
      QString problem;
      window.document().save_as(QString(folder) + "/work.json", &problem);
    }
    turns->setText(QString::number(1000 + n));
    turns->commit();
    std::printf("%d\n", n);
    std::fflush(stdout);
    QTest::qWait(20 + static_cast<int>(random() % 60));
  }
  return 4;
}

} // namespace

int main(int argc, char** argv) {
  testing::InitGoogleTest(&argc, argv);
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setStyle("Fusion");
  if (!type::load_fonts()) return 3;
  QApplication::setFont(type::font(type::body));
  if (argc == 4 && std::string(argv[1]) == "--edit-steadily")
    return edit_until_killed(argv[2], static_cast<unsigned>(std::atoi(argv[3])));
  if (argc == 4 && std::string(argv[1]) == "--fire") return fire_until_killed(argv[2], argv[3]);
  return RUN_ALL_TESTS();
}
