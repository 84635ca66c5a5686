// The analysis as a whole: laws a builder relies on, tuning, bands, readings, findings with their remedies.
#include "analysis/analyse.h"
#include "craft/kind.h"
#include "evidence/tolerance.h"
#include "evidence/tuning.h"
#include "parts/bank.h"
#include "simulation/figures.h"
#include "support.h"
#include "workshop/checklist.h"

#include <array>
#include <filesystem>
#include <functional>
#include <random>
#include <regex>
#include <set>

using namespace arc;
using testing::HasSubstr;

namespace {

TEST(analysis, a_lower_primary_couples_less) {
  Design d = demo_design();
  double before = 1;
  for (double height = d.secondary.base_height_m; height > 0.2; height -= 0.02) {
    d.primary.base_height_m = height;
    const double k = analyse(d).coupling;
    EXPECT_LT(k, before);
    before = k;
  }
}

TEST(analysis, a_wider_primary_couples_less) {
  Design d = demo_design();
  const double near = analyse(d).coupling;
  d.primary.inner_radius_m += 0.03;
  EXPECT_LT(analyse(d).coupling, near);
}

TEST(analysis, the_tuned_clip_puts_the_tank_on_the_target) {
  std::mt19937 random(11);
  for (int i = 0; i < 12; ++i) {
    Design d = demo_design();
    d.tank.unit_capacitance_f = 120e-9 * std::uniform_real_distribution<double>(0.85, 2.5)(random);
    d.tune_target = i % 2 ? TuneTarget::loaded_coil : TuneTarget::silent_coil;
    const Analysis a = analyse(d);
    ASSERT_TRUE(a.tuned_tap_turns);
    d.primary.tap_turns = *a.tuned_tap_turns;
    expect_close(analyse(d).tank_hz, a.target_hz, 1e-6);
  }
}

TEST(analysis, the_tuned_capacitance_does_the_same_at_a_fixed_clip) {
  Design d = demo_design();
  const Analysis a = analyse(d);
  d.tank.unit_capacitance_f.reset();
  d.tank.capacitance_f = *a.tuned_capacitance_f;
  expect_close(analyse(d).tank_hz, a.target_hz, 1e-9);
}

TEST(analysis, leads_lower_the_tank_and_ask_for_less_primary) {
  Design d = demo_design();
  const Analysis before = analyse(d);
  d.primary.lead_inductance_h = 1e-6;
  const Analysis after = analyse(d);
  EXPECT_LT(after.tank_hz, before.tank_hz);
  EXPECT_LT(*after.tuned_tap_turns, *before.tuned_tap_turns);
  EXPECT_EQ(after.primary_inductance_h, before.primary_inductance_h) << "leads are counted apart";
}

TEST(analysis, no_clip_is_offered_when_none_fits) {
  Design d = demo_design();
  d.tank.unit_capacitance_f = 20e-9;
  EXPECT_FALSE(analyse(d).tuned_tap_turns);
  EXPECT_FALSE(tap_for_frequency(d, 1e-9, 1e9)) << "above the first turn";
}

TEST(analysis, streamers_only_ever_lower_the_resonance) {
  const Analysis a = analyse(demo_design());
  EXPECT_LT(a.loaded_hz.low, a.loaded_hz.high);
  EXPECT_LT(a.loaded_hz.high, a.resonator->mode_1_hz);
}

TEST(analysis, arc_length_grows_with_the_root_of_power) { // 1.7 inch x sqrt(W), common practice
  Design d = demo_design();
  const Analysis once = analyse(d);
  expect_close(once.expected_arc_m.high, 1.7 * 0.0254 * std::sqrt(once.power_w), 1e-12);
  d.gap.break_rate_hz *= 4;
  expect_close(analyse(d).expected_arc_m.high, 2 * once.expected_arc_m.high, 1e-9);
}

TEST(analysis, the_textbook_sum_misses_a_squat_coil_by_more) {
  Design tall = demo_design();
  Design squat = tall;
  squat.secondary.form_diameter_m = 0.25;
  squat.secondary.winding_length_m = 0.3;
  squat.secondary.turns = 650;
  squat.secondary.form_length_m = 0.35;
  squat.primary.inner_radius_m = 0.16;
  const auto miss = [](const Design& d) {
    const Analysis a = analyse(d);
    return 1 - a.estimate.mode_1_hz / a.resonator->mode_1_hz;
  };
  EXPECT_GT(miss(tall), 0.05);
  EXPECT_GT(miss(squat), 1.2 * miss(tall));
}

TEST(bands, a_tolerance_that_is_entered_replaces_the_default) {
  Design d = demo_design();
  d.measurements.clear();
  const double before = analyse(d).band.at("mode_1_hz");
  d.tolerances["turns"] = 0.04; // inferred instead of counted
  EXPECT_GT(analyse(d).band.at("mode_1_hz"), 2 * before);
  for (const ToleranceInput& input : tolerance_inputs()) d.tolerances[std::string(input.key)] = 0;
  const Analysis exact = analyse(d);
  expect_close(exact.band.at("mode_1_hz"), 0.01 * exact.resonator->mode_1_hz, 1e-9,
               "what is left is the model's own error");
  EXPECT_EQ(exact.band.at("coupling"), 0);
}

TEST(evidence, a_measurement_narrows_the_band_and_pulls_the_estimate) {
  Design d = demo_design();
  d.measurements.clear();
  const Analysis blank = analyse(d);
  d.measurements = {measured("coil-with-topload", 1.01 * blank.resonator->mode_1_hz)};
  const Analysis one = analyse(d);
  EXPECT_LT(one.band.at("best_mode_1_hz"), 0.5 * blank.band.at("best_mode_1_hz"));
  EXPECT_EQ(one.band.at("mode_1_hz"), blank.band.at("mode_1_hz")) << "the computed value keeps its own band";
  EXPECT_GT(one.best_mode_1_hz, one.resonator->mode_1_hz);
  EXPECT_LT(one.best_mode_1_hz, d.measurements[0].frequency_hz) << "between what was computed and what was read";
  // Closed form for one measurement: prior variance p, meter variance r: posterior p r / (p + r).
  const double p = std::pow(blank.band.at("mode_1_hz") / blank.resonator->mode_1_hz, 2);
  const double r = std::pow(measurement_kind("coil-with-topload")->accuracy, 2);
  expect_close(one.band.at("best_mode_1_hz") / one.best_mode_1_hz, std::sqrt(p * r / (p + r)), 1e-9);
  d.measurements.push_back(d.measurements[0]);
  EXPECT_LT(analyse(d).band.at("best_mode_1_hz"), one.band.at("best_mode_1_hz"))
      << "a second reading helps a little more";
}

TEST(evidence, the_order_of_measurements_does_not_matter) {
  Design d = demo_design();
  d.measurements.push_back(measured("coil-bare", 420e3));
  const Analysis forward = analyse(d);
  std::ranges::reverse(d.measurements);
  const Analysis backward = analyse(d);
  expect_close(backward.best_mode_1_hz, forward.best_mode_1_hz, 1e-9);
  expect_close(backward.band.at("best_mode_1_hz"), forward.band.at("best_mode_1_hz"), 1e-9);
}

TEST(evidence, a_contradiction_is_flagged_in_standard_deviations) {
  Design d = demo_design();
  d.measurements[0].frequency_hz = 190e3;
  const Analysis a = analyse(d);
  EXPECT_LT(a.evidence[0].misfit, -3);
  EXPECT_THAT(find(a, "measured-disagrees")->text, HasSubstr("standard deviations below"));
}

TEST(evidence, the_program_says_what_to_measure_next) {
  Design d = demo_design();
  d.measurements.clear();
  const Analysis a = analyse(d);
  ASSERT_TRUE(a.next_measurement);
  EXPECT_EQ(a.next_measurement->input, "turn count");
  EXPECT_LT(a.next_measurement->band_then_hz, a.next_measurement->band_now_hz);
  d.tolerances["turns"] = 0;
  expect_close(analyse(d).band.at("best_mode_1_hz"), a.next_measurement->band_then_hz, 1e-6,
               "and keeps its promise");
}

TEST(bands, the_turn_count_matters_most_for_the_frequency) {
  const Analysis a = analyse(demo_design());
  const auto& shares = a.influences.at("mode_1_hz");
  EXPECT_EQ(shares.front().input, "turn count");
  EXPECT_LT(shares.front().change, 0) << "more turns, lower frequency";
}

TEST(readings, every_reading_explains_itself_in_both_unit_systems) {
  const Design d = demo_design();
  const Analysis a = analyse(d);
  std::set<std::string_view> keys;
  for (const Figure* r : figures_at_rest(kind_of(d))) {
    EXPECT_TRUE(keys.insert(r->key).second) << r->key << " twice";
    EXPECT_TRUE(figure_value(*r, at_rest(d, a)).has_value()) << r->key;
    for (const UnitSystem units : {UnitSystem::metric, UnitSystem::inch}) {
      const Explanation why = explain(*r, at_rest(d, a), units);
      EXPECT_FALSE(why.formula.empty() || why.inputs.empty() || why.assumption.empty() || why.source.empty())
          << r->key;
    }
  }
  EXPECT_THAT(explain(figure_at_rest("mode_1_hz"), at_rest(d, a), UnitSystem::metric).hand_estimate,
              HasSubstr("% below"));
  EXPECT_EQ(value_text(figure_at_rest("coupling"), at_rest(d, a), UnitSystem::metric), "0.1263")
      << "as many digits as its band leaves";
  EXPECT_EQ(band_text(figure_at_rest("stored_energy_j"), at_rest(d, a), UnitSystem::metric), "")
      << "no band is claimed where none is known";
  EXPECT_THAT(band_text(figure_at_rest("secondary_inductance_h"), at_rest(d, a), UnitSystem::metric),
              HasSubstr("± 0.5"))
      << "in the value's own unit";
}

TEST(readings, a_value_that_cannot_be_had_is_a_dash) {
  Design d = demo_design();
  d.topload[0].centre_above_winding_m = -1;
  const Analysis a = analyse(d);
  EXPECT_EQ(value_text(figure_at_rest("mode_1_hz"), at_rest(d, a), UnitSystem::metric), "–");
}

struct Case {
  const char* id;
  std::function<void(Design&)> spoil;
};

class EachFinding : public testing::TestWithParam<int> {};

const std::array<Case, 32> finding_cases{{
    {"topload-parts-cross",
     [](Design& d) {
       d.topload.push_back(d.topload[0]);
       d.topload[1].centre_above_winding_m += 0.03;
     }},
    {"strike-field-high",
     [](Design& d) { // plenty of voltage, little power: the field reaches where arcs would not
       d.gap.break_rate_hz = 20;
       d.primary.turns = 17;
     }},
    {"primary-field-high",
     [](Design& d) {
       d.primary.inner_radius_m = 0.068;
       d.primary.base_height_m = 0.5;
     }},
    {"geometry-impossible", [](Design& d) { d.topload[0].centre_above_winding_m = -1; }},
    {"winding-does-not-fit", [](Design& d) { d.secondary.turns = 1200; }},
    {"winding-too-perfect", [](Design& d) { d.secondary.turns = 1065; }},
    {"winding-has-gaps", [](Design& d) { d.secondary.turns = 600; }},
    {"wire-too-thin", [](Design& d) { d.secondary.wire_bare_diameter_m = 0.05e-3; }},
    {"enamel-thinner-than-wire", [](Design& d) { d.secondary.wire_overall_diameter_m = 0.39e-3; }},
    {"form-margin-small", [](Design& d) { d.secondary.form_length_m = 0.48; }},
    {"shape-out-of-band", [](Design& d) { d.secondary.winding_length_m = 0.9; }},
    {"topload-missing", [](Design& d) { d.topload.clear(); }},
    {"topload-below-winding", [](Design& d) { d.topload[0].centre_above_winding_m = 0.02; }},
    {"ceiling-near", [](Design& d) { d.site.ceiling_height_m = 1.4; }},
    {"wall-near", [](Design& d) { d.site.wall_distance_m = 0.5; }},
    {"coupling-low", [](Design& d) { d.primary.base_height_m = 0.3; }},
    {"coupling-high", [](Design& d) { d.primary.base_height_m = 0.5; }},
    {"primary-clearance",
     [](Design& d) {
       d.primary.inner_radius_m = 0.062;
       d.primary.base_height_m = 0.40;
     }},
    {"primary-turns-touch", [](Design& d) { d.primary.pitch_m = 0.006; }},
    {"strike-to-primary", [](Design& d) { d.gap.break_rate_hz = 400; }},
    {"tap-beyond-last", [](Design& d) { d.primary.tap_turns = 14; }},
    {"tank-off-tune", [](Design& d) { d.primary.tap_turns = 10; }},
    {"tank-cannot-tune", [](Design& d) { d.tank.unit_capacitance_f = 40e-9; }},
    {"capacitance-slipped", [](Design& d) { d.tank.unit_capacitance_f = 120e-6; }},
    {"unit-over-voltage", [](Design& d) { d.gap.firing_voltage_v = 17000; }},
    {"rating-unknown", [](Design& d) { d.tank.unit_voltage_v.reset(); }},
    {"energy-hazardous", [](Design& d) { d.gap.firing_voltage_v = 12500; }},
    {"no-bleeder", [](Design& d) { d.tank.bleed_resistance_ohm.reset(); }},
    {"bleed-slow", [](Design& d) { d.tank.bleed_resistance_ohm = 1e9; }},
    {"turn-voltage-high",
     [](Design& d) {
       d.secondary.turns = 150;
       d.secondary.wire_bare_diameter_m = 0.003;
       d.secondary.wire_overall_diameter_m = 0.00304;
     }},
    {"never-breaks-out",
     [](Design& d) {
       d.topload[0].tube_diameter_m = 0.19;
       d.topload[0].centre_above_winding_m = 0.13;
     }},
    {"measured-disagrees", [](Design& d) { d.measurements[0].frequency_hz = 190e3; }},
}};

TEST_P(EachFinding, speaks_with_number_and_remedy_and_its_remedy_works) {
  const Case& item = finding_cases[static_cast<std::size_t>(GetParam())];
  Design d = demo_design();
  d.primary.tap_turns = *analyse(d).tuned_tap_turns;
  item.spoil(d);
  const Analysis a = analyse(d);
  const Finding* finding = find(a, item.id);
  ASSERT_NE(finding, nullptr) << item.id;
  EXPECT_FALSE(finding->title.empty());
  EXPECT_FALSE(finding->text.empty());
  EXPECT_TRUE(!finding->remedy.empty() || finding->id == "geometry-impossible");
  EXPECT_FALSE(finding->stage.empty());
  EXPECT_TRUE(std::isfinite(finding->value) && std::isfinite(finding->limit));
  if (!finding->apply) return;
  finding->apply(d);
  EXPECT_EQ(find(analyse(d), item.id), nullptr)
      << "the remedy “" << finding->remedy << "” does not cure " << item.id;
}

INSTANTIATE_TEST_SUITE_P(table, EachFinding, testing::Range(0, static_cast<int>(finding_cases.size())),
                         [](const auto& item) {
                           std::string name = finding_cases[static_cast<std::size_t>(item.param)].id;
                           std::ranges::replace(name, '-', '_');
                           return name;
                         });

// Every judgement that the core can speak is provoked by some test here, by its name.
TEST(findings, each_of_all_ids_is_provoked_by_a_test) {
  std::set<std::string> spoken, provoked;
  const auto gather = [](const char* folder, const std::regex& pattern, std::set<std::string>& out) {
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder)) {
      if (entry.path().extension() != ".cpp") continue;
      const std::string text = read_text(entry.path().string());
      for (std::sregex_iterator it(text.begin(), text.end(), pattern), end; it != end; ++it) out.insert((*it)[1]);
    }
  };
  gather(HIGH_ARC_SOURCE "/core", std::regex("(?:Finding\\s*(?:\\w+)?\\{\\s*|\\bid = )\"([a-z]+(?:-[a-z0-9]+)+)\""),
         spoken);
  gather(HIGH_ARC_SOURCE "/tests/core", std::regex("\"([a-z]+(?:-[a-z0-9]+)+)\""), provoked);
  EXPECT_GT(spoken.size(), 120u);
  for (const std::string& id : spoken) EXPECT_TRUE(provoked.contains(id)) << id << " is provoked by no test";
}

TEST(findings, a_wire_thicker_than_its_turn_is_told_with_both_diameters) {
  Design d = demo_design();
  d.secondary.form_diameter_m = 0.01;
  d.secondary.wire_bare_diameter_m = 0.018;
  d.secondary.wire_overall_diameter_m = 0.0185;
  EXPECT_THAT(analyse(d).problem, testing::AllOf(HasSubstr("18 mm"), HasSubstr("turns of 28.5 mm")))
      << "form and wire over its enamel";
}

TEST(findings, come_worst_first) {
  Design d = demo_design();
  d.secondary.turns = 1200;
  d.tank.bleed_resistance_ohm.reset();
  const Analysis a = analyse(d);
  for (std::size_t i = 1; i < a.findings.size(); ++i)
    EXPECT_LE(static_cast<int>(a.findings[i - 1].severity), static_cast<int>(a.findings[i].severity));
}

TEST(findings, speak_the_builders_units) {
  Design d = demo_design();
  d.secondary.form_length_m = 0.48;
  EXPECT_THAT(find(analyse(d, UnitSystem::metric), "form-margin-small")->title, HasSubstr("5 mm"));
  EXPECT_THAT(find(analyse(d, UnitSystem::inch), "form-margin-small")->title, HasSubstr("0.197 in"));
}

TEST(tuning, the_measured_resonance_becomes_the_target) {
  Design d = demo_design();
  EXPECT_DOUBLE_EQ(analyse(d).target_hz, d.measurements[0].frequency_hz);
  d.measurements.clear();
  const Analysis a = analyse(d);
  EXPECT_DOUBLE_EQ(a.target_hz, a.resonator->mode_1_hz);
}

TEST(tuning, tuning_for_the_loaded_coil_takes_more_turns) {
  Design d = demo_design();
  const double silent = *analyse(d).tuned_tap_turns;
  d.tune_target = TuneTarget::loaded_coil;
  EXPECT_GT(*analyse(d).tuned_tap_turns, silent);
}

TEST(tuning, a_tank_measurement_reveals_its_leads) {
  Design d = demo_design();
  d.primary.lead_inductance_h = 0.8e-6;
  const double hz = resonance_hz(primary_inductance_at_h(d.primary, 9.5) + 0.8e-6, tank_capacitance_f(d.tank));
  d.primary.lead_inductance_h = 0;
  expect_close(implied_lead_inductance_h(d, 9.5, hz), 0.8e-6, 1e-6);
  d.measurements = {measured("tank", hz, 9.5)};
  const auto report = report_measurement(d, analyse(d), 0, UnitSystem::metric);
  EXPECT_THAT(report.meaning, HasSubstr("leads and gap add 800 nH"));
  EXPECT_LT(report.offset_percent, 0);
}

TEST(tuning, a_bare_coil_is_compared_with_the_bare_coil) {
  Design d = demo_design();
  Design bare = d;
  bare.topload.clear();
  d.measurements = {measured("coil-bare", analyse(bare).resonator->mode_1_hz)};
  const auto report = report_measurement(d, analyse(d), 0, UnitSystem::metric);
  EXPECT_NEAR(report.offset_percent, 0, 0.3);
  EXPECT_THAT(report.meaning, HasSubstr("as entered"));
}

TEST(tuning, the_clip_table_holds_every_half_turn_once) {
  const Design d = demo_design();
  const auto rows = tap_table(analyse(d));
  ASSERT_EQ(rows.size(), static_cast<std::size_t>(2 * d.primary.turns));
  for (std::size_t i = 1; i < rows.size(); ++i) {
    EXPECT_DOUBLE_EQ(rows[i].turns - rows[i - 1].turns, 0.5);
    EXPECT_LT(rows[i].tank_hz, rows[i - 1].tank_hz);
  }
}

TEST(checklist, carries_this_coils_numbers_and_never_says_safe) {
  const Design d = demo_design();
  const Analysis a = analyse(d);
  std::string all;
  for (const CheckItem& item : checks_before_power(d, a, nullptr, UnitSystem::metric)) all += item.text + "\n";
  for (const std::string& step : steps_after_power(d, a, nullptr, UnitSystem::metric)) all += step + "\n";
  EXPECT_THAT(all, HasSubstr("6.63 s"));
  EXPECT_THAT(all, HasSubstr("10.60"));
  EXPECT_THAT(all, HasSubstr("pacemaker"));
  EXPECT_EQ(all.find("safe"), std::string::npos);
  Design without = d;
  without.tank.bleed_resistance_ohm.reset();
  EXPECT_THAT(steps_after_power(without, analyse(without), nullptr, UnitSystem::metric)[1],
              HasSubstr("filter, tank. Measure, then short"));
}

} // namespace
