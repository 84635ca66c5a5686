// Side view of topload parts.
#include "coil_views/topload_painter.h"

#include "parts/topload.h"

#include <algorithm>

namespace {
constexpr int drawn_pieces = 400; // so that a drawn profile shows all of its points
}

void paint_topload_parts(QPainter& painter, const Theme& theme, const std::vector<arc::ToploadPart>& parts,
                         const std::function<QPointF(double radius_m, double height_m)>& place) {
  for (const arc::ToploadPart& part : parts) {
    const arc::ToploadShape* shape = arc::topload_shape(part.shape);
    if (!shape) continue;
    QPolygonF right, left;
    for (const arc::OutlinePoint& p : shape->outline(part, drawn_pieces)) {
      right << place(p.radius_m, p.height_m);
      left << place(-p.radius_m, p.height_m);
    }
    painter.setPen(QPen(theme.ink, 1.3));
    const bool ring = right.size() > 2 && right.first() == right.last() && right.first() != left.first();
    if (ring) { // seen from the side: the two cut sections and the lines that join them
      const arc::Extent extent = arc::topload_extent(part);
      double inside = extent.radius_m;
      for (const arc::OutlinePoint& p : shape->outline(part, drawn_pieces))
        if (p.height_m > extent.highest_m - 1e-3 * extent.radius_m) inside = std::min(inside, p.radius_m);
      painter.setBrush(theme.card);
      painter.drawRect(QRectF(place(-inside, extent.highest_m), place(inside, extent.lowest_m)));
      painter.setBrush(theme.metal);
      painter.drawPolygon(right);
      painter.drawPolygon(left);
    } else {
      std::reverse(left.begin(), left.end());
      painter.setBrush(theme.metal);
      painter.drawPolygon(right + left);
    }
  }
}
