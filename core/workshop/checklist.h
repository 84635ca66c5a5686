// What to check before power and what to do after, with this coil's own numbers. Common practice of coil builders
// (no source); defers to local codes and licensed practice.
#pragma once

#include "simulation/advice.h"

#include <string>
#include <vector>

namespace arc {

/// Every item must be ticked before the window arms. `power`: of this design, or null while it is not there.
std::vector<CheckItem> checks_before_power(const Design& design, const Analysis& analysis,
                                           const PowerAnalysis* power, UnitSystem units);

/// Steps after the run, in order.
std::vector<std::string> steps_after_power(const Design& design, const Analysis& analysis,
                                           const PowerAnalysis* power, UnitSystem units);

} // namespace arc
