// The tables of rules; each file holds its own.
#pragma once

#include "design/finding.h"

namespace arc {

std::span<const FindingRule> winding_rules();
std::span<const FindingRule> primary_rules();
std::span<const FindingRule> tuning_rules();

/// The one rule that speaks when nothing could be computed.
std::optional<Finding> geometry_impossible(const Design& design, const Analysis& analysis, UnitSystem units);

} // namespace arc
