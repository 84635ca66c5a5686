// Findings on the exciter. Limits are common practice of builders (no source) unless a rating is named.
#include "craft/finding.h"
#include "crafts/exciter/exciter.h"
#include "quantity/say.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;
using enum Dimension;

void fit_clamp(Design& d, Clamp kind) {
  d.exciter.clamp = kind;
  if (const auto usual = usual_clamp(kind)) d.exciter.clamp_diode = *usual;
}

Clamp fitting_clamp(const Exciter& e) {
  return e.transistor.type == TransistorType::mos ? Clamp::zener : Clamp::led;
}

std::string clamp_words(const Exciter& e) {
  return e.transistor.type == TransistorType::mos ? "Fit a 12 V Zener from ground to gate"
                                                  : "Fit a light-emitting diode from ground to base";
}

Maybe base_unclamped(const Design& d, const Analysis&, UnitSystem units) {
  if (d.exciter.clamp != Clamp::none) return {};
  const bool gate = d.exciter.transistor.type == TransistorType::mos;
  return Finding{.id = "base-unclamped",
                 .severity = Severity::warning,
                 .stage = "driver",
                 .field = "exciter.clamp",
                 .title = gate ? "Nothing holds the gate" : "Nothing carries the other half wave at the base",
                 .text = fmt::format("The base current of the secondary reverses every half cycle. {} stands {} of "
                                     "reverse voltage and breaks down.",
                                     gate ? "the gate" : "the base",
                                     Say{units}(d.exciter.transistor.reverse_base_rating_v, voltage)),
                 .remedy = clamp_words(d.exciter),
                 .value = 1,
                 .apply = [](Design& x) { fit_clamp(x, fitting_clamp(x.exciter)); }};
}

Maybe bias_burns(const Design& d, const Analysis&, UnitSystem units) {
  const double watts = std::pow(d.exciter.supply_voltage_v, 2) / d.exciter.bias_resistance_ohm;
  constexpr double limit_w = 0.2; // what a quarter-watt resistor is trusted with
  if (watts <= limit_w) return {};
  const double enough = round_significant(1.3 * std::pow(d.exciter.supply_voltage_v, 2) / limit_w, 2);
  const Say say{units};
  return Finding{.id = "bias-burns",
                 .severity = watts > 1 ? Severity::stop : Severity::warning,
                 .stage = "driver",
                 .field = "exciter.bias_resistance_ohm",
                 .title = fmt::format("The bias resistor takes {}", say(watts, power)),
                 .text = fmt::format("A quarter-watt resistor is trusted with {}; usual are 22 to 47 kΩ.",
                                     say(limit_w, power)),
                 .remedy = fmt::format("Take {}", say(enough, resistance)),
                 .value = watts,
                 .limit = limit_w,
                 .dimension = power,
                 .apply = [enough](Design& x) { x.exciter.bias_resistance_ohm = enough; }};
}

Maybe transistor_slow(const Design& d, const Analysis& a, UnitSystem units) {
  if (!(a.circuit.resonance_hz > 0)) return {};
  const Transistor& t = d.exciter.transistor;
  const double gain = gain_at(t, 0.2 * t.current_rating_a, a.circuit.resonance_hz);
  constexpr double least = 4;
  if (gain >= least) return {};
  return Finding{.id = "transistor-slow",
                 .severity = Severity::warning,
                 .stage = "driver",
                 .field = "exciter.transistor_transit_time_s",
                 .title = fmt::format("At {} the transistor amplifies {:.1f} times",
                                      Say{units}(a.circuit.resonance_hz, frequency), gain),
                 .text = fmt::format("Below about {:.0f} it switches slowly, heats, and may not start.", least),
                 .remedy = t.type == TransistorType::mos
                               ? "A transistor of less gate charge, or a resonator of lower frequency"
                               : "A transistor of higher transit frequency, or a resonator of lower frequency",
                 .value = gain,
                 .limit = least};
}

Maybe supply_above_rating(const Design& d, const Analysis&, UnitSystem units) {
  const Exciter& e = d.exciter;
  if (e.supply_voltage_v <= e.transistor.voltage_rating_v) return {};
  const double usable = round_significant(0.4 * e.transistor.voltage_rating_v, 2);
  const Say say{units};
  return Finding{.id = "supply-above-rating",
                 .severity = Severity::stop,
                 .stage = "driver",
                 .field = "exciter.supply_voltage_v",
                 .title = fmt::format("{} on a transistor for {}", say(e.supply_voltage_v, voltage),
                                      say(e.transistor.voltage_rating_v, voltage)),
                 .text =
                     "It breaks down at rest already; swinging, the collector goes to twice the supply and more.",
                 .remedy = fmt::format("Take {}", say(usable, voltage)),
                 .value = e.supply_voltage_v,
                 .limit = e.transistor.voltage_rating_v,
                 .dimension = voltage,
                 .apply = [usable](Design& x) { x.exciter.supply_voltage_v = usable; }};
}

constexpr std::array<FindingRule, 4> rest_table{base_unclamped, bias_burns, transistor_slow, supply_above_rating};

// Of the simulation.
using Rule = Maybe (*)(const Design&, const ExciterAnalysis&, UnitSystem);

Maybe does_not_oscillate(const Design& d, const ExciterAnalysis& e, UnitSystem units) {
  if (e.oscillation.oscillates) return {};
  Finding f{.id = "does-not-oscillate",
            .severity = Severity::warning,
            .stage = "driver",
            .field = "exciter.primary_direction",
            .title = "It does not oscillate",
            .text = fmt::format("The transistor just conducts {} and takes {}.",
                                Say{units}(e.oscillation.collector_average_a, current),
                                Say{units}(e.oscillation.dissipation_w, power)),
            .value = 0,
            .limit = 1};
  if (e.oscillation.other_top_v && *e.oscillation.other_top_v > 0)
    f.text += " Disturbed it would start: an insulated rod brought near the top does that, never a hand.";
  if (d.exciter.primary_reversed) {
    f.remedy = "Swap the primary's two ends";
    f.apply = [](Design& x) { x.exciter.primary_reversed = false; };
  } else if (d.exciter.bias_resistance_ohm > 50e3) {
    f.remedy = fmt::format("Bias resistor of {}", Say{units}(27e3, resistance));
    f.apply = [](Design& x) { x.exciter.bias_resistance_ohm = 27e3; };
  } else {
    f.remedy =
        "Primary closer to the secondary's base, a turn more, or a transistor of more gain at this frequency";
  }
  return f;
}

Maybe collector_over_volts(const Design& d, const ExciterAnalysis& e, UnitSystem units) {
  const double limit = d.exciter.transistor.voltage_rating_v;
  if (e.oscillation.collector_peak_v <= limit || d.exciter.supply_voltage_v > limit) return {};
  const double volts = round_significant(0.9 * e.oscillation.supply_v * limit / e.oscillation.collector_peak_v, 2);
  const Say say{units};
  return Finding{
      .id = "collector-over-volts",
      .severity = Severity::stop,
      .stage = "driver",
      .field = "exciter.supply_voltage_v",
      .title = fmt::format("The collector swings to {}", say(e.oscillation.collector_peak_v, voltage)),
      .text = fmt::format("The transistor is rated {}; what breakdown does is not simulated.", say(limit, voltage)),
      .remedy = fmt::format("Take a supply of {}", say(volts, voltage)),
      .value = e.oscillation.collector_peak_v,
      .limit = limit,
      .dimension = voltage,
      .apply = [volts](Design& x) { x.exciter.supply_voltage_v = volts; }};
}

Maybe collector_over_current(const Design& d, const ExciterAnalysis& e, UnitSystem units) {
  const double limit = d.exciter.transistor.current_rating_a;
  if (e.oscillation.collector_average_a <= limit) return {};
  const Say say{units};
  return Finding{.id = "collector-over-current",
                 .severity = Severity::stop,
                 .stage = "driver",
                 .field = "exciter.supply_limit_a",
                 .title = fmt::format("{} through a transistor for {}",
                                      say(e.oscillation.collector_average_a, current), say(limit, current)),
                 .text = "On average; its bond wires and its junction are made for less.",
                 .remedy = fmt::format("Limit the supply to {}", say(round_significant(0.8 * limit, 2), current)),
                 .value = e.oscillation.collector_average_a,
                 .limit = limit,
                 .dimension = current,
                 .apply = [limit](Design& x) { x.exciter.supply_limit_a = round_significant(0.8 * limit, 2); }};
}

// Kelvin per watt that a sink must have for the junction to stay below its limit; empty when none helps.
std::optional<double> enough_sink(const Design& d, const ExciterAnalysis& e) {
  Exciter with = d.exciter;
  with.fan = false;
  with.sink_k_per_w = 1;
  const double room = d.exciter.transistor.junction_limit_c - d.site.air_temperature_c;
  const double inside = final_rise_k(exciter_heat_path(with), e.oscillation.dissipation_w) -
                        e.oscillation.dissipation_w; // without the sink's own 1 K/W
  const double left = (0.9 * room - inside) / e.oscillation.dissipation_w;
  return left > 0.2 ? std::optional(round_significant(left, 2)) : std::nullopt;
}

Maybe junction_too_hot(const Design& d, const ExciterAnalysis& e, UnitSystem units) {
  const double limit = d.exciter.transistor.junction_limit_c;
  if (e.junction_c <= limit) return {};
  const Say say{units};
  Finding f{.id = "junction-too-hot",
            .severity = e.run_time_s && *e.run_time_s < 20 ? Severity::stop : Severity::warning,
            .stage = "driver",
            .field = "exciter.sink_k_per_w",
            .title = e.run_time_s ? fmt::format("Too hot after {}", say(*e.run_time_s, time, 2)) : "Too hot",
            .text = fmt::format("{} in the transistor{}: the junction would go to {}; its limit is {}.",
                                say(e.oscillation.dissipation_w, power),
                                d.exciter.sink_k_per_w ? "" : " without a heat sink",
                                say(e.junction_c, temperature), say(limit, temperature)),
            .value = e.junction_c,
            .limit = limit,
            .dimension = temperature};
  const auto sink = enough_sink(d, e);
  if (sink && (!d.exciter.sink_k_per_w || *sink < *d.exciter.sink_k_per_w)) {
    f.remedy = fmt::format("Heat sink of {} K/W or better", format_number(*sink));
    f.apply = [sink](Design& x) { x.exciter.sink_k_per_w = *sink; };
  } else if (d.exciter.sink_k_per_w && !d.exciter.fan) {
    f.remedy = "Put a fan on the sink";
    f.apply = [](Design& x) { x.exciter.fan = true; };
  } else {
    const double volts = round_significant(0.8 * e.oscillation.supply_v, 2);
    f.remedy = fmt::format("Take a supply of {}", say(volts, voltage));
    f.apply = [volts](Design& x) { x.exciter.supply_voltage_v = volts; };
  }
  return f;
}

Maybe base_over_volts(const Design& d, const ExciterAnalysis& e, UnitSystem units) {
  const bool gate = d.exciter.transistor.type == TransistorType::mos;
  const double limit = d.exciter.transistor.reverse_base_rating_v;
  const double value =
      gate ? std::max(e.oscillation.base_peak_v, -e.oscillation.base_least_v) : -e.oscillation.base_least_v;
  if (value <= limit) return {};
  const Say say{units};
  return Finding{.id = "base-over-volts",
                 .severity = gate ? Severity::stop : Severity::warning,
                 .stage = "driver",
                 .field = "exciter.clamp",
                 .title = fmt::format("{} sees {}{}", gate ? "The gate" : "The base", say(value, voltage),
                                      gate ? "" : " reversed"),
                 .text = fmt::format("It is rated {}.", say(limit, voltage)),
                 .remedy = clamp_words(d.exciter),
                 .value = value,
                 .limit = limit,
                 .dimension = voltage,
                 .apply = [](Design& x) { fit_clamp(x, fitting_clamp(x.exciter)); }};
}

Maybe supply_limited(const Design& d, const ExciterAnalysis& e, UnitSystem units) {
  if (!e.oscillation.limited) return {};
  const Say say{units};
  return Finding{.id = "supply-limited",
                 .severity = Severity::note,
                 .stage = "driver",
                 .field = "exciter.supply_limit_a",
                 .title = fmt::format("The supply's limit holds it at {}", say(e.oscillation.supply_v, voltage)),
                 .text = fmt::format("Of {} set; it gives its {} there.", say(d.exciter.supply_voltage_v, voltage),
                                     say(*d.exciter.supply_limit_a, current)),
                 .remedy = "Raise the limit in small steps, watching the heat",
                 .value = e.oscillation.supply_v,
                 .limit = d.exciter.supply_voltage_v,
                 .dimension = voltage};
}

Maybe two_states(const Design&, const ExciterAnalysis& e, UnitSystem units) {
  if (!e.oscillation.other_top_v || !e.oscillation.oscillates) return {};
  const Say say{units};
  return Finding{
      .id = "two-states",
      .severity = Severity::note,
      .stage = "driver",
      .field = "exciter.bias_resistance_ohm",
      .title = fmt::format("Two stable states, the other at {}", say(*e.oscillation.other_top_v, voltage)),
      .text = fmt::format("Started otherwise; as shown it makes {}. A hand near the top, or the way it is "
                          "switched on, decides.",
                          say(e.oscillation.top_high_v, voltage)),
      .remedy = "Take the two as a band",
      .value = *e.oscillation.other_top_v,
      .limit = e.oscillation.top_high_v,
      .dimension = voltage};
}

constexpr std::array<Rule, 7> simulated_table{does_not_oscillate, collector_over_volts, collector_over_current,
                                              junction_too_hot,   base_over_volts,      supply_limited,
                                              two_states};

} // namespace

std::span<const FindingRule> exciter_rules() {
  return rest_table;
}

std::vector<Finding> ExciterAnalysis::findings(const Design& design, const Analysis&, UnitSystem units) const {
  std::vector<Finding> out;
  if (!problem.empty()) return out;
  for (const Rule rule : simulated_table)
    if (auto finding = rule(design, *this, units)) out.push_back(std::move(*finding));
  return out;
}

} // namespace arc
