// Runs the interface tests on the offscreen platform. With --edit-steadily FOLDER SEED it is the victim of the kill
// tests: a real window in which work goes on faster than anybody works, by typing, dragging and saving, until it is
// killed. Each edit is told on standard output as soon as it is made.
#include "main_window.h"
#include "widgets/quantity_field.h"

#include <QApplication>
#include <QTest>
#include <cstdio>
#include <cstdlib>
#include <gtest/gtest.h>
#include <random>

namespace {

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
  return RUN_ALL_TESTS();
}
