// Findings on winding, topload and the room around them. Limits are common practice of coil builders (no source)
// unless a source is named.
#include "analysis/findings.h"
#include "coil/analysis.h"
#include "craft/kind.h"
#include "evidence/tuning.h"
#include "parts/topload.h"
#include "parts/wire.h"
#include "quantity/say.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;

Maybe topload_parts_cross(const Design& d, const Analysis&, UnitSystem units) {
  const auto pair = crossing_parts(d.topload);
  if (!pair) return {};
  const auto [first, second] = *pair;
  const bool second_above =
      topload_extent(d.topload[second]).highest_m >= topload_extent(d.topload[first]).highest_m;
  const std::size_t lower = second_above ? first : second, upper = second_above ? second : first;
  const double lift = std::ceil(lift_to_clear(d.topload[lower], d.topload[upper]) * 1e3) / 1e3;
  const Say say{units};
  return Finding{
      .id = "topload-parts-cross",
      .severity = Severity::warning,
      .stage = "resonator",
      .field = "topload",
      .title = fmt::format("Topload parts {} ({}) and {} ({}) overlap", first + 1, d.topload[first].shape,
                           second + 1, d.topload[second].shape),
      .text = "They are computed as one body of metal, joined where they cross. Real parts stand on each other.",
      .remedy = fmt::format("Raise part {} by {}", upper + 1, say.length(lift)),
      .value = lift,
      .limit = 0,
      .dimension = Dimension::length,
      .apply = [upper, lift](Design& e) {
        if (upper < e.topload.size()) e.topload[upper].centre_above_winding_m += lift;
      }};
}

Maybe winding_does_not_fit(const Design& d, const Analysis& a, UnitSystem units) {
  if (a.packing <= 1.0) return {};
  const Say say{units};
  const double needed = d.secondary.turns * d.secondary.wire_overall_diameter_m;
  return Finding{
      .id = "winding-does-not-fit",
      .severity = Severity::stop,
      .stage = "resonator",
      .field = "secondary.turns",
      .title =
          fmt::format("{:.0f} turns do not fit in {}", d.secondary.turns, say.length(d.secondary.winding_length_m)),
      .text = fmt::format("Close-wound they need {}; hand winding takes 3 to 10 % more.", say.length(needed)),
      .remedy = fmt::format("Wind {:.0f} turns", std::floor(turns_from_length(d.secondary.winding_length_m,
                                                                              d.secondary.wire_overall_diameter_m,
                                                                              hand_winding_allowance))),
      .value = needed,
      .limit = d.secondary.winding_length_m,
      .dimension = Dimension::length,
      .apply = [](Design& e) {
        e.secondary.turns = std::floor(turns_from_length(
            e.secondary.winding_length_m, e.secondary.wire_overall_diameter_m, hand_winding_allowance));
      }};
}

Maybe winding_too_perfect(const Design& d, const Analysis& a, UnitSystem) {
  if (a.packing <= 0.985 || a.packing > 1.0) return {};
  return Finding{.id = "winding-too-perfect",
                 .severity = Severity::note,
                 .stage = "resonator",
                 .field = "secondary.turns",
                 .title = fmt::format("Fill factor {:.1f} %", a.packing * 100),
                 .text = "A hand-wound coil holds 3 to 10 % fewer turns than close packing promises.",
                 .remedy =
                     fmt::format("Count the turns, or expect about {:.0f}",
                                 turns_from_length(d.secondary.winding_length_m,
                                                   d.secondary.wire_overall_diameter_m, hand_winding_allowance)),
                 .value = a.packing * 100,
                 .limit = 97,
                 .dimension = Dimension::percent};
}

Maybe winding_has_gaps(const Design& d, const Analysis& a, UnitSystem units) {
  if (a.packing >= 0.85 || !kind_of(d).close_wound) return {};
  const double turns = std::floor(
      turns_from_length(d.secondary.winding_length_m, d.secondary.wire_overall_diameter_m, hand_winding_allowance));
  return Finding{.id = "winding-has-gaps",
                 .severity = Severity::note,
                 .stage = "resonator",
                 .field = "secondary.turns",
                 .title = fmt::format("{:.0f} % of the winding is gaps", (1 - a.packing) * 100),
                 .text = fmt::format(
                     "{} would hold {:.0f} hand-wound turns of this wire. Fine if it is space-wound on purpose.",
                     Say{units}.length(d.secondary.winding_length_m), turns),
                 .remedy = "Check the turn count",
                 .value = (1 - a.packing) * 100,
                 .limit = 15,
                 .dimension = Dimension::percent};
}

Maybe wire_too_thin(const Design& d, const Analysis&, UnitSystem units) {
  constexpr double thinnest = 0.1e-3;
  if (d.secondary.wire_bare_diameter_m >= thinnest) return {};
  const Say say{units};
  return Finding{.id = "wire-too-thin",
                 .severity = Severity::warning,
                 .stage = "resonator",
                 .field = "secondary.wire_bare_diameter_m",
                 .title = fmt::format("{} wire is hard to wind by hand",
                                      say(d.secondary.wire_bare_diameter_m, Dimension::wire_diameter)),
                 .text = fmt::format("Below {} it breaks easily, and its resistance costs Q.",
                                     say(thinnest, Dimension::wire_diameter, 2)),
                 .remedy = "Use thicker wire, or a motor jig with a slipping brake",
                 .value = d.secondary.wire_bare_diameter_m,
                 .limit = thinnest,
                 .dimension = Dimension::wire_diameter};
}

Maybe enamel_thinner_than_wire(const Design& d, const Analysis&, UnitSystem units) {
  const Secondary& s = d.secondary;
  if (s.wire_overall_diameter_m >= s.wire_bare_diameter_m) return {};
  const Say say{units};
  return Finding{.id = "enamel-thinner-than-wire",
                 .severity = Severity::stop,
                 .stage = "resonator",
                 .field = "secondary.wire_overall_diameter_m",
                 .title = fmt::format("The wire over enamel ({}) is thinner than the bare wire",
                                      say(s.wire_overall_diameter_m, Dimension::wire_diameter)),
                 .text = fmt::format("Bare it is {}; the enamel adds to that.",
                                     say(s.wire_bare_diameter_m, Dimension::wire_diameter)),
                 .remedy = fmt::format("Take {} (grade 1 enamel)",
                                       say(overall_diameter_m(s.wire_bare_diameter_m, EnamelGrade::grade_1),
                                           Dimension::wire_diameter)),
                 .value = s.wire_overall_diameter_m,
                 .limit = s.wire_bare_diameter_m,
                 .dimension = Dimension::wire_diameter,
                 .apply = [](Design& e) {
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
  return Finding{
      .id = "form-margin-small",
      .severity = margin < 0 ? Severity::stop : Severity::warning,
      .stage = "resonator",
      .field = "secondary.form_length_m",
      .title = margin < 0 ? fmt::format("The winding is {} longer than its form", say.length(-2 * margin))
                          : fmt::format("Only {} of bare form at each end", say.length(margin)),
      .text = fmt::format("About {} keeps the end turns from flashing over the rim.", say.length(wanted)),
      .remedy = fmt::format("Wind no more than {}", say.length(*d.secondary.form_length_m - 2 * wanted)),
      .value = margin,
      .limit = wanted,
      .dimension = Dimension::length};
}

Maybe shape_out_of_band(const Design&, const Analysis& a, UnitSystem) {
  constexpr double low = 3, high = 6;
  const double ratio = a.height_to_diameter;
  if (ratio >= low && ratio <= high) return {};
  const bool squat = ratio < low;
  return Finding{
      .id = "shape-out-of-band",
      .severity = Severity::note,
      .stage = "resonator",
      .field = "secondary.winding_length_m",
      .title = fmt::format("Height is {:.1f} times the diameter", ratio),
      .text = squat ? "Most coils are 3 to 6. Squat coils couple hard and arc to the primary sooner."
                    : "Most coils are 3 to 6. Tall coils need a large topload, or arcs leave the upper winding.",
      .remedy = squat ? "Wind longer, or use a narrower form" : "Wind shorter, or use a wider form",
      .value = ratio,
      .limit = squat ? low : high,
      .dimension = Dimension::number};
}

Maybe topload_missing(const Design& d, const Analysis&, UnitSystem) {
  if (!d.topload.empty() || !kind_of(d).topload_usual) return {};
  return Finding{
      .id = "topload-missing",
      .severity = Severity::note,
      .stage = "resonator",
      .title = "No topload",
      .text =
          "The voltage breaks out at the last turn before it can build; the end of the winding burns. Some want "
          "exactly that, for a lamp or a brush discharge.",
      .remedy = "Add a toroid for longer arcs",
      .value = 0,
      .limit = 0,
      .dimension = Dimension::number};
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
  return Finding{.id = "topload-below-winding",
                 .severity = Severity::warning,
                 .stage = "resonator",
                 .field = "topload",
                 .title = fmt::format("The topload hangs {} below the last turn", say.length(-lowest)),
                 .text = "The upper turns then see a steep field and flash over to it.",
                 .remedy = fmt::format("Raise it by {}", say.length(-lowest)),
                 .value = lowest,
                 .limit = 0,
                 .dimension = Dimension::length,
                 .apply = [lowest](Design& e) {
                   for (ToploadPart& part : e.topload) part.centre_above_winding_m -= lowest;
                 }};
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
  return Finding{.id = "ceiling-near",
                 .severity = Severity::warning,
                 .stage = "resonator",
                 .field = "site.ceiling_height_m",
                 .title = fmt::format("{} to the ceiling", say.length(std::max(room, 0.0))),
                 .text = fmt::format("Expected arcs of {} to {} reach it; a dry ceiling burns.",
                                     say.arc(a.expected_arc_m.low), say.arc(a.expected_arc_m.high)),
                 .remedy = "Lower the coil, move it, or run at less power",
                 .value = room,
                 .limit = a.expected_arc_m.high,
                 .dimension = Dimension::length};
}

Maybe wall_near(const Design& d, const Analysis& a, UnitSystem units) {
  if (!d.site.wall_distance_m) return {};
  double rim = d.secondary.form_diameter_m / 2;
  for (const ToploadPart& part : d.topload) rim = std::max(rim, topload_extent(part).radius_m);
  const double room = *d.site.wall_distance_m - rim;
  if (room >= a.expected_arc_m.high) return {};
  const Say say{units};
  return Finding{.id = "wall-near",
                 .severity = Severity::warning,
                 .stage = "resonator",
                 .field = "site.wall_distance_m",
                 .title = fmt::format("{} from the topload to the wall", say.length(std::max(room, 0.0))),
                 .text = fmt::format("Expected arcs reach {}; wiring in the wall is struck first.",
                                     say.arc(a.expected_arc_m.high)),
                 .remedy = "Move the coil away from the wall",
                 .value = room,
                 .limit = a.expected_arc_m.high,
                 .dimension = Dimension::length};
}

Maybe turn_voltage_high(const Design& d, const Analysis& a, UnitSystem units) {
  // Two enamels lie between neighbours: some 110 kV a millimetre of them in the twisted-pair test of IEC 60317-0-1
  // (4.4 kV for 0.4 mm of grade 2; value from memory), 5 kV at most, of which a quarter is taken for radio
  // frequency; and 1 kV for each millimetre of air, as for the primary.
  const double enamel_m = std::max(0.0, d.secondary.wire_overall_diameter_m - d.secondary.wire_bare_diameter_m);
  const double air_m = d.secondary.winding_length_m / d.secondary.turns - d.secondary.wire_overall_diameter_m;
  const double limit = std::min(5000.0, 110e6 * enamel_m) / 4 + 1e6 * std::max(0.0, air_m);
  if (!a.resonator || a.turn_voltage_v <= limit) return {};
  const Say say{units};
  return Finding{
      .id = "turn-voltage-high",
      .severity = Severity::warning,
      .stage = "resonator",
      .field = "secondary.turns",
      .title = fmt::format("Turn-to-turn voltage {}", say(a.turn_voltage_v, Dimension::voltage)),
      .text = fmt::format("At breakout, where the winding is steepest. A quarter of the enamel's test volts, "
                          "and the spacing, are {}.",
                          say(limit, Dimension::voltage)),
      .remedy = "More turns, a longer winding, or varnish",
      .value = a.turn_voltage_v,
      .limit = limit,
      .dimension = Dimension::voltage};
}

// Of what the inputs are learned from: anything else says itself what its difference means.
Maybe measured_disagrees(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr double largest = 3; // standard deviations
  const Evidence* worst = nullptr;
  const MeasurementKind* kind = nullptr;
  double measured = 0;
  for (std::size_t i = 0; i < a.evidence.size(); ++i) {
    const MeasurementKind* row = measurement_kind(d.measurements[i].kind);
    if (row->result.empty() || (worst && std::abs(a.evidence[i].misfit) <= std::abs(worst->misfit))) continue;
    worst = &a.evidence[i];
    kind = row;
    measured = d.measurements[i].*row->value.member;
  }
  if (!worst || std::abs(worst->misfit) <= largest) return {};
  // First what the measurements that fit leave open.
  const auto open = a.influences.find(fmt::format("evidence {}", worst - a.evidence.data()));
  const auto& why = open != a.influences.end() ? open->second : a.influences.at(std::string(kind->result));
  std::string check = "Check the inputs";
  for (std::size_t i = 0; i < why.size() && i < 3; ++i) {
    if (i > 0 && std::abs(why[i].change) < 0.3 * std::abs(why.front().change)) break;
    check = i == 0 ? fmt::format("Check the {} first", why[i].input)
                   : fmt::format("{}, then the {}", check, why[i].input);
  }
  if (!why.empty()) check += a.evidence.size() > 1 ? ": what was measured leaves that open" : ": it counts most";
  return Finding{.id = "measured-disagrees",
                 .severity = Severity::warning,
                 .stage = "tune",
                 .field = "measurements",
                 .title = fmt::format("The measured {} does not fit", Say{units}(measured, kind->value.dimension)),
                 .text = fmt::format(
                     "It is {:.1f} standard deviations {} what the inputs and a meter allow; {:.0f} is the limit.",
                     std::abs(worst->misfit), worst->misfit > 0 ? "above" : "below", largest),
                 .remedy = check,
                 .value = std::abs(worst->misfit),
                 .limit = largest,
                 .dimension = Dimension::number};
}

constexpr std::array<FindingRule, 15> winding_table{
    topload_parts_cross, geometry_impossible, winding_does_not_fit,     winding_too_perfect,
    winding_has_gaps,    wire_too_thin,       enamel_thinner_than_wire, form_margin_small,
    shape_out_of_band,   topload_missing,     topload_below_winding,    ceiling_near,
    wall_near,           turn_voltage_high,   measured_disagrees};

} // namespace

std::optional<Finding> geometry_impossible(const Design&, const Analysis& a, UnitSystem) {
  if (a.problem.empty()) return {};
  std::string title = a.problem;
  std::string rest = "No resonance is computed until the parts can stand where they are.";
  if (const auto semicolon = a.problem.find("; "); semicolon != std::string::npos) {
    title = a.problem.substr(0, semicolon);
    rest = a.problem.substr(semicolon + 2) + ". " + rest;
  }
  if (!title.empty()) title[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(title[0])));
  if (!rest.empty()) rest[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(rest[0])));
  return Finding{.id = "geometry-impossible",
                 .severity = Severity::stop,
                 .stage = "resonator",
                 .title = title,
                 .text = rest,
                 .remedy = "",
                 .value = 0,
                 .limit = 0,
                 .dimension = Dimension::number};
}

std::span<const FindingRule> winding_rules() {
  return winding_table;
}

} // namespace arc
