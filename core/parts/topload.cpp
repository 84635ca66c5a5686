// Topload shapes: outlines, exact capacitances, and what makes a part impossible.
#include "parts/topload.h"

#include <algorithm>
#include <array>
#include <boost/math/special_functions/ellint_1.hpp>
#include <boost/math/special_functions/gamma.hpp>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

using std::numbers::pi;

// Q_{n-1/2}(cosh eta) by its hypergeometric series (Abramowitz and Stegun 8.13 with 8.1.3).
double half_integer_q(int n, double eta) {
  const double x = std::exp(-2 * eta);
  double term = 1;
  double sum = 1;
  for (int k = 0; k < 400 && term > 1e-17 * sum; ++k) {
    term *= (k + 0.5) * (n + k + 0.5) / ((n + k + 1.0) * (k + 1.0)) * x;
    sum += term;
  }
  return std::sqrt(pi) * boost::math::tgamma_delta_ratio(n + 0.5, 0.5) * std::exp(-(n + 0.5) * eta) * sum;
}

std::vector<OutlinePoint> toroid_outline(const ToploadPart& p, int pieces) {
  std::vector<OutlinePoint> points;
  const double r = p.tube_diameter_m / 2;
  const double centre = p.outer_diameter_m / 2 - r;
  for (int i = 0; i <= pieces; ++i) {
    const double t = 2 * pi * (i % pieces) / pieces;
    points.push_back({centre + r * std::cos(t), p.centre_above_winding_m + r * std::sin(t)});
  }
  return points;
}

std::vector<OutlinePoint> sphere_outline(const ToploadPart& p, int pieces) {
  std::vector<OutlinePoint> points;
  for (int i = 0; i <= pieces; ++i) {
    const double t = -pi / 2 + pi * i / pieces;
    points.push_back({i == 0 || i == pieces ? 0.0 : p.diameter_m / 2 * std::cos(t),
                      p.centre_above_winding_m + p.diameter_m / 2 * std::sin(t)});
  }
  return points;
}

// Thin disc: piece ends crowd toward the rim, where the charge does.
std::vector<OutlinePoint> disc_outline(const ToploadPart& p, int pieces) {
  std::vector<OutlinePoint> points;
  for (int i = 0; i <= pieces; ++i)
    points.push_back({p.diameter_m / 2 * std::sin(pi / 2 * i / pieces), p.centre_above_winding_m});
  return points;
}

std::vector<OutlinePoint> cylinder_outline(const ToploadPart& p, int pieces) {
  const double r = p.diameter_m / 2;
  const double h = p.height_m / 2;
  const int cap = std::max(2, static_cast<int>(std::lround(pieces * r / (2 * r + p.height_m))));
  const int side = std::max(2, pieces - 2 * cap);
  std::vector<OutlinePoint> points;
  for (int i = 0; i <= cap; ++i) points.push_back({r * std::sin(pi / 2 * i / cap), p.centre_above_winding_m - h});
  for (int i = 1; i <= side; ++i) points.push_back({r, p.centre_above_winding_m - h * std::cos(pi * i / side)});
  for (int i = 1; i <= cap; ++i)
    points.push_back({i == cap ? 0.0 : r * std::cos(pi / 2 * i / cap), p.centre_above_winding_m + h});
  return points;
}

using Drawn = std::vector<std::array<double, 2>>;

double distance(const std::array<double, 2>& a, const std::array<double, 2>& b) {
  return std::hypot(b[0] - a[0], b[1] - a[1]);
}

// A profile drawn much finer than it is to be cut keeps its corners and enough points between them.
Drawn coarser(const Drawn& drawn, double total, int pieces) {
  if (drawn.size() <= static_cast<std::size_t>(std::max(pieces, 8))) return drawn;
  Drawn out{drawn.front()};
  double since = 0;
  for (std::size_t i = 1; i + 1 < drawn.size(); ++i) {
    const double before = distance(drawn[i - 1], drawn[i]), after = distance(drawn[i], drawn[i + 1]);
    since += before;
    const double turn = (drawn[i][0] - drawn[i - 1][0]) * (drawn[i + 1][0] - drawn[i][0]) +
                        (drawn[i][1] - drawn[i - 1][1]) * (drawn[i + 1][1] - drawn[i][1]);
    const bool corner = turn < 0.8 * before * after && std::min(before, after) > total / (4 * pieces);
    if (!corner && since < total / pieces) continue;
    out.push_back(drawn[i]);
    since = 0;
  }
  out.push_back(drawn.back());
  return out;
}

std::vector<OutlinePoint> profile_outline(const ToploadPart& p, int pieces) {
  double total = 0;
  for (std::size_t i = 1; i < p.points_m.size(); ++i) total += distance(p.points_m[i - 1], p.points_m[i]);
  const Drawn drawn = coarser(p.points_m, total, pieces);
  std::vector<OutlinePoint> points;
  const auto at = [&](std::size_t i) { return OutlinePoint{drawn[i][0], drawn[i][1] + p.centre_above_winding_m}; };
  if (!drawn.empty()) points.push_back(at(0));
  const int least_cuts = drawn.size() * 2 > static_cast<std::size_t>(pieces) ? 1 : 2;
  for (std::size_t i = 1; i < drawn.size(); ++i) {
    const OutlinePoint a = at(i - 1);
    const OutlinePoint b = at(i);
    const double length = std::hypot(b.radius_m - a.radius_m, b.height_m - a.height_m);
    const int cuts = std::max(least_cuts, static_cast<int>(std::lround(pieces * length / std::max(total, 1e-12))));
    for (int k = 1; k <= cuts; ++k) {
      const double t = (1 - std::cos(pi * k / cuts)) / 2;
      points.push_back({a.radius_m + t * (b.radius_m - a.radius_m), a.height_m + t * (b.height_m - a.height_m)});
    }
  }
  return points;
}

std::string no_problem(const ToploadPart&) {
  return {};
}

std::string toroid_problem(const ToploadPart& p) {
  if (p.tube_diameter_m * 2 < p.outer_diameter_m) return {};
  return fmt::format(
      "a toroid of {:.4g} mm outside cannot have a {:.4g} mm tube; the tube must be under half of it",
      p.outer_diameter_m * 1e3, p.tube_diameter_m * 1e3);
}

std::string profile_problem(const ToploadPart& p) {
  if (p.points_m.size() < 2) return "a profile needs at least two points";
  for (std::size_t i = 0; i < p.points_m.size(); ++i) {
    if (p.points_m[i][0] < 0) return fmt::format("point {} of the profile has a negative radius", i + 1);
    if (i > 0 && p.points_m[i] == p.points_m[i - 1])
      return fmt::format("points {} and {} of the profile are the same", i, i + 1);
  }
  return {};
}

} // namespace

double sphere_capacitance_f(double radius_m) {
  return 4 * pi * eps0_f_per_m * radius_m;
}

double disc_capacitance_f(double radius_m) {
  return 8 * eps0_f_per_m * radius_m;
}

double torus_capacitance_f(double centre_radius_m, double tube_radius_m) {
  const double x = centre_radius_m / tube_radius_m;
  const double eta = std::acosh(x);
  double p_before = 2 / pi / std::cosh(eta / 2) * boost::math::ellint_1(std::tanh(eta / 2)); // P_{-1/2}
  // P_{1/2} from the derivative-free relation P_{1/2} = (2/pi) e^{eta/2} E(sqrt(1 - e^{-2 eta})).
  double p_now = 2 / pi * std::exp(eta / 2) * std::comp_ellint_2(std::sqrt(1 - std::exp(-2 * eta)));
  double sum = half_integer_q(0, eta) / (2 * p_before);
  for (int n = 1; n < 2000; ++n) {
    const double term = half_integer_q(n, eta) / p_now;
    sum += term;
    if (term < 1e-15 * sum) break;
    const double p_next = (2 * n * x * p_now - (n - 0.5) * p_before) / (n + 0.5);
    p_before = p_now;
    p_now = p_next;
  }
  const double c = std::sqrt(centre_radius_m * centre_radius_m - tube_radius_m * tube_radius_m);
  return 16 * eps0_f_per_m * c * sum;
}

std::span<const ToploadShape> topload_shapes() {
  static const std::array<ToploadShape, 5> shapes{{
      {"toroid",
       "Toroid",
       {{"outer_diameter_m", "Outer diameter", &ToploadPart::outer_diameter_m},
        {"tube_diameter_m", "Tube diameter", &ToploadPart::tube_diameter_m}},
       toroid_outline,
       [](const ToploadPart& p) -> std::optional<double> {
         return torus_capacitance_f((p.outer_diameter_m - p.tube_diameter_m) / 2, p.tube_diameter_m / 2);
       },
       toroid_problem,
       &ToploadPart::outer_diameter_m,
       &ToploadPart::tube_diameter_m},
      {"sphere",
       "Sphere",
       {{"diameter_m", "Diameter", &ToploadPart::diameter_m}},
       sphere_outline,
       [](const ToploadPart& p) -> std::optional<double> { return sphere_capacitance_f(p.diameter_m / 2); },
       no_problem,
       &ToploadPart::diameter_m},
      {"disc",
       "Disc",
       {{"diameter_m", "Diameter", &ToploadPart::diameter_m}},
       disc_outline,
       [](const ToploadPart& p) -> std::optional<double> { return disc_capacitance_f(p.diameter_m / 2); },
       no_problem,
       &ToploadPart::diameter_m},
      {"cylinder",
       "Cylinder",
       {{"diameter_m", "Diameter", &ToploadPart::diameter_m}, {"height_m", "Height", &ToploadPart::height_m}},
       cylinder_outline,
       [](const ToploadPart&) -> std::optional<double> { return std::nullopt; },
       no_problem,
       &ToploadPart::diameter_m},
      {"profile",
       "Free profile",
       {},
       profile_outline,
       [](const ToploadPart&) -> std::optional<double> { return std::nullopt; },
       profile_problem},
  }};
  return shapes;
}

const ToploadShape* topload_shape(std::string_view key) {
  for (const ToploadShape& shape : topload_shapes())
    if (shape.key == key) return &shape;
  return nullptr;
}

Extent topload_extent(const ToploadPart& part) {
  const ToploadShape* shape = topload_shape(part.shape);
  Extent extent{0, part.centre_above_winding_m, part.centre_above_winding_m};
  if (!shape) return extent;
  bool first = true;
  for (const OutlinePoint& p : shape->outline(part, 32)) {
    extent.radius_m = std::max(extent.radius_m, p.radius_m);
    extent.lowest_m = first ? p.height_m : std::min(extent.lowest_m, p.height_m);
    extent.highest_m = first ? p.height_m : std::max(extent.highest_m, p.height_m);
    first = false;
  }
  return extent;
}

namespace {

constexpr int crossing_pieces = 48;

std::vector<OutlinePoint> outline_of(const ToploadPart& part) {
  const ToploadShape* shape = topload_shape(part.shape);
  return shape ? shape->outline(part, crossing_pieces) : std::vector<OutlinePoint>{};
}

// Even-odd rule on the half outline; an outline that ends on the axis closes along it.
bool inside(const std::vector<OutlinePoint>& outline, double r, double z) {
  bool in = false;
  for (std::size_t i = 0, n = outline.size(); i < n; ++i) {
    const OutlinePoint& a = outline[i];
    const OutlinePoint& b = outline[(i + 1) % n];
    if ((a.height_m > z) == (b.height_m > z)) continue;
    if (r < a.radius_m + (z - a.height_m) / (b.height_m - a.height_m) * (b.radius_m - a.radius_m)) in = !in;
  }
  return in;
}

double side_of(const OutlinePoint& a, const OutlinePoint& b, const OutlinePoint& p) {
  return (b.radius_m - a.radius_m) * (p.height_m - a.height_m) -
         (b.height_m - a.height_m) * (p.radius_m - a.radius_m);
}

bool outlines_cross(const std::vector<OutlinePoint>& one, const std::vector<OutlinePoint>& other) {
  for (std::size_t i = 1; i < one.size(); ++i)
    for (std::size_t j = 1; j < other.size(); ++j) {
      const double a = side_of(one[i - 1], one[i], other[j - 1]), b = side_of(one[i - 1], one[i], other[j]);
      const double c = side_of(other[j - 1], other[j], one[i - 1]), d = side_of(other[j - 1], other[j], one[i]);
      if (a * b < 0 && c * d < 0) return true;
    }
  return false;
}

bool overlap(const std::vector<OutlinePoint>& one, const std::vector<OutlinePoint>& other) {
  return outlines_cross(one, other) || inside(one, other.front().radius_m, other.front().height_m) ||
         inside(other, one.front().radius_m, one.front().height_m);
}

} // namespace

bool inside_part(const ToploadPart& part, double radius_m, double height_m) {
  return inside(outline_of(part), radius_m, height_m);
}

std::optional<PartPair> crossing_parts(const std::vector<ToploadPart>& parts) {
  std::vector<std::vector<OutlinePoint>> outlines;
  for (const ToploadPart& part : parts) outlines.push_back(outline_of(part));
  for (std::size_t i = 0; i < parts.size(); ++i)
    for (std::size_t j = i + 1; j < parts.size(); ++j)
      if (!outlines[i].empty() && !outlines[j].empty() && overlap(outlines[i], outlines[j])) return PartPair{i, j};
  return {};
}

std::optional<PartPair> coinciding_parts(const std::vector<ToploadPart>& parts) {
  for (std::size_t i = 0; i < parts.size(); ++i)
    for (std::size_t j = i + 1; j < parts.size(); ++j) {
      const auto a = outline_of(parts[i]), b = outline_of(parts[j]);
      if (a.empty() || a.size() != b.size()) continue;
      double apart = 0;
      for (std::size_t k = 0; k < a.size(); ++k)
        apart = std::max(apart, std::hypot(a[k].radius_m - b[k].radius_m, a[k].height_m - b[k].height_m));
      if (apart < 1e-4) return PartPair{i, j};
    }
  return {};
}

double lift_to_clear(const ToploadPart& lower, const ToploadPart& upper) {
  const auto below = outline_of(lower);
  const auto raised_clear = [&](double by) {
    ToploadPart moved = upper;
    moved.centre_above_winding_m += by;
    return !overlap(below, outline_of(moved));
  };
  if (below.empty() || raised_clear(0)) return 0;
  double bad = 0, good = std::max(0.0, topload_extent(lower).highest_m - topload_extent(upper).lowest_m) + 1e-4;
  for (int i = 0; i < 30; ++i) (raised_clear((bad + good) / 2) ? good : bad) = (bad + good) / 2;
  return good;
}

} // namespace arc
