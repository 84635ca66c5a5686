// The exciter's numbers in a design. Ranges as in model/fields.cpp.
#include "crafts/exciter/exciter.h"
#include "model/field_rows.h"

#include <array>

namespace arc {
namespace {

using enum Dimension;

constexpr auto exciter_group = &Design::exciter;

template <auto Member>
constexpr FieldSpec transistor(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                               double maximum) {
  return inner<&Design::exciter, &Exciter::transistor, Member>(key, label, dimension, minimum, maximum);
}

template <auto Member>
constexpr FieldSpec clamp(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                          double maximum) {
  return inner<&Design::exciter, &Exciter::clamp_diode, Member>(key, label, dimension, minimum, maximum);
}

constexpr std::array field_rows{
    field<exciter_group, &Exciter::supply_voltage_v>("exciter.supply_voltage_v", "Supply", voltage, 0.5, 1000),
    field<exciter_group, &Exciter::supply_limit_a>("exciter.supply_limit_a", "Supply current limit", current, 1e-3,
                                                   1000),
    field<exciter_group, &Exciter::bias_resistance_ohm>("exciter.bias_resistance_ohm", "Bias resistor", resistance,
                                                        1, 1e8),
    field<exciter_group, &Exciter::base_stray_f>("exciter.base_stray_f", "Base stray capacitance", capacitance,
                                                 1e-13, 1e-8),
    field<exciter_group, &Exciter::collector_stray_f>("exciter.collector_stray_f", "Collector stray capacitance",
                                                      capacitance, 1e-13, 1e-7),
    field<exciter_group, &Exciter::sink_k_per_w>("exciter.sink_k_per_w", "Heat sink, K/W", number, 0.01, 200),
    field<exciter_group, &Exciter::sink_capacity_j_per_k>("exciter.sink_capacity_j_per_k", "Heat sink, J/K", number,
                                                          0.01, 1e5),
    transistor<&Transistor::saturation_current_a>("exciter.transistor_saturation_current_a", "Saturation current",
                                                  current, 1e-20, 1e-3),
    transistor<&Transistor::forward_gain>("exciter.transistor_forward_gain", "Current gain", number, 1, 1e5),
    transistor<&Transistor::reverse_gain>("exciter.transistor_reverse_gain", "Gain reversed", number, 0.01, 1e4),
    transistor<&Transistor::emitter_junction_f>("exciter.transistor_emitter_junction_f", "Emitter junction",
                                                capacitance, 1e-14, 1e-6),
    transistor<&Transistor::collector_junction_f>("exciter.transistor_collector_junction_f", "Collector junction",
                                                  capacitance, 1e-14, 1e-6),
    transistor<&Transistor::transit_time_s>("exciter.transistor_transit_time_s", "Transit time", time, 1e-13, 1e-5),
    transistor<&Transistor::reverse_transit_time_s>("exciter.transistor_reverse_transit_time_s", "Storage time",
                                                    time, 1e-13, 1e-4),
    transistor<&Transistor::threshold_v>("exciter.transistor_threshold_v", "Gate threshold", voltage, 0.1, 20),
    transistor<&Transistor::transconductance_a_per_v2>("exciter.transistor_transconductance_a_per_v2",
                                                       "Transconductance, A per V²", number, 1e-4, 1e4),
    transistor<&Transistor::gate_source_f>("exciter.transistor_gate_source_f", "Gate to source", capacitance, 1e-13,
                                           1e-6),
    transistor<&Transistor::gate_drain_f>("exciter.transistor_gate_drain_f", "Gate to drain", capacitance, 1e-14,
                                          1e-6),
    transistor<&Transistor::drain_source_f>("exciter.transistor_drain_source_f", "Drain to source", capacitance,
                                            1e-14, 1e-6),
    transistor<&Transistor::base_resistance_ohm>("exciter.transistor_base_resistance_ohm", "Base resistance",
                                                 resistance, 0.01, 1e5),
    transistor<&Transistor::voltage_rating_v>("exciter.transistor_voltage_rating_v", "Rated volts", voltage, 1,
                                              1e4),
    transistor<&Transistor::reverse_base_rating_v>("exciter.transistor_reverse_base_rating_v",
                                                   "Base reverse, rated", voltage, 0.5, 100),
    transistor<&Transistor::current_rating_a>("exciter.transistor_current_rating_a", "Rated current", current, 1e-3,
                                              1000),
    transistor<&Transistor::junction_limit_c>("exciter.transistor_junction_limit_c", "Junction limit", temperature,
                                              50, 300),
    transistor<&Transistor::junction_k_per_w>("exciter.transistor_junction_k_per_w", "Junction to case, K/W",
                                              number, 0.01, 1000),
    transistor<&Transistor::case_k_per_w>("exciter.transistor_case_k_per_w", "Case to air, K/W", number, 0.1, 1000),
    transistor<&Transistor::junction_capacity_j_per_k>("exciter.transistor_junction_capacity_j_per_k",
                                                       "Junction, J/K", number, 1e-6, 10),
    transistor<&Transistor::case_capacity_j_per_k>("exciter.transistor_case_capacity_j_per_k", "Case, J/K", number,
                                                   1e-4, 1000),
    clamp<&ClampDiode::saturation_current_a>("exciter.clamp_saturation_current_a", "Clamp's saturation current",
                                             current, 1e-30, 1e-3),
    clamp<&ClampDiode::emission>("exciter.clamp_emission", "Clamp's emission factor", number, 0.5, 10),
    clamp<&ClampDiode::capacitance_f>("exciter.clamp_capacitance_f", "Clamp's capacitance", capacitance, 1e-14,
                                      1e-7),
    clamp<&ClampDiode::transit_time_s>("exciter.clamp_transit_time_s", "Clamp's stored charge", time, 1e-13, 1e-4),
    clamp<&ClampDiode::breakdown_v>("exciter.clamp_breakdown_v", "Clamp's breakdown", voltage, 1, 1000),
};

constexpr std::array<Choice, 3> transistor_types{{{"npn", "NPN"}, {"pnp", "PNP"}, {"mos", "MOS"}}};
constexpr std::array<Choice, 4> clamps{
    {{"none", "No clamp"}, {"diode", "Diode"}, {"led", "LED"}, {"zener", "Zener"}}};
constexpr std::array<Choice, 2> no_yes{{{"no", "No"}, {"yes", "Yes"}}};
constexpr std::array<Choice, 2> directions{{{"forward", "Correct"}, {"reversed", "Reversed"}}};

constexpr std::array choice_rows{
    ChoiceSpec{"exciter.transistor_type", "Transistor", transistor_types,
               [](const Design& d) { return static_cast<std::size_t>(d.exciter.transistor.type); },
               [](Design& d, std::size_t i) { d.exciter.transistor.type = static_cast<TransistorType>(i); }},
    ChoiceSpec{"exciter.clamp", "At the base", clamps,
               [](const Design& d) { return static_cast<std::size_t>(d.exciter.clamp); },
               [](Design& d, std::size_t i) { d.exciter.clamp = static_cast<Clamp>(i); }},
    ChoiceSpec{"exciter.primary_direction", "Primary polarity", directions,
               [](const Design& d) { return d.exciter.primary_reversed ? std::size_t{1} : 0; },
               [](Design& d, std::size_t i) { d.exciter.primary_reversed = i == 1; }},
    ChoiceSpec{"exciter.fan", "Fan on the sink", no_yes,
               [](const Design& d) { return d.exciter.fan ? std::size_t{1} : 0; },
               [](Design& d, std::size_t i) { d.exciter.fan = i == 1; }},
};

} // namespace

std::span<const FieldSpec> exciter_fields() {
  return field_rows;
}

std::span<const ChoiceSpec> exciter_choices() {
  return choice_rows;
}

} // namespace arc
