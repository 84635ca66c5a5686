// A design in the search for proposals: the genes that it was made of, what became of it, and its figures.
#pragma once

#include "craft/variation.h"
#include "workshop/proposals.h"

#include <array>
#include <string>
#include <vector>

namespace arc {

inline constexpr std::size_t device_genes = 7; // one for each group of devices on the shelf
/// Shares from 0 to 1: of the coil's shape, of its craft's numbers, of its devices.
inline constexpr std::size_t shape_genes = 9, all_genes = shape_genes + craft_genes + device_genes;
using Genes = std::array<double, all_genes>;

struct CoilCandidate {
  Genes genes{};
  Design design;
  CoilFigures figures;
  Misses misses;       // by which share each limit is passed
  std::string trouble; // no limit: it cannot be built or simulated, or a stop
  int stops = 0, warnings = 0;
  bool simulated = false;
  double merit = 0; // by the aim, larger is better
  std::vector<OwnedPart> owned;
  std::vector<PartToBuy> buy;

  bool good() const { return simulated && misses.empty() && trouble.empty(); }
  double distance() const {
    double sum = trouble.empty() ? 0 : 2 + stops;
    for (const auto& [key, by] : misses) sum += by;
    return simulated ? sum : sum + 10;
  }
};

/// What makes up to a third of the longest arc of the good ones among these (m).
template <typename CoilCandidates>
double enough_arc_m(const CoilCandidates& among) {
  double longest_m = 0;
  for (const CoilCandidate* c : among)
    if (c->good()) longest_m = std::max(longest_m, c->figures.arc_high_m);
  return longest_m / 3;
}

} // namespace arc
