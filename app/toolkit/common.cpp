// Shared small things; described in the header.
#include "toolkit/common.h"

#include "base/workspace.h"

#include "toolkit/number_columns.h"
#include "toolkit/text.h"
#include "toolkit/whole_rows.h"

#include <QHeaderView>
#include <QVBoxLayout>
#include <algorithm>

QString text_of(std::string_view view) {
  return QString::fromUtf8(view.data(), static_cast<qsizetype>(view.size()));
}

QString quantity_text(double si, arc::Dimension dimension, arc::UnitSystem units, int digits) {
  return QString::fromStdString(arc::format_quantity(si, dimension, units, digits));
}

QString Print::operator()(double si, arc::Dimension dimension, int digits) const {
  return quantity_text(si, dimension, workspace.units(), digits);
}

QString banded_text(double si, arc::Dimension dimension, arc::UnitSystem units,
                    const std::map<std::string, double>& bands, const char* key) {
  const auto band = bands.find(key);
  if (band == bands.end()) return quantity_text(si, dimension, units, 3);
  const arc::BandedText text = arc::format_banded(si, band->second, dimension, units, 4);
  return QString::fromStdString(text.value + (text.band.empty() ? "" : " " + text.band));
}

QTableWidget* make_table(QWidget* parent, const QString& name, const QStringList& heads) {
  auto* table = new QTableWidget(0, static_cast<int>(heads.size()), parent);
  table->setHorizontalHeaderLabels(heads);
  style_table(table, name);
  return table;
}

void style_table(QTableView* table, const QString& name) {
  table->setObjectName(name);
  table->setAccessibleName(name);
  table->verticalHeader()->hide();
  table->verticalHeader()->setDefaultSectionSize(24);
  table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table->horizontalHeader()->setHighlightSections(false);
  table->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table->setSelectionBehavior(QAbstractItemView::SelectRows);
  table->setSelectionMode(QAbstractItemView::SingleSelection);
  table->setShowGrid(false);
  table->setTabKeyNavigation(false); // Tab leaves the table
  align_numbers(table);
  show_whole_rows(table);
}

void set_row(QTableWidget* table, int row, const QStringList& cells) {
  for (int c = 0; c < cells.size(); ++c) {
    if (!table->item(row, c)) table->setItem(row, c, new QTableWidgetItem);
    table->item(row, c)->setText(cells[c]);
  }
}

void wrap_column(QTableWidget* table, int words) {
  table->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table->horizontalHeader()->setSectionResizeMode(words, QHeaderView::Stretch);
  table->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
}

void keep_words(QComboBox* box) {
  int longest = 0;
  for (int i = 0; i < box->count(); ++i)
    longest = std::max(longest, box->fontMetrics().horizontalAdvance(box->itemText(i)));
  constexpr int frame_and_arrow = 36;
  box->setMinimumWidth(longest + frame_and_arrow);
}

QTableWidget* make_figures_table(QWidget* parent, const QString& name) {
  auto* table = new QTableWidget(parent);
  style_figures_table(table, name);
  return table;
}

void style_figures_table(QTableWidget* table, const QString& name) {
  table->setColumnCount(2);
  table->setHorizontalHeaderLabels({"Figure", "Value"});
  style_table(table, name);
  table->horizontalHeader()->hide();
  table->horizontalHeader()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
  table->verticalHeader()->setMinimumSectionSize(21);
  table->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);   // a long name takes two lines
  table->verticalHeader()->setStyleSheet("QHeaderView::section { padding: 0; }"); // hidden, but it is measured
  table->verticalHeader()->setFont(type::font(type::caption));
  table->setFont(type::font(type::caption));
}

void show_figures_in(QTableWidget* table, const std::vector<std::pair<QString, QString>>& rows) {
  table->setRowCount(static_cast<int>(rows.size()));
  for (int r = 0; r < table->rowCount(); ++r) {
    const auto& [name, value] = rows[static_cast<std::size_t>(r)];
    set_row(table, r, {name, value});
    table->item(r, 0)->setToolTip(name);
    table->item(r, 1)->setToolTip(value);
  }
}

StageHead make_stage_head(const QString& name, QWidget* parent) {
  auto* verdict = make_text(parent);
  verdict->setObjectName(name + " verdict");
  verdict->setFont(type::font(type::heading, QFont::DemiBold));
  QLabel* reason = caption_label({}, parent);
  reason->setObjectName(name + " reason");
  reason->setWordWrap(true);
  return {verdict, reason};
}

QFrame* vertical_rule(QWidget* parent) {
  auto* line = new QFrame(parent);
  line->setProperty("rule", true);
  line->setFixedWidth(1);
  return line;
}

QString within_tolerances(const QStringList& courses) {
  return courses.isEmpty() ? QString() : " Within tolerances it may " + courses.join(", or ") + ".";
}

QStringList other_pole_course(const std::optional<double>& other_pole_hz, arc::UnitSystem units) {
  if (!other_pole_hz) return {};
  return {"take its other pole, near " + quantity_text(*other_pole_hz, arc::Dimension::frequency, units, 3)};
}

void open_large(QDialog& sheet, QSize least) {
  const QWidget* parent = sheet.parentWidget() ? sheet.parentWidget()->window() : nullptr;
  const QSize room = parent ? parent->size() * 4 / 5 : least;
  sheet.resize(least.expandedTo(room.boundedTo(least * 3 / 2)));
}

QLabel* caption_label(const QString& text, QWidget* parent) {
  auto* label = make_text(text, parent);
  label->setProperty("caption", true);
  label->setFont(type::font(type::caption));
  return label;
}

void stop_columns(QGridLayout* grid, int columns) {
  for (int i = 0; i < columns; ++i) grid->setColumnStretch(i, 1);
  grid->addItem(new QSpacerItem(0, 0, QSizePolicy::Expanding, QSizePolicy::Minimum), 0, columns);
}

void keep_together(QWidget* box) {
  constexpr int widest = 176;
  box->setMaximumWidth(std::max(widest, box->sizeHint().width()));
}

QWidget* captioned(const QString& caption, QWidget* widget, QWidget* parent) {
  auto* box = new QWidget(parent);
  auto* column = new QVBoxLayout(box);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  QLabel* label = caption_label(caption, box);
  label->setBuddy(widget);
  column->addWidget(label);
  column->addWidget(widget);
  return box;
}
