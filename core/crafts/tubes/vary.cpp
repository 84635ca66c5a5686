// Tank, feedback and grid leak of a tube oscillator, and how often it is fired; the plate coil of a flame.
#include "crafts/tubes/tube.h"

#include <cmath>
#include <vector>

namespace arc {
namespace {

constexpr double plate_transformer_a = 0.6; // of its short circuit (common practice, no source)

} // namespace

bool vary_tube(Design& design, CraftGenes genes, const VaryParts& parts) {
  if (parts.units.empty()) return false;
  static const std::vector<double> leaks_ohm{1000, 1500, 2200, 3300}; // E6
  design.tube.in_parallel = genes[0] > 0.6 ? 2 : 1;
  design.tube.grid_leak_ohm = picked(leaks_ohm, genes[1]);
  design.feedback.turns = std::round(between(genes[2], 8, 20));
  design.feedback.radius_m = design.primary.inner_radius_m;
  design.feedback.pitch_m = design.primary.pitch_m;
  design.interrupter.every_cycle = std::round(between(genes[3], 1, 5));
  replace_ovens(design, plate_transformer_a);
  constexpr double plate_peak_v = 9000;
  return fill_bank(design.tank, picked(parts.units, genes[5]), plate_peak_v, log_between(genes[4], 0.8e-9, 4e-9));
}

bool vary_flame(Design& design, CraftGenes genes, const VaryParts&) {
  design.primary.turns = std::round(between(genes[0], 6, 10));
  design.primary.tap_turns = design.primary.turns;
  design.flame.feedback_f = round_significant(log_between(genes[1], 0.3e-12, 0.9e-12), 2);
  design.secondary.turns = std::round(between(genes[2], 28, 40));
  replace_ovens(design, plate_transformer_a);
  return true;
}

} // namespace arc
