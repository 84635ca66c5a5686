// Groups of the shelf that hold active parts and their iron: tubes, switches, transistors, cores, supplies,
// variacs, oven transformers. A part states what its owner knows; the rest is as of the nearest generic class.
#pragma once

#include "workshop/shelf.h"

#include <vector>

namespace arc {

/// That parts of every group may state.
inline const ShelfColumn pieces{"count", "Pieces", Dimension::count, 1, 10000, false};
inline const ShelfColumn price{"price", "Price", Dimension::number, 0, 1e6, false};

/// In file order, behind the others.
std::vector<ShelfGroup> device_groups();

} // namespace arc
