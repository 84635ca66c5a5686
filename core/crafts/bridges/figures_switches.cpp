// Figures of a bridge's switches, gates and capacitors.
#include "crafts/bridges/figure_parts.h"

namespace arc::bridge_figure {
namespace {

const Figure switches_table[]{
    {.key = "gate_v",
     .group = "gate",
     .stage = on_bridge,
     .title = "Volts at each gate",
     .row = "Gate",
     .dimension = voltage,
     .value = with_run<&BridgeAnalysis::gate, &GateTransformer::gate_v>,
     .of = rated_switch<&BridgeSwitch::gate_limit_v>,
     .rated = true,
     .formula = "Driver's supply times the turns ratio of the gate transformer.",
     .inputs = "bridge.driver_supply_v bridge.gate_primary_turns bridge.gate_secondary_turns",
     .assumes = "An ideal ratio; leakage rings above it.",
     .source = textbook},
    {.key = "flux_t",
     .group = "gate",
     .stage = on_bridge,
     .title = "Flux density of the gate transformer",
     .row = "… core's flux",
     .dimension = number,
     .value = with_run<&BridgeAnalysis::gate, &GateTransformer::flux_t>,
     .of = rated<&Bridge::gate_core_limit_t>,
     .rated = true,
     .unit = "T",
     .formula = "Volts times seconds over turns and area; half of the swing either way.",
     .inputs = "bridge.gate_primary_turns bridge.gate_core_area_mm2 frequency_hz",
     .assumes = "A symmetric square wave.",
     .source = gate_source},
    {.key = "magnetising_a",
     .group = "gate",
     .stage = on_bridge,
     .title = "Magnetising current of the gate transformer",
     .row = "Magnetising, gates",
     .dimension = current,
     .value = with_run<&BridgeAnalysis::gate, &GateTransformer::magnetising_a>,
     .formula =
         "Volts times half a period over twice the winding's inductance, turns squared times the core's value.",
     .inputs = "bridge.gate_core_al_h bridge.gate_primary_turns frequency_hz",
     .assumes = "A symmetric square wave, a core that does not saturate.",
     .source = gate_source},
    {.key = "droop",
     .group = "gate",
     .stage = on_bridge,
     .title = "Droop of the gate's volts over half a period",
     .row = "Gate droop",
     .dimension = fraction,
     .digits = 2,
     .value = with_run<&BridgeAnalysis::gate, &GateTransformer::droop>,
     .formula = "1 - exp(-R t / L) with the driver's own resistance, which carries the magnetising current.",
     .inputs = "bridge.driver_resistance_ohm magnetising_a",
     .assumes = "The driver's resistance is 1.5 ohm where none is given (common practice, no source).",
     .source = gate_source},
    {.key = "power_w_per_switch",
     .group = "gate",
     .stage = on_bridge,
     .title = "Power to drive each gate while it bursts",
     .row = "Gate drive, each switch",
     .dimension = power,
     .value = with_run<&BridgeAnalysis::gate, &GateTransformer::power_w_per_switch>,
     .formula =
         "1.8 times the sheet's charge, swung from one end to the other, times twice the gate's volts and the "
         "frequency.",
     .inputs = "bridge.switch_gate_charge_c gate_v frequency_hz",
     .assumes = "The way back from the other end has no plateau: 1.8 instead of 2 (common practice, no source).",
     .source = gate_source},
    {.key = "rise_s",
     .group = "gate",
     .stage = on_bridge,
     .title = "Rise of the gate",
     .row = "Gate rises in",
     .dimension = time,
     .value = with_run<&BridgeAnalysis::gate, &GateTransformer::rise_s>,
     .formula = "The longer of two: the gate's charge through the gate resistor by the volts above the threshold; "
                "a quarter period of leakage inductance and gate.",
     .inputs = "bridge.gate_resistance_ohm bridge.switch_gate_charge_c bridge.gate_leakage_h",
     .assumes = "The gate's capacitance is its charge over its volts.",
     .source = gate_source},
    {.key = "capacitor_rms_a",
     .stage = on_bridge,
     .title = "Each bridge capacitor, RMS in the long run",
     .row = "Each capacitor, mean RMS",
     .dimension = current,
     .value = with_run<&BridgeAnalysis::capacitor_a>,
     .of = rated<&Bridge::capacitor_rating_a>,
     .rated = true,
     .formula = "The primary's RMS over all time, half of it in each of two split capacitors.",
     .inputs = "primary_rms_a rate_hz bridge.split_capacitance_f bridge.blocking_capacitance_f",
     .assumes = burst_limits,
     .source = textbook},
    {.key = "snubber_w",
     .stage = on_bridge,
     .title = "Each snubber's resistor, in the long run",
     .row = "Each snubber",
     .dimension = power,
     .value =
         [](const PowerView& o) {
           return when(ran(o) && bridge_of(o).snubber.burst_w > 0, bridge_of(o).snubber.average_w);
         },
     .note =
         [](const PowerView& o, UnitSystem units) {
           const double watts = ran(o) ? bridge_of(o).snubber.burst_w : 0;
           return watts > 0 ? fmt::format(", {} bursting", format_quantity(watts, power, units, 3)) : std::string();
         },
     .formula = "Capacitance times the square of the bus, once a cycle.",
     .inputs = "bridge.snubber_f bus_v mean_frequency_hz end_s rate_hz",
     .assumes = "Charged and emptied whole in each cycle; its part in the waveform is not simulated.",
     .source = textbook},
    {.key = "lowest_pole_hz",
     .stage = on_bridge,
     .title = "Frequencies at which the loop can ring",
     .row = "Poles",
     .dimension = frequency,
     .digits = 4,
     .value =
         [](const PowerView& o) {
           return when(ran(o) && !bridge_of(o).poles.empty(),
                       bridge_of(o).poles.empty() ? 0 : bridge_of(o).poles.front());
         },
     .note =
         [](const PowerView& o, UnitSystem units) {
           std::string out;
           for (std::size_t i = 1; ran(o) && i < bridge_of(o).poles.size(); ++i)
             out += ", " + format_quantity(bridge_of(o).poles[i], frequency, units, 4);
           return out;
         },
     .formula =
         "Eigenvalues of series capacitor, primary and resonator with a stiff bus; with no capacitor in series "
         "f0 / sqrt(1 - k^2).",
     .inputs = "mode_1_hz coupling tank_capacitance_f primary_inductance_h",
     .assumes = "Without loss and without arc.",
     .source = "Terman, Radio Engineers' Handbook, 1943 (from memory)"},
    {.key = "driver_highest_hz",
     .stage = on_bridge,
     .title = "Highest frequency that the driver serves",
     .row = "Driver serves up to",
     .dimension = frequency,
     .value = with_run<&BridgeAnalysis::chain_hz>,
     .formula = "Half a period must hold the slowest response of the driver; beyond that it swallows edges.",
     .inputs = "bridge.driver_slowest_s",
     .assumes = "As its data sheet states it.",
     .source = "Common practice, no source"},
    {.key = "input_signal_v",
     .stage = on_bridge,
     .title = "Signal at the driver's input, peak",
     .row = "Signal heard",
     .dimension = voltage,
     .value = with_run<&BridgeAnalysis::signal_v>,
     .of = rated<&Bridge::input_limit_v>,
     .formula =
         "Of an antenna: the mean potential along the rod from the charges of the field solution, divided between "
         "its own capacitance and the input's. Of a transformer: its current over the burden.",
     .inputs = "bridge.antenna_length_m bridge.antenna_distance_m bridge.input_f bridge.burden_ohm "
               "bridge.transformer_turns top_peak_v",
     .assumes = "Nothing else stands near the rod; the transformer is ideal above its lowest frequency.",
     .source = "Boundary elements; circuit theory"},
};

} // namespace

std::span<const Figure> switches_rows() {
  return switches_table;
}

} // namespace arc::bridge_figure
