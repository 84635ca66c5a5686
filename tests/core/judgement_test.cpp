// Laws of judgement over random designs: nothing passes that fails, nothing stops that works. HIGH_ARC_TRIALS tells
// how many of each.
#include "analysis/tank_at_rest.h"
#include "circuit/feed_network.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/burst.h"
#include "crafts/tubes/power_parts.h"
#include "crafts/tubes/tube.h"
#include "laws/circuit.h"
#include "random.h"
#include "random_designs.h"
#include "simulation/ideas.h"
#include "simulation/stores.h"
#include "usual_oscillator.h"
#include "workshop/start.h"

#include <set>

using namespace arc;
using testing::HasSubstr;

namespace {

// Whether as many are tried as on an everyday run: a few may miss what is looked for.
bool enough(int everyday) {
  return trials(everyday) >= everyday;
}

Design example(const char* name) {
  return read_design(read_text(std::string(HIGH_ARC_EXAMPLES "/") + name + ".json"));
}
constexpr std::array kinds_of_bridge{"copper-heron", "tin-orchard"};

PowerAnalysis simulated(const Design& d, Kept& kept, bool advice = false) {
  PowerOptions options;
  options.advice = advice;
  return analyse_power(d, analyse_untried(d, UnitSystem::metric, false, kept), options, UnitSystem::metric,
                       work_in(kept));
}

const Finding* finding(const std::vector<Finding>& all, std::string_view id) {
  const auto at = std::ranges::find(all, id, &Finding::id);
  return at == all.end() ? nullptr : &*at;
}

std::set<std::string> stops_of(const std::vector<Finding>& all) {
  std::set<std::string> out;
  for (const Finding& f : all)
    if (f.severity == Severity::stop) out.insert(f.id);
  return out;
}

double block_number(const Design& d, BlockRole role, std::string_view key) {
  return block_value(*find_block(d.feed, role), key);
}

// ---- the burst as it happens

TEST(burst_law, what_is_asked_beyond_a_trip_changes_nothing) {
  AnyDesign any(71);
  Kept kept;
  int tripped = 0;
  for (int i = 0; i < trials(6); ++i) {
    Design d = any.plausible_bridge(example("tin-orchard"));
    d.bridge.reversed = false;
    d.bridge.current_limit_a = 0.8 * d.bridge.device.pulse_rating_a;
    const auto now = simulated(d, kept);
    const auto* b = now.of<BridgeAnalysis>();
    if (!b->problem.empty() || !b->burst.trip_s || !b->plan_problem.empty()) continue;
    ++tripped;
    Design longer = d;
    longer.interrupter.on_time_s = std::min(2 * d.interrupter.on_time_s, d.interrupter.longest_on_s);
    const auto then = simulated(longer, kept);
    const auto* c = then.of<BridgeAnalysis>();
    if (!c->plan_problem.empty() || c->plan.rate_hz != b->plan.rate_hz) continue; // the duty's limit held
    expect_close(c->series_rms_a, b->series_rms_a, 0.02, "amperes");
    expect_close(c->heat.junction_peak_c, b->heat.junction_peak_c, 0.02, "junction");
    expect_close(c->average_w, b->average_w, 0.02, "watts");
  }
  EXPECT_TRUE(tripped > 0 || !enough(6));
}

TEST(burst_law, a_burst_that_is_held_is_the_burst_of_that_length) {
  Kept kept;
  for (const char* name : kinds_of_bridge) {
    Design asked = example(name), held = asked;
    asked.bridge.current_limit_a.reset();
    held.bridge.current_limit_a.reset();
    held.interrupter.on_time_s = 0.6 * asked.interrupter.on_time_s;
    asked.interrupter.longest_on_s = held.interrupter.on_time_s;
    const auto one = simulated(asked, kept), other = simulated(held, kept);
    const auto *a = one.of<BridgeAnalysis>(), *b = other.of<BridgeAnalysis>();
    ASSERT_TRUE(a->problem.empty() && b->problem.empty()) << name;
    EXPECT_DOUBLE_EQ(a->burst.end_s, b->burst.end_s) << name;
    EXPECT_DOUBLE_EQ(a->series_rms_a, b->series_rms_a) << name;
    EXPECT_DOUBLE_EQ(a->heat.junction_peak_c, b->heat.junction_peak_c) << name;
    EXPECT_GE(a->heat.junction_peak_c, a->heat.junction_c) << name << ": a peak is not below its mean";
  }
}

TEST(burst_law, the_amperes_are_the_integral_of_what_flows) {
  Kept kept;
  for (const char* name : kinds_of_bridge) {
    const auto power = simulated(example(name), kept);
    const auto* b = power.of<BridgeAnalysis>();
    double a2s = 0;
    const auto& s = b->burst.samples;
    for (std::size_t i = 1; i < s.size(); ++i)
      a2s += (s[i].time_s - s[i - 1].time_s) *
             (s[i].primary_a * s[i].primary_a + s[i - 1].primary_a * s[i - 1].primary_a) / 2;
    expect_close(b->burst.primary_a2s, a2s, 0.02, name);
    expect_close(b->series_rms_a, std::sqrt(a2s * b->plan.rate_hz), 0.01, name);
    EXPECT_GE(b->series_rms_a, b->burst.primary_rms_a * std::sqrt(b->burst.end_s * b->plan.rate_hz))
        << "the tail counts";
  }
}

TEST(burst_law, a_transformers_volts_into_an_input_are_judged_at_once) {
  Kept kept;
  Design d = example("tin-orchard");
  d.bridge.burden_ohm = 500; // 251 V at an input for 15 V
  const auto power = simulated(d, kept, true);
  const Finding* f = finding(power.findings, "signal-too-strong");
  ASSERT_TRUE(f);
  EXPECT_EQ(f->severity, Severity::stop);
  ASSERT_TRUE(f->apply);
  f->apply(d);
  const auto cured = simulated(d, kept);
  EXPECT_FALSE(finding(cured.findings, "signal-too-strong"));
  EXPECT_LE(*cured.of<BridgeAnalysis>()->signal_v, 0.6 * d.bridge.input_limit_v);
}

TEST(burst_law, one_stray_edge_is_a_warning_and_chatter_no_lock) {
  Kept kept;
  Design d = example("copper-heron");
  d.bridge.lead_s *= 4; // a lead lifts what is fast
  for (const double blanking : {0.0, 5e-7}) {
    d.bridge.blanking_s = blanking;
    const auto power = simulated(d, kept);
    const auto& r = power.of<BridgeAnalysis>()->burst;
    EXPECT_EQ(finding(power.findings, "signal-glitches") != nullptr, r.locked && r.glitches > 0);
    EXPECT_EQ(finding(power.findings, "does-not-lock") != nullptr || finding(power.findings, "takes-a-higher-mode"),
              !r.locked);
  }
}

// Half bridges as builders make them: a helix of a dozen turns, a coupling near 0.3, an antenna. They run; a
// disturbance now and then is a warning (common practice, no source).
TEST(burst_law, an_ordinary_bridge_that_feeds_its_arc_in_even_cycles_is_not_stopped) {
  Random random(24);
  Kept kept;
  int ran = 0;
  for (int i = 0; i < trials(12); ++i) {
    Design d = new_design(*coil_kind("bridge"));
    d.primary.turns = d.primary.tap_turns = std::round(random.between(9, 14));
    d.primary.inner_radius_m = random.between(0.07, 0.09);
    d.bridge.blanking_s = random.coin() ? 1e-6 : 0;
    d.bridge.lead_s = random.between(0, 1e-7);
    const auto power = simulated(d, kept);
    const auto* b = power.of<BridgeAnalysis>();
    ASSERT_TRUE(b->problem.empty()) << b->problem;
    // Most of the periods of the base's current, counted here anew from the waveform, are that of the pole.
    const auto& s = b->burst.samples;
    double last = 0, even = 0;
    for (std::size_t k = 1; k < s.size() && s[k].time_s < b->burst.end_s; ++k) {
      if (s[k - 1].foot_a >= 0 || s[k].foot_a < 0) continue;
      if (last > b->burst.end_s / 2 && std::abs((s[k].time_s - last) * b->poles.back() - 1) < 0.15)
        even += s[k].time_s - last;
      last = s[k].time_s;
    }
    if (even < 0.35 * b->burst.end_s) continue; // of the half that is looked at
    ++ran;
    EXPECT_TRUE(b->burst.locked) << i;
    EXPECT_FALSE(finding(power.findings, "does-not-lock")) << i;
    const double off = b->burst.glitches == 0 ? std::abs(b->burst.frequency_hz / b->poles.back() - 1) : 0;
    EXPECT_LT(off, 0.08) << i;
  }
  EXPECT_TRUE(ran > 4 || !enough(12));
}

TEST(burst_law, what_is_offered_for_a_drive_that_does_not_lock_locks_it) {
  Kept kept;
  Design d = new_design(*coil_kind("bridge"));
  d.primary.turns = d.primary.tap_turns = 10;
  d.primary.inner_radius_m = 0.075;
  d.bridge.blanking_s = 0;
  d.bridge.lead_s = 2e-7; // lifts the winding's third quarter wave
  const auto power = simulated(d, kept, true);
  const Finding* f = finding(power.findings, "takes-a-higher-mode");
  ASSERT_TRUE(f && f->apply);
  f->apply(d);
  EXPECT_TRUE(simulated(d, kept).of<BridgeAnalysis>()->burst.locked) << f->remedy;
}

TEST(burst_law, turns_that_are_offered_bring_the_peak_within_the_rating_and_the_coil_within_the_driver) {
  Kept kept;
  Design hot = new_design(*coil_kind("bridge"));
  hot.bridge.device.pulse_rating_a = 14;
  const auto over = simulated(hot, kept, true);
  const Finding* f = finding(over.findings, "over-pulse-rating");
  ASSERT_TRUE(f && f->apply) << (f ? f->remedy : "");
  f->apply(hot);
  EXPECT_LE(simulated(hot, kept).of<BridgeAnalysis>()->burst.primary_peak_a, 14) << f->remedy;
  Design fast = new_design(*coil_kind("bridge"));
  fast.bridge.driver_slowest_s = 2.5e-6; // 200 kHz
  const auto slow = simulated(fast, kept, true);
  const Finding* chain = finding(slow.findings, "chain-too-slow");
  ASSERT_TRUE(chain && chain->apply) << (chain ? chain->remedy : "");
  chain->apply(fast);
  EXPECT_LT(analyse(fast).circuit.resonance_hz, 200e3) << chain->remedy;
}

TEST(burst_law, a_chatter_says_nothing_of_dead_time_and_signal) {
  Kept kept;
  Design d = example("tin-orchard");
  d.bridge.reversed = true;
  const auto power = simulated(d, kept);
  ASSERT_FALSE(power.of<BridgeAnalysis>()->burst.locked);
  for (const char* id : {"dead-time-long", "signal-too-weak", "signal-too-strong", "hard-switching"})
    EXPECT_FALSE(finding(power.findings, id)) << id;
}

TEST(burst_law, a_dead_time_of_half_a_period_is_a_stop_and_of_a_third_a_warning) {
  Kept kept;
  Design d = example("tin-orchard");
  const double half_s = 0.5 / simulated(d, kept).of<BridgeAnalysis>()->burst.frequency_hz;
  for (const auto& [share, severity] : {std::pair{0.7, Severity::warning}, {1.3, Severity::stop}}) {
    d.bridge.dead_time_s = share * half_s;
    const auto power = simulated(d, kept);
    ASSERT_TRUE(finding(power.findings, "dead-time-long")) << share;
    EXPECT_EQ(finding(power.findings, "dead-time-long")->severity, severity) << share;
  }
}

// ---- bleeders and stores

TEST(stores, a_bleeder_far_out_of_range_is_offered_what_bleeds_in_time) {
  for (const char* name : kinds_of_bridge) {
    Design d = example(name);
    for (FeedBlock& block : d.feed)
      for (const char* key : {"unit_bleed_ohm", "bleed_resistance_ohm"})
        if (block_kind(block.kind)->reservoir && block_kind(block.kind)->store_keys.bleeder == key)
          block.values[key] = 1;
    const Analysis a = analyse(d);
    ASSERT_FALSE(a.findings.empty()) << name;
    const Finding& f = a.findings.front();
    ASSERT_TRUE(f.apply) << name;
    f.apply(d);
    const Bus bus = bus_of(d);
    EXPECT_LT(bus.volts * bus.volts / bus.reservoir.bleed_ohm, 25) << name << ": " << f.remedy;
    EXPECT_LT(bleed_time_s(bus.reservoir.bleed_ohm, bus.reservoir.capacitance_f, bus.volts), 120) << name;
  }
}

TEST(stores, a_bleeder_may_be_absent_and_burns_no_hundred_watts) {
  Kept kept;
  Design d = example("copper-heron");
  for (FeedBlock& block : d.feed) {
    const BlockKind& row = *block_kind(block.kind);
    if (row.reservoir) block.values[std::string(row.store_keys.bleeder)] = 0;
  }
  const Analysis none = analyse(d);
  ASSERT_TRUE(find(none, "bus-no-bleeder"));
  const auto charged = stores_of(d, none, nullptr);
  EXPECT_FALSE(discharge_wait_s(charged)) << "no wait counts";
  std::vector<std::string> steps;
  add_discharge_steps(charged, UnitSystem::metric, steps);
  EXPECT_THAT(steps.front(), HasSubstr("no wait counts"));
  find(none, "bus-no-bleeder")->apply(d);
  EXPECT_FALSE(find(analyse(d), "bus-no-bleeder"));
  for (FeedBlock& block : d.feed) {
    const BlockKind& row = *block_kind(block.kind);
    if (row.reservoir) block.values[std::string(row.store_keys.bleeder)] = 700;
  }
  const Analysis hot = analyse(d);
  ASSERT_TRUE(find(hot, "bus-bleeder-hot"));
  ASSERT_TRUE(find(hot, "bus-bleeder-hot")->apply);
  find(hot, "bus-bleeder-hot")->apply(d);
  EXPECT_FALSE(find(analyse(d), "bus-bleeder-hot"));
}

// All capacitors of the feed's network above 50 V that are parts, by their farads.
TEST(stores, fire_knows_every_capacitor_of_the_feed) {
  AnyDesign any(73);
  Kept kept;
  int several = 0;
  for (int i = 0; i < trials(30); ++i) {
    const Design d = any.plausible();
    if (!feed_problem(d.feed).empty()) continue;
    const Analysis a = analyse_untried(d, UnitSystem::metric, false, kept);
    if (!a.computed) continue;
    const auto stores = stores_of(d, a, nullptr);
    const FeedNetwork net = feed_network(d.feed, d.site);
    std::size_t parts = 0;
    bool doubled = false;
    for (const Network::Capacitor& c : net.network.capacitors) {
      if (c.name == "stray") continue;
      if (c.name == "doubler, lower")
        doubled = true; // the two are one store
      else
        ++parts;
    }
    EXPECT_EQ(stores.size(), parts + 1) << "with the tank; " << i << (doubled ? ", doubled" : "");
    several += stores.size() > 1;
    for (const Store& s : stores) EXPECT_GT(s.joule(), 0) << s.title;
    const auto wait = discharge_wait_s(stores);
    for (const Store& s : stores) EXPECT_TRUE(!wait || *wait >= s.bleeds_s()) << s.title << ": the slowest counts";
  }
  EXPECT_TRUE(several > 0 || !enough(30));
}

TEST(stores, steps_end_in_measuring_and_shorting_each_by_the_stick) {
  Design d = demo_design();
  d.feed.push_back(make_block("bridge"));
  d.feed.push_back(make_block("reservoir"));
  FeedBlock choke = make_block("charging-choke");
  d.feed.push_back(choke);
  const Analysis a = analyse(d);
  const auto stores = stores_of(d, a, nullptr);
  ASSERT_GE(stores.size(), 2u);
  const auto reservoir = std::ranges::find(stores, "Reservoir", &Store::title);
  ASSERT_NE(reservoir, stores.end());
  EXPECT_TRUE(reservoir->behind_it) << "a choke lies between it and the tank";
  std::string all;
  for (const std::string& step : kind_of(d).steps_after_power(d, a, nullptr, UnitSystem::metric))
    all += step + "\n";
  EXPECT_THAT(all, testing::ContainsRegex("[Mm]easure, then short"));
  EXPECT_THAT(all, HasSubstr("reservoir (200 J"));
  EXPECT_THAT(all, HasSubstr("stick's resistor"));
  EXPECT_THAT(all, HasSubstr("No probe in the hand"));
  EXPECT_LT(all.find("reservoir ("), all.find("tank ("));
  EXPECT_EQ(all.find("done"), std::string::npos);
}

// ---- distances and the forecast

TEST(distances, do_not_fall_with_variac_or_detuning_and_the_forecast_does) {
  Kept kept;
  for (const char* name : {"quiet-lantern", "tin-orchard", "copper-heron", "glass-willow"}) {
    const Design d = example(name);
    const auto away = [&](const Design& x) {
      const Analysis a = analyse_untried(x, UnitSystem::metric, false, kept);
      const PowerAnalysis p = simulated(x, kept);
      return std::pair{distances_of(x, a, &p).people_m, p.arc ? p.arc->length_m.high : 0};
    };
    const auto [people_m, arc_m] = away(d);
    EXPECT_GE(people_m, kind_of(d).least_people_m) << name;
    EXPECT_GE(people_m, 3 * arc_m * 0.999) << name;
    for (const double setting : {0.7, 0.3}) {
      Design low = d;
      FeedBlock* variac = find_block(low.feed, BlockRole::variac);
      if (!variac) continue;
      variac->values["setting"] = setting * block_number(d, BlockRole::variac, "setting");
      const auto [people, arc] = away(low);
      EXPECT_GE(people, 0.97 * people_m) << name << " at " << setting;
      // A bridge that trips later on a lower bus puts more into each burst.
      if (kind_of(d).key != "dual-resonant") {
        EXPECT_LE(arc, 1.001 * arc_m) << name << " at " << setting;
      }
    }
    if (!kind_of(d).clip) continue;
    Design off = d;
    off.primary.tap_turns = 0.75 * d.primary.tap_turns;
    const auto [people, arc] = away(off);
    EXPECT_GE(people, 0.97 * people_m) << name << " detuned";
    // A bridge's current limit and the pole that it takes may make more of another tank.
    if (kind_of(d).key != "dual-resonant") {
      EXPECT_LE(arc, 1.001 * arc_m) << name << " detuned";
    }
  }
}

TEST(distances, go_by_what_the_feed_makes_of_the_rate) {
  Kept kept;
  Design d = demo_design();
  d.gap.break_rate_hz = 20; // the feed makes ten times as many
  const Analysis a = analyse_untried(d, UnitSystem::metric, false, kept);
  const PowerAnalysis p = simulated(d, kept);
  const double watts = p.of<SparkGapPower>()->charging.tank_power_w;
  EXPECT_GE(distances_of(d, a, &p).people_m, 3 * 1.7 * 0.0254 * std::sqrt(watts)) << "common practice, no source";
  ASSERT_TRUE(finding(p.findings, "rate-differs"));
  EXPECT_EQ(finding(p.findings, "rate-differs")->severity, Severity::warning);
}

TEST(forecast, no_arc_is_promised_where_nothing_breaks_out) {
  Kept kept;
  Design d = example("glass-willow");
  d.tube.grid_leak_ohm = 15e3; // top 6.4 of 12.4 kV
  const PowerAnalysis p = simulated(d, kept);
  ASSERT_TRUE(p.arc);
  EXPECT_FALSE(p.arc->breaks_out);
  EXPECT_EQ(p.arc->length_m.high, 0);
  ASSERT_TRUE(finding(p.findings, "nothing-breaks-out"));
  EXPECT_THAT(finding(p.findings, "nothing-breaks-out")->title, HasSubstr("6.39 kV of 12.4 kV"));
  d.topload = {};
  const Analysis bare = analyse_untried(d, UnitSystem::metric, false, kept);
  ASSERT_TRUE(bare.breakout);
  EXPECT_EQ(bare.breakout->where, "wire end");
  EXPECT_LT(bare.breakout->voltage_v, 6e3) << "a bare wire end breaks out at some kilovolts (common practice)";
}

// ---- a coil that never fires

// By a tank that the feed fills over several cycles: some of them end without a break.
TEST(never_fires, a_gap_that_some_cycles_do_not_reach_is_a_warning) {
  Kept kept;
  Design d = demo_design();
  d.tank.unit_capacitance_f = 4 * *d.tank.unit_capacitance_f;
  d.tank.capacitance_f = tank_capacitance_f(d.tank);
  bool skipped = false;
  for (d.gap.firing_voltage_v = 3e3; d.gap.firing_voltage_v < 12e3; d.gap.firing_voltage_v *= 1.04) {
    const PowerAnalysis power = simulated(d, kept);
    const auto& c = power.of<SparkGapPower>()->charging;
    const bool some_cycles = c.break_rate_hz > 0 && c.idle_cycles > 0;
    EXPECT_EQ(finding(power.findings, "gap-skips-cycles") != nullptr, some_cycles) << d.gap.firing_voltage_v;
    skipped = skipped || some_cycles;
  }
  EXPECT_TRUE(skipped);
}

TEST(never_fires, a_settled_run_without_breaks_is_a_stop) {
  AnyDesign any(79);
  Kept kept;
  int silent = 0;
  for (int i = 0; i < trials(40); ++i) {
    Design d = any.plausible();
    if (any.chance(0.5)) d.gap.firing_voltage_v *= 1.6;
    const PowerAnalysis power = simulated(d, kept);
    const auto* p = power.of<SparkGapPower>();
    if (!p || !p->charging_problem.empty() || p->charging.samples.empty()) continue;
    const bool fires = p->charging.break_rate_hz > 0;
    silent += !fires;
    const auto stops = stops_of(power.findings);
    const bool said = stops.contains("gap-never-fires") || stops.contains("rotor-never-fires") ||
                      stops.contains("rotor-too-slow");
    EXPECT_EQ(said, !fires) << i << ": " << p->charging.break_rate_hz;
    if (!fires) {
      EXPECT_EQ(p->break_rate_hz, 0) << "nothing is said of breaks that are not there";
      EXPECT_TRUE(!power.arc || !power.arc->breaks_out);
    }
  }
  EXPECT_TRUE(silent > 0 || !enough(40));
}

// ---- tubes

TubeCircuit random_oscillator(Random& r, TubeWiring wiring, bool pair, bool pentode) {
  TubeCircuit c = usual_oscillator();
  c.wiring = wiring;
  if (wiring == TubeWiring::hartley) c.grid_leak_f = 1.1e-9;
  if (!r.coin()) c.trap_ohm = 0;
  for (double* value :
       {&c.law.perveance, &c.law.grid_perveance, &c.law.mu, &c.law.knee_v, &c.plate_h, &c.feedback_h,
        &c.grid_leak_ohm, &c.grid_leak_f, &c.grid_cathode_f, &c.grid_plate_f, &c.plate_cathode_f})
    *value *= r.between(0.6, 1.4);
  if (wiring == TubeWiring::hartley) c.plate_h *= 0.6;
  WindingMode& m = c.modes.front();
  m.inductance_h *= r.between(0.6, 1.4);
  m.resistance_ohm *= r.between(0.6, 1.4);
  c.tank_f = m.inductance_h * m.capacitance_f / c.plate_h * r.between(0.6, 1.4);
  m.mutual_h = r.between(0.1, 0.3) * std::sqrt(c.plate_h * m.inductance_h);
  c.plate_feedback_h = r.between(0.2, 0.45) * std::sqrt(c.plate_h * c.feedback_h);
  c.feedback_mode_h = {r.between(0.05, 0.12) * std::sqrt(c.feedback_h * m.inductance_h)};
  if (pair) c.push_pull = true, c.plate_halves_k = c.feedback_halves_k = 0.3;
  if (pentode) c.law.offset_v = r.between(10, 40), c.law.mu = 300, c.grid_plate_f = 1e-12;
  c.arc = r.coin() ? ArcLoad::never : ArcLoad::always;
  if (r.coin()) {
    c.direct_v = (pentode ? 2500 : 4000) * r.between(0.6, 1.4);
  } else {
    c.direct_v.reset();
    c.shifter = ShifterSupply{r.between(1000, 2500), 1, 90, 2e-6, 20, 5e7};
    c.bypass_f = 4.7e-9, c.noise_a = 1e-4, c.noise_hz = 350e3;
  }
  return c;
}

// No run is refused, and none keeps a step that was not solved: its books then do not close.
TEST(tube_law, every_ordinary_oscillator_runs_to_its_end_loaded_or_not) {
  Random r(83);
  for (const auto& [wiring, pair, pentode] : {std::tuple{TubeWiring::hartley, false, false},
                                              {TubeWiring::hartley, false, true},
                                              {TubeWiring::armstrong, false, false},
                                              {TubeWiring::armstrong, true, false},
                                              {TubeWiring::armstrong, false, true}})
    for (int i = 0; i < trials(8); ++i) {
      const TubeCircuit c = random_oscillator(r, wiring, pair, pentode);
      TubeResult x;
      ASSERT_NO_THROW(x = simulate_tube(c, {.mains = !c.direct_v, .waveforms = false}, never)) << i;
      EXPECT_LT(std::abs(x.balance_w), 0.03 * std::max(x.plate_input_w, 1.0)) << i;
    }
}

TEST(tube_law, a_thyristor_that_lets_go_is_no_fault_of_the_oscillator) {
  Kept kept;
  Design d = example("glass-willow");
  for (const double phase : {0.0, 10.0, 330.0}) {
    d.interrupter.phase_deg = phase;
    const PowerAnalysis p = simulated(d, kept);
    EXPECT_GE(p.of<TubePower>()->start.margin, 1);
    EXPECT_FALSE(finding(p.findings, "does-not-start")) << phase;
    const Finding* f = finding(p.findings, "does-not-latch");
    ASSERT_TRUE(f) << phase;
    EXPECT_EQ(f->severity, Severity::stop);
    ASSERT_TRUE(f->apply);
    Design cured = d;
    f->apply(cured);
    EXPECT_FALSE(finding(simulated(cured, kept).findings, "does-not-latch")) << "tried, and it cures";
  }
}

// The mean over 24 locked runs, 15 degrees apart, is that of the beat.
TEST(tube_law, running_free_is_the_mean_over_all_parts_of_the_wave) {
  Kept kept;
  Design d = example("glass-willow");
  const double mains = d.site.mains_frequency_hz;
  double joule = 0;
  d.interrupter.locked = true;
  for (int deg = 0; deg < 360; deg += 15) {
    d.interrupter.phase_deg = deg;
    joule += simulated(d, kept).of<TubePower>()->run.plate_input_w * d.interrupter.every_cycle / mains / 24;
  }
  d.interrupter.locked = false;
  for (const double rate : {17.0, 49.0}) {
    d.interrupter.rate_hz = rate;
    expect_close(simulated(d, kept).of<TubePower>()->run.plate_input_w, joule * rate, 0.08, "input");
  }
}

TEST(tube_law, a_supply_that_never_comes_to_zero_holds_the_thyristor_in_every_cycle) {
  Kept kept;
  Design d = example("glass-willow");
  d.feed.erase(d.feed.end() - 1); // the level shifter
  d.feed.push_back(make_block("bridge"));
  FeedBlock store = make_block("reservoir");
  store.values["capacitance_f"] = 4e-6;
  d.feed.push_back(store);
  for (const double every : {1.0, 2.0, 3.0}) {
    d.interrupter.every_cycle = every;
    EXPECT_TRUE(finding(simulated(d, kept).findings, "thyristor-stays-on")) << every;
  }
  EXPECT_FALSE(finding(simulated(example("glass-willow"), kept).findings, "thyristor-stays-on"));
}

TEST(tube_law, volts_are_judged_by_the_highest_of_the_run) {
  Kept kept;
  Design d = example("glass-willow");
  d.tube.tube.plate_voltage_v = 5400; // the crest is 5.37 kV, the run rings to 8.1
  const PowerAnalysis p = simulated(d, kept);
  const auto* t = p.of<TubePower>();
  ASSERT_GT(t->run.rail_most_v, 1.5 * d.tube.tube.plate_voltage_v);
  ASSERT_TRUE(finding(p.findings, "plate-over-volts"));
  EXPECT_EQ(finding(p.findings, "plate-over-volts")->severity, Severity::stop);
  EXPECT_GE(gate_stands_off_v(d, t), t->run.rail_most_v);
}

TEST(tube_law, a_slow_grid_leak_stops_and_starts_it_on_the_mains_too) {
  Kept kept;
  Design d = example("glass-willow");
  d.tube.staccato = false;
  EXPECT_FALSE(simulated(d, kept).of<TubePower>()->run.intermittent) << "3.3 us of leak";
  d.tube.grid_leak_ohm = 20e3;
  d.tube.grid_leak_f = 20e-9; // 400 us: above some 150 to 300 us it is usual (common practice, no source)
  const PowerAnalysis p = simulated(d, kept, true);
  const auto* t = p.of<TubePower>();
  ASSERT_TRUE(t->run.intermittent);
  ASSERT_TRUE(t->run.burst_s);
  EXPECT_GT(*t->run.burst_s, 0.5e-3);
  EXPECT_LT(*t->run.burst_s, 3e-3);
  const Finding* f = finding(p.findings, "intermittent");
  ASSERT_TRUE(f && f->apply);
  f->apply(d);
  EXPECT_FALSE(simulated(d, kept).of<TubePower>()->run.intermittent) << f->remedy;
}

TEST(tube_law, too_few_feedback_turns_are_cured_by_turns) {
  Kept kept;
  Design d = example("glass-willow");
  d.tube.staccato = false;
  for (const double turns : {0.5, 1.0}) {
    d.feedback.turns = turns;
    const PowerAnalysis p = simulated(d, kept);
    const Finding* f = finding(p.findings, "does-not-start");
    ASSERT_TRUE(f) << turns;
    ASSERT_TRUE(f->apply) << f->remedy;
    EXPECT_THAT(f->remedy, HasSubstr("turns"));
    Design cured = d;
    f->apply(cured);
    EXPECT_TRUE(simulated(cured, kept).of<TubePower>()->run.oscillates) << f->remedy;
  }
}

// One thing at a time put wrong on a coil that gives more than half of its input: where less than the usual share
// is left, it is named, in nineteen of twenty.
TEST(tube_law, what_costs_the_efficiency_is_named) {
  Kept kept;
  Random r(25);
  const Design good = [] {
    Design d = example("glass-willow");
    d.tube.staccato = false;
    d.tube.supply_voltage_v = 5400; // direct current takes a tenth of the time
    return d;
  }();
  struct Wrong {
    const char* word;
    std::function<void(Design&)> done;
  };
  const std::vector<Wrong> wrongs{
      {"high", [&](Design& d) { d.primary.tap_turns = r.between(14, 22); }},
      {"high", [&](Design& d) { scale_tank(d.tank, r.between(0.3, 0.5)); }},
      {"low", [&](Design& d) { scale_tank(d.tank, r.between(1.6, 3)); }},
      {"leak is too large", [&](Design& d) { d.tube.grid_leak_ohm = r.decade(14e3, 40e3); }},
      {"too few feedback", [&](Design& d) { d.feedback.turns = r.between(2.8, 3.8); }}};
  int asked = 0, named = 0;
  for (int i = 0; i < trials(20); ++i) {
    const Wrong& wrong = wrongs[static_cast<std::size_t>(i) % wrongs.size()];
    Design d = good;
    wrong.done(d);
    const Analysis a = analyse_untried(d, UnitSystem::metric, false, kept);
    PowerAnalysis power = simulated(d, kept);
    TubePower t = *power.of<TubePower>();
    if (!(t.efficiency() > 0) || t.efficiency() >= usual_efficiency) continue;
    find_waste(d, a, UnitSystem::metric, work_in(kept), t);
    ++asked;
    const bool found = t.waste && t.waste->cause.find(wrong.word) != std::string::npos;
    named += found;
    if (!found) continue;
    t.waste->apply(d);
    EXPECT_GT(simulated(d, kept).of<TubePower>()->efficiency(), 1.1 * t.efficiency()) << t.waste->cure;
  }
  EXPECT_GE(20 * named, 19 * asked) << named << " of " << asked;
  EXPECT_GE(asked, trials(20) * 3 / 4) << "the wrongs are large enough to cost it";
}

// ---- failed simulations

TEST(failed_simulation, is_a_stop_with_the_engines_words_and_what_is_known_stays_said) {
  Kept kept;
  Design d = example("glass-willow");
  d.tube.tube.plate_voltage_v = 3000;
  d.tube.tube.grid_perveance_a_per_v15 = 2 * d.tube.tube.perveance_a_per_v15; // no such tube
  const PowerAnalysis p = simulated(d, kept, true);
  const auto* t = p.of<TubePower>();
  ASSERT_FALSE(t->problem.empty());
  const Finding* f = finding(p.findings, "simulation-unfinished");
  ASSERT_TRUE(f);
  EXPECT_EQ(f->severity, Severity::stop);
  EXPECT_THAT(f->title, HasSubstr(t->problem));
  EXPECT_TRUE(finding(p.findings, "plate-over-volts")) << "the supply's crest needs no run";
}

// ---- changes

TEST(changes, none_that_can_be_made_brings_a_stop) {
  Kept kept;
  Design half = example("copper-heron");
  half.bridge.device.voltage_rating_v = 450;
  Design orchard = example("tin-orchard");
  int refused = 0;
  for (const Design& d : {half, orchard}) {
    const Analysis a = analyse_untried(d, UnitSystem::metric, false, kept);
    const PowerAnalysis p = simulated(d, kept, true);
    const auto* b = p.of<BridgeAnalysis>();
    std::set<std::string> now = stops_of(p.findings);
    now.merge(stops_of(a.findings));
    bool below = false;
    for (const TriedChange& c : b->changes) {
      EXPECT_EQ(c.offered, c.stop.empty() && c.merit >= least_gain) << c.title;
      EXPECT_FALSE(below && c.stop.empty()) << c.title << ": what stops stands below";
      below = below || !c.stop.empty();
      refused += !c.stop.empty();
      if (!c.offered) continue;
      Design changed = d;
      c.apply(changed);
      std::set<std::string> then = stops_of(simulated(changed, kept).findings);
      then.merge(stops_of(analyse_untried(changed, UnitSystem::metric, false, kept).findings));
      for (const std::string& id : then) EXPECT_TRUE(now.contains(id)) << c.title << " brings " << id;
    }
  }
  EXPECT_GT(refused, 0);
}

// ---- what was measured

TEST(measured, the_tank_at_rest_is_the_pole_of_what_is_simulated) {
  Kept kept;
  for (const char* name : {"quiet-lantern", "tin-orchard", "glass-willow"}) {
    Design plain = example(name);
    plain.measurements.clear(); // they count before `equivalent`
    const Analysis before = analyse_untried(plain, UnitSystem::metric, false, kept);
    const auto agree = [&](const Design& d, const char* what) {
      const Analysis a = analyse_untried(d, UnitSystem::metric, false, kept);
      const double loop_h = a.circuit.primary_h + lead_inductance_h(d.primary);
      expect_close(a.tank_hz, resonance_hz(loop_h, tank_capacitance_f(d.tank)), 1e-9, what);
      for (const TapPoint& point : a.tap_curve)
        if (std::abs(point.turns - d.primary.tap_turns) < 1e-9) expect_close(point.tank_hz, a.tank_hz, 1e-6, what);
      if (a.tuned_tap_turns) {
        Design tuned = d;
        tuned.primary.tap_turns = *a.tuned_tap_turns;
        if (!d.equivalent.primary_inductance_h)
          expect_close(analyse_untried(tuned, UnitSystem::metric, false, kept).tank_hz, a.target_hz, 1e-4, what);
      }
      return a;
    };
    agree(plain, "nothing measured");
    Design d = plain;
    d.equivalent.primary_inductance_h = 1.7 * before.primary_inductance_h;
    EXPECT_LT(agree(d, "primary").tank_hz, before.tank_hz) << name;
    d = plain;
    d.equivalent.secondary_capacitance_f = 1.3 * before.circuit.secondary_f;
    EXPECT_LT(agree(d, "resonator").target_hz, before.target_hz) << name;
    d = plain;
    d.equivalent.coupling = 0.6;
    const Analysis tight = agree(d, "coupling");
    EXPECT_TRUE(find(tight, "coupling-high")) << name << ": a measured coupling is judged";
  }
}

TEST(measured, knowing_more_never_widens_a_doubt) {
  Kept kept;
  for (const char* name : {"quiet-lantern", "copper-heron", "glass-willow"}) {
    const Design plain = example(name);
    const Analysis before = analyse(plain);
    const CircuitDoubt now = circuit_doubt(before);
    const std::vector<std::pair<const char*, void (*)(Design&, const Analysis&)>> ways{
        {"primary_resistance_ohm",
         [](Design& d, const Analysis& a) { d.equivalent.primary_resistance_ohm = a.circuit.primary_ohm; }},
        {"coupling", [](Design& d, const Analysis& a) { d.equivalent.coupling = a.circuit.coupling; }},
        {"resonator", [](Design& d, const Analysis& a) {
           d.equivalent.secondary_inductance_h = a.circuit.secondary_h;
           d.equivalent.secondary_capacitance_f = a.circuit.secondary_f;
         }}};
    for (const auto& [what, measure] : ways) {
      Design d = plain;
      measure(d, before);
      const CircuitDoubt then = circuit_doubt(analyse(d));
      EXPECT_LE(then.detune, now.detune * (1 + 1e-9)) << name << " " << what;
      EXPECT_LE(then.coupling, now.coupling * (1 + 1e-9)) << name << " " << what;
    }
  }
}

TEST(measured, a_number_of_another_kind_stops_nothing) {
  Design d = demo_design();
  d.exciter.supply_voltage_v = 5000; // hidden: there is no exciter in a spark gap
  EXPECT_TRUE(analyse(d).computed);
  Design exciter = example("paper-moth");
  exciter.exciter.supply_voltage_v = 5000;
  EXPECT_FALSE(analyse(exciter).computed);
}

// ---- first fault

TEST(first_fault, live_steps_say_so_and_nothing_is_provoked_by_hand) {
  Kept kept;
  for (const char* name :
       {"quiet-lantern", "paper-moth", "copper-heron", "tin-orchard", "glass-willow", "candle-reed"}) {
    const Design d = example(name);
    const Analysis a = analyse(d);
    int live = 0;
    for (const FaultSymptom& symptom : kind_of(d).symptoms())
      for (const FaultStep& step : symptom.steps(d, a, nullptr, UnitSystem::metric)) {
        live += step.live;
        const std::string all = step.question + step.how;
        EXPECT_EQ(all.find("insulated stick"), std::string::npos) << name << ": " << all;
        EXPECT_EQ(all.find("by hand"), std::string::npos) << name << ": " << all;
        EXPECT_EQ(all.find("robe at"), std::string::npos) << name << ": " << all;
      }
    EXPECT_GT(live, 1) << name;
    EXPECT_THAT(live_words(d, a, nullptr, UnitSystem::metric), HasSubstr("POWER ON"));
    EXPECT_THAT(live_words(d, a, nullptr, UnitSystem::metric), HasSubstr("at the switch"));
  }
}

} // namespace
