// Supply, bias and primary of an exciter.
#include "crafts/exciter/exciter.h"

#include <cmath>
#include <vector>

namespace arc {

bool vary_exciter(Design& design, CraftGenes genes, const VaryParts&) {
  static const std::vector<double> supplies_v{5, 6, 9, 12, 15}, biases_ohm{15e3, 22e3, 27e3, 33e3, 47e3};
  design.exciter.supply_voltage_v = picked(supplies_v, genes[0]);
  design.exciter.bias_resistance_ohm = picked(biases_ohm, genes[1]);
  design.primary.turns = std::round(between(genes[2], 3, 8));
  design.primary.tap_turns = design.primary.turns;
  return true;
}

} // namespace arc
