// What a new single resonant bridge begins as, its feed apart. Values are usual ones (common practice, no source).
#pragma once

#include <string_view>

namespace arc {

inline constexpr std::string_view bridge_begins = R"({"format": "high-arc-design",
"version": 1,
"kind": "bridge",
"site": {"grounded_conductors": ["primary"]},
"secondary": {"form_diameter_m": 0.09, "turns": 1200, "winding_length_m": 0.36,
  "wire_bare_diameter_m": 0.00025, "wire_overall_diameter_m": 0.000281, "base_height_m": 0.3},
"topload": [{"shape": "toroid", "outer_diameter_m": 0.25, "tube_diameter_m": 0.06, "centre_above_winding_m": 0.05}],
"primary": {"shape": "helix", "inner_radius_m": 0.085, "pitch_m": 0.008, "turns": 12,
  "conductor_diameter_m": 0.003, "base_height_m": 0.31, "tap_turns": 12},
"breakout": {"point_length_m": 0.04, "point_tip_radius_m": 0.001},
"bridge": {"blanking_s": 1e-06},
"interrupter": {"rate_hz": 150, "on_time_s": 0.00015}})";

} // namespace arc
