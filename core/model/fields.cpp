// The table of numeric fields. Ranges are far outside of what a bench coil needs: they catch slips of a unit and
// keep the arithmetic meaningful, they do not judge a design (findings do).
#include "model/field_rows.h"

#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using enum Dimension;

constexpr auto site = &Design::site;
constexpr auto secondary = &Design::secondary;
constexpr auto primary = &Design::primary;
constexpr auto tank = &Design::tank;
constexpr auto breakout = &Design::breakout;
constexpr auto equivalent = &Design::equivalent;

template <auto Member>
constexpr FieldSpec unit_rating(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                                double maximum) {
  return inner<&Design::tank, &Tank::unit_ratings, Member>(key, label, dimension, minimum, maximum);
}

constexpr std::array field_rows{
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
    field<secondary, &Secondary::base_height_m>("secondary.base_height_m", "Height above floor", length, 0, 20,
                                                true),
    field<secondary, &Secondary::form_length_m>("secondary.form_length_m", "Form length", length, 0.003, 20),
    field<primary, &Primary::inner_radius_m>("primary.inner_radius_m", "Inner radius", length, 0.002, 5, true),
    field<primary, &Primary::pitch_m>("primary.pitch_m", "Pitch", length, 1e-4, 0.5, true),
    field<primary, &Primary::turns>("primary.turns", "Turns", number, 0.25, 200, true),
    field<primary, &Primary::conductor_diameter_m>("primary.conductor_diameter_m", "Conductor", wire_diameter, 1e-4,
                                                   0.1, true),
    field<primary, &Primary::base_height_m>("primary.base_height_m", "Height above floor", length, 0, 20, true),
    field<primary, &Primary::cone_angle_deg>("primary.cone_angle_deg", "Rise angle", angle, 0, 90),
    field<primary, &Primary::tap_turns>("primary.tap_turns", "Tap at turn", number, 0.05, 200, true),
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
    unit_rating<&UnitRatings::thermal_k_per_w>("tank.unit_thermal_k_per_w", "Thermal resistance, K/W", number, 0.01,
                                               1000),
    field<tank, &Tank::bleed_resistance_ohm>("tank.bleed_resistance_ohm", "Bleeder on each", resistance, 1, 1e12),
    field<breakout, &BreakoutSurface::roughness>("breakout.roughness", "Roughness factor", number, 0.3, 1),
    field<breakout, &BreakoutSurface::point_length_m>("breakout.point_length_m", "Breakout point", length, 1e-4, 1),
    field<breakout, &BreakoutSurface::point_tip_radius_m>("breakout.point_tip_radius_m", "Its tip radius", length,
                                                          1e-5, 0.1),
    field<&Design::interrupter, &Interrupter::rate_hz>("interrupter.rate_hz", "Burst rate", frequency, 0.05, 20000),
    field<&Design::interrupter, &Interrupter::on_time_s>("interrupter.on_time_s", "On-time", time, 1e-07, 0.1),
    field<&Design::interrupter, &Interrupter::phase_deg>("interrupter.phase_deg", "Begins at", angle, 0, 360),
    field<&Design::interrupter, &Interrupter::every_cycle>("interrupter.every_cycle", "Every so many cycles", count,
                                                           1, 100),
    field<&Design::interrupter, &Interrupter::longest_on_s>("interrupter.longest_on_s", "Longest on-time", time,
                                                            1e-07, 0.1),
    field<&Design::interrupter, &Interrupter::largest_duty>("interrupter.largest_duty", "Largest duty", fraction,
                                                            0.0001, 1),
    field<&Design::interrupter, &Interrupter::highest_rate_hz>("interrupter.highest_rate_hz", "Highest rate",
                                                               frequency, 0.05, 50000),
    field<&Design::interrupter, &Interrupter::least_off_s>("interrupter.least_off_s", "Least off-time", time, 0,
                                                           10),
    field<&Design::interrupter, &Interrupter::largest_energy_j>("interrupter.largest_energy_j", "Largest energy",
                                                                energy, 1e-06, 100000.0),
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

constexpr std::array<Choice, 2> interrupter_modes{{{"free", "Free-running"}, {"locked", "Mains-locked"}}};

constexpr std::array choice_rows{
    ChoiceSpec{"primary.shape", "Primary shape", primary_shapes,
               [](const Design& d) { return static_cast<std::size_t>(d.primary.shape); },
               [](Design& d, std::size_t i) { d.primary.shape = static_cast<PrimaryShape>(i); }},
    choice<&Design::interrupter, &Interrupter::locked>("interrupter.mode", "Bursts", interrupter_modes),
};

} // namespace

std::span<const FieldSpec> shared_fields() {
  return field_rows;
}

std::span<const ChoiceSpec> shared_choices() {
  return choice_rows;
}

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
