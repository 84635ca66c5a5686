// Loss, breakout, mode shapes, field maps and what stands near the coil.
#include "analysis/analyse.h"
#include "field/boundary.h"
#include "field/breakout.h"
#include "field/field_map.h"
#include "field/loss.h"
#include "parts/topload.h"
#include "support.h"

#include <numbers>

using namespace arc;

namespace {

TEST(loss, copper_skin_depth_is_the_handbook_value) { // 66.1 um at 1 MHz, 20 C (IEC 60028 copper)
  expect_close(skin_depth_m(1e6, 20), 66.1e-6, 1e-3);
  expect_close(skin_depth_m(4e6, 20), skin_depth_m(1e6, 20) / 2, 1e-12);
}

TEST(loss, skin_effect_has_its_known_limits_and_values) {
  EXPECT_EQ(skin_effect_ratio(0), 1);
  // Low-frequency series 1 + x^4/48 with x = r/depth (Terman, Radio Engineers' Handbook).
  expect_close(skin_effect_ratio(0.3) - 1, std::pow(0.3, 4) / 48, 0.01);
  // High-frequency series x/2 + 1/4 + 3/(32 x).
  for (const double x : {10.0, 40.0, 300.0}) expect_close(skin_effect_ratio(x), x / 2 + 0.25 + 3 / (32 * x), 1e-4);
  // NBS Circular 74 table: R/R0 against x sqrt(2) = 2: 1.0782, 3: 1.3180, 5: 2.0430 (from memory).
  expect_close(skin_effect_ratio(2 / std::numbers::sqrt2), 1.0782, 5e-4);
  expect_close(skin_effect_ratio(3 / std::numbers::sqrt2), 1.3180, 5e-4);
  expect_close(skin_effect_ratio(5 / std::numbers::sqrt2), 2.0430, 5e-4);
}

TEST(loss, proximity_follows_medhursts_table) { // Medhurst 1947, from memory
  EXPECT_DOUBLE_EQ(medhurst_phi(1.0, 1), 5.55);
  EXPECT_DOUBLE_EQ(medhurst_phi(0.5, 4), 1.78);
  EXPECT_DOUBLE_EQ(medhurst_phi(0.1, 10), 1.04);
  double before = 1;
  for (double spacing = 0.02; spacing <= 1; spacing += 0.01) {
    EXPECT_GT(medhurst_phi(spacing, 5), before) << "closer turns lose more";
    before = medhurst_phi(spacing, 5);
  }
}

TEST(loss, a_thicker_wire_raises_q_and_a_poor_ground_lowers_it) {
  Design d = demo_design();
  const Analysis a = analyse(d);
  EXPECT_GT(a.winding_q, a.quality_factor);
  EXPECT_GT(a.winding_resistance_ohm, a.secondary_resistance_ohm);
  d.site.ground_resistance_ohm = 60;
  EXPECT_LT(analyse(d).quality_factor, 0.7 * a.quality_factor);
  d = demo_design();
  d.secondary.wire_bare_diameter_m = 0.3e-3;
  EXPECT_LT(analyse(d).winding_q, a.winding_q);
}

TEST(loss, energy_at_the_base_and_at_the_top_agree) {
  // Kinetic and potential energy are equal at resonance: mean square current seen through L against C.
  const ResonatorResult r = field_resonator(demo_design());
  EXPECT_GT(r.energy_capacitance_f, 0);
  EXPECT_LT(r.energy_capacitance_f, r.effective_capacitance_f)
      << "lower turns store less than their share of charge";
  EXPECT_GT(r.mean_square_current, 0.5);
  EXPECT_LT(r.mean_square_current, 1.2);
}

TEST(breakout, a_bare_sphere_breaks_out_where_peek_says) {
  // Far sphere on a thin winding: field V/R at its surface. E = 30 kV/cm (1 + 0.301/sqrt(r cm)).
  Design d = demo_design();
  d.breakout.roughness = 1;
  d.site.air_temperature_c = 20;
  d.site.air_pressure_hpa = 1013.25;
  EXPECT_DOUBLE_EQ(relative_air_density(d.site), 1);
  expect_close(peek_field_v_per_m(0.01, 1, 1), 3e6 * 1.301, 1e-12);
  ToploadPart ball;
  ball.shape = "sphere";
  ball.diameter_m = 0.3;
  ball.centre_above_winding_m = 0.2;
  d.topload = {ball};
  ResonatorResult result = field_resonator(d);
  std::erase_if(result.surface, [](const SurfaceField& spot) { return spot.winding; }); // the sphere itself
  const auto spot = find_breakout(d, result);
  ASSERT_TRUE(spot);
  EXPECT_EQ(spot->where, "topload");
  EXPECT_GT(spot->height_m, d.secondary.base_height_m + d.secondary.winding_length_m + 0.2) << "on the upper half";
  const double lone = 0.15 * peek_field_v_per_m(0.15, 1, 1);
  EXPECT_GT(spot->voltage_v, 0.75 * lone);
  EXPECT_LT(spot->voltage_v, 1.25 * lone);
}

TEST(breakout, surface_fields_of_a_lone_sphere_are_voltage_over_radius) {
  ToploadPart ball;
  ball.shape = "sphere";
  ball.diameter_m = 0.2;
  const auto pieces = outline_pieces(topload_shape("sphere")->outline(ball, 48), 2, 0);
  const auto solution = solve_capacitance(pieces, 1, Ground::none);
  for (std::size_t i = 4; i + 4 < pieces.size(); ++i)
    expect_close(solution.charge_c(static_cast<Eigen::Index>(i), 0) / piece_area_m2(pieces[i]) / eps0_f_per_m, 10,
                 0.01);
}

TEST(breakout, a_toroid_breaks_out_at_its_rim) {
  const auto spot = find_breakout(demo_design(), field_resonator(demo_design()));
  ASSERT_TRUE(spot);
  EXPECT_EQ(spot->where, "topload");
  EXPECT_GT(spot->radius_m, 0.18);
}

TEST(breakout, a_point_a_rough_skin_thin_air_and_a_thin_tube_all_lower_it) {
  const Design d = demo_design();
  const double smooth = analyse(d).breakout->voltage_v;
  Design e = d;
  e.breakout.point_length_m = 0.03;
  e.breakout.point_tip_radius_m = 0.001;
  EXPECT_LT(analyse(e).breakout->voltage_v, 0.5 * smooth);
  EXPECT_EQ(analyse(e).breakout->where, "breakout point");
  e = d;
  e.breakout.roughness = 0.7;
  EXPECT_LT(analyse(e).breakout->voltage_v, smooth);
  e = d;
  e.site.air_pressure_hpa = 800;
  EXPECT_LT(analyse(e).breakout->voltage_v, 0.9 * smooth);
  e = d;
  e.topload[0].tube_diameter_m = 0.04;
  EXPECT_LT(analyse(e).breakout->voltage_v, smooth);
}

TEST(breakout, without_a_topload_the_bare_wire_end_gives_way_at_some_kilovolts) {
  Design d = demo_design();
  d.topload.clear();
  const auto spot = analyse(d).breakout;
  ASSERT_TRUE(spot);
  EXPECT_EQ(spot->where, "wire end");
  EXPECT_LT(spot->voltage_v, 0.05 * analyse(demo_design()).breakout->voltage_v);
}

TEST(breakout, a_half_ellipsoid_enhances_as_its_closed_form) {
  EXPECT_DOUBLE_EQ(point_enhancement(0.01, 0.01), 3) << "hemisphere on a plane";
  EXPECT_NEAR(point_enhancement(0.010001, 0.01), 3, 1e-2);
  // Slender: close to lambda^2 / (ln 2 lambda - 1) with lambda = sqrt(length/tip) (Latham 1981, within 3 % at 30).
  const double slender = 30;
  expect_close(point_enhancement(0.9, 0.001), slender * slender / (std::log(2 * slender) - 1), 0.01);
}

TEST(modes, higher_modes_have_one_more_change_of_sign_each) {
  const ResonatorResult r = field_resonator(demo_design());
  ASSERT_EQ(r.modes.size(), 3u);
  for (std::size_t k = 0; k < 3; ++k) {
    int changes = 0;
    for (std::size_t i = 2; i < r.modes[k].profile.size(); ++i)
      changes += r.modes[k].profile[i].voltage * r.modes[k].profile[i - 1].voltage < 0;
    EXPECT_EQ(changes, static_cast<int>(k));
  }
  EXPECT_LT(r.modes[0].frequency_hz, r.modes[1].frequency_hz);
  EXPECT_LT(r.modes[1].frequency_hz, r.modes[2].frequency_hz);
}

TEST(modes, the_bare_quarter_wave_repeats_near_odd_multiples) {
  Design d = demo_design();
  d.topload.clear();
  const ResonatorResult r = field_resonator(d);
  const double ratio =
      *r.mode_2_hz / r.mode_1_hz; // 3 without dispersion; a solenoid's phase velocity rises with frequency
  EXPECT_GT(ratio, 2);
  EXPECT_LT(ratio, 3);
}

TEST(field_map, is_one_volt_at_the_topload_and_zero_at_the_floor) {
  const Design d = demo_design();
  const ResonatorResult r = field_resonator(d);
  const std::atomic<bool> go_on = false;
  const FieldMap map = field_map(r, 0.8, 1.6, 41, 81, go_on);
  const auto at = [&](double radius, double height) {
    return map.potential[static_cast<std::size_t>(std::lround(height / 0.02) * 41 + std::lround(radius / 0.02))];
  };
  EXPECT_NEAR(at(0.16, 0.98), 1, 0.02) << "inside of the tube";
  EXPECT_EQ(at(0.4, 0), 0);
  EXPECT_LT(at(0.7, 0.98), at(0.3, 0.98)) << "falls outward";
  EXPECT_GT(at(0.5, 0.9), 0);
  // The average over any sphere of empty space is the value at its centre (Laplace): here by the nearest
  // neighbours.
  for (const double z : {1.2, 1.4}) {
    const double r0 = 0.5, h = 0.02;
    const double laplace = (at(r0 + h, z) - 2 * at(r0, z) + at(r0 - h, z)) / (h * h) +
                           (at(r0 + h, z) - at(r0 - h, z)) / (2 * h * r0) +
                           (at(r0, z + h) - 2 * at(r0, z) + at(r0, z - h)) / (h * h);
    EXPECT_NEAR(laplace, 0, 0.02);
  }
}

TEST(field_map, stops_when_it_is_not_wanted_any_more) {
  const std::atomic<bool> cancelled = true;
  EXPECT_TRUE(field_map(field_resonator(demo_design()), 1, 1, 50, 50, cancelled).potential.empty());
}

TEST(strike_ring, stands_outside_and_above_the_last_turn_and_adds_capacitance) {
  Design d = demo_design();
  const StrikeRing ring = strike_ring(d.primary);
  EXPECT_GT(ring.radius_m, d.primary.inner_radius_m + d.primary.turns * d.primary.pitch_m);
  EXPECT_GT(ring.height_m, d.primary.base_height_m);
  const double before = field_resonator(d).mode_1_hz;
  d.site.grounded_conductors.emplace_back("strike-ring");
  EXPECT_LT(field_resonator(d).mode_1_hz, before);
}

} // namespace
