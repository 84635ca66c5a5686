// The tank as a bank of identical capacitors in series and parallel: value, rating, stored energy, bleeding.
// Sources: circuit laws; hazardous stored energy and charge after IEC 61010-1 (limits from memory).
#pragma once

#include "design/design.h"

#include <optional>

namespace arc {

inline constexpr double hazardous_energy_j = 0.350;  // IEC 61010-1, above 15 kV (memory)
inline constexpr double hazardous_charge_c = 45e-6;  // IEC 61010-1, up to 15 kV (memory)
inline constexpr double safe_to_touch_target_v = 50; // bleed times are given down to this voltage

/// Farads of `series` equal units in each of `parallel` strings.
double bank_capacitance_f(double unit_f, double series, double parallel);

/// Farads of the tank: the bank's when units are given, the single value otherwise.
double tank_capacitance_f(const Tank& tank);

/// Volts the bank may see when each unit may see `unit_voltage_v` and shares evenly.
double bank_voltage_v(double unit_voltage_v, double series);

double stored_energy_j(double capacitance_f, double voltage_v);

/// Seconds from `voltage_v` down to `target_v` through R: t = R C ln(V/V0); 0 when already below.
double bleed_time_s(double resistance_ohm, double capacitance_f, double voltage_v,
                    double target_v = safe_to_touch_target_v);

/// Ohms that discharge a capacitance from `voltage_v` to `target_v` in `seconds`.
double bleed_resistance_ohm(double capacitance_f, double voltage_v, double seconds,
                            double target_v = safe_to_touch_target_v);

/// Ohms across the whole tank, from the resistor on each unit; empty without bleeders.
std::optional<double> tank_bleed_resistance_ohm(const Tank& tank);

/// Peak current in amperes of a lossless capacitor discharging into an inductance: V sqrt(C/L).
double peak_tank_current_a(double voltage_v, double capacitance_f, double inductance_h);

/// Hertz of a lossless LC circuit.
double resonance_hz(double inductance_h, double capacitance_f);

/// Farads that resonate `inductance_h` at `frequency_hz`.
double resonating_capacitance_f(double inductance_h, double frequency_hz);

} // namespace arc
