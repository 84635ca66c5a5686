// Findings on how a tube coil runs: its start, its bursts, its path from the wall. Limits are common practice of
// builders (no source) unless a rating or a law is named.
#include "analysis/analyse.h"
#include "analysis/findings.h"
#include "crafts/tubes/rules.h"
#include "crafts/tubes/tube.h"
#include "field/resonator.h"
#include "quantity/say.h"
#include "simulation/feed_findings.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc::tube_rule {

namespace {

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

} // namespace

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

} // namespace arc::tube_rule
