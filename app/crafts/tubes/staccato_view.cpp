// Drawing and dragging of gate pulses.
#include "crafts/tubes/staccato_view.h"

#include "toolkit/aged.h"
#include "toolkit/common.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace {

constexpr double left_space = 26, right_space = 30, top_space = 20, time_height = 22, asked_height = 26, grip = 8;

} // namespace

StaccatoView::StaccatoView(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  grey_while_stale(workspace, this, true);
  setObjectName("staccato view");
  setAccessibleName(
      "Gate pulses asked and conduction that happens over the supply; arrow keys move the phase or rate");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumHeight(200);
  connect(&workspace, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void StaccatoView::show(std::shared_ptr<const arc::TubePower> tube) {
  tube_ = std::move(tube);
  update();
}

QString StaccatoView::readings() const {
  const arc::Design& d = workspace_.document.design();
  const Print print{workspace_};
  QStringList out;
  if (d.tube.staccato)
    out << (d.interrupter.locked ? QString("asked: a pulse of %1 every %2 mains cycles, %3° after the supply rises")
                                       .arg(print(d.interrupter.on_time_s, arc::Dimension::time))
                                       .arg(d.interrupter.every_cycle)
                                       .arg(d.interrupter.phase_deg, 0, 'f', 0)
                                 : QString("asked: a pulse of %1 every %2")
                                       .arg(print(d.interrupter.on_time_s, arc::Dimension::time),
                                            print(1 / d.interrupter.rate_hz, arc::Dimension::time)));
  if (!tube_ || !tube_->problem.empty() || tube_->run.samples.empty()) return out.join("; ");
  const arc::TubeResult& r = tube_->run;
  for (std::size_t i = 0; d.tube.staccato && tube_->circuit.staccato && i < r.on_s.size(); ++i)
    out << (i < r.off_s.size()
                ? QString("conducts from %1 to %2")
                      .arg(print(r.on_s[i], arc::Dimension::time), print(r.off_s[i], arc::Dimension::time))
                : QString("conducts from %1 on").arg(print(r.on_s[i], arc::Dimension::time)));
  const auto most = [&r](double arc::TubeSample::*value) {
    return (*std::ranges::max_element(r.samples, {}, value)).*value;
  };
  out << "supply to " + print(most(&arc::TubeSample::rail_v), arc::Dimension::voltage)
      << "top to " + print(most(&arc::TubeSample::top_v), arc::Dimension::voltage);
  return out.join("; ");
}

double StaccatoView::shown_s() const {
  const arc::Design& d = workspace_.document.design();
  const double cycle_s = 1 / d.site.mains_frequency_hz;
  const bool there = tube_ && tube_->problem.empty() && !tube_->run.samples.empty();
  return std::max(2 * cycle_s, there ? tube_->run.to_s : 3 * cycle_s);
}

double StaccatoView::x_of(double time_s) const {
  return left_space + (width() - left_space - right_space) * time_s / shown_s();
}

double StaccatoView::first_s() const {
  const arc::Design& d = workspace_.document.design();
  return d.interrupter.locked ? d.interrupter.phase_deg / 360 / d.site.mains_frequency_hz
                              : 1 / d.interrupter.rate_hz;
}

bool StaccatoView::over_grip(QPointF place) const {
  return workspace_.document.design().tube.staccato && std::abs(place.x() - x_of(first_s())) < grip;
}

void StaccatoView::set_first(double seconds, const QString& gesture) {
  const arc::Design& now = workspace_.document.design();
  if (now.interrupter.locked) {
    const double degrees = std::clamp(std::round(360 * seconds * now.site.mains_frequency_hz), 0.0, 360.0);
    workspace_.document.edit(
        "Phase", [degrees](arc::Design& d) { d.interrupter.phase_deg = degrees; }, gesture);
  } else {
    const double rate = arc::round_significant(1 / std::clamp(seconds, 1e-3, 10.0), 3);
    workspace_.document.edit(
        "Rate", [rate](arc::Design& d) { d.interrupter.rate_hz = rate; }, gesture);
  }
  update();
}

void StaccatoView::mousePressEvent(QMouseEvent* event) {
  held_ = over_grip(event->position());
  ++gesture_;
  update();
}

void StaccatoView::mouseMoveEvent(QMouseEvent* event) {
  if (!held_) {
    over_ = over_grip(event->position());
    setCursor(over_ ? Qt::SplitHCursor : Qt::ArrowCursor);
    update();
    return;
  }
  const double share =
      std::clamp((event->position().x() - left_space) / (width() - left_space - right_space), 0.0, 1.0);
  set_first(share * shown_s(), QString("staccato %1").arg(gesture_));
}

void StaccatoView::mouseReleaseEvent(QMouseEvent*) {
  held_ = false;
  update();
}

void StaccatoView::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right || event->key() == Qt::Key_Up    ? 1
                  : event->key() == Qt::Key_Left || event->key() == Qt::Key_Down ? -1
                                                                                 : 0;
  if (way == 0 || !workspace_.document.design().tube.staccato) {
    QWidget::keyPressEvent(event);
    return;
  }
  const arc::Design& d = workspace_.document.design();
  const double step = event->modifiers() & Qt::ShiftModifier ? 15 : 5;
  const QString gesture = QString("staccato keys %1").arg(gesture_);
  if (d.interrupter.locked)
    set_first(first_s() + way * step / 360 / d.site.mains_frequency_hz, gesture);
  else
    set_first(first_s() / (1 + 0.004 * step * way), gesture);
}

// The supply and the top volts that it makes, where the thyristor conducts shaded.
void StaccatoView::paint_waves(QPainter& p, const QRectF& area) const {
  const Theme& t = workspace_.theme();
  const arc::TubeResult& r = tube_->run;
  if (workspace_.document.design().tube.staccato && tube_->circuit.staccato)
    for (std::size_t i = 0; i < r.on_s.size(); ++i) {
      const double until = i < r.off_s.size() ? r.off_s[i] : r.to_s;
      p.fillRect(QRectF(x_of(r.on_s[i]), area.top(), x_of(until) - x_of(r.on_s[i]), area.height()), t.arc_fill);
    }
  double most_v = 1, most_top = 1;
  for (const arc::TubeSample& s : r.samples) {
    most_v = std::max(most_v, s.rail_v);
    most_top = std::max(most_top, s.top_v);
  }
  const auto curve = [&](auto value, double most, const QPen& pen) {
    QPainterPath path;
    for (std::size_t i = 0; i < r.samples.size(); ++i) {
      const QPointF at(x_of(r.samples[i].time_s),
                       area.bottom() - 2 - 0.94 * (area.height() - 4) * std::max(0.0, value(r.samples[i])) / most);
      i == 0 ? path.moveTo(at) : path.lineTo(at);
    }
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
  };
  curve([](const arc::TubeSample& s) { return s.top_v; }, most_top, QPen(t.arc, 1.3));
  curve([](const arc::TubeSample& s) { return s.rail_v; }, most_v, QPen(t.copper, 1.5, Qt::DashLine));
  p.setPen(t.second);
  p.drawText(area.adjusted(6, 2, -6, 0), Qt::AlignRight | Qt::AlignTop,
             QString("supply to %1 (dashed), top to %2")
                 .arg(quantity_text(most_v, arc::Dimension::voltage, workspace_.units(), 3),
                      quantity_text(most_top, arc::Dimension::voltage, workspace_.units(), 3)));
}

// What is asked for, with the pulse that can be dragged.
void StaccatoView::paint_asked(QPainter& p, const QRectF& asked) const {
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  const double period_s =
      d.interrupter.locked ? d.interrupter.every_cycle / d.site.mains_frequency_hz : 1 / d.interrupter.rate_hz;
  const double begin = d.interrupter.locked ? first_s() : 0;
  for (double at = begin; at < shown_s(); at += period_s)
    p.fillRect(QRectF(x_of(at), asked.top() + 2, std::max(3.0, x_of(d.interrupter.on_time_s) - left_space),
                      asked.height() - 4),
               t.ink);
  p.setPen(QPen(t.ink, 1.4));
  p.setBrush(held_ || over_ ? t.arc : t.paper);
  p.drawRect(QRectF(x_of(first_s()) - 4, asked.center().y() - 5, 8, 10));
}

void StaccatoView::paint_times(QPainter& p, const QRectF& asked) const {
  p.setPen(workspace_.theme().second);
  const double cycle_s = 1 / workspace_.document.design().site.mains_frequency_hz;
  const int cycles = static_cast<int>(std::floor(shown_s() / cycle_s + 1e-6));
  for (int c = 0; c <= cycles; c += std::max(1, cycles / 8)) {
    const double x = x_of(c * cycle_s);
    p.drawLine(QPointF(x, asked.bottom()), QPointF(x, asked.bottom() + 4));
    p.drawText(QRectF(x - 40, asked.bottom() + 4, 80, 16), Qt::AlignHCenter,
               quantity_text(c * cycle_s, arc::Dimension::time, workspace_.units(), 3));
  }
}

void StaccatoView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  const QRectF area(left_space, top_space, width() - left_space - right_space,
                    height() - top_space - time_height - asked_height);
  const QRectF asked(left_space, area.bottom() + 2, area.width(), asked_height - 4);
  p.fillRect(area, t.card);
  p.fillRect(asked, t.card);
  p.setFont(type::font(type::caption));
  p.setPen(t.second);
  p.drawText(QRectF(left_space, 0, width() - left_space, top_space), Qt::AlignVCenter,
             !d.tube.staccato       ? "The supply, and the top volts that it makes"
             : d.interrupter.locked ? "Shaded: it conducts. Drag the first pulse for its phase"
                                    : "Shaded: it conducts. Drag the marked pulse for the rate");
  if (tube_ && tube_->problem.empty() && !tube_->run.samples.empty()) paint_waves(p, area);
  if (d.tube.staccato) paint_asked(p, asked);
  paint_times(p, asked);
  if (hasFocus()) {
    p.setPen(QPen(t.arc, 1.4));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -2, -2));
  }
}
