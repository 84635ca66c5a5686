// The strip of the whole coil, what the builder dismisses and confirms.
#include "analysis/analyse.h"
#include "craft/dismissed.h"
#include "craft/kind.h"
#include "file/design_file.h"
#include "file/stage_inputs.h"
#include "model/inputs.h"
#include "random_designs.h"
#include "simulation/strip.h"
#include "support.h"
#include "workshop/start.h"

#include <algorithm>
#include <atomic>
#include <fmt/format.h>
#include <gmock/gmock.h>

using namespace arc;
using testing::HasSubstr;

namespace {

PowerAnalysis quick_power(const Design& design, const Analysis& analysis) {
  PowerOptions options;
  options.advice = options.variac = options.waveforms = false;
  return analyse_power(design, analysis, options, UnitSystem::metric, never);
}

const StripItem& item(const std::array<StripItem, strip_places>& strip, std::string_view key) {
  return *std::ranges::find(strip, key, &StripItem::key);
}

class Strip : public testing::TestWithParam<const CoilKind*> {};
INSTANTIATE_TEST_SUITE_P(kinds, Strip, testing::ValuesIn(coil_kinds().begin(), coil_kinds().end()),
                         [](const auto& each) {
                           std::string name(each.param->key);
                           std::ranges::replace(name, '-', '_');
                           return name;
                         });

// Random designs about a new one of the kind: the strip says what the figures of the stages say, and its weakest
// part is the largest share of any rating.
TEST_P(Strip, says_what_the_stages_say) {
  std::mt19937 random(27);
  std::uniform_real_distribution<double> factor(0.8, 1.25);
  for (int trial = 0; trial < trials(3); ++trial) {
    Design design = new_design(*GetParam());
    design.secondary.turns = std::round(design.secondary.turns * factor(random));
    design.primary.base_height_m *= factor(random);
    design.site.mains_voltage_v *= factor(random);
    const Analysis analysis = analyse(design, UnitSystem::metric);
    const PowerAnalysis power = quick_power(design, analysis);
    const PowerView view{design, analysis, power};
    const auto strip = strip_of(view, all_findings(analysis, &power), UnitSystem::metric);
    std::vector<std::string_view> keys;
    for (const StripItem& place : strip) {
      keys.push_back(place.key);
      EXPECT_FALSE(place.title.empty()) << place.key;
      EXPECT_FALSE(place.value.empty()) << place.key;
      for (const Figure* figure : place.shown) {
        const auto value = figure_value(*figure, view);
        if (!value) continue; // words
        const std::string number =
            format_quantity(*value, figure->dimension, UnitSystem::metric, std::min(figure->digits, 3));
        if (*value != 0 || !figure->to) {
          EXPECT_THAT(place.value, HasSubstr(number)) << figure->key;
        }
      }
    }
    EXPECT_EQ(keys, (std::vector<std::string_view>{"arc", "power", "rate", "craft", "weakest", "open"}));
    double fullest = 0;
    for (const Figure& figure : figures_of(design))
      if (const auto used = figure.rated ? figure_share(figure, view) : std::nullopt)
        fullest = std::max(fullest, *used);
    if (const FeedLoads* feed = power.part->feed()) {
      for (const JointLoad& joint : feed->joints) fullest = std::max(fullest, joint.used());
      for (const DiodeLoad& diode : feed->diodes) fullest = std::max(fullest, diode.used());
      fullest = std::max(fullest, feed->breaker_used);
    }
    const auto loads = part_loads(view, UnitSystem::metric);
    ASSERT_FALSE(loads.empty());
    EXPECT_GE(loads.front().used, fullest * (1 - 1e-9));
    EXPECT_TRUE(std::ranges::is_sorted(loads, std::ranges::greater{}, &PartLoad::used));
    EXPECT_EQ(item(strip, "weakest").alarm, loads.front().used > 1);
  }
}

TEST_P(Strip, before_a_simulation_it_has_dashes_and_says_why) {
  const Design design = new_design(*GetParam());
  const Analysis analysis = analyse(design, UnitSystem::metric);
  const auto strip = strip_of(at_rest(design, analysis), analysis.findings, UnitSystem::metric);
  for (const std::string_view key : {"arc", "power", "craft", "weakest"}) {
    EXPECT_EQ(item(strip, key).value, "–") << key;
    EXPECT_EQ(item(strip, key).full, "not simulated yet") << key;
  }
}

TEST(strip, a_coil_that_does_not_break_out_says_by_how_much) {
  Design design = demo_design();
  for (FeedBlock& block : design.feed.own())
    if (block.kind == "variac") block.values["setting"] = 0.45;
  design.gap.firing_voltage_v = 4500;
  const Analysis analysis = analyse(design, UnitSystem::metric);
  const PowerAnalysis power = quick_power(design, analysis);
  ASSERT_TRUE(power.arc && !power.arc->breaks_out);
  const auto strip = strip_of({design, analysis, power}, {}, UnitSystem::metric);
  EXPECT_THAT(item(strip, "arc").value, HasSubstr("no breakout, top "));
  EXPECT_EQ(item(strip, "open").value, "no stop, no warning");
}

TEST(strip, stops_and_warnings_are_counted_and_a_stop_is_an_alarm) {
  const Design design = demo_design();
  const Analysis analysis = analyse(design, UnitSystem::metric);
  std::vector<Finding> findings(3);
  findings[0].severity = Severity::stop;
  findings[1].severity = findings[2].severity = Severity::warning;
  const auto strip = strip_of(at_rest(design, analysis), findings, UnitSystem::metric);
  EXPECT_EQ(item(strip, "open").value, "1 stop, 2 warnings");
  EXPECT_TRUE(item(strip, "open").alarm);
}

Finding some_finding(Severity severity, double value) {
  Finding out;
  out.id = "unit-warm";
  out.field = "tank.unit_voltage_v";
  out.severity = severity;
  out.value = value;
  return out;
}

TEST(dismissed, a_warning_is_back_when_its_value_moves_by_more_than_a_hundredth) {
  Design design = demo_design();
  dismiss(design, some_finding(Severity::warning, 80), "a fan blows on it", "2026-12-01T20:00:00");
  for (const auto& [value, open] :
       {std::pair{80.0, false}, {80.7, false}, {79.3, false}, {80.9, true}, {78.0, true}}) {
    std::vector<Finding> findings{some_finding(Severity::warning, value)};
    mark_dismissed(findings, design);
    EXPECT_EQ(findings[0].dismissed.empty(), open) << value;
    EXPECT_EQ(open_of(findings).size(), open ? 1u : 0u);
  }
}

TEST(dismissed, a_stop_can_not_be_and_what_becomes_one_is_back) {
  Design design = demo_design();
  dismiss(design, some_finding(Severity::stop, 80), "I know better", "2026-12-01T20:00:00");
  EXPECT_TRUE(design.dismissed.empty());
  dismiss(design, some_finding(Severity::warning, 80), "a fan blows on it", "2026-12-01T20:00:00");
  std::vector<Finding> findings{some_finding(Severity::stop, 80)};
  mark_dismissed(findings, design);
  EXPECT_TRUE(findings[0].dismissed.empty());
}

TEST(dismissed, belongs_to_one_field_and_is_replaced_not_doubled) {
  Design design = demo_design();
  dismiss(design, some_finding(Severity::warning, 80), "first", "2026-12-01T20:00:00");
  dismiss(design, some_finding(Severity::warning, 90), "second", "2026-12-01T21:00:00");
  ASSERT_EQ(design.dismissed.size(), 1u);
  EXPECT_EQ(design.dismissed[0].reason, "second");
  Finding elsewhere = some_finding(Severity::warning, 90);
  elsewhere.field = "tank.unit_esr_ohm";
  std::vector<Finding> findings{elsewhere};
  mark_dismissed(findings, design);
  EXPECT_TRUE(findings[0].dismissed.empty());
  bring_back(design, some_finding(Severity::warning, 0));
  EXPECT_TRUE(design.dismissed.empty());
}

TEST(dismissed, marks_survive_the_file_and_change_no_figure) {
  Design design = new_design(*coil_kind("bridge"));
  Finding wild = some_finding(Severity::note, std::numeric_limits<double>::infinity());
  dismiss(design, wild, "measured “by hand”", "2026-12-01T20:00:00");
  confirm_stage(design, "primary", "2026-12-01T20:00:00");
  const Design again = read_design(write_design(design));
  EXPECT_EQ(again.dismissed, design.dismissed);
  EXPECT_EQ(again.confirmed, design.confirmed);
  EXPECT_EQ(inputs_of(again), inputs_of(new_design(*coil_kind("bridge"))));
  EXPECT_THROW(read_design(R"({"format":"high-arc-design","version":1,"dismissed":[{"value":1}]})"),
               DesignFileError);
  EXPECT_THROW(read_design(R"({"format":"high-arc-design","version":1,"confirmed":[{"stage":7}]})"),
               DesignFileError);
}

// One number of each stage moved: its confirmation falls, those of the others stand.
TEST_P(Strip, a_confirmation_falls_when_an_input_of_its_stage_changes_and_with_no_other) {
  Design design = new_design(*GetParam());
  const auto before = stage_inputs(design);
  for (const auto& [stage, inputs] : before) confirm_stage(design, stage, "2026-12-01T20:00:00");
  ASSERT_GE(before.size(), 3u);
  const auto check = [&](const Design& changed, const std::string& own) {
    const auto now = stage_inputs(changed);
    for (const auto& [stage, inputs] : before)
      EXPECT_EQ(is_confirmed(changed, stage, now), stage != own) << stage << " after a change on " << own;
  };
  Design turns = design;
  turns.secondary.turns += 1;
  check(turns, "resonator");
  Design height = design;
  height.primary.base_height_m += 0.001;
  check(height, "primary");
  if (!design.feed.empty()) {
    Design feed = design;
    feed.feed.own().front().values.begin()->second += 1;
    check(feed, "feed");
  }
  Design words = design;
  words.name = "another";
  check(words, "none");
  unconfirm_stage(design, "primary");
  EXPECT_FALSE(is_confirmed(design, "primary", before));
}

} // namespace
