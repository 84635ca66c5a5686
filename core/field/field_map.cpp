// Grid of potentials; inside of a conductor the potential is its own, so that the map stays smooth there.
#include "field/field_map.h"

#include "field/boundary.h"

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
  std::vector<double> r, z, v(static_cast<std::size_t>((rows - 1) * columns), 0.0); // the floor itself is at 0 V
  for (int row = 1; row < rows; ++row)
    for (int column = 0; column < columns; ++column) {
      r.push_back(std::max(column * dr, 1e-6));
      z.push_back(row * dz);
    }
  for (const ChargedPiece& charged : resonator.charges) {
    if (cancelled) return {};
    add_potential_v(charged.piece, charged.charge_c, Ground::floor, r, z, v);
  }
  for (int row = 1; row < rows; ++row)
    for (int column = 0; column < columns; ++column)
      map.potential[at(column, row)] = static_cast<float>(v[at(column, row - 1)]);
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
