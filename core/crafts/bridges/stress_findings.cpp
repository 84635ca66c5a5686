// Findings on what a bridge asks of its parts: amperes, volts, heat, flux. Limits are common practice of builders
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
                 .remedy = "Pulse film capacitors in parallel, or shorter and fewer bursts",
                 .value = *b.capacitor_a,
                 .limit = *rated,
                 .dimension = current};
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

} // namespace arc::bridge_rule
