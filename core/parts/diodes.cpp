// Diode strings; stated in the header.
#include "parts/diodes.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace arc {

double string_share(int in_series, double inverse_v, double sharing_ohm) {
  if (in_series <= 1) return 1;
  if (!(sharing_ohm > 0)) return diode_voltage_share;
  constexpr double spread = 3; // the others leak four times as much as the worst
  const double ratio = inverse_v / sharing_ohm / (diode_leakage_a / (1 + spread));
  return std::clamp(1 / (in_series * worst_diode_v(1, in_series, spread, ratio)), diode_voltage_share,
                    shared_voltage_share);
}

DiodeString diode_string(double needed_v, double needed_a, double inverse_v, double average_a, double sharing_ohm) {
  if (!(inverse_v > 0) || !(average_a > 0))
    throw std::invalid_argument("a diode needs an inverse voltage and an average current above zero");
  const auto pieces = [](double needed, double each) {
    return static_cast<int>(std::clamp(std::ceil(needed / each * (1 - 1e-12)), 1.0, 1e6));
  };
  int series = pieces(needed_v, inverse_v);
  while (series < 100000 &&
         series * inverse_v * string_share(series, inverse_v, sharing_ohm) < needed_v * (1 - 1e-12))
    ++series;
  // One string carries all of its rating; only strings side by side share badly.
  const int alone = pieces(needed_a, average_a);
  return {series, alone == 1 ? 1 : pieces(needed_a, average_a * diode_current_share)};
}

double worst_diode_v(double string_v, int in_series, double leakage_spread, double resistor_over_leakage) {
  if (in_series <= 1) return string_v;
  // Each diode as a leakage conductance g, the worst one 1, the others 1 + spread, all with a resistor's r beside.
  const double worst = 1 + resistor_over_leakage, others = 1 + leakage_spread + resistor_over_leakage;
  return string_v * (1 / worst) / (1 / worst + (in_series - 1) / others);
}

} // namespace arc
