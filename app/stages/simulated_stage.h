// What stages that show a simulation have in common: heading and reason above, a column for what follows, a side of
// fixed width, and being brought up to date when shown and when the simulation, the units or the theme change.
// Shows the document's simulation; computes nothing.
#pragma once

#include "base/workspace.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/stage_fill.h"

#include <QResizeEvent>
#include <QShowEvent>
#include <QVBoxLayout>
#include <QWidget>
#include <initializer_list>

class SimulatedStage : public QWidget {
 protected:
  /// `name` is its object name, `head` the start of its heading's where that differs.
  SimulatedStage(Workspace& workspace, const char* name, QWidget* parent, const char* head = nullptr)
      : QWidget(parent), workspace_(workspace), column_(new QVBoxLayout(this)), upper_(new QVBoxLayout) {
    setObjectName(name);
    column_->setContentsMargins(0, 0, 0, 0);
    column_->setSpacing(0);
    upper_->setContentsMargins(space::large, 12, space::medium, space::small);
    upper_->setSpacing(space::hair);
    head_ = make_stage_head(head ? head : name, this);
    upper_->addWidget(head_.verdict);
    upper_->addWidget(head_.reason);
    column_->addLayout(upper_, 1);
    const auto up_to_date = [this] { refresh(); };
    connect(&workspace.document, &Document::power_changed, this, up_to_date);
    connect(&workspace.document, &Document::units_changed, this, up_to_date);
    connect(&workspace, &Workspace::theme_changed, this, up_to_date);
  }

  /// Everything, from the document's latest simulation; costs nothing while the stage is not seen.
  virtual void refresh() = 0;

  /// Its width in a narrow stage and otherwise.
  void set_side(QWidget* side, int narrow = 226, int wide = 272) {
    side_ = side;
    side_narrow_ = narrow;
    side_wide_ = wide;
  }

  /// What belongs to the design as it was before the last edits is greyed.
  void show_age(std::initializer_list<QWidget*> parts) {
    for (QWidget* part : parts) grey_while_stale(workspace_, part);
  }

  void showEvent(QShowEvent* event) override {
    QWidget::showEvent(event);
    refresh();
  }
  void resizeEvent(QResizeEvent* event) override {
    QWidget::resizeEvent(event);
    constexpr int narrow_stage = 700;
    if (side_ && !is_filled(*this)) side_->setFixedWidth(width() < narrow_stage ? side_narrow_ : side_wide_);
  }

  Workspace& workspace_;
  const Print print{workspace_};
  QVBoxLayout *column_, *upper_; // the whole stage; what stands above its panel
  StageHead head_{};
  QWidget* side_ = nullptr;

 private:
  int side_narrow_ = 0, side_wide_ = 0;
};
