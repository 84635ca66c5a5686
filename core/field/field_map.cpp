// Grid of potentials; inside of a conductor the potential is its own, so that the map stays smooth there.
#include "field/field_map.h"

#include <algorithm>
#include <cmath>

namespace arc {

FieldMap field_map(const ResonatorResult& resonator, double width_m, double height_m, int columns, int rows,
                   const std::atomic<bool>& cancelled) {
  FieldMap map{columns, rows, width_m, height_m, {}, {}};
  map.potential.resize(static_cast<std::size_t>(columns * rows));
  map.field.resize(map.potential.size());
  const auto at = [&](int column, int row) { return static_cast<std::size_t>(row * columns + column); };
  const double dr = width_m / (columns - 1);
  const double dz = height_m / (rows - 1);
  for (int row = 1; row < rows; ++row) {
    if (cancelled) return {};
    for (int column = 0; column < columns; ++column) {
      double sum = 0;
      for (const ChargedPiece& charged : resonator.charges)
        sum += charged.charge_c *
               piece_potential_v(charged.piece, std::max(column * dr, 1e-6), row * dz, Ground::floor);
      map.potential[at(column, row)] = static_cast<float>(sum);
    }
  }
  for (int row = 0; row < rows; ++row)
    for (int column = 0; column < columns; ++column) {
      const int left = std::max(0, column - 1), right = std::min(columns - 1, column + 1);
      const int low = std::max(0, row - 1), high = std::min(rows - 1, row + 1);
      const double er = (map.potential[at(right, row)] - map.potential[at(left, row)]) / ((right - left) * dr);
      const double ez = (map.potential[at(column, high)] - map.potential[at(column, low)]) / ((high - low) * dz);
      map.field[at(column, row)] = static_cast<float>(std::hypot(er, ez));
    }
  return map;
}

} // namespace arc
