// Classes of switches, and data-sheet entry.
#include "parts/bridge_switch.h"

#include <array>
#include <stdexcept>

namespace arc {
namespace {

BridgeSwitch mos(double volts, double amps, double pulse, double on_ohm, double coss, double fall, double rise,
                 double recovery, double charge, double case_k, double diode_v) {
  BridgeSwitch s;
  s.voltage_rating_v = volts;
  s.current_rating_a = amps;
  s.pulse_rating_a = pulse;
  s.on_ohm = on_ohm;
  s.output_f = coss;
  s.fall_s = fall;
  s.rise_s = rise;
  s.recovery_s = recovery;
  s.gate_charge_c = charge;
  s.case_k_per_w = case_k;
  s.diode_knee_v = diode_v;
  return s;
}

BridgeSwitch igbt(double volts, double amps, double pulse, double knee, double slope, double coss, double fall,
                  double rise, double recovery, double charge, double case_k) {
  BridgeSwitch s = mos(volts, amps, pulse, 0.15, coss, fall, rise, recovery, charge, case_k, 0.9);
  s.type = SwitchType::igbt;
  s.knee_v = knee;
  s.slope_ohm = slope;
  s.diode_slope_ohm = 0.008;
  s.gate_threshold_v = 5;
  return s;
}

} // namespace

std::span<const SwitchClass> switch_classes() {
  static const std::array<SwitchClass, 6> classes{{
      {"MOS, 250 V 40 A", mos(250, 25, 160, 0.1, 600e-12, 35e-9, 35e-9, 180e-9, 110e-9, 1.0, 0.8)},
      {"MOS, 500 V 20 A", mos(500, 13, 80, 0.45, 300e-12, 45e-9, 40e-9, 400e-9, 130e-9, 1.2, 0.8)},
      {"MOS, 600 V 47 A, low resistance", mos(600, 30, 140, 0.15, 400e-12, 25e-9, 30e-9, 250e-9, 190e-9, 0.8, 0.8)},
      {"IGBT, 600 V 40 A, fast", igbt(600, 40, 160, 1.1, 0.02, 250e-12, 90e-9, 40e-9, 60e-9, 140e-9, 0.9)},
      {"IGBT, 600 V 60 A, fast", igbt(600, 60, 300, 1.0, 0.012, 350e-12, 100e-9, 50e-9, 80e-9, 250e-9, 0.7)},
      {"IGBT, 1200 V 200 A, block", igbt(1200, 200, 800, 1.1, 0.006, 1.5e-9, 250e-9, 120e-9, 200e-9, 1.2e-6, 0.2)},
  }};
  return classes;
}

BridgeSwitch switch_from_sheet(const BridgeSwitch& now, const MosSheet& sheet) {
  if (!(sheet.on_ohm_cold > 0) || !(sheet.hot_factor >= 1) || !(sheet.output_charge_c > 0) ||
      !(sheet.output_at_v > 0))
    throw std::invalid_argument("on resistance, its factor when hot (1 or more), charge and its volts are needed");
  BridgeSwitch out = now;
  out.type = SwitchType::mos;
  out.on_ohm = sheet.on_ohm_cold * sheet.hot_factor;
  out.output_f = sheet.output_charge_c / sheet.output_at_v;
  out.fall_s = sheet.fall_s;
  out.rise_s = sheet.rise_s;
  out.recovery_s = sheet.recovery_s;
  return out;
}

BridgeSwitch switch_from_sheet(const BridgeSwitch& now, const IgbtSheet& sheet) {
  if (!(sheet.at_a > sheet.second_a) || !(sheet.saturation_v > sheet.second_v) || !(sheet.second_a > 0))
    throw std::invalid_argument(
        "the first point of the output curve needs more volts and more amperes than the second");
  if (!(sheet.off_v * sheet.off_a > 0) || !(sheet.on_v * sheet.on_a > 0) || !(sheet.output_f > 0))
    throw std::invalid_argument("energies need the volts and amperes that they were measured at");
  BridgeSwitch out = now;
  out.type = SwitchType::igbt;
  out.slope_ohm = (sheet.saturation_v - sheet.second_v) / (sheet.at_a - sheet.second_a);
  out.knee_v = sheet.second_v - out.slope_ohm * sheet.second_a;
  if (!(out.knee_v >= 0))
    throw std::invalid_argument("the line through the two points has no knee above zero volts");
  out.fall_s = 2 * sheet.turn_off_j / (sheet.off_v * sheet.off_a);
  out.rise_s = 2 * sheet.turn_on_j / (sheet.on_v * sheet.on_a);
  out.output_f = sheet.output_f;
  return out;
}

} // namespace arc
