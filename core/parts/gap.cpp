// Gap breakdown; sources in the header.
#include "parts/gap.h"

#include "field/breakout.h"

#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>

namespace arc {

double gap_breakdown_v(double spacing_m, double electrode_diameter_m, double air_density) {
  const double s = spacing_m * 100, r = electrode_diameter_m * 50; // centimetres
  const double x = s / r + 1;
  const double field_factor = (x + std::sqrt(x * x + 8)) / 4;
  const double peek = 27.2e3 * air_density * (1 + 0.54 / std::sqrt(air_density * r)) * s;
  const double uniform = 24.36e3 * air_density * s + 6.72e3 * std::sqrt(air_density * s);
  return std::max(peek, uniform) / field_factor;
}

double series_gaps_v(double one_gap_v, double count) {
  return count > 1 ? 0.9 * count * one_gap_v : one_gap_v;
}

std::optional<double> computed_firing_v(const Gap& gap, const Site& site) {
  if (!gap.spacing_m || !gap.electrode_diameter_m) return {};
  return series_gaps_v(gap_breakdown_v(*gap.spacing_m, *gap.electrode_diameter_m, relative_air_density(site)),
                       gap.gaps_in_series);
}

std::optional<double> spacing_for_firing_m(const Gap& gap, const Site& site, double firing_v) {
  if (!gap.electrode_diameter_m) return {};
  const auto miss = [&](double spacing) {
    return series_gaps_v(gap_breakdown_v(spacing, *gap.electrode_diameter_m, relative_air_density(site)),
                         gap.gaps_in_series) -
           firing_v;
  };
  constexpr double least = 1e-5, most = 0.5;
  if (miss(least) > 0 || miss(most) < 0) return {};
  std::uintmax_t steps = 100;
  const auto bracket = boost::math::tools::toms748_solve(
      miss, least, most, [](double a, double b) { return b - a < 1e-7; }, steps);
  return (bracket.first + bracket.second) / 2;
}

std::optional<double> presentations_hz(const Gap& gap) {
  if (!gap.rotary_electrodes || !gap.rotor_speed_hz) return {};
  return *gap.rotary_electrodes * *gap.rotor_speed_hz;
}

double arc_drop_v(const Gap& gap) {
  return gap.arc_drop_v * gap.gaps_in_series;
}

} // namespace arc
