// Thick conductors at high frequency, and the leads.
#include "analysis/analyse.h"
#include "field/handbook.h"
#include "field/tubing.h"
#include "parts/bank.h"
#include "support.h"

#include <numbers>

using namespace arc;

namespace {

std::vector<Ring> rings(int turns, double inner, double pitch) {
  return spiral_rings(inner, 1, pitch, 0, turns);
}

TEST(tubing, a_single_thin_ring_is_the_ring_with_skin_current) {
  const SkinCurrent one = skin_current(rings(1, 0.5, 0.01), 1e-3, 16);
  expect_close(one.inductance_h, ring_self_h(0.505, 1e-3, CurrentDistribution::skin), 1e-4);
  EXPECT_NEAR(one.crowding, 1, 2e-3);
  EXPECT_NEAR(one.edge_share[0], 0.5, 0.01);
}

TEST(tubing, current_that_may_move_never_raises_the_inductance) { // least energy of all distributions
  for (const double conductor : {2e-3, 6e-3, 10e-3})
    for (const double pitch : {11e-3, 15e-3, 25e-3}) {
      const auto coil = rings(9, 0.12, pitch);
      const double even = series_inductance_h(coil, conductor / 2, CurrentDistribution::skin);
      const SkinCurrent moved = skin_current(coil, conductor / 2);
      EXPECT_LT(moved.inductance_h, even);
      EXPECT_GT(moved.inductance_h, 0.8 * even);
      EXPECT_GE(moved.crowding, 1);
    }
}

TEST(tubing, closer_turns_crowd_the_current_more_and_the_inner_turn_to_its_inner_edge) {
  const SkinCurrent wide = skin_current(rings(9, 0.12, 0.025), 3e-3);
  const SkinCurrent close = skin_current(rings(9, 0.12, 0.009), 3e-3);
  EXPECT_GT(close.crowding, wide.crowding);
  EXPECT_GT(close.edge_share.front(), 0.5) << "the innermost turn carries its current inside";
  EXPECT_LT(close.edge_share.back(), close.edge_share.front());
}

TEST(tubing, finer_filaments_change_little) {
  const auto coil = rings(8, 0.1, 0.012);
  expect_close(skin_current(coil, 4e-3, 12).inductance_h, skin_current(coil, 4e-3, 24).inductance_h, 2e-3);
}

TEST(tubing, turns_that_touch_are_refused) {
  EXPECT_THROW(skin_current(rings(3, 0.1, 0.006), 3e-3), std::invalid_argument);
  Design d = demo_design();
  d.primary.pitch_m = 0.005;
  EXPECT_EQ(analyse(d).primary_skin_h, 0) << "no number rather than a wrong one";
}

// Two parallel cylinders with skin current: mu0/pi acosh(D/2r) per metre exactly (Ramo, Whinnery, Van Duzer, ch.
// 4); ln(D/r) is its limit for wide spacing.
TEST(leads, the_pair_formula_meets_the_exact_line_for_wide_spacing) {
  const double length = 20, spacing = 0.2, r = 2e-3;
  const double exact = mu0_h_per_m * length / std::numbers::pi * std::acosh(spacing / (2 * r));
  expect_close(pair_inductance_h(length, spacing, r), exact, 3e-3);
  expect_close(pair_inductance_h(2, 0.05, r), 2 * pair_inductance_h(1, 0.05, r), 0.02, "twice as long");
  EXPECT_GT(pair_inductance_h(1, 0.1, r), pair_inductance_h(1, 0.03, r)) << "wider leads hold more flux";
}

TEST(leads, measured_leads_replace_the_number_and_lower_the_tank) {
  Design d = demo_design();
  const double without = analyse(d).tank_hz;
  d.primary.lead_length_m = 0.6;
  d.primary.lead_spacing_m = 0.05;
  d.primary.lead_inductance_h = 99e-6; // ignored now
  const Analysis a = analyse(d);
  EXPECT_LT(a.tank_hz, without);
  expect_close(a.lead_inductance_h, pair_inductance_h(0.6, 0.05, d.primary.conductor_diameter_m / 2), 1e-12);
  expect_close(a.tank_hz, resonance_hz(a.primary_inductance_h + a.lead_inductance_h, a.tank_capacitance_f), 1e-12);
}

} // namespace
