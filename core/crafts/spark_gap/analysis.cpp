// What the tank and its gap add to the coil at rest: resonance and clip, stored energy, what to expect of arcs, and
// the air that must hold it.
#include "coil/analysis.h"

#include "analysis/tank_at_rest.h"
#include "circuit/feed_network.h"
#include "coil/streamer.h"
#include "coil/tapped_primary.h"
#include "crafts/spark_gap/spark_gap.h"
#include "parts/topload.h"

#include <algorithm>
#include <cmath>

namespace arc {
namespace {

void choose_target(const Design& design, Analysis& out) {
  if (!out.resonator) return;
  const Silent silent = silent_coil(design, out);
  out.target_source = silent.source;
  const double loading = (out.loaded_hz.low + out.loaded_hz.high) / 2 / silent.hz;
  out.target_hz = silent.hz;
  if (design.tune_target == TuneTarget::loaded_coil) {
    out.target_hz = silent.hz * loading;
    out.target_source += ", pulled down by streamers";
  }
}

void analyse_expectations(const Design& design, Analysis& out) {
  // Arc length 1.7 inch x sqrt(W) is the upper trend (common practice, no source); everyday coils reach 60 % of it.
  out.power_w = out.stored_energy_j * design.gap.break_rate_hz;
  const double longest = longest_arc_m(out.power_w);
  out.expected_arc_m = {0.6 * longest, longest};
  if (!out.resonator) return;
  // Streamer capacitance about 1 pF for each 0.3 m (common practice, no source); half of it when just breaking out.
  const double own = out.resonator->effective_capacitance_f, silent = silent_coil(design, out).hz;
  const auto pulled = [&](double arc_m, double part) { return loaded_by_arc_hz(silent, own, part * arc_m); };
  out.loaded_hz = {pulled(out.expected_arc_m.high, 1), pulled(out.expected_arc_m.low, 0.5)};
  out.top_voltage_limit_v = design.gap.firing_voltage_v * std::sqrt(out.tank_capacitance_f / own);
}

// Shortest way from the topload's rim (or the winding's top turn) to the outermost primary turn.
std::optional<double> strike_distance(const Design& design, const Analysis& out) {
  const double top = design.secondary.base_height_m + design.secondary.winding_length_m;
  double best = std::hypot(out.primary_outer_radius_m - secondary_mean_radius_m(design.secondary),
                           top - design.primary.base_height_m);
  bool any = false;
  const auto rings = primary_rings(design.primary, design.primary.turns);
  for (const ToploadPart& part : design.topload)
    if (const ToploadShape* shape = topload_shape(part.shape))
      for (const OutlinePoint& point : shape->outline(part, 24))
        for (const Ring& ring : {rings.front(), rings.back()}) {
          const double d = std::hypot(point.radius_m - ring.radius_m, top + point.height_m - ring.height_m);
          best = any ? std::min(best, d) : d;
          any = true;
        }
  return best - design.primary.conductor_diameter_m / 2;
}

// Mean fields across the air that must hold: topload to primary, and winding to primary at every height.
void analyse_stand_off(const Design& design, Analysis& out) {
  out.strike_distance_m = strike_distance(design, out);
  if (!out.resonator) return;
  const double top = top_voltage_v(out);
  if (*out.strike_distance_m > 0) out.strike_field_v_per_m = top / *out.strike_distance_m;
  const double wire = secondary_mean_radius_m(design.secondary) + design.secondary.wire_bare_diameter_m / 2;
  for (const ProfilePoint& point : out.resonator->profile)
    for (const Ring& ring : primary_rings(design.primary, design.primary.turns)) {
      const double across = ring.height_m - point.height_m, conductor = design.primary.conductor_diameter_m / 2;
      const double distance = std::hypot(ring.radius_m - wire, across) - conductor;
      if (distance <= 0) continue;
      const double voltage = std::abs(point.voltage) * top + design.gap.firing_voltage_v;
      out.primary_field_v_per_m = std::max(out.primary_field_v_per_m, voltage / distance);
      const double needed = voltage / winding_field_limit_v_per_m + conductor;
      if (needed > std::abs(across))
        out.primary_widen_m =
            std::max(out.primary_widen_m, std::sqrt(needed * needed - across * across) - (ring.radius_m - wire));
    }
}

} // namespace

void analyse_spark_gap(const Design& design, const TappedPrimary* primary, Analysis& out) {
  if (!out.has_tank) return;
  out.tank_capacitance_f = tank_capacitance_f(design.tank);
  out.tank_peak_v = design.gap.firing_voltage_v; // without a primary too
  if (!primary) return;
  analyse_tank(design, *primary, design.gap.firing_voltage_v, out);
  analyse_expectations(design, out);
  choose_target(design, out);
  if (out.target_hz > 0) tune_tank(design, *primary, out);
  analyse_stand_off(design, out);
}

} // namespace arc
