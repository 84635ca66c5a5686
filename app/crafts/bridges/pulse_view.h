// Bursts on the mains' time axis, and one of them enlarged: rate and phase are dragged at a burst above, the
// on-time at the edge of the one below. What is asked and what the limits leave are both drawn.
#pragma once

#include "base/workspace.h"
#include "crafts/bridges/bridge.h"
#include "toolkit/spoken.h"

#include <QWidget>
#include <memory>

class PulseView : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  explicit PulseView(Workspace& workspace, QWidget* parent = nullptr);
  void show(std::shared_ptr<const arc::BridgeAnalysis> bridge);
  void set_cycles(int mains_cycles);
  QString readings() const override;
  /// Places of the edge and of the second burst, for tests and tool tips.
  QPointF edge_place() const;
  QPointF burst_place() const;

 Q_SIGNALS:
  void said(const QString& words);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  QSize sizeHint() const override { return {640, 360}; }

 private:
  enum class Grip { none, burst, edge };
  QRectF train() const;
  QRectF single() const;
  double train_s() const;  // shown above
  double single_s() const; // shown below
  Grip grip_at(QPointF place) const;
  void set_on_time(double seconds, const QString& gesture);
  void set_start(double seconds, const QString& gesture);
  void say_limits();
  void draw_train(QPainter& painter) const;
  void draw_single(QPainter& painter) const;

  Workspace& workspace_;
  std::shared_ptr<const arc::BridgeAnalysis> bridge_;
  arc::PulsePlan plan_;
  int cycles_ = 4;
  Grip held_ = Grip::none, over_ = Grip::none;
  int gesture_ = 0;
  double single_held_s_ = 0; // the scale below stays while its edge is held
};
