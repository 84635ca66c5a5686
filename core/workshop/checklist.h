// What to check before power and what to do after, with this coil's own numbers. Common practice of coil builders
// (no source); defers to local codes and licensed practice.
#pragma once

#include "design/analysis.h"

#include <string>
#include <vector>

namespace arc {

struct CheckItem {
  std::string key;  // stable, for tests and object names
  std::string text; // one sentence to tick
};

/// Every item must be ticked before the window arms.
std::vector<CheckItem> checks_before_power(const Design& design, const Analysis& analysis, UnitSystem units);

/// Steps after the run, in order.
std::vector<std::string> steps_after_power(const Design& design, const Analysis& analysis, UnitSystem units);

} // namespace arc
