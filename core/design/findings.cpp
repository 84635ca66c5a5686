// All findings on the coil at rest. Each rule is one small function: it looks at the design and its analysis and
// either has nothing to say or returns one finding with value, limit, reason and remedy. To add one, write it
// beside its like, in winding_findings.cpp, primary_findings.cpp or tuning_findings.cpp, and put it into the table
// there.
#include "design/finding_rules.h"

#include <algorithm>

namespace arc {

std::span<const FindingRule> finding_rules() {
  static const std::vector<FindingRule> all = [] {
    std::vector<FindingRule> out;
    for (const auto rules : {winding_rules(), primary_rules(), tuning_rules()})
      out.insert(out.end(), rules.begin(), rules.end());
    return out;
  }();
  return all;
}

std::vector<Finding> find_all(const Design& design, const Analysis& analysis, UnitSystem units) {
  std::vector<Finding> out;
  for (const FindingRule rule : finding_rules())
    if (auto finding = rule(design, analysis, units)) out.push_back(std::move(*finding));
  sort_worst_first(out);
  return out;
}

void sort_worst_first(std::vector<Finding>& findings) {
  std::ranges::stable_sort(findings, {}, [](const Finding& f) { return static_cast<int>(f.severity); });
}

std::string_view severity_name(Severity severity) {
  return severity == Severity::stop ? "stop" : severity == Severity::warning ? "warning" : "note";
}

} // namespace arc
