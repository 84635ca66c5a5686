// What a new vacuum-tube coil begins as, its feed apart. Values are usual ones (common practice, no source).
#pragma once

#include <string_view>

namespace arc {

inline constexpr std::string_view tube_begins = R"({"format": "high-arc-design",
"version": 1,
"kind": "tube",
"site": {"grounded_conductors": ["primary"]},
"secondary": {"form_diameter_m": 0.075, "turns": 1050, "winding_length_m": 0.32,
  "wire_bare_diameter_m": 0.00025, "wire_overall_diameter_m": 0.000281, "base_height_m": 0.3},
"topload": [{"shape": "toroid", "outer_diameter_m": 0.16, "tube_diameter_m": 0.05, "centre_above_winding_m": 0.05}],
"primary": {"shape": "helix", "inner_radius_m": 0.056, "pitch_m": 0.0024, "turns": 34,
  "conductor_diameter_m": 0.0015, "base_height_m": 0.29, "tap_turns": 29.6},
"tank": {"capacitance_f": 1.88e-09, "unit_capacitance_f": 4.7e-10, "unit_voltage_v": 15000,
  "units_in_series": 1, "units_in_parallel": 4, "unit_tolerance": 0.05, "unit_rms_current_a": 9,
  "unit_dissipation_factor": 0.00012, "bleed_resistance_ohm": 22000000},
"breakout": {"point_length_m": 0.03, "point_tip_radius_m": 0.001},
"feedback": {"radius_m": 0.056, "pitch_m": 0.0024, "conductor_diameter_m": 0.001},
"tube": {"grid_leak_ohm": 1500, "staccato": "cathode", "filament_wiring_ohm": 0.03, "filament_soft_ohm": 0.4},
"interrupter": {"mode": "locked", "phase_deg": 60, "every_cycle": 3, "on_time_s": 0.0002}})";

} // namespace arc
