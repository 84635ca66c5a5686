// Diode strings; stated in the header.
#include "parts/diodes.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace arc {

DiodeString diode_string(double needed_v, double needed_a, double inverse_v, double average_a) {
  if (!(inverse_v > 0) || !(average_a > 0))
    throw std::invalid_argument("a diode needs an inverse voltage and an average current above zero");
  const auto pieces = [](double needed, double each) {
    return std::max(1, static_cast<int>(std::ceil(needed / each * (1 - 1e-12))));
  };
  // One string carries all of its rating; only strings side by side share badly.
  const int alone = pieces(needed_a, average_a);
  return {pieces(needed_v, inverse_v * diode_voltage_share),
          alone == 1 ? 1 : pieces(needed_a, average_a * diode_current_share)};
}

double worst_diode_v(double string_v, int in_series, double leakage_spread, double resistor_over_leakage) {
  if (in_series <= 1) return string_v;
  // Each diode as a leakage conductance g, the worst one 1, the others 1 + spread, all with a resistor's r beside.
  const double worst = 1 + resistor_over_leakage, others = 1 + leakage_spread + resistor_over_leakage;
  return string_v * (1 / worst) / (1 / worst + (in_series - 1) / others);
}

} // namespace arc
