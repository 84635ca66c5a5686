// The banner over Fire: the state in a word, and what comes next.
#pragma once

#include "base/workspace.h"

#include <QWidget>

/// Says whether it is armed in letters readable from the bench, by word, shape and colour. Both lines are seen
/// whole in any width.
class StateBanner : public QWidget {
 public:
  StateBanner(Workspace& workspace, QWidget* parent);
  void set_state(const QString& word, const QString& detail, bool armed);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  Workspace& workspace_;
  QString word_;
  QString detail_;
  bool armed_ = false;
};
