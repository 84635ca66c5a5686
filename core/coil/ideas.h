// Single changes that simulations try, as kinds share them.
#pragma once

#include "coil/analysis.h"
#include "coil/power.h"
#include "coil/validity.h"
#include "model/design.h"
#include "quantity/parallel.h"
#include "quantity/quantity.h"

#include <algorithm>
#include <functional>
#include <optional>
#include <stdexcept>
#include <string>
#include <utility>
#include <vector>

namespace arc {

struct Idea {
  std::string title;
  std::function<void(Design&)> apply;
};

/// A turn more or fewer (where `turns` is asked), and the primary a centimetre up or down. None where the primary
/// is given as measured: geometry says nothing then.
std::vector<Idea> primary_ideas(const Design& design, bool turns, UnitSystem units);

/// Each idea on a copy of the design, on all processors, as `judge` makes a change of it: a function of the idea,
/// the changed design and its analysis. What no edit could make, and what makes the coil impossible
/// (std::invalid_argument), is no advice. In the order of the ideas.
template <typename Change, typename JudgeIdea>
std::vector<Change> tried_ideas(const Design& design, const std::vector<Idea>& ideas, UnitSystem units,
                                const Work& work, JudgeIdea judge) {
  std::vector<std::optional<Change>> tried(ideas.size());
  parallel_for(ideas.size(), [&](std::size_t i) {
    Design changed = design;
    ideas[i].apply(changed);
    if (work.cancelled || !edit_problem(design, changed, units).empty()) return;
    try {
      tried[i] = judge(ideas[i], changed, analyse_untried(changed, units, false, work.kept));
    } catch (const std::invalid_argument&) {
    }
  });
  std::vector<Change> out;
  for (std::optional<Change>& change : tried)
    if (change) out.push_back(std::move(*change));
  return out;
}

/// By how much a change must better what it is ranked by to be offered.
inline constexpr double least_gain = 1.001;

/// Only what helps is offered, and no harm: what betters `merit` is tried on the whole path, with all rules. One
/// that brings a stop which was not there carries the stop's words and goes to the end; what does not better it
/// stays in the list, not offered.
template <typename Change>
void weigh_changes(const Design& design, const Analysis& analysis, const std::vector<Finding>& power_findings,
                   const PowerOptions& options, UnitSystem units, const Work& work, double Change::*merit,
                   std::vector<Change>& changes) {
  const Judge judge = whole_judge(options, units, work);
  const auto stands = [&](const Finding& f) {
    const auto same = [&](const Finding& now) { return now.severity == Severity::stop && now.id == f.id; };
    return std::ranges::any_of(analysis.findings, same) || std::ranges::any_of(power_findings, same);
  };
  parallel_for(changes.size(), [&](std::size_t i) {
    Change& change = changes[i];
    if (!(change.*merit >= least_gain) || work.cancelled) return;
    Design changed = design;
    change.apply(changed);
    const std::vector<Finding> then = judge(changed);
    const auto stop =
        std::ranges::find_if(then, [&](const Finding& f) { return f.severity == Severity::stop && !stands(f); });
    if (stop != then.end()) change.stop = stop->title;
    change.offered = stop == then.end();
  });
  std::stable_partition(changes.begin(), changes.end(), [](const Change& c) { return c.stop.empty(); });
}

} // namespace arc
