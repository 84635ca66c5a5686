// Filament solution of crowded current; method in the header.
#include "field/tubing.h"

#include "quantity/matrix.h"

#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {

SkinCurrent skin_current(std::span<const Ring> turns, double conductor_radius_m, int filaments) {
  const auto count = static_cast<Eigen::Index>(turns.size());
  const Eigen::Index each = filaments;
  const Eigen::Index n = count * each;
  if (n == 0) return {};
  for (std::size_t i = 1; i < turns.size(); ++i)
    if (std::hypot(turns[i].radius_m - turns[i - 1].radius_m, turns[i].height_m - turns[i - 1].height_m) <=
        2 * conductor_radius_m)
      throw std::invalid_argument("primary turns touch");
  std::vector<Ring> rings;
  for (const Ring& turn : turns)
    for (int m = 0; m < filaments; ++m) {
      const double angle = 2 * std::numbers::pi * (m + 0.5) / filaments;
      rings.push_back({turn.radius_m + conductor_radius_m * std::cos(angle),
                       turn.height_m + conductor_radius_m * std::sin(angle), turn.weight});
    }
  // A strip of skin acts on itself like a wire of radius r/n: then n filaments with equal currents make the tube.
  const double own = conductor_radius_m / filaments;
  Eigen::MatrixXd l(n, n);
  for (Eigen::Index i = 0; i < n; ++i) {
    const Ring& a = rings[static_cast<std::size_t>(i)];
    l(i, i) = ring_self_h(a.radius_m, own, CurrentDistribution::skin);
    for (Eigen::Index j = 0; j < i; ++j) {
      const Ring& b = rings[static_cast<std::size_t>(j)];
      l(i, j) = l(j, i) = ring_mutual_h(a.radius_m, b.radius_m, a.height_m - b.height_m);
    }
  }
  Eigen::MatrixXd belongs = Eigen::MatrixXd::Zero(n, count);
  Eigen::VectorXd present(count); // share of a turn that is there
  for (Eigen::Index t = 0; t < count; ++t) {
    belongs.block(t * each, t, each, 1).setOnes();
    present(t) = turns[static_cast<std::size_t>(t)].weight;
  }
  const Cholesky cholesky(l);
  if (!cholesky.positive()) throw std::invalid_argument("primary turns overlap");
  const Eigen::MatrixXd response = cholesky.solve(belongs);
  const Eigen::MatrixXd turn_matrix = // inductances between whole turns
      LowerUpper(belongs.transpose() * response).solve(Eigen::MatrixXd::Identity(count, count));
  const Eigen::VectorXd current = response * (turn_matrix * present);
  SkinCurrent out;
  out.inductance_h = present.dot(turn_matrix * present);
  double loss = 0, even = 0;
  for (Eigen::Index t = 0; t < count; ++t) {
    const double share = present(t), radius = turns[static_cast<std::size_t>(t)].radius_m;
    const Eigen::VectorXd own_current = current.segment(t * each, each);
    double inner = 0;
    for (Eigen::Index m = 0; m < each; ++m)
      if (std::cos(2 * std::numbers::pi * (static_cast<double>(m) + 0.5) / filaments) < 0) inner += own_current(m);
    loss += radius * own_current.squaredNorm() * static_cast<double>(each);
    even += radius * share * share;
    out.edge_share.push_back(share > 0 ? inner / own_current.sum() : 0.5);
  }
  out.crowding = loss / even;
  return out;
}

} // namespace arc
