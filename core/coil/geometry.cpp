// Geometry check.
#include "coil/geometry.h"

#include "field/resonator.h"
#include "parts/topload.h"
#include "quantity/say.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace arc {

std::string conductor_problem(const Design& design, UnitSystem units) {
  const Say say{units};
  const Secondary& coil = design.secondary;
  if (coil.wire_bare_diameter_m >= secondary_mean_radius_m(coil))
    return fmt::format("the secondary's wire of {} cannot be bent to turns of {}; use thinner wire or a wider form",
                       say.length(coil.wire_bare_diameter_m), say.length(2 * secondary_mean_radius_m(coil)));
  const Primary& primary = design.primary;
  double smallest = primary.inner_radius_m;
  for (const Ring& ring : primary_rings(primary, primary.turns)) smallest = std::min(smallest, ring.radius_m);
  if (primary.conductor_diameter_m / 2 >= smallest)
    return fmt::format(
        "the primary's conductor of {} is thicker than its innermost turn is wide; its inner radius must "
        "be above {}",
        say.length(primary.conductor_diameter_m), say.length(primary.conductor_diameter_m / 2));
  return {};
}

namespace {

// Each part of the topload by itself, against floor, ceiling and winding.
std::string topload_problem(const Design& design, UnitSystem units) {
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  const double top = coil.base_height_m + coil.winding_length_m;
  const Say say{units};
  for (std::size_t i = 0; i < design.topload.size(); ++i) {
    const ToploadPart& part = design.topload[i];
    const ToploadShape* shape = topload_shape(part.shape);
    if (!shape) return fmt::format("topload part {} has the unknown shape “{}”", i + 1, part.shape);
    const std::string name = fmt::format("topload part {} ({})", i + 1, shape->key);
    if (std::string problem = shape->problem(part); !problem.empty()) return fmt::format("{}: {}", name, problem);
    const auto outline = shape->outline(part, 48);
    for (std::size_t k = 0; k < outline.size(); ++k) {
      const OutlinePoint& p = outline[k];
      if (top + p.height_m <= 0)
        return fmt::format("{} reaches into the floor; raise it by {}", name, say.length(-top - p.height_m));
      if (design.site.ceiling_height_m && top + p.height_m >= *design.site.ceiling_height_m)
        return fmt::format("{} reaches into the ceiling; lower it by {}", name,
                           say.length(top + p.height_m - *design.site.ceiling_height_m));
      if (k == 0) continue;
      const OutlinePoint& q = outline[k - 1];
      const bool crosses_side = (p.radius_m - radius) * (q.radius_m - radius) <= 0 &&
                                std::min(p.height_m, q.height_m) <= 0 &&
                                top + std::max(p.height_m, q.height_m) >= coil.base_height_m;
      if (crosses_side) return fmt::format("{} crosses the winding; raise it until it clears the last turn", name);
    }
  }
  return {};
}

// What is widest, against the wall.
std::string wall_problem(const Design& design, UnitSystem units) {
  if (!design.site.wall_distance_m) return {};
  double widest = secondary_mean_radius_m(design.secondary);
  std::string_view what = "the winding";
  for (const ToploadPart& part : design.topload)
    if (const double r = topload_extent(part).radius_m; r > widest) {
      widest = r;
      what = "the topload";
    }
  for (const Ring& ring : primary_rings(design.primary, design.primary.turns))
    if (const double r = ring.radius_m + design.primary.conductor_diameter_m / 2; r > widest) {
      widest = r;
      what = "the primary";
    }
  if (widest >= *design.site.wall_distance_m)
    return fmt::format("{} reaches into the wall; the wall must be more than {} from the axis", what,
                       Say{units}.length(widest));
  return {};
}

} // namespace

std::string geometry_problem(const Design& design, UnitSystem units) {
  if (std::string problem = conductor_problem(design, units); !problem.empty()) return problem;
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  const double top = coil.base_height_m + coil.winding_length_m;
  const Say say{units};
  for (const auto look : {topload_problem, wall_problem})
    if (std::string problem = look(design, units); !problem.empty()) return problem;
  if (const auto twins = coinciding_parts(design.topload))
    return fmt::format("topload parts {} and {} are in the same place; move or remove one", twins->first + 1,
                       twins->second + 1);
  for (std::size_t i = 0; i < design.topload.size(); ++i)
    for (const Ring& ring : primary_rings(design.primary, design.primary.turns))
      if (inside_part(design.topload[i], ring.radius_m, ring.height_m - top))
        return fmt::format("topload part {} reaches into the primary; raise it", i + 1);
  if (design.site.ceiling_height_m && top >= *design.site.ceiling_height_m)
    return "the winding reaches into the ceiling; check the ceiling height";
  for (const Ring& ring : primary_rings(design.primary, design.primary.turns)) {
    const bool beside = ring.height_m + design.primary.conductor_diameter_m / 2 > coil.base_height_m &&
                        ring.height_m - design.primary.conductor_diameter_m / 2 < top;
    if (beside && std::abs(ring.radius_m - radius) <=
                      (design.primary.conductor_diameter_m + coil.wire_overall_diameter_m) / 2)
      return fmt::format("the primary crosses the secondary winding; its inner radius must be above {}",
                         say.length(radius + design.primary.conductor_diameter_m));
  }
  return {};
}

std::vector<Ring> feedback_rings(const FeedbackWinding& w, const Primary& primary) {
  const auto plate = primary_rings(primary, primary.turns);
  double lowest = plate.front().height_m, highest = lowest;
  for (const Ring& ring : plate) {
    lowest = std::min(lowest, ring.height_m);
    highest = std::max(highest, ring.height_m);
  }
  const double apart = w.gap_m + (w.conductor_diameter_m + primary.conductor_diameter_m) / 2;
  const double whole = std::ceil(w.turns - 1e-9);
  // Its nearest turn faces the plate coil; turns are half a pitch from the base that spiral_rings() counts from.
  const double base = w.above ? highest + apart - w.pitch_m / 2 : lowest - apart - (whole - 0.5) * w.pitch_m;
  return spiral_rings(w.radius_m, base, w.pitch_m, std::numbers::pi / 2, w.turns);
}

} // namespace arc
