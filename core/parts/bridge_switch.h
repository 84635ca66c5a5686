// Switches of bridges: generic classes to start from, and the law from a data sheet's lines.
#pragma once

#include "model/devices.h"

#include <span>
#include <string_view>

namespace arc {

/// A class of parts with typical numbers (from memory of many data sheets; none is a particular part).
struct SwitchClass {
  std::string_view title;
  BridgeSwitch part;
};
std::span<const SwitchClass> switch_classes();

/// What a data sheet prints, and at what it is printed. SI units.
struct MosSheet {
  double on_ohm_cold = 0.1;        // at 25 °C
  double hot_factor = 2;           // on resistance at 125 °C over that
  double output_charge_c = 120e-9; // to `output_at_v`
  double output_at_v = 400;
  double fall_s = 40e-9, rise_s = 40e-9, recovery_s = 150e-9;
};
struct IgbtSheet {
  double saturation_v = 1.9, at_a = 40;                // one point of the output curve, hot
  double second_v = 1.4, second_a = 15;                // another
  double turn_off_j = 0.8e-3, off_v = 400, off_a = 40; // energy and what it was measured at
  double turn_on_j = 0.6e-3, on_v = 400, on_a = 40;
  double output_f = 300e-12; // at high volts
};

/// The straight-line law: resistance hot; the linear capacitance of the same charge, Q / V. Throws
/// std::invalid_argument for numbers that make no part.
BridgeSwitch switch_from_sheet(const BridgeSwitch& now, const MosSheet& sheet);
/// Knee and slope through two points; times from energies, t = 2 E / (V I) (linear rise or fall, tail counted in).
BridgeSwitch switch_from_sheet(const BridgeSwitch& now, const IgbtSheet& sheet);

} // namespace arc
