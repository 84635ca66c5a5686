// The feed's blocks, charging, and the breaker.
#include "analysis/analyse.h"
#include "circuit/feed.h"
#include "circuit/feed_arrangements.h"
#include "circuit/feed_network.h"
#include "crafts/spark_gap/charging.h"
#include "parts/bank.h"
#include "parts/gap.h"
#include "simulation/power.h"
#include "support.h"

#include <nlohmann/json.hpp>
#include <numbers>

using namespace arc;
using testing::HasSubstr;

namespace {

Design with_feed(std::vector<FeedBlock> feed, double firing_v) {
  Design d = demo_design();
  d.feed = std::move(feed);
  d.gap.firing_voltage_v = firing_v;
  return d;
}

FeedBlock block(const char* kind, std::map<std::string, double> values = {}) {
  FeedBlock b = make_block(kind);
  for (const auto& [key, value] : values) b.values[key] = value;
  return b;
}

TEST(charging, a_bridge_and_reservoir_charge_the_tank_to_the_peak) {
  const Design d = with_feed({block("transformer"), block("bridge"),
                              block("reservoir", {{"capacitance_f", 1e-7}, {"bleed_resistance_ohm", 1e9}})},
                             1e6);
  const ChargingResult r = simulate_charging(d, {80, 20e-6}, never);
  EXPECT_TRUE(r.break_times_s.empty());
  expect_close(r.tank_peak_v, 8000 * std::numbers::sqrt2, 0.05);
  EXPECT_LE(r.tank_peak_v, 8000 * std::numbers::sqrt2 * 1.05);
}

TEST(charging, resonant_charging_reaches_nearly_twice_the_supply) { // pi sqrt(L C), peak 2 V less losses
  Design d =
      with_feed({block("oven-transformers", {{"in_series", 1}}), block("bridge"),
                 block("reservoir", {{"capacitance_f", 4e-5}}), block("charging-choke", {{"resistance_ohm", 100}})},
                9e3);
  d.gap.rotary_electrodes = 4;
  d.gap.rotor_speed_hz = 25;
  d.gap.rotor_clearance_m = 5e-4;
  d.gap.spacing_m.reset(); // no static gap in series with it
  const ChargingResult r = simulate_charging(d, {100, 20e-6}, never);
  double late = 0;
  for (std::size_t i = r.samples.size() / 2; i < r.samples.size(); ++i) late = std::max(late, r.samples[i].tank_v);
  const double supply = 2100 * std::numbers::sqrt2;
  EXPECT_GT(late, 1.7 * supply);
  EXPECT_LT(late, 2.05 * supply);
  expect_close(r.break_rate_hz, 100, 0.02, "the rotor decides");
}

TEST(charging, the_choke_fills_the_tank_in_pi_times_the_root_of_l_c) { // textbook resonant charging
  for (const double henry : {8.0, 20.0, 60.0}) {
    Design d = with_feed({block("oven-transformers", {{"in_series", 1}}), block("bridge"),
                          block("reservoir", {{"capacitance_f", 4e-5}}),
                          block("charging-choke", {{"inductance_h", henry}, {"resistance_ohm", 20}})},
                         9e3);
    d.gap.rotary_electrodes = 2;
    d.gap.rotor_speed_hz = 50;
    d.gap.rotor_clearance_m = 5e-4;
    d.gap.spacing_m.reset();
    const ChargingResult r = simulate_charging(d, {60, 5e-6}, never);
    ASSERT_GT(r.break_times_s.size(), 3u);
    const double fired = r.break_times_s[r.break_times_s.size() - 2], full = std::abs(r.break_voltages_v.back());
    const auto half = std::ranges::find_if(r.samples, [&](const ChargingSample& s) {
      return s.time_s > fired + 1e-4 && std::abs(s.tank_v) > full / 2;
    });
    ASSERT_TRUE(half != r.samples.end());
    expect_close(2 * (half->time_s - fired), resonant_charge_s(henry, tank_capacitance_f(d.tank)), 0.03,
                 "half the voltage at half the time");
    expect_close(resonant_charge_s(choke_for_rate_h(150, 12e-9), 12e-9), 1 / 150.0, 1e-12);
  }
}

// A sign transformer of 15 kV and 60 mA on 60 Hz resonates with 10.6 nF, one of 9 kV and 30 mA with 8.8 nF
// (common practice, no source).
TEST(mains_resonance, is_current_over_omega_and_voltage) {
  const auto tank = [](double volts, double amps, std::vector<FeedBlock> before = {}) {
    before.push_back(
        block("transformer", {{"rated_mains_v", 120}, {"output_v", volts}, {"short_circuit_a", amps}}));
    Design d = with_feed(std::move(before), 1e6);
    d.site.mains_frequency_hz = 60;
    d.site.mains_voltage_v = 120;
    return mains_resonant_capacitance_f(d);
  };
  expect_close(*tank(15e3, 0.06), 10.6e-9, 0.01);
  expect_close(*tank(9e3, 0.03), 8.8e-9, 0.01);
  EXPECT_LT(*tank(9e3, 0.03, {block("ballast-inductor")}), *tank(9e3, 0.03)) << "ballast adds to the leakage";
  EXPECT_FALSE(mains_resonant_capacitance_f(with_feed({}, 1e6)));
  EXPECT_FALSE(mains_resonant_capacitance_f(with_feed({block("transformer"), block("bridge")}, 1e6)));
  // There the voltage climbs without a gap that fires; far above it stays below the winding's own peak.
  const auto peak = [](double share) {
    Design d = with_feed({block("transformer")}, 1e6);
    d.tank.unit_capacitance_f.reset();
    d.tank.capacitance_f = share * *mains_resonant_capacitance_f(d);
    return simulate_charging(d, {30, 20e-6}, never).tank_peak_v / (8000 * std::numbers::sqrt2);
  };
  EXPECT_GT(peak(1), 8);
  EXPECT_LT(peak(3), 1.5);
}

TEST(charging, a_level_shift_doubler_swings_to_twice_the_peak) {
  const Design d =
      with_feed({block("oven-transformers", {{"in_series", 1}, {"leakage_h", 0.3}}), block("level-shifter")}, 1e6);
  const ChargingResult r = simulate_charging(d, {30, 20e-6}, never);
  const double peak = 2100 * std::numbers::sqrt2;
  EXPECT_GT(r.tank_peak_v, 1.9 * peak);
  EXPECT_LT(r.tank_peak_v, 2.3 * peak) << "leakage and tank ring a little above";
}

TEST(charging, leakage_in_resonance_with_a_series_capacitor_boosts_the_output) { // known from oven transformers
  const auto peak = [](double leakage) {
    return simulate_charging(with_feed({block("oven-transformers", {{"in_series", 1}, {"leakage_h", leakage}}),
                                        block("level-shifter")},
                                       1e6),
                             {30, 20e-6}, never)
        .tank_peak_v;
  };
  EXPECT_GT(peak(4), 1.2 * peak(0.3));
}

TEST(charging, energy_goes_where_it_is_counted) {
  const ChargingResult r = simulate_charging(demo_design(), {20, 20e-6}, never);
  EXPECT_GT(r.break_rate_hz, 100);
  expect_close(r.tank_peak_v, demo_design().gap.firing_voltage_v, 1e-3);
  EXPECT_LT(r.tank_power_w, r.input_power_w) << "the tank cannot get more than the line gives";
  EXPECT_GT(r.tank_power_w, 0.7 * r.input_power_w);
  EXPECT_GT(r.power_factor, 0);
  EXPECT_LE(r.power_factor, 1);
  for (const double v : r.break_voltages_v) expect_close(std::abs(v), demo_design().gap.firing_voltage_v, 1e-4);
}

// An ideal autotransformer gives out the volt-amperes that it takes (textbook), so that a linear load behind it
// takes a wall current as the square of the setting.
TEST(variac, passes_its_volt_amperes_on) {
  const auto run = [](double setting) {
    return simulate_charging(with_feed({block("breaker"), block("variac", {{"setting", setting}, {"idle_a", 1e-4}}),
                                        block("ballast-resistor", {{"resistance_ohm", 60}}), block("transformer")},
                                       1e6), // silent: nothing depends on when the gap fires
                             {20, 20e-6}, never);
  };
  const ChargingResult full = run(1);
  for (const double setting : {0.3, 0.5, 0.8, 1.2}) {
    const ChargingResult r = run(setting);
    const JointLoad &breaker = r.joints[0], &variac = r.joints[1];
    expect_close(breaker.rms_v, 230, 0.01, "the wall stays the wall");
    expect_close(variac.rms_v, 230 * setting, 0.01);
    expect_close(breaker.rms_v * breaker.rms_a, variac.rms_v * variac.rms_a, 1e-3,
                 "all but the tenth of a milliampere that its core takes");
    expect_close(r.line_current_a, breaker.rms_a, 1e-2);
    expect_close(r.line_current_a, full.line_current_a * setting * setting, 0.02, "the square of the setting");
    expect_close(r.power_factor, full.power_factor, 0.02, "it turns no phase");
    EXPECT_EQ(r.breaker_used, r.line_current_a / 16);
  }
}

TEST(variac, a_capacitor_before_it_draws_the_same_whatever_the_setting) {
  const double farad = 60e-6, alone = 230 * 2 * pi * 50 * farad;
  for (const double setting : {0.05, 0.2}) { // so low that the rest hardly counts
    const auto line = [&](std::vector<FeedBlock> feed) {
      feed.push_back(block("transformer"));
      return simulate_charging(with_feed(feed, 1e6), {20, 20e-6}, never).line_current_a;
    };
    const FeedBlock capacitor = block("power-factor-capacitor", {{"capacitance_f", farad}});
    const FeedBlock variac = block("variac", {{"setting", setting}, {"idle_a", 1e-4}});
    expect_close(line({capacitor, variac}), alone, 0.05);
    EXPECT_LT(line({variac, capacitor}), 0.1 * alone) << "behind it, by the square of the setting";
  }
}

TEST(charging, a_feed_that_cannot_work_says_why) {
  const auto problem = [](std::vector<FeedBlock> feed) { return feed_problem(feed); };
  EXPECT_THAT(problem({}), HasSubstr("no feed yet"));
  EXPECT_THAT(problem({block("breaker")}), HasSubstr("no transformer"));
  EXPECT_THAT(problem({block("transformer"), block("variac")}), HasSubstr("before the transformer"));
  EXPECT_THAT(problem({block("bridge"), block("transformer")}), HasSubstr("needs a transformer before it"));
  EXPECT_THAT(problem({block("transformer"), block("charging-choke")}), HasSubstr("direct current"));
  EXPECT_THAT(problem({block("transformer"), block("bridge"), block("level-shifter")}),
              HasSubstr("rectifier already"));
  EXPECT_THAT(problem({block("transformer"), block("oven-transformers")}), HasSubstr("already"));
  Design d = with_feed({}, 1e4);
  EXPECT_THROW(simulate_charging(d, {}, never), std::invalid_argument);
}

TEST(charging, every_block_has_words_and_a_standard_that_is_in_range) {
  for (const BlockKind& kind : block_kinds()) {
    EXPECT_FALSE(kind.caution.empty()) << kind.key;
    for (const BlockNumber& number : kind.numbers) {
      EXPECT_GE(number.standard, number.minimum) << kind.key << " " << number.key;
      EXPECT_LE(number.standard, number.maximum) << kind.key << " " << number.key;
    }
    const FeedBlock made = make_block(kind.key);
    EXPECT_EQ(made.values.size(), kind.numbers.size());
  }
  Design d = demo_design();
  d.feed[0].unknown.set("colour", "grey");
  EXPECT_EQ(read_design(write_design(d)), d) << "the feed survives the file, unknown keys and all";
}

TEST(breaker, holds_and_trips_where_the_standard_says) { // IEC 60898-1, from memory
  EXPECT_TRUE(std::isinf(breaker_trip_s(16, 17, false)));
  expect_close(breaker_trip_s(16, 16 * 1.45, false), 3600, 0.01);
  expect_close(breaker_trip_s(16, 16 * 2.55, false), 30, 0.01);
  EXPECT_LT(breaker_trip_s(16, 16 * 5.5, false), 0.1);
  EXPECT_GT(breaker_trip_s(16, 16 * 5.5, true), 0.1) << "type C waits for a motor to start";
}

// --- joints, diodes, safety gaps

TEST(joints, every_block_and_the_tank_say_what_they_carry) {
  const Design d = demo_design();
  const ChargingResult r = simulate_charging(d, {20, 20e-6}, never);
  ASSERT_EQ(r.joints.size(), d.feed.size() + 1);
  for (const JointLoad& j : r.joints) {
    EXPECT_GT(j.peak_v, 0) << j.title;
    EXPECT_GE(j.peak_v, j.rms_v) << j.title;
    EXPECT_GE(j.peak_a, j.rms_a) << j.title;
    EXPECT_GT(j.rms_a, 0) << j.title;
    EXPECT_EQ(j.mains, j.peak_v < 400) << j.title;
  }
  expect_close(r.joints.front().rms_a, r.line_current_a, 0.01, "the breaker carries the line's current");
  expect_close(r.joints.front().rms_v, d.site.mains_voltage_v, 0.01);
  // The capacitor takes the lag away: before it there is less current than behind it.
  const auto at = [&](const char* kind) {
    return static_cast<std::size_t>(std::ranges::find(d.feed, kind, &FeedBlock::kind) - d.feed.begin());
  };
  EXPECT_LT(r.joints[at("variac")].rms_a, r.joints[at("power-factor-capacitor")].rms_a);
  EXPECT_GT(r.joints.back().used(), 0.5) << "the tank against its rating";
}

TEST(joints, without_a_load_a_series_capacitor_carries_what_the_shunt_takes) {
  // Mains through 100 uF into 10 uF across the idle transformer: a divider, 10/11 of the volts.
  Design d = with_feed({block("ballast-capacitor", {{"capacitance_f", 100e-6}}),
                        block("power-factor-capacitor", {{"capacitance_f", 10e-6}}),
                        block("transformer", {{"short_circuit_a", 2e-3}, {"resistance_ohm", 1e5}})},
                       1e6);
  d.tank.capacitance_f = 1e-12;
  d.tank.unit_capacitance_f.reset();
  const ChargingResult r = simulate_charging(d, {60, 20e-6}, never);
  expect_close(r.joints[1].rms_v, 230 * 10.0 / 11 * 1.1 * 1.0 / 1.1 * 1.1, 0.1);
  expect_close(r.joints[0].rms_a, 230 * 2 * pi * 50 * (100e-6 * 10e-6 / 110e-6), 0.06);
}

TEST(diodes_in_feed, a_level_shift_doubler_sees_twice_the_peak_and_a_bridge_once) { // textbook cases
  const double peak = 2100 * std::numbers::sqrt2;
  const auto inverse = [&](const char* kind) {
    const Design d =
        with_feed({block("oven-transformers", {{"in_series", 1}, {"leakage_h", 0.05}}), block(kind)}, 1e6);
    const ChargingResult r = simulate_charging(d, {40, 20e-6}, never);
    double most = 0;
    for (const DiodeLoad& load : r.diodes) most = std::max(most, load.inverse_v);
    return most / peak;
  };
  EXPECT_NEAR(inverse("level-shifter"), 2, 0.15);
  EXPECT_NEAR(inverse("full-wave-doubler"), 2, 0.15);
  EXPECT_NEAR(inverse("bridge"), 1, 0.1);
  EXPECT_NEAR(inverse("diode-string"), 2, 0.15) << "a half wave into a capacitor";
}

// Full-wave doubler without load: twice the peak. With a steady load I: the output falls below 2 Vp by less than
// I/(f C) and ripples at twice the mains (circuit theory; Cockcroft-Walton's sum for one stage).
TEST(diodes_in_feed, a_full_wave_doubler_gives_twice_the_peak_and_sags_by_the_charge_it_gives) {
  const double peak = 2100 * std::numbers::sqrt2;
  const auto reached = [&](double farad, double load_ohm) {
    const Design d = with_feed({block("oven-transformers", {{"in_series", 1}, {"leakage_h", 0.05}}),
                                block("full-wave-doubler", {{"capacitance_f", farad}}),
                                block("reservoir", {{"capacitance_f", 1e-9}, {"bleed_resistance_ohm", load_ohm}})},
                               1e6);
    const ChargingResult r = simulate_charging(d, {60, 20e-6}, never);
    double low = 1e9, high = 0;
    for (std::size_t i = r.samples.size() / 2; i < r.samples.size(); ++i) {
      low = std::min(low, r.samples[i].tank_v);
      high = std::max(high, r.samples[i].tank_v);
    }
    return std::pair(low, high);
  };
  EXPECT_NEAR(reached(1e-6, 1e9).second / peak, 2, 0.06);
  const double ohm = 1e5, current = 2 * peak / ohm, charge_v = current / (50 * 2e-6);
  const auto loaded = reached(2e-6, ohm);
  EXPECT_LT(2 * peak - loaded.first, 1.6 * charge_v);
  EXPECT_NEAR((loaded.second - loaded.first) / (charge_v / 2), 1, 0.5) << "peak-to-peak about I / 2 f C";
}

TEST(diodes_in_feed, strings_in_series_count_less_than_their_sum) {
  FeedBlock b = block("bridge", {{"inverse_voltage_v", 1000}, {"average_current_a", 10}});
  EXPECT_DOUBLE_EQ(string_voltage_v(b), 1000);
  b.values["diodes_in_series"] = 20;
  b.values["diodes_in_parallel"] = 2;
  EXPECT_DOUBLE_EQ(string_voltage_v(b), 20000 * diode_voltage_share);
  EXPECT_DOUBLE_EQ(string_current_a(b), 20 * diode_current_share);
}

TEST(safety_gap, holds_the_tank_down_when_the_main_gap_is_too_wide) {
  Design d = with_feed({block("transformer"), block("safety-gap", {{"firing_v", 9000}})}, 1e6);
  const ChargingResult held = simulate_charging(d, {20, 20e-6}, never);
  EXPECT_LT(held.tank_peak_v, 9100);
  EXPECT_GT(held.safety_gaps.front().firings, 9);
  d.feed[1].values["firing_v"] = 90000;
  const ChargingResult free = simulate_charging(d, {20, 20e-6}, never);
  EXPECT_GT(free.tank_peak_v, 12000) << "resonance with the leakage lifts it";
  EXPECT_EQ(free.safety_gaps.front().firings, 0);
}

TEST(safety_gap, across_a_choke_and_in_the_filter_it_is_part_of_the_circuit) {
  Design d = with_feed({block("oven-transformers", {{"in_series", 1}}), block("bridge"), block("reservoir"),
                        block("charging-choke", {{"safety_gap_v", 500}}),
                        block("protection-filter", {{"safety_gap_v", 50000}})},
                       2500);
  const ChargingResult r = simulate_charging(d, {20, 20e-6}, never);
  ASSERT_EQ(r.safety_gaps.size(), 2u);
  EXPECT_GT(r.safety_gaps[0].firings, 0) << "500 V stand across the choke after every break";
  EXPECT_EQ(r.safety_gaps[1].firings, 0);
}

TEST(diodes_in_feed, reversed_ones_charge_the_tank_the_other_way_and_against_each_other_not_at_all) {
  const auto feed = [&](double string, double deq) {
    return std::vector{block("oven-transformers", {{"in_series", 1}, {"leakage_h", 0.1}}),
                       block("diode-string", {{"reversed", string}}), block("reservoir"),
                       block("charging-choke", {{"reversed", deq}})};
  };
  for (const double way : {0.0, 1.0}) {
    EXPECT_TRUE(feed_problem(feed(way, way)).empty());
    const ChargingResult r = simulate_charging(with_feed(feed(way, way), 2000), {20, 20e-6}, never);
    ASSERT_FALSE(r.break_voltages_v.empty());
    for (const double v : r.break_voltages_v) EXPECT_EQ(v<0, way> 0.5);
    EXPECT_THAT(feed_problem(feed(way, 1 - way)), HasSubstr("reversed against the rectifier"));
  }
}

// --- sources

TEST(sources, opposed_windings_give_nothing_and_the_reading_tells) {
  const auto feed = [&](double reversed) {
    return std::vector{block("oven-transformers", {{"in_series", 2}, {"reversed", reversed}})};
  };
  EXPECT_THAT(feed_problem(feed(1)), HasSubstr("swap one primary"));
  EXPECT_TRUE(feed_problem(feed(0)).empty());
  EXPECT_EQ(opposed_windings(105, 211, 2), 0);
  EXPECT_EQ(opposed_windings(105, 3, 2), 1);
  EXPECT_EQ(opposed_windings(105, 98, 3), 1);
  EXPECT_EQ(opposed_windings(105, 160, 2), -1) << "fits neither";
  EXPECT_EQ(opposed_windings(0, 160, 2), -1);
  Design three =
      with_feed({block("oven-transformers", {{"in_series", 3}, {"reversed", 1}, {"leakage_h", 0.05}})}, 1e6);
  expect_close(simulate_charging(three, {10, 20e-6}, never).joints[0].rms_v, 2100, 0.1, "one is left of three");
}

TEST(sources, a_push_pull_driver_of_20_microhenries_and_1450_nanofarads_runs_at_30_kilohertz) { // common practice
  expect_close(driver_hz(20e-6, 1.45e-6), 30e3, 0.02);
  EXPECT_DOUBLE_EQ(driver_switch_peak_v(24), pi * 24);
  const Design d = with_feed({block("breaker"), block("flyback-driver")}, 9000);
  const ChargingResult r = simulate_charging(d, {50, 20e-6}, never);
  EXPECT_GT(r.break_rate_hz, 1);
  for (const double v : r.break_voltages_v) expect_close(v, 9000, 1e-3, "direct current: always the same sign");
  EXPECT_GT(r.input_power_w, r.tank_power_w);
  expect_close(r.joints[0].rms_a, r.line_current_a, 1e-9);
  EXPECT_THAT(feed_problem({block("variac"), block("flyback-driver")}), HasSubstr("no effect"));
}

TEST(sources, ignition_coils_are_driven_by_the_edge_of_a_dimmer_and_not_by_the_sine) {
  const auto feed = [&](std::vector<FeedBlock> before, double farad) {
    before.push_back(block("ballast-capacitor", {{"capacitance_f", farad}}));
    before.push_back(block("ignition-coils"));
    return with_feed(before, 1e6);
  };
  // Between its edges the primaries see what the ballast capacitor lets through to their few millihenries: volts.
  const double sine = simulate_charging(feed({}, 40e-6), {20, 20e-6}, never).joints.back().rms_v;
  const ChargingResult edge = simulate_charging(feed({block("dimmer")}, 40e-6), {20, 20e-6}, never);
  EXPECT_GT(edge.joints.back().rms_v, 2 * sine) << "the capacitor's charge is thrown into the primaries";
  Design small = feed({block("dimmer")}, 5e-6), large = feed({block("dimmer")}, 40e-6);
  small.gap.firing_voltage_v = large.gap.firing_voltage_v = 1200;
  EXPECT_LT(simulate_charging(small, {20, 20e-6}, never).tank_power_w,
            simulate_charging(large, {20, 20e-6}, never).tank_power_w);
}

TEST(feed, blocks_are_put_where_they_belong) {
  SharedList<FeedBlock> feed;
  for (const char* kind : {"protection-filter", "transformer", "variac", "bridge", "contactor"})
    add_block(feed, make_block(kind));
  std::vector<std::string> order;
  for (const FeedBlock& b : feed) order.push_back(b.kind);
  EXPECT_THAT(order, testing::ElementsAre("variac", "contactor", "transformer", "protection-filter", "bridge"));
  EXPECT_TRUE(feed_problem(feed).empty());
}

TEST(feed, every_source_and_every_block_behind_it_runs) {
  for (const BlockKind& kind : block_kinds()) {
    if (!kind.serves(FeedEnd::tank)) continue;
    SharedList<FeedBlock> feed{make_block(is_source(kind.key) ? kind.key : "transformer")};
    if (kind.needs_direct) feed.push_back(make_block("bridge"));
    if (!is_source(kind.key)) add_block(feed, make_block(kind.key));
    if (kind.key == "electrolytics")
      feed.back().values["unit_capacitance_f"] = 1e-6; // of a bus, it would never fill
    const Design d = with_feed(feed, 5000);
    ASSERT_TRUE(feed_problem(feed).empty()) << kind.key;
    const ChargingResult r = simulate_charging(d, {10, 20e-6}, never);
    EXPECT_GT(r.tank_peak_v, 1000) << kind.key;
    EXPECT_TRUE(std::isfinite(r.input_power_w)) << kind.key;
    EXPECT_EQ(r.joints.size(), feed.size() + 1) << kind.key;
    if (kind.key == "dimmer") continue;
    EXPECT_THAT(charging_netlist(d, {}), HasSubstr(".meas tran break_rate_hz")) << kind.key;
  }
}

// Whatever stands in a path to a tank, every judgement on it can be made.
TEST(feed, every_block_of_a_path_is_judged) {
  for (const BlockKind& kind : block_kinds()) {
    if (!kind.serves(FeedEnd::tank)) continue;
    SharedList<FeedBlock> feed{make_block(is_source(kind.key) ? kind.key : "transformer")};
    if (kind.needs_direct) feed.push_back(make_block("bridge"));
    if (!is_source(kind.key)) add_block(feed, make_block(kind.key));
    const Design d = with_feed(feed, 5000);
    PowerOptions plain;
    plain.advice = plain.variac = false;
    EXPECT_EQ(analyse_power(d, analyse(d), plain, UnitSystem::metric, never).kind, "spark-gap") << kind.key;
  }
}

TEST(feed, a_string_of_electrolytics_that_bleeds_slowly_is_found_and_its_remedy_helps) {
  Design d = with_feed(
      {block("oven-transformers"), block("bridge"),
       block("electrolytics", {{"unit_capacitance_f", 2e-5}, {"units_in_series", 16}, {"unit_bleed_ohm", 10e6}})},
      2500);
  const auto found = [&]() -> std::optional<Finding> {
    PowerOptions plain;
    plain.advice = plain.variac = false;
    for (const Finding& f : analyse_power(d, analyse(d), plain, UnitSystem::metric, never).findings)
      if (f.id == "reservoir-bleeds-slowly") return f;
    return {};
  };
  const auto slow = found();
  ASSERT_TRUE(slow);
  EXPECT_EQ(slow->field, "block 3 unit_bleed_ohm");
  slow->apply(d);
  EXPECT_LT(block_value(d.feed[2], "unit_bleed_ohm"), 10e6);
  EXPECT_FALSE(found());
}

// --- rotors

Design rotary() {
  Design d = with_feed({block("transformer")}, 12500);
  d.gap.rotary_electrodes = 2;
  d.gap.rotor_speed_hz = 50;
  d.gap.rotor_radius_m = 0.15;
  d.gap.rotor_clearance_m = 1.5e-3;
  d.gap.spacing_m.reset();
  return d;
}

TEST(rotor, fires_at_its_presentations_only) {
  const Design d = rotary();
  const ChargingResult r = simulate_charging(d, {20, 20e-6}, never);
  ASSERT_GT(r.break_times_s.size(), 10u);
  for (const double t : r.break_times_s) {
    const double turns = (t - 0.5 / 100) * 100;
    EXPECT_LT(std::abs(turns - std::round(turns)) / 100, 2e-3) << "within the dwell";
  }
  EXPECT_LE(r.break_rate_hz, 101);
}

TEST(rotor, locked_to_the_mains_every_break_is_alike_and_the_phase_decides_how_strong) {
  Design d = rotary();
  const auto volts = [&](double phase) {
    d.gap.rotor_phase_deg = phase;
    const ChargingResult r = simulate_charging(d, {40, 20e-6}, never);
    double low = 1e9, high = 0;
    for (std::size_t i = r.break_voltages_v.size() / 2; i < r.break_voltages_v.size(); ++i) {
      low = std::min(low, std::abs(r.break_voltages_v[i]));
      high = std::max(high, std::abs(r.break_voltages_v[i]));
    }
    EXPECT_LT(high / low, 1.05) << "phase " << phase;
    return (low + high) / 2;
  };
  EXPECT_GT(std::abs(volts(100) / volts(170) - 1), 0.1);
}

TEST(rotor, its_threshold_is_lowest_when_the_electrodes_face_each_other) {
  const Design d = rotary();
  const GapModel model = gap_model(d.gap, d.site);
  const double facing = model.threshold_v(model.first_s);
  expect_close(facing, gap_breakdown_v(d.gap.rotor_clearance_m, model.electrode_diameter_m, model.air_density),
               1e-9);
  expect_close(model.threshold_v(model.first_s + 3 / model.rate_hz), facing, 1e-6, "again at every presentation");
  double before = facing;
  for (double away = 5e-5; away < 0.4 / model.rate_hz; away *= 1.5) {
    EXPECT_GT(model.threshold_v(model.first_s + away), before);
    before = model.threshold_v(model.first_s + away);
  }
  EXPECT_EQ(model.dwell_s(0.9 * facing), 0);
  EXPECT_GT(model.dwell_s(2 * facing), model.dwell_s(1.5 * facing));
  // A faster rotor dwells shorter: by its speed.
  Design fast = d;
  fast.gap.rotor_radius_m *= 2;
  expect_close(gap_model(fast.gap, fast.site).dwell_s(2 * facing), model.dwell_s(2 * facing) / 2, 1e-6);
}

TEST(rotor, a_static_gap_in_series_adds_its_own_voltage) {
  Design d = rotary();
  const double alone = gap_model(d.gap, d.site).threshold_v(0.005);
  d.gap.spacing_m = 5e-4;
  d.gap.electrode_diameter_m = 0.022;
  d.gap.gaps_in_series = 1;
  Design plain = d;
  plain.gap.spacing_m.reset();
  EXPECT_GT(gap_model(d.gap, d.site).threshold_v(0.005), alone);
  expect_close(gap_model(d.gap, d.site).threshold_v(0.005) - gap_model(plain.gap, d.site).threshold_v(0.005),
               *computed_firing_v(d.gap, d.site), 1e-9);
}

TEST(charging, progress_is_told_and_a_cancelled_run_keeps_what_it_has) {
  std::vector<int> told;
  simulate_charging(demo_design(), {6, 20e-6}, never, [&](int cycles) { told.push_back(cycles); });
  EXPECT_THAT(told, testing::ElementsAre(1, 2, 3, 4, 5, 6));
  const std::atomic<bool> at_once{true};
  EXPECT_EQ(simulate_charging(demo_design(), {6, 20e-6}, at_once).samples.size(), 1u);
}

} // namespace

TEST(feed, usual_arrangements_make_a_path_that_charges_the_tank) {
  for (const FeedArrangement& each : feed_arrangements())
    for (const double firing_v : {6000.0, 12500.0}) {
      if (each.end != FeedEnd::tank) continue;
      Design d = demo_design();
      d.gap.firing_voltage_v = firing_v;
      d.feed = each.blocks(d);
      EXPECT_EQ(feed_problem(d.feed), "") << each.key;
      EXPECT_EQ(read_design(write_design(d)).feed, d.feed) << each.key;
      const ChargingResult r = simulate_charging(d, {10, 20e-6}, never);
      EXPECT_GT(r.tank_peak_v, (each.key == "ignition" ? 0.1 : 0.25) * firing_v) // those suit small tanks
          << each.key;
      EXPECT_FALSE(each.title.empty() || each.words.empty());
    }
}
