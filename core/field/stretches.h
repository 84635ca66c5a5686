// Inductance of stretches of a uniform winding, and of its mirror below a metal floor.
#pragma once

#include "field/rings.h"

#include <cmath>
#include <cstddef>
#include <cstdlib>
#include <vector>

namespace arc {

/// Henry between stretches, told by the turns at which they begin and end. With g(n) half the inductance of n
/// turns, the mutual inductance of the first x turns with the first y is g(x) + g(y) - g(|x - y|) at whole numbers;
/// it is bilinear between them, because a turn cut in two shares its weight.
class Stretches {
 public:
  /// `internal` is the share of the wire's internal inductance that is there: 1 with an even current, 0 on its
  /// skin.
  Stretches(double radius, double turns, double length, double wire_radius, double internal)
      : half_(static_cast<std::size_t>(std::ceil(turns)) + 2) {
    const double pitch = length / turns;
    const double skin = ring_self_h(radius, wire_radius, CurrentDistribution::skin),
                 even = ring_self_h(radius, wire_radius, CurrentDistribution::uniform);
    double row = (skin + internal * (even - skin)) / 2; // M(0)/2 + sum of M(1..n-1)
    for (std::size_t n = 1; n < half_.size(); ++n) {
      half_[n] = half_[n - 1] + row;
      row += ring_mutual_h(radius, radius, static_cast<double>(n) * pitch);
    }
  }

  /// The winding's mirror below a metal floor, whose currents run the other way: turns i and j are 2 base_m and
  /// i + j + 1 pitches apart. With the second sum b of that, x turns with y of the mirror are b(x + y) - b(x) -
  /// b(y).
  void add_mirror(double radius, double turns, double length, double base_m) {
    const double pitch = length / turns;
    mirror_.assign(2 * half_.size(), 0);
    for (std::size_t n = 2; n < mirror_.size(); ++n)
      mirror_[n] = 2 * mirror_[n - 1] - mirror_[n - 2] +
                   ring_mutual_h(radius, radius, 2 * base_m + static_cast<double>(n - 1) * pitch);
  }

  double mutual(double x1, double x2, double y1, double y2) const {
    return corner(x2, y2) - corner(x1, y2) - corner(x2, y1) + corner(x1, y1);
  }

 private:
  double at(long x, long y) const {
    const auto i = static_cast<std::size_t>(x), j = static_cast<std::size_t>(y);
    const double own = half_[i] + half_[j] - half_[static_cast<std::size_t>(std::abs(x - y))];
    return mirror_.empty() ? own : own - (mirror_[i + j] - mirror_[i] - mirror_[j]);
  }
  double corner(double x, double y) const {
    const auto i = static_cast<long>(x);
    const auto j = static_cast<long>(y);
    const double u = x - static_cast<double>(i);
    const double v = y - static_cast<double>(j);
    return (1 - u) * ((1 - v) * at(i, j) + v * at(i, j + 1)) + u * ((1 - v) * at(i + 1, j) + v * at(i + 1, j + 1));
  }

  std::vector<double> half_, mirror_;
};

} // namespace arc
