// Laws of the table of figures, over all demos and random designs of all kinds: what is said is explained, has a
// key, a stage and a band of its own; decks measure by the same keys.
#include "simulation/figures.h"

#include "analysis/analyse.h"
#include "craft/kind.h"
#include "random_designs.h"
#include "support.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <regex>
#include <set>

namespace {

using namespace arc;
using testing::HasSubstr;

constexpr const char* demos[] = {"quiet-lantern", "paper-moth",   "copper-heron",
                                 "tin-orchard",   "glass-willow", "candle-reed"};

struct Told {
  Design design;
  Analysis analysis;
  PowerAnalysis power;
  PowerView view() const { return {design, analysis, power}; }
};

Told told(Design design, bool advice = false) {
  PowerOptions options;
  options.advice = advice;
  Analysis analysis = analyse(design);
  PowerAnalysis power = analyse_power(design, analysis, options, UnitSystem::metric, never);
  return {std::move(design), std::move(analysis), std::move(power)};
}

Design demo(const std::string& name) {
  return read_design(read_text(HIGH_ARC_EXAMPLES "/" + name + ".json"));
}

const Figure& figure_of(const Design& design, std::string_view key) {
  for (const Figure& figure : figures_of(design))
    if (figure.key == key) return figure;
  throw std::out_of_range(std::string(key));
}

TEST(figures, every_one_of_each_demo_is_explained_from_inputs_that_there_are_and_printed_by_its_key) {
  for (const char* name : demos) {
    const Told t = told(demo(name));
    const Json results = kind_of(t.design).power_json(t.view());
    int there = 0;
    std::vector<const Figure*> all = figures_at_rest(kind_of(t.design));
    for (const Figure& figure : figures_of(t.design))
      if (figure.needs == Needs::power) all.push_back(&figure);
    for (const Figure* each : all) {
      const Figure& figure = *each;
      const bool at_rest_row = figure.needs != Needs::power;
      SCOPED_TRACE(std::string(name) + " " + std::string(figure.key));
      EXPECT_FALSE(figure.title.empty());
      EXPECT_EQ(figure.group == at_rest_group, at_rest_row);
      EXPECT_TRUE(at_rest_row || !figure.stage.empty());
      Explanation why;
      ASSERT_NO_THROW(why = explain(figure, t.view(), UnitSystem::inch)) << figure.inputs;
      EXPECT_THAT(why.formula, testing::EndsWith("."));
      EXPECT_FALSE(why.assumption.empty());
      EXPECT_FALSE(why.source.empty());
      const auto value = figure_value(figure, t.view());
      if (!value) continue;
      ++there;
      EXPECT_EQ(why.inputs.empty(), figure.inputs.empty() && !figure.more_inputs) << figure.inputs;
      if (at_rest_row) continue; // printed by `analyse`, tests/calc
      const Json& group = figure.group.empty() ? results : results.at(std::string(figure.group));
      EXPECT_DOUBLE_EQ(group.at(std::string(figure.key)).get<double>(), *value);
      if (figure.of && !figure.share && !(figure.quiet_zero && *value == 0)) {
        const std::string text = figure_text(figure, t.view(), UnitSystem::metric);
        EXPECT_EQ(text.find(" of ") != std::string::npos, figure.of(t.view()).has_value()) << text;
      }
    }
    EXPECT_GE(there, 20) << name;
  }
}

TEST(figures, keys_are_their_own_within_a_group_and_bands_are_those_of_a_row) {
  for (const char* name : demos) {
    const Told t = told(demo(name), true);
    std::set<std::string> keys, bands;
    for (const Figure& figure : figures_of(t.design)) {
      const std::string group(figure.group);
      EXPECT_TRUE(keys.insert(group + "." + std::string(figure.key)).second) << figure.key;
      EXPECT_EQ(figure.to != nullptr, !figure.to_key.empty());
      EXPECT_TRUE(!figure.to || keys.insert(group + "." + std::string(figure.to_key)).second) << figure.to_key;
      if (figure.band.empty()) continue;
      EXPECT_FALSE(figure.doubts.empty()) << figure.key;
      bands.insert(std::string(figure.band));
      const auto value = figure_value(figure, t.view());
      if (!value || *value == 0 || !t.power.part->band.contains(std::string(figure.band))) continue;
      EXPECT_THAT(figure_text(figure, t.view(), UnitSystem::metric), HasSubstr("±")) << figure.key;
      EXPECT_THAT(explain(figure, t.view(), UnitSystem::metric).influences, testing::SizeIs(1));
    }
    for (const auto& [key, half] : t.power.part->band) EXPECT_TRUE(bands.contains(key)) << name << " " << key;
    EXPECT_FALSE(bands.empty());
  }
}

TEST(figures, decks_measure_by_their_keys) {
  const std::set<std::string> steps{"counted",    "ten_cycles",   "bus_end_v", "bus_last_v",
                                    "bus_most_v", "break_charge", "tripped"}; // on the way to others
  int compared = 0;
  for (const char* name : demos) {
    const Design design = demo(name);
    for (const SimulationMode& mode : kind_of(design).modes) {
      SimulationValues values;
      for (const SimulationOption& option : mode.options)
        if (option.standard) values[std::string(option.flag)] = *option.standard;
      std::string deck;
      try {
        deck = mode.run(design, values).deck();
      } catch (const std::invalid_argument&) { // not every way has one
        continue;
      }
      const std::regex measured(R"(\.meas\w* tran (\w+))", std::regex::icase);
      for (std::sregex_iterator it(deck.begin(), deck.end(), measured), end; it != end; ++it) {
        const std::string key = (*it)[1];
        if (steps.contains(key)) continue;
        EXPECT_NO_THROW(figure_of(design, key)) << name << " " << mode.flag << " " << key;
        ++compared;
      }
    }
  }
  EXPECT_GT(compared, 40);
}

TEST(figures, whatever_the_design_a_value_is_finite_and_a_text_names_no_missing_one) {
  AnyDesign any(2626);
  for (int i = 0; i < trials(24); ++i) {
    const Design design = any.wild(demo(demos[static_cast<std::size_t>(i) % std::size(demos)]));
    const Told t = told(design);
    for (const Figure& figure : figures_of(design)) {
      const auto value = figure_value(figure, t.view());
      EXPECT_TRUE(std::isfinite(value.value_or(0))) << figure.key;
      const std::string text = figure_text(figure, t.view(), UnitSystem::metric);
      if (value && figure.note) {
        EXPECT_THAT(
            figure.note(t.view(), UnitSystem::metric),
            testing::AnyOf("", testing::StartsWith(" "), testing::StartsWith(","), testing::StartsWith(":")))
            << figure.key;
      }
      EXPECT_THAT(text, testing::Not(testing::AnyOf(HasSubstr("nan"), HasSubstr("inf"), testing::StartsWith(","),
                                                    testing::StartsWith(" "))))
          << figure.key;
      EXPECT_NO_THROW(explain(figure, t.view(), UnitSystem::metric)) << figure.key;
    }
  }
}

TEST(figures, of_another_kind_than_the_design_say_nothing) {
  const Told t = told(demo("copper-heron"));
  const Design other = demo("quiet-lantern");
  for (const Figure& figure : figures_of(other)) {
    EXPECT_FALSE(figure_value(figure, {other, t.analysis, t.power})) << figure.key;
    EXPECT_EQ(figure_text(figure, {other, t.analysis, t.power}, UnitSystem::metric), "") << figure.key;
  }
}

TEST(figures, a_share_is_of_its_whole_and_a_rating_stands_beside) {
  const Told t = told(demo("copper-heron"));
  const auto value = [&](const char* key) { return *figure_value(figure_of(t.design, key), t.view()); };
  const double parts = value("streamer_j") + value("secondary_loss_j") + value("primary_loss_j") +
                       value("device_loss_j") + value("returned_j") + value("stored_j");
  // Energy is kept: what was drawn is found again in what it became.
  expect_close(parts, value("bus_energy_j"), 0.005);
  const double share = 100 * value("streamer_j") / value("bus_energy_j");
  EXPECT_THAT(figure_text(figure_of(t.design, "streamer_j"), t.view(), UnitSystem::metric),
              testing::EndsWith(fmt::format(", {} %", round_significant(share, 2))));
  EXPECT_THAT(figure_text(figure_of(t.design, "junction_peak_c"), t.view(), UnitSystem::metric),
              testing::EndsWith(" of " + format_quantity(t.design.bridge.device.junction_limit_c,
                                                         Dimension::temperature, UnitSystem::metric, 3)));
}

// Rows that one helper makes may share their words only where these are true of each.
TEST(figures, words_at_rest_are_those_of_the_figure) {
  const auto formula = [](const char* key) { return std::string(figure_at_rest(key).formula); };
  EXPECT_THAT(formula("mode_1_hz"), testing::HasSubstr("lowest"));
  EXPECT_THAT(formula("mode_2_hz"), testing::HasSubstr("second"));
  EXPECT_THAT(formula("mode_3_hz"), testing::HasSubstr("third"));
  EXPECT_THAT(formula("lumped_hz"), testing::HasSubstr("Medhurst"));
  EXPECT_THAT(formula("best_mode_1_hz"), testing::HasSubstr("measured"));
  EXPECT_THAT(formula("tank_capacitance_f"), testing::HasSubstr("series"));
  EXPECT_THAT(formula("strike_distance_m"), testing::HasSubstr("shortest way"));
  for (const char* key : {"mutual_inductance_h", "coupling", "tank_capacitance_f", "tank_hz", "unit_voltage_v",
                          "stored_energy_j", "power_w", "expected_arc_low_m", "strike_distance_m",
                          "strike_field_kv_per_cm", "quality_factor", "winding_resistance_ohm"})
    for (const Figure& other : shared_figures())
      if (other.key != key && other.dimension != figure_at_rest(key).dimension && other.key != "stored_charge_c") {
        EXPECT_NE(other.formula, formula(key)) << key << " and " << other.key;
      }
}

} // namespace
