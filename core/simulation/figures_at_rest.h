// Figures of the coil at rest, in two halves; internal to simulation/.
#pragma once

#include "simulation/figures.h"

#include <fmt/format.h>

namespace arc {

inline std::string print_at_rest(double si, Dimension dimension, UnitSystem units, int digits = 4) {
  return format_quantity(si, dimension, units, digits);
}

/// "Turns 1480"
inline std::string input(std::string_view label, double si, Dimension dimension, UnitSystem units, int digits = 4) {
  return fmt::format("{} {}", label, print_at_rest(si, dimension, units, digits));
}

/// What follows winding and primary in the list: the tank, what arcs do, breakout, loss and wire.
std::span<const Figure> tank_and_wire_figures();

} // namespace arc
