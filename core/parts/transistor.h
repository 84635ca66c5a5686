// Transistors and the diodes that guard them, as data: the numbers of their law, their ratings, generic classes,
// and a law made from a data sheet. Junction transistors follow the transport model with depletion and diffusion
// charge (Gummel and Poon, Bell Syst. Tech. J. 49 (1970) 827, without high injection: gain does not fall with
// current). Field-effect transistors follow the square law (Shichman and Hodges, IEEE J. Solid-State Circuits 3
// (1968) 285) with constant capacitances.
#pragma once

#include "model/devices.h"
#include "quantity/quantity.h"

#include <optional>
#include <span>
#include <string_view>

namespace arc {

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

/// Usual numbers of a kind of clamp (common practice, no source); empty for none.
std::optional<ClampDiode> usual_clamp(Clamp kind);

inline constexpr double thermal_voltage_v = 8.617333e-5 * 300.15; // k T / q at 27 C

} // namespace arc
