// What the rules on the feed and those on tank and gap have in common; each file holds its own table of rules.
#pragma once

#include "craft/variation.h"
#include "crafts/spark_gap/spark_gap.h"

namespace arc {

std::span<const PowerRule> feed_rules();
std::span<const PowerRule> tank_rules();

/// Whether the feed works at all.
inline bool charges(const SparkGapPower& p) {
  return p.charging_problem.empty();
}

inline constexpr double low_power_factor = 0.6; // below it a transformer coil is worth correcting (common practice)

/// Whether the line's amperes are far above what the power needs, and nothing corrects them yet.
bool power_factor_is_low(const Design& design, const SparkGapPower& power);
/// Puts a power-factor capacitor of this size right before the source.
void add_correction(Design& design, double farad);

/// Whether a static gap on alternating current misses some of the mains cycles.
bool skips_cycles(const Design& design, const SparkGapPower& power);

/// The gap set to fire at so many volts, its spacing with it where that is given.
void set_firing_voltage(Design& design, double volts);

/// Gap, safety gaps and ratings of the line set to what a feed that was just put reaches.
void suit_gap_to_feed(Design& design);
bool vary_spark_gap(Design& design, CraftGenes genes, const VaryParts& parts);

/// Right behind the source; an older one there is set anew.
void insert_safety_gap(Design& design, double firing_v);

} // namespace arc
