// Inductance of a primary up to any clip position.
#pragma once

#include "design/design.h"
#include "field/rings.h"

#include <optional>
#include <vector>

namespace arc {

/// Full turns are summed once; a partial turn is one ring at the middle of its span, weighted. The primary must
/// outlive it.
class TappedPrimary {
 public:
  explicit TappedPrimary(const Primary& primary);
  /// Henries up to `tap` turns, limited to the last; current on the surface.
  double inductance(double tap) const;

 private:
  const Primary& primary_;
  double wire_radius_;
  std::vector<Ring> rings_;
  std::vector<double> cumulative_;
};

/// Clip position in turns, to 1e-7, at which the primary with its leads resonates at `hz` with `capacitance`
/// farads; empty when none does.
std::optional<double> tap_for(const TappedPrimary& model, const Primary& primary, double capacitance, double hz);

} // namespace arc
