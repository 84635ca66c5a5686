// One figure by one number: "make the resonance 200 kHz by the topload's diameter". The number is moved through its
// range, the design analysed (and simulated, where the figure asks for it), and the nearest place found where the
// figure has the wanted value.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"

#include <atomic>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace arc {

/// Another figure that the change moves.
struct AlsoChanged {
  std::string key;
  double before = 0, after = 0; // SI
};

struct Solved {
  std::string field;        // path of the number, "topload[0].outer_diameter_m"
  double value = 0;         // that it takes; where the figure comes nearest when it is out of reach
  double reached = 0;       // the figure there
  double low = 0, high = 0; // what the figure can reach by this number
  bool possible = false;
  std::vector<std::pair<double, double>> tried; // places of the number, rising, and the figure there
  std::vector<AlsoChanged> also;                // the most moved first
  Design design;                                // with the number
};

/// What a figure is called by: its key among the results at rest ("best_mode_1_hz"), or of a simulation with its
/// group
/// ("burst.top_peak_v", "charging.line_current_a"). Throws std::invalid_argument for one that the design's kind has
/// not.
Dimension dimension_of_figure(const Design& design, std::string_view result);

/// A figure with evidence ("best_mode_1_hz") is the computed one where nothing was measured.
/// Throws std::invalid_argument for a figure or a number that the design has not, and where the figure has no
/// value. Whole numbers stay whole: the nearest is taken, within half a step of what was wanted. A wanted value is
/// reached within 1e-6. The number is moved within its range and between a fifth and five times what it is.
Solved solve(const Design& design, std::string_view result, double wanted, std::string_view field,
             const std::atomic<bool>& cancelled);

} // namespace arc
