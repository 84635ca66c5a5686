// The path from the wall to a bridge's bus: what it charges, draws and limits, against closed forms, and its
// blocks.
#include "random.h"
#include "support.h"

#include "circuit/feed.h"
#include "circuit/feed_arrangements.h"
#include "craft/finding.h"
#include "crafts/bridges/mains.h"

#include <cmath>
#include <numbers>

namespace arc::mains_tests {
namespace {

using testing::HasSubstr;
using Values = std::map<std::string, double>;

const std::atomic<bool> never{false};
constexpr double crest_v = 230 * std::numbers::sqrt2;

FeedBlock block(std::string_view kind, const Values& values = {}) {
  FeedBlock out = make_block(kind);
  for (const auto& [key, value] : values) {
    EXPECT_TRUE(out.values.contains(key)) << kind << " " << key;
    out.values[key] = value;
  }
  return out;
}

const FeedBlock rectifier = block("bridge", {{"inverse_voltage_v", 800}, {"average_current_a", 25}});
FeedBlock store(double farad, const Values& more = {}) {
  Values values{{"unit_capacitance_f", farad}, {"unit_esr_ohm", 0}};
  values.insert(more.begin(), more.end());
  return block("electrolytics", values);
}

MainsResult run(const std::vector<FeedBlock>& feed, const MainsLoad& load = {}, double hz = 50) {
  Site site;
  site.mains_frequency_hz = hz;
  return simulate_mains(feed, site, load, never);
}

// A load of so many watts in bursts of 100 us.
MainsLoad watts(double w, double rate_hz) {
  MainsLoad load;
  load.energy_j = w / rate_hz;
  load.at_v = crest_v;
  load.on_s = 100e-6;
  load.rate_hz = rate_hz;
  return load;
}

// A triac is fired for a moment and held by its current alone (common practice, no source): a bus that stands above
// the line at that moment is not charged later in the same half cycle, and not by the half cycle after.
TEST(mains, behind_a_dimmer_current_begins_where_it_fires_and_nowhere_else) {
  constexpr double held_a = 0.02;
  for (const double angle_deg : {30.0, 60.0, 90.0, 130.0, 150.0}) {
    const MainsResult r =
        run({block("dimmer", {{"angle_deg", angle_deg}}), rectifier, store(150e-6)},
            watts(150, angle_deg == 150 ? 120 : 400)); // at 150 degrees a burst begins with the firing
    int begun = 0, half_cycles = 0;
    for (std::size_t i = 1; i < r.samples.size(); ++i) {
      const double half = 100 * r.samples[i].time_s, place = half - std::floor(half);
      half_cycles += std::floor(half) > std::floor(100 * r.samples[i - 1].time_s);
      if (std::abs(r.samples[i].line_a) < held_a || std::abs(r.samples[i - 1].line_a) >= held_a) continue;
      ++begun;
      EXPECT_GE(place, angle_deg / 180 - 1e-6) << angle_deg;
      EXPECT_LE(place, angle_deg / 180 + 0.03) << angle_deg;
    }
    EXPECT_GT(begun, 1) << angle_deg;
    if (angle_deg > 90) {
      for (const MainsSample& at : r.samples)
        EXPECT_LT(at.bus_v, 1.02 * crest_v * std::sin(angle_deg / 180 * std::numbers::pi));
    }
    if (angle_deg < 60) {
      EXPECT_LT(begun, half_cycles / 2) << "the bus must fall to half the crest first";
    }
  }
}

// Kirchhoff: an empty capacitor is a short circuit, so that the crest stands over what is in series. Through a
// resistor that makes the time constant short against the mains, charging costs as much as is stored (any textbook
// of circuits).
TEST(mains, the_inrush_of_a_reservoir_charged_from_zero_is_the_crest_over_the_resistance) {
  for (const double ohm : {5.0, 22.0, 100.0}) {
    const double farad = 1.5e-3 / ohm; // 1.5 ms
    const MainsResult r =
        run({block("inrush-limiter", {{"resistance_ohm", ohm}, {"relay_after_s", 0}}), rectifier, store(farad)});
    EXPECT_NEAR(r.inrush_a, crest_v / (ohm + 0.15 + 2 * 0.03), 0.01 * r.inrush_a) << "wiring and two diodes";
    const double stored_j = farad * crest_v * crest_v / 2;
    EXPECT_LT(r.limiter_j, 1.02 * stored_j) << ohm;
    EXPECT_GT(r.limiter_j, 0.8 * stored_j) << "the mains falls meanwhile, and wiring takes its share";
    EXPECT_TRUE(r.charged);
  }
}

TEST(mains, the_unloaded_bus_is_the_crest_or_twice_it_times_the_variac) {
  const FeedBlock doubler = block("full-wave-doubler", {{"capacitance_f", 1e-3}, {"bleed_resistance_ohm", 47e3}});
  for (const double setting : {0.1, 0.5, 1.0}) {
    const FeedBlock variac = block("variac", {{"setting", setting}});
    EXPECT_NEAR(run({variac, rectifier, store(1e-3)}).bus_v, setting * crest_v, 0.01 * setting * crest_v);
    EXPECT_NEAR(run({variac, doubler}).bus_v, 2 * setting * crest_v, 0.02 * setting * crest_v);
    EXPECT_DOUBLE_EQ(unloaded_bus_v({variac, doubler}, 230), 2 * setting * crest_v);
  }
}

// Handbook: the ripple of a full-wave rectifier is at most I / (2 f C), its conduction time neglected, and the less
// of it the longer the diodes conduct.
TEST(mains, ripple_stays_under_the_handbooks_bound_and_near_it) {
  for (const double hz : {50.0, 60.0})
    for (const double w : {150.0, 600.0}) {
      const MainsLoad load = watts(w, 1000);
      const MainsResult r = run({rectifier, store(2e-3)}, load, hz);
      const double amps = r.input_power_w / r.bus_v, bound = amps / (2 * hz * 2e-3);
      EXPECT_LT(r.ripple_v, 1.05 * bound) << hz << " " << w;
      EXPECT_GT(r.ripple_v, 0.6 * bound) << hz << " " << w;
    }
}

TEST(mains, the_line_gives_what_the_bursts_take_and_the_resistances_burn) {
  const MainsLoad load = watts(400, 300);
  const MainsResult r = run({rectifier, store(3e-3, {{"unit_bleed_ohm", 1e9}})}, load);
  // A burst takes less from a bus that has sagged, with the square of it.
  const double taken = 400 * std::pow(r.start_v / crest_v, 2);
  EXPECT_GT(r.input_power_w, taken);
  EXPECT_LT(r.input_power_w, 1.05 * taken);
  EXPECT_NEAR(r.droop_v, load.energy_j / (3e-3 * r.start_v), 0.1 * r.droop_v) << "dV = E / (C V)";
  EXPECT_LT(r.recovered, 0.1) << "three bursts to two crests: one of them finds nothing new";
  EXPECT_NEAR(run({rectifier, store(3e-3)}, watts(400, 50)).recovered, 1, 0.02);
  EXPECT_LT(r.power_factor, 0.75)
      << "a reservoir straight behind a rectifier draws at the crests (common practice)";
  EXPECT_GT(r.power_factor, 0.35);
}

TEST(mains, a_choke_in_the_line_lifts_the_power_factor_and_lowers_the_current) {
  const MainsLoad load = watts(800, 400);
  const MainsResult bare = run({rectifier, store(2e-3)}, load);
  const MainsResult choked =
      run({block("ballast-inductor", {{"inductance_h", 0.012}}), rectifier, store(2e-3)}, load);
  EXPECT_GT(choked.power_factor, bare.power_factor + 0.1);
  EXPECT_LT(choked.line_current_a, bare.line_current_a);
  EXPECT_LT(choked.inrush_a, bare.inrush_a / 10);
}

TEST(mains, a_relay_that_closes_too_early_brings_the_inrush_back) {
  const auto after = [](double s) {
    return run({block("inrush-limiter", {{"resistance_ohm", 47}, {"relay_after_s", s}}), rectifier, store(3e-3)});
  };
  double before = 1e9;
  for (const double s : {0.05, 0.3, 1.0, 2.5, 5.0}) {
    EXPECT_LT(after(s).surge_2_a, 0.9 * before) << s;
    before = after(s).surge_2_a;
  }
  EXPECT_GT(after(0.05).surge_2_a, 300);
  EXPECT_LT(after(5).surge_2_a, 30);
  EXPECT_EQ(after(1.5).limiter_w, 0) << "bridged, it burns nothing";
  EXPECT_GT(run({block("inrush-limiter", {{"resistance_ohm", 10}, {"relay_after_s", 0}}), rectifier, store(1e-3)},
                watts(400, 200))
                .limiter_w,
            20);
}

// The balance of heat by itself: I^2 R(T) = D (T - T0), whatever the solution came from.
TEST(mains, a_thermistor_settles_where_its_heat_leaves_it) {
  const FeedBlock limiter = block(
      "inrush-limiter", {{"resistance_ohm", 10}, {"relay_after_s", 0}, {"hot_ohm", 0.3}, {"rated_current_a", 5}});
  const auto t = thermistor_of(limiter);
  ASSERT_TRUE(t);
  EXPECT_DOUBLE_EQ(t->ohm(thermistor_cold_c), 10);
  EXPECT_NEAR(t->settled_ohm(5), 0.3, 1e-6) << "as its data say";
  double before = 10;
  for (const double amps : {0.1, 0.5, 1.0, 2.0, 4.0, 8.0}) {
    const double ohm = t->settled_ohm(amps);
    const double c = thermistor_cold_c + amps * amps * ohm / t->dissipation_w_per_k;
    EXPECT_NEAR(t->ohm(c), ohm, 1e-6 * ohm) << amps;
    EXPECT_LT(ohm, before) << "warmer, it is less";
    before = ohm;
  }
  EXPECT_FALSE(thermistor_of(block("inrush-limiter"))) << "a resistor";
  const MainsResult r = run({limiter, rectifier, store(1e-3)}, watts(300, 200));
  EXPECT_GT(r.limiter_hot_c, 40);
  EXPECT_LT(r.limiter_ohm, 4);
}

TEST(mains, joints_behind_the_reservoir_carry_the_bursts_own_pulses) {
  MainsLoad load = watts(300, 200);
  load.rms_a = 7;
  load.peak_a = 80;
  const MainsResult r = run({block("breaker"), rectifier, store(1e-3), block("fuse"), block("shunt")}, load);
  ASSERT_EQ(r.joints.size(), 6u);
  for (const std::size_t i : {2u, 3u, 4u, 5u}) {
    EXPECT_EQ(r.joints[i].rms_a, 7);
    EXPECT_EQ(r.joints[i].peak_a, 80);
  }
  EXPECT_TRUE(r.joints[0].mains);
  EXPECT_FALSE(r.joints[1].mains);
  EXPECT_NEAR(r.joints[0].rms_v, 230, 0.5);
  EXPECT_NEAR(r.joints[0].rms_a, r.line_current_a, 1e-6 + 0.01 * r.line_current_a);
  EXPECT_GT(r.reservoir_a, 7) << "charging and bursts both heat it";
}

TEST(mains, a_path_to_a_bus_says_what_is_missing_or_out_of_place) {
  const auto problem = [](std::vector<FeedBlock> feed) { return feed_problem(feed, FeedEnd::bus); };
  EXPECT_EQ(problem({rectifier, store(1e-3)}), "");
  EXPECT_THAT(problem({}), HasSubstr("add a rectifier"));
  EXPECT_THAT(problem({block("breaker")}), HasSubstr("no rectifier"));
  EXPECT_THAT(problem({rectifier}), HasSubstr("no reservoir"));
  EXPECT_THAT(problem({rectifier, store(1e-3), block("variac")}), HasSubstr("before the rectifier"));
  EXPECT_THAT(problem({store(1e-3), rectifier}), HasSubstr("needs direct current"));
  EXPECT_THAT(problem({block("transformer"), rectifier, store(1e-3)}), HasSubstr("no place"));
  EXPECT_THAT(problem({rectifier, rectifier, store(1e-3)}), HasSubstr("rectifier already"));
  EXPECT_THAT(problem({block("inrush-limiter"), block("inrush-limiter"), rectifier, store(1e-3)}),
              HasSubstr("there are two"));
  EXPECT_THAT(problem({block("diode-string", {{"reversed", 1}}), store(1e-3)}), HasSubstr("negative"));
  EXPECT_THAT(feed_problem({block("inrush-limiter"), block("transformer")}), HasSubstr("bridge's bus"));
  EXPECT_THROW(run({rectifier}), std::invalid_argument);
}

TEST(mains, usual_arrangements_charge_the_bus_and_trip_nothing) {
  for (const FeedArrangement& each : feed_arrangements()) {
    if (each.end != FeedEnd::bus) continue;
    for (const auto& [mains_v, farad] : {std::pair{230.0, 1e-3}, {120.0, 3e-3}, {230.0, 5e-3}}) {
      Design d;
      Site& site = d.site;
      site.mains_voltage_v = mains_v;
      d.bridge.reservoir_f = farad;
      const auto feed = each.blocks(d);
      ASSERT_EQ(feed_problem(feed, FeedEnd::bus), "") << each.key;
      const MainsResult r = simulate_mains(feed, site, {}, never);
      EXPECT_TRUE(r.charged) << each.key;
      EXPECT_LT(std::max(r.inrush_a, r.surge_2_a),
                4 * std::numbers::sqrt2 * block_value(feed.front(), "rated_current_a"))
          << each.key << ": a breaker of type B";
      for (const JointLoad& j : r.joints) EXPECT_LE(j.used(), 1) << each.key << " " << j.title;
      EXPECT_LT(reservoir_of(feed).bleed_ohm * reservoir_of(feed).capacitance_f * 3, 120) << each.key;
    }
  }
}

// Whatever the path, nothing that is reported contradicts the rest.
TEST(mains, random_paths_give_finite_and_ordered_figures) {
  Random random(77);
  for (int trial = 0; trial < 60; ++trial) {
    std::vector<FeedBlock> feed;
    if (random.coin()) feed.push_back(block("breaker", {{"rated_current_a", random.decade(4, 40)}}));
    if (random.coin()) feed.push_back(block("variac", {{"setting", random.decade(0.2, 1.3)}}));
    if (random.coin()) feed.push_back(block("line-filter", {{"leakage_h", random.decade(1e-4, 1e-2)}}));
    if (random.coin())
      feed.push_back(block("inrush-limiter", {{"resistance_ohm", random.decade(2, 100)},
                                              {"relay_after_s", random.coin() ? random.decade(0.05, 5) : 0},
                                              {"hot_ohm", random.coin() ? random.decade(0.1, 1) : 0}}));
    if (random.coin())
      feed.push_back(rectifier);
    else
      feed.push_back(block("full-wave-doubler", {{"capacitance_f", random.decade(1e-4, 5e-3)}}));
    feed.push_back(
        store(random.decade(1e-4, 1e-2), {{"units_in_series", 2}, {"unit_bleed_ohm", random.decade(5e3, 1e5)}}));
    if (random.coin()) feed.push_back(block("fuse"));
    MainsLoad load = watts(random.decade(5, 1500), random.decade(5, 500));
    load.on_s = random.decade(30e-6, 1.5e-3);
    const MainsResult r = run(feed, load, random.coin() ? 50 : 60);
    EXPECT_GT(r.bus_v, 0) << trial;
    EXPECT_LE(r.bus_least_v, r.bus_v) << trial;
    EXPECT_LE(r.bus_least_v, r.start_v + 1e-6) << trial;
    EXPECT_LT(r.bus_v, 1.5 * r.unloaded_v) << trial;
    EXPECT_GE(r.power_factor, 0) << trial;
    EXPECT_LE(r.power_factor, 1) << trial;
    EXPECT_GE(r.ripple_v, r.droop_v * 0.5) << trial;
    EXPECT_GT(r.inrush_a, 0) << trial;
    if (feed.front().kind == "breaker") {
      EXPECT_NEAR(r.joints.front().rms_v, 230, 12) << trial;
    }
    for (const double each :
         {r.input_power_w, r.limiter_j, r.limiter_w, r.reservoir_a, r.inrush_a2s, r.recovered}) {
      EXPECT_TRUE(std::isfinite(each)) << trial;
      EXPECT_GE(each, 0) << trial;
    }
    EXPECT_EQ(r.joints.size(), feed.size() + 1);
  }
}

TEST(mains, a_cancelled_run_ends_at_once) {
  const std::atomic<bool> stopped{true};
  EXPECT_LT(simulate_mains({rectifier, store(1e-3)}, Site{}, {}, stopped).samples.size(), 400u);
}

TEST(mains, the_bus_is_the_feeds_where_there_is_one_and_else_as_entered) {
  Design d;
  d.kind = "bridge";
  d.bridge.reservoir_f = 500e-6;
  EXPECT_FALSE(bus_of(d).from_feed);
  EXPECT_NEAR(bus_of(d).volts, crest_v, 1e-9);
  EXPECT_EQ(bus_of(d).reservoir.capacitance_f, 500e-6);
  d.feed = {block("variac", {{"setting", 0.5}}), rectifier,
            store(2e-3, {{"units_in_series", 2}, {"units_in_parallel", 3}})};
  EXPECT_TRUE(bus_of(d).from_feed);
  EXPECT_NEAR(bus_of(d).volts, crest_v / 2, 1e-9);
  EXPECT_NEAR(bus_of(d).reservoir.capacitance_f, 3e-3, 1e-12);
  EXPECT_NEAR(bus_of(d).reservoir.limit_v, 900, 1e-9);
  EXPECT_NEAR(bus_of(d).reservoir.bleed_ohm, 22e3, 1e-6);
  d.bridge.bus_voltage_v = 100;
  EXPECT_EQ(bus_of(d).volts, 100) << "what was measured counts";
  d.feed = {block("breaker")};
  EXPECT_FALSE(bus_of(d).from_feed) << "half a path says nothing";
}

} // namespace
} // namespace arc::mains_tests
