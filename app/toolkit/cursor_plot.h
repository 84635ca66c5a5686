// A plot that can be read at one place: a line across it follows the pointer or the arrow keys.
#pragma once

#include "base/workspace.h"
#include "toolkit/spoken.h"

#include <qcustomplot.h>

class CursorPlot : public QCustomPlot, public SpokenDrawing {
  Q_OBJECT
 public:
  /// `name` is its object name, `words` what a screen reader says.
  CursorPlot(Workspace& workspace, const QString& name, const QString& words, QWidget* parent = nullptr);

  /// Puts the line at `x` of the horizontal axis and tells nobody.
  void set_cursor(double x);
  void hide_cursor();
  double cursor() const;
  /// How much of the horizontal axis matters by itself, one mains cycle: C shows as much around the line, and once
  /// more everything. 0: nothing does.
  void set_cycle(double width);
  QString readings() const override { return plot_readings(*this); }
  QString at_cursor() const override;

 Q_SIGNALS:
  void cursor_moved(double x);
  /// Double click, Home: everything is to be seen again.
  void whole_wanted();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

  Workspace& workspace_;

 private:
  void move_cursor(double x);
  void show_cycle();

  QCPItemStraightLine* line_;
  double cycle_ = 0;
};
