// Cores that draw idle current and saturate, and what follows for line current, power factor and advice.
#include "analysis/analyse.h"
#include "circuit/feed.h"
#include "circuit/feed_network.h"
#include "circuit/magnetising.h"
#include "crafts/spark_gap/charging.h"
#include "simulation/power.h"
#include "support.h"

#include <fmt/format.h>
#include <numbers>

using namespace arc;

namespace {

FeedBlock block_of(std::string_view kind, std::map<std::string, double> values = {}) {
  FeedBlock out = make_block(kind);
  for (const auto& [key, value] : values) out.values[key] = value;
  return out;
}

Design idle_feed(std::vector<FeedBlock> blocks) {
  Design d = demo_design();
  d.feed = std::move(blocks);
  d.gap.rotary_electrodes.reset();
  d.gap.firing_voltage_v = 1e6; // silent
  d.tank.unit_capacitance_f = 1e-11;
  d.tank.units_in_series = d.tank.units_in_parallel = 1;
  return d;
}

TEST(magnetising, the_branch_draws_its_idle_current_at_its_rated_volts) {
  for (const double knee : {0.6, 0.92, 1.3})
    for (const double amps : {0.1, 1.5, 20.0}) {
      const Magnetising branch = magnetising_branch({230, 50, amps, knee, 0.3});
      expect_close(idle_current_a(branch, 230, 50), amps, 1e-6, "by construction");
    }
}

TEST(magnetising, a_core_below_its_knee_is_linear_and_far_above_it_is_not) {
  const Magnetising branch = magnetising_branch({230, 50, 1, 1.2, 0.3});
  expect_close(idle_current_a(branch, 115, 50), 0.5, 1e-6);
  EXPECT_GT(idle_current_a(branch, 345, 50), 2.5) << "half as much again over the rated volts";
  expect_close(idle_current_a(branch, 230 * 1.2, 60), idle_current_a(branch, 230, 50), 0.08,
               "the same flux at a higher frequency, but for the loss");
}

TEST(magnetising, an_oven_transformer_runs_into_saturation_at_its_rated_volts) { // common practice, no source
  const CoreData core = *block_core(make_block("oven-transformers"), 230, 50);
  const Magnetising branch = magnetising_branch(core);
  const double rated = idle_current_a(branch, 230, 50), less = idle_current_a(branch, 184, 50);
  EXPECT_GT(rated / less, 1.35) << "a fifth more volts, far more than a fifth more current";
  EXPECT_GT(rated, 1) << "amperes idle";
  const CoreData sign = *block_core(make_block("transformer"), 230, 50);
  EXPECT_LT(sign.idle_a, 0.3) << "a sign transformer draws little";
}

TEST(magnetising, one_reading_sets_the_size_and_two_set_the_knee) {
  const CoreData truth{230, 50, 2.2, 0.8, 0.25};
  const Magnetising real = magnetising_branch(truth);
  const CoreData usual{230, 50, 1, 1.1, 0.25};
  const CoreData one = fit_core(usual, {{230, idle_current_a(real, 230, 50)}});
  EXPECT_NEAR(one.idle_a, 2.2, 1e-9);
  EXPECT_EQ(one.knee_share, usual.knee_share);
  const CoreData two =
      fit_core(usual, {{230, idle_current_a(real, 230, 50)}, {120, idle_current_a(real, 120, 50)}});
  expect_close(two.knee_share, 0.8, 0.01);
  for (const double volts : {90.0, 150.0, 200.0, 250.0})
    expect_close(idle_current_a(magnetising_branch(two), volts, 50), idle_current_a(real, volts, 50), 0.02);
}

TEST(magnetising, the_line_current_of_an_idle_transformer_is_what_was_read) {
  for (const double amps : {0.8, 2.5}) {
    const Design d = idle_feed({block_of("oven-transformers", {{"in_series", 1}, {"idle_a", amps}})});
    const ChargingResult r = simulate_charging(d, {10, 20e-6}, never);
    expect_close(r.line_current_a, amps, 0.02, "the network against the closed form; house wiring takes a little");
    EXPECT_LT(r.power_factor, 0.5);
    EXPECT_GT(r.reactive_va, 0) << "it lags";
  }
}

TEST(magnetising, a_saturating_core_agrees_with_its_own_finer_steps) { // events are located, not stepped over
  const Design d = idle_feed({block_of("variac"), block_of("oven-transformers", {{"in_series", 2}})});
  const ChargingResult coarse = simulate_charging(d, {6, 40e-6}, never),
                       fine = simulate_charging(d, {6, 5e-6}, never);
  expect_close(coarse.line_current_a, fine.line_current_a, 2e-3);
  expect_close(coarse.input_power_w, fine.input_power_w, 5e-3);
}

TEST(power_factor, a_leading_current_is_never_offered_another_capacitor) {
  Design d = demo_design();
  d.feed = {block_of("ballast-capacitor", {{"capacitance_f", 20e-6}}),
            block_of("ballast-resistor", {{"resistance_ohm", 30}}), block_of("transformer")};
  const SparkGapRun p = analyse_power(d, analyse(d), {}, UnitSystem::metric, never);
  ASSERT_TRUE(p.charging_problem.empty()) << p.charging_problem;
  EXPECT_LT(p.charging.reactive_va, 0);
  for (const Finding& f : p.findings)
    if (f.id == "power-factor-low") {
      EXPECT_FALSE(f.apply) << f.remedy;
      EXPECT_THAT(f.title, testing::HasSubstr("leading"));
    }
}

TEST(power_factor, the_capacitor_that_is_offered_gives_what_it_says) {
  Design d = demo_design();
  std::erase_if(d.feed.own(), [](const FeedBlock& b) { return b.kind == "power-factor-capacitor"; });
  const SparkGapRun p = analyse_power(d, analyse(d), {}, UnitSystem::metric, never);
  const auto f = std::ranges::find(p.findings, "power-factor-low", &Finding::id);
  ASSERT_NE(f, p.findings.end());
  ASSERT_TRUE(f->apply) << f->remedy;
  f->apply(d);
  const ChargingResult r = simulate_charging(d, {}, never);
  EXPECT_GT(r.power_factor, p.charging.power_factor + 0.02);
  EXPECT_THAT(f->remedy, testing::HasSubstr(fmt::format("{:.2f}", r.power_factor)));
}

TEST(feed_arrangements, a_reservoir_across_a_level_shifter_is_named_and_a_half_wave_doubler_doubles) {
  EXPECT_THAT(feed_problem({block_of("transformer"), block_of("level-shifter"), block_of("reservoir")}),
              testing::HasSubstr("across the level shifter's diodes"));
  EXPECT_EQ(feed_problem({block_of("transformer"), block_of("level-shifter"), block_of("diode-string"),
                          block_of("reservoir")}),
            "");
  Design d = idle_feed({block_of("oven-transformers", {{"in_series", 1}, {"leakage_h", 0.3}}),
                        block_of("half-wave-doubler", {{"capacitance_f", 1e-6}}),
                        block_of("reservoir", {{"capacitance_f", 0.2e-6}, {"bleed_resistance_ohm", 1e9}})});
  const ChargingResult r = simulate_charging(d, {40, 20e-6}, never);
  expect_close(r.joints[2].peak_v, 2 * std::numbers::sqrt2 * 2100, 0.06, "twice the peak (textbook)");
  // A file of an earlier version that called the level shifter a doubler.
  std::string text = write_design(d);
  const auto at = text.find("half-wave-doubler");
  text.replace(at, 17, "doubler");
  EXPECT_EQ(read_design(text).feed[1].kind, "level-shifter");
}

TEST(feed_arrangements, a_winding_behind_a_bridge_is_judged_between_its_ends) {
  Design d = idle_feed({block_of("oven-transformers", {{"in_series", 2}, {"leakage_h", 0.3}}), block_of("bridge"),
                        block_of("reservoir", {{"capacitance_f", 0.2e-6}, {"bleed_resistance_ohm", 1e9}})});
  const ChargingResult r = simulate_charging(d, {20, 20e-6}, never);
  const double peak = std::numbers::sqrt2 * 4200;
  expect_close(r.joints[0].peak_v, peak, 0.05, "of both windings together, not against the negative output");
  EXPECT_LT(r.joints[0].used(), 1);
  EXPECT_GT(r.joints[0].insulation_v, 0.9 * peak)
      << "an end stands as high as the output while the bridge conducts";
}

} // namespace
