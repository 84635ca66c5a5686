// Small things that several views need: text from the core, quantities in the builder's units, tables in one look.
#pragma once

#include "base/workspace.h"

#include <QComboBox>
#include <QDialog>
#include <QFrame>
#include <QGridLayout>
#include <QLabel>
#include <QLayout>
#include <QPushButton>
#include <QString>
#include <QTableWidget>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

QString text_of(std::string_view view);

/// A quantity as shown everywhere in the window.
QString quantity_text(double si, arc::Dimension dimension, arc::UnitSystem units, int digits = 4);
/// The same in the units of a workspace, for sentences: `const Print print{workspace};`, then print(0.12, length).
struct Print {
  const Workspace& workspace;
  QString operator()(double si, arc::Dimension dimension, int digits = 3) const;
};

/// The same with "± 21" in its unit, when a band of that key is known.
QString banded_text(double si, arc::Dimension dimension, arc::UnitSystem units,
                    const std::map<std::string, double>& bands, const char* key);

/// A read-only table whose rows are selected whole; `name` is its object and accessible name.
QTableWidget* make_table(QWidget* parent, const QString& name, const QStringList& heads);

/// The look of such a table, for one whose rows come from a model; it has its model already.
void style_table(QTableView* table, const QString& name);

/// A hairline between two groups of fields that stand side by side.
QFrame* vertical_rule(QWidget* parent);

/// Texts of a table's row, in the order of its columns; items that are there keep their place.
void set_row(QTableWidget* table, int row, const QStringList& cells);

/// Keeps the box wide enough for the longest of its choices.
void keep_words(QComboBox* box);

/// Gives a table's column of words what the others leave, and its rows the lines that the words take there.
void wrap_column(QTableWidget* table, int words);

/// A small table of names and values beside a plot; `name` is its object name.
QTableWidget* make_figures_table(QWidget* parent, const QString& name);
/// Makes one of an empty table.
void style_figures_table(QTableWidget* table, const QString& name);
/// Its rows; each cell says its text in full when pointed at.
void show_figures_in(QTableWidget* table, const std::vector<std::pair<QString, QString>>& rows);

/// A button of a sheet: Enter belongs to the fields, never to it.
template <typename Sheet, typename Action>
QPushButton* add_sheet_button(Sheet* sheet, QLayout* row, const QString& name, const QString& text, Action action) {
  auto* button = new QPushButton(text, sheet);
  button->setObjectName(name);
  button->setAutoDefault(false);
  QObject::connect(button, &QPushButton::clicked, sheet, action);
  row->addWidget(button);
  return button;
}

/// What stands at the top of a stage that computes: the verdict as a heading, the reason below it.
struct StageHead {
  QLabel* verdict;
  QLabel* reason;
};
/// `name` is the start of both object names: "feed" makes "feed verdict" and "feed reason".
StageHead make_stage_head(const QString& name, QWidget* parent);

/// What the bands beside it leave out, as a sentence to add: " Within tolerances it may …, or …."; empty without
/// any.
QString within_tolerances(const QStringList& courses);
/// The course of another pole, when there is one.
QStringList other_pole_course(const std::optional<double>& other_pole_hz, arc::UnitSystem units);

/// The size of a sheet whose tables and texts have more to show in a larger window: `least`, and up to half as much
/// again in either direction where four fifths of the parent's window leave room for it.
void open_large(QDialog& sheet, QSize least);

/// A small grey label.
QLabel* caption_label(const QString& text, QWidget* parent);

/// A widget under its caption, as the fields of a panel.
QWidget* captioned(const QString& caption, QWidget* widget, QWidget* parent);

/// Lets a panel's grid of `columns` equal columns grow with the window as far as fields still read as one group;
/// what is more stands behind them. `keep_together` for each box put into it.
void stop_columns(QGridLayout* grid, int columns);
void keep_together(QWidget* box);
