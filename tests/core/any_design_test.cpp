// What must hold for every design within the documented ranges: finite and physical figures or one message, in
// bounded time; remedies that help and do no harm. Everyday runs try some; HIGH_ARC_TRIALS=10000 tries them all.
#include "random_designs.h"

#include "analysis/analyse.h"
#include "crafts/bridges/bridge.h"
#include "crafts/spark_gap/charging.h"
#include "crafts/spark_gap/shot.h"
#include "crafts/tubes/tube.h"
#include "file/validity.h"
#include "simulation/figures.h"
#include "simulation/power.h"

#include <chrono>
#include <ctime>
#include <functional>
#include <nlohmann/json.hpp>
#include <set>
#include <thread>

using namespace arc;

namespace {

void expect_physical(const Design& d, const Analysis& a, const std::string& which) {
  EXPECT_TRUE(a.resonator || !a.problem.empty()) << which;
  for (const Figure* r : figures_at_rest(kind_of(d))) {
    if (const auto value = a.computed ? r->value(at_rest(d, a)) : std::nullopt) {
      EXPECT_TRUE(std::isfinite(*value)) << which << " " << r->key;
    }
    const std::string text = value_text(*r, at_rest(d, a), UnitSystem::metric);
    EXPECT_EQ(text.find("nan"), std::string::npos) << which << " " << r->key << " " << text;
  }
  for (const auto& [key, band] : a.band)
    EXPECT_TRUE(std::isfinite(band) && band >= 0) << which << " band of " << key;
  if (a.computed) {
    EXPECT_GT(a.primary_inductance_h, 0) << which;
    EXPECT_TRUE(a.coupling >= 0 && a.coupling < 1) << which << " " << a.coupling;
  }
  if (a.resonator) {
    EXPECT_GT(a.best_mode_1_hz, 0) << which;
  }
  for (const Finding& f : a.findings) {
    EXPECT_TRUE(std::isfinite(f.value) && std::isfinite(f.limit)) << which << " " << f.id;
    EXPECT_EQ(f.title.find("nan"), std::string::npos) << which << " " << f.title;
  }
}

void expect_physical(const Design& d, const SparkGapRun& p, const std::string& which) {
  for (const auto& [key, band] : p.band) EXPECT_TRUE(std::isfinite(band)) << which << " band of " << key;
  for (const Finding& f : p.findings)
    EXPECT_TRUE(std::isfinite(f.value)) << which << " " << f.id << ": " << f.title;
  for (const UnitStress& u : p.duty.stress)
    EXPECT_TRUE(std::isfinite(u.rms_a) && std::isfinite(u.worst_v)) << which;
  if (p.shot_problem.empty()) {
    EXPECT_TRUE(std::isfinite(p.shot.top_peak_v)) << which;
    // Energy only ever leaves the tank.
    EXPECT_LE(p.shot.secondary_peak_j, p.shot.tank_energy_j * 1.02) << which;
  }
  if (!p.charging_problem.empty()) return;
  const ChargingResult& c = p.charging;
  for (const double value : {c.input_power_w, c.line_current_a, c.power_factor, c.tank_power_w, c.tank_peak_v})
    EXPECT_TRUE(std::isfinite(value) && value >= 0) << which << " " << value;
  EXPECT_LE(c.power_factor, 1.0001) << which;
  (void)d;
}

TEST(any_design, gives_finite_and_physical_figures_or_a_reason_in_bounded_time) {
  AnyDesign any(1901);
  const int count = trials(60);
  double slowest = 0;
  for (int i = 0; i < count; ++i) {
    const Design d = any.wild();
    const std::string which = "design " + std::to_string(i);
    ASSERT_FALSE(unreadable(d)) << which;
    if (i % 10 == 0) {
      EXPECT_EQ(read_design(write_design(d)), d) << which;
    }
    const std::clock_t start = std::clock(); // of the processor: what else the machine does must not count
    const Analysis a = analyse(d);
    expect_physical(d, a, which);
    PowerOptions options;
    options.advice = options.variac = i % 8 == 0;
    expect_physical(d, analyse_power(d, a, options, UnitSystem::metric, never), which);
    try {
      const std::string deck = charging_netlist(d, {});
      EXPECT_EQ(deck.find("nan"), std::string::npos) << which;
      EXPECT_EQ(deck.find("inf "), std::string::npos) << which;
    } catch (const std::invalid_argument& refusal) {
      EXPECT_STRNE(refusal.what(), "") << which;
    }
    const double seconds = static_cast<double>(std::clock() - start) / CLOCKS_PER_SEC;
    if (seconds > slowest) {
      slowest = seconds;
      if (seconds > 5) {
        std::ofstream(testing::TempDir() + "slow-design.json") << write_design(d);
      }
    }
    EXPECT_LT(seconds, 60) << which; // a bound, not a measurement: benchmarks measure
    if (testing::Test::HasFailure()) {
      std::ofstream(testing::TempDir() + "failed-design.json") << write_design(d);
      FAIL() << which << " is kept in " << testing::TempDir() << "failed-design.json";
    }
  }
  RecordProperty("slowest_s", std::to_string(slowest));
  std::printf("%d designs, slowest %.2f s\n", count, slowest);
}

std::vector<Finding> all_of(const Design& d, Kept& kept) {
  const Analysis a = analyse(d, UnitSystem::metric, kept);
  const PowerAnalysis p = analyse_power(d, a, {}, UnitSystem::metric, work_in(kept));
  return all_findings(a, &p);
}

std::set<std::string> stops_of(const std::vector<Finding>& findings) {
  std::set<std::string> out;
  for (const Finding& f : findings)
    if (f.severity == Severity::stop) out.insert(f.id);
  return out;
}

void try_every_remedy(int count, const std::function<Design()>& next) {
  int pressed = 0;
  std::map<std::string, int> kinds;
  for (int i = 0; i < count; ++i) {
    const Design d = next();
    if (!numbers_out_of_range(d).empty()) continue;
    Kept kept;
    const std::vector<Finding> findings = all_of(d, kept);
    const std::set<std::string> before = stops_of(findings);
    for (const Finding& f : findings) {
      if (!f.apply) continue;
      Design mended = d;
      f.apply(mended);
      mended.tank.capacitance_f = tank_capacitance_f(mended.tank); // as every edit does
      ++pressed;
      ++kinds[f.id];
      ASSERT_EQ(edit_problem(d, mended, UnitSystem::metric), "") << i << " " << f.id;
      ASSERT_EQ(read_design(write_design(mended)), mended) << i << " " << f.id;
      const std::vector<Finding> after = all_of(mended, kept);
      EXPECT_TRUE(eased(f, after)) << i << " " << f.id << ": " << f.remedy;
      const bool stands =
          std::ranges::any_of(after, [&](const Finding& g) { return g.id == f.id && g.severity <= f.severity; });
      EXPECT_FALSE(stands && f.severity != Severity::note) << i << " " << f.id << " still stands: " << f.remedy;
      for (const std::string& stop : stops_of(after))
        EXPECT_TRUE(before.contains(stop)) << i << ": “" << f.remedy << "” of " << f.id << " brings " << stop;
      if (testing::Test::HasFailure()) {
        std::ofstream(testing::TempDir() + "failed-remedy.json") << write_design(d);
        return;
      }
    }
  }
  EXPECT_GT(pressed, count);
  EXPECT_GT(kinds.size(), 3u);
  std::printf("%d remedies of %zu findings over %d designs\n", pressed, kinds.size(), count);
}

TEST(any_design, every_remedy_helps_leaves_a_readable_design_and_brings_no_stop) {
  AnyDesign any(1907);
  try_every_remedy(trials(12), [&] { return any.plausible(); });
}

Design bridge_demo(bool dual) {
  return read_design(
      read_text(std::string(HIGH_ARC_EXAMPLES) + (dual ? "/tin-orchard.json" : "/copper-heron.json")));
}

TEST(any_design, every_remedy_of_a_bridge_does_the_same) {
  AnyDesign any(1911);
  try_every_remedy(trials(16), [&] { return any.plausible_bridge(bridge_demo(any.chance(0.5))); });
}

void expect_physical(const BridgeAnalysis& b, const std::string& which) {
  for (const auto& [key, band] : b.band) EXPECT_TRUE(std::isfinite(band)) << which << " band of " << key;
  if (b.problem.empty()) {
    const BurstResult& r = b.burst;
    for (const double value : {r.frequency_hz, r.primary_peak_a, r.top_peak_v, r.bus_j, r.device_j(), r.edges_j()})
      EXPECT_TRUE(std::isfinite(value)) << which;
    EXPECT_GE(r.top_peak_v, 0) << which;
  }
  if (!b.mains) return;
  const MainsResult& m = *b.mains;
  for (const double value : {m.bus_v, m.ripple_v, m.inrush_a, m.line_current_a, m.input_power_w, m.power_factor,
                             m.reservoir_a, m.limiter_j, m.limiter_w, m.crest_v})
    EXPECT_TRUE(std::isfinite(value) && value >= -1e-6) << which << " " << value;
  EXPECT_LE(m.power_factor, 1.0001) << which;
}

TEST(any_design, bridges_give_finite_and_physical_figures_or_a_reason_in_bounded_time) {
  AnyDesign any(1913);
  const int count = trials(60);
  for (int i = 0; i < count; ++i) {
    const Design d = any.wild(bridge_demo(i % 2 == 0));
    const std::string which = "bridge " + std::to_string(i);
    ASSERT_FALSE(unreadable(d)) << which;
    const std::clock_t start = std::clock();
    const Analysis a = analyse(d);
    expect_physical(d, a, which);
    PowerOptions options;
    options.advice = i % 8 == 0;
    const PowerAnalysis p = analyse_power(d, a, options, UnitSystem::metric, never);
    for (const Finding& f : p.findings)
      EXPECT_TRUE(std::isfinite(f.value)) << which << " " << f.id << ": " << f.title;
    ASSERT_TRUE(p.of<BridgeAnalysis>()) << which;
    expect_physical(*p.of<BridgeAnalysis>(), which);
    EXPECT_LT(static_cast<double>(std::clock() - start) / CLOCKS_PER_SEC, 60) << which;
    if (testing::Test::HasFailure()) {
      std::ofstream(testing::TempDir() + "failed-design.json") << write_design(d);
      FAIL() << which << " is kept in " << testing::TempDir() << "failed-design.json";
    }
  }
}

Design tube_demo(bool flame) {
  return read_design(
      read_text(std::string(HIGH_ARC_EXAMPLES) + (flame ? "/candle-reed.json" : "/glass-willow.json")));
}

TEST(any_design, every_remedy_of_a_tube_coil_does_the_same) {
  AnyDesign any(1906);
  try_every_remedy(trials(4), [&] { return any.plausible_tube(tube_demo(any.chance(0.3))); });
}

TEST(any_design, tube_coils_give_finite_and_physical_figures_or_a_reason_in_bounded_time) {
  AnyDesign any(1904);
  const int count = trials(15);
  for (int i = 0; i < count; ++i) {
    const Design d = i % 3 == 0 ? any.plausible_tube(tube_demo(i % 2 == 0)) : any.wild(tube_demo(i % 2 == 0));
    const std::string which = "tube coil " + std::to_string(i);
    if (unreadable(d)) continue;
    const std::clock_t start = std::clock();
    PowerOptions options;
    options.advice = i % 8 == 0;
    const PowerAnalysis p = analyse_power(d, analyse(d), options, UnitSystem::metric, never);
    for (const Finding& f : p.findings)
      EXPECT_TRUE(std::isfinite(f.value)) << which << " " << f.id << ": " << f.title;
    const auto* t = p.of<TubePower>();
    ASSERT_TRUE(t) << which;
    if (t->problem.empty()) {
      const TubeResult& r = t->run;
      for (const double value :
           {r.frequency_hz, r.plate_input_w, r.plate_dissipation_w, r.grid_dissipation_w, r.secondary_power_w,
            r.top_peak_v, r.cathode_peak_a, r.line_rms_a, t->start.margin})
        EXPECT_TRUE(std::isfinite(value) && value >= -1e-3 * std::abs(r.plate_input_w) - 1e-6)
            << which << " " << value;
    }
    EXPECT_LT(static_cast<double>(std::clock() - start) / CLOCKS_PER_SEC, 60) << which;
    if (testing::Test::HasFailure()) {
      std::ofstream(testing::TempDir() + "failed-design.json") << write_design(d);
      FAIL() << which << " is kept in " << testing::TempDir() << "failed-design.json";
    }
  }
}

TEST(any_design, cancelling_ends_the_long_work_at_once) {
  Design d = demo_design();
  d.site.mains_frequency_hz = 10;
  std::atomic<bool> cancelled{false};
  const Analysis a = analyse(d);
  PowerOptions options;
  options.cycles = 1000;
  // It tells of each piece of work; asked to stop early on, it takes up none of the hundreds that were left.
  std::atomic<int> told = 0, after = 0;
  analyse_power(d, a, options, UnitSystem::metric, never, [&](double) { ++told; });
  analyse_power(d, a, options, UnitSystem::metric, cancelled, [&](double share) {
    if (cancelled) ++after;
    if (share > 0.05) cancelled = true;
  });
  EXPECT_TRUE(cancelled) << "it was long enough to be asked";
  EXPECT_GT(told, 40);
  EXPECT_LT(after, 8);
}

} // namespace
