// Findings on tuning, on the tank capacitor and on what was measured. Limits are common practice of coil builders
// (no source) unless a source is named.
#include "analysis/findings.h"
#include "analysis/tank_at_rest.h"
#include "coil/analysis.h"
#include "crafts/spark_gap/spark_gap.h"
#include "parts/bank.h"
#include "quantity/say.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;

Maybe tap_beyond_last(const Design& d, const Analysis&, UnitSystem) {
  if (d.primary.tap_turns <= d.primary.turns) return {};
  return Finding{.id = "tap-beyond-last",
                 .severity = Severity::stop,
                 .stage = "primary",
                 .field = "primary.tap_turns",
                 .title = fmt::format("The tap is at turn {:.2f} of {:.4g}", d.primary.tap_turns, d.primary.turns),
                 .text = "There is no conductor there; the numbers are for the last turn.",
                 .remedy = fmt::format("Tap at {:.4g}", d.primary.turns),
                 .value = d.primary.tap_turns,
                 .limit = d.primary.turns,
                 .dimension = Dimension::number,
                 .apply = [](Design& e) { e.primary.tap_turns = e.primary.turns; }};
}

// A slip of the capacitance, a clip that is off, or no clip that would do: never two of them.
Maybe tank_against_coil(const Design& d, const Analysis& a, UnitSystem units) {
  if (Maybe slip = capacitance_slipped(d, a, units)) return slip;
  return a.tuned_tap_turns ? tank_off_tune(d, a, {.warn = 0.01, .stop = 0.1}, units)
                           : tank_cannot_tune(d, a, {.warn = 0, .stop = 0}, units);
}

Maybe unit_over_voltage(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr double share = usual_rating_share;
  if (!a.unit_used || *a.unit_used <= share) return {};
  const double used = *a.unit_used;
  const Say say{units};
  const bool bank = tank_given(d.tank) == TankGiven::equal_units;
  double needed = 1;
  const double tolerance = bank_sections(d.tank).front().tolerance;
  if (bank)
    while (needed < 100 && d.gap.firing_voltage_v * worst_share(needed, tolerance) > share * *d.tank.unit_voltage_v)
      ++needed;
  const double strings =
      bank ? std::max(1.0, std::round(d.tank.units_in_parallel * needed / d.tank.units_in_series)) : 1;
  return Finding{
      .id = "unit-over-voltage",
      .severity = used > 1 ? Severity::stop : Severity::warning,
      .stage = "tank",
      .field = "tank.unit_voltage_v",
      .title = fmt::format("A unit at {:.0f} % of its rating", used * 100),
      .text = fmt::format("{} peak on {} when the gap fires at {}; with tolerances at their worst one of them "
                          "reaches {:.0f} % of its rating. Limit 80 %.",
                          say(a.unit_voltage_v, Dimension::voltage),
                          a.fullest_unit.empty() ? "each" : "the worst-loaded, " + a.fullest_unit,
                          say(d.gap.firing_voltage_v, Dimension::voltage), used * 100),
      .remedy = bank ? fmt::format("Put {:.0f} in series, {:.0f} {} in parallel", needed, strings,
                                   strings == 1 ? "string" : "strings")
                     : "Use units with a higher rating, or more in series",
      .value = used * 100,
      .limit = share * 100,
      .dimension = Dimension::percent,
      .apply = bank ? std::function<void(Design&)>([needed, strings](Design& e) {
        e.tank.units_in_series = needed;
        e.tank.units_in_parallel = strings;
      })
                    : nullptr};
}

Maybe rating_unknown(const Design&, const Analysis& a, UnitSystem) {
  if (a.unit_used) return {};
  return Finding{.id = "rating-unknown",
                 .severity = Severity::note,
                 .stage = "tank",
                 .field = "tank.unit_voltage_v",
                 .title = "The capacitor's voltage rating is not entered",
                 .text = "Peak voltage decides how long a tank capacitor lives.",
                 .remedy = "Enter the rating of one unit",
                 .value = 0,
                 .limit = 0,
                 .dimension = Dimension::voltage};
}

Maybe energy_hazardous(const Design&, const Analysis& a, UnitSystem units) {
  if (a.stored_energy_j <= hazardous_energy_j) return {};
  const Say say{units};
  return Finding{.id = "energy-hazardous",
                 .severity = Severity::note,
                 .stage = "tank",
                 .field = "gap.firing_voltage_v",
                 .title = fmt::format("The tank stores {}", say(a.stored_energy_j, Dimension::energy)),
                 .text = fmt::format(
                     "Above {} stored energy counts as hazardous live (IEC 61010-1). It can kill after switch-off.",
                     say(hazardous_energy_j, Dimension::energy)),
                 .remedy = "Bleeders, a grounding stick, and the clip left on",
                 .value = a.stored_energy_j,
                 .limit = hazardous_energy_j,
                 .dimension = Dimension::energy};
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
  return Finding{
      .id = "no-bleeder",
      .severity = Severity::warning,
      .stage = "tank",
      .field = "tank.bleed_resistance_ohm",
      .title = "No bleeder on the tank",
      .text = "Capacitors stay charged and recharge themselves. Some builders rely on a shorting clip alone; "
              "High Arc asks for both.",
      .remedy = fmt::format("Put {} across each unit: below {} in 10 s", say(nearest, Dimension::resistance),
                            say(bled_target_v, Dimension::voltage)),
      .value = 0,
      .limit = 0,
      .dimension = Dimension::resistance,
      .apply = [nearest](Design& e) { e.tank.bleed_resistance_ohm = nearest; }};
}

Maybe bleed_slow(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr double longest = 30;
  if (!a.bleed_time_s || *a.bleed_time_s <= longest) return {};
  const Say say{units};
  const double each = *d.tank.bleed_resistance_ohm * 10 / *a.bleed_time_s;
  return Finding{
      .id = "bleed-slow",
      .severity = Severity::warning,
      .stage = "tank",
      .field = "tank.bleed_resistance_ohm",
      .title = fmt::format("{} to bleed down to {}", say(*a.bleed_time_s, Dimension::time),
                           say(bled_target_v, Dimension::voltage)),
      .text = fmt::format("Too slow: people reach in sooner. Use {} or less.", say(longest, Dimension::time)),
      .remedy = fmt::format("Use about {} on each unit", say(each, Dimension::resistance, 2)),
      .value = *a.bleed_time_s,
      .limit = longest,
      .dimension = Dimension::time};
}

Maybe never_breaks_out(const Design&, const Analysis& a, UnitSystem units) {
  if (!a.breakout || a.breakout->voltage_v <= a.top_voltage_limit_v) return {};
  const Say say{units};
  return Finding{.id = "never-breaks-out",
                 .severity = Severity::note,
                 .stage = "resonator",
                 .field = "breakout.point_length_m",
                 .title = fmt::format("The topload holds {}", say(a.breakout->voltage_v, Dimension::voltage)),
                 .text = fmt::format("The tank brings it to {} at most: no breakout without a breakout point.",
                                     say(a.top_voltage_limit_v, Dimension::voltage)),
                 .remedy = "Fit a breakout point, or a smaller tube",
                 .value = a.breakout->voltage_v,
                 .limit = a.top_voltage_limit_v,
                 .dimension = Dimension::voltage,
                 .apply = [](Design& e) {
                   e.breakout.point_length_m = 0.03;
                   e.breakout.point_tip_radius_m = 0.001;
                 }};
}

constexpr std::array<FindingRule, 8> tuning_table{never_breaks_out,  tap_beyond_last, tank_against_coil,
                                                  unit_over_voltage, rating_unknown,  energy_hazardous,
                                                  no_bleeder,        bleed_slow};

} // namespace

std::span<const FindingRule> spark_gap_rules() {
  return tuning_table;
}

} // namespace arc
