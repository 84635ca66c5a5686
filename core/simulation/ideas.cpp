// Changes of a primary.
#include "simulation/ideas.h"

#include <algorithm>
#include <fmt/format.h>

namespace arc {

std::vector<Idea> primary_ideas(const Design& d, bool turns, UnitSystem units) {
  std::vector<Idea> out;
  if (d.equivalent.primary_inductance_h || d.equivalent.coupling) return out;
  if (turns)
    for (const double more : {-1.0, 1.0})
      if (d.primary.turns + more >= 1)
        out.push_back({more > 0 ? "One primary turn more" : "One primary turn fewer",
                       [more](Design& x) { x.primary.turns += more; }});
  constexpr double lift = 0.01;
  for (const double rise : {-lift, lift})
    if (d.primary.base_height_m + rise > 0)
      out.push_back({fmt::format("{} the primary {}", rise > 0 ? "Raise" : "Lower",
                                 format_quantity(lift, Dimension::length, units, 2)),
                     [rise](Design& x) { x.primary.base_height_m += rise; }});
  return out;
}

void weigh_changes(const Design& design, const Analysis& analysis, const std::vector<Finding>& power_findings,
                   const PowerOptions& options, UnitSystem units, const Work& work,
                   std::vector<TriedChange>& changes) {
  const Judge judge = whole_judge(options, units, work);
  const auto stands = [&](const Finding& f) {
    const auto same = [&](const Finding& now) { return now.severity == Severity::stop && now.id == f.id; };
    return std::ranges::any_of(analysis.findings, same) || std::ranges::any_of(power_findings, same);
  };
  parallel_for(changes.size(), [&](std::size_t i) {
    TriedChange& change = changes[i];
    if (!(change.merit >= least_gain) || work.cancelled) return;
    Design changed = design;
    change.apply(changed);
    const std::vector<Finding> then = judge(changed);
    const auto stop =
        std::ranges::find_if(then, [&](const Finding& f) { return f.severity == Severity::stop && !stands(f); });
    if (stop != then.end()) change.stop = stop->title;
    change.offered = stop == then.end();
  });
  std::stable_partition(changes.begin(), changes.end(), [](const TriedChange& c) { return c.stop.empty(); });
}

} // namespace arc
