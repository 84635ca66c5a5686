// What stands below the strip of blocks: what the path does, by what it ends in. Shows the document's simulation;
// computes nothing.
#pragma once

#include "base/workspace.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"

#include <QVBoxLayout>
#include <QWidget>

class FeedView : public QWidget {
 public:
  FeedView(Workspace& workspace, const StageHead& head, QWidget* parent)
      : QWidget(parent), workspace_(workspace), head_(head), column_(new QVBoxLayout(this)) {
    column_->setContentsMargins(0, 0, 0, 0);
    column_->setSpacing(space::small);
  }
  /// Brings itself and the stage's head up to date.
  virtual void refresh() = 0;

 protected:
  void say_nothing_yet() {
    head_.verdict->setText("Being simulated…");
    head_.reason->clear();
  }
  /// What belongs to the design as it was before the last edits is greyed.
  void show_age(QWidget* part) {
    for (QWidget* each : {part, static_cast<QWidget*>(head_.verdict), static_cast<QWidget*>(head_.reason)})
      grey_while_stale(workspace_, each);
  }
  /// "The breaker holds, at 18 % of its rating."; empty without one.
  QString breaker_words(const arc::FeedLoads& loads) const;

  Workspace& workspace_;
  const Print print{workspace_};
  StageHead head_;
  QVBoxLayout* column_;
};
