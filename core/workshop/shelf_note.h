// What a change of the tank asks of the shelf.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"
#include "workshop/shelf.h"

#include <string>

namespace arc {

/// "It takes 20 of 150 nF for 2 kV; 6 are on the shelf. …" for a tank of equal units that needs more pieces after
/// the change than before; with fewer on hand, the gap that the present bank holds at 80 % of its units. Empty
/// otherwise.
std::string shelf_note(const Design& before, const Design& after, const Shelf& shelf, UnitSystem units);

} // namespace arc
