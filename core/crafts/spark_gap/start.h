// What a new spark-gap coil begins as, its feed apart. Values are usual ones (common practice, no source).
#pragma once

#include <string_view>

namespace arc {

inline constexpr std::string_view spark_gap_begins = R"({"format": "high-arc-design",
"version": 1,
"kind": "spark-gap",
"site": {"grounded_conductors": ["primary"]},
"secondary": {"form_diameter_m": 0.11, "turns": 1000, "winding_length_m": 0.47, "wire_bare_diameter_m": 0.0004,
  "wire_overall_diameter_m": 0.00044, "base_height_m": 0.4},
"topload": [{"shape": "toroid", "outer_diameter_m": 0.33, "tube_diameter_m": 0.075, "centre_above_winding_m": 0.065}],
"primary": {"shape": "flat", "inner_radius_m": 0.08, "pitch_m": 0.0125, "turns": 14,
  "conductor_diameter_m": 0.006, "base_height_m": 0.39, "tap_turns": 11},
"tank": {"capacitance_f": 1e-08, "unit_capacitance_f": 1e-07, "unit_voltage_v": 2000, "units_in_series": 10,
  "units_in_parallel": 1, "bleed_resistance_ohm": 10000000},
"gap": {"firing_voltage_v": 12000, "break_rate_hz": 400, "gaps_in_series": 4}})";

} // namespace arc
