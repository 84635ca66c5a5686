// The table of numeric fields. Ranges are far outside of what a bench coil needs: they catch slips of a unit and
// keep the arithmetic meaningful, they do not judge a design (findings do).
#include "model/field_rows.h"

#include <array>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>

namespace arc {
namespace {

// One rating of the tank's equal units.
template <auto Member>
constexpr FieldSpec unit_rating(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                                double maximum) {
  return inner<&Design::tank, &Tank::unit_ratings, Member>(key, label, dimension, minimum, maximum);
}

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

constexpr auto exciter = &Design::exciter;
constexpr auto bridge = &Design::bridge;
constexpr auto interrupter = &Design::interrupter;
constexpr auto equivalent = &Design::equivalent;
constexpr auto site = &Design::site;
constexpr auto secondary = &Design::secondary;
constexpr auto primary = &Design::primary;
constexpr auto tank = &Design::tank;
constexpr auto gap = &Design::gap;
constexpr auto breakout = &Design::breakout;
using enum Dimension;

const std::array fields{
    field<site, &Site::mains_voltage_v>("site.mains_voltage_v", "Mains voltage", voltage, 1, 1000),
    field<site, &Site::mains_frequency_hz>("site.mains_frequency_hz", "Mains frequency", frequency, 10, 1000),
    field<site, &Site::air_temperature_c>("site.air_temperature_c", "Air temperature", temperature, -60, 80),
    field<site, &Site::air_pressure_hpa>("site.air_pressure_hpa", "Air pressure", pressure, 300, 1200),
    field<site, &Site::ground_resistance_ohm>("site.ground_resistance_ohm", "Ground resistance", resistance, 0,
                                              1e4),
    field<site, &Site::ceiling_height_m>("site.ceiling_height_m", "Ceiling height", length, 0.1, 100),
    field<site, &Site::wall_distance_m>("site.wall_distance_m", "Nearest wall", length, 0.05, 100),
    field<secondary, &Secondary::form_diameter_m>("secondary.form_diameter_m", "Form diameter", length, 0.003, 3,
                                                  true),
    field<secondary, &Secondary::turns>("secondary.turns", "Turns", number, 2, 20000, true),
    field<secondary, &Secondary::winding_length_m>("secondary.winding_length_m", "Winding length", length, 0.003,
                                                   20, true),
    field<secondary, &Secondary::wire_bare_diameter_m>("secondary.wire_bare_diameter_m", "Bare wire", wire_diameter,
                                                       1e-5, 0.02, true),
    field<secondary, &Secondary::wire_overall_diameter_m>("secondary.wire_overall_diameter_m", "Over enamel",
                                                          wire_diameter, 1e-5, 0.03, true),
    field<secondary, &Secondary::base_height_m>("secondary.base_height_m", "Lowest turn above floor", length, 0, 20,
                                                true),
    field<secondary, &Secondary::form_length_m>("secondary.form_length_m", "Form length", length, 0.003, 20),
    field<primary, &Primary::inner_radius_m>("primary.inner_radius_m", "Inner radius", length, 0.002, 5, true),
    field<primary, &Primary::pitch_m>("primary.pitch_m", "Pitch", length, 1e-4, 0.5, true),
    field<primary, &Primary::turns>("primary.turns", "Turns", number, 0.25, 200, true),
    field<primary, &Primary::conductor_diameter_m>("primary.conductor_diameter_m", "Conductor", wire_diameter, 1e-4,
                                                   0.1, true),
    field<primary, &Primary::base_height_m>("primary.base_height_m", "Lowest turn above floor", length, 0, 20,
                                            true),
    field<primary, &Primary::cone_angle_deg>("primary.cone_angle_deg", "Rise angle", angle, 0, 90),
    field<primary, &Primary::tap_turns>("primary.tap_turns", "Clip at turn", number, 0.05, 200, true),
    field<primary, &Primary::lead_inductance_h>("primary.lead_inductance_h", "Leads", inductance, 0, 1e-3),
    field<primary, &Primary::lead_length_m>("primary.lead_length_m", "Lead length", length, 0.01, 20),
    field<primary, &Primary::lead_spacing_m>("primary.lead_spacing_m", "Lead spacing", length, 0.001, 2),
    field<tank, &Tank::capacitance_f>("tank.capacitance_f", "Capacitance", capacitance, 1e-15, 0.1, true),
    field<tank, &Tank::unit_capacitance_f>("tank.unit_capacitance_f", "Each unit", capacitance, 1e-13, 1e-3),
    field<tank, &Tank::unit_voltage_v>("tank.unit_voltage_v", "Unit rating", voltage, 1, 1e6),
    field<tank, &Tank::units_in_series>("tank.units_in_series", "Units in series", count, 1, 100),
    field<tank, &Tank::units_in_parallel>("tank.units_in_parallel", "Strings in parallel", count, 1, 100),
    field<tank, &Tank::unit_tolerance>("tank.unit_tolerance", "Tolerance", fraction, 0, 0.9),
    unit_rating<&UnitRatings::rms_current_a>("tank.unit_rms_current_a", "Unit RMS rating", current, 1e-6, 1e5),
    unit_rating<&UnitRatings::slope_v_per_s>("tank.unit_slope_v_per_s", "Unit dV/dt rating", slope, 1, 1e15),
    unit_rating<&UnitRatings::dissipation_factor>("tank.unit_dissipation_factor", "Loss factor tan δ", number, 0,
                                                  1),
    unit_rating<&UnitRatings::esr_ohm>("tank.unit_esr_ohm", "Unit ESR", resistance, 0, 1e6),
    unit_rating<&UnitRatings::thermal_k_per_w>("tank.unit_thermal_k_per_w", "Unit heats, K per W", number, 0.01,
                                               1000),
    field<tank, &Tank::bleed_resistance_ohm>("tank.bleed_resistance_ohm", "Bleeder on each", resistance, 1, 1e12),
    field<breakout, &BreakoutSurface::roughness>("breakout.roughness", "Surface factor", number, 0.3, 1),
    field<breakout, &BreakoutSurface::point_length_m>("breakout.point_length_m", "Breakout point", length, 1e-4, 1),
    field<breakout, &BreakoutSurface::point_tip_radius_m>("breakout.point_tip_radius_m", "Its tip radius", length,
                                                          1e-5, 0.1),
    field<gap, &Gap::firing_voltage_v>("gap.firing_voltage_v", "Gap fires at", voltage, 10, 1e6),
    field<gap, &Gap::break_rate_hz>("gap.break_rate_hz", "Breaks each second", frequency, 0.01, 1e5),
    field<gap, &Gap::gaps_in_series>("gap.gaps_in_series", "Static gaps in series", count, 1, 50),
    field<gap, &Gap::spacing_m>("gap.spacing_m", "Spacing of each", length, 1e-5, 0.5),
    field<gap, &Gap::electrode_diameter_m>("gap.electrode_diameter_m", "Electrode", length, 1e-3, 0.5),
    field<gap, &Gap::rotary_electrodes>("gap.rotary_electrodes", "Rotor electrodes", count, 1, 100),
    field<gap, &Gap::rotor_speed_hz>("gap.rotor_speed_hz", "Rotor turns", frequency, 0.1, 1000),
    field<gap, &Gap::rotor_phase_deg>("gap.rotor_phase_deg", "Locked to mains at", angle, 0, 360),
    field<gap, &Gap::rotor_radius_m>("gap.rotor_radius_m", "Rotor radius", length, 0.005, 2),
    field<gap, &Gap::rotor_clearance_m>("gap.rotor_clearance_m", "Rotor clearance", length, 1e-5, 0.05),
    field<gap, &Gap::arc_drop_v>("gap.arc_drop_v", "Arc volts per gap", voltage, 0, 2000),
    field<gap, &Gap::arc_resistance_ohm>("gap.arc_resistance_ohm", "Arc resistance", resistance, 0, 1000),
    field<exciter, &Exciter::supply_voltage_v>("exciter.supply_voltage_v", "Supply", voltage, 0.5, 1000),
    field<exciter, &Exciter::supply_limit_a>("exciter.supply_limit_a", "Supply's limit", current, 1e-3, 1000),
    field<exciter, &Exciter::bias_resistance_ohm>("exciter.bias_resistance_ohm", "Bias resistor", resistance, 1,
                                                  1e8),
    field<exciter, &Exciter::base_stray_f>("exciter.base_stray_f", "Stray at the base", capacitance, 1e-13, 1e-8),
    field<exciter, &Exciter::collector_stray_f>("exciter.collector_stray_f", "Stray at the collector", capacitance,
                                                1e-13, 1e-7),
    field<exciter, &Exciter::sink_k_per_w>("exciter.sink_k_per_w", "Heat sink, K per W", number, 0.01, 200),
    field<exciter, &Exciter::sink_capacity_j_per_k>("exciter.sink_capacity_j_per_k", "Heat sink, J per K", number,
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
    transistor<&Transistor::junction_k_per_w>("exciter.transistor_junction_k_per_w", "Junction to case, K per W",
                                              number, 0.01, 1000),
    transistor<&Transistor::case_k_per_w>("exciter.transistor_case_k_per_w", "Case to air, K per W", number, 0.1,
                                          1000),
    transistor<&Transistor::junction_capacity_j_per_k>("exciter.transistor_junction_capacity_j_per_k",
                                                       "Junction, J per K", number, 1e-6, 10),
    transistor<&Transistor::case_capacity_j_per_k>("exciter.transistor_case_capacity_j_per_k", "Case, J per K",
                                                   number, 1e-4, 1000),
    clamp<&ClampDiode::saturation_current_a>("exciter.clamp_saturation_current_a", "Clamp's saturation current",
                                             current, 1e-30, 1e-3),
    clamp<&ClampDiode::emission>("exciter.clamp_emission", "Clamp's emission factor", number, 0.5, 10),
    clamp<&ClampDiode::capacitance_f>("exciter.clamp_capacitance_f", "Clamp's capacitance", capacitance, 1e-14,
                                      1e-7),
    clamp<&ClampDiode::transit_time_s>("exciter.clamp_transit_time_s", "Clamp's stored charge", time, 1e-13, 1e-4),
    clamp<&ClampDiode::breakdown_v>("exciter.clamp_breakdown_v", "Clamp's breakdown", voltage, 1, 1000),
    field<equivalent, &Equivalent::primary_inductance_h>("equivalent.primary_inductance_h", "Primary, measured",
                                                         inductance, 1e-9, 1),
    field<equivalent, &Equivalent::primary_resistance_ohm>("equivalent.primary_resistance_ohm",
                                                           "Primary's resistance, measured", resistance, 1e-6, 1e3),
    field<equivalent, &Equivalent::coupling>("equivalent.coupling", "Coupling, measured", number, 0.001, 0.99),
    field<equivalent, &Equivalent::secondary_inductance_h>(
        "equivalent.secondary_inductance_h", "Resonator's inductance, measured", inductance, 1e-9, 100),
    field<equivalent, &Equivalent::secondary_capacitance_f>(
        "equivalent.secondary_capacitance_f", "Resonator's capacitance, measured", capacitance, 1e-15, 1e-6),
    field<equivalent, &Equivalent::secondary_resistance_ohm>(
        "equivalent.secondary_resistance_ohm", "Resonator's resistance, measured", resistance, 1e-3, 1e6),
    field<equivalent, &Equivalent::breakout_voltage_v>("equivalent.breakout_voltage_v", "Breaks out at, measured",
                                                       voltage, 100, 1e7),
    field<equivalent, &Equivalent::streamer_capacitance_f>("equivalent.streamer_capacitance_f",
                                                           "Streamer's capacitance", capacitance, 1e-14, 1e-9),
    field<equivalent, &Equivalent::streamer_resistance_ohm>("equivalent.streamer_resistance_ohm",
                                                            "Streamer's resistance", resistance, 100, 1e9),
    field<equivalent, &Equivalent::feedback_inductance_h>("equivalent.feedback_inductance_h",
                                                          "Feedback winding, measured", inductance, 1e-9, 1),
    field<equivalent, &Equivalent::feedback_resistance_ohm>(
        "equivalent.feedback_resistance_ohm", "Feedback winding's resistance, measured", resistance, 1e-6, 1e3),
    field<equivalent, &Equivalent::feedback_coupling>(
        "equivalent.feedback_coupling", "Coupling of plate coil and feedback, measured", number, 0.001, 0.99),
    field<equivalent, &Equivalent::feedback_secondary_coupling>(
        "equivalent.feedback_secondary_coupling", "Coupling of feedback and secondary, measured", number, 0, 0.99),
    field<equivalent, &Equivalent::supply_emf_v>("equivalent.supply_emf_v", "Supply's winding, measured", voltage,
                                                 1, 1e5),
    field<equivalent, &Equivalent::supply_inductance_h>("equivalent.supply_inductance_h",
                                                        "… its inductance, measured", inductance, 1e-6, 1000),
    field<equivalent, &Equivalent::supply_resistance_ohm>("equivalent.supply_resistance_ohm",
                                                          "… its resistance, measured", resistance, 1e-3, 1e5),
    field<equivalent, &Equivalent::shifter_capacitance_f>(
        "equivalent.shifter_capacitance_f", "Level shifter's capacitor, measured", capacitance, 1e-9, 1e-2),
    field<equivalent, &Equivalent::diode_on_ohm>("equivalent.diode_on_ohm", "Its diodes, on", resistance, 1e-3,
                                                 1e5),
    field<equivalent, &Equivalent::diode_off_ohm>("equivalent.diode_off_ohm", "Its diodes, off", resistance, 1e4,
                                                  1e12),
};

constexpr std::array<Choice, 3> primary_shapes{{{"flat", "Flat spiral"}, {"helix", "Helix"}, {"cone", "Cone"}}};
constexpr std::array<Choice, 2> electrode_shapes{
    {{"rounded", "Rounded ends"}, {"cylinders", "Pipes side by side"}}};
constexpr std::array<Choice, 3> transistor_types{{{"npn", "NPN"}, {"pnp", "PNP"}, {"mos", "MOS"}}};
constexpr std::array<Choice, 4> clamps{
    {{"none", "No clamp"}, {"diode", "Diode"}, {"led", "LED"}, {"zener", "Zener"}}};
constexpr std::array<Choice, 2> no_yes{{{"no", "No"}, {"yes", "Yes"}}};
constexpr std::array<Choice, 2> directions{{{"forward", "Feeds back"}, {"reversed", "Ends swapped"}}};

constexpr std::array<Choice, 3> legs{
    {{"half-split", "Half, split bus"}, {"half-blocking", "Half, blocking C"}, {"full", "Full bridge"}}};
constexpr std::array<Choice, 2> switch_types{{{"mos", "MOS"}, {"igbt", "IGBT"}}};
constexpr std::array<Choice, 4> feedbacks{{{"antenna", "Antenna"},
                                           {"foot-transformer", "At the foot"},
                                           {"primary-transformer", "At the primary"},
                                           {"fixed", "Generator"}}};
constexpr std::array<Choice, 2> limit_actions{{{"end-burst", "Ends the burst"}, {"skip-cycles", "Skips cycles"}}};
constexpr std::array<Choice, 2> bridge_starts{{{"first-pulse", "By a first pulse"}, {"noise", "From noise"}}};
constexpr std::array<Choice, 2> drive_directions{{{"forward", "In phase"}, {"reversed", "Ends swapped"}}};
constexpr std::array<Choice, 2> rectifiers{{{"bridge", "Rectifier"}, {"doubler", "Doubler"}}};
constexpr std::array<Choice, 2> interrupter_modes{{{"free", "Free-running"}, {"locked", "Mains-locked"}}};

const std::array own_choices{
    ChoiceSpec{"primary.shape", "Primary shape", primary_shapes,
               [](const Design& d) { return static_cast<std::size_t>(d.primary.shape); },
               [](Design& d, std::size_t i) { d.primary.shape = static_cast<PrimaryShape>(i); }},
    ChoiceSpec{"gap.electrode_shape", "Electrodes are", electrode_shapes,
               [](const Design& d) { return static_cast<std::size_t>(d.gap.electrode_shape); },
               [](Design& d, std::size_t i) { d.gap.electrode_shape = static_cast<ElectrodeShape>(i); }},
    ChoiceSpec{"exciter.transistor_type", "Transistor", transistor_types,
               [](const Design& d) { return static_cast<std::size_t>(d.exciter.transistor.type); },
               [](Design& d, std::size_t i) { d.exciter.transistor.type = static_cast<TransistorType>(i); }},
    ChoiceSpec{"exciter.clamp", "At the base", clamps,
               [](const Design& d) { return static_cast<std::size_t>(d.exciter.clamp); },
               [](Design& d, std::size_t i) { d.exciter.clamp = static_cast<Clamp>(i); }},
    ChoiceSpec{"exciter.primary_direction", "Primary's ends", directions,
               [](const Design& d) { return d.exciter.primary_reversed ? std::size_t{1} : 0; },
               [](Design& d, std::size_t i) { d.exciter.primary_reversed = i == 1; }},
    ChoiceSpec{"exciter.fan", "Fan on the sink", no_yes,
               [](const Design& d) { return d.exciter.fan ? std::size_t{1} : 0; },
               [](Design& d, std::size_t i) { d.exciter.fan = i == 1; }},
    choice<bridge, &Bridge::legs>("bridge.legs", "Bridge", legs),
    choice<bridge, &Bridge::doubled>("bridge.rectifier", "Bus from", rectifiers),
    ChoiceSpec{"bridge.switch_type", "Switches", switch_types,
               [](const Design& d) { return static_cast<std::size_t>(d.bridge.device.type); },
               [](Design& d, std::size_t i) { d.bridge.device.type = static_cast<SwitchType>(i); }},
    choice<bridge, &Bridge::feedback>("bridge.feedback", "Listens by", feedbacks),
    choice<bridge, &Bridge::reversed>("bridge.drive_direction", "Phase", drive_directions),
    choice<bridge, &Bridge::start>("bridge.start", "Starts", bridge_starts),
    choice<bridge, &Bridge::limit_action>("bridge.limit_action", "At the limit", limit_actions),
    choice<interrupter, &Interrupter::locked>("interrupter.mode", "Bursts", interrupter_modes),
};

} // namespace

std::optional<double> FieldSpec::get(const Design& design) const {
  return design.absent.contains(key) ? std::nullopt : member(design);
}

void FieldSpec::set(Design& design, std::optional<double> value) const {
  store(design, value);
  if (!required) return;
  if (value)
    design.absent.erase(std::string(key));
  else
    design.absent.emplace(key);
}

std::span<const ChoiceSpec> design_choices() {
  static const std::vector<ChoiceSpec> all = [] {
    std::vector<ChoiceSpec> out(own_choices.begin(), own_choices.end());
    out.insert(out.end(), tube_choices().begin(), tube_choices().end());
    return out;
  }();
  return all;
}

const ChoiceSpec& design_choice(std::string_view key) {
  for (const ChoiceSpec& choice : design_choices())
    if (choice.key == key) return choice;
  throw std::out_of_range(fmt::format("no choice of the design is called {}", key));
}

std::vector<std::string_view> still_needed(const Design& design, std::string_view group) {
  std::vector<std::string_view> out;
  if (design.absent.empty()) return out;
  for (const FieldSpec& field : design_fields())
    if (field.key.starts_with(group) && field.key[group.size()] == '.' && design.absent.contains(field.key))
      out.push_back(field.label);
  return out;
}

bool given(const Design& design, std::string_view group) {
  return still_needed(design, group).empty();
}

void note_given(const Design& before, Design& after) {
  if (after.absent.empty()) return;
  for (const FieldSpec& field : design_fields())
    if (after.absent.contains(field.key) && field.member(before) != field.member(after))
      after.absent.erase(std::string(field.key));
}

std::span<const FieldSpec> design_fields() {
  static const std::vector<FieldSpec> all = [] {
    std::vector<FieldSpec> out(fields.begin(), fields.end());
    const auto bridges = bridge_fields();
    out.insert(out.end(), bridges.begin(), bridges.end());
    const auto tubes = tube_fields();
    out.insert(out.end(), tubes.begin(), tubes.end());
    return out;
  }();
  return all;
}

const FieldSpec& design_field(std::string_view key) {
  for (const FieldSpec& field : design_fields())
    if (field.key == key) return field;
  throw std::out_of_range(fmt::format("no design field is called {}", key));
}

std::string range_problem(std::string_view label, Dimension dimension, double si, double minimum, double maximum,
                          UnitSystem units) {
  if (std::isfinite(si) && si >= minimum && si <= maximum) {
    if (si != 0 && std::abs(si) < least_quantity)
      return fmt::format("{} of {:g} is too small to be real", label, si);
    if (dimension != Dimension::count || si == std::floor(si)) return {};
    return fmt::format("{} must be a whole number, not {}", label, format_number(si));
  }
  const auto print = [&](double value) { return format_quantity(value, dimension, units); };
  return fmt::format("{} of {} is outside of {} to {}", label, print(si), print(minimum), print(maximum));
}

std::string range_problem(const FieldSpec& field, double si, UnitSystem units) {
  return range_problem(field.label, field.dimension, si, field.minimum, field.maximum, units);
}

} // namespace arc
