// Hand formulas; the sources are in the header.
#include "field/handbook.h"

#include "field/rings.h"

#include <algorithm>
#include <array>
#include <boost/math/special_functions/ellint_1.hpp>
#include <boost/math/special_functions/ellint_2.hpp>
#include <cmath>
#include <numbers>
#include <utility>

namespace arc {
namespace {

constexpr double metres_per_inch = 0.0254;

// H against length/diameter, from memory of Medhurst's table.
constexpr std::array<std::pair<double, double>, 20> medhurst_table{
    {{0.10, 0.96}, {0.15, 0.79}, {0.20, 0.70}, {0.25, 0.64}, {0.30, 0.60}, {0.35, 0.57}, {0.40, 0.54},
     {0.45, 0.52}, {0.50, 0.50}, {0.60, 0.48}, {0.70, 0.47}, {0.90, 0.46}, {1.00, 0.46}, {1.50, 0.47},
     {2.00, 0.50}, {3.00, 0.61}, {5.00, 0.81}, {10.0, 1.32}, {20.0, 2.36}, {50.0, 5.80}}};

} // namespace

double nagaoka_coefficient(double diameter_over_length) {
  const double u = diameter_over_length;
  const double k2 = u * u / (1 + u * u);
  const double k = std::sqrt(k2);
  const double k_integral = boost::math::ellint_1(k);
  const double e_integral = boost::math::ellint_2(k);
  return 4 / (3 * std::numbers::pi * std::sqrt(1 - k2)) *
         ((1 - k2) / k2 * k_integral - (1 - 2 * k2) / k2 * e_integral - k);
}

double current_sheet_inductance_h(double mean_radius_m, double turns, double length_m, double wire_diameter_m) {
  const double sheet = mu0_h_per_m * std::numbers::pi * mean_radius_m * mean_radius_m * turns * turns / length_m *
                       nagaoka_coefficient(2 * mean_radius_m / length_m);
  const double n = turns;
  const double wire_shape = 1.25 - std::log(2 * length_m / turns / wire_diameter_m); // Rosa's A
  const double wire_spacing = std::log(2 * std::numbers::pi) - 1.5 - std::log(n) / (6 * n) - 0.33084236 / n -
                              1 / (120 * n * n * n) + 1 / (504 * std::pow(n, 5)); // Rosa's B
  return sheet - mu0_h_per_m * mean_radius_m * turns * (wire_shape + wire_spacing);
}

double wheeler_helix_h(double mean_radius_m, double turns, double length_m) {
  const double a = mean_radius_m / metres_per_inch;
  return a * a * turns * turns / (9 * a + 10 * length_m / metres_per_inch) * 1e-6;
}

double wheeler_flat_spiral_h(double mean_radius_m, double turns, double width_m) {
  const double a = mean_radius_m / metres_per_inch;
  return a * a * turns * turns / (8 * a + 11 * width_m / metres_per_inch) * 1e-6;
}

double cone_estimate_h(double helix_h, double flat_h, double cone_angle_rad) {
  return std::hypot(helix_h * std::sin(cone_angle_rad), flat_h * std::cos(cone_angle_rad));
}

double medhurst_capacitance_f(double winding_length_m, double mean_diameter_m) {
  const double ratio =
      std::clamp(winding_length_m / mean_diameter_m, medhurst_table.front().first, medhurst_table.back().first);
  auto above = std::ranges::find_if(medhurst_table, [&](const auto& row) { return row.first >= ratio; });
  if (above == medhurst_table.begin()) ++above;
  const auto& below = *(above - 1);
  const double t = (ratio - below.first) / (above->first - below.first);
  const double h = below.second + t * (above->second - below.second);
  return h * mean_diameter_m * 100 * 1e-12;
}

double pair_inductance_h(double length_m, double spacing_m, double wire_radius_m) {
  const double spacing = std::max(spacing_m, 2 * wire_radius_m);
  return mu0_h_per_m * length_m / std::numbers::pi *
         std::max(0.0, std::log(spacing / wire_radius_m) - spacing / length_m);
}

} // namespace arc
