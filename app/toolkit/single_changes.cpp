// Table and button.
#include "toolkit/single_changes.h"

#include "toolkit/common.h"
#include "toolkit/text.h"

#include <QHeaderView>
#include <QVBoxLayout>
#include <cmath>

SingleChanges::SingleChanges(Workspace& workspace, const QString& title, const QString& table,
                             const QString& button, QWidget* parent)
    : QWidget(parent), workspace_(workspace) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(4);
  auto* heading = make_text(title, this);
  heading->setFont(type::font(type::caption, QFont::DemiBold));
  heading->setWordWrap(true);
  heading->setMinimumHeight(heading->fontMetrics().lineSpacing());
  column->addWidget(heading);
  table_ = make_table(this, table, {"Change", "Gain"});
  table_->horizontalHeader()->hide();
  table_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
  table_->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->setWordWrap(true);
  table_->setFont(type::font(type::caption));
  connect(table_, &QTableWidget::itemSelectionChanged, this, &SingleChanges::refresh);
  column->addWidget(table_, 1);
  make_ = new QPushButton("Make this change", this);
  make_->setObjectName(button);
  connect(make_, &QPushButton::clicked, this, &SingleChanges::make);
  column->addWidget(make_);
}

void SingleChanges::show_rows(std::vector<Row> rows) {
  rows_ = std::move(rows);
  table_->setRowCount(static_cast<int>(rows_.size()));
  for (int r = 0; r < table_->rowCount(); ++r) {
    const Row& row = rows_[static_cast<std::size_t>(r)];
    set_row(table_, r, {row.stop.isEmpty() ? row.title : row.title + "\nStop: " + row.stop, row.gain});
    if (!row.stop.isEmpty()) table_->item(r, 0)->setForeground(workspace_.theme().stop);
    table_->item(r, 1)->setToolTip(row.more);
    table_->item(r, 1)->setForeground(row.better ? workspace_.theme().settled : workspace_.theme().second);
  }
  refresh();
}

void SingleChanges::refresh() {
  const bool chosen = table_->currentRow() >= 0 && table_->currentRow() < static_cast<int>(rows_.size());
  const bool current = workspace_.document.power_is_current();
  const Row* row = chosen ? &rows_[static_cast<std::size_t>(table_->currentRow())] : nullptr;
  const bool stops = row && !row->apply;
  make_->setEnabled(chosen && current && !stops);
  make_->setToolTip(!chosen    ? "Choose a change first"
                    : !current ? "Being computed anew for the changed design"
                    : stops
                        ? row->stop.isEmpty() ? "It betters nothing here" : "It would bring a stop: see its line"
                        : "Can be undone");
  table_->setEnabled(current);
}

void SingleChanges::make() {
  const int row = table_->currentRow();
  if (!workspace_.document.power_is_current() || row < 0 || row >= static_cast<int>(rows_.size())) return;
  if (!rows_[static_cast<std::size_t>(row)].apply) return;
  const Row chosen = rows_[static_cast<std::size_t>(row)]; // the edit brings new rows
  workspace_.document.edit(chosen.title, chosen.apply);
}

QString gain_text(double ratio) {
  const double gain = 100 * (ratio - 1);
  return QString("%1%2 %").arg(gain >= 0 ? "+" : "−").arg(std::abs(gain), 0, 'f', 1);
}
