// One picture for each main view.
#include "capture.h"

#include "stages/stage.h"
#include "widgets/coil_view.h"
#include "widgets/reading_button.h"

#include <QApplication>
#include <QDialog>
#include <QDir>
#include <QEventLoop>
#include <QPushButton>
#include <QStackedWidget>
#include <QTimer>

namespace {

bool shoot(QWidget& widget, const QString& path, QString* problem) {
  QEventLoop settle; // tables scroll and plots replot once they have their size
  QTimer::singleShot(80, &settle, &QEventLoop::quit);
  settle.exec();
  if (widget.grab().save(path)) return true;
  *problem = "cannot write " + path;
  return false;
}

} // namespace

bool capture_views(MainWindow& window, QSize size, const QString& folder, QString* problem) {
  if (!QDir().mkpath(folder)) {
    *problem = "cannot make the folder " + folder;
    return false;
  }
  window.resize(size);
  window.show();
  window.document().wait_for_analysis();
  for (std::size_t i = 0; i < stages().size(); ++i) {
    window.show_stage(static_cast<int>(i));
    if (!shoot(window, folder + "/" + stages()[i].key + ".png", problem)) return false;
  }
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
  window.show_stage(static_cast<int>(stages().size()) - 1);
  window.set_dark(true);
  if (!shoot(window, folder + "/fire-dark-room.png", problem)) return false;
  window.set_dark(false);
  window.show_stage(0);
  window.findChild<ReadingButton*>("reading mode_1_hz")->click();
  if (auto* sheet = window.findChild<QDialog*>("why")) {
    if (!shoot(*sheet, folder + "/why.png", problem)) return false;
    sheet->close();
  }
  return true;
}
