// Skin and proximity effect; sources in the header.
#include "field/loss.h"

#include "field/rings.h"
#include "parts/wire.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>

namespace arc {
namespace {

constexpr std::array<double, 10> phi_spacing{0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0}; // wire over pitch
constexpr std::array<double, 11> phi_shape{0, 0.2, 0.4, 0.6, 0.8, 1, 2, 4, 6, 8, 10}; // length over diameter
constexpr std::array<std::array<double, 10>, 11> phi_table{{
    {1.02, 1.07, 1.16, 1.26, 1.44, 1.74, 2.12, 2.74, 3.73, 5.31},
    {1.02, 1.08, 1.19, 1.29, 1.48, 1.77, 2.20, 2.83, 3.84, 5.45},
    {1.03, 1.08, 1.21, 1.33, 1.54, 1.83, 2.28, 2.97, 3.99, 5.65},
    {1.03, 1.10, 1.22, 1.38, 1.60, 1.89, 2.38, 3.10, 4.11, 5.80},
    {1.03, 1.10, 1.23, 1.42, 1.64, 1.92, 2.44, 3.20, 4.17, 5.80},
    {1.03, 1.10, 1.24, 1.45, 1.67, 1.94, 2.47, 3.17, 4.10, 5.55},
    {1.04, 1.13, 1.28, 1.50, 1.74, 1.98, 2.32, 2.74, 3.36, 4.10},
    {1.04, 1.15, 1.32, 1.54, 1.78, 2.01, 2.27, 2.60, 3.05, 3.54},
    {1.04, 1.16, 1.34, 1.56, 1.80, 2.03, 2.29, 2.60, 2.92, 3.31},
    {1.04, 1.165, 1.34, 1.57, 1.81, 2.08, 2.34, 2.62, 2.90, 3.20},
    {1.04, 1.17, 1.35, 1.58, 1.83, 2.10, 2.37, 2.65, 2.93, 3.23},
}};

// Index of the cell that holds x, and the place in it (0 to 1); clamped to the table.
template <std::size_t N>
std::pair<std::size_t, double> cell(const std::array<double, N>& axis, double x) {
  const double inside = std::clamp(x, axis.front(), axis.back());
  std::size_t i = 0;
  while (i + 2 < N && axis[i + 1] < inside) ++i;
  return {i, (inside - axis[i]) / (axis[i + 1] - axis[i])};
}

} // namespace

double skin_depth_m(double frequency_hz, double temperature_c) {
  const double rho = copper_resistivity_ohm_m * (1 + copper_temperature_coefficient_per_k * (temperature_c - 20));
  return std::sqrt(rho / (std::numbers::pi * frequency_hz * mu0_h_per_m));
}

double skin_effect_ratio(double radius_over_depth) {
  if (radius_over_depth < 1e-6) return 1;
  const std::complex<double> z(radius_over_depth, -radius_over_depth);
  // z J0/J1 = 2 - z^2/(4 - z^2/(6 - ...)), from the recurrence of the Bessel functions, summed from the far end.
  const std::complex<double> z2 = z * z;
  std::complex<double> tail = 0;
  for (int n = 60 + static_cast<int>(2 * radius_over_depth); n >= 1; --n) tail = z2 / (2.0 * (n + 1) - tail);
  return (2.0 - tail).real() / 2;
}

double medhurst_phi(double wire_over_pitch, double length_over_diameter) {
  if (wire_over_pitch < phi_spacing.front()) // phi - 1 goes with the square of the wire for wide spacing
    return 1 + (medhurst_phi(phi_spacing.front(), length_over_diameter) - 1) * std::pow(wire_over_pitch / 0.1, 2);
  const auto [i, u] = cell(phi_shape, length_over_diameter);
  const auto [j, v] = cell(phi_spacing, wire_over_pitch);
  return (1 - u) * ((1 - v) * phi_table[i][j] + v * phi_table[i][j + 1]) +
         u * ((1 - v) * phi_table[i + 1][j] + v * phi_table[i + 1][j + 1]);
}

double winding_resistance_ratio(double wire_diameter_m, double pitch_m, double length_over_diameter,
                                double frequency_hz, double temperature_c) {
  const double skin = skin_effect_ratio(wire_diameter_m / 2 / skin_depth_m(frequency_hz, temperature_c));
  const double phi = medhurst_phi(std::min(1.0, wire_diameter_m / pitch_m), length_over_diameter);
  const double faded_in =
      1 - 1 / (skin * skin); // no proximity loss at low frequency, all of it with strong skin effect
  return skin * (1 + (phi - 1) * faded_in);
}

} // namespace arc
