// Numeric fields and choices of a tube oscillator: its tube, its feedback winding, its parts, thyristor and
// filament. Ranges as in model/fields.cpp.
#include "crafts/tubes/tube.h"
#include "model/field_rows.h"

#include <array>

namespace arc {
namespace {

using enum Dimension;

constexpr auto tube_group = &Design::tube;
constexpr auto winding_group = &Design::feedback;
constexpr auto flame_group = &Design::flame;

template <auto Member>
constexpr FieldSpec tube(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                         double maximum) {
  return inner<tube_group, &TubeOscillator::tube, Member>(key, label, dimension, minimum, maximum);
}

template <auto Member>
constexpr FieldSpec filament(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                             double maximum) {
  return inner<tube_group, &TubeOscillator::filament, Member>(key, label, dimension, minimum, maximum);
}

constexpr std::array tube_field_rows{
    field<winding_group, &FeedbackWinding::turns>("feedback.turns", "Feedback turns", number, 0.25, 500),
    field<winding_group, &FeedbackWinding::radius_m>("feedback.radius_m", "Radius", length, 0.002, 5),
    field<winding_group, &FeedbackWinding::pitch_m>("feedback.pitch_m", "Pitch", length, 1e-4, 0.5),
    field<winding_group, &FeedbackWinding::conductor_diameter_m>("feedback.conductor_diameter_m", "Conductor",
                                                                 wire_diameter, 1e-4, 0.1),
    field<winding_group, &FeedbackWinding::gap_m>("feedback.gap_m", "Gap to plate coil", length, 0, 1),
    tube<&Tube::perveance_a_per_v15>("tube.perveance_a_per_v15", "Perveance G, A per V^1.5", number, 1e-7, 1),
    tube<&Tube::grid_perveance_a_per_v15>("tube.grid_perveance_a_per_v15", "Grid's, A per V^1.5", number, 1e-8,
                                          0.5),
    tube<&Tube::mu>("tube.mu", "Amplification µ", number, 1, 5000),
    tube<&Tube::knee_v>("tube.knee_v", "Knee", voltage, 0.1, 5000),
    tube<&Tube::screen_mu>("tube.screen_mu", "µ of the screen", number, 1, 500),
    tube<&Tube::screen_perveance_a_per_v15>("tube.screen_perveance_a_per_v15", "Screen's, A per V^1.5", number,
                                            1e-8, 0.5),
    tube<&Tube::screen_v>("tube.screen_v", "Screen, direct", voltage, 0, 5000),
    tube<&Tube::grid_cathode_f>("tube.grid_cathode_f", "Grid to cathode", capacitance, 1e-13, 1e-8),
    tube<&Tube::grid_plate_f>("tube.grid_plate_f", "Grid to plate", capacitance, 1e-14, 1e-8),
    tube<&Tube::plate_cathode_f>("tube.plate_cathode_f", "Plate to cathode", capacitance, 1e-14, 1e-8),
    tube<&Tube::plate_dissipation_w>("tube.plate_dissipation_w", "Plate stands", power, 0.1, 1e6),
    tube<&Tube::grid_dissipation_w>("tube.grid_dissipation_w", "Grid stands", power, 0.01, 1e5),
    tube<&Tube::plate_heat_s>("tube.plate_heat_s", "Plate warms in", time, 1e-3, 1000),
    tube<&Tube::grid_heat_s>("tube.grid_heat_s", "Grid warms in", time, 1e-3, 1000),
    tube<&Tube::plate_voltage_v>("tube.plate_voltage_v", "Plate volts, rated", voltage, 10, 1e6),
    tube<&Tube::cathode_peak_a>("tube.cathode_peak_a", "Cathode, peak", current, 1e-3, 1e4),
    tube<&Tube::filament_v>("tube.filament_v", "Filament", voltage, 0.5, 100),
    tube<&Tube::filament_a>("tube.filament_a", "Filament takes", current, 0.01, 1000),
    field<tube_group, &TubeOscillator::in_parallel>("tube.in_parallel", "In parallel", count, 1, 16),
    field<tube_group, &TubeOscillator::sharing>("tube.sharing", "Share unevenly by", fraction, 0, 0.9),
    field<tube_group, &TubeOscillator::grid_leak_ohm>("tube.grid_leak_ohm", "Grid leak", resistance, 1, 1e7),
    field<tube_group, &TubeOscillator::grid_leak_f>("tube.grid_leak_f", "… its capacitor", capacitance, 1e-12,
                                                    1e-5),
    field<tube_group, &TubeOscillator::grid_leak_rating_w>("tube.grid_leak_rating_w", "Grid leak stands", power,
                                                           0.1, 1e5),
    field<tube_group, &TubeOscillator::grid_stopper_ohm>("tube.grid_stopper_ohm", "Grid stopper", resistance, 0,
                                                         1e5),
    field<tube_group, &TubeOscillator::lamp_cold_ohm>("tube.lamp_cold_ohm", "Lamp, cold", resistance, 0, 1e4),
    field<tube_group, &TubeOscillator::lamp_hot_ohm>("tube.lamp_hot_ohm", "Lamp, hot", resistance, 0, 1e5),
    field<tube_group, &TubeOscillator::lamp_a>("tube.lamp_a", "Lamp, hot at", current, 0.01, 100),
    field<tube_group, &TubeOscillator::trap_ohm>("tube.trap_ohm", "Suppressor resistor", resistance, 0, 1e4),
    field<tube_group, &TubeOscillator::trap_h>("tube.trap_h", "Suppressor coil", inductance, 1e-9, 1e-3),
    field<tube_group, &TubeOscillator::bypass_f>("tube.bypass_f", "RF bypass cap.", capacitance, 1e-12, 1e-3),
    field<tube_group, &TubeOscillator::supply_voltage_v>("tube.supply_voltage_v", "Direct current", voltage, 1,
                                                         1e5),
    field<tube_group, &TubeOscillator::supply_rise_s>("tube.supply_rise_s", "… rises in", time, 1e-9, 1),
    field<tube_group, &TubeOscillator::noise_a>("tube.noise_a", "Noise at the plate", current, 0, 0.1),
    field<tube_group, &TubeOscillator::noise_hz>("tube.noise_hz", "… at", frequency, 1000, 1e9),
    field<tube_group, &TubeOscillator::thyristor_on_ohm>("tube.thyristor_on_ohm", "Thyristor, on", resistance, 1e-3,
                                                         1e4),
    field<tube_group, &TubeOscillator::thyristor_off_ohm>("tube.thyristor_off_ohm", "Thyristor, off", resistance,
                                                          1e3, 1e12),
    field<tube_group, &TubeOscillator::thyristor_hold_a>("tube.thyristor_hold_a", "Holding current", current, 1e-6,
                                                         100),
    field<tube_group, &TubeOscillator::thyristor_off_s>("tube.thyristor_off_s", "Turns off in", time, 1e-9, 0.01),
    field<tube_group, &TubeOscillator::thyristor_voltage_v>("tube.thyristor_voltage_v", "Thyristor, volts", voltage,
                                                            10, 1e5),
    field<tube_group, &TubeOscillator::thyristor_current_a>("tube.thyristor_current_a", "Thyristor, RMS", current,
                                                            0.1, 1e4),
    field<tube_group, &TubeOscillator::snubber_ohm>("tube.snubber_ohm", "Snubber", resistance, 0.1, 1e6),
    field<tube_group, &TubeOscillator::snubber_f>("tube.snubber_f", "… its capacitor", capacitance, 1e-12, 1e-4),
    field<flame_group, &FlameCoil::feedback_f>("flame.feedback_f", "Feedback plate", capacitance, 1e-15, 1e-9),
    field<flame_group, &FlameCoil::plate_self_f>("flame.plate_self_f", "Plate coil's own", capacitance, 1e-14,
                                                 1e-8),
    field<flame_group, &FlameCoil::grid_resistor_ohm>("flame.grid_resistor_ohm", "Grid resistor", resistance, 10,
                                                      1e7),
    field<flame_group, &FlameCoil::grid_resistor_rating_w>("flame.grid_resistor_rating_w", "… stands", power, 0.1,
                                                           1e5),
    field<flame_group, &FlameCoil::supply_voltage_v>("flame.supply_voltage_v", "Direct current", voltage, 1, 1e5),
    field<flame_group, &FlameCoil::flame_ohm>("flame.flame_ohm", "Flame", resistance, 100, 1e9),
    field<flame_group, &FlameCoil::flame_f>("flame.flame_f", "… its capacitance", capacitance, 1e-15, 1e-10),
    filament<&FilamentSupply::open_v>("tube.filament_supply_v", "Winding gives", voltage, 0.1, 500),
    filament<&FilamentSupply::series_h>("tube.filament_series_h", "Series inductor", inductance, 0, 1),
    filament<&FilamentSupply::wiring_ohm>("tube.filament_wiring_ohm", "Wiring", resistance, 0, 10),
    filament<&FilamentSupply::trial_turns>("tube.filament_trial_turns", "Trial winding", number, 0.5, 1000),
    filament<&FilamentSupply::trial_v>("tube.filament_trial_v", "… gave", voltage, 0.01, 500),
    filament<&FilamentSupply::soft_ohm>("tube.filament_soft_ohm", "Soft start", resistance, 0, 100),
    filament<&FilamentSupply::soft_s>("tube.filament_soft_s", "… bridged after", time, 0, 600),
    filament<&FilamentSupply::cold_ratio>("tube.filament_cold_ratio", "Cold over hot", number, 0.02, 1),
    filament<&FilamentSupply::decoupling_f>("tube.filament_decoupling_f", "Decoupling, each leg", capacitance, 0,
                                            1e-4),
};

constexpr std::array<Choice, 2> circuits{{{"armstrong", "Armstrong"}, {"hartley", "Hartley"}}};
constexpr std::array<Choice, 2> tube_pairs{{{"parallel", "In parallel"}, {"push-pull", "Push-pull"}}};
constexpr std::array<Choice, 2> feedback_directions{{{"forward", "Correct"}, {"reversed", "Reversed"}}};
constexpr std::array<Choice, 2> winding_sides{{{"below", "Below the coil"}, {"above", "Above it"}}};
constexpr std::array<Choice, 5> ties{{{"triode", "Triode"},
                                      {"screen-to-plate", "Pentode, screen to plate"},
                                      {"screen-to-grid", "Pentode, screen to grid"},
                                      {"screen-to-cathode", "Pentode, screen to cathode"},
                                      {"screen-fed", "Pentode, screen fed"}}};
constexpr std::array<Choice, 3> arc_loads{
    {{"from-breakout", "From breakout on"}, {"always", "Always"}, {"never", "Never"}}};
constexpr std::array<Choice, 3> flame_forms{
    {{"ceramic", "Ceramic"}, {"plastic", "Plastic"}, {"air", "Self-supporting"}}};
constexpr std::array<Choice, 2> staccato{{{"none", "Runs through"}, {"cathode", "By a thyristor"}}};

const std::array tube_choice_rows{
    choice<tube_group, &TubeOscillator::circuit>("tube.circuit", "Oscillator", circuits),
    choice<tube_group, &TubeOscillator::push_pull>("tube.pair", "Tubes work", tube_pairs),
    choice<tube_group, &TubeOscillator::reversed>("tube.feedback_direction", "Feedback polarity",
                                                  feedback_directions),
    ChoiceSpec{"tube.grids", "Tube", ties,
               [](const Design& d) { return static_cast<std::size_t>(d.tube.tube.tie); },
               [](Design& d, std::size_t i) { d.tube.tube.tie = static_cast<GridTie>(i); }},
    choice<tube_group, &TubeOscillator::arc>("tube.arc", "Arcs load it", arc_loads),
    choice<tube_group, &TubeOscillator::staccato>("tube.staccato", "Staccato", staccato),
    choice<flame_group, &FlameCoil::form>("flame.form", "Form", flame_forms),
    choice<winding_group, &FeedbackWinding::above>("feedback.side", "Feedback", winding_sides),
};

} // namespace

std::span<const FieldSpec> tube_fields() {
  return tube_field_rows;
}

std::span<const ChoiceSpec> tube_choices() {
  return tube_choice_rows;
}

} // namespace arc
