// What a design of a kind begins as: a whole coil that fits together, with the usual feed for the mains at hand;
// and what another kind takes over from a design. Values are usual ones of the craft (common practice, no source).
#pragma once

#include "circuit/feed_arrangements.h"
#include "craft/kind.h"

#include <string>

namespace arc {

/// A new coil of the kind on these mains (V, Hz), its feed sized for them. Every number of it is an example. Not
/// judged here: the tests see that nothing stops it.
Design new_design(const CoilKind& kind, double mains_v = 230, double mains_hz = 50);

/// The design as one of another kind: all that was typed stays; a group that is still as a new design of its own
/// kind has it, or as a design is before anything is typed, becomes that of a new design of the other kind.
Design as_kind(const Design& design, const CoilKind& kind);

/// The design fed in this way, with what goes with such a feed: a rotor, or a gap set to what the feed reaches. The
/// numbers of the feed are examples: usual ones that nobody has typed.
Design fed_by(Design design, const FeedArrangement& arrangement);

} // namespace arc
