#include "simulation/changes.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace arc {

double TriedChange::ratio(std::string_view key) const {
  const auto it = std::ranges::find(ratios, key, &Ratio::key);
  return it == ratios.end() ? 0 : it->value;
}

std::string TriedChange::gain_text() const {
  if (!instead.empty()) return instead;
  const double gain = 100 * (merit - 1);
  return fmt::format("{}{:.1f} %", gain >= 0 ? "+" : "−", std::abs(gain));
}

std::string TriedChange::ratios_text() const {
  if (!instead.empty()) return more;
  std::string out;
  for (const Ratio& r : ratios)
    if (!r.words.empty()) out += fmt::format("{}{} {:.0f} %", out.empty() ? "" : ", ", r.words, 100 * r.value);
  return out.empty() ? out : out + " of now" + more;
}

void rank_changes(std::vector<TriedChange>& changes) {
  std::ranges::stable_sort(changes, std::greater{}, &TriedChange::merit);
}

} // namespace arc
