// The spark-gap coil: a tank charged from the feed fires through a gap into the primary.
#pragma once

#include "design/power.h"
#include "workshop/checklist.h"

#include <span>

namespace arc {

/// Tank, expectations, target, clip in tune and stand-off; what needs a primary or a tank stays empty without.
void analyse_spark_gap(const Design& design, const class TappedPrimary* primary, Analysis& out);
std::span<const FindingRule> spark_gap_rules();
/// Charging, shot, stresses, and with `advice` the quench cases, bands and single changes.
PowerAnalysis simulate_spark_gap(const Design& design, const Analysis& analysis, const PowerOptions& options,
                                 UnitSystem units, const std::atomic<bool>& cancelled,
                                 const std::function<void(double)>& progress = {});
std::vector<CheckItem> spark_gap_checks(const Design& design, const Analysis& analysis, UnitSystem units);
std::vector<std::string> spark_gap_steps_after(const Design& design, const Analysis& analysis, UnitSystem units);
std::span<const struct FaultSymptom> spark_gap_symptoms();

} // namespace arc
