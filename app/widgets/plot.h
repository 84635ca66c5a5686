// Plots in the look of the window: QCustomPlot with the theme's colours and type.
#pragma once

#include "workspace.h"

#include <qcustomplot.h>

/// Applies the theme to axes, grid, background and fonts.
void style_plot(QCustomPlot& plot, const Theme& theme);

/// "Tank frequency, kHz": a title with the unit of values that were divided by `factor`.
struct AxisUnit {
  double factor;
  QString symbol;
};
/// Unit in which values around `typical` (SI) read well on an axis.
AxisUnit axis_unit(double typical, arc::Dimension dimension, arc::UnitSystem units);
