// Single changes that simulations try, as kinds share them.
#pragma once

#include "analysis/analyse.h"
#include "analysis/findings.h"
#include "coil/analysis.h"
#include "file/validity.h"
#include "model/design.h"
#include "quantity/parallel.h"
#include "quantity/quantity.h"
#include "simulation/changes.h"
#include "simulation/power.h"

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

/// Each idea on a copy of the design, on all processors, as `judge` makes a change of it, without title and apply:
/// a function of the idea, the changed design and its analysis. What no edit could make, and what makes the coil
/// impossible (std::invalid_argument), is no advice. Best first.
template <typename JudgeIdea>
std::vector<TriedChange> tried_ideas(const Design& design, const std::vector<Idea>& ideas, UnitSystem units,
                                     const Work& work, JudgeIdea judge) {
  std::vector<std::optional<TriedChange>> tried(ideas.size());
  parallel_for(ideas.size(), [&](std::size_t i) {
    Design changed = design;
    ideas[i].apply(changed);
    if (work.cancelled || !edit_problem(design, changed, units).empty()) return;
    try {
      tried[i] = judge(ideas[i], changed, analyse_untried(changed, units, false, work.kept));
      tried[i]->title = ideas[i].title;
      tried[i]->apply = ideas[i].apply;
    } catch (const std::invalid_argument&) {
    }
  });
  std::vector<TriedChange> out;
  for (std::optional<TriedChange>& change : tried)
    if (change) out.push_back(std::move(*change));
  rank_changes(out);
  return out;
}

/// Only what helps is offered, and no harm: what betters its merit is tried on the whole path, with all rules. One
/// that brings a stop which was not there carries the stop's words and goes to the end; what does not better it
/// stays in the list, not offered.
void weigh_changes(const Design& design, const Analysis& analysis, const std::vector<Finding>& power_findings,
                   const PowerOptions& options, UnitSystem units, const Work& work,
                   std::vector<TriedChange>& changes);

} // namespace arc
