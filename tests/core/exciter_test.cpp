// The exciter: device laws, the way of heat, oscillation, findings; partial designs and the law of kinds.
#include "crafts/exciter/exciter.h"

#include "analysis/analyse.h"
#include "circuit/stiff.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "model/fields.h"
#include "random_designs.h"
#include "simulation/figures.h"
#include "simulation/power.h"
#include "support.h"
#include "workshop/first_fault.h"

#include <array>
#include <cmath>
#include <random>

using namespace arc;
using testing::HasSubstr;

namespace {

// 4.3 MHz, six turns, Q of 50: a common first coil.
ExciterCircuit common_circuit() {
  ExciterCircuit c;
  c.primary_h = 2.2e-6;
  c.primary_ohm = 0.05;
  c.secondary_h = 0.7e-3;
  c.secondary_f = 1.96e-12;
  c.secondary_ohm = 378;
  c.mutual_h = 0.25 * std::sqrt(c.primary_h * c.secondary_h);
  c.clamp = usual_clamp(Clamp::led);
  c.base_stray_f = 2e-12;
  c.collector_stray_f = 40e-12;
  return c;
}

Design exciter_design() {
  Design d;
  d.kind = "exciter";
  d.equivalent = {2.2e-6, 0.05, 0.25, 0.7e-3, 1.96e-12, 378.0};
  d.secondary = {0.05, 400, 0.15, 0.0003, 0.00034, 0.05, {}};
  d.primary = {PrimaryShape::helix, 0.035, 0.006, 6, 0.0015, 0.05, 0, 6, 0, {}, {}};
  return d;
}

OscillationResult run(const ExciterCircuit& c) {
  return simulate_oscillation(c, {}, never);
}

TEST(exciter, a_lamp_lights_where_the_charge_of_the_top_makes_its_field) {
  const Design d = read_design(read_text(HIGH_ARC_EXAMPLES "/paper-moth.json"));
  const Analysis a = analyse(d);
  const PowerAnalysis p = analyse_power(d, a, {.advice = false}, UnitSystem::metric, never);
  const auto* e = p.of<ExciterAnalysis>();
  ASSERT_TRUE(e && e->lamp_m);
  constexpr double coulomb = 8.9875517923e9; // of Coulomb's law, N m^2/C^2 (CODATA; value from memory)
  const double charge_c = e->circuit.secondary_f * e->oscillation.top_peak_v;
  EXPECT_NEAR(coulomb * charge_c / (e->lamp_m->high * e->lamp_m->high), lamp_lights_v_per_m.high,
              1e-6 * lamp_lights_v_per_m.high);
  EXPECT_NEAR(coulomb * charge_c / (e->lamp_m->low * e->lamp_m->low), lamp_lights_v_per_m.low,
              1e-6 * lamp_lights_v_per_m.low);
  EXPECT_GT(e->lamp_m->high, e->lamp_m->low);
}

TEST(exciter, the_supply_at_which_the_collector_meets_its_rating_is_found_between_the_runs) {
  Design d = read_design(read_text(HIGH_ARC_EXAMPLES "/paper-moth.json"));
  d.exciter.supply_limit_a.reset();
  const auto run_of = [](const Design& design) {
    return analyse_power(design, analyse(design), {.advice = false}, UnitSystem::metric, never);
  };
  const double rating_v = d.exciter.transistor.voltage_rating_v;
  const PowerAnalysis p = run_of(d);
  const auto limit_v = supply_at_rating_v(*p.of<ExciterAnalysis>(), rating_v);
  ASSERT_TRUE(limit_v);
  d.exciter.supply_voltage_v = *limit_v;
  const PowerAnalysis there = run_of(d);
  EXPECT_NEAR(there.of<ExciterAnalysis>()->oscillation.collector_peak_v, rating_v, 0.1 * rating_v);
  EXPECT_FALSE(supply_at_rating_v(*p.of<ExciterAnalysis>(), 1e5));
}

struct TwoDecays {
  void slopes(const Eigen::Vector2d& y, Eigen::Vector2d& out) const { out << -1e6 * y(0), -2 * y(1); }
  void jacobian(const Eigen::Vector2d&, Eigen::Matrix2d& out) const { out << -1e6, 0, 0, -2; }
};

TEST(stiff, follows_a_fast_and_a_slow_decay_as_the_exponentials_do) {
  StiffRun<2, TwoDecays> both({}, 1e-9, 1e-6, 0.1, Eigen::Vector2d::Ones());
  for (const double t : {0.1, 0.5, 1.0, 2.0}) {
    const Eigen::Vector2d now = both.at(t);
    EXPECT_NEAR(now(0), 0, 1e-6); // an explicit method would need a million steps
    EXPECT_NEAR(now(1) / std::exp(-2 * t), 1, 1e-4);
  }
}

// y'' = 1000 (1 - y^2) y' - y, a standard stiff problem with a published limit cycle.
struct VanDerPol {
  double mu;
  void slopes(const Eigen::Vector2d& y, Eigen::Vector2d& out) const {
    out << y(1), mu * (1 - y(0) * y(0)) * y(1) - y(0);
  }
  void jacobian(const Eigen::Vector2d& y, Eigen::Matrix2d& out) const {
    out << 0, 1, -2 * mu * y(0) * y(1) - 1, mu * (1 - y(0) * y(0));
  }
};

TEST(stiff, van_der_pols_oscillator_has_its_published_period) {
  // Urabe, IRE Trans. Circuit Theory 7 (1960) 382: period 19.078 at a damping of 10, amplitude 2.0143 (from
  // memory).
  StiffRun<2, VanDerPol> run({10}, 1e-9, 1e-8, 0.1, {2, 0});
  std::vector<double> rising;
  double before = 2, highest = 0;
  for (double t = 0.001; t < 80; t += 0.001) {
    const double now = run.at(t)(0);
    if (before < 0 && now >= 0) rising.push_back(t - 0.001 * now / (now - before));
    if (t > 20) highest = std::max(highest, now);
    before = now;
  }
  ASSERT_GE(rising.size(), 3u);
  EXPECT_NEAR(rising.back() - rising[rising.size() - 2], 19.078, 0.002);
  EXPECT_NEAR(highest, 2.0143, 0.0005);
}

struct Wild {
  using Vector = Eigen::Matrix<double, 1, 1>;
  void slopes(const Vector& y, Vector& out) const { out(0) = y(0) * y(0); }
  void jacobian(const Vector& y, Vector& out) const { out(0) = 2 * y(0); }
};

TEST(stiff, growth_without_bounds_is_a_message_not_an_endless_loop) {
  StiffRun<1, Wild> wild({}, 1e-9, 1e-6, 0.1, Wild::Vector::Ones());
  EXPECT_THROW(wild.at(2), StiffProblem); // 1/(1 - t) has left all bounds at 1
}

TEST(heat_path, settles_at_watts_times_the_sum_of_resistances) {
  // Thermal Ohm's law as in any data sheet's worked example: 10 W through 1.5 + 0.5 + 4 K/W is 60 K.
  const HeatPath path{{1.5, 0.5, 4}, {0.02, 1, 90}};
  EXPECT_NEAR(final_rise_k(path, 10), 60, 1e-9);
  const auto late = rise_after(path, 10, 1e5);
  EXPECT_NEAR(late[0], 60, 1e-6);
  EXPECT_NEAR(late[1], 45, 1e-6);
  EXPECT_NEAR(late[2], 40, 1e-6);
}

TEST(heat_path, one_element_warms_as_an_exponential) {
  const HeatPath path{{5}, {2}}; // time constant 10 s
  for (const double t : {1.0, 10.0, 30.0})
    EXPECT_NEAR(rise_after(path, 3, t)[0], 15 * (1 - std::exp(-t / 10)), 1e-9);
  const auto reached = time_to_rise_s(path, 3, 10);
  ASSERT_TRUE(reached);
  EXPECT_NEAR(*reached, 10 * std::log(3), 0.03);
  EXPECT_FALSE(time_to_rise_s(path, 3, 15.1));
  EXPECT_EQ(time_to_rise_s(path, 3, -5).value(), 0); // the air is hotter than the limit already
}

TEST(heat_path, the_junction_is_never_cooler_than_what_it_heats) {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> decade(-2, 2);
  for (int i = 0; i < 200; ++i) {
    HeatPath path;
    for (int k = 0; k < 3; ++k) {
      path.resistance_k_per_w.push_back(std::pow(10, decade(random)));
      path.capacity_j_per_k.push_back(std::pow(10, decade(random)));
    }
    double before = 0;
    for (const double t : {0.01, 0.1, 1.0, 10.0, 1e3}) {
      const auto rise = rise_after(path, 2, t);
      EXPECT_GE(rise[0] + 1e-9, rise[1]);
      EXPECT_GE(rise[1] + 1e-9, rise[2]);
      EXPECT_GE(rise[0] + 1e-9, before);
      before = rise[0];
    }
  }
}

TEST(transistor, a_data_sheet_gives_back_its_own_figures) {
  const JunctionSheet sheet{.gain = 120, .current_a = 0.1, .base_emitter_v = 0.74, .transit_frequency_hz = 1.5e8};
  const Transistor t = transistor_from_sheet(Transistor{}, sheet);
  const double inner = sheet.base_emitter_v - t.base_resistance_ohm * sheet.current_a / sheet.gain;
  EXPECT_NEAR(t.saturation_current_a * std::exp(inner / thermal_voltage_v), 0.1, 1e-4);
  // At the transit frequency the current gain is one, by its definition; the low-frequency gain adds 1/gain
  // squared.
  EXPECT_NEAR(gain_at(t, 0.1, 1.5e8), 1, 0.01);
  EXPECT_NEAR(gain_at(t, 0.1, 1e3), 120, 0.1);
  EXPECT_THROW(transistor_from_sheet(Transistor{}, {.transit_frequency_hz = 1e12}), std::invalid_argument);
  const Transistor mos = transistor_from_sheet(Transistor{}, FieldEffectSheet{});
  EXPECT_NEAR(1 / (mos.transconductance_a_per_v2 * (10 - mos.threshold_v)), 0.3, 1e-9);
  EXPECT_NEAR(mos.gate_source_f + mos.gate_drain_f, 430e-12, 1e-15);
}

TEST(transistor, classes_have_titles_of_their_own_and_work) {
  std::set<std::string_view> titles;
  for (const TransistorClass& each : transistor_classes()) {
    EXPECT_TRUE(titles.insert(each.title).second);
    ExciterCircuit c = common_circuit();
    c.transistor = each.part;
    if (each.part.type == TransistorType::mos) c.clamp = usual_clamp(Clamp::zener);
    EXPECT_GT(run(c).supply_w, 0) << each.title;
  }
}

TEST(oscillation, all_power_from_the_supply_is_accounted_for) {
  for (const double volts : {6.0, 9.0, 12.0}) {
    ExciterCircuit c = common_circuit();
    c.supply_v = volts;
    const OscillationResult r = run(c);
    ASSERT_TRUE(r.oscillates && r.steady) << volts;
    EXPECT_NEAR((r.dissipation_w + r.clamp_w + r.bias_w + r.primary_w + r.secondary_w) / r.supply_w, 1, 2e-3);
    EXPECT_NEAR(r.secondary_w / (c.secondary_ohm * r.foot_peak_a * r.foot_peak_a / 2), 1, 0.05); // nearly a sine
    EXPECT_GT(r.frequency_hz, 0.9 * r.natural_hz);
    EXPECT_LT(r.frequency_hz, 1.1 * r.natural_hz);
  }
}

TEST(oscillation, the_primary_the_wrong_way_round_only_conducts) {
  ExciterCircuit c = common_circuit();
  c.mutual_h = -c.mutual_h;
  const OscillationResult r = run(c);
  EXPECT_FALSE(r.oscillates);
  EXPECT_EQ(r.frequency_hz, 0);
  // What the bias lets through, times the gain: Ohm's law.
  EXPECT_NEAR(r.collector_average_a / (100 * (12 - 0.714) / 27e3), 1, 0.01);
}

TEST(oscillation, a_pnp_does_what_its_mirror_image_does) {
  ExciterCircuit c = common_circuit();
  const OscillationResult npn = run(c);
  c.transistor.type = TransistorType::pnp;
  EXPECT_EQ(run(c).top_peak_v, npn.top_peak_v);
}

TEST(oscillation, a_field_effect_transistor_oscillates_too) {
  ExciterCircuit c = common_circuit();
  c.transistor = transistor_classes()[5].part;
  c.clamp = usual_clamp(Clamp::zener);
  c.secondary_h = 5e-3; // lower, as its gate wants
  c.secondary_f = 5e-12;
  c.secondary_ohm = 300;
  c.primary_h = 6e-6;
  c.mutual_h = 0.3 * std::sqrt(c.primary_h * c.secondary_h);
  const OscillationResult r = run(c);
  EXPECT_TRUE(r.oscillates);
  EXPECT_LT(r.base_peak_v, 13.5) << "the Zener holds the gate";
  EXPECT_NEAR((r.dissipation_w + r.clamp_w + r.bias_w + r.primary_w + r.secondary_w) / r.supply_w, 1, 0.02);
}

TEST(oscillation, a_current_limit_holds_the_supply_back) {
  ExciterCircuit c = common_circuit();
  c.supply_limit_a = 0.1;
  const OscillationResult r = run(c);
  EXPECT_TRUE(r.limited);
  EXPECT_LT(r.supply_v, 12);
  EXPECT_NEAR(r.supply_w / r.supply_v, 0.1, 0.004);
  c.supply_limit_a = 5;
  EXPECT_FALSE(run(c).limited);
}

TEST(oscillation, impossible_circuits_say_what_is_wrong) {
  ExciterCircuit c = common_circuit();
  c.mutual_h = std::sqrt(c.primary_h * c.secondary_h);
  EXPECT_THAT(circuit_problem(c), HasSubstr("coupling is 1"));
  c = common_circuit();
  c.bias_ohm = std::nan("");
  EXPECT_THAT(circuit_problem(c), HasSubstr("bias resistor must be above 0"));
  EXPECT_THROW(run(c), std::invalid_argument);
}

TEST(exciter, a_design_without_its_coil_says_what_to_enter) {
  Design d = exciter_design();
  d.equivalent = {};
  d.absent = {"secondary.turns"};
  EXPECT_THAT(analyse_power(d, analyse(d), {}, UnitSystem::metric, never).of<ExciterAnalysis>()->problem,
              HasSubstr("secondary"));
  d.absent = {"primary.pitch_m"};
  EXPECT_THAT(analyse_power(d, analyse(d), {}, UnitSystem::metric, never).of<ExciterAnalysis>()->problem,
              HasSubstr("primary"));
  d.absent = {"primary.tap_turns", "tank.capacitance_f"}; // it has neither clip nor tank
  EXPECT_THAT(analyse(d).findings,
              testing::Each(testing::Field(&Finding::id, testing::Not(HasSubstr("not-given")))));
}

TEST(exciter, more_volts_heat_more_and_run_shorter) {
  // Common practice, no source: cool for long at modest volts with a fan, red hot in seconds well above.
  Design d = exciter_design();
  d.exciter.transistor.voltage_rating_v = 600; // looked at up to there
  PowerOptions plain;
  plain.advice = false;
  const auto power = analyse_power(d, analyse(d), plain, UnitSystem::metric, never);
  const auto& points = power.of<ExciterAnalysis>()->supply;
  ASSERT_GE(points.size(), 8u);
  EXPECT_TRUE(std::ranges::is_sorted(points, {}, &SupplyPoint::supply_v));
  EXPECT_GT(points.back().junction_c, points.front().junction_c);
  const SupplyPoint* cooler = nullptr; // the last that had an end
  int compared = 0;
  for (const SupplyPoint& p : points) {
    if (!p.run_time_s) continue;
    if (cooler && p.dissipation_w > cooler->dissipation_w) {
      EXPECT_LT(*p.run_time_s, *cooler->run_time_s) << p.supply_v;
      ++compared;
    }
    cooler = &p;
  }
  EXPECT_GE(compared, 1);
  Exciter cooled = d.exciter;
  cooled.sink_k_per_w = 3;
  const double bare = final_rise_k(exciter_heat_path(d.exciter), 2);
  const double sunk = final_rise_k(exciter_heat_path(cooled), 2);
  cooled.fan = true;
  EXPECT_LT(sunk, bare / 4);
  EXPECT_LT(final_rise_k(exciter_heat_path(cooled), 2), sunk);
}

struct Spoiled {
  const char* id;
  void (*spoil)(Design&);
};
const Spoiled spoiled[]{
    {"base-unclamped", [](Design& d) { d.exciter.clamp = Clamp::none; }},
    {"bias-burns", [](Design& d) { d.exciter.bias_resistance_ohm = 300; }},
    {"transistor-slow", [](Design& d) { d.exciter.transistor.transit_time_s = 3e-8; }},
    {"supply-above-rating", [](Design& d) { d.exciter.supply_voltage_v = 90; }},
    {"does-not-oscillate", [](Design& d) { d.exciter.primary_reversed = true; }},
    {"collector-over-volts", [](Design& d) { d.exciter.transistor.voltage_rating_v = 40; }},
    {"collector-over-current", [](Design& d) { d.exciter.transistor.current_rating_a = 0.1; }},
    {"junction-too-hot", [](Design& d) { d.exciter.transistor.case_k_per_w = 400; }},
    {"base-over-volts", [](Design& d) { d.exciter.clamp = Clamp::none; }},
    {"supply-limited", [](Design& d) { d.exciter.supply_limit_a = 0.1; }},
};

TEST(exciter, every_finding_speaks_when_it_should_and_its_remedy_helps) {
  PowerOptions options;
  options.variac = options.advice = false;
  const auto findings_of = [&](const Design& d) {
    const Analysis a = analyse(d);
    std::vector<Finding> all = a.findings;
    const auto more = analyse_power(d, a, options, UnitSystem::metric, never).findings;
    all.insert(all.end(), more.begin(), more.end());
    return all;
  };
  const auto quiet = findings_of(exciter_design());
  for (const Spoiled& c : spoiled) {
    EXPECT_EQ(std::ranges::count(quiet, c.id, &Finding::id), 0) << c.id;
    Design d = exciter_design();
    c.spoil(d);
    const auto found = findings_of(d);
    const auto it = std::ranges::find(found, c.id, &Finding::id);
    ASSERT_NE(it, found.end()) << c.id;
    EXPECT_FALSE(it->title.empty() || it->text.empty() || it->remedy.empty()) << c.id;
    if (!it->apply) continue;
    it->apply(d);
    EXPECT_EQ(read_design(write_design(d)), d) << c.id;
    EXPECT_TRUE(eased(*it, findings_of(d))) << c.id << ": " << it->remedy;
  }
}

TEST(exciter, where_it_may_settle_in_two_ways_both_are_named) {
  Design d = read_design(read_text(HIGH_ARC_EXAMPLES "/paper-moth.json"));
  d.exciter.supply_voltage_v = 24;
  d.equivalent.coupling = 0.2;
  d.primary.tap_turns = 3.86;
  PowerOptions options;
  options.variac = false;
  const PowerAnalysis power = analyse_power(d, analyse(d), options, UnitSystem::metric, never);
  const auto it = std::ranges::find(power.findings, "two-states", &Finding::id);
  ASSERT_NE(it, power.findings.end());
  const OscillationResult& r = power.of<ExciterAnalysis>()->oscillation;
  EXPECT_EQ(it->value, *r.other_top_v);
  EXPECT_GT(std::abs(*r.other_top_v / r.top_high_v - 1), 0.02) << "two, not one";
}

TEST(exciter, single_changes_are_ranked_and_can_be_made) {
  Design d = exciter_design();
  d.equivalent = {};
  PowerOptions options;
  options.variac = false;
  const auto power = analyse_power(d, analyse(d), options, UnitSystem::metric, never);
  ASSERT_TRUE(power.of<ExciterAnalysis>()->problem.empty()) << power.of<ExciterAnalysis>()->problem;
  ASSERT_GE(power.of<ExciterAnalysis>()->changes.size(), 5u);
  EXPECT_TRUE(std::ranges::is_sorted(power.of<ExciterAnalysis>()->changes, std::greater{}, &TriedChange::merit));
  Design changed = d;
  power.of<ExciterAnalysis>()->changes.front().apply(changed);
  EXPECT_NE(changed, d);
}

TEST(exciter, any_numbers_within_their_ranges_give_finite_figures_or_a_reason) {
  AnyDesign any(77);
  for (int i = 0; i < trials(12); ++i) {
    Design d = any.wild();
    d.kind = "exciter";
    Kept kept;
    const Analysis a = analyse_untried(d, UnitSystem::metric, false, kept);
    PowerOptions plain;
    plain.advice = plain.variac = false;
    const std::clock_t start = std::clock();
    const PowerAnalysis p = analyse_power(d, a, plain, UnitSystem::metric, never);
    EXPECT_LT(static_cast<double>(std::clock() - start) / CLOCKS_PER_SEC, 60) << i;
    const auto* e = p.of<ExciterAnalysis>();
    ASSERT_TRUE(e) << i;
    if (!e->problem.empty()) continue;
    const OscillationResult& r = e->oscillation;
    for (const double value : {r.top_peak_v, r.dissipation_w, r.collector_peak_a, r.supply_w, e->junction_c})
      EXPECT_TRUE(std::isfinite(value)) << i;
    const std::string deck = oscillation_netlist(e->circuit, r, d.name);
    EXPECT_EQ(deck.find("nan"), std::string::npos) << i;
  }
}

TEST(kinds, switching_there_and_back_keeps_everything_typed) {
  AnyDesign any(5);
  for (int i = 0; i < 40; ++i)
    for (const CoilKind* first : coil_kinds())
      for (const CoilKind* second : coil_kinds()) {
        Design d = any.wild();
        d.kind = first->key;
        const Design before = d;
        d.kind = second->key;
        Design read = read_design(write_design(d));
        EXPECT_EQ(read, d);
        read.kind = first->key;
        EXPECT_EQ(read_design(write_design(read)), before);
      }
}

TEST(kinds, what_another_kind_left_behind_changes_nothing) {
  Design clean = demo_design();
  clean.exciter = {};
  Design left = clean;
  left.exciter.supply_voltage_v = 37;
  left.exciter.transistor.type = TransistorType::mos;
  const Analysis a = analyse(clean), b = analyse(left);
  for (const Figure* r : figures_at_rest(kind_of(clean)))
    EXPECT_EQ(figure_value(*r, at_rest(clean, a)), figure_value(*r, at_rest(left, b))) << r->key;
  Design exciter = exciter_design(), with_tank = exciter;
  with_tank.tank.units_in_series = 7;
  with_tank.gap.firing_voltage_v = 99;
  const Analysis c = analyse(exciter), e = analyse(with_tank);
  for (const Figure* r : figures_at_rest(kind_of(exciter)))
    EXPECT_EQ(figure_value(*r, at_rest(exciter, c)), figure_value(*r, at_rest(with_tank, e))) << r->key;
  EXPECT_FALSE(figure_value(figure_at_rest("tank_hz"), at_rest(exciter, c)));
}

TEST(first_fault, every_symptom_of_every_kind_ends_in_a_cure_or_in_what_to_measure) {
  for (const CoilKind* row : coil_kinds()) {
    const CoilKind& kind = *row;
    Design d = kind.tank ? demo_design() : exciter_design();
    const Analysis a = analyse(d);
    PowerOptions plain;
    plain.advice = plain.variac = false;
    const PowerAnalysis p = analyse_power(d, a, plain, UnitSystem::metric, never);
    for (const FaultSymptom& symptom : kind.symptoms())
      for (const PowerAnalysis* power : {&p, static_cast<const PowerAnalysis*>(nullptr)}) {
        FaultWalk walk{std::string(symptom.title), symptom.steps(d, a, power, UnitSystem::metric), {}};
        ASSERT_GE(walk.steps.size(), 2u) << symptom.key;
        const std::size_t count = walk.steps.size();
        for (std::size_t wrong = 0; wrong < count; ++wrong) { // each step in turn is the fault
          walk.answers.clear();
          while (const FaultStep* now = walk.now()) {
            EXPECT_FALSE(now->question.empty() || now->how.empty() || now->cure.empty());
            const bool at_fault = walk.answers.size() == wrong;
            walk.answer((at_fault == now->fault_if) ? FaultAnswer::yes : FaultAnswer::no);
          }
          ASSERT_EQ(walk.fault(), &walk.steps[wrong]) << symptom.key;
          EXPECT_THAT(walk.words(), HasSubstr("Found: " + walk.steps[wrong].cure));
          if (!walk.steps[wrong].apply) continue;
          Design changed = d;
          walk.steps[wrong].apply(changed);
          changed.tank.capacitance_f = tank_capacitance_f(changed.tank); // as every edit has it
          EXPECT_EQ(read_design(write_design(changed)), changed) << walk.steps[wrong].cure;
        }
        walk.answers.clear();
        while (walk.now()) walk.answer(FaultAnswer::cannot_tell);
        EXPECT_EQ(walk.open().size(), count);
        EXPECT_EQ(walk.fault(), nullptr);
        walk.back();
        EXPECT_EQ(walk.now(), &walk.steps.back());
      }
  }
}

TEST(partial, what_is_given_is_computed_and_the_rest_named) {
  Design d = demo_design();
  d.absent = {"primary.pitch_m", "primary.turns"};
  const Analysis a = analyse(d);
  EXPECT_EQ(a.resonator->mode_1_hz, analyse(demo_design()).resonator->mode_1_hz);
  EXPECT_FALSE(figure_value(figure_at_rest("coupling"), at_rest(d, a)));
  EXPECT_EQ(value_text(figure_at_rest("coupling"), at_rest(d, a), UnitSystem::metric), "–");
  const auto it = std::ranges::find(a.findings, "not-given primary", &Finding::id);
  ASSERT_NE(it, a.findings.end());
  EXPECT_THAT(it->text, HasSubstr("Pitch, Turns"));
  EXPECT_EQ(it->field, "primary.pitch_m");
  EXPECT_EQ(read_design(write_design(d)).absent, d.absent);
}

TEST(partial, a_value_entered_or_dragged_is_given_from_then_on) {
  Design d = demo_design();
  d.absent = {"primary.pitch_m", "primary.turns"};
  EXPECT_FALSE(design_field("primary.turns").get(d));
  design_field("primary.turns").set(d, 11);
  EXPECT_EQ(design_field("primary.turns").get(d), 11);
  const Design before = d;
  d.primary.pitch_m += 0.001; // as a handle does
  note_given(before, d);
  EXPECT_TRUE(d.absent.empty());
}

} // namespace
