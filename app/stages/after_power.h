// What is done after power, in letters for the bench: the steps, and how long the slowest store still takes.
#pragma once

#include "base/workspace.h"
#include "stages/bench_list.h"

#include <QLabel>
#include <QTimer>
#include <QWidget>

class AfterPower : public QWidget {
  Q_OBJECT
 public:
  explicit AfterPower(Workspace& workspace, QWidget* parent = nullptr);
  /// The steps and stores of the present design.
  void refresh();
  /// Whether it is after power, and how far the wait is.
  void show_state();

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void count_down();
  QString waiting_words() const;

  Workspace& workspace_;
  QLabel* countdown_;
  QLabel* why_;
  BenchList* steps_;
  std::vector<QLabel*> lines_;
  std::optional<double> wait_s_; // by the slowest store; empty: nothing to wait for, or one does not discharge
  bool never_ = false;           // a store has no bleeder
  QTimer clock_;
};
