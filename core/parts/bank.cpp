// Capacitor bank arithmetic; stated in the header.
#include "parts/bank.h"

#include <cmath>
#include <numbers>

namespace arc {

double bank_capacitance_f(double unit_f, double series, double parallel) {
  return unit_f * parallel / series;
}

double tank_capacitance_f(const Tank& tank) {
  if (!tank.unit_capacitance_f) return tank.capacitance_f;
  return bank_capacitance_f(*tank.unit_capacitance_f, tank.units_in_series, tank.units_in_parallel);
}

double bank_voltage_v(double unit_voltage_v, double series) {
  return unit_voltage_v * series;
}

double stored_energy_j(double capacitance_f, double voltage_v) {
  return 0.5 * capacitance_f * voltage_v * voltage_v;
}

double bleed_time_s(double resistance_ohm, double capacitance_f, double voltage_v, double target_v) {
  return voltage_v <= target_v ? 0 : resistance_ohm * capacitance_f * std::log(voltage_v / target_v);
}

double bleed_resistance_ohm(double capacitance_f, double voltage_v, double seconds, double target_v) {
  return seconds / (capacitance_f * std::log(voltage_v / target_v));
}

std::optional<double> tank_bleed_resistance_ohm(const Tank& tank) {
  if (!tank.bleed_resistance_ohm) return std::nullopt;
  if (!tank.unit_capacitance_f) return tank.bleed_resistance_ohm;
  return *tank.bleed_resistance_ohm * tank.units_in_series / tank.units_in_parallel;
}

double peak_tank_current_a(double voltage_v, double capacitance_f, double inductance_h) {
  return voltage_v * std::sqrt(capacitance_f / inductance_h);
}

double resonance_hz(double inductance_h, double capacitance_f) {
  return 1 / (2 * std::numbers::pi * std::sqrt(inductance_h * capacitance_f));
}

double resonating_capacitance_f(double inductance_h, double frequency_hz) {
  const double omega = 2 * std::numbers::pi * frequency_hz;
  return 1 / (omega * omega * inductance_h);
}

} // namespace arc
