// Findings on tube coils. Limits are common practice of builders (no source) unless a rating or a law is named.
#include "coil/feed_findings.h"
#include "coil/finding_rules.h"
#include "coil/say.h"
#include "crafts/tubes/tube.h"
#include "field/resonator.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;
using enum Dimension;
using Rule = Maybe (*)(const Design&, const Analysis&, const TubePower&, UnitSystem);

constexpr double least_gap_m = 0.010, usual_gap_m = 0.012;
constexpr double xray_v = 10e3;
constexpr double sure_start = 2; // times weaker that the tube may be and still start, of a coil that starts surely

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
  if (!a.unit_used || *a.unit_used <= 1 || !(a.tank_hz > 0)) return {};
  const Say say{units};
  Finding f{.id = "tank-over-rating",
            .severity = Severity::stop,
            .stage = "tank",
            .field = "tank.unit_voltage_v",
            .title = fmt::format("The tank is used to {:.0f} % of its volts", 100 * *a.unit_used),
            .text = fmt::format("The plate swings it to about {}.", say(a.tank_peak_v, voltage)),
            .remedy = "More units in series",
            .value = *a.unit_used,
            .limit = 1,
            .dimension = fraction};
  if (tank_given(d.tank) == TankGiven::equal_units) {
    const double series = std::ceil(d.tank.units_in_series * *a.unit_used),
                 factor = series / d.tank.units_in_series;
    const double side = std::ceil(d.tank.units_in_parallel * factor);
    f.remedy = fmt::format("{} in series, {} side by side", format_number(series), format_number(side));
    f.apply = [series, side](Design& x) {
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
      .remedy = fmt::format("{} in series, {} side by side: the same capacitance", format_number(series),
                            format_number(side)),
      .apply = [series, side](Design& x) {
        x.tank.units_in_series = series;
        x.tank.units_in_parallel = side;
      }};
}

// The plate coil's tank; whether it starts at all is judged by its own rule.
Maybe tank_far_off(const Design& d, const Analysis& a, UnitSystem units) {
  constexpr TuneLimits limits{.warn = 0.1, .stop = 1e9};
  return a.tuned_tap_turns ? tank_off_tune(d, a, limits, units) : tank_cannot_tune(d, a, limits, units);
}

constexpr std::array<FindingRule, 11> rest_table{
    tank_far_off, feedback_too_near, feedback_in_floor, feedback_in_secondary, filament_off,       filament_surge,
    no_trap,      no_protection,     tank_swing,        pair_of_hartley,       tank_without_middle};

// In motion.
// Of the changes that practitioners make first, the smallest by which small signals grow surely.
std::optional<std::pair<std::string, std::function<void(Design&)>>> what_starts(const Design& d, const Analysis& a,
                                                                                const Say& say) {
  std::vector<std::pair<std::string, std::function<void(Design&)>>> ways;
  ways.emplace_back("Swap the feedback winding's ends", [](Design& x) { x.tube.reversed = !x.tube.reversed; });
  if (!d.equivalent.feedback_inductance_h)
    for (const double factor : {1.5, 2.0, 3.0, 5.0, 8.0}) {
      const double turns = std::ceil(d.feedback.turns * factor);
      ways.emplace_back(fmt::format("{} feedback turns", format_number(turns)),
                        [turns](Design& x) { x.feedback.turns = turns; });
    }
  if (a.tuned_capacitance_f && tank_given(d.tank) == TankGiven::one_value) {
    const double farad = round_significant(*a.tuned_capacitance_f, 3);
    ways.emplace_back(fmt::format("A tank of {}, in tune with the resonator", say(farad, capacitance)),
                      [farad](Design& x) { x.tank.single_capacitance_f = x.tank.capacitance_f = farad; });
  }
  if (a.tuned_tap_turns && *a.tuned_tap_turns <= d.primary.turns) {
    const double tap = std::round(*a.tuned_tap_turns * 100) / 100;
    ways.emplace_back(fmt::format("Plate coil tapped at turn {:.4g}, in tune with the resonator", tap),
                      [tap](Design& x) { x.primary.tap_turns = tap; });
  }
  constexpr double surely = 1.5;
  for (auto& way : ways) {
    Design changed = d;
    way.second(changed);
    try {
      const TubeCircuit c = circuit_of(changed, changed.primary == d.primary ? a : analyse(changed), true);
      if (tube_start(c, crest_supply_v(c)).margin >= surely) return std::move(way);
    } catch (const std::invalid_argument&) { // makes no circuit
    }
  }
  return {};
}

// Whether the thyristor lets go before the oscillator can have its say.
bool never_latched(const TubePower& t) {
  return t.firings.fired > 0 && t.firings.let_go == t.firings.fired;
}

Maybe does_not_start(const Design& d, const Analysis& a, const TubePower& t, UnitSystem units) {
  if (t.run.oscillates || (t.start.margin >= 1 && never_latched(t))) return {};
  const Say say{units};
  Finding f{.id = "does-not-start",
            .severity = Severity::stop,
            .stage = "oscillator",
            .field = "tube.feedback_direction",
            .title =
                fmt::format("It does not oscillate, and the plate takes {}", say(t.run.plate_dissipation_w, power)),
            .value = t.start.margin,
            .limit = 1};
  f.text = d.tube.reversed       ? "The feedback winding's ends are swapped: it brakes."
           : t.start.margin >= 1 ? "Small swings grow at the supply's crest, and it does not get there."
           : t.start.margin > 0
               ? fmt::format("The tube would have to be {:.2g} times stronger.", 1 / t.start.margin)
               : "With this feedback no swing near tank or resonator grows.";
  if (auto way = what_starts(d, a, say)) {
    f.remedy = std::move(way->first);
    f.apply = std::move(way->second);
    if (f.remedy.find("turns") != std::string::npos) f.field = "feedback.turns";
  } else {
    f.remedy = "None of more feedback turns, their ends swapped and a tank in tune starts it alone: look at tube, "
               "grid leak and coupling";
  }
  return f;
}

Maybe starts_badly(const Design& d, const Analysis&, const TubePower& t, UnitSystem) {
  if (!t.run.oscillates || t.start.margin <= 0 || t.start.margin >= sure_start) return {};
  const double turns = std::ceil(d.feedback.turns * sure_start / t.start.margin);
  Finding f{.id = "starts-badly",
            .severity = Severity::warning,
            .stage = "oscillator",
            .field = "feedback.turns",
            .title = fmt::format("It starts with a margin of only {:.2f}", t.start.margin),
            .text = "A worn tube, a cold one or a supply that rises slowly leaves it standing.",
            .remedy = fmt::format("{} feedback turns", format_number(turns)),
            .value = t.start.margin,
            .limit = sure_start};
  if (!d.equivalent.feedback_inductance_h) f.apply = [turns](Design& x) { x.feedback.turns = turns; };
  return f;
}

// By how many times the grid leak must grow so that what the balance says falls to this share of what it is now; 2
// where the balance says nothing of it.
double leak_grows(const TubePower& t, double TubeBalance::*what, double share) {
  constexpr double usual = 2, margin = 0.9;
  if (!t.balance || !(*t.balance.*what > 0)) return usual;
  for (const double factor : {1.5, 2.0, 3.0, 4.0, 6.0, 8.0}) {
    TubeCircuit c = t.circuit;
    c.grid_leak_ohm *= factor;
    const auto then = tube_balance(c, t.crest_v);
    if (then && *then.*what <= margin * share * *t.balance.*what) return factor;
  }
  return usual;
}

struct LeakRemedy {
  std::string words; // "Grid leak of 3 kOhm"
  std::function<void(Design&)> apply;
};
LeakRemedy larger_leak(const Design& d, double factor, const Say& say) {
  const bool flame = is_flame(d);
  const double ohm = round_significant(factor * (flame ? d.flame.grid_resistor_ohm : d.tube.grid_leak_ohm), 2);
  return {fmt::format("{} of {}", flame ? "Grid resistor" : "Grid leak", say(ohm, resistance)),
          [ohm, flame](Design& x) { (flame ? x.flame.grid_resistor_ohm : x.tube.grid_leak_ohm) = ohm; }};
}

Maybe plate_too_hot(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double rated = d.tube.tube.plate_dissipation_w;
  if (!t.plate_time_s || !t.run.oscillates) return {};
  const Say say{units};
  const LeakRemedy leak =
      larger_leak(d, leak_grows(t, &TubeBalance::plate_dissipation_w, rated / t.worst_plate_w), say);
  return Finding{.id = "plate-too-hot",
                 .severity = *t.plate_time_s < 2 ? Severity::stop : Severity::warning,
                 .stage = "oscillator",
                 .field = is_flame(d) ? "flame.grid_resistor_ohm" : "tube.grid_leak_ohm",
                 .title = fmt::format("{} in {}plate rated {}", say(t.worst_plate_w, power),
                                      tube_count(d) > 1 ? "the fuller " : "a ", say(rated, power)),
                 .text =
                     fmt::format("It passes its rating after {}; a plate that glows where it should be dark shows "
                                 "it.",
                                 say(*t.plate_time_s, time, 2)),
                 .remedy = leak.words + ": less heat for a little less output",
                 .value = t.worst_plate_w,
                 .limit = rated,
                 .dimension = power,
                 .apply = leak.apply};
}

// What builders look at first: how much of the input comes out.
Maybe efficiency_low(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double share = t.efficiency();
  if (!(share > 0) || share >= usual_efficiency || t.firings.let_go > 0) return {};
  const Say say{units};
  Finding f{.id = "efficiency-low",
            .severity = Severity::warning,
            .stage = "oscillator",
            .field = is_flame(d) ? "flame.grid_resistor_ohm" : "tube.grid_leak_ohm",
            .title = fmt::format("{:.0f} % of the input reaches resonator and arc", 100 * share),
            .text = fmt::format("{} goes in, {} heats the plate{}.", say(t.run.plate_input_w, power),
                                say(t.run.plate_dissipation_w, power), tube_count(d) > 1 ? "s" : ""),
            .remedy = "Look at the tank's tune, the grid leak and the coupling",
            .value = share,
            .limit = usual_efficiency,
            .dimension = fraction};
  if (!t.waste) return f;
  f.text += fmt::format(" Most is lost because {}: put right, {:.0f} % would come out at the supply's crest.",
                        t.waste->cause, 100 * t.waste->efficiency_then);
  f.remedy = t.waste->cure;
  f.apply = t.waste->apply;
  return f;
}

Maybe grid_too_hot(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double rated = d.tube.tube.grid_dissipation_w;
  if (!t.grid_time_s) return {};
  const Say say{units};
  const LeakRemedy leak =
      larger_leak(d, leak_grows(t, &TubeBalance::grid_dissipation_w, rated / t.worst_grid_w), say);
  return Finding{.id = "grid-too-hot",
                 .severity = Severity::stop,
                 .stage = "oscillator",
                 .field = is_flame(d) ? "flame.grid_resistor_ohm" : "tube.grid_leak_ohm",
                 .title = fmt::format("{} in a grid rated {}", say(t.worst_grid_w, power), say(rated, power)),
                 .text = fmt::format("It passes its rating after {}, and a grid sags before it is seen.",
                                     say(*t.grid_time_s, time, 2)),
                 .remedy = leak.words + ", or fewer feedback turns",
                 .value = t.worst_grid_w,
                 .limit = rated,
                 .dimension = power,
                 .apply = leak.apply};
}

Maybe cathode_over(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double side = is_flame(d) ? 1 : d.tube.in_parallel; // the run gives the peak of one side
  const double each = t.run.cathode_peak_a / side * (tube_count(d) > 1 ? 1 + d.tube.sharing : 1);
  const double rated = d.tube.tube.cathode_peak_a;
  if (each <= rated) return {};
  const Say say{units};
  const LeakRemedy leak = larger_leak(d, leak_grows(t, &TubeBalance::cathode_peak_a, rated / each), say);
  return Finding{.id = "cathode-over",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = is_flame(d) ? "flame.grid_resistor_ohm" : "tube.grid_leak_ohm",
                 .title =
                     fmt::format("Peaks of {} from a cathode rated {}", say(each, current), say(rated, current)),
                 .text = "More than its filament can give is drawn from the cathode's coating.",
                 .remedy = leak.words + ", fewer feedback turns, or one tube more",
                 .value = each,
                 .limit = rated,
                 .dimension = current,
                 .apply = leak.apply};
}

Maybe plate_over_volts(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double rated = d.tube.tube.plate_voltage_v;
  const double most = t.supply_most_v();
  if (most <= rated) return {};
  const Say say{units};
  const bool far = most > 1.5 * rated;
  return Finding{
      .id = "plate-over-volts",
      .severity = far ? Severity::stop : Severity::warning,
      .stage = "feed",
      .title = fmt::format("The supply reaches {}, the tube is rated {}", say(most, voltage), say(rated, voltage)),
      .text = fmt::format(
          "{}; the plate swings to {} from the cathode. Builders go over by half and "
          "shorten the tube's life by it.",
          t.run.rail_most_v > 1.02 * t.crest_v
              ? fmt::format("Leakage and capacitors ring it above its crest of {}", say(t.crest_v, voltage))
              : "Without load",
          say(std::max(t.run.plate_most_v, most), voltage)),
      .remedy = "A lower variac setting, or fewer transformers in series",
      .value = most,
      .limit = rated,
      .dimension = voltage};
}

Maybe xrays(const Design&, const Analysis&, const TubePower& t, UnitSystem units) {
  const double most = std::max(t.supply_most_v(), t.run.plate_most_v);
  if (most <= xray_v) return {};
  const Say say{units};
  return Finding{.id = "x-rays",
                 .severity = Severity::warning,
                 .stage = "feed",
                 .title = fmt::format("{} on a hard vacuum", say(most, voltage)),
                 .text =
                     "Above some ten kilovolts X-rays come out of a tube's glass. Distance, a metal screen, short "
                     "runs; ask somebody who may measure.",
                 .remedy = "Keep the plate's swing below it",
                 .value = most,
                 .limit = xray_v,
                 .dimension = voltage};
}

// Grid leak or grid resistor, by kind.
Maybe leak_over(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const bool flame = is_flame(d);
  const double rated = flame ? d.flame.grid_resistor_rating_w : d.tube.grid_leak_rating_w;
  if (t.run.leak_w <= rated) return {};
  const Say say{units};
  const double watts = round_significant(2 * t.run.leak_w, 1);
  return Finding{.id = flame ? "grid-resistor-over" : "grid-leak-over",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = flame ? "flame.grid_resistor_rating_w" : "tube.grid_leak_rating_w",
                 .title = fmt::format("{} in a {} for {}", say(t.run.leak_w, power),
                                      flame ? "grid resistor" : "grid leak", say(rated, power)),
                 .text = "As it burns open the bias goes with it, and the plate after that.",
                 .remedy = fmt::format("Fit one for {}", say(watts, power)),
                 .value = t.run.leak_w,
                 .limit = rated,
                 .dimension = power,
                 .apply = [watts, flame](Design& x) {
                   (flame ? x.flame.grid_resistor_rating_w : x.tube.grid_leak_rating_w) = watts;
                 }};
}

Maybe intermittent(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double leak_s = d.tube.grid_leak_ohm * d.tube.grid_leak_f;
  if (!t.run.intermittent) return {};
  const Say say{units};
  constexpr double wanted_s = 20e-6;
  const double farad = round_significant(wanted_s / d.tube.grid_leak_ohm, 2);
  return Finding{
      .id = "intermittent",
      .severity = Severity::warning,
      .stage = "oscillator",
      .field = "tube.grid_leak_f",
      .title = t.run.burst_s ? fmt::format("It stops and starts by itself, every {}", say(*t.run.burst_s, time))
                             : "It stops and starts by itself",
      .text = fmt::format("The grid leak holds its bias for {}: it swings, biases itself off, waits for the "
                          "capacitor to empty, and swings again. Above some 150 to 300 µs that is usual.",
                          say(leak_s, time)),
      .remedy = fmt::format("Grid-leak capacitor of {}", say(farad, capacitance)),
      .value = leak_s,
      .limit = 150e-6,
      .dimension = time,
      .apply = [farad](Design& x) { x.tube.grid_leak_f = farad; }};
}

Maybe never_off(const Design& d, const Analysis&, const TubePower& t, UnitSystem) {
  if (!d.tube.staccato || !(t.run.stays_on || t.circuit.direct_v)) return {};
  return Finding{.id = "thyristor-stays-on",
                 .severity = Severity::stop,
                 .stage = "staccato",
                 .field = "tube.staccato",
                 .title = "The thyristor never turns off",
                 .text =
                     t.circuit.direct_v
                         ? "On direct current its current never passes zero: once fired it conducts until the "
                           "supply is switched off."
                         : "Its current does not fall below holding within a cycle: the supply never comes down "
                           "to zero.",
                 .remedy = "Run through without staccato, or a supply that swings to zero: a level shifter "
                           "without a reservoir behind it",
                 .apply = [](Design& x) { x.tube.staccato = false; }};
}

Maybe does_not_latch(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  if (t.firings.let_go == 0) return {};
  if (t.start.margin < 1 && never_latched(t)) return {}; // nothing oscillates that could draw its current
  const Say say{units};
  const bool all = never_latched(t), free = !d.interrupter.locked;
  constexpr double usual_deg = 60, near_deg = 35;
  const bool late_enough = std::abs(d.interrupter.phase_deg - usual_deg) < near_deg;
  Finding f{.id = "does-not-latch",
            .severity = all ? Severity::stop : Severity::warning,
            .stage = "staccato",
            .field = free ? "interrupter.locked" : "interrupter.phase_deg",
            .title =
                all ? fmt::format("The thyristor lets go after {}", say(t.firings.let_go_s, time))
                    : fmt::format("The thyristor lets go in {} of {} firings", t.firings.let_go, t.firings.fired),
            .value = t.firings.let_go_s,
            .limit = t.circuit.staccato->gate_s,
            .dimension = time};
  if (!free && late_enough) {
    const double gate_s = 0.25 / d.site.mains_frequency_hz;
    f.text = fmt::format("The tube draws too little for it: {} must flow as the gate's pulse ends.",
                         say(t.circuit.staccato->hold_a, current));
    f.remedy = fmt::format("A gate pulse of {}, a thyristor that holds from less, or a smaller grid leak",
                           say(gate_s, time));
    if (gate_s <= d.interrupter.longest_on_s) f.apply = [gate_s](Design& x) { x.interrupter.on_time_s = gate_s; };
    return f;
  }
  f.text = free ? "Free of the mains, some firings fall where the supply is near zero: its current has not reached "
                  "holding when the gate is over."
                : "Fired while the supply is still near zero: its current has not reached holding when the gate is "
                  "over.";
  f.remedy =
      free ? "Lock it to the mains, firing 60° after the supply's zero" : "Fire at 60° after the supply's zero";
  f.apply = [](Design& x) {
    x.interrupter.locked = true;
    x.interrupter.phase_deg = usual_deg;
  };
  return f;
}

Maybe thyristor_over(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  if (!t.circuit.staccato || t.run.cathode_most_v <= d.tube.thyristor_voltage_v) return {};
  const Say say{units};
  const double wanted = round_significant(1.5 * t.run.cathode_most_v, 1);
  return Finding{.id = "thyristor-over-volts",
                 .severity = Severity::stop,
                 .stage = "staccato",
                 .field = "tube.thyristor_voltage_v",
                 .title = fmt::format("{} across a thyristor rated {}", say(t.run.cathode_most_v, voltage),
                                      say(d.tube.thyristor_voltage_v, voltage)),
                 .text =
                     d.tube.circuit == OscillatorCircuit::hartley
                         ? "While it blocks, the cathode floats to the full supply: the grid rises with it by the "
                           "leak. The filament's transformer must be insulated for that too."
                         : "While it blocks, the cathode floats up until the tube is cut off.",
                 .remedy = fmt::format("One for {}", say(wanted, voltage)),
                 .value = t.run.cathode_most_v,
                 .limit = d.tube.thyristor_voltage_v,
                 .dimension = voltage,
                 .apply = [wanted](Design& x) { x.tube.thyristor_voltage_v = wanted; }};
}

Maybe beats(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  if (!t.circuit.staccato || d.interrupter.locked) return {};
  const double beat = mains_beat_hz(d.interrupter.rate_hz, d.site.mains_frequency_hz);
  if (!is_seen_flashing(beat)) return {};
  const Say say{units};
  return Finding{.id = "beats-with-mains",
                 .severity = Severity::note,
                 .stage = "staccato",
                 .field = "interrupter.rate_hz",
                 .title = fmt::format("Flashes at {} against the mains", say(beat, frequency)),
                 .text =
                     "Free-running near the mains or a multiple or part of it, each firing meets another place of "
                     "the wave.",
                 .remedy = "Lock it to the mains",
                 .value = beat,
                 .limit = fastest_flash_hz,
                 .dimension = frequency,
                 .apply = [](Design& x) { x.interrupter.locked = true; }};
}

Maybe over_current(const Design&, const Analysis&, const TubePower& t, UnitSystem units) {
  return unit_over_current(t.duty_of_tank, units);
}
Maybe warm(const Design&, const Analysis&, const TubePower& t, UnitSystem units) {
  return unit_warm(t.duty_of_tank, units);
}
Maybe trips(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  return t.mains ? breaker_trips(d, *t.mains, 0, units) : std::nullopt;
}
Maybe block(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  return t.mains ? block_overloaded(d, *t.mains, units) : std::nullopt;
}
Maybe diodes(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  return t.mains ? diodes_overloaded(d, *t.mains, units) : std::nullopt;
}
Maybe capacitors(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  return t.mains ? capacitor_overloaded(d, *t.mains, units) : std::nullopt;
}
Maybe sags(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  if (!t.better_shifter || !t.mains || t.mains->capacitors.empty()) return {};
  const Say say{units};
  const auto& better = *t.better_shifter;
  const CapacitorLoad& c = t.mains->capacitors.front();
  return Finding{.id = "shifter-sags",
                 .severity = better.power_ratio > 2 ? Severity::warning : Severity::note,
                 .stage = "feed",
                 .field = feed_field(d, d.feed[better.block], "capacitance_f"),
                 .title = fmt::format("A larger level shifter gives {:.1f} times the power", better.power_ratio),
                 .text =
                     fmt::format("{} hold {} and give up {} of it within a cycle; the supply's crest falls by as "
                                 "much.",
                                 say(c.farad, capacitance, 2), say(c.peak_v, voltage), say(c.sag_v(), voltage, 2)),
                 .remedy = fmt::format("Take {}", say(better.farad, capacitance, 2)),
                 .value = better.power_ratio,
                 .limit = 1.3,
                 .apply = set_block_at(d, better.block, "capacitance_f", better.farad)};
}
Maybe bleeds(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  double volts = 0;
  if (t.mains)
    for (const CapacitorLoad& c : t.mains->capacitors) volts = std::max(volts, c.peak_v);
  return volts > 0 ? shifter_bleeds_slowly(d, volts, units) : std::nullopt;
}

// Of flame coils.
Maybe flame_not_isolated(const Design&, const Analysis&, const TubePower& t, UnitSystem units) {
  const Say say{units};
  return Finding{.id = "flame-not-isolated",
                 .severity = Severity::note,
                 .stage = "oscillator",
                 .title = fmt::format("The flame is at the plate supply's {}", say(t.supply_most_v(), voltage)),
                 .text =
                     "The hot end is joined to the plate, whatever floats: the flame carries the supply. Nothing "
                     "goes near it while it is on.",
                 .remedy = "A cage around it that opens the contactor",
                 .value = t.supply_most_v(),
                 .limit = 0,
                 .dimension = voltage};
}

Maybe flame_does_not_start(const Design& d, const Analysis& a, const TubePower& t, UnitSystem units) {
  if (t.run.oscillates) return {};
  const Say say{units};
  double farad = round_significant(2 * d.flame.feedback_f, 2);
  for (const double nearer : {2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0}) { // the first that starts surely
    Design changed = d;
    changed.flame.feedback_f = round_significant(nearer * d.flame.feedback_f, 2);
    const TubeCircuit c = circuit_of(changed, a, true);
    if (tube_start(c, crest_supply_v(c)).margin < 1.5) continue;
    farad = changed.flame.feedback_f;
    break;
  }
  return Finding{
      .id = "flame-does-not-start",
      .severity = Severity::stop,
      .stage = "oscillator",
      .field = "flame.feedback_f",
      .title = fmt::format("It does not oscillate, and the plate takes {}", say(t.run.plate_dissipation_w, power)),
      .text = d.tube.tube.grid_plate_f > d.flame.feedback_f
                  ? "The tube's own capacitance from plate to grid is larger than the feedback plate's and "
                    "brakes: a screened tube, or far more feedback."
                  : "The feedback plate is too small or too far, or the plate coil's inductance is far off.",
      .remedy = fmt::format("Bring the feedback plate nearer: {}", say(farad, capacitance)),
      .value = t.start.margin,
      .limit = 1,
      .apply = [farad](Design& x) { x.flame.feedback_f = farad; }};
}

Maybe flame_plate_too_hot(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  if (!t.plate_time_s || !t.run.oscillates) return {};
  const Say say{units};
  const double rated = d.tube.tube.plate_dissipation_w, farad = round_significant(1.5 * d.flame.feedback_f, 2);
  return Finding{
      .id = "flame-plate-too-hot",
      .severity = *t.plate_time_s < 2 ? Severity::stop : Severity::warning,
      .stage = "oscillator",
      .field = "flame.feedback_f",
      .title = fmt::format("{} in a plate rated {}", say(t.worst_plate_w, power), say(rated, power)),
      .text = fmt::format("It passes its rating after {}: builders overload such tubes for as long as that, and "
                          "let them cool.",
                          say(*t.plate_time_s, time, 2)),
      .remedy = fmt::format("More drive: a feedback plate of {}", say(farad, capacitance)),
      .value = t.worst_plate_w,
      .limit = rated,
      .dimension = power,
      .apply = [farad](Design& x) { x.flame.feedback_f = farad; }};
}

Maybe flame_grid_too_hot(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  if (!t.grid_time_s) return {};
  const Say say{units};
  const double rated = d.tube.tube.grid_dissipation_w, farad = round_significant(0.6 * d.flame.feedback_f, 2);
  return Finding{.id = "flame-grid-too-hot",
                 .severity = Severity::stop,
                 .stage = "oscillator",
                 .field = "flame.feedback_f",
                 .title = fmt::format("{} in a grid rated {}", say(t.worst_grid_w, power), say(rated, power)),
                 .text = fmt::format("It passes its rating after {}, and a grid sags before it is seen.",
                                     say(*t.grid_time_s, time, 2)),
                 .remedy = fmt::format("Less drive: a feedback plate of {}", say(farad, capacitance)),
                 .value = t.worst_grid_w,
                 .limit = rated,
                 .dimension = power,
                 .apply = [farad](Design& x) { x.flame.feedback_f = farad; }};
}

Maybe form_chars(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  constexpr double most_w = 1; // in plastic, which softens and then chars along the field
  if (d.flame.form != FlameForm::plastic || t.form_w <= most_w) return {};
  const Say say{units};
  return Finding{.id = "form-chars",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = "flame.form",
                 .title = fmt::format("{} in a plastic form", say(t.form_w, power)),
                 .text = "It softens where the field is strongest, chars, and then conducts.",
                 .remedy = "A ceramic form, or a self-supporting coil",
                 .value = t.form_w,
                 .limit = most_w,
                 .dimension = power,
                 .apply = [](Design& x) { x.flame.form = FlameForm::ceramic; }};
}

constexpr std::array<Rule, 16> flame_table{efficiency_low,
                                           flame_not_isolated,
                                           flame_does_not_start,
                                           flame_plate_too_hot,
                                           flame_grid_too_hot,
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

std::vector<Finding> tube_findings(const Design& design, const Analysis& analysis, const TubePower& tube,
                                   UnitSystem units) {
  std::vector<Finding> out;
  const auto rules = !tube.problem.empty() ? std::span<const Rule>(still_table) // what is known stays said
                     : is_flame(design)    ? std::span<const Rule>(flame_table)
                                           : std::span<const Rule>(run_table);
  for (const Rule rule : rules)
    if (auto finding = rule(design, analysis, tube, units)) out.push_back(std::move(*finding));
  return out;
}

} // namespace arc
