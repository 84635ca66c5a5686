// Breakout; sources in the header.
#include "field/breakout.h"

#include "parts/topload.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace arc {

double point_enhancement(double length_m, double tip_radius_m) {
  const double slender = std::sqrt(std::max(1.0, length_m / tip_radius_m)); // length over base radius
  if (slender < 1.0001) return 3;
  const double e = std::sqrt(slender * slender - 1);
  return e * e * e / (slender * std::log(slender + e) - e);
}

std::optional<Breakout> find_breakout(const Design& design, const ResonatorResult& resonator) {
  std::optional<Breakout> best;
  const double density = relative_air_density(design.site);
  const auto consider = [&](double field, double curvature, double r, double z, const char* where) {
    if (!(field > 0)) return;
    const double voltage = peek_field_v_per_m(curvature, density, design.breakout.roughness) / field;
    if (!best || voltage < best->voltage_v) best = Breakout{voltage, field, r, z, where};
  };
  const bool has_point =
      design.breakout.point_length_m && design.breakout.point_tip_radius_m && !design.topload.empty();
  double rim = 0, highest = 0;
  for (const SurfaceField& spot : resonator.surface)
    if (!spot.winding) rim = std::max(rim, spot.radius_m);
  for (const SurfaceField& spot : resonator.surface) highest = std::max(highest, spot.height_m);
  for (const SurfaceField& spot : resonator.surface) {
    consider(spot.field_per_volt, spot.curvature_m, spot.radius_m, spot.height_m,
             spot.winding ? "last turn" : "topload");
    // Without a topload the winding ends in a bare wire.
    const double end = design.secondary.wire_bare_diameter_m / 2;
    if (design.topload.empty() && spot.winding && spot.height_m >= highest - 1e-9 && wire_end_m > end)
      consider(spot.field_per_volt * point_enhancement(wire_end_m, end), end, spot.radius_m, spot.height_m,
               "wire end");
    if (!has_point || spot.winding || spot.radius_m < 0.98 * rim) continue;
    const double tip = *design.breakout.point_tip_radius_m;
    const double length = std::max(tip, *design.breakout.point_length_m);
    consider(spot.field_per_volt * point_enhancement(length, tip), tip, spot.radius_m + length, spot.height_m,
             "breakout point");
  }
  return best;
}

} // namespace arc
