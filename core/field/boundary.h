// Axisymmetric electrostatics by boundary elements: conductors are bodies of revolution cut into straight pieces,
// each carrying an unknown uniform charge density; a conducting floor at height 0 is an exact image. Kernel: a ring
// of charge Q has the potential Q / (4 pi eps0 agm(p, q)), p and q the farthest and nearest distances to the ring
// (Maxwell's K written by the arithmetic-geometric mean). Collocation at piece centres; near pieces are integrated
// by quadrature graded toward the logarithm. Limits: axisymmetric, still air, electrostatic.
#pragma once

#include "field/piece.h"
#include "parts/topload.h"
#include "quantity/matrix.h"

#include <span>
#include <vector>

namespace arc {

/// grid_excess of a piece of winding: `turns` wires of radius r at pitch p around radius R stand 1/(pi R turns)
/// ln(p/(2 pi r)) above the sheet of equal charge (wire-grid formula, Maxwell, Treatise, art. 203); 0 for close
/// windings, where the wires act as a sheet.
double wire_grid_excess(double radius_m, double turns, double pitch_m, double wire_radius_m);

enum class Ground { floor, none };

/// Adds the potential in volts, at many places (r, z), of a charge spread over `piece` with uniform surface
/// density; images included when there is a floor. The three spans have one length.
void add_potential_v(const Piece& piece, double charge_c, Ground ground, std::span<const double> r_m,
                     std::span<const double> z_m, std::span<double> out_v);

struct CapacitanceSolution {
  Eigen::MatrixXd maxwell_f; // Maxwell capacitance matrix, conductors x conductors, symmetrised
  Eigen::MatrixXd charge_c;  // pieces x conductors: charge on each piece with one conductor at 1 V, the rest at 0
};

/// The system of many pieces, factored: solved again with another piece at little cost.
struct FactoredPieces {
  std::vector<Piece> pieces;
  Ground ground;
  LowerUpper lu; // of their potentials, times 4 pi eps0
};
FactoredPieces factor(std::vector<Piece> pieces, Ground ground);
CapacitanceSolution solve_capacitance(const FactoredPieces& factored, std::size_t conductors);
/// With one more piece, which stands last in the solution.
CapacitanceSolution solve_capacitance(const FactoredPieces& factored, std::size_t conductors, const Piece& more);

/// Solves the charges of `conductors` conductors at unit potentials. Throws std::invalid_argument when a piece is
/// degenerate or the system is singular (pieces that coincide).
CapacitanceSolution solve_capacitance(const std::vector<Piece>& pieces, std::size_t conductors, Ground ground);

/// Area in square metres of the surface that a piece sweeps.
double piece_area_m2(const Piece& piece);

/// Pieces of an outline, all of one conductor, shifted up by `height_m`.
std::vector<Piece> outline_pieces(const std::vector<OutlinePoint>& outline, double height_m, std::size_t conductor);

/// Capacitance in farads of conducting bodies joined into one, standing alone or over the floor with the heights
/// given relative to `height_m`.
double body_capacitance_f(const std::vector<ToploadPart>& parts, int pieces, double height_m, Ground ground);

} // namespace arc
