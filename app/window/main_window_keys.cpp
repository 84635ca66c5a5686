// The window by keyboard: the order in which Tab goes, groups, and the way to a finding's field.
#include "coil_views/tolerance_sheet.h"
#include "craft/kind.h"
#include "file/design_file.h"
#include "stages/first_fault_sheet.h"
#include "stages/stage.h"
#include "toolkit/common.h"
#include "toolkit/figure_list.h"
#include "toolkit/file_dialogs.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/spoken.h"
#include "toolkit/stage_fill.h"
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
#include <qcustomplot.h>

namespace {

bool copy_cells(const QAbstractItemView& table) {
  QModelIndexList cells = table.selectionModel() ? table.selectionModel()->selectedIndexes() : QModelIndexList();
  if (cells.isEmpty() && table.currentIndex().isValid()) cells << table.currentIndex();
  if (cells.isEmpty()) return false;
  std::sort(cells.begin(), cells.end());
  QString text;
  for (qsizetype i = 0; i < cells.size(); ++i) {
    if (i > 0) text += cells[i].row() == cells[i - 1].row() ? '\t' : '\n';
    text += cells[i].data().toString();
  }
  QApplication::clipboard()->setText(text);
  return true;
}

// The widgets that a layout holds, in the order of reading: a grid by rows.
void read_layout(QLayout& layout, std::vector<QWidget*>& out) {
  std::vector<std::pair<std::pair<int, int>, QLayoutItem*>> items;
  const auto* grid = qobject_cast<const QGridLayout*>(&layout);
  for (int i = 0; i < layout.count(); ++i) {
    int row = 0, column = i, rows = 1, columns = 1;
    if (grid) grid->getItemPosition(i, &row, &column, &rows, &columns);
    items.emplace_back(std::pair{row, column}, layout.itemAt(i));
  }
  std::ranges::stable_sort(items, {}, [](const auto& item) { return item.first; });
  for (const auto& [place, item] : items)
    if (item->widget())
      out.push_back(item->widget());
    else if (item->layout())
      read_layout(*item->layout(), out);
}

// What is seen below `w`, in the order in which it is read: as its layouts hold it, then what is placed by hand in
// the order of making.
void read_in_order(QWidget& w, std::vector<QWidget*>& out) {
  std::vector<QWidget*> below;
  if (w.layout()) read_layout(*w.layout(), below);
  for (QObject* child : w.children())
    if (auto* widget = qobject_cast<QWidget*>(child); widget && std::ranges::count(below, widget) == 0)
      below.push_back(widget);
  for (QWidget* widget : below) {
    if (widget->isHidden() || widget->isWindow()) continue;
    out.push_back(widget);
    read_in_order(*widget, out);
  }
}

} // namespace

// Some of the window's shortcuts are also editing keys of an entry line; there they would erase what stands in it.
bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
  // A table's chosen cells as text, wherever there is one.
  if (event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->matches(QKeySequence::Copy))
    if (const auto* table = qobject_cast<const QAbstractItemView*>(watched)) return copy_cells(*table);
  // Enter presses the button that has the cursor, as Space does, in the window and in every sheet.
  if (event->type() == QEvent::KeyPress)
    if (auto* button = qobject_cast<QAbstractButton*>(watched);
        button && button->hasFocus() && !button->property("own enter").toBool()) {
      const auto* key = static_cast<QKeyEvent*>(event);
      if ((key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) &&
          key->modifiers() != Qt::ControlModifier) {
        button->click();
        return true;
      }
    }
  if (event->type() != QEvent::ShortcutOverride) return QMainWindow::eventFilter(watched, event);
  const auto* key = static_cast<QKeyEvent*>(event);
  const bool ours = key->modifiers() == Qt::ControlModifier &&
                    (key->key() == Qt::Key_U || key->key() == Qt::Key_D || key->key() == Qt::Key_K);
  // Undo is of the letters while they are typed, of the design once they are taken.
  const auto* field = qobject_cast<const QuantityField*>(watched);
  const bool of_design =
      field && !field->being_typed() && (key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo));
  if (!ours && !of_design) return QMainWindow::eventFilter(watched, event);
  event->ignore();
  return true;
}

// Which part of the window a control stands in, in the order of reading.
int MainWindow::part_of(const QWidget* widget) const {
  const std::array<const QWidget*, 5> parts{strip_, rail_, canvas_, findings_, ruler_};
  for (std::size_t i = 0; i < parts.size(); ++i)
    if (parts[i] == widget || parts[i]->isAncestorOf(widget)) return static_cast<int>(i) + 1;
  return 0; // the top bar, and what is said below it
}

std::vector<QWidget*> MainWindow::tab_stops() const {
  const auto is_stop = [](const QWidget* w) {
    if (!(w->focusPolicy() & Qt::TabFocus) || !w->isEnabled()) return false;
    // Of buttons of which one is down, that one; arrow keys go to the others.
    const auto* button = qobject_cast<const QAbstractButton*>(w);
    if (button && button->isCheckable() && button->autoExclusive()) return button->isChecked();
    const QButtonGroup* group = button ? button->group() : nullptr;
    return !group || !group->exclusive() || !group->checkedButton() || group->checkedButton() == button;
  };
  std::vector<QWidget*> out;
  read_in_order(*centralWidget(), out);
  std::erase_if(out, std::not_fn(is_stop));
  return out;
}

bool MainWindow::focusNextPrevChild(bool next) {
  const std::vector<QWidget*> stops = tab_stops();
  if (stops.empty()) return false;
  const auto at = std::ranges::find(stops, QApplication::focusWidget());
  const auto count = static_cast<std::ptrdiff_t>(stops.size());
  // What has the cursor without being a stop (the canvas at the start): from the stage's first on.
  std::ptrdiff_t to =
      std::ranges::find_if(stops, [this](const QWidget* w) { return canvas_->isAncestorOf(w); }) - stops.begin();
  if (at != stops.end()) to = at - stops.begin() + (next ? 1 : count - 1);
  stops[static_cast<std::size_t>(to % count)]->setFocus(next ? Qt::TabFocusReason : Qt::BacktabFocusReason);
  return true;
}

std::vector<std::size_t> MainWindow::group_starts(const std::vector<QWidget*>& stops) const {
  enum class Sort { entry, button, reading, tick, list, drawing };
  const auto sort_of = [](const QWidget* w) {
    if (qobject_cast<const QLineEdit*>(w) || qobject_cast<const QComboBox*>(w)) return Sort::entry;
    if (qobject_cast<const ReadingButton*>(w)) return Sort::reading;
    if (qobject_cast<const QCheckBox*>(w)) return Sort::tick;
    if (qobject_cast<const QAbstractButton*>(w)) return Sort::button;
    if (qobject_cast<const QAbstractItemView*>(w)) return Sort::list;
    return Sort::drawing;
  };
  constexpr std::size_t longest = 6;
  std::vector<std::size_t> out;
  for (std::size_t i = 0; i < stops.size(); ++i)
    if (i == 0 || sort_of(stops[i]) != sort_of(stops[i - 1]) || part_of(stops[i]) != part_of(stops[i - 1]) ||
        i - out.back() >= longest)
      out.push_back(i);
  return out;
}

// To the first control of the stage.
void MainWindow::enter_stage() {
  const QWidget* stage = canvas_->currentWidget();
  for (QWidget* w : tab_stops())
    if (stage->isAncestorOf(w)) return w->setFocus(Qt::TabFocusReason);
  canvas_->setFocus();
}

void MainWindow::jump_group(bool forward) {
  const std::vector<QWidget*> stops = tab_stops();
  const std::vector<std::size_t> starts = group_starts(stops);
  if (starts.empty()) return;
  const auto at = static_cast<std::size_t>(std::ranges::find(stops, QApplication::focusWidget()) - stops.begin());
  std::size_t to = forward ? starts.front() : starts.back();
  if (at < stops.size()) {
    if (const auto next = std::ranges::upper_bound(starts, at); forward && next != starts.end()) to = *next;
    if (const auto here = std::ranges::lower_bound(starts, at); !forward && here != starts.begin())
      to = *std::prev(here);
  }
  stops[to]->setFocus(forward ? Qt::TabFocusReason : Qt::BacktabFocusReason);
}

void MainWindow::go_to(const QString& stage, const QString& field) {
  for (std::size_t i = 0; i < stages().size(); ++i) {
    if (stages()[i].key != stage) continue;
    // A field may stand on another stage than the finding's (the room's on Primary): take the first that has it.
    int target = static_cast<int>(i);
    const auto seek = [&](int index) { // on a stage that this kind of coil has
      const bool here = belongs_to(stages()[static_cast<std::size_t>(index)], arc::kind_of(document().design()));
      if (!here || field.isEmpty()) return static_cast<QWidget*>(nullptr);
      if (auto* stands = page(index)->findChild<QWidget*>(field)) return stands;
      for (QPushButton* button : page(index)->findChildren<QPushButton*>())
        if (button->property(opens_fields).toStringList().contains(field)) {
          button->click();
          return page(index)->findChild<QWidget*>(field);
        }
      return static_cast<QWidget*>(nullptr);
    };
    QWidget* found = seek(target);
    for (int other = 0; !found && other < canvas_->count(); ++other)
      if ((found = seek(other))) target = other;
    show_stage(target);
    if (!found && !field.isEmpty()) found = page(target)->findChild<QWidget*>(field); // made when shown
    if (found) {
      if (found->window() != this) found->window()->show(); // the field stands in a sheet
      found->setFocus(Qt::ShortcutFocusReason);
      for (QWidget* up = found->parentWidget(); up; up = up->parentWidget())
        if (auto* area = qobject_cast<QScrollArea*>(up)) area->ensureWidgetVisible(found);
    } else
      page(target)->setFocus();
  }
}

// The plot that has the cursor, or the first that is seen.
void MainWindow::fill_with_plot() {
  QWidget& stage = *canvas_->currentWidget();
  if (is_filled(stage)) {
    for (auto* list : stage.findChildren<FigureList*>())
      if (list->isVisible() && list->shows_all()) return list->toggle_all();
    return unfill_stage(stage);
  }
  QCustomPlot* plot = qobject_cast<QCustomPlot*>(QApplication::focusWidget());
  if (!plot || !stage.isAncestorOf(plot)) {
    const auto plots = stage.findChildren<QCustomPlot*>();
    const auto seen = std::ranges::find_if(plots, [](const QCustomPlot* p) { return p->isVisible(); });
    plot = seen == plots.end() ? nullptr : *seen;
  }
  if (!plot) return notify("This stage has no plot.");
  fill_stage(stage, *plot);
  plot->setFocus();
}

void MainWindow::show_all_figures() {
  QWidget& stage = *canvas_->currentWidget();
  const auto lists = stage.findChildren<FigureList*>();
  for (FigureList* list : lists)
    if (list->isVisible()) return list->toggle_all();
  if (auto* button = stage.findChild<QPushButton*>("all figures"); button && button->isVisible())
    return button->click();
  notify("This stage has no more figures.");
}
