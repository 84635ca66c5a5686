// One figure by one number: what is found gives the figure, by an analysis of its own.
#include "analysis/analyse.h"
#include "craft/design_fields.h"
#include "support.h"
#include "workshop/solve.h"
#include "workshop/start.h"

using namespace arc;
using testing::HasSubstr;

namespace {

const std::atomic<bool> not_cancelled{false};

Design spark_gap() {
  return new_design(*coil_kind("spark-gap"));
}

std::string refusal(std::string_view result, std::string_view field) {
  try {
    solve(spark_gap(), result, 1, field, not_cancelled);
  } catch (const std::invalid_argument& error) {
    return error.what();
  }
  return {};
}

TEST(solve, a_resonance_is_reached_by_each_number_that_moves_it) {
  const Design design = spark_gap();
  const double now_hz = coil_hz(analyse(design));
  for (const char* field :
       {"topload.0.outer_diameter_m", "topload[0].tube_diameter_m", "secondary.winding_length_m"}) {
    const double wanted_hz = 0.97 * now_hz;
    const Solved found = solve(design, "best_mode_1_hz", wanted_hz, field, not_cancelled);
    ASSERT_TRUE(found.possible) << field;
    expect_close(found.reached, wanted_hz, 2e-6);
    expect_close(coil_hz(analyse(found.design)), wanted_hz, 2e-6);
    EXPECT_LE(found.low, wanted_hz);
    EXPECT_GE(found.high, wanted_hz);
    EXPECT_FALSE(found.also.empty());
    for (const AlsoChanged& also : found.also) EXPECT_NE(also.before, also.after) << also.key;
  }
}

// The tank's resonance by Thomson's formula: four times the capacitance halves it.
TEST(solve, a_tank_at_half_its_frequency_takes_four_times_the_capacitance) {
  Design design = spark_gap();
  design.tank.given_as = TankGiven::one_value;
  design.tank.single_capacitance_f = design.tank.capacitance_f = 1e-8;
  const double now_hz = analyse(design).tank_hz;
  const Solved found = solve(design, "tank_hz", now_hz / 2, "tank.capacitance_f", not_cancelled);
  ASSERT_TRUE(found.possible);
  expect_close(found.value, 4e-8, 1e-5);
}

TEST(solve, whole_turns_stay_whole_and_come_as_near_as_they_can) {
  const Design design = spark_gap();
  const double wanted_hz = 0.9 * coil_hz(analyse(design));
  const Solved found = solve(design, "best_mode_1_hz", wanted_hz, "secondary.turns", not_cancelled);
  ASSERT_TRUE(found.possible);
  EXPECT_EQ(found.value, std::round(found.value));
  for (const double other : {-1.0, 1.0}) {
    Design beside = design;
    beside.secondary.turns = found.value + other;
    EXPECT_GE(std::abs(coil_hz(analyse(beside)) - wanted_hz), std::abs(found.reached - wanted_hz)) << other;
  }
}

TEST(solve, of_two_places_the_one_near_the_present_number_is_taken) {
  const Design design = spark_gap();
  const double now = analyse(design).coupling;
  const Solved found = solve(design, "coupling", 0.95 * now, "primary.base_height_m", not_cancelled);
  ASSERT_TRUE(found.possible);
  EXPECT_LT(found.value, design.primary.base_height_m) << "a lower primary couples less";
  EXPECT_GT(found.value, design.primary.base_height_m - 0.1);
}

TEST(solve, a_simulated_figure_is_reached_too) {
  const Design design = new_design(*coil_kind("bridge"));
  const Solved now = solve(design, "burst.primary_peak_a", 1e9, "interrupter.on_time_s", not_cancelled);
  EXPECT_FALSE(now.possible);
  const double wanted = 0.5 * (now.low + now.high);
  const Solved found = solve(design, "burst.primary_peak_a", wanted, "interrupter.on_time_s", not_cancelled);
  ASSERT_TRUE(found.possible);
  expect_close(found.reached, wanted, 1e-3); // a peak steps from period to period
}

TEST(solve, out_of_reach_is_told_with_the_range_and_the_nearest) {
  const Solved found = solve(spark_gap(), "best_mode_1_hz", 5e6, "topload[0].outer_diameter_m", not_cancelled);
  EXPECT_FALSE(found.possible);
  EXPECT_LT(found.high, 5e6);
  expect_close(found.reached, found.high, 1e-9);
  expect_close(coil_hz(analyse(found.design)), found.high, 1e-9);
}

TEST(solve, what_is_not_there_is_named) {
  EXPECT_THAT(refusal("loudness", "secondary.turns"), HasSubstr("loudness"));
  EXPECT_THAT(refusal("best_mode_1_hz", "topload[7].outer_diameter_m"), HasSubstr("topload[7]"));
  EXPECT_THAT(refusal("best_mode_1_hz", "secondary"), HasSubstr("no number"));
}

} // namespace
