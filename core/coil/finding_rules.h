// The tables of rules; each file holds its own.
#pragma once

#include "coil/finding.h"

namespace arc {

std::span<const FindingRule> winding_rules();
std::span<const FindingRule> primary_rules();

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
