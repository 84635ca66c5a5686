// Three steps to a first coil, offered above an untouched design until they are walked or skipped.
#pragma once

#include "base/workspace.h"
#include "toolkit/strip.h"

class FirstSteps : public Strip {
  Q_OBJECT
 public:
  explicit FirstSteps(Workspace& workspace, QWidget* parent = nullptr);

  /// Shows the first step.
  void begin();

 Q_SIGNALS:
  void ended(); // walked to the end, or skipped: they need not be offered again

 private:
  struct Step {
    QString text;
    QString stage;
    QString field;
  };
  Step step() const;
  void show_step();
  void go_on();
  void end();

  Workspace& workspace_;
  int at_ = 0;
  QPushButton* next_ = nullptr;
};
