// All findings on the power path. To add one, write its function beside its like, in feed_findings.cpp or
// tank_findings.cpp, and put it into the table there.
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

std::vector<Finding> find_in_power(const Design& design, const Analysis& analysis, const SparkGapPower& power,
                                   UnitSystem units) {
  std::vector<Finding> out;
  for (const PowerRule rule : power_rules())
    if (auto finding = rule(design, analysis, power, units)) out.push_back(std::move(*finding));
  sort_worst_first(out);
  return out;
}

} // namespace arc
