// Answers and where they lead.
#include "workshop/first_fault.h"

#include <fmt/format.h>

namespace arc {

const FaultStep* FaultWalk::fault() const {
  for (std::size_t i = 0; i < answers.size(); ++i)
    if (answers[i] == (steps[i].fault_if ? FaultAnswer::yes : FaultAnswer::no)) return &steps[i];
  return nullptr;
}

const FaultStep* FaultWalk::now() const {
  return fault() || answers.size() >= steps.size() ? nullptr : &steps[answers.size()];
}

std::vector<const FaultStep*> FaultWalk::open() const {
  std::vector<const FaultStep*> out;
  for (std::size_t i = 0; i < answers.size(); ++i)
    if (answers[i] == FaultAnswer::cannot_tell) out.push_back(&steps[i]);
  return out;
}

void FaultWalk::answer(FaultAnswer answer) {
  if (now()) answers.push_back(answer);
}

void FaultWalk::back() {
  if (!answers.empty()) answers.pop_back();
}

std::string FaultWalk::words() const {
  std::string out = fmt::format("Troubleshooting: {}.", symptom);
  for (std::size_t i = 0; i < answers.size(); ++i)
    out += fmt::format("\n{} {}", steps[i].question,
                       answers[i] == FaultAnswer::yes  ? "Yes."
                       : answers[i] == FaultAnswer::no ? "No."
                                                       : "Could not tell.");
  if (const FaultStep* found = fault())
    out += fmt::format("\nFound: {}", found->cure);
  else if (!now())
    out += open().empty() ? "\nNothing of the usual was found." : "\nNothing was found; some could not be told.";
  return out;
}

} // namespace arc
