// Diode strings: how many of a part stand in series for an inverse voltage and side by side for a current, and how
// evenly they share. Sources: circuit laws; margins are common practice, no source.
#pragma once

namespace arc {

inline constexpr double diode_voltage_share = 0.7; // of each diode's inverse voltage: they share unevenly
inline constexpr double diode_current_share = 0.5; // of the average current: strings in parallel share badly

struct DiodeString {
  int in_series = 1;
  int in_parallel = 1;
  int units() const { return in_series * in_parallel; }
};

/// Diodes of `inverse_v` and `average_a` each for a string that must hold `needed_v` and carry `needed_a`. Throws
/// std::invalid_argument when a rating is not positive.
DiodeString diode_string(double needed_v, double needed_a, double inverse_v, double average_a);

/// Volts on the worst diode of a string: leakage of the others larger by `leakage_spread` (relative) against equal
/// sharing resistors that carry `resistor_over_leakage` times the leakage; 0: no resistors.
double worst_diode_v(double string_v, int in_series, double leakage_spread, double resistor_over_leakage);

} // namespace arc
