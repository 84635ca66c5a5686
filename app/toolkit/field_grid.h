// A panel's fields, in rows of equal columns, in the order in which they are put.
#pragma once

#include "base/workspace.h"
#include "toolkit/choice_box.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"

#include <QGridLayout>
#include <QWidget>

class FieldGrid {
 public:
  FieldGrid(Workspace& workspace, QWidget* panel, int across)
      : workspace_(workspace), panel_(panel), grid_(new QGridLayout(panel)), across_(across) {
    set_margins(space::large, 8);
    grid_->setHorizontalSpacing(space::small);
    set_spacing(4);
    stop_columns(grid_, across);
  }

  /// Beside the fields, and above and below them, pixels.
  void set_margins(int beside, int above) { grid_->setContentsMargins(beside, above, beside, above); }
  /// Between rows, pixels.
  void set_spacing(int rows) { grid_->setVerticalSpacing(rows); }

  void put(QWidget* widget) {
    keep_together(widget);
    grid_->addWidget(widget, place_ / across_, place_ % across_, Qt::AlignTop);
    ++place_;
  }
  void put(const QString& caption, QWidget* widget) { put(captioned(caption, widget, panel_)); }
  /// Over some of the row's columns.
  void put_wide(QLayout* layout, int columns) {
    grid_->addLayout(layout, place_ / across_, place_ % across_, 1, columns);
    place_ += columns;
  }
  /// A number of the design, by its key.
  QuantityField* number(std::string_view key) {
    QuantityField* field = make_design_field(workspace_, key, panel_);
    put(labelled(field, panel_));
    return field;
  }
  /// A choice of the design, as wide as its longest words.
  ChoiceBox* choice(const QString& caption, std::string_view key) {
    auto* box = whole_choice(workspace_, key, panel_);
    put(caption, box);
    return box;
  }
  QWidget* panel() const { return panel_; }

 private:
  Workspace& workspace_;
  QWidget* panel_;
  QGridLayout* grid_;
  int across_, place_ = 0;
};
