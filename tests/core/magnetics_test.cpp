// Ring and coil inductances against published tables, the defining integral and scaling laws.
#include "field/handbook.h"
#include "field/resonator.h"
#include "field/rings.h"
#include "support.h"

#include <boost/math/quadrature/trapezoidal.hpp>
#include <numbers>
#include <random>

using namespace arc;

namespace {

// Neumann's double integral for coaxial circles, reduced to one angle by symmetry.
double neumann_mutual_h(double a, double b, double z) {
  const auto integrand = [&](double angle) {
    return std::cos(angle) / std::sqrt(a * a + b * b + z * z - 2 * a * b * std::cos(angle));
  };
  return mu0_h_per_m / 2 * a * b *
         boost::math::quadrature::trapezoidal(integrand, 0.0, 2 * std::numbers::pi, 1e-12, 20);
}

TEST(magnetics, rings_agree_with_neumanns_integral) {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> radius(0.02, 0.6), height(0.02, 1.5);
  for (int i = 0; i < 200; ++i) {
    const double a = radius(random), b = radius(random), z = height(random);
    expect_close(ring_mutual_h(a, b, z), neumann_mutual_h(a, b, z), 1e-9, "mutual inductance");
    EXPECT_DOUBLE_EQ(ring_mutual_h(a, b, z), ring_mutual_h(b, a, -z)) << "reciprocity";
  }
}

// Rosa and Grover, Formulas and Tables for the Calculation of Mutual and Self-Inductance, Bulletin of the Bureau of
// Standards 8 (1911), examples of formula (1): circles of 25 and 20 cm radius 10 cm apart, and two of 25 cm
// 1 cm apart (values from memory; 1 cm of inductance is 1 nH at mu0 = 4 pi 1e-7).
TEST(magnetics, coaxial_circles_match_the_bureaus_worked_example) {
  const double old_mu0 = 4e-7 * std::numbers::pi / mu0_h_per_m;
  expect_close(ring_mutual_h(0.25, 0.20, 0.10) * old_mu0, 248.7874e-9, 1e-6);
  expect_close(ring_mutual_h(0.25, 0.25, 0.01) * old_mu0, 1036.666e-9, 3e-6);
}

TEST(magnetics, far_rings_couple_as_dipoles) {
  const double a = 0.05, b = 0.03, z = 20;
  expect_close(ring_mutual_h(a, b, z), mu0_h_per_m * std::numbers::pi * a * a * b * b / (2 * z * z * z), 1e-4);
}

TEST(magnetics, nagaokas_table_is_met) { // Nagaoka 1909, tolerance of the printed digits
  const double table[][2] = {{0.2, 0.92009}, {0.5, 0.81814}, {1, 0.68842},
                             {2, 0.52551},   {5, 0.31983},   {10, 0.20332}};
  for (const auto& [ratio, k] : table) EXPECT_NEAR(nagaoka_coefficient(ratio), k, 1e-5) << ratio;
}

TEST(magnetics, rings_agree_with_the_corrected_current_sheet) {
  // Grover 1946 ch. 16: the current sheet with Rosa's corrections is good to 1e-4 for close windings.
  for (const double turns : {20.0, 100.0, 480.0, 1480.0})
    for (const double radius : {0.03, 0.085, 0.15}) {
      const double wire = 0.0005, length = turns * wire * 1.08;
      expect_close(solenoid_inductance_h(radius, turns, length, wire / 2, CurrentDistribution::uniform),
                   current_sheet_inductance_h(radius, turns, length, wire), 2e-4);
    }
}

TEST(magnetics, a_solenoid_is_the_sum_of_its_rings) {
  for (const double turns : {5.0, 12.4, 37.75}) {
    const auto rings = solenoid_rings(0.05, turns, 0.2, 0.1);
    expect_close(solenoid_inductance_h(0.05, turns, 0.2, 0.0004, CurrentDistribution::skin),
                 series_inductance_h(rings, 0.0004, CurrentDistribution::skin), 1e-12);
  }
}

// Wheeler, Proc. IRE 16 (1928) 1398: "within one per cent" for a helix longer than 0.8 radius, five for a flat
// spiral.
TEST(magnetics, wheelers_formulas_hold_within_their_stated_error) {
  for (const double length : {0.08, 0.2, 0.6}) {
    const double turns = length / 0.0005;
    expect_close(wheeler_helix_h(0.06, turns, length),
                 solenoid_inductance_h(0.06, turns, length, 0.00024, CurrentDistribution::uniform), 0.01);
  }
  for (const double turns : {8.0, 12.0, 20.0}) {
    const auto spiral = spiral_rings(0.08, 0.4, 0.014, 0, turns);
    const double mean = 0.08 + turns * 0.007;
    expect_close(wheeler_flat_spiral_h(mean, turns, turns * 0.014),
                 series_inductance_h(spiral, 0.003, CurrentDistribution::skin), 0.05);
  }
}

TEST(magnetics, all_lengths_doubled_double_the_inductance) {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> size(0.02, 0.3), turns(3, 30), angle(0, std::numbers::pi / 2);
  for (int i = 0; i < 50; ++i) {
    const double r = size(random), n = turns(random), tilt = angle(random);
    const auto once = spiral_rings(r, 0.3, 0.012, tilt, n), twice = spiral_rings(2 * r, 0.6, 0.024, tilt, n);
    expect_close(series_inductance_h(twice, 0.004, CurrentDistribution::skin),
                 2 * series_inductance_h(once, 0.002, CurrentDistribution::skin), 1e-12);
  }
}

TEST(magnetics, moving_the_clip_out_never_lowers_the_inductance) {
  for (const PrimaryShape shape : {PrimaryShape::flat, PrimaryShape::cone, PrimaryShape::helix}) {
    Primary primary;
    primary.shape = shape;
    primary.cone_angle_deg = 30;
    double before = 0;
    for (double tap = 0.1; tap <= primary.turns; tap += 0.05) {
      const double now = primary_inductance_at_h(primary, tap);
      EXPECT_GT(now, before) << static_cast<int>(shape) << " at " << tap;
      before = now;
    }
  }
}

TEST(magnetics, the_inductance_is_continuous_where_a_turn_ends) {
  const Primary primary;
  for (double turn = 1; turn < 10; ++turn)
    expect_close(primary_inductance_at_h(primary, turn - 1e-7), primary_inductance_at_h(primary, turn), 1e-5);
}

} // namespace
