// The tables of rules; each file holds its own.
#pragma once

#include "design/finding.h"

namespace arc {

std::span<const FindingRule> winding_rules();
std::span<const FindingRule> primary_rules();
std::span<const FindingRule> tuning_rules();

} // namespace arc
