// What the rules on the feed and those on tank and gap have in common; each file holds its own table of rules.
#pragma once

#include "design/power.h"

namespace arc {

std::span<const PowerRule> feed_rules();
std::span<const PowerRule> tank_rules();

/// Whether the feed works at all.
inline bool charges(const PowerAnalysis& p) {
  return p.charging_problem.empty();
}

/// Right behind the source; an older one there is set anew.
void insert_safety_gap(Design& design, double firing_v);

} // namespace arc
