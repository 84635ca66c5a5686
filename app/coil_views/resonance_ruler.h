// The resonance ruler along the bottom: one logarithmic frequency scale with the resonator and its band, its place
// with arcs, the tank at its clip, and what was measured. Dragging the tank mark moves the clip or the capacitance.
#pragma once

#include "base/workspace.h"
#include "toolkit/spoken.h"

#include <QWidget>
#include <functional>
#include <vector>

class ResonanceRuler : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  struct Span {
    double low, high;
  };
  /// Where a text of that width begins: beside `mark`, on either side, as near as it can be without lying on what
  /// is taken or leaving the room. All in pixels.
  static double beside(double mark, double width, Span room, std::vector<Span> taken);

  enum class Follows { clip, capacitance };

  explicit ResonanceRuler(Workspace& workspace, QWidget* parent = nullptr);
  QSize sizeHint() const override { return {800, 98}; }
  void set_follows(Follows follows);
  Follows follows() const { return follows_; }
  /// Tunes the tank to `hz` by the clip or the capacitance; false when no clip reaches it.
  bool tune_to(double hz, const QString& gesture);
  QPointF tank_place() const;
  /// What is drawn, in words: the coil with its band, its place with arcs, the tank and what was measured.
  QString readings() const override;
  bool has_tank() const;
  double driven_hz() const; // 0 where nothing is simulated
  void paint_driven(QPainter& painter, const std::function<double(double, double)>& place);

 Q_SIGNALS:
  void follows_changed();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void choose_span();
  double x_of(double hz) const;
  double hz_of(double x) const;
  QString offset_sentence() const;
  std::vector<double> poles_hz() const; // of the latest simulation; empty below two
  QString poles_sentence() const;
  void paint_poles(QPainter& painter);
  void paint_scale(QPainter& painter);
  void paint_coil(QPainter& painter, const arc::Analysis& analysis, std::vector<Span>& taken);
  void paint_measured(QPainter& painter, std::vector<Span>& taken);
  void paint_tank(QPainter& painter, const arc::Analysis& analysis, std::vector<Span>& taken);

  Workspace& workspace_;
  Follows follows_ = Follows::clip;
  double low_hz_ = 80e3;
  double high_hz_ = 180e3;
  bool dragging_ = false;
  bool hover_ = false;
  int gesture_ = 0;
};
