// Numeric fields of a bridge, its switches and its drive. Ranges as in model/fields.cpp.
#include "crafts/bridges/bridge.h"
#include "model/field_rows.h"

#include <array>

namespace arc {
namespace {

using enum Dimension;

constexpr auto bridge_group = &Design::bridge;

constexpr std::array bridge_field_rows{
    field<&Design::bridge, &Bridge::split_capacitance_f>("bridge.split_capacitance_f", "Each split capacitor",
                                                         capacitance, 1e-09, 1),
    field<&Design::bridge, &Bridge::blocking_capacitance_f>("bridge.blocking_capacitance_f", "Blocking capacitor",
                                                            capacitance, 1e-09, 1),
    field<&Design::bridge, &Bridge::bus_voltage_v>("bridge.bus_voltage_v", "Bus", voltage, 1, 5000),
    field<&Design::bridge, &Bridge::reservoir_f>("bridge.reservoir_f", "Reservoir", capacitance, 1e-08, 10),
    field<&Design::bridge, &Bridge::bleed_resistance_ohm>("bridge.bleed_resistance_ohm", "Bleeder, 0: none",
                                                          resistance, 0, 1000000000.0),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::on_ohm>("bridge.switch_on_ohm", "On resistance, hot",
                                                                   resistance, 1e-05, 1000),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::knee_v>("bridge.switch_knee_v", "Knee", voltage, 0, 20),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::slope_ohm>(
        "bridge.switch_slope_ohm", "Resistance beyond it", resistance, 1e-05, 1000),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::diode_knee_v>("bridge.switch_diode_knee_v",
                                                                         "Diode's knee", voltage, 0.05, 20),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::diode_slope_ohm>(
        "bridge.switch_diode_slope_ohm", "Diode's resistance", resistance, 1e-05, 1000),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::output_f>("bridge.switch_output_f", "Output capacitance",
                                                                     capacitance, 1e-12, 1e-06),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::leak_s>("bridge.switch_leak_s", "Leak when off, siemens",
                                                                   number, 0, 0.001),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::fall_s>("bridge.switch_fall_s", "Falls in", time, 0,
                                                                   0.0001),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::rise_s>("bridge.switch_rise_s", "Rises in", time, 0,
                                                                   0.0001),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::recovery_s>("bridge.switch_recovery_s",
                                                                       "Diode recovers in", time, 0, 0.0001),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::gate_charge_c>("bridge.switch_gate_charge_c",
                                                                          "Gate charge", charge, 1e-10, 0.0001),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::gate_threshold_v>("bridge.switch_gate_threshold_v",
                                                                             "Gate threshold", voltage, 0.5, 15),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::gate_limit_v>("bridge.switch_gate_limit_v", "Gate, most",
                                                                         voltage, 5, 60),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::voltage_rating_v>("bridge.switch_voltage_rating_v",
                                                                             "Rated volts", voltage, 10, 20000),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::current_rating_a>(
        "bridge.switch_current_rating_a", "Rated current", current, 0.1, 100000.0),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::pulse_rating_a>(
        "bridge.switch_pulse_rating_a", "Pulse current", current, 0.1, 1000000.0),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::junction_limit_c>(
        "bridge.switch_junction_limit_c", "Junction limit", temperature, 50, 300),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::case_k_per_w>("bridge.switch_case_k_per_w",
                                                                         "Case to sink, K/W", number, 0.001, 100),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::pair_1_k_per_w>("bridge.switch_pair_1_k_per_w",
                                                                           "Fast pair, K/W", number, 1e-05, 100),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::pair_1_s>("bridge.switch_pair_1_s", "… its time", time,
                                                                     1e-07, 100),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::pair_2_k_per_w>("bridge.switch_pair_2_k_per_w",
                                                                           "Slow pair, K/W", number, 1e-05, 100),
    inner<&Design::bridge, &Bridge::device, &BridgeSwitch::pair_2_s>("bridge.switch_pair_2_s", "… its time", time,
                                                                     1e-07, 1000),
    field<&Design::bridge, &Bridge::fixed_frequency_hz>("bridge.fixed_frequency_hz", "Generator", frequency, 1000.0,
                                                        20000000.0),
    field<&Design::bridge, &Bridge::squarer_delay_s>("bridge.squarer_delay_s", "Squarer", time, 0, 1e-05),
    field<&Design::bridge, &Bridge::logic_delay_s>("bridge.logic_delay_s", "Logic", time, 0, 1e-05),
    field<&Design::bridge, &Bridge::driver_delay_s>("bridge.driver_delay_s", "Gate driver", time, 0, 1e-05),
    field<&Design::bridge, &Bridge::gate_delay_s>("bridge.gate_delay_s", "Gate", time, 0, 1e-05),
    field<&Design::bridge, &Bridge::lead_s>("bridge.lead_s", "Phase lead", time, 0, 1e-05),
    field<&Design::bridge, &Bridge::dead_time_s>("bridge.dead_time_s", "Dead time", time, 0, 0.0001),
    field<&Design::bridge, &Bridge::kick_s>("bridge.kick_s", "First pulse", time, 0, 0.0001),
    field<&Design::bridge, &Bridge::blanking_s>("bridge.blanking_s", "Deaf after an edge", time, 0, 1e-4),
    field<&Design::bridge, &Bridge::hysteresis_a>("bridge.hysteresis_a", "Hysteresis", current, 0, 1000),
    field<&Design::bridge, &Bridge::gate_resistance_ohm>("bridge.gate_resistance_ohm", "Gate resistor", resistance,
                                                         0, 1000),
    field<&Design::bridge, &Bridge::driver_resistance_ohm>("bridge.driver_resistance_ohm",
                                                           "Driver's own resistance", resistance, 0.01, 1000),
    field<&Design::bridge, &Bridge::stray_h>("bridge.stray_h", "Stray inductance", inductance, 0, 1e-5),
    field<&Design::bridge, &Bridge::driver_supply_v>("bridge.driver_supply_v", "Driver's supply", voltage, 3, 40),
    field<&Design::bridge, &Bridge::driver_slowest_s>("bridge.driver_slowest_s", "Shortest half period", time,
                                                      1e-09, 0.001),
    field<&Design::bridge, &Bridge::gate_primary_turns>("bridge.gate_primary_turns", "Turns, driver side", number,
                                                        1, 500),
    field<&Design::bridge, &Bridge::gate_secondary_turns>("bridge.gate_secondary_turns", "Turns, gate side", number,
                                                          1, 500),
    field<&Design::bridge, &Bridge::gate_core_area_mm2>("bridge.gate_core_area_mm2", "Core area, mm²", number, 0.1,
                                                        10000),
    field<&Design::bridge, &Bridge::gate_core_limit_t>("bridge.gate_core_limit_t", "Core limit, tesla", number,
                                                       0.01, 3),
    field<&Design::bridge, &Bridge::gate_core_al_h>("bridge.gate_core_al_h", "One turn, A_L", inductance, 1e-10,
                                                    0.001),
    field<&Design::bridge, &Bridge::gate_leakage_h>("bridge.gate_leakage_h", "Leakage at the gate", inductance, 0,
                                                    0.0001),
    field<&Design::bridge, &Bridge::antenna_length_m>("bridge.antenna_length_m", "Antenna", length, 0.005, 5),
    field<&Design::bridge, &Bridge::antenna_distance_m>("bridge.antenna_distance_m", "Antenna from the axis",
                                                        length, 0.02, 20),
    field<&Design::bridge, &Bridge::input_f>("bridge.input_f", "Input's capacitance", capacitance, 1e-13, 1e-07),
    field<&Design::bridge, &Bridge::input_threshold_v>("bridge.input_threshold_v", "Input's threshold", voltage,
                                                       0.001, 20),
    field<&Design::bridge, &Bridge::input_limit_v>("bridge.input_limit_v", "Input's limit", voltage, 0.5, 100),
    field<&Design::bridge, &Bridge::transformer_turns>("bridge.transformer_turns", "Transformer's turns", number, 1,
                                                       5000),
    field<&Design::bridge, &Bridge::burden_ohm>("bridge.burden_ohm", "Burden", resistance, 0.01, 100000.0),
    field<&Design::bridge, &Bridge::burden_rating_w>("bridge.burden_rating_w", "Burden's rating", power, 0.01,
                                                     1000),
    field<&Design::bridge, &Bridge::transformer_area_mm2>("bridge.transformer_area_mm2", "Core area, square mm",
                                                          number, 1, 10000),
    field<&Design::bridge, &Bridge::transformer_limit_t>("bridge.transformer_limit_t", "Core's flux, most, tesla",
                                                         number, 0.01, 2),
    field<&Design::bridge, &Bridge::transformer_al_h>("bridge.transformer_al_h", "Core, inductance of one turn",
                                                      inductance, 1e-9, 1e-3),
    field<&Design::bridge, &Bridge::current_limit_a>("bridge.current_limit_a", "Current limit", current, 0.1,
                                                     100000.0),
    field<&Design::bridge, &Bridge::limit_delay_s>("bridge.limit_delay_s", "Limit acts after", time, 0, 0.0001),
    field<&Design::bridge, &Bridge::noise_a>("bridge.noise_a", "Noise at its input", current, 1e-09, 1),
    field<&Design::bridge, &Bridge::snubber_f>("bridge.snubber_f", "Snubber, 0: none", capacitance, 0, 1e-6),
    field<&Design::bridge, &Bridge::snubber_ohm>("bridge.snubber_ohm", "… its resistor", resistance, 0.1, 10000),
    field<&Design::bridge, &Bridge::snubber_rating_w>("bridge.snubber_rating_w", "… rated", power, 0.01, 1000),
    field<&Design::bridge, &Bridge::capacitor_rating_a>("bridge.capacitor_rating_a", "… their rating, RMS", current,
                                                        0.01, 10000),
    field<&Design::bridge, &Bridge::sink_k_per_w>("bridge.sink_k_per_w", "Heat sink, K/W", number, 0.001, 100),
    field<&Design::bridge, &Bridge::sink_capacity_j_per_k>("bridge.sink_capacity_j_per_k", "Heat sink, J/K", number,
                                                           0.01, 1e5),
};

constexpr std::array<Choice, 3> legs{
    {{"half-split", "Half, split bus"}, {"half-blocking", "Half, blocking C"}, {"full", "Full bridge"}}};
constexpr std::array<Choice, 2> switch_types{{{"mos", "MOS"}, {"igbt", "IGBT"}}};
constexpr std::array<Choice, 4> feedbacks{{{"antenna", "Antenna"},
                                           {"foot-transformer", "At the secondary's base"},
                                           {"primary-transformer", "At the primary"},
                                           {"fixed", "Generator"}}};
constexpr std::array<Choice, 2> limit_actions{{{"end-burst", "Ends the burst"}, {"skip-cycles", "Skips cycles"}}};
constexpr std::array<Choice, 2> bridge_starts{{{"first-pulse", "By a first pulse"}, {"noise", "From noise"}}};
constexpr std::array<Choice, 2> drive_directions{{{"forward", "In phase"}, {"reversed", "Reversed"}}};
constexpr std::array<Choice, 2> rectifiers{{{"bridge", "Rectifier"}, {"doubler", "Doubler"}}};

constexpr std::array bridge_choice_rows{
    choice<bridge_group, &Bridge::legs>("bridge.legs", "Bridge", legs),
    choice<bridge_group, &Bridge::doubled>("bridge.rectifier", "Bus from", rectifiers),
    ChoiceSpec{"bridge.switch_type", "Switches", switch_types,
               [](const Design& d) { return static_cast<std::size_t>(d.bridge.device.type); },
               [](Design& d, std::size_t i) { d.bridge.device.type = static_cast<SwitchType>(i); }},
    choice<bridge_group, &Bridge::feedback>("bridge.feedback", "Listens by", feedbacks),
    choice<bridge_group, &Bridge::reversed>("bridge.drive_direction", "Phase", drive_directions),
    choice<bridge_group, &Bridge::start>("bridge.start", "Starts", bridge_starts),
    choice<bridge_group, &Bridge::limit_action>("bridge.limit_action", "At the limit", limit_actions),
};

} // namespace

std::span<const FieldSpec> bridge_fields() {
  return bridge_field_rows;
}

std::span<const ChoiceSpec> bridge_choices() {
  return bridge_choice_rows;
}

} // namespace arc
