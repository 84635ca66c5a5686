// The order of work on the left: one entry for each stage with a mark for untouched, has findings, settled.
#pragma once

#include "base/workspace.h"

#include <QAbstractButton>
#include <QWidget>
#include <vector>

class StageRail : public QWidget {
  Q_OBJECT
 public:
  explicit StageRail(Workspace& workspace, QWidget* parent = nullptr);
  void set_current(int index);
  /// The stages of the design's kind, under the names they have there.
  void show_kind();

 Q_SIGNALS:
  void chosen(int index);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  Workspace& workspace_;
  std::vector<QAbstractButton*> entries_;
};
