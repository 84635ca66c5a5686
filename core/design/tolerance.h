// Bands: how far the inputs' tolerances move each result, by linear propagation on a coarse copy of the model.
// Default tolerances by kind of input follow common bench practice (no source): pipe 0.5 %, turns 1 %, lengths 1
// mm, toploads 1 %, capacitors 5 %. Inputs count as independent.
#pragma once

#include "design/analysis.h"

#include <string>

namespace arc {

/// Fills `analysis.band` and `analysis.influences` for the main results. Needs analysis.resonator.
void propagate_tolerances(const Design& design, Analysis& analysis);

/// Empty when the bodies of the coil can stand where they are; otherwise a sentence that names the two that touch,
/// cross or leave the room, and what would be right.
std::string geometry_problem(const Design& design, UnitSystem units);

} // namespace arc
