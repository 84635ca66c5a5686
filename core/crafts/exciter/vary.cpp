// Supply, bias and primary of an exciter.
#include "crafts/exciter/exciter.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace arc {

bool vary_exciter(Design& design, CraftGenes genes, const VaryParts&) {
  constexpr std::array supplies{5.0, 6.0, 9.0, 12.0, 15.0}, biases{15e3, 22e3, 27e3, 33e3, 47e3};
  const auto of = [](const auto& values, double gene) {
    return values[std::min(values.size() - 1, static_cast<std::size_t>(gene * static_cast<double>(values.size())))];
  };
  design.exciter.supply_voltage_v = of(supplies, genes[0]);
  design.exciter.bias_resistance_ohm = of(biases, genes[1]);
  design.primary.turns = std::round(between(genes[2], 3, 8));
  design.primary.tap_turns = design.primary.turns;
  return true;
}

} // namespace arc
