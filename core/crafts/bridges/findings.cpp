// Findings on bridges. Limits are common practice of builders (no source) unless a rating or a law is named.
#include "coil/finding_rules.h"
#include "coil/say.h"
#include "coil/tank_at_rest.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/bus_findings.h"
#include "laws/circuit.h"
#include "parts/bank.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;
using enum Dimension;

double half_period_s(const BridgeAnalysis& b) {
  return b.burst.frequency_hz > 0 ? 0.5 / b.burst.frequency_hz : 0.5 / b.poles.back();
}

// At rest.
Maybe gate_volts(const Design& d, const Analysis&, UnitSystem units) {
  const Bridge& b = d.bridge;
  const double volts = gate_voltage_v(b);
  constexpr double low = 12, high = 20;
  const double most = std::min(high, b.device.gate_limit_v);
  if (volts >= low && volts <= most) return {};
  const double turns = std::max(1.0, std::round(15 / b.driver_supply_v * b.gate_primary_turns));
  const Say say{units};
  return Finding{.id = "gate-volts",
                 .severity = volts > most ? Severity::stop : Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.gate_secondary_turns",
                 .title = fmt::format("{} at the gates", say(volts, voltage)),
                 .text = fmt::format("Below {} a switch is not fully on, above {} its gate breaks through.",
                                     say(low, voltage), say(most, voltage)),
                 .remedy = fmt::format("Wind {} turns for each gate", format_number(turns)),
                 .value = volts,
                 .limit = volts > most ? most : low,
                 .dimension = voltage,
                 .apply = [turns](Design& x) { x.bridge.gate_secondary_turns = turns; }};
}

Maybe limit_above_pulse_rating(const Design& d, const Analysis&, UnitSystem units) {
  const auto& limit = d.bridge.current_limit_a;
  const double rated = d.bridge.device.pulse_rating_a;
  if (!limit || *limit <= rated) return {};
  const Say say{units};
  return Finding{
      .id = "limit-above-pulse-rating",
      .severity = Severity::stop,
      .stage = "bridge",
      .field = "bridge.current_limit_a",
      .title = fmt::format("Limit of {} on switches for pulses of {}", say(*limit, current), say(rated, current)),
      .text = "The limit is what keeps them whole when arcs strike ground.",
      .remedy = fmt::format("Set the limit to {}", say(rated, current)),
      .value = *limit,
      .limit = rated,
      .dimension = current,
      .apply = [rated](Design& x) { x.bridge.current_limit_a = rated; }};
}

Maybe no_limit(const Design& d, const Analysis&, UnitSystem units) {
  if (!is_dual_resonant(d) || d.bridge.current_limit_a) return {};
  const double amps = round_significant(0.8 * d.bridge.device.pulse_rating_a, 2);
  return Finding{
      .id = "no-current-limit",
      .severity = Severity::warning,
      .stage = "bridge",
      .field = "bridge.current_limit_a",
      .title = "No over-current limit",
      .text = "The current grows with every cycle; a ground strike or a long burst has no end but the switches'.",
      .remedy = fmt::format("Set a limit of {}", Say{units}(amps, current)),
      .value = 0,
      .limit = 1,
      .apply = [amps](Design& x) { x.bridge.current_limit_a = amps; }};
}

Maybe tank_over_rating(const Design& d, const Analysis& a, UnitSystem units) {
  if (!a.unit_used || *a.unit_used <= 1 || !(a.tank_hz > 0)) return {};
  const auto holds = tank_voltage_limit_v(d.tank, 1);
  if (!holds) return {};
  const double loop_h = tank_loop_h(a);
  const double amps = round_significant(0.95 * *holds / std::sqrt(loop_h / a.tank_capacitance_f), 2);
  const Say say{units};
  return Finding{.id = "tank-over-rating",
                 .severity = Severity::stop,
                 .stage = "tank",
                 .field = "tank.unit_voltage_v",
                 .title = fmt::format("The tank is used to {:.0f} % at the limit", 100 * *a.unit_used),
                 .text = fmt::format("The current limit puts {} on a bank that holds {}.",
                                     say(*a.unit_used * *holds, voltage), say(*holds, voltage)),
                 .remedy = fmt::format("Set the limit to {}, or more units in series", say(amps, current)),
                 .value = *a.unit_used,
                 .limit = 1,
                 .dimension = fraction,
                 .apply = [amps](Design& x) { x.bridge.current_limit_a = amps; }};
}

Maybe poles_hop(const Design& d, const Analysis& a, UnitSystem units) {
  if (!is_dual_resonant(d) || !a.resonator || !(a.tank_hz > 0)) return {};
  const double coil_hz = silent_coil(d, a).hz;
  const double ratio = a.tank_hz / coil_hz;
  constexpr double low = 0.98, high = 1.06; // between them it may take either pole (solved reference cases)
  if (ratio < low || ratio > high) return {};
  const Say say{units};
  Finding f{.id = "poles-may-hop",
            .severity = Severity::warning,
            .stage = "tank",
            .field = "primary.tap_turns",
            .title = fmt::format("Tank and resonator are {:.1f} % apart", 100 * std::abs(ratio - 1)),
            .text = fmt::format("The drive may take either pole, and change over as arcs load the coil. Tank {}, "
                                "resonator {}; a tank some per cent low lets arcs pull the pair into tune.",
                                say(a.tank_hz, frequency, 4), say(coil_hz, frequency, 4)),
            .remedy = "Place the tank 5 % below",
            .value = ratio,
            .limit = low};
  if (a.tuned_tap_turns) {
    const double clip = std::round(*a.tuned_tap_turns * 100) / 100;
    f.remedy = fmt::format("Put the clip at turn {:.2f}", clip);
    f.apply = [clip](Design& x) { x.primary.tap_turns = clip; };
  }
  return f;
}

// Some per cent low lets arcs pull it into tune; far away it only heats the primary (common practice, no source).
Maybe tank_far_off(const Design& d, const Analysis& a, UnitSystem units) {
  if (!is_dual_resonant(d)) return {};
  constexpr TuneLimits limits{.warn = 0.1, .stop = 0.3};
  return a.tuned_tap_turns ? tank_off_tune(d, a, limits, units) : tank_cannot_tune(d, a, limits, units);
}

constexpr std::array<FindingRule, 6> rest_table{tank_far_off, gate_volts,       limit_above_pulse_rating,
                                                no_limit,     tank_over_rating, poles_hop};

Maybe unit_over_current(const Design&, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  return unit_over_current(b.duty, units);
}
Maybe unit_too_steep(const Design&, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  return unit_too_steep(b.duty, units);
}
Maybe unit_warm(const Design&, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  return unit_warm(b.duty, units);
}

// Charged and emptied once a cycle, each resistor burns C V^2 of it, whatever its ohms (textbook).
Maybe snubber_hot(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const double rated = d.bridge.snubber_rating_w;
  if (!(d.bridge.snubber_f > 0) || b.snubber.average_w <= rated) return {};
  const Say say{units};
  const double farad = round_significant(0.8 * d.bridge.snubber_f * rated / b.snubber.average_w, 2);
  return Finding{.id = "snubber-too-hot",
                 .severity = b.snubber.average_w > 2 * rated ? Severity::stop : Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.snubber_f",
                 .title = fmt::format("{} in each snubber resistor for {}", say(b.snubber.average_w, power),
                                      say(rated, power)),
                 .text = fmt::format("{} while it bursts: C V² once a cycle, whatever the resistance.",
                                     say(b.snubber.burst_w, power)),
                 .remedy = fmt::format("Snubbers of {}", say(farad, capacitance, 2)),
                 .value = b.snubber.average_w,
                 .limit = rated,
                 .dimension = power,
                 .apply = [farad](Design& x) { x.bridge.snubber_f = farad; }};
}

Maybe snubber_slow(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!(d.bridge.snubber_f > 0)) return {};
  const double settles = 3 * d.bridge.snubber_f * d.bridge.snubber_ohm, most = half_period_s(b) / 3;
  if (settles <= most) return {};
  const Say say{units};
  const double ohm = round_significant(0.9 * most / 3 / d.bridge.snubber_f, 2);
  return Finding{
      .id = "snubber-slow",
      .severity = Severity::warning,
      .stage = "bridge",
      .field = "bridge.snubber_ohm",
      .title = fmt::format("The snubbers take {} to settle", say(settles, time)),
      .text = fmt::format("Of a half period of {} they spend a third or more between the rails: three time "
                          "constants.",
                          say(half_period_s(b), time)),
      .remedy = fmt::format("Resistors of {}", say(ohm, resistance, 2)),
      .value = settles,
      .limit = most,
      .dimension = time,
      .apply =
          ohm >= 0.1 ? std::function<void(Design&)>([ohm](Design& x) { x.bridge.snubber_ohm = ohm; }) : nullptr};
}

Maybe capacitor_over_current(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const auto& rated = d.bridge.capacitor_rating_a;
  if (!rated || !b.capacitor_a || *b.capacitor_a <= *rated) return {};
  const Say say{units};
  return Finding{.id = "bridge-capacitor-over-current",
                 .severity = *b.capacitor_a > 1.5 * *rated ? Severity::stop : Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.capacitor_rating_a",
                 .title =
                     fmt::format("{} in a capacitor for {}", say(*b.capacitor_a, current), say(*rated, current)),
                 .text = d.bridge.legs == BridgeLegs::half_split
                             ? "Each of the two carries half of the primary's current, effective over all time."
                             : "It carries all of the primary's current, effective over all time.",
                 .remedy = "Pulse film capacitors side by side, or shorter and fewer bursts",
                 .value = *b.capacitor_a,
                 .limit = *rated,
                 .dimension = current};
}

// Of the burst.

// "A phase lead of 100 ns and a blanking time of 600 ns after each edge": what differs from the design's chain.
std::string words_of(const Design& d, const ChainSetting& chain, UnitSystem units) {
  const Say say{units};
  std::vector<std::string> parts;
  if (chain.lead_s != d.bridge.lead_s)
    parts.push_back(chain.lead_s > 0 ? fmt::format("a phase lead of {}", say(chain.lead_s, time, 2))
                                     : "no phase lead");
  if (chain.blanking_s != d.bridge.blanking_s)
    parts.push_back(chain.blanking_s > 0
                        ? fmt::format("a blanking time of {} after each edge", say(chain.blanking_s, time, 2))
                        : "no blanking time");
  if (chain.dead_s != d.bridge.dead_time_s)
    parts.push_back(fmt::format("a dead time of {}", say(chain.dead_s, time, 2)));
  std::string out = fmt::format("{}", fmt::join(parts, " and "));
  if (!out.empty()) out[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(out[0])));
  return out;
}

// A setting that was tried becomes the finding's remedy; whether there was one.
bool offered(Finding& f, const Design& d, const std::optional<ChainSetting>& chain, UnitSystem units) {
  if (!chain) return false;
  f.remedy = words_of(d, *chain, units);
  f.apply = [chain = *chain](Design& x) { chain.set(x.bridge); };
  return true;
}

// Whether the foot's current has the frequency of a higher mode, the primary shorted; else it is chatter.
bool follows_a_higher_mode(const BridgeAnalysis& b) {
  const auto& modes = b.circuit.modes;
  for (std::size_t k = 1; k < modes.size(); ++k) {
    const WindingMode& m = modes[k];
    const double k2 = m.mutual_h * m.mutual_h / (b.circuit.primary_h * m.inductance_h);
    const double pole = resonance_hz(m.inductance_h, m.capacitance_f) / std::sqrt(1 - std::min(0.9, k2));
    if (std::abs(b.burst.frequency_hz / pole - 1) < 0.1) return true;
  }
  return false;
}

Maybe does_not_lock(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (d.bridge.feedback == Feedback::fixed || b.burst.locked || (!d.bridge.reversed && follows_a_higher_mode(b)))
    return {};
  Finding f{.id = "does-not-lock",
            .severity = Severity::stop,
            .stage = "bridge",
            .field = "bridge.drive_direction",
            .title = "The drive does not lock",
            .text =
                d.bridge.start == BridgeStart::noise
                    ? "Left to noise, it follows no frequency to the end of the burst."
                    : fmt::format("After its first pulse of {} it follows no frequency to the end of the burst.",
                                  Say{units}(d.bridge.kick_s, time)),
            .value = 0,
            .limit = 1};
  if (d.bridge.reversed) {
    f.remedy = "Swap the primary's two ends, or those of one gate winding";
    f.apply = [](Design& x) { x.bridge.reversed = false; };
  } else if (d.bridge.feedback == Feedback::primary_transformer && !is_dual_resonant(d)) {
    f.remedy = "Listen at the foot: without a tank the primary's current tells nothing of the coil";
    f.apply = [](Design& x) { x.bridge.feedback = Feedback::foot_transformer; };
  } else if (d.bridge.start == BridgeStart::noise) {
    f.remedy = "Start it by a first pulse";
    f.apply = [](Design& x) { x.bridge.start = BridgeStart::first_pulse; };
  } else if (d.bridge.hysteresis_a > 0) {
    f.remedy = "A squarer without hysteresis, or more signal";
    f.apply = [](Design& x) { x.bridge.hysteresis_a = 0; };
  } else if (!offered(f, d, b.cleaner, units)) {
    f.remedy = "A longer first pulse, or turns off the primary";
    f.apply = [](Design& x) { x.bridge.kick_s *= 2; };
  }
  return f;
}

Maybe glitches(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (d.bridge.feedback == Feedback::fixed || !b.burst.locked || b.burst.glitches == 0) return {};
  Finding f{.id = "signal-glitches",
            .severity = Severity::warning,
            .stage = "bridge",
            .field = "bridge.blanking_s",
            .title = b.burst.glitches == 1
                         ? "One edge too many in the last ten cycles"
                         : fmt::format("{} edges too many in the last ten cycles", b.burst.glitches),
            .text = "The drive is locked; its own switching rings into the signal and crosses zero once more.",
            .value = static_cast<double>(b.burst.glitches),
            .limit = 0,
            .dimension = count};
  if (!offered(f, d, b.cleaner, units)) {
    f.remedy = "No lead or blanking time that was tried ends it: a looser primary, or a filter at the input";
  }
  return f;
}

// A primary current drive without a tank rings with its splitting capacitors.
Maybe locks_to_the_primary(const Design& d, const Analysis& a, const BridgeAnalysis& b, UnitSystem units) {
  if (is_dual_resonant(d) || !b.burst.locked || !(a.circuit.resonance_hz > 0)) return {};
  if (b.burst.frequency_hz > 0.7 * a.circuit.resonance_hz) return {};
  const Say say{units};
  return Finding{.id = "locks-to-the-primary",
                 .severity = Severity::stop,
                 .stage = "bridge",
                 .field = "bridge.feedback",
                 .title = fmt::format("It rings at {}, the coil at {}", say(b.burst.frequency_hz, frequency),
                                      say(a.circuit.resonance_hz, frequency)),
                 .text = "The primary rings with its own capacitors, with large current and a dead secondary.",
                 .remedy = "Listen at the foot",
                 .value = b.burst.frequency_hz,
                 .limit = 0.7 * a.circuit.resonance_hz,
                 .dimension = frequency,
                 .apply = [](Design& x) { x.bridge.feedback = Feedback::foot_transformer; }};
}

// A lead lifts what is fast: the drive may take a higher mode of the winding.
Maybe takes_a_higher_mode(const Design& d, const Analysis& a, const BridgeAnalysis& b, UnitSystem units) {
  const double pole = b.poles.back();
  if (d.bridge.feedback == Feedback::fixed || !follows_a_higher_mode(b)) return {};
  const Say say{units};
  Finding f{.id = "takes-a-higher-mode",
            .severity = Severity::stop,
            .stage = "bridge",
            .field = "bridge.blanking_s",
            .title = fmt::format("The drive runs at {}, the coil rings at {}", say(b.burst.frequency_hz, frequency),
                                 say(a.circuit.resonance_hz, frequency)),
            .text = "It follows a higher mode of the winding, which a phase lead lifts.",
            .value = b.burst.frequency_hz,
            .limit = 1.4 * pole,
            .dimension = frequency};
  if (offered(f, d, b.cleaner, units)) return f;
  if (d.bridge.lead_s > 0) {
    const double less = round_significant(d.bridge.lead_s / 3, 2);
    f.remedy = fmt::format("Phase lead of {}", say(less, time, 2));
    f.apply = [less](Design& x) { x.bridge.lead_s = less; };
  } else {
    const double deaf = round_significant(0.3 / pole, 2);
    f.remedy = fmt::format("A squarer that is deaf for {} after each edge", say(deaf, time, 2));
    f.apply = [deaf](Design& x) { x.bridge.blanking_s = deaf; };
  }
  return f;
}

Maybe chain_too_slow(const Design&, const Analysis& a, const BridgeAnalysis& b, UnitSystem units) {
  const double hz = wanted_hz(a, b);
  if (!(hz > b.chain_hz)) return {};
  const Say say{units};
  Finding f{.id = "chain-too-slow",
            .severity = Severity::stop,
            .stage = "bridge",
            .field = "bridge.driver_slowest_s",
            .title = fmt::format("The coil wants {}, the driver ends at {}", say(hz, frequency),
                                 say(b.chain_hz, frequency)),
            .text = "Beyond it the chain swallows edges, and the switches get half-open gates.",
            .value = hz,
            .limit = b.chain_hz,
            .dimension = frequency};
  f.remedy = "A faster chain, a longer winding of more turns, or a larger topload";
  if (const auto turns = b.slow_enough_turns) {
    f.remedy = fmt::format("Wind {} turns on a longer form, fit a larger topload, or a faster chain",
                           format_number(*turns));
    f.apply = [turns = *turns](Design& x) { wind_longer(x, turns); };
  }
  return f;
}

// By the middle turn-off: what the current does as the switch opens and while neither conducts.
std::string why_hard(const Design& d, const BridgeAnalysis& b, const Say& say) {
  const double amps = b.burst.turn_off_a, dead_s = d.bridge.dead_time_s;
  const double swings_a = 2 * d.bridge.device.output_f * b.circuit.bus_v / dead_s; // both output capacitances
  if (std::abs(amps) < swings_a)
    return fmt::format("The current is near its zero as a switch opens, {}; within the dead time of {} the output "
                       "capacitances need {} to swing over: the other turns on with the bus across it.",
                       say(std::abs(amps), current), say(dead_s, time), say(swings_a, current, 2));
  if (amps > 0)
    return fmt::format("A switch still breaks {} forward, but the current turns within the dead time of {}: the "
                       "other turns on into a diode.",
                       say(amps, current), say(dead_s, time));
  return fmt::format("At the turn-off {} already flow backwards: each switch turns on into the other's diode.",
                     say(-amps, current));
}

Maybe hard_switching(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  constexpr int few = 8;
  if (b.burst.hard + b.burst.soft < few || !(b.burst.locked || d.bridge.feedback == Feedback::fixed)) return {};
  const double share = hard_share(b.burst);
  if (share <= tolerable_hard_share) return {};
  const Say say{units};
  const double late = chain_delay_s(d.bridge) - d.bridge.lead_s;
  Finding f{.id = "hard-switching",
            .severity = Severity::note,
            .stage = "bridge",
            .field = "bridge.lead_s",
            .title = fmt::format("{:.0f} % of the edges are hard", 100 * share),
            .text = why_hard(d, b, say),
            .value = share,
            .limit = tolerable_hard_share,
            .dimension = fraction};
  if (d.bridge.feedback == Feedback::fixed) {
    f.remedy = "A generator that follows the coil; a fixed one is right at one load only";
    return f;
  }
  if (late > 0)
    f.text += fmt::format(" Chain less lead is {} late, {:.0f}° of a cycle.", say(late, time),
                          360 * b.burst.frequency_hz * late);
  if (!offered(f, d, b.softer, units)) {
    f.remedy = "No lead or dead time that was tried makes most of them soft: a faster chain, or live with the heat";
  }
  return f;
}

// A generator that does not follow the coil, beside its pole.
Maybe fixed_off_pole(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (d.bridge.feedback != Feedback::fixed || b.poles.empty()) return {};
  const double here = d.bridge.fixed_frequency_hz;
  const double pole = *std::ranges::min_element(b.poles, {}, [&](double hz) { return std::abs(hz - here); });
  const double off = here / pole - 1;
  constexpr double near = 0.02;
  if (std::abs(off) <= near) return {};
  const Say say{units};
  const double wanted = round_significant(pole, 4);
  return Finding{.id = "generator-off-pole",
                 .severity = Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.fixed_frequency_hz",
                 .title = fmt::format("The generator is {:.1f} % {} the pole at {}", 100 * std::abs(off),
                                      off > 0 ? "above" : "below", say(pole, frequency, 4)),
                 .text = "Beside its pole the coil takes a small part of the power; arcs move the pole as well.",
                 .remedy = fmt::format("Generator at {}", say(wanted, frequency, 4)),
                 .value = std::abs(off),
                 .limit = near,
                 .dimension = fraction,
                 .apply = [wanted](Design& x) { x.bridge.fixed_frequency_hz = wanted; }};
}

// Without tank current as its clock a dual resonant drive has no zero to switch at.
Maybe listens_elsewhere(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem) {
  if (!is_dual_resonant(d) || d.bridge.feedback == Feedback::primary_transformer) return {};
  const bool fixed = d.bridge.feedback == Feedback::fixed;
  constexpr double turns = 500;
  const double ohm = std::max(
      1.0, round_significant(turns * 0.8 * d.bridge.input_limit_v / std::max(1.0, b.burst.primary_peak_a), 2));
  return Finding{.id = "feedback-not-of-primary",
                 .severity = fixed ? Severity::note : Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.feedback",
                 .title = fixed ? "A fixed generator drives two resonant circuits"
                                : "The drive hears the coil, not the primary's current",
                 .text =
                     "A dual resonant bridge switches at the zeros of its primary's current; by any other clock "
                     "the switches break large currents.",
                 .remedy = fmt::format("A current transformer on the primary, 1 to {}", format_number(turns)),
                 .value = 0,
                 .limit = 1,
                 .apply = [ohm](Design& x) {
                   x.bridge.feedback = Feedback::primary_transformer;
                   x.bridge.transformer_turns = turns;
                   x.bridge.burden_ohm = ohm;
                 }};
}

Maybe gate_magnetising(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  constexpr double most =
      1; // ampere of a driver for gates, beside what the gates take (common practice, no source)
  if (b.gate.magnetising_a <= most) return {};
  const Say say{units};
  const double first = std::ceil(d.bridge.gate_primary_turns * std::sqrt(1.1 * b.gate.magnetising_a / most));
  const double second = std::round(first * d.bridge.gate_secondary_turns / d.bridge.gate_primary_turns);
  Finding f{.id = "gate-magnetising",
            .severity = b.gate.magnetising_a > 4 * most ? Severity::stop : Severity::warning,
            .stage = "bridge",
            .field = "bridge.gate_core_al_h",
            .title = fmt::format("The gate transformer takes {} to magnetise", say(b.gate.magnetising_a, current)),
            .text = fmt::format("A driver gives that beside the gates' charge, or the gates droop within the half "
                                "wave. Its core has {} for one turn: ferrite for this, not iron powder.",
                                say(d.bridge.gate_core_al_h, inductance)),
            .remedy = "A ferrite core with a larger inductance for one turn",
            .value = b.gate.magnetising_a,
            .limit = most,
            .dimension = current};
  if (first <= 30) {
    f.remedy =
        fmt::format("Wind {} to 2 x {} turns, or a ferrite core", format_number(first), format_number(second));
    f.apply = [first, second](Design& x) {
      x.bridge.gate_primary_turns = first;
      x.bridge.gate_secondary_turns = second;
    };
  }
  return f;
}

// The stray inductance of bus and switch at the worst turn-off of the burst.
Maybe turn_off_volts(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const TurnOffs& off = b.turn_offs;
  const double rated = d.bridge.device.voltage_rating_v;
  constexpr double share = 0.9;
  if (off.peak_v <= share * rated || off.peak_v < 1.02 * b.circuit.bus_v) return {}; // the bus alone is told
  const Say say{units};
  const double held_h = d.bridge.stray_h * (share * rated - b.circuit.bus_v) / (off.peak_v - b.circuit.bus_v);
  return Finding{
      .id = "turn-off-volts",
      .severity = off.peak_v > rated ? Severity::stop : Severity::warning,
      .stage = "bridge",
      .field = "bridge.stray_h",
      .title =
          fmt::format("A turn-off reaches {} on switches for {}", say(off.peak_v, voltage), say(rated, voltage)),
      .text = fmt::format("{} broken {} after the burst begins, through {} of stray inductance (entered, or the "
                          "usual), with a bus of {}. First edge {}, last {}.",
                          say(off.worst_a, current), say(off.worst_s, time), say(d.bridge.stray_h, inductance, 2),
                          say(b.circuit.bus_v, voltage), say(off.first_a, current), say(off.last_a, current)),
      .remedy = held_h > 5e-9
                    ? fmt::format("A bus of plates and a film capacitor at the switches: {} or less; or a "
                                  "slower turn-off, less current, a higher rating",
                                  say(held_h, inductance, 2))
                    : std::string("Less current at the edges, a lower bus or switches of a higher rating"),
      .value = off.peak_v,
      .limit = share * rated,
      .dimension = voltage};
}

// By its magnetising current in the driver's resistance.
Maybe gate_droops(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  constexpr double much = 0.25;
  if (b.gate.droop <= much) return {};
  const Say say{units};
  return Finding{
      .id = "gate-droops",
      .severity = b.gate.gate_v * (1 - b.gate.droop) < 1.5 * d.bridge.device.gate_threshold_v ? Severity::stop
                                                                                              : Severity::warning,
      .stage = "bridge",
      .field = "bridge.gate_core_al_h",
      .title = fmt::format("The gates lose {:.0f} % within a half wave", 100 * b.gate.droop),
      .text = fmt::format("{} at its start, {} at its end: the transformer's magnetising current drops them in the "
                          "driver's {}.",
                          say(b.gate.gate_v, voltage), say(b.gate.gate_v * (1 - b.gate.droop), voltage),
                          say(d.bridge.driver_resistance_ohm, resistance)),
      .remedy = "More turns on both sides, a core with a larger inductance for one turn, or a stronger driver",
      .value = b.gate.droop,
      .limit = much,
      .dimension = fraction};
}

// Flux and heat of what the drive or its limit hears by.
Maybe transformer_saturates(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const auto t = current_transformer(d, b);
  const double most = d.bridge.transformer_limit_t;
  if (!t || t->flux_t <= most) return {};
  const Say say{units};
  const double turns = std::ceil(1.1 * d.bridge.transformer_turns * std::sqrt(t->flux_t / most));
  return Finding{
      .id = "current-transformer-saturates",
      .severity = d.bridge.current_limit_a ? Severity::stop : Severity::warning,
      .stage = "bridge",
      .field = "bridge.transformer_turns",
      .title = fmt::format("The current transformer's core reaches {:.2f} T", t->flux_t),
      .text = fmt::format("{} through it, {} across its burden; the core takes {:.2f} T. Saturated, it shows "
                          "less current than flows{}.",
                          say(t->primary_peak_a, current), say(t->burden_peak_v, voltage), most,
                          d.bridge.current_limit_a ? ", and the limit trips late or not at all" : ""),
      .remedy =
          fmt::format("A smaller burden, a larger core, or {} turns with the same burden", format_number(turns)),
      .value = t->flux_t,
      .limit = most,
      .dimension = number};
}

Maybe burden_hot(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const auto t = current_transformer(d, b);
  const double rated = d.bridge.burden_rating_w;
  if (!t || !b.plan_problem.empty() || t->burden_average_w <= rated) return {};
  const Say say{units};
  return Finding{
      .id = "burden-hot",
      .severity = Severity::warning,
      .stage = "bridge",
      .field = "bridge.burden_rating_w",
      .title = fmt::format("The burden takes {}, rated {}", say(t->burden_average_w, power), say(rated, power)),
      .text = fmt::format("{} while it bursts, {} across it at the peak.", say(t->burden_burst_w, power),
                          say(t->burden_peak_v, voltage)),
      .remedy = fmt::format("A resistor for {} without inductance, or more turns",
                            say(round_significant(2 * t->burden_average_w, 1), power)),
      .value = t->burden_average_w,
      .limit = rated,
      .dimension = power};
}

// What flows in the long run, each switch every other half wave; its leads and bonds are rated for that.
Maybe switch_over_current(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const double amps = b.series_rms_a / std::numbers::sqrt2, rated = d.bridge.device.current_rating_a;
  constexpr double usual = 0.8;
  if (amps <= usual * rated || !b.plan_problem.empty()) return {};
  const Say say{units};
  return Finding{.id = "switch-over-current",
                 .severity = amps > rated ? Severity::stop : Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.switch_current_rating_a",
                 .title = fmt::format("{} in each switch, rated {}", say(amps, current), say(rated, current)),
                 .text = "RMS over time, bursts and pauses together.",
                 .remedy = "Shorter or fewer bursts, or larger switches",
                 .value = amps,
                 .limit = usual * rated,
                 .dimension = current};
}

Maybe arcs_reach_the_antenna(const Design& d, const Analysis& a, const BridgeAnalysis& b, UnitSystem units) {
  if (d.bridge.feedback != Feedback::antenna) return {};
  const auto basis = b.arc_basis(d, a);
  if (!basis) return {};
  double edge_m = d.secondary.form_diameter_m / 2; // of whatever stands out the most
  for (const ToploadPart& part : d.topload)
    edge_m = std::max({edge_m, part.outer_diameter_m / 2, part.diameter_m / 2});
  const double arc_m = forecast_arc(*basis, d, a, units).length_m.high;
  const double reach_m = edge_m + arc_m, at_m = d.bridge.antenna_distance_m;
  if (at_m > reach_m || (!(arc_m > 0) && at_m > edge_m)) return {};
  const Say say{units};
  const double wanted = std::ceil(12 * reach_m) / 10;
  return Finding{.id = "arcs-reach-antenna",
                 .severity = Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.antenna_distance_m",
                 .title = at_m <= edge_m ? fmt::format("The antenna stands within the coil, {} from its axis",
                                                       say.length(at_m))
                                         : fmt::format("Arcs of {} reach the antenna", say.length(arc_m)),
                 .text = "A strike goes through the driver's input.",
                 .remedy = fmt::format("Antenna at {} from the axis, longer where the signal is too weak there",
                                       say.length(wanted)),
                 .value = at_m,
                 .limit = reach_m,
                 .dimension = length,
                 .apply = [wanted](Design& x) { x.bridge.antenna_distance_m = wanted; }};
}

// A bus that was entered beside a path that gives another.
Maybe bus_differs(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!d.bridge.bus_voltage_v || !b.mains) return {};
  const double measured = *d.bridge.bus_voltage_v, path = unloaded_bus_v(d.feed, d.site.mains_voltage_v);
  constexpr double apart = 0.1;
  if (!(path > 0) || std::abs(measured / path - 1) <= apart) return {};
  const Say say{units};
  Finding f{.id = "bus-differs",
            .severity = Severity::warning,
            .stage = "feed",
            .field = "bridge.bus_voltage_v",
            .title = fmt::format("The bus is entered as {}, its path gives {}", say(measured, voltage),
                                 say(path, voltage)),
            .text = "Bursts go by the bus that was entered, the line's current by the path.",
            .remedy = "Take the entered bus out, or change the path",
            .value = measured,
            .limit = path,
            .dimension = voltage};
  const FeedBlock* variac = find_block(d.feed, BlockRole::variac);
  if (!variac) return f;
  const double setting = std::round(1000 * block_value(*variac, "setting") * measured / path) / 1000;
  if (!(setting > 0.01 && setting <= 1)) return f;
  f.remedy = fmt::format("Variac at {:.0f} %", 100 * setting);
  f.apply = [setting](Design& x) { find_block(x.feed, BlockRole::variac)->values["setting"] = setting; };
  return f;
}

Maybe dead_time_long(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const double quarter = (b.burst.locked ? half_period_s(b) : 0.5 / b.poles.back()) / 2; // not of a chatter
  if (d.bridge.dead_time_s <= quarter) return {};
  const Say say{units};
  const double wanted = round_significant(quarter / 3, 2);
  return Finding{.id = "dead-time-long",
                 .severity = d.bridge.dead_time_s >= 2 * quarter ? Severity::stop : Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.dead_time_s",
                 .title = fmt::format("Dead time of {} in a half period of {}", say(d.bridge.dead_time_s, time),
                                      say(2 * quarter, time)),
                 .text = "Little is left of the half wave in which a switch is on.",
                 .remedy = fmt::format("Take {}", say(wanted, time, 2)),
                 .value = d.bridge.dead_time_s,
                 .limit = quarter,
                 .dimension = time,
                 .apply = [wanted](Design& x) { x.bridge.dead_time_s = wanted; }};
}

Maybe dead_time_short(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const double least = d.bridge.device.fall_s + b.gate.rise_s;
  if (d.bridge.dead_time_s >= least) return {};
  const Say say{units};
  const double wanted = round_significant(1.3 * least, 2);
  return Finding{.id = "dead-time-short",
                 .severity = Severity::stop,
                 .stage = "bridge",
                 .field = "bridge.dead_time_s",
                 .title = fmt::format("Dead time of {}: both switches conduct", say(d.bridge.dead_time_s, time)),
                 .text =
                     fmt::format("The current falls in {} and the gate takes {}: the bus is shorted in between.",
                                 say(d.bridge.device.fall_s, time), say(b.gate.rise_s, time)),
                 .remedy = fmt::format("Take {}", say(wanted, time, 2)),
                 .value = d.bridge.dead_time_s,
                 .limit = least,
                 .dimension = time,
                 .apply = [wanted](Design& x) { x.bridge.dead_time_s = wanted; }};
}

Maybe core_saturates(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem) {
  if (b.gate.flux_t <= d.bridge.gate_core_limit_t) return {};
  const double factor = b.gate.flux_t / d.bridge.gate_core_limit_t;
  const double first = std::ceil(d.bridge.gate_primary_turns * factor * 1.05);
  const double second = std::round(first * d.bridge.gate_secondary_turns / d.bridge.gate_primary_turns);
  return Finding{.id = "gate-core-saturates",
                 .severity = Severity::stop,
                 .stage = "bridge",
                 .field = "bridge.gate_primary_turns",
                 .title = fmt::format("The gate transformer's core goes to {:.2f} T", b.gate.flux_t),
                 .text =
                     fmt::format("Its limit is {:.2f} T (volts times seconds over turns and area); beyond it the "
                                 "gates lose their drive within the half wave.",
                                 d.bridge.gate_core_limit_t),
                 .remedy = fmt::format("Wind {} to 2 x {} turns", format_number(first), format_number(second)),
                 .value = b.gate.flux_t,
                 .limit = d.bridge.gate_core_limit_t,
                 .apply = [first, second](Design& x) {
                   x.bridge.gate_primary_turns = first;
                   x.bridge.gate_secondary_turns = second;
                 }};
}

Maybe over_pulse_rating(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const double rated = d.bridge.device.pulse_rating_a, amps = switch_peak_a(b.burst);
  if (amps <= rated) return {};
  const Say say{units};
  Finding f{.id = "over-pulse-rating",
            .severity = Severity::stop,
            .stage = "bridge",
            .field = "bridge.switch_pulse_rating_a",
            .title = fmt::format("{} in switches for pulses of {}", say(amps, current), say(rated, current)),
            .text = b.burst.return_peak_a > b.burst.primary_peak_a
                        ? "After the burst: the secondary pushes its energy back through the diodes."
                        : "Within the burst.",
            .value = amps,
            .limit = rated,
            .dimension = current};
  if (is_dual_resonant(d)) {
    const double limit = round_significant(0.9 * rated, 2);
    f.remedy = fmt::format("Set the limit to {}", say(limit, current));
    f.apply = [limit](Design& x) { x.bridge.current_limit_a = limit; };
  } else {
    f.remedy = "More turns on the primary, a looser coupling, a lower bus, or switches for more";
    if (b.enough_turns) {
      f.remedy = fmt::format("Wind a primary of {} turns", format_number(*b.enough_turns));
      f.apply = [turns = *b.enough_turns](Design& x) { x.primary.turns = x.primary.tap_turns = turns; };
    }
  }
  return f;
}

Maybe junction_too_hot(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const double limit = d.bridge.device.junction_limit_c;
  if (!b.plan_problem.empty() || b.heat.junction_peak_c <= limit) return {};
  const Say say{units};
  const double room = limit - d.site.air_temperature_c;
  const double factor = room / (b.heat.junction_peak_c - d.site.air_temperature_c);
  const double rate = round_significant(0.9 * factor * b.plan.rate_hz, 2);
  Finding f{.id = "junction-too-hot",
            .severity = b.heat.run_time_s && *b.heat.run_time_s < 20 ? Severity::stop : Severity::warning,
            .stage = "gate",
            .field = "interrupter.rate_hz",
            .title = b.heat.run_time_s ? fmt::format("Junctions too hot after {}", say(*b.heat.run_time_s, time, 2))
                                       : "Junctions too hot",
            .text = fmt::format("{} in each switch on average, {} within a burst: {} at its end; the limit is {}.",
                                say(b.heat.average_w, power), say(b.heat.burst_w, power),
                                say(b.heat.junction_peak_c, temperature), say(limit, temperature)),
            .remedy = fmt::format("{} bursts each second", format_number(rate)),
            .value = b.heat.junction_peak_c,
            .limit = limit,
            .dimension = temperature};
  if (!d.interrupter.locked)
    f.apply = [rate](Design& x) { x.interrupter.rate_hz = rate; };
  else
    f.apply = [](Design& x) { x.interrupter.every_cycle += 1; };
  return f;
}

Maybe signal_strength(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.signal_v || !b.burst.locked) return {}; // of a drive that does not lock it says nothing
  const Bridge& s = d.bridge;
  const Say say{units};
  const bool antenna = s.feedback == Feedback::antenna;
  constexpr double enough = 3; // times the threshold at the end, to have it early in the burst
  if (*b.signal_v < enough * s.input_threshold_v) {
    Finding f{.id = "signal-too-weak",
              .severity = Severity::warning,
              .stage = "bridge",
              .field = antenna ? "bridge.antenna_length_m" : "bridge.burden_ohm",
              .title = fmt::format("{} of signal at a threshold of {}", say(*b.signal_v, voltage),
                                   say(s.input_threshold_v, voltage)),
              .text = "It locks late or not at all.",
              .value = *b.signal_v,
              .limit = enough * s.input_threshold_v,
              .dimension = voltage};
    const double factor = std::min(8.0, 1.3 * enough * s.input_threshold_v / std::max(*b.signal_v, 1e-3));
    if (antenna) {
      f.remedy = "A longer antenna, or one nearer to the topload";
      f.apply = [factor](Design& x) {
        x.bridge.antenna_length_m = round_significant(x.bridge.antenna_length_m * factor, 2);
      };
    } else {
      f.remedy = "Fewer turns on the transformer, or a larger burden";
      f.apply = [factor](Design& x) { x.bridge.burden_ohm = round_significant(x.bridge.burden_ohm * factor, 2); };
    }
    return f;
  }
  // An antenna drives its picofarads into the clamp; a transformer drives the coil's current, whatever the volts.
  const double most = antenna ? 20 : 1; // times the input's limit
  if (*b.signal_v <= most * s.input_limit_v) return {};
  constexpr double breaks_it = 3; // that a clamp does not hold (common practice, no source)
  Finding f{.id = "signal-too-strong",
            .severity = !antenna && *b.signal_v > breaks_it * s.input_limit_v ? Severity::stop : Severity::warning,
            .stage = "bridge",
            .field = antenna ? "bridge.antenna_length_m" : "bridge.transformer_turns",
            .title = fmt::format("{} at an input for {}", say(*b.signal_v, voltage), say(s.input_limit_v, voltage)),
            .text = antenna
                        ? "Its clamp carries the rest; at full bus volts the drive cuts out."
                        : fmt::format(
                              "A current transformer is a source of current: its burden of {} takes {} at the "
                              "peak and forces this into the input.",
                              say(s.burden_ohm, resistance), say(*b.signal_v * *b.signal_v / s.burden_ohm, power)),
            .value = *b.signal_v,
            .limit = most * s.input_limit_v,
            .dimension = voltage};
  const double factor = (antenna ? 0.8 : 0.5) * most * s.input_limit_v / *b.signal_v;
  if (antenna) {
    f.remedy = "A shorter antenna, or one farther away";
    f.apply = [factor](Design& x) {
      x.bridge.antenna_length_m = round_significant(x.bridge.antenna_length_m * factor, 2);
    };
  } else {
    const double ohm = round_significant(s.burden_ohm * factor, 2);
    f.field = "bridge.burden_ohm";
    f.remedy = fmt::format("A burden of {}, or more turns on the transformer", say(ohm, resistance, 2));
    f.apply = [ohm](Design& x) { x.bridge.burden_ohm = ohm; };
  }
  return f;
}

Maybe ends_mid_wave(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!is_dual_resonant(d) || b.burst.trip_s || !(b.burst.frequency_hz > 0) || b.burst.samples.empty()) return {};
  const auto at = std::ranges::lower_bound(b.burst.samples, b.burst.end_s, {}, &BurstSample::time_s);
  if (at == b.burst.samples.end()) return {};
  const double share = std::abs(at->primary_a) / std::max(b.burst.primary_peak_a, 1e-9);
  constexpr double tolerable = 0.5;
  if (share <= tolerable) return {};
  const auto zero = last_zero_s(b.burst, b.burst.end_s);
  if (!zero) return {};
  const double on = round_significant(*zero, 4);
  return Finding{
      .id = "ends-mid-wave",
      .severity = Severity::note,
      .stage = "gate",
      .field = "interrupter.on_time_s",
      .title = fmt::format("The burst ends at {} of a {} wave", Say{units}(std::abs(at->primary_a), current),
                           Say{units}(b.burst.primary_peak_a, current)),
      .text = "The switches break that current; ending near a zero spares them, as a synchronised enable does.",
      .remedy = fmt::format("On-time of {}", Say{units}(on, time, 4)),
      .value = share,
      .limit = tolerable,
      .dimension = fraction,
      .apply = [on](Design& x) { x.interrupter.on_time_s = on; }};
}

Maybe limits_hold(const Design&, const Analysis&, const BridgeAnalysis& b, UnitSystem) {
  if (!b.plan_problem.empty())
    return Finding{.id = "no-burst-left",
                   .severity = Severity::stop,
                   .stage = "gate",
                   .field = "interrupter.on_time_s",
                   .title = "The limits leave nothing of a burst",
                   .text = b.plan_problem,
                   .remedy = "Longer limits",
                   .value = 0,
                   .limit = 1};
  if (b.plan.hits.empty()) return {};
  const LimitHit& hit = b.plan.hits.front();
  return Finding{.id = "limit-holds",
                 .severity = Severity::note,
                 .stage = "gate",
                 .field = "interrupter.on_time_s",
                 .title = hit.text.substr(0, hit.text.find(':')),
                 .text = fmt::format("It is {}.", hit.text.substr(hit.text.find(':') + 2)),
                 .remedy = "Ask for less, or widen the limit after looking at the junctions",
                 .value = hit.asked,
                 .limit = hit.given};
}

Maybe tripped(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.burst.trip_s) return {};
  const Say say{units};
  const bool skips = d.bridge.limit_action == LimitAction::skip_cycles;
  Finding f{
      .id = "limit-trips",
      .severity = skips ? Severity::warning : Severity::note,
      .stage = "bridge",
      .field = skips ? "bridge.limit_action" : "bridge.current_limit_a",
      .title = fmt::format("The limit trips after {}", say(*b.burst.trip_s, time)),
      .text = skips
                  ? "Skipping cycles breaks the current at its peak; ending the burst spares the switches most of "
                    "that loss."
                  : fmt::format("{:.0f} cycles of the {} asked for.", b.burst.cycles,
                                say(d.interrupter.on_time_s, time)),
      .value = d.interrupter.on_time_s,
      .limit = *b.burst.trip_s,
      .dimension = time};
  if (skips) {
    f.remedy = "End the burst at the limit";
    f.apply = [](Design& x) { x.bridge.limit_action = LimitAction::end_burst; };
    f.value = b.burst.trips;
    f.limit = 1;
    f.dimension = count;
  } else {
    const double before = 0.97 * *b.burst.trip_s;
    const double on = round_significant(last_zero_s(b.burst, before).value_or(before), 3);
    f.remedy = fmt::format("On-time of {}, or leave it to the limit", say(on, time, 3));
    f.apply = [on](Design& x) { x.interrupter.on_time_s = on; };
  }
  return f;
}

Maybe rate_beats(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (d.interrupter.locked || !b.plan_problem.empty() || !is_seen_flashing(b.plan.beat_hz)) return {};
  const double wanted =
      std::max(1.0, std::round(b.plan.rate_hz / d.site.mains_frequency_hz)) * d.site.mains_frequency_hz;
  return Finding{
      .id = "rate-beats",
      .severity = Severity::note,
      .stage = "gate",
      .field = "interrupter.rate_hz",
      .title = fmt::format("Arcs flash {} times a second", format_number(round_significant(b.plan.beat_hz, 2))),
      .text = fmt::format("{} beat with the mains' ripple.", Say{units}(b.plan.rate_hz, frequency)),
      .remedy = fmt::format("{}, a multiple of the mains", Say{units}(wanted, frequency)),
      .value = b.plan.beat_hz,
      .limit = 0,
      .dimension = frequency,
      .apply = [wanted](Design& x) { x.interrupter.rate_hz = wanted; }};
}

constexpr std::array<BridgeRule, 32> burst_table{fixed_off_pole,
                                                 listens_elsewhere,
                                                 gate_magnetising,
                                                 gate_droops,
                                                 turn_off_volts,
                                                 transformer_saturates,
                                                 burden_hot,
                                                 switch_over_current,
                                                 arcs_reach_the_antenna,
                                                 bus_differs,
                                                 unit_over_current,
                                                 unit_too_steep,
                                                 unit_warm,
                                                 does_not_lock,
                                                 glitches,
                                                 takes_a_higher_mode,
                                                 locks_to_the_primary,
                                                 chain_too_slow,
                                                 hard_switching,
                                                 dead_time_long,
                                                 dead_time_short,
                                                 core_saturates,
                                                 snubber_hot,
                                                 snubber_slow,
                                                 capacitor_over_current,
                                                 over_pulse_rating,
                                                 junction_too_hot,
                                                 signal_strength,
                                                 ends_mid_wave,
                                                 limits_hold,
                                                 tripped,
                                                 rate_beats};

} // namespace

std::span<const FindingRule> bridge_rules() {
  static const std::vector<FindingRule> all = [] {
    std::vector<FindingRule> out(rest_table.begin(), rest_table.end());
    out.insert(out.end(), bus_rules().begin(), bus_rules().end());
    return out;
  }();
  return all;
}

std::vector<Finding> bridge_findings(const Design& design, const Analysis& analysis, const BridgeAnalysis& bridge,
                                     UnitSystem units) {
  std::vector<Finding> out;
  if (!bridge.problem.empty()) return out;
  for (const BridgeRule rule : bus_burst_rules())
    if (auto finding = rule(design, analysis, bridge, units)) out.push_back(std::move(*finding));
  for (const BridgeRule rule : burst_table)
    if (auto finding = rule(design, analysis, bridge, units)) out.push_back(std::move(*finding));
  return out;
}

} // namespace arc
