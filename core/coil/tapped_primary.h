// Inductances that are summed over rings: of the winding, of a primary up to any clip position, and between them.
#pragma once

#include "field/rings.h"
#include "field/tubing.h"
#include "model/design.h"
#include "quantity/kept.h"

#include <memory>
#include <optional>
#include <vector>

namespace arc {

/// Full turns are summed once; a partial turn is one ring at the middle of its span, weighted.
class TappedPrimary {
 public:
  explicit TappedPrimary(const Primary& primary);
  /// Henries up to `tap` turns, limited to the last; current on the surface.
  double inductance(double tap) const;

 private:
  Primary primary_;
  double wire_radius_;
  std::vector<Ring> rings_;
  std::vector<double> cumulative_;
};

/// Clip position in turns, to 1e-7, at which the primary with its leads resonates at `hz` with `capacitance`
/// farads; empty when none does. `scale`: measured over computed inductance at the clip.
std::optional<double> tap_for(const TappedPrimary& model, const Primary& primary, double capacitance, double hz,
                              double scale = 1);

/// Henries of the winding, current even along it.
double winding_inductance_h(Kept& kept, const Secondary& secondary);

/// Mutual inductance in henries of the used turns with the winding taken as a few lumps of turns: good for
/// differences, where the primary is far away compared with their spacing.
double coarse_mutual_h(Kept& kept, const Primary& primary, double used_turns, const Secondary& secondary);

/// The sums of a primary, wherever its clip is.
std::shared_ptr<const TappedPrimary> tapped_primary(Kept& kept, const Primary& primary);

/// What the used turns of a primary do: how their current crowds, and what of their field each turn of the winding
/// catches.
struct UsedPrimary {
  std::optional<SkinCurrent> skin;   // empty when turns touch
  std::vector<double> turn_mutual_h; // of each turn of the winding, from its base, with all used turns
  double mutual_h = 0;               // their sum
};
std::shared_ptr<const UsedPrimary> used_primary(Kept& kept, const Primary& primary, double used_turns,
                                                const Secondary& secondary);

} // namespace arc
