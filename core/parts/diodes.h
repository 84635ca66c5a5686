// Diode strings: how many of a part stand in series for an inverse voltage and side by side for a current, and how
// evenly they share. Sources: circuit laws; margins are common practice, no source.
#pragma once

namespace arc {

inline constexpr double diode_voltage_share = 0.7; // of each diode's inverse voltage when nothing makes them share
inline constexpr double shared_voltage_share = 0.95; // at most, with sharing resistors
inline constexpr double diode_leakage_a = 10e-6;     // of one at its rated voltage, the worst a fourth (assumption)
inline constexpr double diode_current_share = 0.5;   // of the average current: strings in parallel share badly

struct DiodeString {
  int in_series = 1;
  int in_parallel = 1;
  int units() const { return in_series * in_parallel; }
};

/// Part of the sum of inverse voltages that a string holds, with a resistor of `sharing_ohm` across each diode (0:
/// none).
double string_share(int in_series, double inverse_v, double sharing_ohm);

/// Diodes of `inverse_v` and `average_a` each for a string that must hold `needed_v` and carry `needed_a`, with
/// sharing resistors or without (0). Throws std::invalid_argument when a rating is not positive.
DiodeString diode_string(double needed_v, double needed_a, double inverse_v, double average_a,
                         double sharing_ohm = 0);

/// Volts on the worst diode of a string: leakage of the others larger by `leakage_spread` (relative) against equal
/// sharing resistors that carry `resistor_over_leakage` times the leakage; 0: no resistors.
double worst_diode_v(double string_v, int in_series, double leakage_spread, double resistor_over_leakage);

} // namespace arc
