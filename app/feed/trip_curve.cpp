// The trip curve.
#include "feed/trip_curve.h"

#include "circuit/feed.h"
#include "toolkit/common.h"

#include <algorithm>
#include <cmath>

namespace {

const arc::FeedBlock* breaker_of(const Workspace& workspace) {
  return arc::find_block(workspace.document.design().feed, arc::BlockRole::breaker);
}

double trips_after_s(const arc::FeedBlock& breaker, double current_a) {
  return arc::breaker_trip_s(arc::block_value(breaker, "rated_current_a"), current_a,
                             arc::block_value(breaker, "type_c") > 0.5);
}

} // namespace

void make_linear(QCustomPlot& plot) {
  for (QCPAxis* axis : {plot.xAxis, plot.yAxis}) {
    axis->setScaleType(QCPAxis::stLinear);
    axis->setTicker(QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
    axis->setNumberFormat("gb");
    axis->setNumberPrecision(6);
  }
}

QString draw_trip_curve(QCustomPlot& plot, const Workspace& workspace, double line_a) {
  const Theme& t = workspace.theme();
  const arc::FeedBlock* breaker = breaker_of(workspace);
  if (!breaker) return "there is no breaker in this feed";
  const double rated = arc::block_value(*breaker, "rated_current_a");
  plot.xAxis->setLabel("Line current, A");
  plot.yAxis->setLabel("Trips after, s");
  for (QCPAxis* axis : {plot.xAxis, plot.yAxis}) {
    axis->setScaleType(QCPAxis::stLogarithmic);
    axis->setTicker(QSharedPointer<QCPAxisTickerLog>(new QCPAxisTickerLog));
    axis->setNumberPrecision(0);
  }
  const auto line = [&](const QVector<double>& x, const QVector<double>& y, const QPen& pen) {
    auto* graph = plot.addGraph();
    graph->setData(x, y, true);
    graph->setPen(pen);
  };
  QVector<double> x, y;
  for (double a = 1.13 * rated; a < 20 * rated; a *= 1.02) {
    x << a;
    y << trips_after_s(*breaker, a);
  }
  line(x, y, QPen(t.ink, 2));
  const double a = std::max(line_a, 0.01 * rated);
  line({a, a}, {0.01, 1e5}, QPen(t.copper, 2));
  plot.xAxis->setRange(std::min(0.3 * rated, 0.8 * a), 20 * rated);
  plot.yAxis->setRange(0.01, 1e5);
  return QString("copper: %1 now; left of the curve it holds")
      .arg(quantity_text(line_a, arc::Dimension::current, workspace.document.units(), 3));
}

QString read_trip_curve(const Workspace& workspace, double current_a) {
  const arc::FeedBlock* breaker = breaker_of(workspace);
  if (!breaker) return {};
  const double seconds = trips_after_s(*breaker, current_a);
  const arc::UnitSystem units = workspace.document.units();
  return QString("at %1: %2")
      .arg(quantity_text(current_a, arc::Dimension::current, units, 3),
           std::isinf(seconds) ? QString("it holds")
                               : "trips after " + quantity_text(seconds, arc::Dimension::time, units, 2));
}
