// Air density and Peek's law.
#include "parts/air.h"

#include <cmath>

namespace arc {

double relative_air_density(const Site& site) {
  return site.air_pressure_hpa / 1013.25 * 293.15 / (273.15 + site.air_temperature_c);
}

double peek_field_v_per_m(double curvature_m, double air_density, double roughness) {
  return 3e6 * roughness * air_density * (1 + 0.301 / std::sqrt(air_density * curvature_m * 100));
}

} // namespace arc
