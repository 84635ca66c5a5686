// All findings on a coil at rest, and the trial of what they offer. The tables of rules: each file holds its own.
#pragma once

#include "coil/analysis.h"

#include <functional>
#include <span>
#include <string_view>
#include <vector>

namespace arc {

/// One finding for each number out of its range, with the nearest value as its remedy.
std::vector<Finding> range_findings(const struct CoilKind& kind, const std::vector<struct RangeProblem>& problems,
                                    UnitSystem units);

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

/// As in results for scripts: "stop", "warning", "note".
std::string_view severity_name(Severity severity);

/// Rules that every kind asks: on winding and topload, on the primary.
std::span<const FindingRule> winding_rules();
std::span<const FindingRule> primary_rules();

/// The tank's fullest unit beyond its volts, a stop without text and remedy: what sets the volts is the craft's.
/// `which` follows the share: "at the limit". Empty within them, and where nothing rings with the tank.
std::optional<Finding> tank_beyond_rating(const Analysis& analysis, std::string_view which);

/// By how much the tank may be off its target, relative, before a word and before a stop.
struct TuneLimits {
  double warn, stop;
};
/// The tank against what the kind tunes it to, with the clip that does it.
std::optional<Finding> tank_off_tune(const Design& design, const Analysis& analysis, const TuneLimits& limits,
                                     UnitSystem units);
/// Where no clip does it.
std::optional<Finding> tank_cannot_tune(const Design& design, const Analysis& analysis, const TuneLimits& limits,
                                        UnitSystem units);

/// The one rule that speaks when nothing could be computed.
std::optional<Finding> geometry_impossible(const Design& design, const Analysis& analysis, UnitSystem units);

/// What is not given yet: one note for each group that the kind needs, with what waits for it.
std::vector<Finding> not_given(const Design& design, const Analysis& analysis);

} // namespace arc
