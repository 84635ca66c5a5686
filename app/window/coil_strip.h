// The strip of the whole coil above every stage: six figures, the same places for every kind. Each is a link to its
// "why", from there to the stage that shows it; the last goes to the findings.
#pragma once

#include "base/workspace.h"
#include "simulation/strip.h"

#include <QWidget>
#include <vector>

class StripButton;

class CoilStrip : public QWidget {
  Q_OBJECT
 public:
  explicit CoilStrip(Workspace& workspace, QWidget* parent = nullptr);

 Q_SIGNALS:
  void findings_requested();

 private:
  arc::PowerView view(const arc::Analysis& analysis) const;
  void refresh();
  void press(std::size_t place);

  Workspace& workspace_;
  std::vector<StripButton*> buttons_;
};
