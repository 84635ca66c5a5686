// Drawing and dragging of bursts.
#include "crafts/bridges/pulse_view.h"

#include "toolkit/common.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace {

using enum arc::Dimension;
constexpr double left_margin = 26, right_margin = 30, caption_height = 20, axis_height = 22, reach = 8;

} // namespace

PulseView::PulseView(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("pulse view");
  setAccessibleName("Bursts on the mains' time axis; left and right change the on-time, up and down the rate");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumHeight(220);
  connect(&workspace.document, &Document::design_changed, this, qOverload<>(&QWidget::update)); // what is stale
  connect(&workspace, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void PulseView::show(std::shared_ptr<const arc::BridgeAnalysis> bridge) {
  bridge_ = std::move(bridge);
  const arc::Design& d = workspace_.document.design();
  try {
    const auto energy = [this](double on_s) {
      return arc::burst_energy_by(bridge_->burst, bridge_->circuit, on_s);
    };
    plan_ = arc::plan_pulses(d.interrupter, d.site.mains_frequency_hz, workspace_.units(),
                             bridge_ && bridge_->problem.empty() ? std::function<double(double)>(energy)
                                                                 : std::function<double(double)>());
  } catch (const std::invalid_argument&) {
    plan_ = {};
  }
  update();
}

void PulseView::set_cycles(int mains_cycles) {
  cycles_ = mains_cycles;
  update();
}

QString PulseView::readings() const {
  if (!(plan_.rate_hz > 0)) return "no bursts";
  const arc::Design& d = workspace_.document.design();
  const arc::Interrupter& i = d.interrupter;
  const Print print{workspace_};
  QStringList out{QString("bursts of %1, %2 apart, over %3 mains cycles")
                      .arg(print(plan_.on_s, arc::Dimension::time), print(1 / plan_.rate_hz, arc::Dimension::time))
                      .arg(cycles_)};
  out << (i.locked ? QString("the first %1° after the mains rise through zero").arg(i.phase_deg, 0, 'f', 0)
                   : QString("at %1").arg(print(plan_.rate_hz, arc::Dimension::frequency)));
  out << QString("longest allowed %1").arg(print(i.longest_on_s, arc::Dimension::time));
  if (bridge_ && bridge_->problem.empty())
    out << QString("primary to %1").arg(print(bridge_->burst.primary_peak_a, current));
  for (const arc::LimitHit& hit : plan_.hits) out << QString::fromStdString(hit.text);
  return out.join("; ");
}

QRectF PulseView::train() const {
  return {left_margin, caption_height, width() - left_margin - right_margin,
          height() * 0.42 - caption_height - axis_height};
}

QRectF PulseView::single() const {
  const double top = height() * 0.42 + caption_height + 6;
  return {left_margin, top, width() - left_margin - right_margin, height() - top - axis_height};
}

double PulseView::train_s() const {
  return cycles_ / workspace_.document.design().site.mains_frequency_hz;
}

double PulseView::single_s() const {
  if (held_ == Grip::edge) return single_held_s_;
  const arc::Interrupter& i = workspace_.document.design().interrupter;
  return 1.25 * std::max(i.on_time_s, i.longest_on_s);
}

QPointF PulseView::edge_place() const {
  const double on = workspace_.document.design().interrupter.on_time_s;
  return {single().left() + single().width() * on / single_s(), single().center().y()};
}

QPointF PulseView::burst_place() const {
  const arc::Interrupter& i = workspace_.document.design().interrupter;
  const double at = i.locked ? plan_.first_s : plan_.rate_hz > 0 ? 1 / plan_.rate_hz : 0;
  return {train().left() + train().width() * at / train_s(), train().center().y()};
}

PulseView::Grip PulseView::grip_at(QPointF place) const {
  if (single().adjusted(-reach, 0, reach, 0).contains(place) && std::abs(place.x() - edge_place().x()) < reach)
    return Grip::edge;
  if (train().contains(place) && std::abs(place.x() - burst_place().x()) < reach) return Grip::burst;
  return Grip::none;
}

void PulseView::set_on_time(double seconds, const QString& gesture) {
  const double on = arc::round_significant(std::clamp(seconds, 1e-6, 0.02), 3);
  workspace_.document.edit(
      "On-time", [on](arc::Design& d) { d.interrupter.on_time_s = on; }, gesture);
  say_limits();
}

// Where a burst begins: of a locked one its phase, else the time from one to the next.
void PulseView::set_start(double seconds, const QString& gesture) {
  const arc::Design& now = workspace_.document.design();
  if (now.interrupter.locked) {
    const double turns = seconds * now.site.mains_frequency_hz;
    const double degrees = std::round(360 * (turns - std::floor(turns)));
    workspace_.document.edit(
        "Phase", [degrees](arc::Design& d) { d.interrupter.phase_deg = degrees; }, gesture);
  } else {
    const double rate = arc::round_significant(1 / std::clamp(seconds, 1e-4, 10.0), 3);
    workspace_.document.edit(
        "Rate", [rate](arc::Design& d) { d.interrupter.rate_hz = rate; }, gesture);
  }
  say_limits();
}

void PulseView::say_limits() {
  show(bridge_);
  QStringList words;
  for (const arc::LimitHit& hit : plan_.hits) words << QString::fromStdString(hit.text);
  Q_EMIT said(words.isEmpty() ? QString("Within all limits.") : words.join(". ") + ".");
}

void PulseView::mousePressEvent(QMouseEvent* event) {
  held_ = Grip::none;
  const double scale = single_s();
  held_ = grip_at(event->position());
  single_held_s_ = scale;
  ++gesture_;
  update();
}

void PulseView::mouseMoveEvent(QMouseEvent* event) {
  if (held_ == Grip::none) {
    over_ = grip_at(event->position());
    setCursor(over_ == Grip::none ? Qt::ArrowCursor : Qt::SplitHCursor);
    update();
    return;
  }
  const QString gesture = QString("pulse %1").arg(gesture_);
  const QRectF area = held_ == Grip::edge ? single() : train();
  const double share = std::clamp((event->position().x() - area.left()) / area.width(), 0.0, 1.0);
  if (held_ == Grip::edge)
    set_on_time(share * single_s(), gesture);
  else
    set_start(share * train_s(), gesture);
}

void PulseView::mouseReleaseEvent(QMouseEvent*) {
  held_ = Grip::none;
  update();
}

void PulseView::keyPressEvent(QKeyEvent* event) {
  const arc::Interrupter& i = workspace_.document.design().interrupter;
  const double step = event->modifiers() & Qt::ShiftModifier ? 1.1 : 1.02;
  const QString gesture = QString("pulse keys %1").arg(gesture_);
  switch (event->key()) {
  case Qt::Key_Right:
    return set_on_time(i.on_time_s * step, gesture);
  case Qt::Key_Left:
    return set_on_time(i.on_time_s / step, gesture);
  case Qt::Key_Up:
  case Qt::Key_Down: {
    const bool up = event->key() == Qt::Key_Up;
    if (i.locked)
      return set_start(plan_.first_s +
                           (up ? 1 : -1) * 5.0 / 360 / workspace_.document.design().site.mains_frequency_hz,
                       gesture);
    return set_start(1 / (i.rate_hz * (up ? step : 1 / step)), gesture);
  }
  default:
    QWidget::keyPressEvent(event);
  }
}

void PulseView::draw_train(QPainter& p) const {
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  const QRectF area = train();
  p.fillRect(area, t.card);
  const double until = train_s();
  const auto x = [&](double s) { return area.left() + area.width() * s / until; };
  // The mains behind, and the bus as it sags and recovers between its crests.
  QPainterPath wave;
  for (int i = 0; i <= 240; ++i) {
    const double s = until * i / 240;
    const QPointF at(x(s), area.center().y() - 0.42 * area.height() *
                                                   std::sin(2 * std::numbers::pi * d.site.mains_frequency_hz * s));
    i == 0 ? wave.moveTo(at) : wave.lineTo(at);
  }
  p.setPen(QPen(t.second, 1));
  p.setBrush(Qt::NoBrush);
  p.drawPath(wave);
  if (!(plan_.on_s > 0)) return;
  for (const double start : arc::burst_starts(plan_, until)) {
    const double wide = std::max(2.0, area.width() * plan_.on_s / until);
    p.fillRect(QRectF(x(start), area.top() + 4, wide, area.height() - 8), t.arc);
  }
  const QPointF grip = burst_place();
  p.setPen(QPen(t.ink, 1.4));
  p.setBrush(held_ == Grip::burst || over_ == Grip::burst ? t.arc : t.paper);
  p.drawRect(QRectF(grip.x() - 4, area.bottom() - 12, 8, 10));
  p.setPen(t.second);
  p.setFont(type::font(type::caption));
  for (int c = 0; c <= cycles_; c += std::max(1, cycles_ / 10)) {
    const double s = c / d.site.mains_frequency_hz;
    p.drawLine(QPointF(x(s), area.bottom()), QPointF(x(s), area.bottom() + 4));
    p.drawText(QRectF(x(s) - 40, area.bottom() + 4, 80, 16), Qt::AlignHCenter,
               quantity_text(s, arc::Dimension::time, workspace_.units(), 3));
  }
}

void PulseView::draw_single(QPainter& p) const {
  const Theme& t = workspace_.theme();
  const arc::Interrupter& i = workspace_.document.design().interrupter;
  const QRectF area = single();
  p.fillRect(area, t.card);
  const double until = single_s();
  const auto x = [&](double s) { return area.left() + area.width() * std::min(s, until) / until; };
  // Beyond the longest on-time that is allowed.
  p.fillRect(QRectF(x(i.longest_on_s), area.top(), area.right() - x(i.longest_on_s), area.height()),
             QBrush(t.hairline, Qt::BDiagPattern));
  p.fillRect(QRectF(area.left(), area.top(), x(plan_.on_s) - area.left(), area.height()), t.arc_fill);
  if (bridge_ && bridge_->problem.empty() && !bridge_->burst.samples.empty()) {
    const double most = std::max({bridge_->burst.primary_peak_a, bridge_->burst.return_peak_a, 1e-9});
    // Of each column of pixels the lowest and the highest point, in the order in which they came: more is not seen.
    QPolygonF current;
    int column = -1;
    QPointF low, high;
    const auto put = [&] {
      if (column >= 0) current << (low.x() <= high.x() ? low : high) << (low.x() <= high.x() ? high : low);
    };
    for (const arc::BurstSample& s : bridge_->burst.samples) {
      if (s.time_s > until) break;
      const QPointF at(x(s.time_s), area.center().y() - 0.46 * area.height() * s.primary_a / most);
      if (static_cast<int>(at.x()) != column) {
        put();
        column = static_cast<int>(at.x());
        low = high = at;
      } else if (at.y() < high.y()) {
        high = at;
      } else if (at.y() > low.y()) {
        low = at;
      }
    }
    put();
    // The bursts are the design's own and follow every drag; the current in one is the simulation's.
    p.setPen(QPen(workspace_.document.power_is_current() ? t.copper : t.hairline, 1));
    p.drawPolyline(current);
  }
  // What is asked, where the limits leave less.
  if (i.on_time_s > plan_.on_s * 1.001) {
    p.setPen(QPen(t.stop, 1.2, Qt::DashLine));
    p.drawLine(QPointF(x(i.on_time_s), area.top()), QPointF(x(i.on_time_s), area.bottom()));
  }
  p.setPen(QPen(t.ink, 1.6));
  p.drawLine(QPointF(x(plan_.on_s), area.top()), QPointF(x(plan_.on_s), area.bottom()));
  p.setBrush(held_ == Grip::edge || over_ == Grip::edge ? t.arc : t.paper);
  p.drawRect(QRectF(edge_place().x() - 5, area.center().y() - 9, 10, 18));
  p.setFont(type::font(type::caption));
  p.setPen(t.second);
  for (int k = 0; k <= 5; ++k) {
    const double s = until * k / 5;
    p.drawText(QRectF(x(s) - 40, area.bottom() + 4, 80, 16), Qt::AlignHCenter,
               quantity_text(s, arc::Dimension::time, workspace_.units(), 3));
  }
}

void PulseView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = workspace_.theme();
  draw_train(p);
  draw_single(p);
  p.setFont(type::font(type::caption));
  p.setPen(t.second);
  p.drawText(QRectF(left_margin, 0, width() - left_margin, caption_height), Qt::AlignVCenter,
             workspace_.document.design().interrupter.locked ? "Bursts on the mains: drag the first for its phase"
                                                             : "Bursts on the mains: drag the second for the rate");
  p.drawText(QRectF(left_margin, single().top() - caption_height, width() - left_margin, caption_height),
             Qt::AlignVCenter, "One burst, its primary current: drag its end");
  if (hasFocus()) {
    p.setPen(QPen(t.arc, 1.4));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -2, -2));
  }
}
