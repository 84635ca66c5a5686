// Circuit laws.
#include "laws/circuit.h"

#include <cmath>
#include <numbers>

namespace arc {

double stored_energy_j(double capacitance_f, double voltage_v) {
  return 0.5 * capacitance_f * voltage_v * voltage_v;
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

CoupledPoles coupled_poles(double first_hz, double second_hz, double coupling) {
  const double a = first_hz * first_hz, b = second_hz * second_hz, kk = coupling * coupling;
  const double root = std::sqrt((a - b) * (a - b) + 4 * kk * a * b);
  return {std::sqrt((a + b - root) / (2 * (1 - kk))), std::sqrt((a + b + root) / (2 * (1 - kk)))};
}

} // namespace arc
