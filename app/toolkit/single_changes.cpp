// Table and button.
#include "toolkit/single_changes.h"

#include "toolkit/common.h"
#include "toolkit/text.h"

#include <QHeaderView>
#include <QVBoxLayout>

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

void SingleChanges::show(const std::vector<arc::TriedChange>& changes) {
  changes_ = changes;
  table_->setRowCount(static_cast<int>(changes_.size()));
  for (int r = 0; r < table_->rowCount(); ++r) {
    const arc::TriedChange& change = changes_[static_cast<std::size_t>(r)];
    QString title = QString::fromStdString(change.title);
    if (!change.stop.empty()) title += "\nStop: " + QString::fromStdString(change.stop);
    set_row(table_, r, {title, QString::fromStdString(change.gain_text())});
    if (!change.stop.empty()) table_->item(r, 0)->setForeground(workspace_.theme().stop);
    table_->item(r, 1)->setToolTip(QString::fromStdString(change.ratios_text()));
    const bool better = change.merit >= arc::least_gain;
    table_->item(r, 1)->setForeground(better ? workspace_.theme().settled : workspace_.theme().second);
  }
  refresh();
}

void SingleChanges::refresh() {
  const bool chosen = table_->currentRow() >= 0 && table_->currentRow() < static_cast<int>(changes_.size());
  const bool current = workspace_.document.power_is_current();
  const arc::TriedChange* change = chosen ? &changes_[static_cast<std::size_t>(table_->currentRow())] : nullptr;
  const bool stops = change && !change->offered;
  make_->setEnabled(chosen && current && !stops);
  make_->setToolTip(!chosen    ? "Choose a change first"
                    : !current ? "Updating for the changed design"
                    : stops
                        ? change->stop.empty() ? "It betters nothing here" : "It would bring a stop: see its line"
                        : "Can be undone");
  table_->setEnabled(current);
}

void SingleChanges::make() {
  const int row = table_->currentRow();
  if (!workspace_.document.power_is_current() || row < 0 || row >= static_cast<int>(changes_.size())) return;
  const arc::TriedChange chosen = changes_[static_cast<std::size_t>(row)]; // the edit brings new ones
  if (chosen.offered) workspace_.document.edit(QString::fromStdString(chosen.title), chosen.apply);
}
