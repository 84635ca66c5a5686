// The dual resonant bridge as a kind of coil; what it shares with its neighbour is in bridge.h.
#pragma once

namespace arc {

const struct CoilKind& dual_resonant_kind();

} // namespace arc
