// What a new exciter begins as, its feed apart. Values are usual ones (common practice, no source).
#pragma once

#include <string_view>

namespace arc {

inline constexpr std::string_view exciter_begins = R"({"format": "high-arc-design",
"version": 1,
"kind": "exciter",
"site": {"grounded_conductors": ["primary"]},
"secondary": {"form_diameter_m": 0.04, "turns": 360, "winding_length_m": 0.118,
  "wire_bare_diameter_m": 0.00028, "wire_overall_diameter_m": 0.000315, "base_height_m": 0.03,
  "form_length_m": 0.15},
"primary": {"shape": "helix", "inner_radius_m": 0.052, "pitch_m": 0.005, "turns": 5,
  "conductor_diameter_m": 0.0016, "base_height_m": 0.03, "tap_turns": 5},
"breakout": {},
"exciter": {"supply_voltage_v": 9, "supply_limit_a": 1, "sink_k_per_w": 20, "sink_capacity_j_per_k": 25,
  "transistor_voltage_rating_v": 160}})";

} // namespace arc
