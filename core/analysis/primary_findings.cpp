// Findings on the primary: coupling, room between the turns, and what strikes it. Limits are common practice of
// coil builders (no source) unless a source is named.
#include "analysis/findings.h"
#include "coil/analysis.h"
#include "craft/kind.h"
#include "quantity/say.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;

Maybe coupling_low(const Design& d, const Analysis& a, UnitSystem) {
  const CoilKind* kind = &kind_of(d);
  if (a.circuit.coupling >= kind->coupling_low || !(a.circuit.coupling > 0)) return {};
  return Finding{.id = "coupling-low",
                 .severity = Severity::note,
                 .stage = "primary",
                 .field = "primary.base_height_m",
                 .title = fmt::format("Coupling {:.3f} is low", a.circuit.coupling),
                 .text = fmt::format("{} coils usually work at {:.2f} to {:.2f}; {}.", kind->title,
                                     kind->coupling_low, kind->coupling_high,
                                     kind->feed_end == FeedEnd::tank
                                         ? "energy then takes more gap time to cross"
                                         : "less of what the primary carries crosses to the coil"),
                 .remedy = "Raise the primary, or lower the secondary into it",
                 .value = a.circuit.coupling,
                 .limit = kind->coupling_low,
                 .dimension = Dimension::number};
}

Maybe coupling_high(const Design& d, const Analysis& a, UnitSystem) {
  const CoilKind* kind = &kind_of(d);
  if (a.circuit.coupling <= kind->coupling_high) return {};
  return Finding{.id = "coupling-high",
                 .severity = a.circuit.coupling > 1.4 * kind->coupling_high ? Severity::warning : Severity::note,
                 .stage = "primary",
                 .field = "primary.base_height_m",
                 .title = fmt::format("Coupling {:.3f} is high", a.circuit.coupling),
                 .text =
                     fmt::format("{} coils usually work at {:.2f} to {:.2f}; above, sparks race up the winding.",
                                 kind->title, kind->coupling_low, kind->coupling_high),
                 .remedy = "Lower the primary, or raise the secondary",
                 .value = a.circuit.coupling,
                 .limit = kind->coupling_high,
                 .dimension = Dimension::number};
}

Maybe primary_clearance(const Design&, const Analysis& a, UnitSystem units) {
  // One kilovolt for each millimetre: a third of what dry air holds between smooth plates. Where no tank says what
  // the primary reaches, nothing is asked.
  const double peak_v = a.tank_peak_v, wanted = peak_v / 1e3 * 1e-3;
  if (a.primary_clearance_m >= wanted || a.primary_clearance_m <= 0) return {};
  const Say say{units};
  const double widen = std::ceil((wanted - a.primary_clearance_m) * 2000 + 1e-6) / 2000; // whole half millimetres
  return Finding{.id = "primary-clearance",
                 .severity = Severity::warning,
                 .stage = "primary",
                 .field = "primary.inner_radius_m",
                 .title = fmt::format("{} between primary and secondary", say.length(a.primary_clearance_m)),
                 .text = fmt::format("The primary reaches {}; {} (1 kV for each mm) leaves a margin.",
                                     say(peak_v, Dimension::voltage), say.length(wanted)),
                 .remedy = fmt::format("Widen the primary by {}", say.length(widen)),
                 .value = a.primary_clearance_m,
                 .limit = wanted,
                 .dimension = Dimension::length,
                 .apply = [widen](Design& e) { e.primary.inner_radius_m += widen; }};
}

Maybe primary_turns_touch(const Design& d, const Analysis&, UnitSystem units) {
  const Primary& p = d.primary;
  if (p.pitch_m > p.conductor_diameter_m || p.turns <= 1) return {};
  const Say say{units};
  return Finding{.id = "primary-turns-touch",
                 .severity = Severity::stop,
                 .stage = "primary",
                 .field = "primary.pitch_m",
                 .title = fmt::format("Primary turns touch: pitch {}, conductor {}", say.length(p.pitch_m),
                                      say.length(p.conductor_diameter_m)),
                 .text = "Bare turns that touch short out the winding.",
                 .remedy = fmt::format("Space them {}", say.length(1.5 * p.conductor_diameter_m)),
                 .value = p.pitch_m,
                 .limit = p.conductor_diameter_m,
                 .dimension = Dimension::length,
                 .apply = [](Design& e) { e.primary.pitch_m = 1.5 * e.primary.conductor_diameter_m; }};
}

bool has_strike_ring(const Design& d) {
  return std::ranges::count(d.site.grounded_conductors, "strike-ring") > 0;
}

Maybe strike_to_primary(const Design& d, const Analysis& a, UnitSystem units) {
  if (!a.strike_distance_m || *a.strike_distance_m >= a.expected_arc_m.high || has_strike_ring(d)) return {};
  const Say say{units};
  return Finding{
      .id = "strike-to-primary",
      .severity = Severity::warning,
      .stage = "primary",
      .field = "strike ring",
      .title = fmt::format("Strike path to the primary {}", say.length(*a.strike_distance_m)),
      .text = fmt::format(
          "Expected arc {} to {} reaches it; a strike puts the topload's voltage on tank and transformer.",
          say.arc(a.expected_arc_m.low), say.arc(a.expected_arc_m.high)),
      .remedy = "Fit a grounded strike ring above the outer turn",
      .value = *a.strike_distance_m,
      .limit = a.expected_arc_m.high,
      .dimension = Dimension::length,
      .apply = [](Design& e) { e.site.grounded_conductors.emplace_back("strike-ring"); }};
}

Maybe strike_field_high(const Design& d, const Analysis& a, UnitSystem units) {
  // Streamers cross a gap where the mean field is above about 5 kV/cm (CIGRE brochure 72 for positive streamers in
  // long gaps; value from memory).
  constexpr double limit = 5e5;
  if (a.strike_field_v_per_m <= limit || has_strike_ring(d) || strike_to_primary(d, a, units)) return {};
  const Say say{units};
  const double wanted = top_voltage_v(a) / limit;
  return Finding{.id = "strike-field-high",
                 .severity = Severity::warning,
                 .stage = "primary",
                 .field = "strike ring",
                 .title = fmt::format("{:.1f} kV/cm from the topload to the primary", a.strike_field_v_per_m / 1e5),
                 .text = fmt::format("{} at the top over {}. Streamers cross at about 5 kV/cm.",
                                     say(top_voltage_v(a), Dimension::voltage), say.length(*a.strike_distance_m)),
                 .remedy = fmt::format("Keep {}, or fit a grounded strike ring", say.length(wanted)),
                 .value = a.strike_field_v_per_m / 1e5,
                 .limit = limit / 1e5,
                 .dimension = Dimension::number,
                 .apply = [](Design& e) { e.site.grounded_conductors.emplace_back("strike-ring"); }};
}

Maybe primary_field_high(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr double limit = winding_field_limit_v_per_m;
  if (a.primary_field_v_per_m <= limit || primary_clearance(d, a, units)) return {};
  const Say say{units};
  const double widen = std::ceil(a.primary_widen_m * 1.05 * 1e3) / 1e3; // the voltage shifts a little on the way
  return Finding{.id = "primary-field-high",
                 .severity = Severity::warning,
                 .stage = "primary",
                 .field = "primary.inner_radius_m",
                 .title = fmt::format("{:.1f} kV/mm between winding and primary", a.primary_field_v_per_m / 1e6),
                 .text = fmt::format("At breakout, with {} on the primary; {:.1f} kV/mm is the limit.",
                                     say(a.tank_peak_v, Dimension::voltage), limit / 1e6),
                 .remedy = fmt::format("Widen the primary by {}, or lower it", say.length(widen)),
                 .value = a.primary_field_v_per_m / 1e6,
                 .limit = limit / 1e6,
                 .dimension = Dimension::number,
                 .apply = [widen](Design& e) { e.primary.inner_radius_m += widen; }};
}

constexpr std::array<FindingRule, 7> primary_table{strike_field_high, primary_field_high, coupling_low,
                                                   coupling_high,     primary_clearance,  primary_turns_touch,
                                                   strike_to_primary};

} // namespace

std::span<const FindingRule> primary_rules() {
  return primary_table;
}

} // namespace arc
