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
};

/// Prints values inside findings in the builder's units.
using FindingRule = std::optional<Finding> (*)(const Design&, const Analysis&, UnitSystem);

/// One finding for each number out of its range, with the nearest value as its remedy.
std::vector<Finding> range_findings(const std::vector<struct RangeProblem>& problems, UnitSystem units);

/// All rules on a coil of this kind at rest.
std::vector<FindingRule> finding_rules(const struct CoilKind& kind);

/// Runs all rules, worst first; texts in the given unit system.
std::vector<Finding> find_all(const Design& design, const Analysis& analysis, UnitSystem units);

/// What the rules say of a changed design, power path and all where the findings are of that. Called from several
/// threads.
using Judge = std::function<std::vector<Finding>(const Design&)>;

/// Tries every remedy on a copy of the design. It stays only if the copy can be kept in a file, its finding is gone
/// or eased, and no stop has come that was not there; if it stays only with the clip moved along, it moves the clip
/// too and says so. A remedy that does not help can no longer be pressed and says that it was tried.
void keep_tried_remedies(const Design& design, std::vector<Finding>& findings, const Judge& judge,
                         class Kept& kept);

/// Whether `after` is less of a finding than `before`: gone, less severe, or nearer to its limit.
bool eased(const Finding& before, const std::vector<Finding>& after);

/// Those of one severity keep their order.
void sort_worst_first(std::vector<Finding>& findings);

std::string_view severity_name(Severity severity);

} // namespace arc
