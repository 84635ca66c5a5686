// A finding: one judgement on the design with a number, a limit, a reason and a remedy in the builder's terms.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"

#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct Analysis;

enum class Severity { stop, warning, note };

struct Finding {
  std::string id = {}; // "tank-off-tune"
  Severity severity = Severity::note;
  std::string stage = {}; // rail key: "resonator", "primary", "tank", "tune", "fire"
  std::string field = {}; // key of the field to look at, may be empty
  std::string title = {}; // one sentence with the number
  std::string text = {};  // reason and limit
  std::string remedy = {};
  double value = 0;
  double limit = 0;
  Dimension dimension = Dimension::number;
  std::function<void(Design&)> apply = {}; // carries the remedy out; empty when only hands can
  bool of_power = false;                   // of the simulated power path
  std::string dismissed = {};              // why the builder has put it away; empty: open
};

/// Prints values inside findings in the builder's units.
using FindingRule = std::optional<Finding> (*)(const Design&, const Analysis&, UnitSystem);

} // namespace arc
