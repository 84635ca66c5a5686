// Rows from the table of figures.
#include "toolkit/figure_list.h"

#include "craft/kind.h"
#include "toolkit/common.h"
#include "toolkit/stage_fill.h"
#include "toolkit/why_sheet.h"
#include "workshop/moved_number.h"

#include <QContextMenuEvent>
#include <QHeaderView>
#include <QMenu>
#include <algorithm>

FigureList::FigureList(Workspace& workspace, const char* stage, const QString& name, QWidget* parent)
    : QTableWidget(parent), workspace_(workspace), stage_(stage) {
  style_figures_table(this, name);
  setAccessibleDescription("Enter on a figure says how it was computed");
  connect(this, &QTableWidget::cellActivated, this, [this](int row) { show_why_of(row); });
  horizontalHeader()->moveSection(1, 0); // the value, then what it is
  horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  more_ = new QPushButton(this);
  more_->setObjectName("more " + name);
  more_->setProperty("link", true);
  more_->setFont(type::font(type::caption, QFont::Medium));
  connect(more_, &QPushButton::clicked, this, &FigureList::toggle_all);
  setViewportMargins(0, 0, 0, below());
  if (stage_ == arc::at_rest_group) set_all(true);
}

void FigureList::toggle_all() {
  QWidget* stage = stage_of(*this);
  if (!stage) return;
  unfill_stage(*stage);
  set_all(!all_);
  if (!all_) return;
  fill_stage(*stage, *this);
  setFocus();
}

void FigureList::set_all(bool all) {
  all_ = all;
  fold();
}

bool FigureList::is_headline(int row) const {
  const auto place = static_cast<std::size_t>(row);
  return std::ranges::none_of(figures_, &arc::Figure::headline) ||
         (place < figures_.size() && figures_[place]->headline);
}

void FigureList::fold() {
  more_->setToolTip(all_ ? "Back to the stage (Ctrl+E)" : "All figures of this stage (Ctrl+E)");
  for (int row = 0; row < rowCount(); ++row) setRowHidden(row, false); // heights are those of rows that are seen
  resizeRowsToContents();
  heights_.clear();
  for (int row = 0; row < rowCount(); ++row) heights_.push_back(rowHeight(row));
  int headlines = 0, least = 0, places = 0;
  for (int row = 0; row < rowCount(); ++row) {
    if (!is_headline(row)) continue;
    headlines += rowHeight(row);
    if (++places <= least_rows) least = headlines;
  }
  const int around = 2 * frameWidth() + below();
  setMinimumHeight(all_ ? 0 : least + around);
  setMaximumHeight(all_ ? QWIDGETSIZE_MAX : headlines + around);
  setVerticalScrollBarPolicy(all_ ? Qt::ScrollBarAsNeeded : Qt::ScrollBarAlwaysOff);
  updateGeometry();
  show_rows();
}

int FigureList::below() const {
  return stage_ == arc::at_rest_group ? 0 : more_->sizeHint().height() + 2;
}

// Headlines as far as they fit, each whole.
void FigureList::show_rows() {
  int room = height() - 2 * frameWidth() - below();
  int hidden = 0;
  for (int row = 0; row < rowCount(); ++row) {
    const int takes = row < static_cast<int>(heights_.size()) ? heights_[static_cast<std::size_t>(row)] : 0;
    const bool seen = all_ || (is_headline(row) && takes <= room);
    if (seen) room -= takes;
    setRowHidden(row, !seen);
    hidden += seen ? 0 : 1;
  }
  if (currentRow() >= 0 && isRowHidden(currentRow())) setCurrentCell(-1, -1);
  more_->setVisible(below() > 0 && (hidden > 0 || all_));
  more_->setText(all_ ? QString("Headlines only") : QString("%1 more figures").arg(hidden));
  more_->setGeometry(8, height() - below() - 1, more_->sizeHint().width(), below());
}

QSize FigureList::sizeHint() const {
  constexpr int whole_stage = 4000, empty = 200;
  const int rows = maximumHeight() < QWIDGETSIZE_MAX ? maximumHeight() : empty;
  return {QTableWidget::sizeHint().width(), all_ ? whole_stage : rows};
}

void FigureList::resizeEvent(QResizeEvent* event) {
  QTableWidget::resizeEvent(event);
  show_rows();
}

std::optional<arc::PowerView> FigureList::view() const {
  const auto power = workspace_.document.power();
  const auto analysis = workspace_.document.analysis();
  if (analysis && stage_ == arc::at_rest_group) return arc::at_rest(workspace_.document.design(), *analysis);
  if (!power || !analysis) return {};
  return arc::PowerView{workspace_.document.design(), *analysis, *power};
}

std::vector<const arc::Figure*> FigureList::rows_of(const arc::Design& design) const {
  if (stage_ == arc::at_rest_group) return arc::figures_at_rest(arc::kind_of(design));
  std::vector<const arc::Figure*> out;
  for (const arc::Figure& figure : arc::figures_of(design))
    if (figure.needs == arc::Needs::power && arc::listed_on(figure, stage_)) out.push_back(&figure);
  return out;
}

void FigureList::refresh(const std::vector<std::pair<QString, QString>>& more) {
  figures_.clear();
  std::vector<std::pair<QString, QString>> told_rows;
  if (const auto seen = view()) {
    for (const arc::Figure* figure : rows_of(seen->design)) {
      const QString text = QString::fromStdString(arc::figure_text(*figure, *seen, workspace_.units()));
      if (text.isEmpty()) continue;
      told_rows.emplace_back(text_of(figure->row.empty() ? figure->title : figure->row), text);
      figures_.push_back(figure);
    }
  }
  const std::size_t told = told_rows.size();
  told_rows.insert(told_rows.end(), more.begin(), more.end());
  show_figures_in(this, told_rows);
  for (std::size_t r = 0; r < told; ++r)
    item(static_cast<int>(r), 0)->setToolTip(text_of(figures_[r]->title) + ": Enter or double click for why");
  fold();
}

QString FigureList::banded(const char* group, const char* key) const {
  const auto seen = view();
  if (!seen) return {};
  return QString::fromStdString(
      arc::banded_figure(arc::figure_of(seen->design, group, key), *seen, workspace_.units()));
}

QString FigureList::percent(const char* group, const char* key) const {
  const auto seen = view();
  if (!seen) return {};
  const auto share = arc::figure_share(arc::figure_of(seen->design, group, key), *seen);
  return share ? QString("%1 %").arg(100 * *share, 0, 'f', 0) : QString("–");
}

void FigureList::show_why_of(int row) {
  const auto seen = view();
  if (!seen || row < 0 || row >= static_cast<int>(figures_.size())) return;
  const arc::Figure& figure = *figures_[static_cast<std::size_t>(row)];
  const QString name = QString::fromStdString(arc::name_of(figure));
  show_why(this, text_of(figure.title), item(row, 1)->text(), {}, arc::explain(figure, *seen, workspace_.units()),
           {}, [this, name] { workspace_.solve_for(name); });
}

void FigureList::contextMenuEvent(QContextMenuEvent* event) {
  const int row = rowAt(event->pos().y());
  if (row < 0 || row >= static_cast<int>(figures_.size())) return;
  QMenu menu(this);
  menu.addAction("Why?", this, [this, row] { show_why_of(row); });
  menu.addAction("Make it a value…", this, [this, row] {
    workspace_.solve_for(QString::fromStdString(arc::name_of(*figures_[static_cast<std::size_t>(row)])));
  });
  menu.exec(event->globalPos());
}

void FigureList::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) return show_why_of(currentRow());
  QTableWidget::keyPressEvent(event);
}
