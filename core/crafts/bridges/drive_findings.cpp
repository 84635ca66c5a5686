// Findings on what drives a bridge: lock, edges, dead time, what it hears. Limits are common practice of builders
// (no source) unless a rating or a law is named.
#include "analysis/findings.h"
#include "analysis/tank_at_rest.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/bus_findings.h"
#include "crafts/bridges/rules.h"
#include "laws/circuit.h"
#include "parts/bank.h"
#include "quantity/say.h"
#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc::bridge_rule {

namespace {

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

} // namespace

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
    f.remedy =
        "Take feedback from the secondary's base: without a tank the primary's current tells nothing of the coil";
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
                 .remedy = "Take feedback from the secondary's base",
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

namespace {

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

} // namespace

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

namespace {

// An antenna or a transformer that gives too little to the driver's input.
Maybe weak_signal(const Bridge& s, double signal_v, const Say& say) {
  const bool antenna = s.feedback == Feedback::antenna;
  constexpr double enough = 3; // times the threshold at the end, to have it early in the burst
  if (signal_v >= enough * s.input_threshold_v) return {};
  Finding f{.id = "signal-too-weak",
            .severity = Severity::warning,
            .stage = "bridge",
            .field = antenna ? "bridge.antenna_length_m" : "bridge.burden_ohm",
            .title = fmt::format("{} of signal at a threshold of {}", say(signal_v, voltage),
                                 say(s.input_threshold_v, voltage)),
            .text = "It locks late or not at all.",
            .value = signal_v,
            .limit = enough * s.input_threshold_v,
            .dimension = voltage};
  const double factor = std::min(8.0, 1.3 * enough * s.input_threshold_v / std::max(signal_v, 1e-3));
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

// The same, too much.
Maybe strong_signal(const Bridge& s, double signal_v, const Say& say) {
  const bool antenna = s.feedback == Feedback::antenna;
  // An antenna drives its picofarads into the clamp; a transformer drives the coil's current, whatever the volts.
  const double most = antenna ? 20 : 1; // times the input's limit
  if (signal_v <= most * s.input_limit_v) return {};
  constexpr double breaks_it = 3; // that a clamp does not hold (common practice, no source)
  Finding f{.id = "signal-too-strong",
            .severity = !antenna && signal_v > breaks_it * s.input_limit_v ? Severity::stop : Severity::warning,
            .stage = "bridge",
            .field = antenna ? "bridge.antenna_length_m" : "bridge.transformer_turns",
            .title = fmt::format("{} at an input for {}", say(signal_v, voltage), say(s.input_limit_v, voltage)),
            .text = antenna ? "Its clamp carries the rest; at full bus volts the drive cuts out."
                            : fmt::format(
                                  "A current transformer is a source of current: its burden of {} takes {} at the "
                                  "peak and forces this into the input.",
                                  say(s.burden_ohm, resistance), say(signal_v * signal_v / s.burden_ohm, power)),
            .value = signal_v,
            .limit = most * s.input_limit_v,
            .dimension = voltage};
  const double factor = (antenna ? 0.8 : 0.5) * most * s.input_limit_v / signal_v;
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

} // namespace

Maybe signal_strength(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.signal_v || !b.burst.locked) return {}; // of a drive that does not lock it says nothing
  const Say say{units};
  const Maybe weak = weak_signal(d.bridge, *b.signal_v, say);
  return weak ? weak : strong_signal(d.bridge, *b.signal_v, say);
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

} // namespace arc::bridge_rule
