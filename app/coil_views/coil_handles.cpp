// Handles of the elevation drawing.
#include "coil_views/coil_handles.h"

#include "craft/design_fields.h"
#include "craft/kind.h"
#include "model/fields.h"
#include "parts/topload.h"

#include <algorithm>
#include <cmath>
#include <numbers>

double winding_top(const arc::Design& d) {
  return d.secondary.base_height_m + d.secondary.winding_length_m;
}

namespace {

double on_grid(double value, double grid) {
  return grid > 0 ? std::round(value / grid) * grid : value;
}

// Stores a dragged value on the grid and inside the field's range.
void put(arc::Design& design, std::string_view key, double value, double grid) {
  const arc::FieldSpec& field = arc::design_field(key);
  field.set(design, std::clamp(on_grid(value, grid), field.minimum, field.maximum));
}

// Radius and height above the floor of a point of a drawn profile.
QPointF profile_place(const arc::Design& design, const arc::ToploadPart& part, std::size_t point) {
  return {part.points_m[point][0], winding_top(design) + part.centre_above_winding_m + part.points_m[point][1]};
}

// One handle for each point, on the right half of the drawing.
void add_profile_handles(const arc::Design& design, std::size_t part_index, std::vector<CoilHandle>& out) {
  const arc::ToploadPart& part = design.topload[part_index];
  for (std::size_t k = 0; k < part.points_m.size(); ++k) {
    CoilHandle handle;
    handle.id = QString("profile-%1-%2").arg(part_index + 1).arg(k + 1);
    handle.label = QString("Point %1 of the profile").arg(k + 1);
    handle.field = "topload";
    handle.world = profile_place(design, part, k);
    handle.moves_sideways = handle.moves_upward = true;
    handle.move = [part_index, k](arc::Design& d, QPointF w, double grid) {
      arc::ToploadPart& p = d.topload[part_index];
      p.points_m[k] = {std::clamp(on_grid(w.x(), grid), 0.0, arc::most_topload_length_m),
                       std::clamp(on_grid(w.y() - winding_top(d) - p.centre_above_winding_m, grid),
                                  -arc::most_topload_length_m, arc::most_topload_length_m)};
    };
    handle.remove = [part_index, k](arc::Design& d) {
      auto& points = d.topload[part_index].points_m;
      if (points.size() > 3) points.erase(points.begin() + static_cast<std::ptrdiff_t>(k));
    };
    handle.insert = [part_index, k](arc::Design& d) {
      auto& points = d.topload[part_index].points_m;
      const std::size_t other = k + 1 < points.size() ? k + 1 : k - 1;
      const std::array<double, 2> middle{(points[k][0] + points[other][0]) / 2,
                                         (points[k][1] + points[other][1]) / 2};
      points.insert(points.begin() + static_cast<std::ptrdiff_t>(std::max(k, other)), middle);
    };
    out.push_back(std::move(handle));
  }
}

void add_topload_handles(const arc::Design& design, std::vector<CoilHandle>& out) {
  const double top = winding_top(design);
  for (std::size_t i = 0; i < design.topload.size(); ++i) {
    const arc::ToploadPart& part = design.topload[i];
    const QString suffix = i == 0 ? QString() : QString("-%1").arg(i + 1);
    const arc::Extent extent = arc::topload_extent(part);
    const double middle = top + part.centre_above_winding_m;
    const arc::ToploadShape& shape = *arc::topload_shape(part.shape);
    const double tube = shape.tube ? part.*shape.tube : 0;
    const double centre_radius = shape.tube ? (part.*shape.across - tube) / 2 : 0;
    out.push_back({"topload-height" + suffix,
                   "Topload height",
                   "topload",
                   {-centre_radius, middle},
                   CoilHandle::Kind::square,
                   false,
                   true,
                   0.001,
                   [i](arc::Design& d, QPointF w, double grid) {
                     d.topload[i].centre_above_winding_m =
                         std::clamp(on_grid(w.y() - winding_top(d), grid), -arc::most_topload_length_m,
                                    arc::most_topload_length_m);
                   }});
    if (shape.is_drawn()) {
      add_profile_handles(design, i, out);
      continue;
    }
    out.push_back({"topload-size" + suffix,
                   "Topload diameter",
                   "topload",
                   {extent.radius_m, middle},
                   CoilHandle::Kind::square,
                   true,
                   false,
                   0.001,
                   [i, &shape](arc::Design& d, QPointF w, double grid) {
                     arc::ToploadPart& p = d.topload[i];
                     const double least = shape.tube ? 2 * p.*shape.tube + 0.002 : 0.005;
                     p.*shape.across =
                         std::clamp(on_grid(2 * std::abs(w.x()), grid), std::min(least, arc::most_topload_length_m),
                                    arc::most_topload_length_m);
                   }});
    if (shape.tube)
      out.push_back({"topload-tube" + suffix,
                     "Tube diameter",
                     "topload",
                     {centre_radius, middle + tube / 2},
                     CoilHandle::Kind::square,
                     false,
                     true,
                     0.001,
                     [i, &shape](arc::Design& d, QPointF w, double grid) {
                       arc::ToploadPart& p = d.topload[i];
                       const double half = w.y() - winding_top(d) - p.centre_above_winding_m;
                       p.*shape.tube =
                           std::clamp(on_grid(2 * half, grid), arc::least_topload_length_m,
                                      std::max(arc::least_topload_length_m, p.*shape.across / 2 - 0.001));
                     }});
  }
}

} // namespace

QPointF primary_point(const arc::Primary& p, double s) {
  const double angle = arc::primary_rise_rad(p);
  return {p.inner_radius_m + s * p.pitch_m * std::cos(angle), p.base_height_m + s * p.pitch_m * std::sin(angle)};
}

bool add_profile_point(arc::Design& design, QPointF world, double reach_m) {
  for (arc::ToploadPart& part : design.topload) {
    if (!arc::topload_shape(part.shape)->is_drawn()) continue;
    for (std::size_t k = 1; k < part.points_m.size(); ++k) {
      const QPointF a = profile_place(design, part, k - 1), b = profile_place(design, part, k), way = b - a;
      const double square = QPointF::dotProduct(way, way);
      const double along = square > 0 ? std::clamp(QPointF::dotProduct(world - a, way) / square, 0.0, 1.0) : 0;
      const QPointF miss = world - (a + along * way);
      if (std::hypot(miss.x(), miss.y()) > reach_m) continue;
      part.points_m.insert(
          part.points_m.begin() + static_cast<std::ptrdiff_t>(k),
          {std::max(0.0, world.x()), world.y() - winding_top(design) - part.centre_above_winding_m});
      return true;
    }
  }
  return false;
}

std::vector<CoilHandle> resonator_handles(const arc::Design& design) {
  std::vector<CoilHandle> out;
  add_topload_handles(design, out);
  out.push_back({"winding-top",
                 "Winding length",
                 "secondary.winding_length_m",
                 {0, winding_top(design)},
                 CoilHandle::Kind::square,
                 false,
                 true,
                 0.001,
                 [](arc::Design& d, QPointF w, double grid) {
                   put(d, "secondary.winding_length_m", w.y() - d.secondary.base_height_m, grid);
                 }});
  out.push_back({"winding-base",
                 "Height above floor",
                 "secondary.base_height_m",
                 {0, design.secondary.base_height_m},
                 CoilHandle::Kind::square,
                 false,
                 true,
                 0.001,
                 [](arc::Design& d, QPointF w, double grid) { put(d, "secondary.base_height_m", w.y(), grid); }});
  return out;
}

std::vector<CoilHandle> primary_handles(const arc::Design& design) {
  const arc::Primary& primary = design.primary;
  const QPointF first = primary_point(primary, 0.5);
  const QPointF last = primary_point(primary, std::max(1.0, primary.turns - 0.5));
  std::vector<CoilHandle> out;
  if (!arc::given(design, "primary")) return out; // nothing is drawn that could be taken hold of
  out.push_back({"primary-inner",
                 "Primary inner radius and height",
                 "primary.inner_radius_m",
                 {-first.x(), first.y()},
                 CoilHandle::Kind::square,
                 true,
                 true,
                 0.001,
                 [](arc::Design& d, QPointF w, double grid) {
                   const QPointF offset = primary_point(d.primary, 0.5) - primary_point(d.primary, 0);
                   put(d, "primary.inner_radius_m", std::abs(w.x()) - offset.x(), grid);
                   put(d, "primary.base_height_m", w.y() - offset.y(), grid);
                 }});
  out.push_back({"primary-pitch",
                 "Primary pitch",
                 "primary.pitch_m",
                 {-last.x(), last.y()},
                 CoilHandle::Kind::square,
                 true,
                 true,
                 0.001,
                 [](arc::Design& d, QPointF w, double grid) {
                   const double angle = arc::primary_rise_rad(d.primary);
                   const double along = (std::abs(w.x()) - d.primary.inner_radius_m) * std::cos(angle) +
                                        (w.y() - d.primary.base_height_m) * std::sin(angle);
                   const double pitch = along / std::max(0.5, d.primary.turns - 0.5);
                   put(d, "primary.pitch_m", std::max(pitch, d.primary.conductor_diameter_m * 1.05), grid / 10);
                 }});
  if (!arc::kind_of(design).clip) return out;
  const QPointF clip = primary_point(primary, std::min(primary.tap_turns, primary.turns));
  out.push_back({"clip", "Tap", "primary.tap_turns", clip, CoilHandle::Kind::clip, true, true,
                 primary.pitch_m * 0.05, [](arc::Design& d, QPointF w, double) {
                   const double angle = arc::primary_rise_rad(d.primary);
                   const double along = (w.x() - d.primary.inner_radius_m) * std::cos(angle) +
                                        (w.y() - d.primary.base_height_m) * std::sin(angle);
                   d.primary.tap_turns = std::clamp(std::round(along / d.primary.pitch_m * 100) / 100,
                                                    std::min(0.25, d.primary.turns), d.primary.turns);
                 }});
  return out;
}
