// Semiconductors as the design keeps them: the numbers of their laws (parts/transistor.h) and their ratings.
#pragma once

#include <optional>

namespace arc {

enum class TransistorType { npn, pnp, mos };

/// SI units. Of a junction transistor the first group counts, of a field-effect one the second; "base", "collector"
/// and "emitter" are then gate, drain and source. A PNP is the mirror image of an NPN: all volts are magnitudes.
struct Transistor {
  TransistorType type = TransistorType::npn;
  // junction
  double saturation_current_a = 5e-14;
  double forward_gain = 100;
  double reverse_gain = 5;
  double emitter_junction_f = 60e-12;    // at no voltage
  double collector_junction_f = 25e-12;  // at no voltage
  double transit_time_s = 0.8e-9;        // forward: stored charge for each ampere
  double reverse_transit_time_s = 30e-9; // in saturation
  // field effect
  double threshold_v = 3;
  double transconductance_a_per_v2 = 4; // current is half of this times the square of what the gate has above it
  double gate_source_f = 400e-12;
  double gate_drain_f = 30e-12;
  double drain_source_f = 80e-12;
  // both
  double base_resistance_ohm = 10; // of the base, or the gate's own
  // ratings
  double voltage_rating_v = 80;     // collector to emitter, base open; drain to source
  double reverse_base_rating_v = 5; // emitter to base; gate to source either way
  double current_rating_a = 1.5;    // average
  double junction_limit_c = 150;    //
  double junction_k_per_w = 10;     // junction to case
  double case_k_per_w = 60;         // case to still air, no heat sink
  double junction_capacity_j_per_k = 5e-3;
  double case_capacity_j_per_k = 0.6;
  bool operator==(const Transistor&) const = default;
};

enum class SwitchType { mos, igbt };

/// One switch of a bridge with its diode. Straight lines: a MOS is its resistance, an IGBT a knee and a resistance,
/// the diode likewise. Energies at the edges by the three times. Heat: pairs of a Foster ladder, junction to case.
struct BridgeSwitch {
  SwitchType type = SwitchType::mos;
  double on_ohm = 0.15;      // of a MOS, hot
  double knee_v = 1;         // of an IGBT
  double slope_ohm = 0.01;   // beyond it
  double diode_knee_v = 0.8; //
  double diode_slope_ohm = 0.02;
  double output_f = 400e-12;    // energy-equivalent, linear
  double leak_s = 1e-7;         // when off
  double fall_s = 40e-9;        // of its current at turn-off; an IGBT's tail counts
  double rise_s = 40e-9;        // at a turn-on under volts
  double recovery_s = 150e-9;   // of the diode
  double gate_charge_c = 60e-9; // for the drive's volts
  double gate_threshold_v = 4;
  double gate_limit_v = 20;
  // ratings
  double voltage_rating_v = 500;
  double current_rating_a = 20; // steady, case hot
  double pulse_rating_a = 80;
  double junction_limit_c = 150;
  double case_k_per_w = 1.5; // case to sink and sink to air
  double pair_1_k_per_w = 0.1, pair_1_s = 1e-3;
  double pair_2_k_per_w = 0.3, pair_2_s = 20e-3;
  bool operator==(const BridgeSwitch&) const = default;
};

/// How a pentode's or tetrode's screen is tied; a triode has none.
enum class GridTie { triode, screen_to_plate, screen_to_grid, screen_to_cathode, screen_fed };

/// One vacuum tube: the numbers of its law (parts/tube.h), its capacitances as wired, its ratings. Volts to the
/// cathode.
struct Tube {
  GridTie tie = GridTie::triode;
  double perveance_a_per_v15 = 0.0006;       // G, of cathode current
  double grid_perveance_a_per_v15 = 0.00012; // Gg, of grid current
  double mu = 120;                           // of the plate; of a pentode with its screen at the cathode
  double knee_v = 60;                        // Vk
  double screen_mu = 8;                      // of the screen: volts there that one volt at the grid outweighs
  double screen_perveance_a_per_v15 = 0.0001;
  double screen_v = 150; // of a screen fed with direct current
  double grid_cathode_f = 30e-12, grid_plate_f = 20e-12, plate_cathode_f = 15e-12;
  // ratings
  double plate_dissipation_w = 450, grid_dissipation_w = 60;
  double plate_heat_s = 8, grid_heat_s = 1.5; // time constants with which plate and grid warm
  double plate_voltage_v = 6000;              // of the supply, most
  double cathode_peak_a = 4;
  double filament_v = 10, filament_a = 10;
  bool operator==(const Tube&) const = default;
};

enum class Clamp { none, diode, led, zener };

/// The diode from ground to base. A Zener also holds the base below its breakdown.
struct ClampDiode {
  double saturation_current_a = 1e-18;
  double emission = 2;
  double capacitance_f = 20e-12; // at no voltage
  double transit_time_s = 5e-9;
  std::optional<double> breakdown_v;
  bool operator==(const ClampDiode&) const = default;
};

} // namespace arc
