// Which simulation a design's kind takes, and all findings together.
#include "design/power.h"

#include "kinds/kind.h"

#include <algorithm>
#include <fmt/format.h>

namespace arc {

PowerAnalysis analyse_power(const Design& design, const Analysis& analysis, const PowerOptions& options,
                            UnitSystem units, const std::atomic<bool>& cancelled,
                            const std::function<void(double)>& progress) {
  return kind_of(design).simulate(design, analysis, options, units, cancelled, progress);
}

std::vector<Finding> all_findings(const Analysis& analysis, const PowerAnalysis* power, bool same_design) {
  std::vector<Finding> out = analysis.findings;
  if (power) {
    for (Finding& f : out)
      if (same_design && f.apply && std::ranges::count(power->unwise_remedies, f.id) > 0) {
        f.apply = nullptr;
        f.remedy = fmt::format("Tried alone, this does not help here: {}", f.remedy);
      }
    out.insert(out.end(), power->findings.begin(), power->findings.end());
  }
  sort_worst_first(out);
  return out;
}

} // namespace arc
