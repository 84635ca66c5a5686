// Gauge numbers: a geometric row from 4/0 to 36.
#include "quantity/gauge.h"

#include <cmath>

namespace arc {

double awg_to_diameter_m(double gauge) {
  return 0.127e-3 * std::pow(92.0, (36.0 - gauge) / 39.0);
}

double diameter_m_to_awg(double diameter_m) {
  return 36.0 - 39.0 * std::log(diameter_m / 0.127e-3) / std::log(92.0);
}

} // namespace arc
