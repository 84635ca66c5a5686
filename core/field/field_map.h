// Potential and field strength around the coil at its resonance, on a grid, from the charges of the field solution.
#pragma once

#include "field/resonator.h"

#include <atomic>
#include <vector>

namespace arc {

struct FieldMap {
  int columns = 0;
  int rows = 0;
  double width_m = 0;           // radius from 0 to width
  double height_m = 0;          // height from 0 to height above the floor
  std::vector<float> potential; // volts for 1 V at the top, row by row from the floor up
  std::vector<float> field;     // volts per metre for 1 V at the top
};

/// Computes the map; stops early and returns an empty one when `cancelled` becomes true. Field by central
/// differences of the potential: good to some 5 % a cell away from surfaces, not meant at sharp edges.
FieldMap field_map(const ResonatorResult& resonator, double width_m, double height_m, int columns, int rows,
                   const std::atomic<bool>& cancelled);

} // namespace arc
