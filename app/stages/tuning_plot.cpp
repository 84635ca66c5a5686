#include "stages/tuning_plot.h"

#include "coil_views/resonance_ruler.h"
#include "evidence/tuning.h"
#include "laws/circuit.h"
#include "simulation/power.h"
#include "toolkit/common.h"
#include "toolkit/plot.h"

#include <array>
#include <qcustomplot.h>

namespace {

// The coil's resonance with its band, and where arcs pull it.
void draw_bands(QCustomPlot& plot, const Workspace& workspace, const arc::Analysis& analysis, double last_turn,
                double factor) {
  const Theme& t = workspace.theme();
  const Print print{workspace};
  const auto band = [&](double low, double high, const QColor& colour, const QString& text) {
    auto* rect = new QCPItemRect(&plot);
    rect->topLeft->setCoords(0, high / factor);
    rect->bottomRight->setCoords(last_turn + 0.5, low / factor);
    rect->setPen(Qt::NoPen);
    rect->setBrush(colour);
    auto* label = new QCPItemText(&plot);
    label->position->setCoords(last_turn * 0.02, low / factor);
    label->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
    label->setText(text);
    label->setFont(type::font(type::caption));
    label->setColor(t.second);
  };
  if (!analysis.resonator) return;
  {
    const auto half = analysis.band.find("best_mode_1_hz");
    const double f = arc::coil_hz(analysis);
    const double h = half == analysis.band.end() ? 0 : half->second;
    band(f - h, f + h, t.copper_fill, {});
    band(analysis.loaded_hz.low, analysis.loaded_hz.high, t.arc_fill,
         QString("coil %1 ± %2")
             .arg(print(f, arc::Dimension::frequency),
                  QString::fromStdString(arc::format_like(h, f, arc::Dimension::frequency, workspace.units()))));
  }
}

// Both poles of tank and resonator together, and the one that the coil runs on.
void draw_poles(QCustomPlot& plot, const Workspace& workspace, const arc::Analysis& analysis,
                const QVector<double>& turns, double factor) {
  const Theme& t = workspace.theme();
  const arc::PowerAnalysis* power = workspace.document.power_of_kind();
  if (power && power->part && power->part->poles_hz().size() > 1 && analysis.resonator) {
    std::array<QVector<double>, 2> both;
    for (const arc::TapPoint& point : analysis.tap_curve) {
      const arc::CoupledPoles poles =
          arc::coupled_poles(point.tank_hz, arc::coil_hz(analysis), analysis.circuit.coupling);
      both[0] << poles.lower_hz / factor;
      both[1] << poles.upper_hz / factor;
    }
    for (const QVector<double>& pole : both) {
      auto* line = plot.addGraph();
      line->setData(turns, pole, true);
      line->setPen(QPen(t.second, 1.2, Qt::DashDotLine));
    }
    auto* ridden = plot.addGraph();
    ridden->setLineStyle(QCPGraph::lsNone);
    ridden->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssTriangle, t.ink, t.paper, 10));
    if (power->drive.frequency_hz > 0)
      ridden->addData(arc::used_turns(workspace.document.design()), power->drive.frequency_hz / factor);
  }
}

void draw_measured(QCustomPlot& plot, const Workspace& workspace, double factor) {
  const Theme& t = workspace.theme();
  auto* measured = plot.addGraph();
  measured->setLineStyle(QCPGraph::lsNone);
  measured->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, t.settled, t.settled, 8));
  for (const arc::Measurement& m : workspace.document.design().measurements) {
    const arc::MeasuredMark mark = arc::measurement_kind(m.kind)->mark;
    if (mark == arc::MeasuredMark::none) continue; // not a frequency of the coil as it stands
    if (mark == arc::MeasuredMark::tank) {
      measured->addData(m.tap_turns, m.frequency_hz / factor);
      continue;
    }
    auto* line = new QCPItemStraightLine(&plot);
    line->point1->setCoords(0, m.frequency_hz / factor);
    line->point2->setCoords(1, m.frequency_hz / factor);
    line->setPen(QPen(t.settled, 1.4, mark == arc::MeasuredMark::coil_apart ? Qt::DotLine : Qt::DashLine));
  }
}

} // namespace

void draw_tuning_plot(QCustomPlot& plot, const Workspace& workspace, const arc::Analysis& analysis) {
  const Theme& t = workspace.theme();
  plot.clearPlottables();
  plot.clearItems();
  plot.clearGraphs();
  style_plot(plot, t);
  const double middle = analysis.target_hz > 0 ? analysis.target_hz : analysis.tank_hz;
  const AxisUnit unit = axis_unit(middle, arc::Dimension::frequency, workspace.units());
  const double factor = unit.factor;
  plot.xAxis->setLabel("Tap at turn");
  plot.yAxis->setLabel(QString("Tank frequency, %1").arg(unit.symbol));
  QVector<double> x, y;
  for (const arc::TapPoint& point : analysis.tap_curve) {
    x << point.turns;
    y << point.tank_hz / factor;
  }
  if (x.isEmpty()) return;
  plot.xAxis->setRange(0, x.last() + 0.5);
  plot.yAxis->setRange(middle * 0.6 / factor, middle * 1.9 / factor);
  draw_bands(plot, workspace, analysis, x.last(), factor);
  auto* curve = plot.addGraph();
  curve->setData(x, y, true);
  curve->setPen(QPen(t.copper, 2));
  draw_poles(plot, workspace, analysis, x, factor);
  auto* now = plot.addGraph();
  now->setLineStyle(QCPGraph::lsNone);
  now->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssTriangleInverted, t.ink, t.ink, 11));
  now->addData(arc::used_turns(workspace.document.design()), analysis.tank_hz / factor);
  draw_measured(plot, workspace, factor);
  plot.replot(QCustomPlot::rpQueuedReplot);
}
