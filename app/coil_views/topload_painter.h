// Draws the parts of a topload from the side, wherever a view wants them.
#pragma once

#include "base/theme.h"
#include "model/design.h"

#include <QPainter>
#include <functional>

/// `place` gives the screen point of (radius, negative on the left; height above the winding's top), in metres.
void paint_topload_parts(QPainter& painter, const Theme& theme, const std::vector<arc::ToploadPart>& parts,
                         const std::function<QPointF(double radius_m, double height_m)>& place);
