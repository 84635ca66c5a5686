// The resonator as the circuits that simulations use: its first three modes, or one.
#pragma once

#include "circuit/winding_mode.h"
#include "coil/analysis.h"

#include <vector>

namespace arc {

/// The winding's first three modes, each with its own coupling to the primary; a measured coupling scales them all.
/// One circuit where `lumped` is asked, or where an instrument gave the resonator's values, or no field was solved.
/// The coil's circuit must be complete. Source of the reduction: docs/methods/simulation.md.
std::vector<WindingMode> winding_modes(const Design& design, const Analysis& analysis, bool lumped);

} // namespace arc
