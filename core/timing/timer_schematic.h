// A timer circuit as a diagram, with its parts' names and values.
#pragma once

#include "circuit/schematic.h"
#include "timing/timer.h"

namespace arc {

/// A sheet of 800 by 430 units. Every part of the circuit stands in it by its name and its value.
Schematic timer_schematic(const TimerCircuit& circuit, UnitSystem units);

} // namespace arc
