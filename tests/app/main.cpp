// Runs the interface tests on the offscreen platform. With --edit-then-hang FOLDER it is the victim of the recovery
// test: it edits the demo in a real window, autosaves and waits to be killed.
#include "main_window.h"
#include "widgets/quantity_field.h"

#include <QApplication>
#include <QTest>
#include <QThread>
#include <cstdio>
#include <gtest/gtest.h>

int main(int argc, char** argv) {
  testing::InitGoogleTest(&argc, argv);
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setStyle("Fusion");
  if (!type::load_fonts()) return 3;
  QApplication::setFont(type::font(type::body));
  if (argc == 3 && std::string(argv[1]) == "--edit-then-hang") {
    MainWindow window(argv[2]);
    window.open_demo();
    window.show();
    auto* turns = window.findChild<QuantityField*>("secondary.turns");
    turns->setText("1011");
    turns->commit();
    QTest::qWait(2500); // the autosave interval
    std::puts("ready");
    std::fflush(stdout);
    QThread::sleep(60);
    return 4;
  }
  return RUN_ALL_TESTS();
}
