// What a new flame coil begins as, its feed apart. Values are usual ones (common practice, no source).
#pragma once

#include <string_view>

namespace arc {

inline constexpr std::string_view flame_begins = R"({"format": "high-arc-design",
"version": 1,
"kind": "flame",
"site": {"grounded_conductors": ["primary"]},
"secondary": {"form_diameter_m": 0.045, "turns": 34, "winding_length_m": 0.17, "wire_bare_diameter_m": 0.002,
  "wire_overall_diameter_m": 0.0021, "base_height_m": 0.18},
"primary": {"shape": "helix", "inner_radius_m": 0.04, "pitch_m": 0.006, "turns": 8,
  "conductor_diameter_m": 0.003, "base_height_m": 0.06, "tap_turns": 8},
"breakout": {"point_length_m": 0.02, "point_tip_radius_m": 0.0008},
"tube": {"grids": "screen-fed", "perveance_a_per_v15": 0.0011, "grid_perveance_a_per_v15": 0.0002, "mu": 300,
  "screen_mu": 5, "screen_v": 120, "grid_cathode_f": 1.6e-11, "grid_plate_f": 1.2e-13,
  "plate_cathode_f": 9e-12, "plate_dissipation_w": 75, "grid_dissipation_w": 4, "plate_heat_s": 6,
  "grid_heat_s": 1, "plate_voltage_v": 2600, "cathode_peak_a": 1.5, "filament_v": 12.6, "filament_a": 1.6,
  "arc": "always"},
"flame": {"feedback_f": 5e-13}})";

} // namespace arc
