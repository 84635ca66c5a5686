// All findings on the power path. To add one, write its function beside its like, in feed_findings.cpp or
// tank_findings.cpp, and put it into the table there.
#include "analysis/findings.h"
#include "crafts/spark_gap/power_rules.h"

namespace arc {

std::span<const PowerRule> power_rules() {
  static const std::vector<PowerRule> all = [] {
    std::vector<PowerRule> out(tank_rules().begin(), tank_rules().end());
    out.insert(out.end(), feed_rules().begin(), feed_rules().end());
    return out;
  }();
  return all;
}

std::vector<Finding> SparkGapPower::findings(const Design& design, const Analysis& analysis,
                                             UnitSystem units) const {
  std::vector<Finding> out;
  if (!analysis.computed) return out;
  for (const PowerRule rule : power_rules())
    if (auto finding = rule(design, analysis, *this, units)) out.push_back(std::move(*finding));
  return out;
}

} // namespace arc
