// Ten designs of each kind as a practitioner meets them: what he expects to be told, and what must not be said.
// Each is a new design of its kind with one thing done to it. What is expected is common practice, no source.
#include "analysis/analyse.h"
#include "craft/kind.h"
#include "parts/bank.h"
#include "support.h"
#include "workshop/start.h"

#include <algorithm>
#include <set>

using namespace arc;

namespace {

struct Met {
  const char* what;
  void (*done)(Design&);
  std::vector<const char*> said, unsaid;
};

std::vector<Finding> told(const Design& d) {
  const Analysis a = analyse(d);
  const PowerAnalysis p =
      analyse_power(d, a, {.advice = false, .variac = false, .waveforms = true}, UnitSystem::metric, never);
  return all_findings(a, &p);
}

void meet(const char* kind, const std::vector<Met>& cases) {
  EXPECT_GE(cases.size(), 10U);
  const Design fresh = new_design(*coil_kind(kind));
  std::set<std::string> usual;
  for (const Finding& f : told(fresh)) usual.insert(f.id);
  for (const Met& each : cases) {
    Design d = fresh;
    each.done(d);
    const auto all = told(d);
    std::string ids;
    for (const Finding& f : all) ids += f.id + " ";
    const auto has = [&](const char* id) {
      return std::ranges::any_of(all, [&](const Finding& f) { return f.id == id; });
    };
    for (const char* id : each.said) {
      EXPECT_TRUE(has(id)) << kind << ", " << each.what << ": no " << id << " among " << ids;
      EXPECT_FALSE(usual.contains(id)) << kind << ", " << each.what << ": said of any: " << id;
    }
    for (const char* id : each.unsaid) EXPECT_FALSE(has(id)) << kind << ", " << each.what << ": " << id;
    const bool stopped = std::ranges::any_of(all, [](const Finding& f) { return f.severity == Severity::stop; });
    EXPECT_TRUE(!stopped || !each.said.empty()) << kind << ", " << each.what << " is stopped: " << ids;
  }
}

double& block(Design& d, BlockRole role, const char* key) {
  return find_block(d.feed, role)->values[key];
}

TEST(craft, spark_gap_coils_are_told_what_their_builders_expect) {
  meet(
      "spark-gap",
      {{"a gap far too wide", [](Design& d) { d.gap.firing_voltage_v = 25e3; }, {"gap-never-fires"}, {"gap-hot"}},
       {"a tap two turns in", [](Design& d) { d.primary.tap_turns -= 2; }, {"tank-off-tune"}, {"tank-cannot-tune"}},
       {"a few turns missing",
        [](Design& d) { d.primary.turns = 8, d.primary.tap_turns = 8; },
        {"tank-cannot-tune"},
        {}},
       {"no bleeders", [](Design& d) { d.tank.bleed_resistance_ohm.reset(); }, {"no-bleeder"}, {"bleed-slow"}},
       {"one capacitor fewer in the string",
        [](Design& d) { d.tank.units_in_series = 5, d.tank.capacitance_f = 2e-8; },
        {"unit-over-voltage"},
        {}},
       {"no safety gap",
        [](Design& d) {
          std::erase_if(d.feed.own(), [](const FeedBlock& b) { return role_of(b) == BlockRole::safety_gap; });
        },
        {"no-safety-gap"},
        {}},
       {"a thousand times too much",
        [](Design& d) { d.tank.unit_capacitance_f = 1e-4, d.tank.capacitance_f = 1e-5; },
        {"capacitance-slipped"},
        {}},
       {"a tap forgotten near the inner end",
        [](Design& d) { d.primary.tap_turns = 0.1; },
        {"tank-off-tune"},
        {"capacitance-slipped"}},
       {"a primary of one turn",
        [](Design& d) { d.primary.turns = d.primary.tap_turns = 1; },
        {"tank-cannot-tune"},
        {"capacitance-slipped"}},
       {"a low room", [](Design& d) { d.site.ceiling_height_m = 1.2; }, {"ceiling-near"}, {}},
       // 0.9 mm wire stands 660 V between turns: its enamel alone is tested with kilovolts.
       {"thick wire, few turns",
        [](Design& d) {
          d.secondary.wire_bare_diameter_m = 0.0009, d.secondary.wire_overall_diameter_m = 0.00096;
          d.secondary.turns = 470;
        },
        {"tank-off-tune"},
        {"turn-voltage-high"}},
       {"a breakout point",
        [](Design& d) { d.breakout.point_length_m = 0.05, d.breakout.point_tip_radius_m = 0.001; },
        {},
        {"nothing-breaks-out", "never-breaks-out"}}});
}

TEST(craft, single_resonant_bridges_are_told_what_their_builders_expect) {
  meet(
      "bridge",
      {{"ends swapped",
        [](Design& d) { d.bridge.reversed = true; },
        {"does-not-lock"},
        {"dead-time-long", "signal-too-weak"}},
       {"a short dead time", [](Design& d) { d.bridge.dead_time_s = 2e-8; }, {"dead-time-short"}, {}},
       {"a slow driver", [](Design& d) { d.bridge.driver_slowest_s = 2.5e-6; }, {"chain-too-slow"}, {}},
       {"a generator beside the pole",
        [](Design& d) { d.bridge.feedback = Feedback::fixed, d.bridge.fixed_frequency_hz = 240e3; },
        {"generator-off-pole"},
        {}},
       {"an iron powder core", [](Design& d) { d.bridge.gate_core_al_h = 3e-8; }, {"gate-magnetising"}, {}},
       {"an antenna in the arcs", [](Design& d) { d.bridge.antenna_distance_m = 0.2; }, {"arcs-reach-antenna"}, {}},
       {"small switches", [](Design& d) { d.bridge.device.current_rating_a = 0.5; }, {"switch-over-current"}, {}},
       {"no inrush limiter",
        [](Design& d) {
          std::erase_if(d.feed.own(), [](const FeedBlock& b) { return role_of(b) == BlockRole::inrush_limiter; });
        },
        {"no-inrush-limit"},
        {}},
       {"a bus that was entered", [](Design& d) { d.bridge.bus_voltage_v = 170; }, {"bus-differs"}, {}},
       {"one turn more",
        [](Design& d) { d.primary.turns += 1, d.primary.tap_turns += 1; },
        {},
        {"over-pulse-rating", "coupling-low"}}});
}

TEST(craft, dual_resonant_bridges_are_told_what_their_builders_expect) {
  meet(
      "dual-resonant",
      {{"no limit", [](Design& d) { d.bridge.current_limit_a.reset(); }, {"no-current-limit"}, {}},
       {"a limit beyond the switches",
        [](Design& d) { d.bridge.current_limit_a = 500; },
        {"limit-above-pulse-rating"},
        {}},
       {"an antenna as its clock",
        [](Design& d) { d.bridge.feedback = Feedback::antenna; },
        {"feedback-not-of-primary"},
        {}},
       {"a tank in tune", [](Design& d) { d.primary.tap_turns = 7.85; }, {"poles-may-hop"}, {"tank-off-tune"}},
       {"a tank far too small",
        [](Design& d) { d.tank.unit_capacitance_f = 5e-8, d.tank.capacitance_f = 2e-8; },
        {"tank-cannot-tune"},
        {}},
       {"a thousand times too little",
        [](Design& d) { d.tank.unit_capacitance_f = 1.5e-10, d.tank.capacitance_f = 6e-11; },
        {"capacitance-slipped"},
        {"tank-cannot-tune"}},
       {"no point", [](Design& d) { d.breakout = {}; }, {"nothing-breaks-out"}, {}},
       {"a burden of 500 ohm",
        [](Design& d) { d.bridge.burden_ohm = 500; },
        {"signal-too-strong"},
        {"signal-too-weak"}},
       {"cycles skipped",
        [](Design& d) { d.bridge.current_limit_a = 120, d.bridge.limit_action = LimitAction::skip_cycles; },
        {"limit-trips"},
        {}},
       {"units for a tenth of the volts", [](Design& d) { d.tank.unit_voltage_v = 200; }, {"tank-over-rating"}, {}},
       {"a shorter burst",
        [](Design& d) { d.interrupter.on_time_s = 60e-6; },
        {},
        {"does-not-lock", "limit-trips"}}});
}

TEST(craft, tube_coils_are_told_what_their_builders_expect) {
  meet("tube",
       {{"feedback the other way round",
         [](Design& d) { d.tube.reversed = true; },
         {"does-not-start"},
         {"efficiency-low"}},
        {"half a feedback turn", [](Design& d) { d.feedback.turns = 0.5; }, {"does-not-start"}, {}},
        {"fired at the zero",
         [](Design& d) { d.interrupter.phase_deg = 0; },
         {"does-not-latch"},
         {"does-not-start"}},
        {"a filament a fifth too hot",
         [](Design& d) { d.tube.filament.open_v = 1.25 * d.tube.tube.filament_v; },
         {"filament-off"},
         {}},
        {"no suppressor", [](Design& d) { d.tube.trap_ohm = 0; }, {"no-trap"}, {}},
        {"a tank a third low, runs through",
         [](Design& d) { d.tube.staccato = false, d.tank.unit_capacitance_f = 2e-9, d.tank.capacitance_f = 8e-9; },
         {"tank-off-tune", "efficiency-low"},
         {}},
        {"a slow grid leak, runs through",
         [](Design& d) { d.tube.staccato = false, d.tube.grid_leak_ohm = 20e3, d.tube.grid_leak_f = 2e-8; },
         {"intermittent"},
         {}},
        {"a reservoir behind a rectifier",
         [](Design& d) { d.feed = feed_arrangement("filtered").blocks(d); },
         {"thyristor-stays-on"},
         {}},
        {"a small tube, runs through",
         [](Design& d) { d.tube.staccato = false, d.tube.tube.plate_dissipation_w = 40; },
         {"plate-too-hot"},
         {}},
        {"a turn of feedback more",
         [](Design& d) { d.feedback.turns += 1; },
         {},
         {"does-not-start", "starts-badly", "grid-too-hot"}}});
}

TEST(craft, flame_coils_are_told_what_their_builders_expect) {
  meet(
      "flame",
      {{"next to no feedback", [](Design& d) { d.flame.feedback_f = 1e-14; }, {"flame-does-not-start"}, {}},
       {"a plastic form", [](Design& d) { d.flame.form = FlameForm::plastic; }, {"form-chars"}, {}},
       {"a small plate", [](Design& d) { d.tube.tube.plate_dissipation_w = 5; }, {"flame-plate-too-hot"}, {}},
       {"a small grid", [](Design& d) { d.tube.tube.grid_dissipation_w = 0.05; }, {"flame-grid-too-hot"}, {}},
       {"a small grid resistor",
        [](Design& d) { d.flame.grid_resistor_rating_w = 0.2; },
        {"grid-resistor-over"},
        {}},
       {"a filament too cold",
        [](Design& d) { d.tube.filament.open_v = 0.8 * d.tube.tube.filament_v; },
        {"filament-off"},
        {}},
       {"a tired cathode", [](Design& d) { d.tube.tube.cathode_peak_a = 0.05; }, {"cathode-over"}, {}},
       {"a tube for little volts", [](Design& d) { d.tube.tube.plate_voltage_v = 1000; }, {"plate-over-volts"}, {}},
       {"a small breaker",
        [](Design& d) { block(d, BlockRole::breaker, "rated_current_a") = 0.2; },
        {"breaker-trips"},
        {}},
       {"spaced turns and no topload",
        [](Design& d) { d.secondary.winding_length_m *= 1.02; },
        {},
        {"winding-has-gaps", "topload-missing", "coupling-low"}}});
}

TEST(craft, exciters_are_told_what_their_builders_expect) {
  meet("exciter",
       {{"no clamp", [](Design& d) { d.exciter.clamp = Clamp::none; }, {"base-unclamped"}, {}},
        {"ends swapped", [](Design& d) { d.exciter.primary_reversed = true; }, {"does-not-oscillate"}, {}},
        {"a long winding for a slow transistor",
         [](Design& d) { d.exciter.transistor.transit_time_s = 1e-6; },
         {"transistor-slow"},
         {}},
        {"40 V", [](Design& d) { d.exciter.supply_voltage_v = 40; }, {"collector-over-volts"}, {}},
        {"more than the transistor's volts",
         [](Design& d) { d.exciter.supply_voltage_v = 170; },
         {"supply-above-rating"},
         {}},
        {"a transistor for 50 mA",
         [](Design& d) { d.exciter.transistor.current_rating_a = 0.05; },
         {"collector-over-current"},
         {}},
        {"no heat sink, 20 V",
         [](Design& d) { d.exciter.sink_k_per_w.reset(), d.exciter.supply_voltage_v = 20; },
         {"junction-too-hot"},
         {}},
        {"a supply of 50 mA", [](Design& d) { d.exciter.supply_limit_a = 0.05; }, {"supply-limited"}, {}},
        {"a bias of 200 ohm", [](Design& d) { d.exciter.bias_resistance_ohm = 200; }, {"bias-burns"}, {}},
        {"a volt less",
         [](Design& d) { d.exciter.supply_voltage_v -= 1; },
         {},
         {"does-not-oscillate", "topload-missing"}}});
}

} // namespace
