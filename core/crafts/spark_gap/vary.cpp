// A spark gap's tank by its transformer: larger than what resonates with it (common practice, no source), a gap
// that fires below the transformer's peak.
#include "circuit/feed_arrangements.h"
#include "crafts/spark_gap/power_rules.h"

#include <cmath>
#include <numbers>

namespace arc {

bool vary_spark_gap(Design& design, CraftGenes genes, const VaryParts& parts) {
  if (parts.sources.empty() || parts.units.empty()) return false;
  const SourcePart& source = picked(parts.sources, genes[0]);
  const double peak_v = std::numbers::sqrt2 * source.output_v;
  design.gap.firing_voltage_v = round_significant(between(genes[1], 0.7, 0.98) * peak_v, 2);
  design.gap.gaps_in_series = std::round(between(genes[4], 2, 8));
  const double mains = 2 * std::numbers::pi * design.site.mains_frequency_hz;
  const double resonant_f = source.short_circuit_a / (mains * source.output_v);
  const double farad = resonant_f * log_between(genes[3], 0.6, 2.5);
  if (!fill_bank(design.tank, picked(parts.units, genes[2]), design.gap.firing_voltage_v, farad)) return false;
  design.feed = feed_arrangement("sign").blocks(design);
  for (FeedBlock& block : design.feed.own()) {
    if (block.kind != "transformer") continue;
    block.values["rated_mains_v"] = source.rated_mains_v;
    block.values["output_v"] = source.output_v;
    block.values["short_circuit_a"] = source.short_circuit_a;
    block.values["resistance_ohm"] =
        source.resistance_ohm.value_or(round_significant(0.02 * source.output_v / source.short_circuit_a, 2));
  }
  constexpr double usual_breaks_hz = 250; // until its feed is simulated
  design.gap.break_rate_hz = usual_breaks_hz;
  size_for_line(design.feed, source.output_v * source.short_circuit_a / design.site.mains_voltage_v);
  return true;
}

} // namespace arc
