// Boundary elements for bodies of revolution; method and sources are in the header.
#include "field/boundary.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <span>
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

// Distance from a point to a piece, and where along the piece it is nearest (0 to 1).
struct Nearest {
  double distance, along;
};
Nearest nearest(const Segment& g, double r, double z) {
  const auto distance = [](double x, double y) { return std::sqrt(x * x + y * y); };
  if (g.length == 0) return {distance(g.r1 - r, g.z1 - z), 0};
  const double along = std::clamp(((r - g.r1) * g.dr + (z - g.z1) * g.dz) / (g.length * g.length), 0.0, 1.0);
  return {distance(g.r1 + along * g.dr - r, g.z1 + along * g.dz - z), along};
}

// Beyond this many lengths two sample points stand for a piece.
constexpr double far_away = 4;

double piece_kernel(const Segment& g, double tube_radius, double r, double z) {
  const Nearest near = nearest(g, r, z);
  if (g.length == 0)
    return near.distance >= tube_radius ? ring_kernel(g.r1, r, g.z1 - z) : ring_kernel(g.r1, g.r1, tube_radius);
  if (near.distance > far_away * g.length) return plain(gauss_2, g, 0, 1, r, z);
  if (near.distance > 1.2 * g.length) return plain(gauss_4, g, 0, 1, r, z);
  return graded(g, near.along, 0, r, z) + graded(g, near.along, 1, r, z);
}

// The wide loop of far rings is compiled for both vector widths; sanitizers do not support the choice at load time.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(__SANITIZE_ADDRESS__) &&           \
    !defined(__SANITIZE_THREAD__)
#define HIGH_ARC_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define HIGH_ARC_WIDE
#endif

// Adds weight / agm(p, q) for the ring (a, height) at n places. Four fixed steps and one mean: relative error below
// 2e-11 while the nearest distance is above a hundredth of the farthest; nearer places are done apart.
HIGH_ARC_WIDE void add_ring(double a, double height, double weight, const double* r, const double* z, double* out,
                            std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) {
    const double h = height - z[i];
    double x = std::sqrt((a + r[i]) * (a + r[i]) + h * h);
    double y = std::sqrt((a - r[i]) * (a - r[i]) + h * h);
    for (int k = 0; k < 4; ++k) {
      const double next = 0.5 * (x + y);
      y = std::sqrt(x * y);
      x = next;
    }
    out[i] += 2 * weight / (x + y);
  }
}

// Adds factor * kernel of one segment at many places; places near the segment are integrated with care.
void add_segment(const Segment& g, double tube_radius, double factor, std::span<const double> r,
                 std::span<const double> z, std::span<double> out) {
  const std::size_t n = r.size();
  std::vector<std::size_t> near_places;
  std::vector<double> before;
  const double reach = std::max(far_away * g.length, 0.03 * g.mean_radius);
  const double middle_r = g.r1 + g.dr / 2, middle_z = g.z1 + g.dz / 2;
  for (std::size_t i = 0; i < n; ++i) {
    const double limit = std::max(reach, 0.03 * r[i]) + g.length / 2;
    const double away = (r[i] - middle_r) * (r[i] - middle_r) + (z[i] - middle_z) * (z[i] - middle_z);
    if (away <= limit * limit) {
      near_places.push_back(i);
      before.push_back(out[i]);
    }
  }
  if (g.length == 0)
    add_ring(g.r1, g.z1, factor, r.data(), z.data(), out.data(), n);
  else
    for (const Node& node : gauss_2) {
      const double radius = g.r1 + node.x * g.dr;
      add_ring(radius, g.z1 + node.x * g.dz, factor * node.w * radius / g.mean_radius, r.data(), z.data(),
               out.data(), n);
    }
  for (std::size_t k = 0; k < near_places.size(); ++k) {
    const std::size_t i = near_places[k];
    out[i] = before[k] + factor * piece_kernel(g, tube_radius, r[i], z[i]);
  }
}

Segment mirrored(Segment g) {
  g.z1 = -g.z1;
  g.dz = -g.dz;
  return g;
}

// How many of the first segments are equal cylinders that stand on each other, as a winding is cut into.
std::size_t equal_stack(const std::vector<Segment>& segments) {
  const Segment& first = segments.front();
  if (first.dr != 0 || !(first.dz > 0)) return 0;
  const double slack = 1e-9 * first.dz;
  std::size_t count = 1;
  while (count < segments.size() && segments[count].dr == 0 && segments[count].r1 == first.r1 &&
         std::abs(segments[count].dz - first.dz) < slack &&
         std::abs(segments[count].z1 - first.z1 - static_cast<double>(count) * first.dz) < slack)
    ++count;
  return count;
}

// Potentials of a stack of equal cylinders on itself: what one does to another depends on how far apart they are,
// and what its image does on how high both stand, so that three columns tell all of them.
void add_stack(const std::vector<Segment>& segments, std::size_t count, Ground ground, std::span<const double> r,
               std::span<const double> z, Eigen::MatrixXd& potential) {
  std::vector<double> apart(count, 0.0), high(2 * count - 1, 0.0);
  add_segment(segments.front(), 0, 1, r, z, apart);
  if (ground == Ground::floor) {
    const std::span<double> all(high);
    add_segment(mirrored(segments.front()), 0, -1, r, z, all.first(count));
    add_segment(mirrored(segments[count - 1]), 0, -1, r.subspan(1), z.subspan(1), all.subspan(count));
  }
  for (std::size_t j = 0; j < count; ++j)
    for (std::size_t i = 0; i < count; ++i)
      potential(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(j)) +=
          apart[i > j ? i - j : j - i] + high[i + j];
}

} // namespace

void add_potential_v(const Piece& piece, double charge_c, Ground ground, std::span<const double> r_m,
                     std::span<const double> z_m, std::span<double> out_v) {
  const Segment g = segment_of(piece);
  add_segment(g, piece.tube_radius_m, coulomb_factor * charge_c, r_m, z_m, out_v);
  if (ground == Ground::floor)
    add_segment(mirrored(g), piece.tube_radius_m, -coulomb_factor * charge_c, r_m, z_m, out_v);
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

namespace {

// What a charge of 1 on `piece` (and its image) does at many places, times 4 pi eps0.
void add_piece(const Piece& piece, const Segment& g, Ground ground, std::span<const double> r,
               std::span<const double> z, std::span<double> out) {
  add_segment(g, piece.tube_radius_m, 1, r, z, out);
  if (ground == Ground::floor) add_segment(mirrored(g), 0, -1, r, z, out);
}

Segment checked_segment(const Piece& piece) {
  const Segment g = segment_of(piece);
  if (!(g.mean_radius > 0)) throw std::invalid_argument("a conductor piece lies on the axis");
  return g;
}

// One column for each conductor: 1 at its pieces.
Eigen::MatrixXd unit_potentials(const std::vector<Piece>& pieces, std::size_t conductors) {
  Eigen::MatrixXd unit =
      Eigen::MatrixXd::Zero(static_cast<Eigen::Index>(pieces.size()), static_cast<Eigen::Index>(conductors));
  for (std::size_t i = 0; i < pieces.size(); ++i)
    unit(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(pieces[i].conductor)) = 1;
  return unit;
}

CapacitanceSolution solution_of(Eigen::MatrixXd charge_c, const Eigen::MatrixXd& unit) {
  CapacitanceSolution out;
  out.charge_c = std::move(charge_c);
  if (!out.charge_c.allFinite()) throw std::invalid_argument("two conductor surfaces coincide");
  const Eigen::MatrixXd maxwell = unit.transpose() * out.charge_c;
  out.maxwell_f = 0.5 * (maxwell + maxwell.transpose());
  return out;
}

} // namespace

FactoredPieces factor(std::vector<Piece> pieces, Ground ground) {
  const auto n = static_cast<Eigen::Index>(pieces.size());
  Eigen::MatrixXd potential = Eigen::MatrixXd::Zero(n, n);
  std::vector<Segment> segments;
  segments.reserve(pieces.size());
  for (const Piece& piece : pieces) segments.push_back(checked_segment(piece));
  std::vector<double> r, z; // middles of the pieces
  for (const Segment& g : segments) {
    r.push_back(g.mean_radius);
    z.push_back(g.z1 + g.dz / 2);
  }
  const std::size_t stack = equal_stack(segments);
  const std::span<const double> places_r(r), places_z(z);
  if (stack > 1) add_stack(segments, stack, ground, places_r.first(stack), places_z.first(stack), potential);
  for (std::size_t j = 0; j < pieces.size(); ++j) {
    const std::size_t done = stack > 1 && j < stack ? stack : 0;
    const std::span<double> column(potential.col(static_cast<Eigen::Index>(j)).data(), pieces.size());
    add_piece(pieces[j], segments[j], ground, places_r.subspan(done), places_z.subspan(done), column.subspan(done));
    column[j] += pieces[j].grid_excess;
  }
  return {std::move(pieces), ground, LowerUpper(potential)};
}

CapacitanceSolution solve_capacitance(const FactoredPieces& factored, std::size_t conductors) {
  const Eigen::MatrixXd unit = unit_potentials(factored.pieces, conductors);
  return solution_of(factored.lu.solve(unit) / coulomb_factor, unit);
}

CapacitanceSolution solve_capacitance(const FactoredPieces& factored, std::size_t conductors, const Piece& more) {
  std::vector<Piece> pieces = factored.pieces;
  pieces.push_back(more);
  const Segment own = checked_segment(more);
  std::vector<double> r, z;
  for (const Piece& piece : pieces) {
    const Segment g = segment_of(piece);
    r.push_back(g.mean_radius);
    z.push_back(g.z1 + g.dz / 2);
  }
  const auto n = static_cast<Eigen::Index>(factored.pieces.size());
  Eigen::VectorXd column = Eigen::VectorXd::Zero(n + 1); // of the new piece, and its row
  add_piece(more, own, factored.ground, r, z, {column.data(), pieces.size()});
  column(n) += more.grid_excess;
  Eigen::RowVectorXd row = Eigen::RowVectorXd::Zero(n);
  for (Eigen::Index j = 0; j < n; ++j) {
    const Piece& piece = factored.pieces[static_cast<std::size_t>(j)];
    add_piece(piece, segment_of(piece), factored.ground, std::span(r).last(1), std::span(z).last(1), {&row(j), 1});
  }
  const Eigen::MatrixXd unit = unit_potentials(pieces, conductors);
  const Eigen::MatrixXd without = factored.lu.solve(unit.topRows(n));
  const Eigen::VectorXd moved = factored.lu.solve(column.head(n));
  const Eigen::RowVectorXd last = (unit.row(n) - row * without) / (column(n) - row * moved); // Schur complement
  Eigen::MatrixXd charge(n + 1, unit.cols());
  charge << without - moved * last, last;
  return solution_of(charge / coulomb_factor, unit);
}

CapacitanceSolution solve_capacitance(const std::vector<Piece>& pieces, std::size_t conductors, Ground ground) {
  return solve_capacitance(factor(pieces, ground), conductors);
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
