// The check that comes before any field is solved: can the bodies of the coil stand where they are?
#pragma once

#include "field/rings.h"
#include "model/design.h"
#include "quantity/quantity.h"

#include <string>
#include <vector>

namespace arc {

/// Empty when the bodies of the coil can stand where they are; otherwise a sentence that names the two that touch,
/// cross or leave the room, and what would be right. Topload parts that cross one another are joined metal: they
/// are allowed here, and a finding names them.
std::string geometry_problem(const Design& design, UnitSystem units);

/// The part of it without which not even inductances can be computed: conductors thicker than their own turns.
std::string conductor_problem(const Design& design, UnitSystem units = UnitSystem::metric);

/// Rings of the feedback winding where it stands: `gap_m` below the plate coil's lowest turn or above its highest.
std::vector<Ring> feedback_rings(const FeedbackWinding& winding, const Primary& primary);

} // namespace arc
