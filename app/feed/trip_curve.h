// How long the feed's breaker holds, as a curve over the line current.
#pragma once

#include "base/workspace.h"

#include <QString>
#include <qcustomplot.h>

/// Axes as for anything but a trip curve.
void make_linear(QCustomPlot& plot);
/// The curve and the present line current (A); returns what is to be read beside it.
QString draw_trip_curve(QCustomPlot& plot, const Workspace& workspace, double line_a);
/// In words, at this current (A); empty without a breaker.
QString read_trip_curve(const Workspace& workspace, double current_a);
