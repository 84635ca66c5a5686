// Findings on tube coils. Limits are common practice of builders (no source) unless a rating or a law is named.
#include "analysis/findings.h"
#include "analysis/analyse.h"
#include "analysis/tank_at_rest.h"
#include "crafts/tubes/rules.h"
#include "crafts/tubes/tube.h"
#include "field/resonator.h"
#include "quantity/say.h"
#include "simulation/feed_findings.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using namespace tube_rule;

// At rest.
Maybe feedback_too_near(const Design& d, const Analysis& a, UnitSystem units) {
  if (!a.has_primary || d.feedback.gap_m >= least_gap_m) return {};
  const Say say{units};
  return Finding{.id = "feedback-near",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = "feedback.gap_m",
                 .title = fmt::format("{} between feedback winding and plate coil", say(d.feedback.gap_m, length)),
                 .text = fmt::format("The plate coil's end swings by twice the supply; builders leave {} to {}.",
                                     say(0.010, length), say(0.015, length)),
                 .remedy = fmt::format("Leave {}", say(usual_gap_m, length)),
                 .value = d.feedback.gap_m,
                 .limit = least_gap_m,
                 .dimension = length,
                 .apply = [](Design& x) { x.feedback.gap_m = usual_gap_m; }};
}

Maybe feedback_in_floor(const Design& d, const Analysis& a, UnitSystem units) {
  if (!a.has_primary) return {};
  double lowest = 1e9;
  for (const Ring& ring : feedback_rings(d.feedback, d.primary)) lowest = std::min(lowest, ring.height_m);
  lowest -= d.feedback.conductor_diameter_m / 2;
  if (lowest >= 0) return {};
  const Say say{units};
  const double lift = std::ceil(-lowest * 100 + 1) / 100;
  return Finding{.id = "feedback-in-floor",
                 .severity = Severity::stop,
                 .stage = "oscillator",
                 .field = "feedback.turns",
                 .title = fmt::format("The feedback winding reaches {} below the floor", say(-lowest, length)),
                 .text = "Everything stands on the floor at height zero.",
                 .remedy = fmt::format("Lift coil and plate coil by {}", say(lift, length)),
                 .value = lowest,
                 .limit = 0,
                 .dimension = length,
                 .apply = [lift](Design& x) {
                   x.primary.base_height_m += lift;
                   x.secondary.base_height_m += lift;
                 }};
}

Maybe feedback_in_secondary(const Design& d, const Analysis& a, UnitSystem units) {
  if (!a.has_winding || !a.has_primary) return {};
  const double free_m = d.feedback.radius_m - d.feedback.conductor_diameter_m / 2 -
                        d.secondary.form_diameter_m / 2 - d.secondary.wire_overall_diameter_m;
  if (free_m > 0) return {};
  const Say say{units};
  const double radius = std::ceil((d.feedback.radius_m - free_m + 0.005) * 1000) / 1000;
  return Finding{.id = "feedback-in-secondary",
                 .severity = Severity::stop,
                 .stage = "oscillator",
                 .field = "feedback.radius_m",
                 .title = "The feedback winding is no wider than the secondary",
                 .text = fmt::format("Its turns would lie {} inside the secondary's wire.", say(-free_m, length)),
                 .remedy = fmt::format("A radius of {}", say(radius, length)),
                 .value = free_m,
                 .limit = 0,
                 .dimension = length,
                 .apply = [radius](Design& x) { x.feedback.radius_m = radius; }};
}

Maybe filament_off(const Design& d, const Analysis&, UnitSystem units) {
  const FilamentPlan plan = filament_plan(d);
  if (std::abs(plan.off) <= filament_band) return {};
  const Say say{units};
  Finding f{.id = "filament-off",
            .severity = Severity::stop,
            .stage = "oscillator",
            .field = "tube.filament_supply_v",
            .title = fmt::format("The filament gets {}, {:.0f} % too {}", say(plan.volts, voltage),
                                 100 * std::abs(plan.off), plan.off < 0 ? "low" : "high"),
            .text =
                fmt::format("Rated {}, within 5 % either way: too cold a cathode is stripped by the plate's pull, "
                            "too hot a one boils away.",
                            say(d.tube.tube.filament_v, voltage)),
            .value = plan.off,
            .limit = filament_band,
            .dimension = fraction};
  if (plan.off > 0 && plan.series_h) {
    f.remedy = fmt::format("{} in series with the filament", say(*plan.series_h, inductance));
    f.apply = [henry = *plan.series_h](Design& x) { x.tube.filament.series_h = henry; };
  } else {
    const double volts = plan.wanted_v;
    f.remedy = fmt::format("A winding for {}", say(volts, voltage));
    if (plan.turns) {
      const double turns = std::round(*plan.turns), more = turns - *d.tube.filament.trial_turns;
      f.remedy += fmt::format(": {} turns on this core, {} {} than the trial", format_number(turns),
                              format_number(std::abs(more)), more < 0 ? "fewer" : "more");
    } else {
      f.remedy += "; wind a trial of a few turns to learn the volts of each";
    }
    f.apply = [volts](Design& x) {
      x.tube.filament.open_v = volts;
      x.tube.filament.series_h = 0;
    };
  }
  return f;
}

Maybe filament_surge(const Design& d, const Analysis&, UnitSystem units) {
  const FilamentPlan plan = filament_plan(d);
  constexpr double most = 3; // times the running current
  if (plan.cold_a <= most * plan.amps || plan.amps < 8) return {};
  const Say say{units};
  const double ohm = round_significant(plan.soft_ohm, 2);
  return Finding{.id = "filament-surge",
                 .severity = Severity::note,
                 .stage = "oscillator",
                 .field = "tube.filament_soft_ohm",
                 .title = fmt::format("Switched on cold, the filament takes {}", say(plan.cold_a, current)),
                 .text = fmt::format("{} when hot. Large thoriated filaments want to be brought up gently.",
                                     say(plan.amps, current)),
                 .remedy = fmt::format("{} in series for {}, then bridged by a switch", say(ohm, resistance),
                                       say(d.tube.filament.soft_s, time)),
                 .value = plan.cold_a,
                 .limit = most * plan.amps,
                 .dimension = current,
                 .apply = [ohm](Design& x) { x.tube.filament.soft_ohm = ohm; }};
}

Maybe no_trap(const Design& d, const Analysis&, UnitSystem units) {
  if (d.tube.trap_ohm > 0) return {};
  const Say say{units};
  return Finding{.id = "no-trap",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = "tube.trap_ohm",
                 .title = "No trap in the plate lead",
                 .text =
                     "Leads and electrodes ring at many megahertz with nothing to damp them: parasitic oscillation "
                     "heats the grid without being seen.",
                 .remedy = fmt::format("{} with 10 to 12 turns wound around it", say(50, resistance)),
                 .apply = [](Design& x) { x.tube.trap_ohm = 50; }};
}

Maybe no_protection(const Design& d, const Analysis&, UnitSystem units) {
  constexpr double least_f = 200e-12;
  if (d.tube.bypass_f >= least_f || d.tube.supply_voltage_v) return {};
  const Say say{units};
  return Finding{.id = "no-protection",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = "tube.bypass_f",
                 .title = fmt::format("Only {} from the supply's end to ground", say(d.tube.bypass_f, capacitance)),
                 .text = "Radio frequency then goes back into diodes and transformer, and breaks the diodes.",
                 .remedy = fmt::format("{} of pulse film there", say(4.7e-9, capacitance)),
                 .value = d.tube.bypass_f,
                 .limit = least_f,
                 .dimension = capacitance,
                 .apply = [](Design& x) { x.tube.bypass_f = 4.7e-9; }};
}

Maybe tank_swing(const Design& d, const Analysis& a, UnitSystem units) {
  Maybe f = tank_beyond_rating(a, "of its volts");
  if (!f) return {};
  f->text = fmt::format("The plate swings it to about {}.", Say{units}(a.tank_peak_v, voltage));
  f->remedy = "More units in series";
  if (tank_given(d.tank) == TankGiven::equal_units) {
    const double series = std::ceil(d.tank.units_in_series * *a.unit_used),
                 factor = series / d.tank.units_in_series;
    const double side = std::ceil(d.tank.units_in_parallel * factor);
    f->remedy = fmt::format("{} in series, {} in parallel", format_number(series), format_number(side));
    f->apply = [series, side](Design& x) {
      x.tank.units_in_series = series;
      x.tank.units_in_parallel = side;
    };
  }
  return f;
}

Maybe pair_of_hartley(const Design& d, const Analysis&, UnitSystem) {
  if (!d.tube.push_pull || d.tube.circuit != OscillatorCircuit::hartley) return {};
  return Finding{.id = "pair-needs-armstrong",
                 .severity = Severity::stop,
                 .stage = "oscillator",
                 .field = "tube.circuit",
                 .title = "A push-pull pair on one tapped coil",
                 .text = "Two grids in turn want a winding with an end for each, and its middle for the grid leak.",
                 .remedy = "Armstrong, with a feedback winding tapped in its middle",
                 .apply = [](Design& x) { x.tube.circuit = OscillatorCircuit::armstrong; }};
}

Maybe tank_without_middle(const Design& d, const Analysis&, UnitSystem) {
  if (!d.tube.push_pull || tank_given(d.tank) != TankGiven::equal_units ||
      std::fmod(d.tank.units_in_series, 2) == 0)
    return {};
  const double series = 2 * d.tank.units_in_series, side = 2 * d.tank.units_in_parallel;
  return Finding{
      .id = "tank-without-middle",
      .severity = Severity::warning,
      .stage = "tank",
      .field = "tank.units_in_series",
      .title = fmt::format("{} in series have no middle", format_number(d.tank.units_in_series)),
      .text = "A push-pull pair's tank is two equal halves whose middle goes to the supply's tap: without it both "
              "tubes can swing in step, at megahertz, and heat only themselves.",
      .remedy = fmt::format("{} in series, {} in parallel: the same capacitance", format_number(series),
                            format_number(side)),
      .apply = [series, side](Design& x) {
        x.tank.units_in_series = series;
        x.tank.units_in_parallel = side;
      }};
}

// The plate coil's tank; whether it starts at all is judged by its own rule.
Maybe tank_far_off(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr TuneLimits limits{.warn = 0.1, .stop = 1e9};
  if (Maybe slip = capacitance_slipped(d, a, units)) return slip;
  return a.tuned_tap_turns ? tank_off_tune(d, a, limits, units) : tank_cannot_tune(d, a, limits, units);
}

constexpr std::array<FindingRule, 11> rest_table{
    tank_far_off, feedback_too_near, feedback_in_floor, feedback_in_secondary, filament_off,       filament_surge,
    no_trap,      no_protection,     tank_swing,        pair_of_hartley,       tank_without_middle};

constexpr std::array<Rule, 16> flame_table{efficiency_low,
                                           flame_not_isolated,
                                           flame_does_not_start,
                                           plate_too_hot,
                                           grid_too_hot,
                                           leak_over,
                                           form_chars,
                                           cathode_over,
                                           plate_over_volts,
                                           xrays,
                                           trips,
                                           block,
                                           diodes,
                                           capacitors,
                                           sags,
                                           bleeds};

constexpr std::array<Rule, 2> still_table{plate_over_volts, xrays}; // by the supply alone

constexpr std::array<FindingRule, 2> flame_rest_table{filament_off, filament_surge};

constexpr std::array<Rule, 22> run_table{
    efficiency_low,   does_not_start, starts_badly, plate_too_hot, grid_too_hot, cathode_over,
    plate_over_volts, xrays,          leak_over,    intermittent,  never_off,    does_not_latch,
    thyristor_over,   beats,          over_current, warm,          trips,        block,
    diodes,           capacitors,     sags,         bleeds};

} // namespace

std::span<const FindingRule> flame_rules() {
  return flame_rest_table;
}

std::span<const FindingRule> tube_rules() {
  return rest_table;
}

std::vector<Finding> TubePower::findings(const Design& design, const Analysis& analysis, UnitSystem units) const {
  std::vector<Finding> out;
  const auto rules = !problem.empty()   ? std::span<const Rule>(still_table) // what is known stays said
                     : is_flame(design) ? std::span<const Rule>(flame_table)
                                        : std::span<const Rule>(run_table);
  for (const Rule rule : rules)
    if (auto finding = rule(design, analysis, *this, units)) out.push_back(std::move(*finding));
  return out;
}

} // namespace arc
