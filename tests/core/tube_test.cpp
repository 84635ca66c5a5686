// Tubes and their oscillators: laws, solved circuits, properties, published and common facts, every finding.
#include "analysis/analyse.h"
#include "circuit/feed_arrangements.h"
#include "craft/design_fields.h"
#include "craft/finding.h"
#include "crafts/tubes/tube.h"
#include "crafts/tubes/tube_run.h"
#include "crafts/tubes/tube_schematic.h"
#include "laws/circuit.h"
#include "model/fields.h"
#include "parts/tube.h"
#include "random.h"
#include "schematics.h"
#include "support.h"
#include "usual_oscillator.h"
#include "workshop/runs.h"

#include <map>
#include <nlohmann/json.hpp>
#include <set>

namespace arc::tube_tests {
namespace {

using testing::HasSubstr;

Design willow() {
  return read_design(read_text(HIGH_ARC_EXAMPLES "/glass-willow.json"));
}

void run_through(Design& d) {
  d.tube.staccato = false;
}

TubeCircuit random_circuit(Random& r) {
  TubeCircuit c = usual_oscillator();
  for (double* value :
       {&c.law.perveance, &c.law.grid_perveance, &c.law.mu, &c.law.knee_v, &c.plate_h, &c.grid_leak_ohm,
        &c.grid_leak_f, &c.trap_ohm, &c.trap_h, &c.grid_cathode_f, &c.grid_plate_f})
    *value *= r.between(0.7, 1.4);
  WindingMode& m = c.modes.front();
  m.inductance_h *= r.between(0.7, 1.4);
  m.resistance_ohm *= r.between(0.5, 2);
  c.tank_f = m.inductance_h * m.capacitance_f / c.plate_h * r.between(0.95, 1.25);
  m.mutual_h = r.between(0.12, 0.3) * std::sqrt(c.plate_h * m.inductance_h);
  c.plate_feedback_h = r.between(0.25, 0.45) * std::sqrt(c.plate_h * c.feedback_h);
  c.feedback_mode_h = {r.between(0.05, 0.12) * std::sqrt(c.feedback_h * m.inductance_h)};
  c.direct_v = r.between(1500, 5000);
  return c;
}

void reverse(TubeCircuit& c) {
  c.plate_feedback_h = -c.plate_feedback_h;
  for (double& h : c.feedback_mode_h) h = -h;
}

TubeResult run(const TubeCircuit& c, const TubeOptions& options = {}) {
  return simulate_tube(c, options, never);
}

// A level-shifted supply, and a thyristor fired 60 degrees into it.
TubeCircuit on_mains() {
  TubeCircuit c = usual_oscillator();
  c.direct_v.reset();
  c.shifter = ShifterSupply{2100, 1, 90, 2e-6, 20, 5e7};
  c.bypass_f = 4.7e-9;
  c.noise_a = 1e-4, c.noise_hz = 350e3;
  return c;
}
TubeCircuit staccato(double phase_deg, double gate_s = 2e-4) {
  TubeCircuit c = on_mains();
  c.staccato = Staccato{1, 5e6, 0.02, 20e-6, 47, 22e-9, gate_s, phase_deg / 360 / 50, 0.06};
  return c;
}

TEST(tube_law, current_goes_with_the_three_halves_power_and_splits_as_the_law_says) {
  // Child 1911, Langmuir 1913: four times the volts are eight times the current.
  const TubeLaw law{6e-4, 1.2e-4, 120, 1e-6}; // no knee
  const auto cathode = [&](double va, double vg) {
    const TubeCurrents a = tube_currents(law, va, vg);
    return a.plate_a + a.grid_a;
  };
  expect_close(cathode(4000, 40), 8 * cathode(1000, 10), 1e-8);
  expect_close(cathode(12000, -20), 6e-4 * std::pow(80, 1.5), 1e-8);
  EXPECT_EQ(tube_currents(law, 1000, -9).plate_a, 0) << "beyond cut-off, -va/mu";
  EXPECT_EQ(tube_currents(law, -1, 50).plate_a, 0);
  EXPECT_GT(tube_currents(law, -1, 50).grid_a, 0);
}

TEST(tube_law, slopes_are_those_of_the_currents) {
  Random r(3);
  for (int i = 0; i < 300; ++i) {
    const TubeLaw law{r.decade(1e-5, 1e-2), 0, r.between(5, 300), r.between(5, 200)};
    TubeLaw with = law;
    with.grid_perveance = law.perveance * r.between(0.05, 0.5);
    const double va = r.between(1, 8000), vg = r.between(-60, 300);
    const TubeCurrents a = tube_currents(with, va, vg);
    const double e = 1e-4;
    const auto slope = [&](auto member, double dva, double dvg) {
      return (tube_currents(with, va + dva, vg + dvg).*member - tube_currents(with, va - dva, vg - dvg).*member) /
             (2 * e);
    };
    const double scale = 1e-9 + 1e-5 * (a.plate_by_vg + a.grid_by_vg);
    EXPECT_NEAR(a.plate_by_va, slope(&TubeCurrents::plate_a, e, 0), scale);
    EXPECT_NEAR(a.plate_by_vg, slope(&TubeCurrents::plate_a, 0, e), 1e-9 + 1e-4 * std::abs(a.plate_by_vg));
    EXPECT_NEAR(a.grid_by_vg, slope(&TubeCurrents::grid_a, 0, e), 1e-9 + 1e-4 * a.grid_by_vg);
  }
}

TEST(tube_law, three_points_of_a_curve_give_the_law_back) {
  Random r(5);
  for (int i = 0; i < 100; ++i) {
    TubeLaw law{r.decade(1e-4, 3e-3), 0, r.between(15, 250), r.between(10, 120)};
    const double share = r.between(0.1, 0.4);
    law.grid_perveance = share * law.perveance * std::pow(1 + 1 / law.mu, 1.5);
    const auto point = [&](double va, double vg) { return CurvePoint{va, vg, tube_currents(law, va, vg).plate_a}; };
    const TubeLaw found = fit_tube({point(3000, 0), point(2500, 20), point(2 * law.knee_v, 30)}, share);
    expect_close(found.mu, law.mu, 1e-4);
    expect_close(found.perveance, law.perveance, 1e-4);
    expect_close(found.knee_v, law.knee_v, 1e-3);
  }
  // Wherever they were taken: a fit by rounds that begin without a knee refused one good set in fourteen.
  int fitted = 0;
  for (int i = 0; i < 300; ++i) {
    TubeLaw law{r.decade(5e-5, 3e-3), 0, r.decade(8, 250), r.between(10, 150)};
    const double share = r.between(0.05, 0.3);
    law.grid_perveance = share * law.perveance * std::pow(1 + 1 / law.mu, 1.5);
    const auto point = [&](double va, double vg) { return CurvePoint{va, vg, tube_currents(law, va, vg).plate_a}; };
    const double va = r.between(800, 4000), vb = r.between(800, 4000), ga = r.between(-0.5, 0.8) * va / law.mu;
    const std::array<CurvePoint, 3> points{point(va, ga), point(vb, ga + r.between(0.1, 1) * vb / law.mu + 5),
                                           point(r.between(0.5, 3) * law.knee_v, r.between(20, 100))};
    if (std::ranges::any_of(points, [](const CurvePoint& p) { return p.plate_a < 1e-3; })) continue;
    ++fitted;
    const TubeLaw found = fit_tube(points, share);
    expect_close(found.mu, law.mu, 1e-6);
    expect_close(found.perveance, law.perveance, 1e-6);
    expect_close(found.knee_v, law.knee_v, 1e-5);
  }
  EXPECT_GT(fitted, 200);
  const auto refused = [](const std::array<CurvePoint, 3>& points, double share) -> std::string {
    try {
      fit_tube(points, share);
    } catch (const std::invalid_argument& e) {
      return e.what();
    }
    return {};
  };
  EXPECT_THAT(refused({{{1000, 0, 0}, {1000, 10, 0.1}, {100, 10, 0.05}}}, 0.2), HasSubstr("point 1"));
  EXPECT_THAT(refused({{{1000, 0, 0.1}, {1000, 0, 0.1}, {100, 10, 0.05}}}, 0.2), HasSubstr("do not differ"));
  EXPECT_THAT(refused({{{3000, 0, 0.0735}, {3000, 25, 0.193}, {3000, 25, 0.193}}}, 0.2), HasSubstr("knee"));
  EXPECT_THAT(refused({{{3000, 0, 0.0735}, {3000, 25, 0.193}, {120, 25, 0.04}}}, 2), HasSubstr("share"));
  EXPECT_THAT(refused({{{3000, 0, 73.5}, {3000, 25, 193}, {120, 25, 40}}}, 0.2), HasSubstr("milliamperes"));
}

TEST(tube_law, a_pentode_with_its_grids_tied_is_the_triode_that_its_space_current_makes) {
  Random r(7);
  for (int i = 0; i < 50; ++i) {
    Tube t;
    t.mu = r.between(50, 400), t.screen_mu = r.between(3, 15);
    t.knee_v = 1e-6; // the law alone
    t.grid_perveance_a_per_v15 = t.screen_perveance_a_per_v15 = 1e-7;
    const double va = r.between(500, 3000), vg = r.between(5, 60);
    const auto space = [&](double g1, double g2) {
      return t.perveance_a_per_v15 * std::pow(g1 + g2 / t.screen_mu + va / t.mu, 1.5);
    };
    const auto cathode = [&](GridTie tie) {
      t.tie = tie;
      const TubeCurrents a = tube_currents(tube_law(t), va, vg);
      return a.plate_a + a.grid_a;
    };
    expect_close(cathode(GridTie::screen_to_plate), space(vg, va), 1e-8);
    expect_close(cathode(GridTie::screen_to_grid), space(vg, vg), 1e-8);
    expect_close(cathode(GridTie::screen_to_cathode), space(vg, 0), 1e-8);
  }
  Tube two;
  expect_close(tube_law(two, 3).perveance, 3 * two.perveance_a_per_v15, 1e-12);
}

TEST(tube_run, solved_circuits_come_out_and_their_powers_add_up) {
  // The figures by name are checked from the command line (tests/calc/test_tube.py); here the books.
  for (const TubeCircuit& c : {usual_oscillator(), on_mains(), staccato(60)}) {
    const TubeResult r = run(c, {.mains = !c.direct_v});
    EXPECT_TRUE(r.oscillates);
    EXPECT_LT(std::abs(r.balance_w), 0.01 * r.plate_input_w);
  }
}

TEST(tube_run, powers_add_up_whatever_the_parts) {
  Random r(11);
  for (int i = 0; i < 25; ++i) {
    TubeCircuit c = random_circuit(r);
    if (r.coin()) {
      c.wiring = TubeWiring::hartley;
      c.grid_leak_f = 1e-9;
      c.plate_h *= 0.6;
    }
    if (r.coin()) c.stopper_ohm = r.between(1, 30);
    if (r.coin()) c.trap_ohm = 0;
    const TubeResult x = run(c);
    EXPECT_LT(std::abs(x.balance_w), 0.01 * std::max(x.plate_input_w, 1.0)) << i;
    EXPECT_TRUE(std::isfinite(x.top_peak_v + x.frequency_hz + x.grid_bias_v)) << i;
  }
}

TEST(tube_run, reversed_feedback_never_oscillates) {
  Random r(13);
  for (int i = 0; i < 20; ++i) {
    TubeCircuit c = random_circuit(r);
    c.grid_plate_f = 5e-12; // a large one feeds back by itself
    ASSERT_TRUE(run(c).oscillates) << i;
    reverse(c);
    const TubeResult x = run(c);
    EXPECT_FALSE(x.oscillates) << i;
    EXPECT_LT(tube_start(c, *c.direct_v).margin, 1) << i;
    expect_close(x.plate_dissipation_w, x.plate_input_w, 0.02, "all of it is heat in the plate");
  }
}

TEST(tube_run, it_starts_above_the_margin_and_not_below) {
  Random r(17);
  for (int i = 0; i < 12; ++i) {
    TubeCircuit c = random_circuit(r);
    const double margin = tube_start(c, *c.direct_v).margin;
    ASSERT_GT(margin, 1);
    const auto weaker = [&](double factor) { // slopes go with the perveance
      TubeCircuit w = c;
      w.law.perveance *= factor;
      w.law.grid_perveance *= factor;
      return w;
    };
    EXPECT_FALSE(run(weaker(0.9 / margin)).oscillates) << i;
    EXPECT_TRUE(run(weaker(1.3 / margin)).oscillates) << i;
  }
}

TEST(tube_run, the_bands_of_the_fast_balance_hold) {
  Random r(19);
  int none = 0;
  for (int i = 0; i < 30; ++i) {
    const TubeCircuit c = random_circuit(r);
    const auto b = tube_balance(c, *c.direct_v);
    const TubeResult x = run(c);
    ASSERT_TRUE(x.oscillates) << i;
    if (!b) {
      ++none;
      continue;
    }
    if (std::abs(b->frequency_hz / x.frequency_hz - 1) > 0.05)
      continue; // near the change of poles it took the other
    expect_close(b->frequency_hz, x.frequency_hz, 0.003);
    expect_close(b->plate_input_w, x.plate_input_w, 0.035);
    expect_close(b->plate_dissipation_w, x.plate_dissipation_w, 0.13);
    expect_close(b->top_peak_v, x.top_peak_v, 0.03);
  }
  EXPECT_LE(none, 3);
}

TEST(tube_run, coupled_circuits_split_as_the_textbook_says) {
  // Equal circuits: f0/sqrt(1 +- k) (coupled-circuit theory; Terman, Radio Engineers' Handbook, from memory).
  TubeCircuit c = usual_oscillator();
  c.law = {1e-12, 1e-13, 100, 50}; // as if there were no tube
  c.grid_plate_f = c.plate_cathode_f = 1e-15;
  c.trap_ohm = 0;
  c.arc = ArcLoad::never;
  c.plate_feedback_h = 1e-12;
  c.feedback_mode_h = {0};
  c.tank_f = c.modes.front().inductance_h * c.modes.front().capacitance_f / c.plate_h;
  const double f0 = resonance_hz(c.plate_h, c.tank_f);
  for (const double k : {0.1, 0.2, 0.35}) {
    c.modes.front().mutual_h = k * std::sqrt(c.plate_h * c.modes.front().inductance_h);
    auto modes = tube_start(c, 4000).modes;
    ASSERT_EQ(modes.size(), 2U);
    std::ranges::sort(modes, {}, &TubeMode::frequency_hz);
    expect_close(modes[0].frequency_hz, f0 / std::sqrt(1 + k), 0.002);
    expect_close(modes[1].frequency_hz, f0 / std::sqrt(1 - k), 0.002);
  }
}

TEST(tube_run, class_c_is_as_efficient_as_handbooks_say) {
  // Plate efficiency of 60 to 80 % at conduction angles of 120 to 150 degrees (Terman, Radio Engineers' Handbook,
  // 1943, class C amplifiers; from memory).
  TubeCircuit c = usual_oscillator();
  for (const double ohm : {400.0, 1000.0}) {
    c.grid_leak_ohm = ohm;
    c.law.mu = 40;
    c.feedback_h = 60e-6;
    const TubeResult r = run(c);
    ASSERT_TRUE(r.oscillates);
    const double efficiency = 1 - r.plate_dissipation_w / r.plate_input_w;
    EXPECT_GT(efficiency, 0.6);
    EXPECT_LT(efficiency, 0.85);
    EXPECT_GT(r.conduction_deg, 80);
    EXPECT_LT(r.conduction_deg, 170);
  }
}

TEST(tube_run, the_grid_leak_decides_the_plates_heat) {
  // Halving it raises plate dissipation by 35 to 200 % and output by 1 to 28 % (seen on the
  // oscillators of tests/data/solved-tubes.json and variants of them, computed here; no source outside).
  TubeCircuit c = usual_oscillator();
  const TubeResult high = run(c);
  c.grid_leak_ohm /= 2;
  const TubeResult low = run(c);
  EXPECT_GT(low.plate_dissipation_w, 1.35 * high.plate_dissipation_w);
  EXPECT_GT(low.secondary_power_w, 1.01 * high.secondary_power_w);
  EXPECT_LT(low.secondary_power_w, 1.3 * high.secondary_power_w);
  EXPECT_GT(low.grid_bias_v, high.grid_bias_v);
}

TEST(tube_run, a_slow_grid_leak_makes_it_stop_and_start) {
  TubeCircuit c = usual_oscillator();
  EXPECT_FALSE(run(c).intermittent);
  c.grid_leak_ohm = 20e3;
  c.grid_leak_f = 10e-9;
  const TubeResult r = run(c);
  EXPECT_TRUE(r.intermittent);
  ASSERT_TRUE(r.burst_s);
  EXPECT_NEAR(*r.burst_s, 0.707e-3, 0.02e-3); // of the solved circuit, by the SPICE program
}

TEST(tube_run, a_thyristor_conducts_to_the_end_of_the_swing_whatever_its_gate_asked) {
  const TubeResult shorter = run(staccato(60, 1e-4), {.mains = true}),
                   longer = run(staccato(60, 1e-3), {.mains = true});
  ASSERT_EQ(shorter.off_s.size(), 1U);
  EXPECT_NEAR(shorter.off_s[0], longer.off_s[0], 0.1e-3);
  EXPECT_GT(shorter.off_s[0] - shorter.on_s[0], 10e-3);
  EXPECT_FALSE(shorter.stays_on);
  const TubeResult early = run(staccato(15), {.mains = true});
  ASSERT_FALSE(early.off_s.empty());
  EXPECT_LT(early.off_s[0] - early.on_s[0], 1e-3) << "too little current to hold it";
}

TEST(tube_run, on_direct_current_a_thyristor_never_turns_off) {
  TubeCircuit c = staccato(60);
  c.shifter.reset();
  c.direct_v = 4000;
  const TubeResult r = run(c, {.mains = true});
  EXPECT_TRUE(r.stays_on);
  EXPECT_TRUE(r.off_s.empty());
}

TEST(tube_run, a_shifted_supply_swings_from_zero_to_twice_the_peak) {
  // Common practice, no source: 2.2 kV RMS becomes a supply that swings to more than 5 kV with little load.
  TubeCircuit c = on_mains();
  reverse(c);
  c.law.perveance /= 100;
  c.law.grid_perveance /= 100;
  const TubeResult r = run(c, {.mains = true, .cycles = 4});
  EXPECT_GT(r.rail_most_v, 0.95 * 2 * std::numbers::sqrt2 * 2100);
  expect_close(crest_supply_v(c), 2 * std::numbers::sqrt2 * 2100, 1e-12);
}

// A pair as two single oscillators: seen from its middle, each tube has half the coil, twice the tank, the
// resonator by the root of half the mutual inductance, and the common grid leak twice.
TubeCircuit pair(double halves_k) {
  TubeCircuit c = usual_oscillator();
  c.push_pull = true;
  c.plate_halves_k = c.feedback_halves_k = halves_k;
  c.plate_h *= 2, c.plate_ohm *= 2, c.tank_f /= 2;
  c.feedback_h *= 2, c.feedback_ohm *= 2;
  c.plate_feedback_h *= 2;
  for (WindingMode& m : c.modes) m.mutual_h *= std::numbers::sqrt2;
  for (double& h : c.feedback_mode_h) h *= std::numbers::sqrt2;
  c.grid_leak_ohm /= 2;
  return c;
}
TubeCircuit half_of_it() {
  TubeCircuit c = usual_oscillator();
  c.grid_leak_f = 1e-7; // the middle of the feedback winding lies still
  return c;
}

TEST(push_pull, a_pair_is_two_tubes_that_take_turns) {
  // Halves that couple closely leave the tank to carry what even harmonics there are, as a single tube's does.
  const TubeResult together = run(pair(0.95)), alone = run(half_of_it());
  ASSERT_TRUE(together.oscillates && alone.oscillates);
  expect_close(together.frequency_hz, alone.frequency_hz, 0.005);
  expect_close(together.plate_input_w, 2 * alone.plate_input_w, 0.03);
  expect_close(together.plate_dissipation_w, 2 * alone.plate_dissipation_w, 0.08);
  expect_close(together.grid_bias_v, alone.grid_bias_v, 0.05);
  expect_close(together.top_peak_v, std::numbers::sqrt2 * alone.top_peak_v, 0.02);
  expect_close(together.tank_peak_v, 2 * alone.tank_peak_v, 0.05);
  EXPECT_LT(std::abs(together.balance_w), 0.01 * together.plate_input_w);
  const auto quick = tube_balance(pair(0.95), 4000), half = tube_balance(half_of_it(), 4000);
  ASSERT_TRUE(quick && half);
  expect_close(quick->plate_input_w, 2 * half->plate_input_w, 1e-3);
  expect_close(quick->frequency_hz, half->frequency_hz, 3e-4);
  expect_close(quick->top_peak_v, std::numbers::sqrt2 * half->top_peak_v, 1e-3);
  expect_close(quick->plate_input_w, together.plate_input_w, 0.04);
  expect_close(tube_start(pair(0.95), 4000).margin, tube_start(half_of_it(), 4000).margin, 0.02);
}

TEST(push_pull, powers_add_up_and_ends_swapped_never_swings) {
  Random r(41);
  int swung = 0;
  for (int i = 0; i < 12; ++i) {
    TubeCircuit c = pair(r.between(0.2, 0.7));
    c.grid_leak_ohm *= r.between(0.6, 2);
    c.direct_v = r.between(1500, 5000);
    c.stopper_ohm = i % 2 ? 10 : 0;
    const TubeResult there = run(c);
    swung += there.oscillates;
    EXPECT_LT(std::abs(there.balance_w), 0.01 * std::max(there.plate_input_w, 1.0)) << i;
    reverse(c);
    EXPECT_FALSE(run(c).oscillates) << i;
  }
  EXPECT_EQ(swung, 12);
  const TubeResult cycles = run(
      [] {
        TubeCircuit c = pair(0.45);
        c.direct_v.reset();
        c.shifter = ShifterSupply{2100, 1, 90, 2e-6, 20, 5e7};
        c.bypass_f = 4.7e-9, c.noise_a = 1e-4, c.noise_hz = 350e3;
        return c;
      }(),
      {.mains = true});
  EXPECT_TRUE(cycles.oscillates);
  EXPECT_LT(std::abs(cycles.balance_w), 0.01 * cycles.plate_input_w);
}

TEST(push_pull, a_coil_of_a_pair_counts_both_tubes) {
  Design d = willow();
  run_through(d);
  d.tube.in_parallel = 1;
  d.tube.supply_voltage_v = 3000;
  const FilamentPlan alone = filament_plan(d);
  d.tube.push_pull = true;
  EXPECT_EQ(tube_count(d), 2);
  EXPECT_DOUBLE_EQ(filament_plan(d).amps, 2 * alone.amps);
  const Analysis a = analyse(d);
  const TubeCircuit c = tube_circuit(d, a);
  EXPECT_GT(c.plate_halves_k, 0.2);
  EXPECT_LT(c.plate_halves_k, 0.8);
  EXPECT_GT(c.feedback_halves_k, c.plate_halves_k) << "a short winding's halves lie closer";
  PowerOptions plain{.advice = false, .variac = false};
  plain.lumped = true;
  const PowerAnalysis power = analyse_power(d, a, plain, UnitSystem::metric, never);
  const auto* t = power.of<TubePower>();
  ASSERT_TRUE(t && t->problem.empty());
  EXPECT_TRUE(t->run.oscillates);
  EXPECT_DOUBLE_EQ(t->worst_plate_w, t->run.plate_dissipation_w / 2 * (1 + d.tube.sharing));
  d.tube.circuit = OscillatorCircuit::hartley;
  const PowerAnalysis refused = analyse_power(d, a, plain, UnitSystem::metric, never);
  EXPECT_THAT(refused.of<TubePower>()->problem, HasSubstr("Armstrong"));
}

TEST(envelope, agrees_with_the_full_run_over_whole_cycles) {
  // A third of a megahertz is not far above the mains; a flame coil's megahertz are a hundred times farther.
  for (const double bypass_f : {4.7e-9, 100e-9}) {
    TubeCircuit c = on_mains();
    c.bypass_f = bypass_f;
    const TubeResult full = run(c, {.mains = true, .cycles = 4}), quick = simulate_envelope(c, {}, never);
    ASSERT_TRUE(quick.oscillates);
    expect_close(quick.plate_input_w, full.plate_input_w, 0.03);
    expect_close(quick.secondary_power_w, full.secondary_power_w, 0.03);
    expect_close(quick.plate_dissipation_w, full.plate_dissipation_w, 0.05);
    expect_close(quick.rail_most_v, full.rail_most_v, 0.03);
    expect_close(quick.top_peak_v, full.top_peak_v, 0.03);
    expect_close(quick.line_rms_a, full.line_rms_a, 0.05);
    EXPECT_LT(std::abs(quick.balance_w), 0.01 * quick.plate_input_w);
  }
}

std::vector<FeedBlock> filtered_feed() { // 3 kV
  Design d;
  d.tube.tube.plate_voltage_v = 3000;
  return feed_arrangement("filtered").blocks(d);
}

TEST(envelope, a_stiff_supply_gives_what_direct_current_gives) {
  TubeCircuit c = on_mains();
  c.shifter.reset();
  c.feed = filtered_feed();
  for (FeedBlock& b : c.feed)
    if (b.kind == "reservoir") b.values["capacitance_f"] = 200e-6;
  const TubeResult quick = simulate_envelope(c, {}, never);
  TubeCircuit still = c;
  still.direct_v = quick.rail_most_v;
  const TubeResult direct = run(still);
  expect_close(quick.plate_input_w, direct.plate_input_w, 0.03);
  expect_close(quick.plate_dissipation_w, direct.plate_dissipation_w, 0.03);
}

TEST(tube_run, what_makes_no_circuit_says_so) {
  const auto problem = [](auto change) {
    TubeCircuit c = usual_oscillator();
    change(c);
    return circuit_problem(c);
  };
  EXPECT_EQ(problem([](TubeCircuit&) {}), "");
  EXPECT_THAT(problem([](TubeCircuit& c) { c.law.mu = 0; }), HasSubstr("amplification"));
  EXPECT_THAT(problem([](TubeCircuit& c) { c.law.grid_perveance = 1; }), HasSubstr("grid takes more"));
  EXPECT_THAT(problem([](TubeCircuit& c) { c.plate_feedback_h = 1; }), HasSubstr("couple by 1"));
  EXPECT_THAT(problem([](TubeCircuit& c) { c.modes.clear(); }), HasSubstr("resonator"));
  EXPECT_THAT(problem([](TubeCircuit& c) { c.direct_v.reset(); }), HasSubstr("supply"));
  TubeCircuit bad = usual_oscillator();
  bad.modes.front().mutual_h = 10;
  EXPECT_THROW(run(bad), std::invalid_argument);
}

TEST(filament, is_planned_from_a_trial_winding_and_brought_down_by_an_inductor) {
  Design d = willow();
  d.site.mains_frequency_hz = 50;
  TubeOscillator& t = d.tube;
  t.in_parallel = 1;
  t.tube.filament_v = 12.6, t.tube.filament_a = 5;
  t.filament = {};
  t.filament.wiring_ohm = 0;
  t.filament.open_v = 13.8; // common practice, no source: 13.8 V is brought to 12.6 V with series inductors
  FilamentPlan plan = filament_plan(d);
  EXPECT_GT(plan.off, filament_band);
  ASSERT_TRUE(plan.series_h);
  t.filament.series_h = *plan.series_h;
  EXPECT_NEAR(filament_plan(d).volts, 12.6, 1e-9);
  t.filament = {};
  t.filament.trial_turns = 8, t.filament.trial_v = 2;
  t.filament.wiring_ohm = 0;
  EXPECT_NEAR(filament_plan(d).turns.value_or(0), 50.4, 1e-9) << "a quarter of a volt for each turn";
  t.filament.open_v = 6; // a 6.3 V tube at 6.0 V suffers: it is 4.8 % low, just within
  t.tube.filament_v = 6.3;
  EXPECT_NEAR(filament_plan(d).off, -0.0476, 1e-3);
  EXPECT_FALSE(filament_plan(d).series_h) << "an inductor only takes away";
  t.filament.soft_ohm = filament_plan(d).soft_ohm;
  EXPECT_LE(filament_plan(d).cold_a, 2 * 5 * 1.001);
}

TEST(plate_heat, passes_its_rating_when_the_exponential_says) {
  EXPECT_FALSE(time_to_limit_s(1, 8));
  ASSERT_TRUE(time_to_limit_s(2, 8));
  EXPECT_NEAR(*time_to_limit_s(2, 8), 8 * std::numbers::ln2, 1e-12);
  Design d = willow();
  TubePower t;
  t.worst_plate_w = 2 * d.tube.tube.plate_dissipation_w;
  EXPECT_EQ(plate_warmth_w(d, t, 0), 0);
  EXPECT_NEAR(plate_warmth_w(d, t, *time_to_limit_s(2, d.tube.tube.plate_heat_s)), d.tube.tube.plate_dissipation_w,
              1e-9);
}

TEST(plate_feed, a_level_shifters_diodes_see_twice_the_peak) {
  const Design d = willow();
  const FeedLoads loads = simulate_plate_feed(d.feed, d.site, 200e3, 4.7e-9, never);
  ASSERT_EQ(loads.diodes.size(), 1U);
  expect_close(loads.diodes[0].inverse_v, 2 * std::numbers::sqrt2 * 1900, 0.06);
  ASSERT_EQ(loads.joints.size(), d.feed.size() + 1);
}

TEST(plate_feed, what_doubles_is_counted_once_whichever_block_does_it) {
  const double peak_v = std::numbers::sqrt2 * 230;
  for (const char* kind : {"level-shifter", "half-wave-doubler", "full-wave-doubler"})
    EXPECT_DOUBLE_EQ(unloaded_bus_v({make_block(kind)}, 230), 2 * peak_v) << kind;
  for (const char* kind : {"bridge", "diode-string"})
    EXPECT_DOUBLE_EQ(unloaded_bus_v({make_block(kind)}, 230), peak_v) << kind;
}

TEST(tube_run, the_books_are_right_behind_a_reservoir_too) {
  Design d = willow();
  run_through(d);
  d.feed = filtered_feed();
  const TubeResult r = run(tube_circuit(d, analyse(d), true), {.mains = true, .cycles = 2});
  ASSERT_TRUE(r.oscillates);
  EXPECT_LT(std::abs(r.balance_w), 0.01 * r.plate_input_w);
}

TEST(plate_feed, every_usual_arrangement_feeds_every_class_of_tube) {
  for (const FeedArrangement& each : feed_arrangements()) {
    if (each.end != FeedEnd::plate) continue;
    for (const TubeClass& row : tube_classes()) {
      Design d;
      d.tube.tube = row.tube;
      const auto feed = each.blocks(d);
      EXPECT_EQ(feed_problem(feed, FeedEnd::plate), "") << each.key;
      TubeCircuit c = on_mains();
      c.shifter.reset();
      c.feed = feed;
      const double crest = crest_supply_v(c);
      EXPECT_GT(crest, 0.4 * row.tube.plate_voltage_v) << each.key << " " << row.title;
      EXPECT_LT(crest, 1.1 * row.tube.plate_voltage_v) << each.key << " " << row.title;
    }
  }
}

TEST(feedback_winding, stands_where_it_is_said_and_couples_less_the_farther_it_is) {
  Design d = willow();
  const Analysis a = analyse(d);
  const auto coupling = [&] { return feedback_circuit(d, a, {}).plate_coupling; };
  const auto rings = feedback_rings(d.feedback, d.primary);
  double highest = 0;
  for (const Ring& ring : rings) highest = std::max(highest, ring.height_m);
  const double lowest_turn = d.primary.base_height_m + d.primary.pitch_m / 2;
  EXPECT_NEAR(lowest_turn - highest, 0.012 + (0.001 + 0.0015) / 2, 1e-9);
  const double near = coupling();
  d.feedback.gap_m = 0.05;
  EXPECT_LT(coupling(), near);
  d.feedback.gap_m = 0.012;
  d.tube.reversed = true;
  EXPECT_NEAR(coupling(), -near, 1e-12);
  d.tube.reversed = false;
  d.feedback.above = true;
  for (const Ring& ring : feedback_rings(d.feedback, d.primary))
    EXPECT_GT(ring.height_m, d.primary.base_height_m + d.primary.turns * d.primary.pitch_m);
  EXPECT_GT(feedback_circuit(d, a, {}).secondary_coupling, 0);
}

TEST(feedback_winding, a_winding_of_the_trade_has_the_handbook_inductance) {
  // Forty turns of 1.5 mm wire on a 110 mm pipe with twelve feedback turns (common practice, no source), against
  // Wheeler's formula (1928).
  Design d = willow();
  d.primary.inner_radius_m = d.feedback.radius_m = 0.0558;
  d.primary.turns = d.primary.tap_turns = 40;
  d.primary.pitch_m = 0.0016;
  d.feedback.turns = 12;
  d.feedback.pitch_m = 0.0016;
  const Analysis a = analyse(d);
  const auto wheeler = [](double radius_m, double turns, double length_m) {
    const double inch = 0.0254;
    return 1e-6 * std::pow(radius_m / inch * turns, 2) / (9 * radius_m / inch + 10 * length_m / inch);
  };
  expect_close(a.primary_inductance_h, wheeler(0.0558, 40, 40 * 0.0016), 0.03);
  expect_close(feedback_circuit(d, a, {}).inductance_h, wheeler(0.0558, 12, 12 * 0.0016), 0.06);
}

std::vector<Finding> says(const Design& d) {
  const Analysis a = analyse(d);
  PowerOptions plain;
  plain.advice = plain.variac = plain.waveforms = false;
  plain.lumped = true;
  const PowerAnalysis power = analyse_power(d, a, plain, UnitSystem::metric, never);
  return all_findings(a, &power);
}

// The demo, fired at every cycle so that a firing period is short.
Design fired_often() {
  Design d = willow();
  d.interrupter.every_cycle = 1;
  return d;
}

const Finding* finding_in(const std::vector<Finding>& all, std::string_view id) {
  const auto it = std::ranges::find(all, id, &Finding::id);
  return it == all.end() ? nullptr : &*it;
}

class TubeFault : public testing::TestWithParam<std::tuple<const char*, void (*)(Design&)>> {};

// Each judgement is provoked on the demo, speaks with a number, and its remedy helps where there is one.
TEST_P(TubeFault, is_found_and_its_remedy_helps) {
  const auto& [id, spoil] = GetParam();
  Design d = fired_often();
  static const std::vector<Finding> before = says(d);
  EXPECT_FALSE(finding_in(before, id)) << "the demo itself is free of it";
  spoil(d);
  const auto all = says(d);
  const Finding* f = finding_in(all, id);
  ASSERT_TRUE(f) << id;
  EXPECT_FALSE(f->title.empty() || f->text.empty() || f->remedy.empty());
  if (!f->apply) return;
  f->apply(d);
  EXPECT_TRUE(eased(*f, says(d))) << id << ": " << f->remedy;
}

double& number(Design& d, std::string_view kind, const char* key) {
  return std::ranges::find(d.feed, kind, &FeedBlock::kind)->values.at(key);
}
INSTANTIATE_TEST_SUITE_P(
    each, TubeFault,
    testing::
        Values(
            std::tuple{"feedback-near", +[](Design& d) { d.feedback.gap_m = 0.003; }},
            std::tuple{"feedback-in-floor", +[](Design& d) { d.feedback.pitch_m = 0.04; }},
            std::tuple{"feedback-in-secondary", +[](Design& d) { d.feedback.radius_m = 0.036; }},
            std::tuple{"filament-off", +[](Design& d) { d.tube.filament.open_v = 9; }},
            std::tuple{"filament-surge", +[](Design& d) { d.tube.filament.soft_ohm = 0; }},
            std::tuple{"no-trap", +[](Design& d) { d.tube.trap_ohm = 0; }},
            std::tuple{"no-protection", +[](Design& d) { d.tube.bypass_f = 1e-11; }},
            std::tuple{"tank-over-rating", +[](Design& d) { d.tank.unit_voltage_v = 3000; }},
            std::tuple{"pair-needs-armstrong",
                       +[](Design& d) {
                         d.tube.push_pull = true;
                         d.tube.circuit = OscillatorCircuit::hartley;
                       }},
            std::tuple{"tank-without-middle",
                       +[](Design& d) {
                         d.tube.push_pull = true;
                         d.tank.units_in_series = 3;
                       }},
            std::tuple{"does-not-start", +[](Design& d) { d.tube.reversed = true; }},
            std::tuple{"starts-badly",
                       +[](Design& d) {
                         run_through(d);
                         d.feedback.turns = 3;
                       }},
            std::tuple{"plate-too-hot",
                       +[](Design& d) {
                         run_through(d);
                         d.tube.tube.plate_dissipation_w = 45;
                       }},
            std::tuple{"grid-too-hot", +[](Design& d) { d.tube.tube.grid_dissipation_w = 2; }},
            std::tuple{"cathode-over", +[](Design& d) { d.tube.tube.cathode_peak_a = 1; }},
            std::tuple{"plate-over-volts", +[](Design& d) { d.tube.tube.plate_voltage_v = 3000; }},
            std::tuple{"x-rays", +[](Design& d) { number(d, "oven-transformers", "in_series") = 2; }},
            std::tuple{"grid-leak-over", +[](Design& d) { d.tube.grid_leak_rating_w = 1; }},
            std::tuple{"intermittent",
                       +[](Design& d) {
                         run_through(d);
                         d.tube.supply_voltage_v = 4000;
                         d.tube.grid_leak_ohm = 50e3;
                         d.tube.grid_leak_f = 10e-9;
                       }},
            std::tuple{"thyristor-stays-on", +[](Design& d) { d.tube.supply_voltage_v = 4000; }},
            std::tuple{"does-not-latch", +[](Design& d) { d.interrupter.phase_deg = 12; }},
            std::tuple{"thyristor-over-volts", +[](Design& d) { d.tube.thyristor_voltage_v = 20; }},
            std::
                tuple{
                    "beats-with-mains",
                    +[](Design& d) {
                      d.interrupter.locked = false;
                      d.interrupter.rate_hz = 51;
                    }},
            std::tuple{"diodes-overloaded",
                       +[](Design& d) { number(d, "level-shifter", "inverse_voltage_v") = 3000; }},
            std::tuple{"breaker-trips", +[](Design& d) { number(d, "breaker", "rated_current_a") = 0.3; }},
            std::tuple{"shifter-capacitor-overloaded",
                       +[](Design& d) { number(d, "level-shifter", "rated_v") = 2000; }},
            std::tuple{"shifter-no-bleeder",
                       +[](Design& d) { number(d, "level-shifter", "bleed_resistance_ohm") = 0; }},
            std::tuple{"shifter-sags", +[](Design& d) {
                         run_through(d);
                         number(d, "level-shifter", "capacitance_f") = 1e-7;
                       }}),
    [](const auto& of) {
      std::string name = std::get<0>(of.param);
      std::ranges::replace(name, '-', '_');
      return name;
    });

TEST(tube_kind, a_file_with_everything_of_it_comes_back_as_it_was) {
  Random r(23);
  Design d = willow();
  for (const FieldSpec& field : design_fields()) {
    if (!field.key.starts_with("tube.") && !field.key.starts_with("feedback.")) continue;
    double value =
        field.minimum > 0 ? r.decade(field.minimum, field.maximum) : r.between(field.minimum, field.maximum);
    if (field.dimension == Dimension::count) value = std::round(value);
    if (std::abs(value) >= 1e-20) field.set(d, value);
  }
  d.tube.circuit = OscillatorCircuit::hartley;
  d.tube.tube.tie = GridTie::screen_to_grid;
  d.feedback.above = d.tube.reversed = d.tube.push_pull = true;
  d.tube.arc = ArcLoad::never;
  EXPECT_EQ(read_design(write_design(d)), d);
  d.kind = "spark-gap"; // what another kind has typed stays
  EXPECT_EQ(read_design(write_design(d)), d);
}

TEST(tube_kind, quick_figures_are_there_with_the_coils_analysis_and_near_the_full_run) {
  for (const char* demo : {"/glass-willow.json", "/candle-reed.json"}) {
    Design d = read_design(read_text(std::string(HIGH_ARC_EXAMPLES) + demo));
    run_through(d);
    d.tube.supply_voltage_v = d.flame.supply_voltage_v = 2100;
    const Analysis a = analyse(d);
    ASSERT_TRUE(a.quick) << demo;
    const TubeResult full = run(circuit_of(d, a, true));
    expect_close(a.quick->frequency_hz, full.frequency_hz, 0.005, demo);
    expect_close(a.quick->input_w, full.plate_input_w, 0.05, demo);
    expect_close(a.quick->device_w, full.plate_dissipation_w, 0.15, demo);
    d.tube.reversed = true;
    if (!is_flame(d)) {
      EXPECT_FALSE(analyse(d).quick) << "what does not swing has none";
    }
  }
  EXPECT_FALSE(analyse(demo_design()).quick) << "a spark gap has no such method";
}

TEST(tube_kind, runs_record_what_tube_builders_read) {
  const auto columns = [](const char* kind) {
    std::set<std::string, std::less<>> out;
    for (const RunField& field : run_fields())
      if (belongs_to(field, *coil_kind(kind))) out.emplace(field.key);
    return out;
  };
  for (const char* key : {"plate_voltage_v", "plate_current_a", "grid_current_a", "filament_voltage_v"}) {
    EXPECT_TRUE(columns("tube").contains(key) && columns("flame").contains(key)) << key;
    EXPECT_FALSE(columns("spark-gap").contains(key)) << key;
  }
  EXPECT_TRUE(columns("tube").contains("grid_leak_ohm") && !columns("flame").contains("grid_leak_ohm"));
  EXPECT_TRUE(columns("flame").contains("grid_resistor_ohm"));
  const Design d = willow();
  const arc::Run logged = begin_run(d, analyse(d), nullptr, "2026-02-01T20:00:00");
  EXPECT_EQ(logged.conditions.at("feedback_turns"), 12);
  EXPECT_EQ(logged.conditions.at("grid_leak_ohm"), 1500);
}

TEST(flame_kind, its_resonator_is_the_spaced_helix_of_the_field_engine_with_the_forms_loss) {
  Design d = read_design(read_text(HIGH_ARC_EXAMPLES "/candle-reed.json"));
  const Analysis a = analyse(d);
  ASSERT_TRUE(a.resonator);
  const TubeCircuit ceramic = flame_circuit(d, a);
  expect_close(resonance_hz(ceramic.modes.front().inductance_h, ceramic.modes.front().capacitance_f),
               a.resonator->mode_1_hz, 1e-6);
  d.flame.form = FlameForm::plastic;
  EXPECT_GT(flame_circuit(d, a).modes.front().resistance_ohm, ceramic.modes.front().resistance_ohm);
  d.flame.form = FlameForm::air;
  EXPECT_LT(flame_circuit(d, a).modes.front().resistance_ohm, ceramic.modes.front().resistance_ohm);
  d.flame.plate_self_f = 7e-12;
  EXPECT_EQ(flame_circuit(d, a).tank_f, 7e-12);
  d.feed.clear();
  EXPECT_THROW(flame_circuit(d, a), std::invalid_argument);
}

class FlameFault : public testing::TestWithParam<std::tuple<const char*, void (*)(Design&)>> {};

TEST_P(FlameFault, is_found_and_its_remedy_helps) {
  const auto& [id, spoil] = GetParam();
  Design d = read_design(read_text(HIGH_ARC_EXAMPLES "/candle-reed.json"));
  EXPECT_FALSE(finding_in(says(d), id)) << "the demo itself is free of it";
  spoil(d);
  const auto all = says(d);
  const Finding* f = finding_in(all, id);
  ASSERT_TRUE(f) << id;
  EXPECT_FALSE(f->title.empty() || f->text.empty() || f->remedy.empty());
  if (!f->apply) return;
  f->apply(d);
  EXPECT_TRUE(eased(*f, says(d))) << id << ": " << f->remedy;
}

INSTANTIATE_TEST_SUITE_P(
    each, FlameFault,
    testing::Values(std::tuple{"flame-does-not-start", +[](Design& d) { d.flame.feedback_f = 0.08e-12; }},
                    std::tuple{"flame-plate-too-hot",
                               +[](Design& d) {
                                 d.flame.feedback_f = 0.25e-12;
                                 d.tube.tube.plate_dissipation_w = 20;
                               }},
                    std::tuple{"flame-grid-too-hot", +[](Design& d) { d.tube.tube.grid_dissipation_w = 0.05; }},
                    std::tuple{"grid-resistor-over", +[](Design& d) { d.flame.grid_resistor_rating_w = 0.5; }},
                    std::tuple{"form-chars", +[](Design& d) { d.flame.form = FlameForm::plastic; }},
                    std::tuple{"cathode-over", +[](Design& d) { d.tube.tube.cathode_peak_a = 0.2; }},
                    std::tuple{"plate-over-volts", +[](Design& d) { d.tube.tube.plate_voltage_v = 1000; }},
                    std::tuple{"filament-off", +[](Design& d) { d.tube.filament.open_v = 14; }}),
    [](const auto& of) {
      std::string name = std::get<0>(of.param);
      std::ranges::replace(name, '-', '_');
      return name;
    });

TEST(flame_kind, its_supply_swings_and_its_figures_are_of_whole_cycles) {
  const Design reed = read_design(read_text(HIGH_ARC_EXAMPLES "/candle-reed.json"));
  const PowerOptions plain{.advice = false, .variac = false};
  const auto figures = [&](const Design& d) {
    return analyse_power(d, analyse(d), plain, UnitSystem::metric, never).of<TubePower>()->run;
  };
  const TubeResult filtered = figures(reed);
  EXPECT_TRUE(filtered.oscillates);
  Design bare = reed; // without choke and reservoir the flame follows every half cycle
  std::vector<FeedBlock> blocks;
  for (const FeedBlock& b : reed.feed)
    if (b.kind != "filter-choke" && b.kind != "reservoir") blocks.push_back(b);
  bare.feed = blocks;
  const TubeResult swinging = figures(bare);
  const auto least = [](const TubeResult& r) {
    return std::ranges::min_element(r.samples, {}, &TubeSample::rail_v)->rail_v / r.rail_most_v;
  };
  EXPECT_GT(least(filtered), 0.8);
  EXPECT_LT(least(swinging), 0.3);
  EXPECT_GT(swinging.rail_most_v, filtered.rail_most_v) << "a choke's filter gives the mean, not the crest";
  EXPECT_LT(std::abs(swinging.balance_w), 0.01 * swinging.plate_input_w);
  Design direct = reed;
  direct.flame.supply_voltage_v = filtered.rail_most_v;
  expect_close(filtered.plate_input_w, figures(direct).plate_input_w, 0.05);
}

TEST(flame_kind, always_says_that_the_flame_is_not_isolated) {
  const Design d = read_design(read_text(HIGH_ARC_EXAMPLES "/candle-reed.json"));
  const auto all = says(d);
  const Finding* f = finding_in(all, "flame-not-isolated");
  ASSERT_TRUE(f);
  EXPECT_THAT(f->text, HasSubstr("Nothing goes near it while it is on"));
  const auto checks = kind_of(d).checks_before_power(d, analyse(d), nullptr, UnitSystem::metric);
  EXPECT_EQ(checks.front().key, "isolation");
}

TEST(tube_kind, first_fault_walks_begin_where_practitioners_begin) {
  const Design d = willow();
  const Analysis a = analyse(d);
  for (const char* kind : {"tube", "flame"}) {
    for (const FaultSymptom& symptom : coil_kind(kind)->symptoms()) {
      const auto steps = symptom.steps(d, a, nullptr, UnitSystem::metric);
      ASSERT_FALSE(steps.empty()) << symptom.key;
      for (const FaultStep& step : steps)
        EXPECT_FALSE(step.question.empty() || step.how.empty() || step.cure.empty()) << symptom.key;
    }
  }
  const auto steps = coil_kind("tube")->symptoms().front().steps(d, a, nullptr, UnitSystem::metric);
  EXPECT_THAT(steps[0].question, HasSubstr("filament")) << "filament first";
  EXPECT_THAT(steps[2].question, HasSubstr("two ends swapped")) << "then plate volts, then the feedback";
  Design mended = d;
  steps[2].apply(mended);
  EXPECT_TRUE(mended.tube.reversed);
}

TEST(tube_kind, changes_and_sweeps_point_the_same_way_as_full_runs) {
  Design d = willow();
  run_through(d);
  d.tube.supply_voltage_v = 4000;
  Kept kept;
  const auto power = [&](const Design& x, bool advice) {
    PowerOptions o;
    o.advice = o.variac = advice;
    o.lumped = true;
    return analyse_power(x, analyse(x), o, UnitSystem::metric, work_in(kept));
  };
  const PowerAnalysis now = power(d, true);
  const auto& t = *now.of<TubePower>();
  ASSERT_GT(t.changes.size(), 8U);
  int checked = 0;
  for (const TriedChange& change : t.changes) {
    const double said = change.ratio("plate_ratio");
    Design changed = d;
    change.apply(changed);
    const PowerAnalysis changed_power = power(changed, false);
    const auto& then = changed_power.of<TubePower>()->run;
    const double plate = then.plate_dissipation_w / t.run.plate_dissipation_w;
    if (change.title.starts_with("Grid leak")) expect_close(plate, said, 0.12, change.title);
    if (std::abs(plate - 1) < 0.05) continue;
    EXPECT_EQ(plate > 1, said > 1) << change.title << ": " << plate << ", said " << said;
    ++checked;
  }
  EXPECT_GT(checked, 6);
  ASSERT_EQ(t.sweeps.size(), 4U);
  int swept = 0;
  for (const TubeSweep& s : t.sweeps) {
    std::vector<TubePoint> on;
    std::ranges::copy_if(s.points, std::back_inserter(on), &TubePoint::oscillates);
    ASSERT_GT(on.size(), 10u) << s.key;
    const auto field = std::ranges::find(design_fields(), s.key, &FieldSpec::key);
    if (field == design_fields().end()) continue;
    const TubePoint& here =
        *std::ranges::min_element(on, {}, [&](const TubePoint& p) { return std::abs(p.value - s.now); });
    for (const TubePoint& there : {on.front(), on.back()}) {
      Design changed = d;
      field->set(changed, there.value);
      const PowerAnalysis changed_power = power(changed, false);
      const auto& then = changed_power.of<TubePower>()->run;
      if (!then.oscillates || std::abs(there.plate_w / here.plate_w - 1) < 0.2) continue;
      EXPECT_EQ(then.plate_dissipation_w > t.run.plate_dissipation_w, there.plate_w > here.plate_w)
          << s.key << " " << there.value;
      ++swept;
    }
  }
  EXPECT_GT(swept, 2);
  EXPECT_TRUE(t.band.contains("plate_dissipation_w"));
  ASSERT_EQ(t.maps.size(), 3U);
  for (const TriedMap& m : t.maps) {
    ASSERT_EQ(m.places.size(), m.across.values.size() * m.up.values.size());
    EXPECT_GT(std::ranges::count(m.places, true, &TriedMap::Place::runs), 200) << m.across.key << " " << m.up.key;
    EXPECT_EQ(static_cast<bool>(m.apply), m.up.key == "feedback.turns") << "nobody types a coupling";
  }
}

TEST(tube_kind, bands_are_of_one_pole_and_the_other_is_named) {
  const Design d = willow();
  const PowerAnalysis power = analyse_power(d, analyse(d), {}, UnitSystem::metric, never);
  const auto& t = *power.of<TubePower>();
  ASSERT_GT(t.start.modes.size(), 1U);
  const double lower = t.run.frequency_hz, upper = t.start.modes[1].frequency_hz;
  ASSERT_LT(lower, upper);
  EXPECT_LT(t.band.at("frequency_hz"), 0.08 * lower);
  EXPECT_LT(t.band.at("top_peak_v"), 0.5 * t.run.top_peak_v);
  ASSERT_TRUE(t.other_pole_hz) << "its tank is near the resonator";
  expect_close(*t.other_pole_hz, upper, 0.05);
  // A tank far below the resonator leaves no choice.
  Design far = d;
  far.tank.units_in_parallel = 2 * d.tank.units_in_parallel;
  const PowerAnalysis settled = analyse_power(far, analyse(far), {}, UnitSystem::metric, never);
  EXPECT_FALSE(settled.of<TubePower>()->other_pole_hz);
}

TEST(tube_kind, circuits_hold_together_whatever_is_wired) {
  for (const char* file : {"glass-willow", "candle-reed"}) {
    Design d = read_design(read_text(std::string(HIGH_ARC_EXAMPLES "/") + file + ".json"));
    for (const auto circuit : {OscillatorCircuit::armstrong, OscillatorCircuit::hartley})
      for (const bool pair : {false, true})
        for (const bool staccato : {false, true})
          for (const double lamp_ohm : {0.0, 50.0}) {
            d.tube.circuit = circuit;
            d.tube.push_pull = pair;
            d.tube.staccato = staccato;
            d.tube.lamp_hot_ohm = lamp_ohm;
            const Schematic s = tube_schematic(d, nullptr, nullptr, UnitSystem::metric);
            const auto open = [](SchematicPoint p) { // the supply's words; the edges of the feedback plate
              return p == SchematicPoint{96, 40} || p == SchematicPoint{124, 146} || p == SchematicPoint{148, 146};
            };
            EXPECT_EQ(loose_ends(s, open), "") << file << pair << staccato;
            std::set<std::string> keys;
            for (const SchematicPart& part : s.parts) {
              EXPECT_TRUE(keys.insert(part.key).second) << part.key;
              const SchematicBox& b = part.box;
              EXPECT_TRUE(b.width > 0 && b.left >= 0 && b.left + b.width <= s.width && b.top + b.height <= s.height)
                  << part.key;
            }
            for (const SchematicSymbol& symbol : s.symbols)
              EXPECT_TRUE(symbol.part.empty() || keys.contains(symbol.part)) << symbol.part << " is no part";
          }
  }
}

TEST(tube_kind, a_place_of_a_map_is_what_the_balance_says_of_that_design) {
  Design d = willow();
  run_through(d);
  d.tube.supply_voltage_v = 4000;
  const PowerOptions o{.advice = false, .variac = true};
  const PowerAnalysis power = analyse_power(d, analyse(d), o, UnitSystem::metric, never);
  const TriedMap& m = power.of<TubePower>()->maps.at(2);
  ASSERT_EQ(m.across.key, "tube.grid_leak_ohm");
  Random r(29);
  for (int i = 0; i < 8; ++i) {
    const auto column = static_cast<std::size_t>(r.between(0, 19)),
               row = static_cast<std::size_t>(r.between(2, 13));
    Design there = d;
    there.tube.grid_leak_ohm = m.across.values[column];
    there.feedback.turns = m.up.values[row];
    const auto quick = quick_drive(there, analyse(there));
    const TriedMap::Place& p = m.at(column, row);
    ASSERT_EQ(p.runs, quick.has_value());
    if (quick) expect_close(m.value(p, "secondary_power_w"), quick->output_w, 1e-6);
    m.apply(there, m.across.values[column], m.up.values[row]);
    EXPECT_NEAR(there.tube.grid_leak_ohm, m.across.values[column], 0.05 * m.across.values[column]);
    EXPECT_NEAR(there.feedback.turns, m.up.values[row], 0.25 + 1e-9);
  }
  d.tank.units_in_parallel = 4;
  power.of<TubePower>()->maps.at(0).apply(d, 1.3 * tank_capacitance_f(d.tank), d.feedback.turns);
  EXPECT_EQ(d.tank.units_in_parallel, 5) << "whole capacitors";
}

} // namespace
// Circuit theory: a capacitor between an alternating winding and a diode stands at the winding's peak; what flows
// in it moves its volts. No load to speak of, then a load that a small one cannot carry.
TEST(level_shifter, its_capacitor_stands_at_the_peak_and_sags_with_the_load_over_its_size) {
  Site site;
  const auto loads = [&](double farad, double ohm) {
    FeedBlock ovens = make_block("oven-transformers"), shifter = make_block("level-shifter");
    ovens.values["in_series"] = 1;
    shifter.values["capacitance_f"] = farad;
    return simulate_plate_feed({ovens, shifter}, site, ohm, 1e-9, never);
  };
  const FeedLoads idle = loads(1e-6, 1e8);
  ASSERT_EQ(idle.capacitors.size(), 1u);
  expect_close(idle.capacitors[0].peak_v, 2100 * std::sqrt(2), 0.03);
  EXPECT_LT(idle.capacitors[0].sag_v(), 0.02 * idle.capacitors[0].peak_v);
  for (const double farad : {2e-6, 1e-6, 0.5e-6, 0.25e-6}) {
    const CapacitorLoad c = loads(farad, 20e3).capacitors[0];
    // Charge in and out once a cycle: at least 2 C dV f on average, and effective is not less than average.
    EXPECT_GT(c.rms_a, 2 * farad * c.sag_v() * site.mains_frequency_hz) << farad;
    EXPECT_LT(c.rms_a, 6 * farad * c.sag_v() * site.mains_frequency_hz) << farad;
  }
  EXPECT_GT(loads(0.1e-6, 20e3).capacitors[0].sag_v() / loads(0.1e-6, 20e3).capacitors[0].peak_v, 0.8)
      << "far too small";
}

// A tenth of the capacitance takes most of the power; the remedy against full runs.
TEST(level_shifter, one_that_is_too_small_is_told_with_the_size_that_gives_the_power_back) {
  Design d = willow();
  run_through(d);
  const double whole_w = [&] {
    const PowerAnalysis p = analyse_power(
        d, analyse(d),
        [] {
          PowerOptions o;
          o.advice = o.variac = o.waveforms = false;
          return o;
        }(),
        UnitSystem::metric, never);
    EXPECT_FALSE(p.of<TubePower>()->better_shifter);
    return p.of<TubePower>()->run.plate_input_w;
  }();
  for (const double small_f : {1e-7, 2.2e-7}) {
    number(d, "level-shifter", "capacitance_f") = small_f;
    PowerOptions plain;
    plain.advice = plain.variac = plain.waveforms = false;
    const PowerAnalysis small = analyse_power(d, analyse(d), plain, UnitSystem::metric, never);
    const auto& better = small.of<TubePower>()->better_shifter;
    ASSERT_TRUE(better) << small_f;
    Design mended = d;
    number(mended, "level-shifter", "capacitance_f") = better->farad;
    const PowerAnalysis then = analyse_power(mended, analyse(mended), plain, UnitSystem::metric, never);
    EXPECT_GT(then.of<TubePower>()->run.plate_input_w, 2 * small.of<TubePower>()->run.plate_input_w) << small_f;
    EXPECT_GT(then.of<TubePower>()->run.plate_input_w, 0.6 * whole_w) << small_f;
  }
}

TEST(meters, over_the_variac_agree_with_full_runs_within_a_quarter) {
  Design d = willow();
  d.tube.staccato = false;
  const Analysis a = analyse(d);
  PowerOptions options;
  options.advice = options.waveforms = false;
  const PowerAnalysis now = analyse_power(d, a, options, UnitSystem::metric, never);
  const auto& t = *now.of<TubePower>();
  ASSERT_EQ(t.meters.size(), 5u);
  for (std::size_t i = 1; i < t.meters.size(); ++i) {
    EXPECT_GT(t.meters[i].plate_a, t.meters[i - 1].plate_a);
    EXPECT_GT(t.meters[i].line_a, t.meters[i - 1].line_a);
  }
  EXPECT_NEAR(t.meters.back().plate_a, t.run.plate_average_a, 1e-9) << "the demo stands at full variac";
  options.variac = false;
  for (const TubeMeters& m : t.meters) {
    if (m.setting != 0.5 && m.setting != 0.75) continue;
    Design turned = d;
    number(turned, "variac", "setting") = m.setting;
    const PowerAnalysis then = analyse_power(turned, a, options, UnitSystem::metric, never);
    const auto& run = then.of<TubePower>()->run;
    expect_close(m.plate_a, run.plate_average_a, 0.25, "plate");
    expect_close(m.grid_a, run.grid_average_a, 0.25, "grid");
    expect_close(m.line_a, then.part->feed()->line_current_a, 0.25, "line");
  }
}

} // namespace arc::tube_tests
