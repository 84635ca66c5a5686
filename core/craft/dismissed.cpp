// One dismissal for each id and field.
#include "craft/dismissed.h"

#include <algorithm>
#include <cmath>
#include <iterator>
#include <utility>

namespace arc {
namespace {

double kept_number(double value) {
  return std::isfinite(value) ? value : 0; // files hold no others
}

bool is_of(const Dismissed& mark, const Finding& finding) {
  return mark.id == finding.id && mark.field == finding.field;
}

bool still_holds(const Dismissed& mark, const Finding& finding) {
  const double now = kept_number(finding.value);
  return std::abs(now - mark.value) <= dismissed_holds_within * std::abs(mark.value);
}

} // namespace

void mark_dismissed(std::vector<Finding>& findings, const Design& design) {
  for (Finding& finding : findings) {
    finding.dismissed.clear();
    if (!dismissible(finding)) continue;
    for (const Dismissed& mark : design.dismissed)
      if (is_of(mark, finding) && still_holds(mark, finding))
        finding.dismissed = mark.reason.empty() ? "no reason given" : mark.reason;
  }
}

void dismiss(Design& design, const Finding& finding, const std::string& reason, const std::string& when) {
  if (!dismissible(finding)) return;
  bring_back(design, finding);
  design.dismissed.push_back({.id = finding.id,
                              .field = finding.field,
                              .value = kept_number(finding.value),
                              .limit = kept_number(finding.limit),
                              .reason = reason,
                              .when = when,
                              .unknown = {}});
}

void bring_back(Design& design, const Finding& finding) {
  if (std::ranges::any_of(std::as_const(design.dismissed),
                          [&](const Dismissed& mark) { return is_of(mark, finding); }))
    std::erase_if(design.dismissed.own(), [&](const Dismissed& mark) { return is_of(mark, finding); });
}

std::vector<Finding> open_of(const std::vector<Finding>& findings) {
  std::vector<Finding> out;
  std::ranges::copy_if(findings, std::back_inserter(out), [](const Finding& f) { return f.dismissed.empty(); });
  return out;
}

} // namespace arc
