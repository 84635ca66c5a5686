// Ring inductances. With p and q the farthest and nearest distances between two coaxial circles, Maxwell's formula
// becomes M = mu0 pi / (2 agm(p, q)) * sum 2^(n-1) c_n^2 (n >= 1), c_n the halved differences of the mean's steps:
// every term is positive, so nothing cancels (Abramowitz and Stegun 17.6 for K and E by the mean).
#include "field/rings.h"

#include <cmath>
#include <numbers>

namespace arc {
namespace {

// Fixed number of steps: exact to rounding for q/p down to 1e-9, and free of branches so that loops vectorise.
constexpr int agm_steps = 7;

inline double mutual(double a, double b, double z) {
  const double z2 = z * z;
  const double near = std::sqrt((a - b) * (a - b) + z2);
  double x = std::sqrt((a + b) * (a + b) + z2);
  double y = near;
  double c = 2 * a * b / (x + y); // equals (p - q)/2 without cancellation: p^2 - q^2 = 4ab
  double sum = 0;
  double power = 1;
  for (int n = 0; n < agm_steps; ++n) {
    sum += power * c * c;
    power *= 2;
    const double next = 0.5 * (x + y);
    y = std::sqrt(x * y);
    x = next;
    c = c * c / (2 * (x + y));
  }
  return mu0_h_per_m * std::numbers::pi / (2 * x) * sum;
}

} // namespace

double ring_mutual_h(double a_m, double b_m, double z_m) {
  return mutual(a_m, b_m, z_m);
}

double ring_self_h(double radius_m, double wire_radius_m, CurrentDistribution distribution) {
  const double internal = distribution == CurrentDistribution::uniform ? 0.25 : 0.0;
  return mu0_h_per_m * radius_m * (std::log(8 * radius_m / wire_radius_m) - 2 + internal);
}

double solenoid_inductance_h(double mean_radius_m, double turns, double length_m, double wire_radius_m,
                             CurrentDistribution distribution) {
  const auto whole = static_cast<std::size_t>(std::floor(turns + 1e-9));
  const double part = turns - static_cast<double>(whole);
  const double pitch = length_m / turns;
  const double self = ring_self_h(mean_radius_m, wire_radius_m, distribution);
  double total = static_cast<double>(whole) * self;
  for (std::size_t d = 1; d < whole; ++d)
    total +=
        2 * static_cast<double>(whole - d) * mutual(mean_radius_m, mean_radius_m, static_cast<double>(d) * pitch);
  if (part > 1e-9) {
    total += part * part * self;
    for (std::size_t j = 0; j < whole; ++j) {
      const double distance = (static_cast<double>(whole) + part / 2 - static_cast<double>(j) - 0.5) * pitch;
      total += 2 * part * mutual(mean_radius_m, mean_radius_m, distance);
    }
  }
  return total;
}

std::vector<double> ring_matrix_h(std::span<const Ring> rings, double wire_radius_m,
                                  CurrentDistribution distribution) {
  const std::size_t n = rings.size();
  std::vector<double> matrix(n * n);
  for (std::size_t i = 0; i < n; ++i) {
    matrix[i * n + i] = ring_self_h(rings[i].radius_m, wire_radius_m, distribution);
    for (std::size_t j = 0; j < i; ++j)
      matrix[i * n + j] = matrix[j * n + i] =
          mutual(rings[i].radius_m, rings[j].radius_m, rings[i].height_m - rings[j].height_m);
  }
  return matrix;
}

double series_inductance_h(std::span<const Ring> rings, double wire_radius_m, CurrentDistribution distribution) {
  const std::size_t n = rings.size();
  const auto matrix = ring_matrix_h(rings, wire_radius_m, distribution);
  double total = 0;
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t j = 0; j < n; ++j) total += rings[i].weight * rings[j].weight * matrix[i * n + j];
  return total;
}

double coil_mutual_h(std::span<const Ring> first, std::span<const Ring> second) {
  double total = 0;
  for (const Ring& a : first) {
    double row = 0;
    for (const Ring& b : second) row += b.weight * mutual(a.radius_m, b.radius_m, a.height_m - b.height_m);
    total += a.weight * row;
  }
  return total;
}

namespace {

template <typename Place>
std::vector<Ring> rings_along(double turns, Place place) {
  std::vector<Ring> rings;
  const auto whole = static_cast<std::size_t>(std::floor(turns + 1e-9));
  const double part = turns - static_cast<double>(whole);
  rings.reserve(whole + 1);
  for (std::size_t j = 0; j < whole; ++j) rings.push_back(place(static_cast<double>(j) + 0.5, 1.0));
  if (part > 1e-9) rings.push_back(place(static_cast<double>(whole) + part / 2, part));
  return rings;
}

} // namespace

std::vector<Ring> solenoid_rings(double mean_radius_m, double turns, double length_m, double base_height_m) {
  const double pitch = length_m / turns;
  return rings_along(turns, [&](double s, double weight) {
    return Ring{mean_radius_m, base_height_m + s * pitch, weight};
  });
}

std::vector<Ring> spiral_rings(double inner_radius_m, double base_height_m, double pitch_m, double cone_angle_rad,
                               double turns) {
  const double outward = pitch_m * std::cos(cone_angle_rad);
  const double upward = pitch_m * std::sin(cone_angle_rad);
  return rings_along(turns, [&](double s, double weight) {
    return Ring{inner_radius_m + s * outward, base_height_m + s * upward, weight};
  });
}

} // namespace arc
