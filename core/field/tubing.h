// Primary windings of thick conductor at high frequency: the current crowds to where the turn's own field drives
// it, mostly toward the inner edge. Each turn's skin is cut into filaments (rings around the tube) whose currents
// settle so that every filament of a turn sees the same voltage: the state of least magnetic energy of a perfect
// conductor. Source: partial-inductance filament method (Ruehli, IBM J. Res. Dev. 16 (1972) 470) with Maxwell's
// ring formula. Limits: skin depth much smaller than the conductor, axisymmetric turns; end effects of the clip are
// left out.
#pragma once

#include "field/rings.h"

#include <span>
#include <vector>

namespace arc {

struct SkinCurrent {
  double inductance_h = 0;        // of the turns in series
  double crowding = 1;            // loss over the loss of evenly spread skin current
  std::vector<double> edge_share; // of each turn: current on the inner half of its skin, 0.5 when even
};

/// Current and inductance of turns of round conductor with its current free to move in the skin. `filaments` for
/// each turn, at least 4. Throws std::invalid_argument when turns overlap.
SkinCurrent skin_current(std::span<const Ring> turns, double conductor_radius_m, int filaments = 12);

} // namespace arc
