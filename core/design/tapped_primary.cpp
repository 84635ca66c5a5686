// Ring sums of a tapped primary.
#include "design/tapped_primary.h"

#include "design/analysis.h"

#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <numbers>

namespace arc {
namespace {

double mutual(const Ring& a, const Ring& b) {
  return ring_mutual_h(a.radius_m, b.radius_m, a.height_m - b.height_m);
}

} // namespace

TappedPrimary::TappedPrimary(const Primary& primary)
    : primary_(primary), wire_radius_(primary.conductor_diameter_m / 2) {
  const auto whole = std::floor(primary.turns + 1e-9);
  rings_ = primary_rings(primary, std::max(whole, 0.0));
  cumulative_.push_back(0);
  for (std::size_t j = 0; j < rings_.size(); ++j) {
    double row = ring_self_h(rings_[j].radius_m, wire_radius_, CurrentDistribution::skin);
    for (std::size_t i = 0; i < j; ++i) row += 2 * mutual(rings_[i], rings_[j]);
    cumulative_.push_back(cumulative_.back() + row);
  }
}

double TappedPrimary::inductance(double tap) const {
  const double turns = std::clamp(tap, 0.0, primary_.turns);
  const auto whole = std::min(static_cast<std::size_t>(turns + 1e-9), rings_.size());
  double total = cumulative_[whole];
  const double part = turns - static_cast<double>(whole);
  if (part < 1e-9) return total;
  const Ring last = primary_rings(primary_, turns).back();
  total += part * part * ring_self_h(last.radius_m, wire_radius_, CurrentDistribution::skin);
  for (std::size_t i = 0; i < whole; ++i) total += 2 * part * mutual(rings_[i], last);
  return total;
}

std::optional<double> tap_for(const TappedPrimary& model, const Primary& primary, double capacitance, double hz) {
  const double wanted = 1 / (std::pow(2 * std::numbers::pi * hz, 2) * capacitance) - lead_inductance_h(primary);
  const auto miss = [&](double turns) { return model.inductance(turns) - wanted; };
  if (!(wanted > 0) || miss(primary.turns) < 0) return std::nullopt;
  constexpr double least = 0.05; // as little as a clip can be set to
  if (miss(least) > 0) return std::nullopt;
  std::uintmax_t steps = 100;
  const auto bracket = boost::math::tools::toms748_solve(
      miss, least, primary.turns, [](double a, double b) { return b - a < 1e-7; }, steps);
  return (bracket.first + bracket.second) / 2;
}

} // namespace arc
