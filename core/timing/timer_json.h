// Timer circuits for an interrupter's range, for scripts.
#pragma once

#include "model/design.h"
#include "quantity/json_text.h"
#include "timing/interrupter.h"

namespace arc {

/// Each circuit with its parts, connections and ranges, or why it cannot be made. From the shortest and slowest
/// that make sense for the plan up to the interrupter's limits.
Json timers_json(const Interrupter& interrupter, const PulsePlan& plan);

} // namespace arc
