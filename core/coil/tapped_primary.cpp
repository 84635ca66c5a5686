// Ring sums of a tapped primary.
#include "coil/tapped_primary.h"

#include "coil/analysis.h"
#include "field/resonator.h"

#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <numbers>
#include <stdexcept>

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

namespace {

// The winding of a primary, without what is clipped or led to it.
Primary bare(Primary primary) {
  primary.tap_turns = primary.lead_inductance_h = 0;
  primary.lead_length_m.reset();
  primary.lead_spacing_m.reset();
  return primary;
}

struct TapStep {
  using Result = TappedPrimary;
  static constexpr std::size_t kept = 24;
  Primary primary;
  bool operator==(const TapStep&) const = default;
};

struct UsedStep {
  using Result = UsedPrimary;
  static constexpr std::size_t kept = 24;
  Primary primary;
  double used_turns;
  Secondary secondary;
  bool operator==(const UsedStep&) const = default;
};

UsedPrimary use_primary(const UsedStep& step) {
  UsedPrimary out;
  const auto rings = primary_rings(step.primary, step.used_turns);
  try {
    // Fewer filaments on long primaries keep the work in bounds; the figure moves by less than 0.2 %.
    out.skin = skin_current(rings, step.primary.conductor_diameter_m / 2,
                            std::clamp(static_cast<int>(160 / rings.size()), 6, 12));
  } catch (const std::invalid_argument&) { // turns touch; a finding says so
  }
  for (const Ring& turn : solenoid_rings(secondary_mean_radius_m(step.secondary), step.secondary.turns,
                                         step.secondary.winding_length_m, step.secondary.base_height_m)) {
    out.turn_mutual_h.push_back(coil_mutual_h(rings, std::span(&turn, 1)));
    out.mutual_h += out.turn_mutual_h.back();
  }
  return out;
}

struct WindingStep {
  using Result = double;
  static constexpr std::size_t kept = 64;
  double radius_m, turns, length_m, wire_radius_m;
  bool operator==(const WindingStep&) const = default;
};

struct CoarseMutualStep {
  using Result = double;
  static constexpr std::size_t kept = 64;
  Primary primary;
  double used_turns;
  double radius_m, turns, length_m, base_height_m;
  bool operator==(const CoarseMutualStep&) const = default;
};

} // namespace

double winding_inductance_h(Kept& kept, const Secondary& coil) {
  const WindingStep s{secondary_mean_radius_m(coil), coil.turns, coil.winding_length_m,
                      coil.wire_bare_diameter_m / 2};
  return *kept.get(s, [&] {
    return solenoid_inductance_h(s.radius_m, s.turns, s.length_m, s.wire_radius_m, CurrentDistribution::uniform);
  });
}

double coarse_mutual_h(Kept& kept, const Primary& primary, double used_turns, const Secondary& coil) {
  const CoarseMutualStep s{bare(primary),         used_turns,        secondary_mean_radius_m(coil), coil.turns,
                           coil.winding_length_m, coil.base_height_m};
  return *kept.get(s, [&] {
    constexpr double lumps = 40;
    auto winding = solenoid_rings(s.radius_m, lumps, s.length_m, s.base_height_m);
    for (Ring& ring : winding) ring.weight = s.turns / lumps;
    return coil_mutual_h(primary_rings(s.primary, s.used_turns), winding);
  });
}

std::shared_ptr<const TappedPrimary> tapped_primary(Kept& kept, const Primary& primary) {
  const TapStep step{bare(primary)};
  return kept.get(step, [&] { return TappedPrimary(step.primary); });
}

std::shared_ptr<const UsedPrimary> used_primary(Kept& kept, const Primary& primary, double used_turns,
                                                const Secondary& secondary) {
  UsedStep step{bare(primary), used_turns, secondary};
  step.secondary.form_length_m.reset();
  return kept.get(step, [&] { return use_primary(step); });
}

std::optional<double> tap_for(const TappedPrimary& model, const Primary& primary, double capacitance, double hz,
                              double scale) {
  const double wanted =
      (1 / (std::pow(2 * std::numbers::pi * hz, 2) * capacitance) - lead_inductance_h(primary)) / scale;
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
