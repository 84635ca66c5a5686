// Boundary elements for bodies of revolution; method and sources are in the header.
#include "field/boundary.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double coulomb_factor = 1 / (4 * std::numbers::pi * eps0_f_per_m);

struct Node {
  double x; // 0 to 1
  double w;
};
// Gauss-Legendre on (0, 1).
constexpr std::array<Node, 2> gauss_2{{{0.2113248654051871, 0.5}, {0.7886751345948129, 0.5}}};
constexpr std::array<Node, 4> gauss_4{{{0.0694318442029737, 0.1739274225687269},
                                       {0.3300094782075719, 0.3260725774312731},
                                       {0.6699905217924281, 0.3260725774312731},
                                       {0.9305681557970263, 0.1739274225687269}}};
constexpr std::array<Node, 8> gauss_8{{{0.0198550717512319, 0.0506142681451881},
                                       {0.1016667612931866, 0.1111905172266872},
                                       {0.2372337950418355, 0.1568533229389436},
                                       {0.4082826787521751, 0.1813418916891810},
                                       {0.5917173212478249, 0.1813418916891810},
                                       {0.7627662049581645, 0.1568533229389436},
                                       {0.8983332387068134, 0.1111905172266872},
                                       {0.9801449282487681, 0.0506142681451881}}};

// 1/agm(p, q): the potential of a unit ring charge, times 4 pi eps0. near2 is the squared nearest distance.
inline double ring_kernel(double a, double b, double z) {
  double x = std::sqrt((a + b) * (a + b) + z * z);
  double y = std::sqrt((a - b) * (a - b) + z * z);
  for (int n = 0; n < 40 && x - y > 1e-8 * x; ++n) {
    const double next = 0.5 * (x + y);
    y = std::sqrt(x * y);
    x = next;
  }
  return 2 / (x + y); // the next mean; its relative error is below 1e-16
}

struct Segment {
  double r1, z1, dr, dz, length, mean_radius;
};

Segment segment_of(const Piece& p) {
  const double dr = p.r2_m - p.r1_m;
  const double dz = p.z2_m - p.z1_m;
  return {p.r1_m, p.z1_m, dr, dz, std::hypot(dr, dz), (p.r1_m + p.r2_m) / 2};
}

// Integral over s in (0, 1) of weight(s) kernel, the weight proportional to the local radius with mean 1.
inline double sample(const Segment& g, double s, double r, double z) {
  const double radius = g.r1 + s * g.dr;
  return radius / g.mean_radius * ring_kernel(radius, r, g.z1 + s * g.dz - z);
}

template <std::size_t N>
double plain(const std::array<Node, N>& rule, const Segment& g, double from, double to, double r, double z) {
  double sum = 0;
  for (const Node& node : rule) sum += node.w * sample(g, from + (to - from) * node.x, r, z);
  return sum * (to - from);
}

// Graded toward s0 with s = s0 + (end - s0) t^3, which turns the logarithm smooth.
double graded(const Segment& g, double s0, double end, double r, double z) {
  double sum = 0;
  for (const Node& node : gauss_8)
    sum += node.w * 3 * node.x * node.x * sample(g, s0 + (end - s0) * node.x * node.x * node.x, r, z);
  return sum * std::abs(end - s0);
}

double piece_kernel(const Segment& g, double tube_radius, double r, double z) {
  if (g.length == 0) {
    const double near = std::hypot(g.r1 - r, g.z1 - z);
    if (near >= tube_radius) return ring_kernel(g.r1, r, g.z1 - z);
    return ring_kernel(g.r1, g.r1, tube_radius);
  }
  const double along = std::clamp(((r - g.r1) * g.dr + (z - g.z1) * g.dz) / (g.length * g.length), 0.0, 1.0);
  const double distance = std::hypot(g.r1 + along * g.dr - r, g.z1 + along * g.dz - z);
  if (distance > 4 * g.length) return plain(gauss_2, g, 0, 1, r, z);
  if (distance > 1.2 * g.length) return plain(gauss_4, g, 0, 1, r, z);
  return graded(g, along, 0, r, z) + graded(g, along, 1, r, z);
}

Segment mirrored(Segment g) {
  g.z1 = -g.z1;
  g.dz = -g.dz;
  return g;
}

} // namespace

double piece_potential_v(const Piece& piece, double r_m, double z_m, Ground ground) {
  const Segment g = segment_of(piece);
  double sum = piece_kernel(g, piece.tube_radius_m, r_m, z_m);
  if (ground == Ground::floor) sum -= piece_kernel(mirrored(g), piece.tube_radius_m, r_m, z_m);
  return coulomb_factor * sum;
}

double wire_grid_excess(double radius_m, double turns, double pitch_m, double wire_radius_m) {
  return std::max(0.0, std::log(pitch_m / (2 * std::numbers::pi * wire_radius_m))) /
         (std::numbers::pi * radius_m * turns);
}

double piece_area_m2(const Piece& piece) {
  const Segment g = segment_of(piece);
  const double width = g.length > 0 ? g.length : 2 * std::numbers::pi * piece.tube_radius_m;
  return 2 * std::numbers::pi * g.mean_radius * width;
}

CapacitanceSolution solve_capacitance(const std::vector<Piece>& pieces, std::size_t conductors, Ground ground) {
  const auto n = static_cast<Eigen::Index>(pieces.size());
  Eigen::MatrixXd potential(n, n);
  std::vector<Segment> segments;
  segments.reserve(pieces.size());
  for (const Piece& piece : pieces) {
    segments.push_back(segment_of(piece));
    if (!(segments.back().mean_radius > 0)) throw std::invalid_argument("a conductor piece lies on the axis");
  }
  for (Eigen::Index j = 0; j < n; ++j) {
    const Segment& source = segments[static_cast<std::size_t>(j)];
    const Segment image = mirrored(source);
    const double tube = pieces[static_cast<std::size_t>(j)].tube_radius_m;
    for (Eigen::Index i = 0; i < n; ++i) {
      const Segment& at = segments[static_cast<std::size_t>(i)];
      const double r = at.mean_radius;
      const double z = at.z1 + at.dz / 2;
      double value = piece_kernel(source, tube, r, z);
      if (ground == Ground::floor) value -= piece_kernel(image, 0, r, z);
      potential(i, j) = i == j ? value + pieces[static_cast<std::size_t>(j)].grid_excess : value;
    }
  }
  Eigen::MatrixXd unit = Eigen::MatrixXd::Zero(n, static_cast<Eigen::Index>(conductors));
  for (Eigen::Index i = 0; i < n; ++i)
    unit(i, static_cast<Eigen::Index>(pieces[static_cast<std::size_t>(i)].conductor)) = 1;
  const Eigen::PartialPivLU<Eigen::MatrixXd> lu(potential);
  CapacitanceSolution out;
  out.charge_c = lu.solve(unit) / coulomb_factor;
  if (!out.charge_c.allFinite()) throw std::invalid_argument("two conductor surfaces coincide");
  const Eigen::MatrixXd maxwell = unit.transpose() * out.charge_c;
  out.maxwell_f = 0.5 * (maxwell + maxwell.transpose());
  return out;
}

std::vector<Piece> outline_pieces(const std::vector<OutlinePoint>& outline, double height_m,
                                  std::size_t conductor) {
  std::vector<Piece> pieces;
  for (std::size_t i = 1; i < outline.size(); ++i) {
    const OutlinePoint& a = outline[i - 1];
    const OutlinePoint& b = outline[i];
    if (a.radius_m + b.radius_m <= 0) continue; // a stretch of the axis has no surface
    pieces.push_back({a.radius_m, a.height_m + height_m, b.radius_m, b.height_m + height_m, conductor, 0, 0});
  }
  return pieces;
}

double body_capacitance_f(const std::vector<ToploadPart>& parts, int pieces, double height_m, Ground ground) {
  std::vector<Piece> all;
  for (const ToploadPart& part : parts)
    if (const ToploadShape* shape = topload_shape(part.shape)) {
      const auto more = outline_pieces(shape->outline(part, pieces), height_m, 0);
      all.insert(all.end(), more.begin(), more.end());
    }
  return all.empty() ? 0 : solve_capacitance(all, 1, ground).maxwell_f(0, 0);
}

} // namespace arc
