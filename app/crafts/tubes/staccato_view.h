// Staccato over the supply: the wave that swings, the gate's pulses as they are asked, and below them when the
// thyristor really conducts, with the top volts that come of it. Dragging the first pulse, or the arrow keys, moves
// the phase (locked) or the rate.
#pragma once

#include "base/workspace.h"
#include "crafts/tubes/tube.h"
#include "toolkit/spoken.h"

#include <QWidget>
#include <memory>

class StaccatoView : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  explicit StaccatoView(Workspace& workspace, QWidget* parent = nullptr);
  void show(std::shared_ptr<const arc::TubePower> tube);
  QString readings() const override;

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  double shown_s() const;
  double x_of(double time_s) const;
  double first_s() const;
  void set_first(double seconds, const QString& gesture);
  bool over_grip(QPointF place) const;
  void paint_waves(QPainter& painter, const QRectF& area) const;
  void paint_asked(QPainter& painter, const QRectF& asked) const;
  void paint_times(QPainter& painter, const QRectF& asked) const;

  Workspace& workspace_;
  std::shared_ptr<const arc::TubePower> tube_;
  bool held_ = false, over_ = false;
  int gesture_ = 0;
};
