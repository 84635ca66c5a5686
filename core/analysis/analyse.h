// analyse(Design) -> Analysis: everything that High Arc knows about a coil at rest, computed once, read by every
// view. A pure function of the design: no state, no files, no clock. Methods and limits: docs/methods/.
#pragma once

#include "coil/analysis.h"

namespace arc {

/// Analyses a design. Never throws for a design that can be read from a file; what cannot be computed stays empty
/// with `problem` and findings saying why; sentences are in `units`. Every remedy that a finding offers was tried
/// on a copy. About 8 ms for 1500 turns, a toroid and a flat primary, on two processors.
Analysis analyse(const Design& design, UnitSystem units = UnitSystem::metric);

/// The same, taking over from `kept` whatever does not differ from what was computed before.
Analysis analyse(const Design& design, UnitSystem units, Kept& kept);

/// The same without trying remedies, and without bands and evidence unless asked for: for trial changes.
Analysis analyse_untried(const Design& design, UnitSystem units, bool bands, Kept& kept);

} // namespace arc
