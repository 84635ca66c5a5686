// The flame coil as a kind; what it shares with its neighbour is in tube.h.
#pragma once

namespace arc {

const struct CoilKind& flame_kind();

} // namespace arc
