// Laws of the lossless resonant circuit. Source: circuit theory. SI units.
#pragma once

namespace arc {

/// Joules of a charged capacitor.
double stored_energy_j(double capacitance_f, double voltage_v);

/// Peak current in amperes of a lossless capacitor discharging into an inductance: V sqrt(C/L).
double peak_tank_current_a(double voltage_v, double capacitance_f, double inductance_h);

/// Hertz of a lossless LC circuit.
double resonance_hz(double inductance_h, double capacitance_f);

/// Hertz at which two lossless circuits ring together that are tuned to `first_hz` and `second_hz` apart, coupled
/// by `coupling` (0 to below 1). F. E. Terman, Radio Engineers' Handbook (1943), coupled circuits; from memory.
struct CoupledPoles {
  double lower_hz, upper_hz;
};
CoupledPoles coupled_poles(double first_hz, double second_hz, double coupling);

/// Farads that resonate `inductance_h` at `frequency_hz`.
double resonating_capacitance_f(double inductance_h, double frequency_hz);

} // namespace arc
