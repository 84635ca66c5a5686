// The window's sheets of words: guide, keys, what a stage is for, cautions.
#include "coil_views/tolerance_sheet.h"
#include "craft/kind.h"
#include "file/design_file.h"
#include "stages/first_fault_sheet.h"
#include "stages/stage.h"
#include "toolkit/common.h"
#include "toolkit/file_dialogs.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/spoken.h"
#include "toolkit/text.h"
#include "what_if/curves_sheet.h"
#include "what_if/solve_sheet.h"
#include "what_if/variants_sheet.h"
#include "window/main_window.h"
#include "window/recovery_strip.h"
#include "window/words.h"
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

void MainWindow::show_text(const QString& title, const QString& html) {
  auto* sheet = new QDialog(this);
  sheet->setAttribute(Qt::WA_DeleteOnClose);
  sheet->setObjectName("sheet");
  sheet->setWindowTitle(title);
  auto* column = new QVBoxLayout(sheet);
  column->setContentsMargins(space::large, space::large, space::large, space::medium);
  auto* text = make_marked_up(html, sheet);
  text->setWordWrap(true);
  text->setMinimumWidth(480);
  text->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
  column->addWidget(text);
  auto* close = new QPushButton("Close", sheet);
  close->setDefault(true);
  connect(close, &QPushButton::clicked, sheet, &QDialog::accept);
  column->addWidget(close, 0, Qt::AlignRight);
  sheet->open();
}

void MainWindow::show_variants() {
  show_variants_sheet(workspace_, this);
}

void MainWindow::show_curves() {
  show_curves_sheet(workspace_, this);
}

void MainWindow::show_solve(const QString& figure) {
  show_solve_sheet(workspace_, figure, this);
}

void MainWindow::show_tolerances() {
  show_tolerance_sheet(workspace_, this);
}

void MainWindow::show_first_fault() {
  show_first_fault_sheet(workspace_, this);
}

void MainWindow::show_help() {
  const StageSpec& stage = stages()[static_cast<std::size_t>(canvas_->currentIndex())];
  if (!help_) help_ = new HelpSheet(workspace_, this);
  help_->show_at(stage.help.isEmpty() ? stage.title : stage.help);
}

// Of the control that has the cursor.
void MainWindow::show_words() {
  const QWidget* here = focusWidget();
  if (!help_) help_ = new HelpSheet(workspace_, this);
  help_->show_words(here ? words_of(*here, {}) : QString());
}

void MainWindow::show_shortcuts() {
  QString rows;
  for (const QAction* action : actions_)
    if (!action->shortcut().isEmpty())
      rows += QString("<tr><td style='padding-right:24px'><b>%1</b></td><td>%2</td></tr>")
                  .arg(action->shortcut().toString(QKeySequence::NativeText), action->text());
  rows += "<tr><td><b>Tab, arrow keys</b></td><td>On the drawing: choose a handle, move it; Shift for larger "
          "steps</td></tr>"
          "<tr><td><b>Insert, Delete</b></td><td>On a point of a drawn profile: add one beside it, take it "
          "away</td></tr>"
          "<tr><td><b>Plus, Minus, 0, wheel</b></td><td>On the drawing: larger, smaller, fit</td></tr>"
          "<tr><td><b>Left, Right</b></td><td>On the ruler: move the tank mark</td></tr>"
          "<tr><td><b>Up, Down</b></td><td>In a field: step the value; Shift for smaller steps</td></tr>"
          "<tr><td><b>Ctrl+C</b></td><td>On a reading: its value with the unit; with Shift the plain number in SI "
          "units. In a table: the chosen cells</td></tr>"
          "<tr><td><b>Escape</b></td><td>In a field: back to the last good value</td></tr>";
  show_text("Keyboard shortcuts", "<table cellspacing='4'>" + rows + "</table>");
}

void MainWindow::show_about() {
  show_text(
      "About High Arc",
      QString("<h3>High Arc %1</h3><p>Designs and tunes Tesla coils and follows the build to the logged run.</p>"
              "<p><b>High voltage kills.</b> Stored charge, RF burns, fire, ozone, ultraviolet, noise and X-rays "
              "from hard vacuum come with "
              "this work. High Arc computes and reminds; it never declares a step safe, and defers to local "
              "electrical codes and to licensed "
              "practice for anything on the mains side.</p>"
              "<p>Free software under the GNU General Public License, version 3 or later. Text face made from "
              "Inter (SIL Open Font License 1.1).</p>")
          .arg(HIGH_ARC_VERSION));
}

void MainWindow::show_about_stage() {
  const StageSpec& stage = stages()[static_cast<std::size_t>(canvas_->currentIndex())];
  show_text("What this is: " + title_of(stage, arc::kind_of(document().design())),
            "<p>" + stage.about + "</p><p>F1 opens the guide at this stage.</p>");
}

void MainWindow::show_cautions() {
  const StageSpec& stage = stages()[static_cast<std::size_t>(canvas_->currentIndex())];
  QString items;
  for (const QString& caution : stage.cautions) items += "<li style='margin-bottom:6px'>" + caution + "</li>";
  show_text("Cautions: " + stage.title, "<ul>" + items + "</ul>");
}
