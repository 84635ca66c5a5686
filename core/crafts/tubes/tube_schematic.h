// The oscillator of a tube coil or a flame coil as a circuit diagram, with what is known of each part.
#pragma once

#include "circuit/schematic.h"
#include "crafts/tubes/tube.h"

namespace arc {

/// A sheet of 620 by 268 units. `tube`: its simulation, or null while there is none; values of a design alone stand
/// in it all the same.
Schematic tube_schematic(const Design& design, const Analysis* analysis, const TubePower* tube, UnitSystem units);

} // namespace arc
