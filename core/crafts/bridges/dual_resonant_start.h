// What a new dual resonant bridge begins as, its feed apart. Values are usual ones (common practice, no source).
#pragma once

#include <string_view>

namespace arc {

inline constexpr std::string_view dual_resonant_begins = R"({"format": "high-arc-design",
"version": 1,
"kind": "dual-resonant",
"site": {"grounded_conductors": ["primary"]},
"secondary": {"form_diameter_m": 0.16, "turns": 1300, "winding_length_m": 0.6, "wire_bare_diameter_m": 0.0004,
  "wire_overall_diameter_m": 0.00044, "base_height_m": 0.45},
"topload": [{"shape": "toroid", "outer_diameter_m": 0.5, "tube_diameter_m": 0.12, "centre_above_winding_m": 0.1}],
"primary": {"shape": "flat", "inner_radius_m": 0.115, "pitch_m": 0.018, "turns": 11,
  "conductor_diameter_m": 0.008, "base_height_m": 0.46, "tap_turns": 8.26},
"breakout": {"point_length_m": 0.08, "point_tip_radius_m": 0.001},
"tank": {"capacitance_f": 6e-08, "unit_capacitance_f": 1.5e-07, "unit_voltage_v": 2000, "units_in_series": 5,
  "units_in_parallel": 2, "unit_rms_current_a": 12, "bleed_resistance_ohm": 2200000},
"bridge": {"reservoir_f": 0.002, "bleed_resistance_ohm": 12000, "switch_slope_ohm": 0.012,
  "switch_diode_knee_v": 0.9, "switch_diode_slope_ohm": 0.008, "switch_output_f": 3.5e-10,
  "switch_fall_s": 1e-07, "switch_rise_s": 5e-08, "switch_recovery_s": 8e-08, "switch_gate_charge_c": 2.5e-07,
  "switch_gate_threshold_v": 5, "switch_voltage_rating_v": 600, "switch_current_rating_a": 60,
  "switch_pulse_rating_a": 300, "switch_case_k_per_w": 0.7, "lead_s": 2e-07, "dead_time_s": 2.5e-07,
  "transformer_turns": 500, "burden_ohm": 25, "current_limit_a": 250, "legs": "full", "switch_type": "igbt",
  "feedback": "primary-transformer"},
"interrupter": {"on_time_s": 0.00008}})";

} // namespace arc
