// What a kind of coil advises at the bench: what to tick before power, and where to look when it does not do what
// it should. Texts carry the coil's own numbers.
#pragma once

#include "simulation/power.h"

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct CheckItem {
  std::string key;  // stable, for tests and object names
  std::string text; // one sentence to tick
};

struct FaultStep {
  std::string question;                    // "Does the gap break at 12.5 kV …?"
  std::string how;                         // what to read, and where
  bool fault_if = false;                   // the answer that shows the fault: true is yes
  std::string cure;                        // what to do then
  std::function<void(Design&)> apply = {}; // does it in the design; empty when only hands can
  std::string stage = {}, field = {};      // where it stands in the window; may be empty
  bool live = false; // needs power: everybody at the distance of the checks, one at the switch
};

/// What stands over a live step: in the stop colour.
std::string live_words(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                       UnitSystem units);

/// Steps may use the power path of the present design; it is null while that is being computed.
struct FaultSymptom {
  std::string_view key;
  std::string_view title; // "Does not fire"
  std::vector<FaultStep> (*steps)(const Design&, const Analysis&, const PowerAnalysis*, UnitSystem);
};

/// The steps of a symptom, those whose questions begin with one of `live` marked as needing power.
template <auto Steps, const auto& live>
std::vector<FaultStep> with_live(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                 UnitSystem units) {
  std::vector<FaultStep> out = Steps(design, analysis, power, units);
  for (FaultStep& step : out)
    for (const std::string_view start : live) step.live = step.live || step.question.starts_with(start);
  return out;
}

} // namespace arc
