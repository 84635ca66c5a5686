// The first-fault walk: where practitioners look, in their order, when a coil does not do what it should. Each kind
// of coil has its symptoms; each symptom is a row of questions with this coil's own numbers. Common practice of
// coil builders (no source); a walk never calls anything safe.
#pragma once

#include "simulation/advice.h"

#include <functional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

enum class FaultAnswer { yes, no, cannot_tell };

/// Where a walk stands: answers so far, one for each step from the first.
struct FaultWalk {
  std::string symptom; // title
  std::vector<FaultStep> steps;
  std::vector<FaultAnswer> answers;

  /// The step that its answer showed to be the fault; null while none did.
  const FaultStep* fault() const;
  /// The step to be answered; null when the walk has ended.
  const FaultStep* now() const;
  /// Steps that could not be told: what to measure next when nothing was found.
  std::vector<const FaultStep*> open() const;
  void answer(FaultAnswer answer);
  void back();
  /// The walk in words, for the record: questions, answers, and how it ended.
  std::string words() const;
};

} // namespace arc
