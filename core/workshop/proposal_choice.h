// Which of the good designs are proposed, and why.
#pragma once

#include "workshop/proposal_candidate.h"

#include <string>
#include <utility>
#include <vector>

namespace arc {

/// What sets a design apart from the others.
struct Character {
  const char* name;
  double (*worth)(const CoilCandidate&); // the largest has it
  const char* because;
};

/// The first, then those of other character that differ by a tenth in some figure from all before; null: the aim's.
std::vector<std::pair<const CoilCandidate*, const Character*>> chosen(const std::vector<CoilCandidate*>& good,
                                                                      int count);

/// "Of 137 designs that keep the brief, no other ...": one sentence with its figures. `of`: how many there are.
std::string why_proposed(const CoilCandidate& c, const Character* character, const std::string& aim,
                         std::size_t of);

} // namespace arc
