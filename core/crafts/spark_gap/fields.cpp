// The gap's numbers in a design. Ranges as in model/fields.cpp.
#include "crafts/spark_gap/spark_gap.h"
#include "model/field_rows.h"

#include <array>

namespace arc {
namespace {

using enum Dimension;

constexpr auto gap_group = &Design::gap;

constexpr std::array field_rows{
    field<gap_group, &Gap::firing_voltage_v>("gap.firing_voltage_v", "Firing voltage", voltage, 10, 1e6),
    field<gap_group, &Gap::break_rate_hz>("gap.break_rate_hz", "Break rate", frequency, 0.01, 1e5),
    field<gap_group, &Gap::gaps_in_series>("gap.gaps_in_series", "Static gaps in series", count, 1, 50),
    field<gap_group, &Gap::spacing_m>("gap.spacing_m", "Gap width, each", length, 1e-5, 0.5),
    field<gap_group, &Gap::electrode_diameter_m>("gap.electrode_diameter_m", "Electrode diameter", length, 1e-3,
                                                 0.5),
    field<gap_group, &Gap::rotary_electrodes>("gap.rotary_electrodes", "Rotor electrodes", count, 1, 100),
    field<gap_group, &Gap::rotor_speed_hz>("gap.rotor_speed_hz", "Rotor speed", frequency, 0.1, 1000),
    field<gap_group, &Gap::rotor_phase_deg>("gap.rotor_phase_deg", "Synchronous phase", angle, 0, 360),
    field<gap_group, &Gap::rotor_radius_m>("gap.rotor_radius_m", "Rotor radius", length, 0.005, 2),
    field<gap_group, &Gap::rotor_clearance_m>("gap.rotor_clearance_m", "Rotor clearance", length, 1e-5, 0.05),
    field<gap_group, &Gap::arc_drop_v>("gap.arc_drop_v", "Arc volts per gap", voltage, 0, 2000),
    field<gap_group, &Gap::arc_resistance_ohm>("gap.arc_resistance_ohm", "Arc resistance", resistance, 0, 1000),
};

constexpr std::array<Choice, 2> electrode_shapes{{{"rounded", "Rounded ends"}, {"cylinders", "Parallel pipes"}}};

constexpr std::array choice_rows{
    ChoiceSpec{"gap.electrode_shape", "Electrode shape", electrode_shapes,
               [](const Design& d) { return static_cast<std::size_t>(d.gap.electrode_shape); },
               [](Design& d, std::size_t i) { d.gap.electrode_shape = static_cast<ElectrodeShape>(i); }},
};

} // namespace

std::span<const FieldSpec> spark_gap_fields() {
  return field_rows;
}

std::span<const ChoiceSpec> spark_gap_choices() {
  return choice_rows;
}

} // namespace arc
