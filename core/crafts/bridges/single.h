// The single resonant bridge as a kind of coil; what it shares with its neighbour is in bridge.h.
#pragma once

namespace arc {

const struct CoilKind& bridge_kind();

} // namespace arc
