// The charging plot.
#include "crafts/spark_gap/charging_plot.h"

#include "circuit/feed.h"
#include "crafts/spark_gap/spark_gap.h"
#include "feed/trip_curve.h"
#include "toolkit/common.h"
#include "toolkit/plot.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace {
constexpr double longest_break_ms = 0.5; // of a break; what is slower is the mains
}

ChargingPlot::ChargingPlot(Workspace& workspace, QWidget* parent)
    : CursorPlot(workspace, "charging plot", "Charging", parent) {
  setMinimumSize(200, 96);
  connect(this, &CursorPlot::cursor_moved, this, &ChargingPlot::read_at);
  connect(&workspace_.document, &Document::opened, this, [this] { kept_.reset(); });
  connect(this, &CursorPlot::whole_wanted, this, &ChargingPlot::refresh);
  connect(this, &QCustomPlot::beforeReplot, this, &ChargingPlot::show_breaks); // whatever part is seen
}

QString ChargingPlot::print(double si, arc::Dimension dimension, int digits) const {
  return quantity_text(si, dimension, workspace_.units(), digits);
}

void ChargingPlot::choose(Shows what) {
  shown_ = what;
  refresh();
}

void ChargingPlot::keep() {
  kept_ = workspace_.document.power_of<arc::SparkGapPower>();
  refresh();
}

void ChargingPlot::refresh() {
  const auto power = workspace_.document.power_of<arc::SparkGapPower>();
  clearGraphs();
  tank_ = ticks_ = nullptr;
  set_cycle(0);
  hide_cursor();
  style_plot(*this, workspace_.theme());
  legend->setVisible(false);
  make_linear(*this);
  xAxis->ticker()->setTickCount(4);
  yAxis2->setVisible(false);
  Q_EMIT said({});
  if (power && power->charging_problem.empty()) {
    if (shown_ == waveforms) draw_waveforms(power->charging);
    if (shown_ == against_variac) draw_variac(*power);
    if (shown_ == trip_curve) draw_trip_curve(power->charging);
  }
  replot(QCustomPlot::rpQueuedReplot);
}

QCPGraph* ChargingPlot::line(const QVector<double>& x, const QVector<double>& y, const QPen& pen, QCPAxis* axis) {
  auto* graph = addGraph(xAxis, axis ? axis : yAxis);
  graph->setData(x, y, true);
  graph->setPen(pen);
  return graph;
}

void ChargingPlot::draw_waveforms(const arc::ChargingResult& now) {
  const Theme& t = workspace_.theme();
  setAccessibleName("Tank voltage and line current while charging");
  xAxis->setLabel("Time, ms");
  yAxis->setLabel("Tank, kV");
  yAxis2->setLabel("Line, A (dashed)");
  yAxis2->setVisible(true);
  QVector<double> x, tank, current;
  for (const arc::ChargingSample& s : now.samples) {
    x << s.time_s * 1e3;
    tank << s.tank_v / 1e3;
    current << s.line_a;
  }
  if (kept_ && kept_->charging_problem.empty()) {
    QVector<double> then, volts;
    for (const arc::ChargingSample& s : kept_->charging.samples) {
      then << s.time_s * 1e3;
      volts << s.tank_v / 1e3;
    }
    line(then, volts, QPen(t.second, 1, Qt::DotLine));
  }
  line(x, current, QPen(t.second, 1.2, Qt::DashLine), yAxis2);
  breaks_.clear();
  for (qsizetype i = 1; i < tank.size(); ++i) // a break leaves less than half
    if (std::abs(tank[i]) < 0.5 * std::abs(tank[i - 1]) && x[i] - x[i - 1] < longest_break_ms) breaks_ << x[i];
  tank_ = line(x, tank, QPen(t.arc, 1.6));
  frame_curves(*this);
  const double last = x.isEmpty() ? 1 : x.last(),
               cycle = 1e3 / workspace_.document.design().site.mains_frequency_hz;
  set_cycle(cycle);
  xAxis->setRange(last - 4 * cycle, last);
  busy_.reset();
  show_breaks();
}

// Breaks that are closer than the eye tells them apart are ticks below, with the tank's curve faint behind.
void ChargingPlot::show_breaks() {
  if (!tank_) return;
  const QCPRange seen = xAxis->range();
  const auto count = std::ranges::count_if(breaks_, [&](double at) { return seen.contains(at); });
  constexpr int closest = 8; // pixels from break to break
  const bool busy = count * closest > axisRect()->width();
  QColor faint = workspace_.theme().arc;
  faint.setAlphaF(0.25F);
  tank_->setPen(busy ? QPen(faint, 1) : QPen(workspace_.theme().arc, 1.6));
  QPainterPath tick;
  tick.moveTo(0, 0);
  tick.lineTo(0, -10);
  if (busy && !ticks_) {
    ticks_ = line(breaks_, QVector<double>(breaks_.size(), yAxis->range().lower), Qt::NoPen);
    ticks_->setScatterStyle(QCPScatterStyle(tick, QPen(workspace_.theme().arc, 1)));
  }
  if (ticks_) ticks_->setVisible(busy);
  if (std::exchange(busy_, busy) == busy) return;
  Q_EMIT said(busy ? QString("ticks: %1 breaks; C: one mains cycle").arg(count)
                   : QString("C: one mains cycle; drag for earlier ones"));
}

void ChargingPlot::draw_variac(const arc::SparkGapPower& power) {
  const Theme& t = workspace_.theme();
  setAccessibleName("Line current and power against the variac's setting");
  xAxis->setLabel("Variac, %");
  yAxis->setLabel("Line current, A");
  yAxis2->setLabel("Power, W (dashed)");
  yAxis2->setVisible(true);
  QVector<double> x, amps, watts;
  double rated = 0;
  for (const arc::VariacPoint& point : power.variac) {
    x << 100 * point.setting;
    amps << point.charging.line_current_a;
    watts << point.charging.input_power_w;
    rated = std::max(rated, point.charging.breaker_a());
  }
  if (x.isEmpty()) {
    Q_EMIT said("there is no variac in this feed");
    return;
  }
  line(x, watts, QPen(t.second, 1.4, Qt::DashLine), yAxis2);
  line(x, amps, QPen(t.copper, 2))
      ->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, t.copper, t.copper, 6));
  frame_curves(*this);
  yAxis->setRangeLower(0);
  yAxis2->setRangeLower(0);
  if (rated > 0) {
    line({x.first(), x.last()}, {rated, rated}, QPen(t.stop, 1.4));
    yAxis->setRangeUpper(std::max(yAxis->range().upper, 1.1 * rated));
    Q_EMIT said(QString("line across: the breaker's rating, %1").arg(print(rated, arc::Dimension::current)));
  }
}

void ChargingPlot::draw_trip_curve(const arc::ChargingResult& now) {
  setAccessibleName("How long the breaker holds against the line current");
  Q_EMIT said(::draw_trip_curve(*this, workspace_, now.line_current_a));
}

void ChargingPlot::export_run() {
  const auto power = workspace_.document.power_of<arc::SparkGapPower>();
  if (!power || !power->charging_problem.empty()) return;
  const QString words = export_plot(
      *this, "charging", [&] { return arc::charging_csv(power->charging); },
      [&] {
        return arc::charging_netlist(workspace_.document.design(), {workspace_.document.power_options().cycles});
      });
  if (!words.isEmpty()) Q_EMIT said(words);
}

// What the plot shows at one place of its horizontal axis, in words.
void ChargingPlot::read_at(double x) {
  const auto power = workspace_.document.power_of<arc::SparkGapPower>();
  if (!power || !power->charging_problem.empty()) return;
  if (shown_ == waveforms) read_instant(power->charging, x * 1e-3);
  if (shown_ == against_variac) read_setting(*power, x / 100);
  if (shown_ == trip_curve) read_trip(x);
}

void ChargingPlot::read_instant(const arc::ChargingResult& charging, double time_s) {
  if (charging.samples.size() < 2) return;
  const arc::ChargingSample& s = sample_at(charging.samples, time_s);
  Q_EMIT said(QString("at %1: tank %2, line %3")
                  .arg(print(s.time_s, arc::Dimension::time, 4), print(s.tank_v, arc::Dimension::voltage),
                       print(s.line_a, arc::Dimension::current)));
}

void ChargingPlot::read_setting(const arc::SparkGapPower& power, double setting) {
  if (power.variac.empty()) return;
  const arc::VariacPoint& nearest = nearest_point(power.variac, setting, &arc::VariacPoint::setting);
  Q_EMIT said(QString("at %1 %: line %2, %3")
                  .arg(100 * nearest.setting, 0, 'f', 0)
                  .arg(print(nearest.charging.line_current_a, arc::Dimension::current),
                       print(nearest.charging.input_power_w, arc::Dimension::power)));
}

void ChargingPlot::read_trip(double current_a) {
  Q_EMIT said(read_trip_curve(workspace_, current_a));
}
