// Findings that the builder has read and put away: warnings and notes, never stops.
#pragma once

#include "craft/finding.h"

#include <string>
#include <vector>

namespace arc {

/// By how much the value of a dismissed finding may move, relative, before it is back.
inline constexpr double dismissed_holds_within = 0.01;

/// Writes into each finding the reason for which it is dismissed; empty where it is open: it is a stop, nobody has
/// dismissed it, or its value has moved since.
void mark_dismissed(std::vector<Finding>& findings, const Design& design);

/// Whether it can be dismissed at all.
inline bool dismissible(const Finding& finding) {
  return finding.severity != Severity::stop;
}

/// Puts a finding away, in place of an earlier dismissal of the same. `when`: local time, ISO 8601. Nothing happens
/// to a stop.
void dismiss(Design& design, const Finding& finding, const std::string& reason, const std::string& when);

/// It is open again.
void bring_back(Design& design, const Finding& finding);

/// Those that are not dismissed.
std::vector<Finding> open_of(const std::vector<Finding>& findings);

} // namespace arc
