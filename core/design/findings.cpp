// The findings table. Each rule is one small function: it looks at the design and its analysis and either has
// nothing to say or returns one finding with value, limit, reason and remedy. Limits are common practice of coil
// builders (no source) unless a source is named.
#include "bench/tuning.h"
#include "design/analysis.h"
#include "design/finding.h"
#include "design/kinds.h"
#include "design/say.h"
#include "parts/bank.h"
#include "parts/topload.h"
#include "parts/wire.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;

Maybe winding_does_not_fit(const Design& d, const Analysis& a, UnitSystem units) {
  if (a.packing <= 1.0) return {};
  const Say say{units};
  const double needed = d.secondary.turns * d.secondary.wire_overall_diameter_m;
  return Finding{
      "winding-does-not-fit",
      Severity::stop,
      "resonator",
      "secondary.turns",
      fmt::format("{:.0f} turns do not fit in {}", d.secondary.turns, say.length(d.secondary.winding_length_m)),
      fmt::format("Packed close they need {}; hand winding takes 3 to 10 % more.", say.length(needed)),
      fmt::format("Wind {:.0f} turns", std::floor(turns_from_length(d.secondary.winding_length_m,
                                                                    d.secondary.wire_overall_diameter_m, 0.03))),
      needed,
      d.secondary.winding_length_m,
      Dimension::length,
      [](Design& e) {
        e.secondary.turns =
            std::floor(turns_from_length(e.secondary.winding_length_m, e.secondary.wire_overall_diameter_m, 0.03));
      }};
}

Maybe winding_too_perfect(const Design& d, const Analysis& a, UnitSystem) {
  if (a.packing <= 0.985 || a.packing > 1.0) return {};
  return Finding{
      "winding-too-perfect",
      Severity::note,
      "resonator",
      "secondary.turns",
      fmt::format("The winding is packed to {:.1f} %", a.packing * 100),
      "A hand-wound coil holds 3 to 10 % fewer turns than close packing promises.",
      fmt::format("Count the turns, or expect about {:.0f}",
                  turns_from_length(d.secondary.winding_length_m, d.secondary.wire_overall_diameter_m, 0.05)),
      a.packing * 100,
      97,
      Dimension::percent,
      {}};
}

Maybe winding_has_gaps(const Design& d, const Analysis& a, UnitSystem units) {
  if (a.packing >= 0.85) return {};
  const double turns =
      std::floor(turns_from_length(d.secondary.winding_length_m, d.secondary.wire_overall_diameter_m, 0.05));
  return Finding{
      "winding-has-gaps",
      Severity::note,
      "resonator",
      "secondary.turns",
      fmt::format("{:.0f} % of the winding is gaps", (1 - a.packing) * 100),
      fmt::format("{} would hold {:.0f} hand-wound turns of this wire. Fine if it is space-wound on purpose.",
                  Say{units}.length(d.secondary.winding_length_m), turns),
      "Check the turn count",
      (1 - a.packing) * 100,
      15,
      Dimension::percent,
      {}};
}

Maybe wire_too_thin(const Design& d, const Analysis&, UnitSystem units) {
  constexpr double thinnest = 0.1e-3;
  if (d.secondary.wire_bare_diameter_m >= thinnest) return {};
  const Say say{units};
  return Finding{"wire-too-thin",
                 Severity::warning,
                 "resonator",
                 "secondary.wire_bare_diameter_m",
                 fmt::format("{} wire is hard to wind by hand",
                             say(d.secondary.wire_bare_diameter_m, Dimension::wire_diameter)),
                 fmt::format("Below {} it snaps at a jerk, and its resistance costs Q.",
                             say(thinnest, Dimension::wire_diameter, 2)),
                 "Use thicker wire, or a motor jig with a slipping brake",
                 d.secondary.wire_bare_diameter_m,
                 thinnest,
                 Dimension::wire_diameter,
                 {}};
}

Maybe enamel_thinner_than_wire(const Design& d, const Analysis&, UnitSystem units) {
  const Secondary& s = d.secondary;
  if (s.wire_overall_diameter_m >= s.wire_bare_diameter_m) return {};
  const Say say{units};
  return Finding{
      "enamel-thinner-than-wire",
      Severity::stop,
      "resonator",
      "secondary.wire_overall_diameter_m",
      fmt::format("The wire over enamel ({}) is thinner than the bare wire",
                  say(s.wire_overall_diameter_m, Dimension::wire_diameter)),
      fmt::format("Bare it is {}; the enamel adds to that.", say(s.wire_bare_diameter_m, Dimension::wire_diameter)),
      fmt::format("Take {} (grade 1 enamel)",
                  say(overall_diameter_m(s.wire_bare_diameter_m, EnamelGrade::grade_1), Dimension::wire_diameter)),
      s.wire_overall_diameter_m,
      s.wire_bare_diameter_m,
      Dimension::wire_diameter,
      [](Design& e) {
        e.secondary.wire_overall_diameter_m =
            overall_diameter_m(e.secondary.wire_bare_diameter_m, EnamelGrade::grade_1);
      }};
}

Maybe form_margin_small(const Design& d, const Analysis&, UnitSystem units) {
  constexpr double wanted = 0.012;
  if (!d.secondary.form_length_m) return {};
  const double margin = (*d.secondary.form_length_m - d.secondary.winding_length_m) / 2;
  if (margin >= wanted) return {};
  const Say say{units};
  return Finding{"form-margin-small",
                 margin < 0 ? Severity::stop : Severity::warning,
                 "resonator",
                 "secondary.form_length_m",
                 margin < 0 ? fmt::format("The winding is {} longer than its form", say.length(-2 * margin))
                            : fmt::format("Only {} of bare form at each end", say.length(margin)),
                 fmt::format("About {} keeps the end turns from flashing over the rim.", say.length(wanted)),
                 fmt::format("Wind no more than {}", say.length(*d.secondary.form_length_m - 2 * wanted)),
                 margin,
                 wanted,
                 Dimension::length,
                 {}};
}

Maybe shape_out_of_band(const Design&, const Analysis& a, UnitSystem) {
  constexpr double low = 3, high = 6;
  const double ratio = a.height_to_diameter;
  if (ratio >= low && ratio <= high) return {};
  const bool squat = ratio < low;
  return Finding{
      "shape-out-of-band",
      Severity::note,
      "resonator",
      "secondary.winding_length_m",
      fmt::format("Height is {:.1f} times the diameter", ratio),
      squat ? "Most spark-gap coils are 3 to 6. Squat coils couple hard and arc to the primary sooner."
            : "Most spark-gap coils are 3 to 6. Tall coils need a large topload, or arcs leave the upper winding.",
      squat ? "Wind longer, or use a narrower form" : "Wind shorter, or use a wider form",
      ratio,
      squat ? low : high,
      Dimension::number,
      {}};
}

Maybe topload_missing(const Design& d, const Analysis&, UnitSystem) {
  if (!d.topload.empty()) return {};
  return Finding{
      "topload-missing",
      Severity::note,
      "resonator",
      "",
      "No topload",
      "The voltage breaks out at the last turn before it can build; the end of the winding burns. Some want "
      "exactly that, for a lamp or a brush discharge.",
      "Add a toroid for longer arcs",
      0,
      0,
      Dimension::number,
      {}};
}

Maybe topload_parts_cross(const Design& d, const Analysis&, UnitSystem units) {
  const auto pair = crossing_parts(d.topload);
  if (!pair) return {};
  const auto [first, second] = *pair;
  const bool second_above =
      topload_extent(d.topload[second]).highest_m >= topload_extent(d.topload[first]).highest_m;
  const std::size_t lower = second_above ? first : second, upper = second_above ? second : first;
  const double lift = std::ceil(lift_to_clear(d.topload[lower], d.topload[upper]) * 1e3) / 1e3;
  const Say say{units};
  return Finding{"topload-parts-cross",
                 Severity::warning,
                 "resonator",
                 "topload",
                 fmt::format("Topload parts {} ({}) and {} ({}) overlap", first + 1, d.topload[first].shape,
                             second + 1, d.topload[second].shape),
                 "They are computed as one body of metal, joined where they cross. Real parts stand on each other.",
                 fmt::format("Raise part {} by {}", upper + 1, say.length(lift)),
                 lift,
                 0,
                 Dimension::length,
                 [upper, lift](Design& e) { e.topload.at(upper).centre_above_winding_m += lift; }};
}

double lowest_topload(const Design& d) {
  double lowest = 1e9;
  for (const ToploadPart& part : d.topload) lowest = std::min(lowest, topload_extent(part).lowest_m);
  return lowest;
}

Maybe topload_below_winding(const Design& d, const Analysis&, UnitSystem units) {
  if (d.topload.empty()) return {};
  const double lowest = lowest_topload(d);
  if (lowest >= 0) return {};
  const Say say{units};
  return Finding{"topload-below-winding",
                 Severity::warning,
                 "resonator",
                 "topload",
                 fmt::format("The topload hangs {} below the last turn", say.length(-lowest)),
                 "The upper turns then see a steep field and flash over to it.",
                 fmt::format("Raise it by {}", say.length(-lowest)),
                 lowest,
                 0,
                 Dimension::length,
                 [lowest](Design& e) {
                   for (ToploadPart& part : e.topload) part.centre_above_winding_m -= lowest;
                 }};
}

Maybe geometry_impossible(const Design&, const Analysis& a, UnitSystem) {
  if (a.problem.empty()) return {};
  std::string title = a.problem;
  std::string rest = "No resonance is computed until the parts can stand where they are.";
  if (const auto semicolon = a.problem.find("; "); semicolon != std::string::npos) {
    title = a.problem.substr(0, semicolon);
    rest = a.problem.substr(semicolon + 2) + ". " + rest;
  }
  if (!title.empty()) title[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(title[0])));
  if (!rest.empty()) rest[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(rest[0])));
  return Finding{
      "geometry-impossible", Severity::stop, "resonator", "", title, rest, "", 0, 0, Dimension::number, {}};
}

double room_above_topload(const Design& d) {
  double highest = 0;
  for (const ToploadPart& part : d.topload) highest = std::max(highest, topload_extent(part).highest_m);
  return *d.site.ceiling_height_m - d.secondary.base_height_m - d.secondary.winding_length_m - highest;
}

Maybe ceiling_near(const Design& d, const Analysis& a, UnitSystem units) {
  if (!d.site.ceiling_height_m) return {};
  const double room = room_above_topload(d);
  if (room >= a.expected_arc_m.high) return {};
  const Say say{units};
  return Finding{"ceiling-near",
                 Severity::warning,
                 "resonator",
                 "site.ceiling_height_m",
                 fmt::format("{} to the ceiling", say.length(std::max(room, 0.0))),
                 fmt::format("Expected arcs of {} to {} reach it; a dry ceiling burns.",
                             say.arc(a.expected_arc_m.low), say.arc(a.expected_arc_m.high)),
                 "Lower the coil, move it, or run at less power",
                 room,
                 a.expected_arc_m.high,
                 Dimension::length,
                 {}};
}

Maybe wall_near(const Design& d, const Analysis& a, UnitSystem units) {
  if (!d.site.wall_distance_m) return {};
  double rim = d.secondary.form_diameter_m / 2;
  for (const ToploadPart& part : d.topload) rim = std::max(rim, topload_extent(part).radius_m);
  const double room = *d.site.wall_distance_m - rim;
  if (room >= a.expected_arc_m.high) return {};
  const Say say{units};
  return Finding{
      "wall-near",
      Severity::warning,
      "resonator",
      "site.wall_distance_m",
      fmt::format("{} from the topload to the wall", say.length(std::max(room, 0.0))),
      fmt::format("Expected arcs reach {}; wiring in the wall is struck first.", say.arc(a.expected_arc_m.high)),
      "Move the coil away from the wall",
      room,
      a.expected_arc_m.high,
      Dimension::length,
      {}};
}

Maybe coupling_low(const Design& d, const Analysis& a, UnitSystem) {
  const CoilKind* kind = coil_kind(d.kind);
  if (!kind || a.coupling >= kind->coupling_low) return {};
  return Finding{"coupling-low",
                 Severity::note,
                 "primary",
                 "primary.base_height_m",
                 fmt::format("Coupling {:.3f} is loose", a.coupling),
                 fmt::format("{} coils usually work at {:.2f} to {:.2f}; energy then takes more gap time to cross.",
                             kind->title, kind->coupling_low, kind->coupling_high),
                 "Raise the primary, or lower the secondary into it",
                 a.coupling,
                 kind->coupling_low,
                 Dimension::number,
                 {}};
}

Maybe coupling_high(const Design& d, const Analysis& a, UnitSystem) {
  const CoilKind* kind = coil_kind(d.kind);
  if (!kind || a.coupling <= kind->coupling_high) return {};
  return Finding{"coupling-high",
                 a.coupling > 1.4 * kind->coupling_high ? Severity::warning : Severity::note,
                 "primary",
                 "primary.base_height_m",
                 fmt::format("Coupling {:.3f} is tight", a.coupling),
                 fmt::format("{} coils usually work at {:.2f} to {:.2f}; above, sparks race up the winding.",
                             kind->title, kind->coupling_low, kind->coupling_high),
                 "Lower the primary, or raise the secondary",
                 a.coupling,
                 kind->coupling_high,
                 Dimension::number,
                 {}};
}

Maybe primary_clearance(const Design& d, const Analysis& a, UnitSystem units) {
  // One kilovolt for each millimetre: a third of what dry air holds between smooth plates.
  const double wanted = d.gap.firing_voltage_v / 1e3 * 1e-3;
  if (a.primary_clearance_m >= wanted || a.primary_clearance_m <= 0) return {};
  const Say say{units};
  const double widen = std::ceil((wanted - a.primary_clearance_m) * 2000 + 1e-6) / 2000; // whole half millimetres
  return Finding{"primary-clearance",
                 Severity::warning,
                 "primary",
                 "primary.inner_radius_m",
                 fmt::format("{} between primary and secondary", say.length(a.primary_clearance_m)),
                 fmt::format("The gap fires at {}; {} (1 kV for each mm) leaves a margin.",
                             say(d.gap.firing_voltage_v, Dimension::voltage), say.length(wanted)),
                 fmt::format("Widen the primary by {}", say.length(widen)),
                 a.primary_clearance_m,
                 wanted,
                 Dimension::length,
                 [widen](Design& e) { e.primary.inner_radius_m += widen; }};
}

Maybe primary_turns_touch(const Design& d, const Analysis&, UnitSystem units) {
  const Primary& p = d.primary;
  if (p.pitch_m > p.conductor_diameter_m || p.turns <= 1) return {};
  const Say say{units};
  return Finding{"primary-turns-touch",
                 Severity::stop,
                 "primary",
                 "primary.pitch_m",
                 fmt::format("Primary turns touch: pitch {}, conductor {}", say.length(p.pitch_m),
                             say.length(p.conductor_diameter_m)),
                 "Bare turns that touch short out the winding.",
                 fmt::format("Space them {}", say.length(1.5 * p.conductor_diameter_m)),
                 p.pitch_m,
                 p.conductor_diameter_m,
                 Dimension::length,
                 [](Design& e) { e.primary.pitch_m = 1.5 * e.primary.conductor_diameter_m; }};
}

bool has_strike_ring(const Design& d) {
  return std::ranges::count(d.site.grounded_conductors, "strike-ring") > 0;
}

Maybe strike_to_primary(const Design& d, const Analysis& a, UnitSystem units) {
  if (!a.strike_distance_m || *a.strike_distance_m >= a.expected_arc_m.high || has_strike_ring(d)) return {};
  const Say say{units};
  return Finding{"strike-to-primary",
                 Severity::warning,
                 "primary",
                 "strike ring",
                 fmt::format("Strike path to the primary {}", say.length(*a.strike_distance_m)),
                 fmt::format("Expected arc {} to {} reaches it; a strike lifts the tank to the topload's voltage.",
                             say.arc(a.expected_arc_m.low), say.arc(a.expected_arc_m.high)),
                 "Fit a grounded strike ring above the outer turn",
                 *a.strike_distance_m,
                 a.expected_arc_m.high,
                 Dimension::length,
                 [](Design& e) { e.site.grounded_conductors.emplace_back("strike-ring"); }};
}

Maybe strike_field_high(const Design& d, const Analysis& a, UnitSystem units) {
  // Streamers cross a gap where the mean field is above about 5 kV/cm (CIGRE brochure 72 for positive streamers in
  // long gaps; value from memory).
  constexpr double limit = 5e5;
  if (a.strike_field_v_per_m <= limit || has_strike_ring(d) || strike_to_primary(d, a, units)) return {};
  const Say say{units};
  const double wanted = top_voltage_v(a) / limit;
  return Finding{"strike-field-high",
                 Severity::warning,
                 "primary",
                 "strike ring",
                 fmt::format("{:.1f} kV/cm from the topload to the primary", a.strike_field_v_per_m / 1e5),
                 fmt::format("{} at the top over {}. Streamers cross at about 5 kV/cm.",
                             say(top_voltage_v(a), Dimension::voltage), say.length(*a.strike_distance_m)),
                 fmt::format("Keep {}, or fit a grounded strike ring", say.length(wanted)),
                 a.strike_field_v_per_m / 1e5,
                 limit / 1e5,
                 Dimension::number,
                 [](Design& e) { e.site.grounded_conductors.emplace_back("strike-ring"); }};
}

Maybe primary_field_high(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr double limit = winding_field_limit_v_per_m;
  if (a.primary_field_v_per_m <= limit || primary_clearance(d, a, units)) return {};
  const Say say{units};
  const double widen = std::ceil(a.primary_widen_m * 1.05 * 1e3) / 1e3; // the voltage shifts a little on the way
  return Finding{"primary-field-high",
                 Severity::warning,
                 "primary",
                 "primary.inner_radius_m",
                 fmt::format("{:.1f} kV/mm between winding and primary", a.primary_field_v_per_m / 1e6),
                 fmt::format("At breakout, with the gap's {} on the primary; {:.1f} kV/mm is the limit.",
                             say(d.gap.firing_voltage_v, Dimension::voltage), limit / 1e6),
                 fmt::format("Widen the primary by {}, or lower it", say.length(widen)),
                 a.primary_field_v_per_m / 1e6,
                 limit / 1e6,
                 Dimension::number,
                 [widen](Design& e) { e.primary.inner_radius_m += widen; }};
}

Maybe turn_voltage_high(const Design& d, const Analysis& a, UnitSystem units) {
  // Air alone between bare wires: 1 kV for each millimetre, as for the primary, and 500 V for the enamel (single
  // build, the lower end of common practice).
  const double gap = d.secondary.winding_length_m / d.secondary.turns - d.secondary.wire_bare_diameter_m;
  const double limit = 500 + 1e6 * std::max(0.0, gap);
  if (!a.resonator || a.turn_voltage_v <= limit) return {};
  const Say say{units};
  return Finding{"turn-voltage-high",
                 Severity::warning,
                 "resonator",
                 "secondary.turns",
                 fmt::format("{} between neighbouring turns", say(a.turn_voltage_v, Dimension::voltage)),
                 fmt::format("At breakout, where the winding is steepest. Enamel and spacing hold about {}.",
                             say(limit, Dimension::voltage)),
                 "More turns, a longer winding, or varnish",
                 a.turn_voltage_v,
                 limit,
                 Dimension::voltage,
                 {}};
}

Maybe never_breaks_out(const Design&, const Analysis& a, UnitSystem units) {
  if (!a.breakout || a.breakout->voltage_v <= a.top_voltage_limit_v) return {};
  const Say say{units};
  return Finding{"never-breaks-out",
                 Severity::note,
                 "resonator",
                 "breakout.point_length_m",
                 fmt::format("The topload holds {}", say(a.breakout->voltage_v, Dimension::voltage)),
                 fmt::format("The tank can lift it to {} at the very most: no arc leaves it by itself.",
                             say(a.top_voltage_limit_v, Dimension::voltage)),
                 "Fit a breakout point, or a smaller tube",
                 a.breakout->voltage_v,
                 a.top_voltage_limit_v,
                 Dimension::voltage,
                 [](Design& e) {
                   e.breakout.point_length_m = 0.03;
                   e.breakout.point_tip_radius_m = 0.001;
                 }};
}

Maybe tap_beyond_last(const Design& d, const Analysis&, UnitSystem) {
  if (d.primary.tap_turns <= d.primary.turns) return {};
  return Finding{"tap-beyond-last",
                 Severity::stop,
                 "primary",
                 "primary.tap_turns",
                 fmt::format("The clip is at turn {:.2f} of {:.4g}", d.primary.tap_turns, d.primary.turns),
                 "There is no conductor there; the numbers are for the last turn.",
                 fmt::format("Clip at {:.4g}", d.primary.turns),
                 d.primary.tap_turns,
                 d.primary.turns,
                 Dimension::number,
                 [](Design& e) { e.primary.tap_turns = e.primary.turns; }};
}

Maybe tank_off_tune(const Design& d, const Analysis& a, UnitSystem units) {
  if (a.target_hz <= 0 || !a.tuned_tap_turns) return {};
  const double off = a.tank_hz / a.target_hz - 1;
  if (std::abs(off) < 0.01) return {};
  const Say say{units};
  const double move = *a.tuned_tap_turns - std::min(d.primary.tap_turns, d.primary.turns);
  return Finding{"tank-off-tune",
                 std::abs(off) > 0.1 ? Severity::stop : Severity::warning,
                 "primary",
                 "primary.tap_turns",
                 fmt::format("Tank is {:.1f} % {} for the coil", std::abs(off) * 100, off > 0 ? "high" : "low"),
                 fmt::format("{} against {}, {}. At this clip {} would be in tune.",
                             say(a.tank_hz, Dimension::frequency, 4), say(a.target_hz, Dimension::frequency, 4),
                             a.target_source, say(*a.tuned_capacitance_f, Dimension::capacitance)),
                 fmt::format("Move the clip {} {:.2f} turn, to {:.2f}", move > 0 ? "out" : "in", std::abs(move),
                             *a.tuned_tap_turns),
                 off * 100,
                 1,
                 Dimension::percent,
                 [tap = *a.tuned_tap_turns](Design& e) { e.primary.tap_turns = std::round(tap * 1000) / 1000; }};
}

// Ratio of present to wanted capacitance when the whole primary cannot reach the resonator.
Maybe tank_cannot_tune(const Design& d, const Analysis& a, UnitSystem units) {
  if (a.target_hz <= 0 || a.tuned_tap_turns || a.tap_curve.empty()) return {};
  const Say say{units};
  const bool too_high = a.tap_curve.back().tank_hz > a.target_hz;
  const double needed = resonating_capacitance_f(a.tap_curve.back().inductance_h, a.target_hz);
  const double ratio = *a.tuned_capacitance_f / a.tank_capacitance_f;
  if (ratio > 100 || ratio < 0.01) return {}; // capacitance_slipped says it better
  return Finding{
      "tank-cannot-tune",
      Severity::stop,
      "tank",
      "tank.capacitance_f",
      too_high ? fmt::format("No clip reaches {}", say(a.target_hz, Dimension::frequency, 4))
               : fmt::format("Even the first turn is below {}", say(a.target_hz, Dimension::frequency, 4)),
      too_high ? fmt::format("With all {:.4g} turns the tank is at {}.", d.primary.turns,
                             say(a.tap_curve.back().tank_hz, Dimension::frequency, 4))
               : "The capacitance is too large for this coil.",
      too_high ? fmt::format("Raise the capacitance above {}, or add turns", say(needed, Dimension::capacitance))
               : "Use less capacitance",
      a.tank_hz,
      a.target_hz,
      Dimension::frequency,
      {}};
}

Maybe capacitance_slipped(const Design&, const Analysis& a, UnitSystem units) {
  if (!a.tuned_capacitance_f) return {};
  const double ratio = a.tank_capacitance_f / *a.tuned_capacitance_f;
  if (ratio < 100 && ratio > 0.01) return {};
  const Say say{units};
  const double factor = ratio > 1 ? 1e-3 : 1e3;
  return Finding{"capacitance-slipped",
                 Severity::stop,
                 "tank",
                 "tank.capacitance_f",
                 fmt::format("Is {} a slip of a thousand?", say(a.tank_capacitance_f, Dimension::capacitance)),
                 fmt::format("This coil wants about {}. Markings mislead: a foreign “470 N” means 470 pF.",
                             say(*a.tuned_capacitance_f, Dimension::capacitance)),
                 fmt::format("Take it as {}", say(a.tank_capacitance_f * factor, Dimension::capacitance)),
                 a.tank_capacitance_f,
                 *a.tuned_capacitance_f,
                 Dimension::capacitance,
                 [factor](Design& e) { scale_tank(e.tank, factor); }};
}

Maybe unit_over_voltage(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr double share = usual_rating_share;
  if (!a.unit_used || *a.unit_used <= share) return {};
  const double used = *a.unit_used;
  const Say say{units};
  const bool bank = d.tank.sections.empty() && d.tank.unit_capacitance_f.has_value();
  double needed = 1;
  const double tolerance = bank_sections(d.tank).front().tolerance;
  if (bank)
    while (needed < 100 && d.gap.firing_voltage_v * worst_share(needed, tolerance) > share * *d.tank.unit_voltage_v)
      ++needed;
  const double strings =
      bank ? std::max(1.0, std::round(d.tank.units_in_parallel * needed / d.tank.units_in_series)) : 1;
  return Finding{"unit-over-voltage",
                 used > 1 ? Severity::stop : Severity::warning,
                 "tank",
                 "tank.unit_voltage_v",
                 fmt::format("A unit at {:.0f} % of its rating", used * 100),
                 fmt::format("{} peak on each when the gap fires at {}; with tolerances at their worst one of them "
                             "reaches {:.0f} % of its rating. Limit 80 %.",
                             say(a.unit_voltage_v, Dimension::voltage),
                             say(d.gap.firing_voltage_v, Dimension::voltage), used * 100),
                 bank ? fmt::format("Put {:.0f} in series, {:.0f} strings in parallel", needed, strings)
                      : "Use units with a higher rating, or more in series",
                 used * 100,
                 share * 100,
                 Dimension::percent,
                 bank ? std::function<void(Design&)>([needed, strings](Design& e) {
                   e.tank.units_in_series = needed;
                   e.tank.units_in_parallel = strings;
                 })
                      : nullptr};
}

Maybe rating_unknown(const Design&, const Analysis& a, UnitSystem) {
  if (a.unit_used) return {};
  return Finding{"rating-unknown",
                 Severity::note,
                 "tank",
                 "tank.unit_voltage_v",
                 "The capacitor's voltage rating is not entered",
                 "Peak voltage decides how long a tank capacitor lives.",
                 "Enter the rating of one unit",
                 0,
                 0,
                 Dimension::voltage,
                 {}};
}

Maybe energy_hazardous(const Design&, const Analysis& a, UnitSystem units) {
  if (a.stored_energy_j <= hazardous_energy_j) return {};
  const Say say{units};
  return Finding{
      "energy-hazardous",
      Severity::note,
      "tank",
      "gap.firing_voltage_v",
      fmt::format("The tank stores {}", say(a.stored_energy_j, Dimension::energy)),
      fmt::format("Above {} stored energy counts as hazardous live (IEC 61010-1). It can kill after switch-off.",
                  say(hazardous_energy_j, Dimension::energy)),
      "Bleeders, a grounding stick, and the clip left on",
      a.stored_energy_j,
      hazardous_energy_j,
      Dimension::energy,
      {}};
}

Maybe no_bleeder(const Design& d, const Analysis& a, UnitSystem units) {
  if (d.tank.bleed_resistance_ohm) return {};
  const Say say{units};
  const double tank_r = bleed_resistance_ohm(a.tank_capacitance_f, std::max(d.gap.firing_voltage_v, 100.0), 10);
  Tank trial = d.tank;
  trial.bleed_resistance_ohm = 1;
  const double each = tank_r / *tank_bleed_resistance_ohm(trial);
  const double round = std::pow(10, std::floor(std::log10(each)));
  const double nearest = std::max(round, std::floor(each / round) * round);
  return Finding{"no-bleeder",
                 Severity::warning,
                 "tank",
                 "tank.bleed_resistance_ohm",
                 "No bleeder on the tank",
                 "Capacitors stay charged and recharge themselves. Some builders rely on a shorting clip alone; "
                 "High Arc asks for both.",
                 fmt::format("Put {} across each unit: below {} in 10 s", say(nearest, Dimension::resistance),
                             say(bled_target_v, Dimension::voltage)),
                 0,
                 0,
                 Dimension::resistance,
                 [nearest](Design& e) { e.tank.bleed_resistance_ohm = nearest; }};
}

Maybe bleed_slow(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr double longest = 30;
  if (!a.bleed_time_s || *a.bleed_time_s <= longest) return {};
  const Say say{units};
  const double each = *d.tank.bleed_resistance_ohm * 10 / *a.bleed_time_s;
  return Finding{"bleed-slow",
                 Severity::warning,
                 "tank",
                 "tank.bleed_resistance_ohm",
                 fmt::format("{} to bleed down to {}", say(*a.bleed_time_s, Dimension::time),
                             say(bled_target_v, Dimension::voltage)),
                 fmt::format("Hands move sooner than that; aim below {}.", say(longest, Dimension::time)),
                 fmt::format("Use about {} on each unit", say(each, Dimension::resistance, 2)),
                 *a.bleed_time_s,
                 longest,
                 Dimension::time,
                 {}};
}

Maybe measured_disagrees(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr double largest = 3; // standard deviations
  const auto worst = std::ranges::max_element(a.evidence, {}, [](const Evidence& e) { return std::abs(e.misfit); });
  if (worst == a.evidence.end() || std::abs(worst->misfit) <= largest) return {};
  const Measurement& m = d.measurements[static_cast<std::size_t>(worst - a.evidence.begin())];
  const Say say{units};
  const auto& why = a.influences.at(m.kind == "tank"                 ? "tank_hz"
                                    : m.kind == "winding-inductance" ? "secondary_inductance_h"
                                                                     : "mode_1_hz");
  const MeasuredNumber& number = measurement_kind(m.kind)->value;
  return Finding{
      "measured-disagrees",
      Severity::warning,
      "tune",
      "measurements",
      fmt::format("The measured {} does not fit", say(m.*number.member, number.dimension)),
      fmt::format("It is {:.1f} standard deviations {} what the inputs and a meter allow; {:.0f} is the limit.",
                  std::abs(worst->misfit), worst->misfit > 0 ? "above" : "below", largest),
      why.empty() ? "Check the inputs" : fmt::format("Check the {} first: it counts most", why.front().input),
      std::abs(worst->misfit),
      largest,
      Dimension::number,
      {}};
}

constexpr std::array<FindingRule, 32> rules{topload_parts_cross,
                                            strike_field_high,
                                            primary_field_high,
                                            geometry_impossible,
                                            winding_does_not_fit,
                                            winding_too_perfect,
                                            winding_has_gaps,
                                            wire_too_thin,
                                            enamel_thinner_than_wire,
                                            form_margin_small,
                                            shape_out_of_band,
                                            topload_missing,
                                            topload_below_winding,
                                            ceiling_near,
                                            wall_near,
                                            coupling_low,
                                            coupling_high,
                                            primary_clearance,
                                            primary_turns_touch,
                                            strike_to_primary,
                                            tap_beyond_last,
                                            tank_off_tune,
                                            tank_cannot_tune,
                                            capacitance_slipped,
                                            unit_over_voltage,
                                            rating_unknown,
                                            energy_hazardous,
                                            no_bleeder,
                                            turn_voltage_high,
                                            never_breaks_out,
                                            bleed_slow,
                                            measured_disagrees};

} // namespace

std::span<const FindingRule> finding_rules() {
  return rules;
}

std::vector<Finding> find_all(const Design& design, const Analysis& analysis, UnitSystem units) {
  std::vector<Finding> out;
  for (const FindingRule rule : rules)
    if (auto finding = rule(design, analysis, units)) out.push_back(std::move(*finding));
  std::ranges::stable_sort(out, {}, [](const Finding& f) { return static_cast<int>(f.severity); });
  return out;
}

std::string_view severity_name(Severity severity) {
  return severity == Severity::stop ? "stop" : severity == Severity::warning ? "warning" : "note";
}

} // namespace arc
