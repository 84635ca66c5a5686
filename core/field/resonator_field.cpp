// The resonator as a distributed line: capacitance from boundary elements, inductance from turn rings, modes from
// the symmetric eigenproblem D' L^-1 D v = w^2 C v. Nodes sit at the centres of n equal pieces of the winding and
// on the topload; a branch owns the turns between two nodes. Since D is square and invertible, the largest
// eigenvalues of G' D^-1 L D^-T G (C = G G') are 1/w^2: no inverse of L is needed.
#include "field/boundary.h"
#include "field/resonator.h"
#include "field/rings.h"

#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

// Inductance of stretches of a uniform winding. With g(n) half the inductance of n turns, the mutual inductance of
// the first x turns with the first y is g(x) + g(y) - g(|x - y|) at whole numbers; it is bilinear between them,
// because a turn cut in two shares its weight.
class Stretches {
 public:
  Stretches(double radius, double turns, double length, double wire_radius)
      : half_(static_cast<std::size_t>(std::ceil(turns)) + 2) {
    const double pitch = length / turns;
    double row = ring_self_h(radius, wire_radius, CurrentDistribution::uniform) / 2; // M(0)/2 + sum of M(1..n-1)
    for (std::size_t n = 1; n < half_.size(); ++n) {
      half_[n] = half_[n - 1] + row;
      row += ring_mutual_h(radius, radius, static_cast<double>(n) * pitch);
    }
  }

  double mutual(double x1, double x2, double y1, double y2) const {
    return corner(x2, y2) - corner(x1, y2) - corner(x2, y1) + corner(x1, y1);
  }

 private:
  double at(long x, long y) const {
    return half_[static_cast<std::size_t>(x)] + half_[static_cast<std::size_t>(y)] -
           half_[static_cast<std::size_t>(std::abs(x - y))];
  }
  double corner(double x, double y) const {
    const auto i = static_cast<long>(x);
    const auto j = static_cast<long>(y);
    const double u = x - static_cast<double>(i);
    const double v = y - static_cast<double>(j);
    return (1 - u) * ((1 - v) * at(i, j) + v * at(i, j + 1)) + u * ((1 - v) * at(i + 1, j) + v * at(i + 1, j + 1));
  }

  std::vector<double> half_;
};

bool grounded(const Design& design, std::string_view name) {
  for (const std::string& item : design.site.grounded_conductors)
    if (item == name) return true;
  return false;
}

// Grounded bodies: the primary's turns, the ceiling. They share one conductor that stays at 0 V.
void add_grounded(const Design& design, std::size_t conductor, std::vector<Piece>& pieces) {
  if (grounded(design, "primary"))
    for (const Ring& ring : primary_rings(design.primary, design.primary.turns))
      pieces.push_back({ring.radius_m, std::max(ring.height_m, design.primary.conductor_diameter_m), ring.radius_m,
                        std::max(ring.height_m, design.primary.conductor_diameter_m), conductor,
                        design.primary.conductor_diameter_m / 2, 0});
  if (design.site.ceiling_height_m) {
    const double height = *design.site.ceiling_height_m;
    constexpr int cuts = 16;
    for (int i = 0; i < cuts; ++i) {
      const auto radius = [&](int k) { return 3 * height * std::pow(static_cast<double>(k) / cuts, 1.5); };
      pieces.push_back({radius(i), height, radius(i + 1), height, conductor, 0, 0});
    }
  }
}

} // namespace

double secondary_mean_radius_m(const Secondary& secondary) {
  return (secondary.form_diameter_m + secondary.wire_overall_diameter_m) / 2;
}

std::vector<Ring> primary_rings(const Primary& primary, double turns) {
  const double degrees = primary.shape == "flat" ? 0 : primary.shape == "helix" ? 90 : primary.cone_angle_deg;
  return spiral_rings(primary.inner_radius_m, primary.base_height_m, primary.pitch_m,
                      degrees * std::numbers::pi / 180, turns);
}

ResonatorResult field_resonator(const Design& design, FieldResolution resolution) {
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  const auto n = static_cast<std::size_t>(std::min<double>(resolution.winding_pieces, std::floor(coil.turns)));
  const double step = coil.winding_length_m / static_cast<double>(n);
  const double top_height = coil.base_height_m + coil.winding_length_m;

  const double excess = wire_grid_excess(radius, coil.turns / static_cast<double>(n),
                                         coil.winding_length_m / coil.turns, coil.wire_bare_diameter_m / 2);
  std::vector<Piece> pieces;
  for (std::size_t i = 0; i < n; ++i) {
    const double low = coil.base_height_m + static_cast<double>(i) * step;
    pieces.push_back({radius, low, radius, low + step, i, 0, excess});
  }
  const bool loaded = !design.topload.empty();
  for (const ToploadPart& part : design.topload)
    if (const ToploadShape* shape = topload_shape(part.shape)) {
      const auto more = outline_pieces(shape->outline(part, resolution.topload_pieces), top_height, n);
      pieces.insert(pieces.end(), more.begin(), more.end());
    }
  const std::size_t nodes = n + (loaded ? 1 : 0);
  add_grounded(design, nodes, pieces);
  const CapacitanceSolution field = solve_capacitance(pieces, nodes + 1, Ground::floor);
  const auto m = static_cast<Eigen::Index>(nodes);
  const Eigen::MatrixXd c = field.maxwell_f.topLeftCorner(m, m);

  // Branch b runs from node b-1 (ground for b = 0) to node b and owns the turns between their places.
  const Stretches stretches(radius, coil.turns, coil.winding_length_m, coil.wire_bare_diameter_m / 2);
  const double turns_per_piece = coil.turns / static_cast<double>(n);
  const auto place = [&](std::size_t node) { // turns below a node
    return node < n ? (static_cast<double>(node) + 0.5) * turns_per_piece : coil.turns;
  };
  Eigen::MatrixXd l(m, m);
  for (std::size_t a = 0; a < nodes; ++a)
    for (std::size_t b = 0; b <= a; ++b) {
      const double value =
          stretches.mutual(a == 0 ? 0 : place(a - 1), place(a), b == 0 ? 0 : place(b - 1), place(b));
      l(static_cast<Eigen::Index>(a), static_cast<Eigen::Index>(b)) =
          l(static_cast<Eigen::Index>(b), static_cast<Eigen::Index>(a)) = value;
    }

  // S = D^-1 L D^-T: both cumulative sums, since the voltage of a node is the sum of the branch drops below it.
  Eigen::MatrixXd s = l;
  for (Eigen::Index i = 1; i < m; ++i) s.row(i) += s.row(i - 1);
  for (Eigen::Index i = 1; i < m; ++i) s.col(i) += s.col(i - 1);
  const Eigen::LLT<Eigen::MatrixXd> cholesky(c);
  if (cholesky.info() != Eigen::Success)
    throw std::invalid_argument("the capacitances are not physical; conductors touch or cross");
  const Eigen::MatrixXd g = cholesky.matrixL();
  const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solver(g.transpose() * s * g);
  const auto frequency = [&](Eigen::Index from_top) {
    return 1 / (2 * std::numbers::pi * std::sqrt(solver.eigenvalues()(m - 1 - from_top)));
  };

  ResonatorResult out;
  out.method = "field solution";
  out.assumption = "distributed winding in still air over a conducting floor, uniform winding pitch, no loss";
  out.relative_accuracy = 0.01;
  out.mode_1_hz = frequency(0);
  if (m > 1) out.mode_2_hz = frequency(1);
  if (m > 2) out.mode_3_hz = frequency(2);

  Eigen::VectorXd v = g.transpose().triangularView<Eigen::Upper>().solve(solver.eigenvectors().col(m - 1));
  v /= v(m - 1);
  const double omega = 2 * std::numbers::pi * out.mode_1_hz;
  const Eigen::VectorXd leaving = omega * (c * v); // current leaving each node for 1 V at the top
  const double base_current = leaving.sum();
  out.effective_inductance_h = 1 / (omega * base_current);
  out.effective_capacitance_f = base_current / omega;
  out.profile.push_back({coil.base_height_m, 0, 1});
  double current = base_current;
  for (std::size_t i = 0; i < n; ++i) {
    const double before = current;
    current -= leaving(static_cast<Eigen::Index>(i));
    out.profile.push_back({coil.base_height_m + (static_cast<double>(i) + 0.5) * step,
                           v(static_cast<Eigen::Index>(i)), (before + current) / 2 / base_current});
  }
  out.profile.push_back({top_height, 1, loaded ? current / base_current : 0});
  if (loaded) {
    out.topload_in_place_f = c(m - 1, m - 1);
    out.topload_isolated_f =
        body_capacitance_f(design.topload, 2 * resolution.topload_pieces, top_height, Ground::none);
  }
  return out;
}

} // namespace arc
