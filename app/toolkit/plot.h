// Plots in the look of the window: QCustomPlot with the theme's colours and type.
#pragma once

#include "base/workspace.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <qcustomplot.h>
#include <string>
#include <vector>

/// Applies the theme to axes, grid, background and fonts.
void style_plot(QCustomPlot& plot, const Theme& theme);

/// The sample nearest to an instant; samples are evenly spaced from 0, and there are at least two.
template <typename Sample>
const Sample& sample_at(const std::vector<Sample>& samples, double time_s) {
  const double place = std::round(time_s / (samples[1].time_s - samples[0].time_s));
  return samples[static_cast<std::size_t>(std::clamp(place, 0.0, static_cast<double>(samples.size() - 1)))];
}

/// The point whose `x_of` (a member or a function) is nearest to `x`; there is at least one.
template <typename Points, typename X>
const auto& nearest_point(const Points& points, double x, X x_of) {
  return *std::ranges::min_element(points, {}, [&](const auto& p) { return std::abs(std::invoke(x_of, p) - x); });
}

/// A curve through `points`; `x_of` and `y_of` give a point's place on the axes. `axis`: the vertical one, the left
/// one when null. Points stand in the order of x.
template <typename Points, typename X, typename Y>
QCPGraph* add_curve(QCustomPlot& plot, const Points& points, X x_of, Y y_of, const QPen& pen, const QString& name,
                    QCPAxis* axis = nullptr) {
  auto* graph = plot.addGraph(plot.xAxis, axis ? axis : plot.yAxis);
  QVector<double> x, y;
  for (const auto& point : points) {
    x << x_of(point);
    y << y_of(point);
  }
  graph->setData(x, y, true);
  graph->setPen(pen);
  graph->setName(name);
  return graph;
}

/// A frame that shows which plot has the keyboard; for the end of its paintEvent.
void draw_focus_frame(QWidget& plot, const Theme& theme);

/// The legend as one line over the axes.
void lay_legend_flat(QCustomPlot& plot);

/// Axes around all that is drawn, with some air above and below; two vertical axes that both pass zero have it at
/// the same height.
void frame_curves(QCustomPlot& plot);

/// Asks for a file and writes what a plot shows: its values (CSV), a drawing (SVG), a picture (PNG), or the circuit
/// behind it as a SPICE deck. Returns words on what came of it, empty when the builder changed their mind.
QString export_plot(QCustomPlot& plot, const QString& name, const std::function<std::string()>& csv,
                    const std::function<std::string()>& deck);

/// "Tank frequency, kHz": a title with the unit of values that were divided by `factor`.
struct AxisUnit {
  double factor;
  QString symbol;
};
/// Unit in which values around `typical` (SI) read well on an axis.
AxisUnit axis_unit(double typical, arc::Dimension dimension, arc::UnitSystem units);
