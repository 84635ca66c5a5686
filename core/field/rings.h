// Magnetics of coaxial circular turns: mutual and self inductance of rings, and of coils made of rings.
// Source: Maxwell's elliptic-integral formula (Grover, Inductance Calculations, 1946, ch. 11), evaluated here by
// the arithmetic-geometric mean so that neither far-apart nor nearly touching rings lose digits. Limits: thin round
// conductors, circular coaxial turns, uniform current in each turn, no iron nearby.
#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace arc {

inline constexpr double mu0_h_per_m = 1.25663706212e-6; // CODATA 2018

/// One circular turn: mean radius and height in metres; `weight` is the part of a full turn present (0 to 1).
struct Ring {
  double radius_m = 0;
  double height_m = 0;
  double weight = 1;
};

/// Share of the current inside the conductor: uniform (Y = 1/4) or skin current (Y = 0).
enum class CurrentDistribution { uniform, skin };

/// Mutual inductance in henries of two coaxial filaments of radii a, b > 0 at axial distance z (metres). They must
/// not coincide. Relative error below 1e-13.
double ring_mutual_h(double a_m, double b_m, double z_m);

/// Self-inductance in henries of a ring of round wire: mu0 a (ln(8a/r) - 2 + Y); r is the wire radius, r << a.
/// Relative error of the thin-ring form about (r/a)^2 ln(8a/r).
double ring_self_h(double radius_m, double wire_radius_m, CurrentDistribution distribution);

/// Inductance in henries of `turns` (fractions allowed) equal rings spaced evenly over `length_m`: a uniform
/// solenoid. Uses the Toeplitz structure: one elliptic evaluation for each turn.
double solenoid_inductance_h(double mean_radius_m, double turns, double length_m, double wire_radius_m,
                             CurrentDistribution distribution);

/// Matrix of turn-to-turn inductances of any coaxial coil, row by row (size n*n), for full turns.
std::vector<double> ring_matrix_h(std::span<const Ring> rings, double wire_radius_m,
                                  CurrentDistribution distribution);

/// Inductance in henries of rings in series, weights included.
double series_inductance_h(std::span<const Ring> rings, double wire_radius_m, CurrentDistribution distribution);

/// Mutual inductance in henries between two coils of rings, weights included.
double coil_mutual_h(std::span<const Ring> first, std::span<const Ring> second);

/// Rings of a uniform solenoid whose lowest end is at `base_height_m`; a last partial turn is weighted.
std::vector<Ring> solenoid_rings(double mean_radius_m, double turns, double length_m, double base_height_m);

/// Rings of a conical spiral: turn j sits at radius r0 + s pitch cos(angle), height h0 + s pitch sin(angle), where
/// s is the middle of its span; angle 0 is a flat spiral, pi/2 a helix. A last partial turn is weighted.
std::vector<Ring> spiral_rings(double inner_radius_m, double base_height_m, double pitch_m, double cone_angle_rad,
                               double turns);

} // namespace arc
