// The tables of rules; each file holds its own.
#pragma once

#include "coil/finding.h"

namespace arc {

std::span<const FindingRule> winding_rules();
std::span<const FindingRule> primary_rules();

/// The one rule that speaks when nothing could be computed.
std::optional<Finding> geometry_impossible(const Design& design, const Analysis& analysis, UnitSystem units);

/// What is not given yet: one note for each group that the kind needs, with what waits for it.
std::vector<Finding> not_given(const Design& design, const Analysis& analysis);

} // namespace arc
