// The ladder by its eigenvalues.
#include "parts/heat_path.h"

#include "quantity/matrix.h"

#include <cmath>
#include <numeric>

namespace arc {
namespace {

// Steady rise times (1 - exp) in coordinates where the ladder's matrix is symmetric.
struct Modes {
  Eigen::VectorXd rate;   // 1/s
  Eigen::MatrixXd shape;  // by column
  Eigen::VectorXd root;   // of the capacities
  Eigen::VectorXd steady; // rise of every element for one watt
};

Modes modes_of(const HeatPath& path) {
  const auto n = static_cast<Eigen::Index>(path.resistance_k_per_w.size());
  Eigen::MatrixXd conductance = Eigen::MatrixXd::Zero(n, n);
  Modes out;
  out.root.resize(n);
  for (Eigen::Index i = 0; i < n; ++i) {
    const double g = 1 / path.resistance_k_per_w[static_cast<std::size_t>(i)];
    conductance(i, i) += g;
    if (i + 1 < n) {
      conductance(i + 1, i + 1) += g;
      conductance(i, i + 1) -= g;
      conductance(i + 1, i) -= g;
    }
    out.root(i) = std::sqrt(path.capacity_j_per_k[static_cast<std::size_t>(i)]);
  }
  const std::vector<double> steady = final_rises_k(path, 1);
  out.steady = Eigen::Map<const Eigen::VectorXd>(steady.data(), n);
  const auto scale = out.root.cwiseInverse().asDiagonal();
  SymmetricModes modes = symmetric_modes(scale * conductance * scale);
  out.rate = std::move(modes.values);
  out.shape = std::move(modes.vectors);
  return out;
}

Eigen::VectorXd rise(const Modes& m, double watts, double time_s) {
  const Eigen::VectorXd away = m.shape.transpose() * (m.root.asDiagonal() * m.steady);
  const Eigen::VectorXd left = (-m.rate * time_s).array().exp() * away.array();
  return watts * (m.steady - m.root.cwiseInverse().asDiagonal() * (m.shape * left));
}

} // namespace

std::vector<double> rise_after(const HeatPath& path, double watts, double time_s) {
  const Eigen::VectorXd out = rise(modes_of(path), watts, time_s);
  return {out.begin(), out.end()};
}

std::vector<double> final_rises_k(const HeatPath& path, double watts) {
  std::vector<double> out(path.resistance_k_per_w.size());
  std::partial_sum(path.resistance_k_per_w.rbegin(), path.resistance_k_per_w.rend(), out.rbegin());
  for (double& rise : out) rise *= watts;
  return out;
}

double final_rise_k(const HeatPath& path, double watts) {
  return final_rises_k(path, watts).front();
}

std::optional<double> time_to_rise_s(const HeatPath& path, double watts, double limit_k) {
  if (limit_k <= 0) return 0;
  if (final_rise_k(path, watts) <= limit_k) return {};
  const Modes modes = modes_of(path);
  // The junction only ever warms: bisection between nothing and many of the slowest time constants.
  double low = 0, high = 50 / modes.rate.minCoeff();
  while (high - low > 1e-3 * high) {
    const double middle = low > 0 ? std::sqrt(low * high) : high / 100;
    (rise(modes, watts, middle)(0) < limit_k ? low : high) = middle;
    if (high < 1e-9) return high;
  }
  return (low + high) / 2;
}

} // namespace arc
