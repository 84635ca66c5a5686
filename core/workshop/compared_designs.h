// Two designs side by side: what was entered and what is computed of both, what differs first.
#pragma once

#include "simulation/figures.h"

#include <string>
#include <vector>

namespace arc {

struct ComparedRow {
  std::string title;
  std::string first, second; // in the builder's units; a dash where there is none
  bool computed = false;     // a figure; else a number, a choice or a part that is entered
  bool differs = false;      // relative 1e-6
  double apart = 0;          // share by which it differs, of the larger one; 1 for words
};

/// Numbers, choices, path from the wall and topload, as far as one of the two kinds has them, in file order.
std::vector<ComparedRow> compare_inputs(const Design& first, const Design& second, UnitSystem units);

/// Figures that both kinds of coil have: those at rest, and of two designs of one kind those of the simulation.
std::vector<ComparedRow> compare_figures(const PowerView& first, const PowerView& second, UnitSystem units);

/// What differs first: what was entered before what follows from it, the most different before the others.
void differences_first(std::vector<ComparedRow>& rows);

} // namespace arc
