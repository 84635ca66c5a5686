// Transistors and the diodes that guard them, as data: the numbers of their law, their ratings, generic classes,
// and a law made from a data sheet. Junction transistors follow the transport model with depletion and diffusion
// charge (Gummel and Poon, Bell Syst. Tech. J. 49 (1970) 827, without high injection: gain does not fall with
// current). Field-effect transistors follow the square law (Shichman and Hodges, IEEE J. Solid-State Circuits 3
// (1968) 285) with constant capacitances.
#pragma once

#include "quantity/quantity.h"

#include <optional>
#include <span>
#include <string_view>

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

/// A generic class with plausible numbers (common practice, no source); a builder's own part is entered from its
/// data sheet.
struct TransistorClass {
  std::string_view key;
  std::string_view title; // "NPN, 80 V 1.5 A, 200 MHz"
  Transistor part;
};
std::span<const TransistorClass> transistor_classes();

/// The figures that every data sheet of a junction transistor states.
struct JunctionSheet {
  double gain = 100;                 // at the current that is meant to flow
  double current_a = 0.15;           // at which the base-emitter voltage is stated
  double base_emitter_v = 0.75;      //
  double transit_frequency_hz = 2e8; // gain-bandwidth product
  double output_f = 15e-12;          // collector to base, emitter open, at `output_at_v`
  double output_at_v = 10;           //
  double input_f = 60e-12;           // emitter to base, collector open, at 0.5 V reverse
  double storage_time_s = 0;         // 0: not stated; the reverse transit time is then kept
};

/// The law's numbers fitted to a data sheet; ratings and type stay as in `base`. Temperature 27 C.
/// Throws std::invalid_argument when a number is not positive or the transit frequency is higher than the
/// capacitances allow at that current.
Transistor transistor_from_sheet(const Transistor& base, const JunctionSheet& sheet);

/// The figures of a field-effect transistor's data sheet.
struct FieldEffectSheet {
  double threshold_v = 3;
  double on_resistance_ohm = 0.3; // at `at_gate_v`
  double at_gate_v = 10;
  double input_f = 430e-12;   // Ciss
  double output_f = 110e-12;  // Coss
  double feedback_f = 30e-12; // Crss
};
/// Throws std::invalid_argument when the gate volts are not above the threshold or a capacitance would be negative.
Transistor transistor_from_sheet(const Transistor& base, const FieldEffectSheet& sheet);

/// Current gain at a frequency, collector current `current_a`: the low-frequency gain rolled off at the transit
/// frequency that charge and capacitances leave. Of a field-effect transistor: its drain current for the charging
/// current of its gate.
double gain_at(const Transistor& part, double current_a, double frequency_hz);

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
/// Usual numbers of a kind of clamp (common practice, no source); empty for none.
std::optional<ClampDiode> usual_clamp(Clamp kind);

inline constexpr double thermal_voltage_v = 8.617333e-5 * 300.15; // k T / q at 27 C

} // namespace arc
