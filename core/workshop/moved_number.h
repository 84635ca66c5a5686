// One number of a design, moved, and the design computed with it: what solving for a figure and curves over a
// number share.
#pragma once

#include "model/design.h"
#include "simulation/figures.h"

#include <atomic>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct NumberPlace {
  std::string path;  // "topload[0].outer_diameter_m"
  std::string title; // "Topload 1: outer diameter"
  Dimension dimension;
  double minimum, maximum, value; // SI
  bool whole = false;             // it takes whole numbers only
};

/// The numbers that count for the design's kind and can be moved, in file order: none of measurements, of
/// tolerances, of the site, of kept toploads or of what a builder's instrument said.
std::vector<NumberPlace> movable_numbers(const Design& design);
/// `topload.0.outer_diameter_m` is read like `topload[0].outer_diameter_m`. Throws std::invalid_argument where the
/// design has no such number.
NumberPlace number_at(const Design& design, std::string_view path);
/// The tank's capacitance follows its units.
Design with_number(Design design, const NumberPlace& place, double value);

/// A figure by its key among the results at rest ("best_mode_1_hz"), or of a simulation with its group
/// ("burst.top_peak_v"). Throws std::invalid_argument for one that the design's kind has not.
const Figure& figure_named(const Design& design, std::string_view name);
/// As figure_named() takes it.
std::string name_of(const Figure& figure);

/// A design with its analysis, and with its simulation where that was asked for.
struct ComputedDesign {
  Design design;
  Analysis analysis;
  PowerAnalysis power;
  PowerView view() const { return {design, analysis, power}; }
};

enum class Computing { rest, simulation };
/// Without trials and remedies. What cannot be simulated throws as analyse_power() does.
ComputedDesign compute(Design design, Computing how, const std::atomic<bool>& cancelled,
                       UnitSystem units = UnitSystem::metric);

} // namespace arc
