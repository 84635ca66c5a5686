// From a bench instrument or a timer to a thyristor's gate that floats at kilovolts: an opto-coupler with its
// resistors, a small supply of the gate's own, and what must be isolated. Ohm's law with usual drops; resistors
// from the E24 series (IEC 60063).
#pragma once

#include "timing/timer.h"

#include <string>
#include <vector>

namespace arc {

/// SI units. The instrument: its volts at no load and its resistance (common practice, no source: 5 V behind
/// 50 ohm). The coupler: its diode's volts, the amperes wanted in it, the share that comes out. The gate: its own
/// supply, and what triggers it.
struct GateDriveTask {
  double source_v = 5, source_ohm = 50;
  double diode_v = 1.2, diode_a = 0.010;
  double transfer = 0.5;
  double gate_supply_v = 9;
  double trigger_v = 1.5, trigger_a = 0.05;
  double stands_off_v = 1000; // what lies between the two sides at worst
};

struct GateDrive {
  double diode_ohm = 0, diode_a = 0; // resistor before the coupler's diode, and what flows then
  double coupler_a = 0;              // that comes out of it
  double gate_ohm = 0, gate_a = 0;   // in the gate's lead; twice what triggers it
  bool amplified = false;            // a transistor between coupler and gate
  double isolation_v = 0;            // that the coupler must be made for
  bool fibre = false;                // no usual coupler is
  std::vector<TimerPart> parts;
  std::vector<std::string> connections;
};

inline constexpr double coupler_isolation_v = 4000; // of usual opto-couplers, in use (common practice, no source)

/// Throws std::invalid_argument when the instrument cannot light the diode or the supply cannot trigger the gate.
GateDrive gate_drive(const GateDriveTask& task);

} // namespace arc
