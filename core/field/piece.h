// What bodies of revolution are cut into, for their charges (field/boundary.h).
#pragma once

#include <cstddef>

namespace arc {

/// One straight generator piece, from (r1, z1) to (r2, z2) in metres, z above the floor. A piece of zero length
/// with `tube_radius_m` > 0 is a thin round conductor bent to a ring. `conductor` numbers the body it belongs to.
struct Piece {
  double r1_m = 0;
  double z1_m = 0;
  double r2_m = 0;
  double z2_m = 0;
  std::size_t conductor = 0;
  double tube_radius_m = 0;
  double grid_excess = 0; // extra self-potential of a grid of wires over a smooth sheet, times 4 pi eps0, per metre
};

} // namespace arc
