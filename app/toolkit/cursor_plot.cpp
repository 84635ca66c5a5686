// The line is on a layer of its own, so that moving it does not draw the curves anew.
#include "toolkit/cursor_plot.h"

#include "toolkit/aged.h"
#include "toolkit/plot.h"

#include <QKeyEvent>
#include <algorithm>

CursorPlot::CursorPlot(Workspace& workspace, const QString& name, const QString& words, QWidget* parent)
    : QCustomPlot(parent), workspace_(workspace) {
  setObjectName(name);
  setAccessibleName(words);
  setFocusPolicy(Qt::StrongFocus);
  setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  axisRect()->setRangeDrag(Qt::Horizontal);
  axisRect()->setRangeZoom(Qt::Horizontal);
  setToolTip("Pointer or arrow keys read it (Shift: faster); drag, wheel, + and − look closer, double click or "
             "Home shows all of it");
  addLayer("cursor");
  grey_while_stale(workspace, this, true);
  layer("cursor")->setMode(QCPLayer::lmBuffered);
  line_ = new QCPItemStraightLine(this);
  line_->setLayer("cursor");
  line_->setVisible(false);
  connect(this, &QCustomPlot::mouseMove, this, [this](QMouseEvent* event) {
    if (axisRect()->rect().contains(event->position().toPoint()))
      move_cursor(xAxis->pixelToCoord(event->position().x()));
  });
  connect(this, &QCustomPlot::mouseDoubleClick, this, &CursorPlot::whole_wanted);
}

double CursorPlot::cursor() const {
  return line_->visible() ? line_->point1->key() : xAxis->range().center();
}

void CursorPlot::set_cursor(double x) {
  line_->point1->setCoords(x, yAxis->range().lower);
  line_->point2->setCoords(x, yAxis->range().upper);
  line_->setPen(QPen(workspace_.theme().second, 1));
  line_->setVisible(true);
  layer("cursor")->replot();
}

QString CursorPlot::at_cursor() const {
  return line_->visible() ? plot_readings_at(*this, cursor()) : QString();
}

void CursorPlot::hide_cursor() {
  line_->setVisible(false);
}

void CursorPlot::move_cursor(double x) {
  set_cursor(x);
  Q_EMIT cursor_moved(x);
  tell_cursor(*this);
}

void CursorPlot::set_cycle(double width) {
  cycle_ = width;
}

// One cycle about the line, or all of it where that is what is seen.
void CursorPlot::show_cycle() {
  constexpr double same = 1.001;
  if (xAxis->range().size() < same * cycle_) return whole_wanted();
  const double from = std::clamp(cursor() - cycle_ / 2, xAxis->range().lower, xAxis->range().upper - cycle_);
  xAxis->setRange(from, from + cycle_);
  replot(rpQueuedReplot);
}

void CursorPlot::paintEvent(QPaintEvent* event) {
  QCustomPlot::paintEvent(event);
  draw_focus_frame(*this, workspace_.theme());
}

void CursorPlot::keyPressEvent(QKeyEvent* event) {
  const double step = event->modifiers() & Qt::ShiftModifier ? 20 : 2; // pixels, so that it suits every scale
  const auto zoom = [&](double factor) {
    xAxis->scaleRange(factor, cursor());
    replot(rpQueuedReplot);
  };
  const auto walk = [&](double pixels) {
    const QRect area = axisRect()->rect();
    const double at = xAxis->coordToPixel(cursor()) + pixels;
    move_cursor(xAxis->pixelToCoord(std::clamp<double>(at, area.left(), area.right())));
  };
  switch (event->key()) {
  case Qt::Key_Left:
    return walk(-step);
  case Qt::Key_Right:
    return walk(step);
  case Qt::Key_Plus:
  case Qt::Key_Equal:
    return zoom(0.8);
  case Qt::Key_Minus:
    return zoom(1.25);
  case Qt::Key_C:
    if (cycle_ > 0 && event->modifiers() == Qt::NoModifier) return show_cycle();
    return QCustomPlot::keyPressEvent(event);
  case Qt::Key_Home:
    Q_EMIT whole_wanted();
    return;
  default:
    QCustomPlot::keyPressEvent(event);
  }
}
