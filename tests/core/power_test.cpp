// The simulated power path as a whole: loads, advice, bands, findings.
#include "analysis/analyse.h"
#include "circuit/feed.h"
#include "circuit/feed_network.h"
#include "crafts/spark_gap/power_bands.h"
#include "crafts/spark_gap/power_rules.h"
#include "parts/bank.h"
#include "parts/gap.h"
#include "simulation/power.h"
#include "support.h"

#include <array>

using namespace arc;
using testing::HasSubstr;

namespace {

SparkGapRun power_of(const Design& d, PowerOptions options = {}) {
  return analyse_power(d, analyse(d), options, UnitSystem::metric, never);
}

// Without trial changes: fast.
SparkGapRun plain(const Design& d) {
  PowerOptions options;
  options.advice = false;
  return power_of(d, options);
}

const Finding* find_in(const SparkGapRun& p, const std::string& id) {
  const auto it = std::ranges::find(p.findings, id, &Finding::id);
  return it == p.findings.end() ? nullptr : &*it;
}

FeedBlock* block_in(Design& d, const char* kind) {
  return &*std::ranges::find(d.feed, kind, &FeedBlock::kind);
}

TEST(power, the_units_carry_what_the_shot_and_the_break_rate_ask_of_them) {
  const Design d = demo_design();
  const SparkGapRun p = plain(d);
  ASSERT_EQ(p.duty.stress.size(), 1u);
  EXPECT_TRUE(p.rate_from_feed);
  expect_close(p.break_rate_hz, p.charging.break_rate_hz, 1e-12);
  // One string: every unit carries the whole current. Energy each second: I^2 T is that of one shot times the rate.
  expect_close(p.duty.stress[0].rms_a, p.shot.tank_rms_a * std::sqrt(500e-6 * p.break_rate_hz), 1e-9);
  // dV/dt of a tank is its peak current over its capacitance.
  expect_close(p.duty.load.slope_v_per_s, p.shot.primary_peak_a / tank_capacitance_f(d.tank), 0.02);
  EXPECT_GT(p.duty.stress[0].worst_v, p.duty.stress[0].peak_v);
  EXPECT_GT(*p.duty.stress[0].dissipation_w, 0);
  EXPECT_TRUE(p.duty.stress[0].missing.empty()) << "the demo states its ratings";
}

TEST(power, without_a_feed_the_entered_rate_counts) {
  Design d = demo_design();
  d.feed.clear();
  const SparkGapRun p = plain(d);
  EXPECT_FALSE(p.charging_problem.empty());
  EXPECT_FALSE(p.rate_from_feed);
  EXPECT_EQ(p.break_rate_hz, d.gap.break_rate_hz);
  EXPECT_GT(p.duty.stress[0].rms_a, 0);
  ASSERT_NE(find_in(p, "feed-missing"), nullptr);
}

TEST(power, without_a_resonator_the_feed_still_charges) {
  Design d = demo_design();
  d.topload[0].centre_above_winding_m = -1;
  const SparkGapRun p = power_of(d);
  EXPECT_FALSE(p.shot_problem.empty());
  EXPECT_GT(p.charging.break_rate_hz, 0);
  EXPECT_TRUE(p.changes.empty());
}

TEST(power, the_variac_table_holds_the_present_setting_once) {
  const SparkGapRun p = plain(demo_design());
  ASSERT_EQ(p.variac.size(), 7u);
  expect_close(p.variac.back().charging.line_current_a, p.charging.line_current_a, 1e-12);
  EXPECT_LT(p.variac.front().charging.input_power_w, p.variac.back().charging.input_power_w);
  EXPECT_TRUE(p.variac.front().charging.samples.empty());
  Design turned = demo_design();
  std::ranges::find(turned.feed, "variac", &FeedBlock::kind)->values["setting"] = 0.75;
  const SparkGapRun at = plain(turned);
  ASSERT_EQ(at.variac.size(), 8u) << "one that stands between the usual ones joins them";
  const auto present = std::ranges::find(at.variac, true, &VariacPoint::present);
  ASSERT_TRUE(present != at.variac.end());
  EXPECT_EQ(present->setting, 0.75);
  EXPECT_EQ(present->charging.line_current_a, at.charging.line_current_a);
}

TEST(power, energy_is_caught_lost_in_the_gap_or_left_behind) {
  const SparkGapRun p = power_of(demo_design());
  ASSERT_EQ(p.quench.size(), 3u);
  double before = 0;
  for (const QuenchCase& c : p.quench) {
    EXPECT_LT(c.caught_j + c.gap_loss_j + c.left_j, p.shot.tank_energy_j * 1.01) << c.notch;
    EXPECT_GT(c.caught_j + c.gap_loss_j + c.left_j, 0.75 * p.shot.tank_energy_j) << "the rest heats the windings";
    EXPECT_GT(c.gap_loss_j, before) << "longer burning loses more";
    before = c.gap_loss_j;
  }
  EXPECT_THAT(quench_advice(p, demo_design()), HasSubstr("Quench at the first"));
}

TEST(power, tuning_is_the_best_single_change_of_a_coil_that_is_off_tune) {
  Design d = demo_design();
  d.primary.tap_turns = 9.6;
  const SparkGapRun p = power_of(d);
  ASSERT_FALSE(p.changes.empty());
  EXPECT_THAT(p.changes.front().title, HasSubstr("Move the tap out"));
  EXPECT_GT(p.changes.front().merit, 1.1);
  Design after = d;
  p.changes.front().apply(after);
  const SparkGapRun again = power_of(after);
  EXPECT_GT(again.shot.secondary_peak_j / again.shot.tank_energy_j, p.shot.secondary_peak_j / p.shot.tank_energy_j)
      << "and it keeps its promise";
  for (std::size_t i = 1; i < p.changes.size() && p.changes[i].stop.empty(); ++i)
    EXPECT_LE(p.changes[i].merit, p.changes[i - 1].merit);
}

TEST(power, a_wider_gap_costs_the_capacitors_margin) {
  const Design d = demo_design();
  const SparkGapRun p = power_of(d);
  ASSERT_TRUE(p.wider_gap);
  expect_close(p.wider_gap->unit_used, 1.1 * d.gap.firing_voltage_v / *tank_voltage_limit_v(d.tank, 1), 1e-3);
  EXPECT_LT(p.wider_gap->break_rate_hz, p.break_rate_hz) << "a fuller tank fires less often";
  Design wider = d;
  set_firing_voltage(wider, 1.1 * d.gap.firing_voltage_v);
  expect_close(*computed_firing_v(wider.gap, wider.site), wider.gap.firing_voltage_v, 1e-3, "spacing follows");
}

TEST(power, bands_shrink_with_the_tolerances) {
  Design d = demo_design();
  const SparkGapRun wide = power_of(d);
  for (const char* key : {"top_peak_v", "primary_peak_a", "secondary_peak_j"})
    EXPECT_GT(wide.band.at(key), 0) << key;
  EXPECT_LT(wide.band.at("top_peak_v"), 0.3 * wide.shot.top_peak_v);
  d.measurements.push_back(measured("tank", 236.5e3, 10.5));
  for (const char* key : {"tank", "primary_radius", "pitch", "clip"}) d.tolerances[key] = 0;
  EXPECT_LT(power_of(d).band.at("top_peak_v"), wide.band.at("top_peak_v"));
}

TEST(power, figures_of_the_feed_carry_what_mains_gap_and_tank_leave_open) {
  Design d = demo_design();
  std::erase_if(d.feed.own(), [](const FeedBlock& b) { return b.kind == "safety-gap"; });
  const std::atomic<bool> at_once{true};
  Kept kept;
  EXPECT_TRUE(
      charging_bands(d, simulate_charging(d, {10, 20e-6}, never), {10, 20e-6}, work_in(kept, at_once)).empty());
  const SparkGapRun p = power_of(d);
  for (const char* key : {"break_rate_hz", "tank_power_w", "input_power_w", "line_current_a"})
    EXPECT_GT(p.band.at(key), 0) << key;
  EXPECT_LT(p.band.at("input_power_w"), 0.5 * p.charging.input_power_w);
  // A linear load that is silent: its power goes with the square of the mains, and nothing else moves it but the
  // tank.
  d.feed = {make_block("transformer"), make_block("bridge")};
  d.gap.firing_voltage_v = 1e6;
  d.tolerances["tank"] = 0;
  const ChargingResult silent = simulate_charging(d, {20, 20e-6}, never);
  expect_close(charging_bands(d, silent, {20, 20e-6}, work_in(kept)).at("input_power_w"),
               silent.input_power_w * (1.05 * 1.05 - 1), 0.02);
}

TEST(power, lumped_and_distributed_agree_on_the_main_figures) {
  PowerOptions lumped;
  lumped.lumped = true;
  lumped.advice = false;
  const SparkGapRun one = power_of(demo_design(), lumped), three = plain(demo_design());
  EXPECT_EQ(one.circuit.modes.size(), 1u);
  EXPECT_EQ(three.circuit.modes.size(), 3u);
  expect_close(one.shot.top_peak_v, three.shot.top_peak_v, 0.1);
  expect_close(one.shot.first_notch_s, three.shot.first_notch_s, 0.15); // a quarter of a cycle: the ripple decides
}

TEST(power, half_an_hour_is_judged_by_what_is_stated) {
  Design d = demo_design();
  EXPECT_THAT(long_run_verdict(plain(d).duty, UnitSystem::metric), HasSubstr("No stated rating is exceeded"));
  EXPECT_THAT(long_run_verdict(plain(d).duty, UnitSystem::metric), HasSubstr("in 30 min"));
  d.tank.unit_ratings.dissipation_factor.reset();
  EXPECT_THAT(long_run_verdict(plain(d).duty, UnitSystem::metric), HasSubstr("Not stated: loss factor"));
  d.tank.unit_ratings.rms_current_a = 1;
  EXPECT_THAT(long_run_verdict(plain(d).duty, UnitSystem::metric), HasSubstr("A rating is exceeded"));
  d = demo_design();
  d.tank.unit_ratings.dissipation_factor = 0.02;
  EXPECT_THAT(long_run_verdict(plain(d).duty, UnitSystem::metric), HasSubstr("15 K is the usual limit"));
}

TEST(power, progress_rises_to_its_end_and_cancelling_stops_it) {
  const Design d = demo_design();
  std::vector<double> told;
  analyse_power(d, analyse(d), {}, UnitSystem::metric, never, [&](double share) { told.push_back(share); });
  ASSERT_GT(told.size(), 10u);
  EXPECT_TRUE(std::ranges::is_sorted(told));
  EXPECT_LE(told.back(), 1);
  const std::atomic<bool> at_once{true};
  EXPECT_TRUE(SparkGapRun(analyse_power(d, analyse(d), {}, UnitSystem::metric, at_once)).changes.empty());
}

// --- findings

struct Case {
  const char* id;
  std::function<void(Design&)> spoil;
};

FeedBlock with(const char* kind, std::map<std::string, double> values) {
  FeedBlock block = make_block(kind);
  for (const auto& [key, value] : values) block.values[key] = value;
  return block;
}

const std::array<Case, 23> cases{{
    {"rotor-too-slow",
     [](Design& d) {
       d.gap.rotary_electrodes = 2;
       d.gap.rotor_speed_hz = 0.3;
       d.gap.rotor_radius_m = 0.1;
       d.gap.spacing_m.reset();
     }},
    {"feed-broken", [](Design& d) { d.feed = {make_block("bridge")}; }},
    {"feed-missing", [](Design& d) { d.feed.clear(); }},
    {"coils-on-the-mains",
     [](Design& d) {
       d.feed = {make_block("breaker"), make_block("ignition-coils")};
     }},
    {"rotor-never-fires",
     [](Design& d) {
       d.gap.rotary_electrodes = 8;
       d.gap.rotor_speed_hz = 25;
       d.gap.rotor_clearance_m = 0.03;
     }},
    {"gap-never-fires",
     [](Design& d) {
       d.gap.firing_voltage_v = 400e3;
       block_in(d, "safety-gap")->values["firing_v"] = 900e3;
     }},
    {"breaker-trips", [](Design& d) { block_in(d, "breaker")->values["rated_current_a"] = 1.2; }},
    {"block-overloaded", [](Design& d) { block_in(d, "contactor")->values["rated_current_a"] = 0.5; }},
    {"diodes-overloaded",
     [](Design& d) {
       d.feed = {with("oven-transformers", {}),
                 with("bridge", {{"inverse_voltage_v", 1000}, {"average_current_a", 1}})};
       d.gap.firing_voltage_v = 4000;
     }},
    {"power-factor-low",
     [](Design& d) {
       std::erase_if(d.feed.own(), [](const FeedBlock& b) { return b.kind == "power-factor-capacitor"; });
       d.gap.firing_voltage_v = 4000;
     }},
    {"no-safety-gap",
     [](Design& d) { std::erase_if(d.feed.own(), [](const FeedBlock& b) { return b.kind == "safety-gap"; }); }},
    {"safety-gap-fires", [](Design& d) { block_in(d, "safety-gap")->values["firing_v"] = 9000; }},
    {"reservoir-bleeds-slowly",
     [](Design& d) {
       d.feed.push_back(make_block("bridge"));
       d.feed.push_back(with("reservoir", {{"capacitance_f", 2e-6}, {"bleed_resistance_ohm", 100e6}}));
     }},
    {"tank-over-volted",
     [](Design& d) { // a rotor that comes by too seldom, and no safety gap
       d.feed = {make_block("transformer")};
       d.gap.rotary_electrodes = 2;
       d.gap.rotor_speed_hz = 50;
       d.gap.spacing_m.reset();
     }},
    {"voltage-differs",
     [](Design& d) {
       d.feed = {make_block("transformer")};
       d.gap.firing_voltage_v = 25e3;
       d.gap.rotary_electrodes = 8;
       d.gap.rotor_speed_hz = 50;
       d.gap.spacing_m.reset();
     }},
    {"rate-differs", [](Design& d) { d.gap.break_rate_hz = 900; }},
    {"unit-over-current", [](Design& d) { d.tank.unit_ratings.rms_current_a = 2; }},
    {"unit-too-steep", [](Design& d) { d.tank.unit_ratings.slope_v_per_s = 5e8; }},
    {"unit-warm", [](Design& d) { d.tank.unit_ratings.dissipation_factor = 0.02; }},
    {"gap-takes-much", [](Design& d) { d.gap.arc_resistance_ohm = 3; }},
    {"gap-hot",
     [](Design& d) {
       d.gap.gaps_in_series = 1;
       d.gap.arc_drop_v = 150;
     }},
    {"choke-slow",
     [](Design& d) {
       d.feed = {make_block("oven-transformers"), make_block("bridge"), make_block("reservoir"),
                 with("charging-choke", {{"inductance_h", 200}, {"safety_gap_v", 9000}})};
       d.gap.firing_voltage_v = 5000;
       d.gap.break_rate_hz = 400;
     }},
    {"dwell-long",
     [](Design& d) {
       d.gap.rotary_electrodes = 2;
       d.gap.rotor_speed_hz = 10;
       d.gap.rotor_radius_m = 0.01;
       d.gap.spacing_m.reset();
     }},
}};

TEST(power, a_tank_that_resonates_with_the_mains_asks_louder_for_a_safety_gap) {
  Design d = demo_design();
  std::erase_if(d.feed.own(), [](const FeedBlock& b) { return b.kind == "safety-gap"; });
  const SparkGapRun apart = plain(d);
  EXPECT_EQ(find_in(apart, "no-safety-gap")->severity, Severity::note);
  *d.tank.unit_capacitance_f *= *mains_resonant_capacitance_f(d) / tank_capacitance_f(d.tank);
  const SparkGapRun at = plain(d);
  EXPECT_EQ(find_in(at, "no-safety-gap")->severity, Severity::warning);
  EXPECT_THAT(find_in(at, "no-safety-gap")->text, HasSubstr("1.00 times"));
}

class EachPowerFinding : public testing::TestWithParam<int> {};

TEST_P(EachPowerFinding, speaks_with_number_and_remedy_and_its_remedy_works) {
  const Case& item = cases[static_cast<std::size_t>(GetParam())];
  Design d = demo_design();
  item.spoil(d);
  const SparkGapRun p = plain(d);
  const Finding* finding = find_in(p, item.id);
  ASSERT_NE(finding, nullptr) << item.id;
  EXPECT_FALSE(finding->title.empty() || finding->text.empty() || finding->remedy.empty() ||
               finding->stage.empty());
  EXPECT_TRUE(std::isfinite(finding->value) && std::isfinite(finding->limit));
  EXPECT_EQ(find_in(plain(demo_design()), item.id) == nullptr, std::string(item.id) != "rate-differs")
      << "the demo has none of these, but for its rate";
  if (!finding->apply) return;
  finding->apply(d);
  EXPECT_EQ(find_in(plain(d), item.id), nullptr) << "“" << finding->remedy << "” does not cure " << item.id;
}

INSTANTIATE_TEST_SUITE_P(table, EachPowerFinding, testing::Range(0, static_cast<int>(cases.size())),
                         [](const auto& item) {
                           std::string name = cases[static_cast<std::size_t>(item.param)].id;
                           std::ranges::replace(name, '-', '_');
                           return name;
                         });

TEST(power_findings, all_come_worst_first) {
  Design d = demo_design();
  d.tank.unit_ratings.rms_current_a = 2;
  const Analysis a = analyse(d);
  PowerOptions options;
  options.advice = options.variac = false;
  const PowerAnalysis p = analyse_power(d, a, options, UnitSystem::metric, never);
  const auto all = all_findings(a, &p);
  EXPECT_EQ(all.size(), a.findings.size() + p.findings.size());
  EXPECT_TRUE(std::ranges::is_sorted(all, {}, [](const Finding& f) { return static_cast<int>(f.severity); }));
  EXPECT_EQ(all_findings(a, nullptr).size(), a.findings.size());
}

} // namespace
