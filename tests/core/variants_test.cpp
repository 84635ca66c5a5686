// Whole designs beside the present one: kept, named, promoted, compared, swept, and held against their brief.
#include "analysis/analyse.h"
#include "file/design_file.h"
#include "file/examples.h"
#include "laws/circuit.h"
#include "support.h"
#include "workshop/compared_designs.h"
#include "workshop/curves.h"
#include "workshop/proposals.h"
#include "workshop/runs.h"
#include "workshop/start.h"
#include "workshop/variants.h"

#include <nlohmann/json.hpp>
#include <random>
#include <set>

using namespace arc;
using testing::HasSubstr;

namespace {

const std::atomic<bool> goes_on{false};

Design with_turns(double turns) {
  Design d = new_design(*coil_kind("spark-gap"));
  take_examples(d);
  d.secondary.turns = turns;
  return d;
}

TEST(variants, come_back_from_their_file_with_examples_and_unknown_keys) {
  Design d = new_design(*coil_kind("bridge"));
  ASSERT_TRUE(keep_variant(d, d, "As new")); // its numbers are examples
  Design typed = d;
  take_examples(typed);
  typed.secondary.turns += 10;
  ASSERT_TRUE(keep_variant(d, typed, "Typed"));
  d.variants.at(1).unknown = Json{{"mood", "hopeful"}};
  const Design back = read_design(write_design(d));
  EXPECT_EQ(back, d);
  ASSERT_EQ(back.variants.size(), 2u);
  EXPECT_FALSE(example_paths(*back.variants[0].design.get()).empty()) << "they stay what they are";
  EXPECT_TRUE(example_paths(*back.variants[1].design.get()).empty());
  EXPECT_EQ(Json::parse(write_design(d))["designs"].size(), 2u);
  EXPECT_TRUE(back.variants[0].design.get()->variants.empty());
}

TEST(variants, a_run_and_a_variant_of_the_same_design_are_written_once) {
  Design d = with_turns(1100);
  arc::Run run;
  run.id = "a23456789012";
  run.fired_with = KeptDesign(d);
  d.runs = {run};
  keep_variant(d, *d.runs[0].fired_with.get(), "Fired");
  EXPECT_EQ(Json::parse(write_design(d))["designs"].size(), 1u);
  EXPECT_EQ(read_design(write_design(d)), d);
}

TEST(variants, files_that_name_none_or_too_many_are_refused_with_their_place) {
  Design d = with_turns(900);
  keep_variant(d, d, "One");
  Json json = Json::parse(write_design(d));
  const auto refusal = [](const Json& bad) {
    try {
      read_design(bad.dump());
    } catch (const DesignFileError& error) {
      return error.path();
    }
    return std::string("taken");
  };
  Json bad = json;
  bad["variants"][0]["design"] = 7;
  EXPECT_EQ(refusal(bad), "variants[0].design");
  bad["variants"][0].erase("design");
  EXPECT_EQ(refusal(bad), "variants[0].design");
  bad = json;
  bad["designs"][0]["variants"] = Json::array();
  EXPECT_THAT(refusal(bad), HasSubstr("designs[0]"));
  bad = json;
  for (std::size_t i = 0; i < most_variants; ++i) bad["variants"].push_back(json["variants"][0]);
  EXPECT_EQ(refusal(bad), "variants");
  for (std::size_t i = 0; i < 2 * most_variants; ++i) keep_variant(d, d, "One");
  EXPECT_EQ(d.variants.size(), most_variants);
}

TEST(variants, a_promoted_one_and_its_return_leave_everything_as_it_was) {
  Design d = with_turns(1000);
  arc::Run run;
  run.id = "a23456789012";
  d.runs = {run};
  keep_variant(d, with_turns(1300), "More turns");
  keep_variant(d, with_turns(700), "Fewer");
  const Design before = d;
  promote_variant(d, 0);
  EXPECT_EQ(d.secondary.turns, 1300);
  EXPECT_EQ(d.variants[0].name, "Before More turns");
  EXPECT_EQ(d.variants[0].design.get()->secondary.turns, 1000);
  EXPECT_EQ(d.runs, before.runs) << "the record stays";
  EXPECT_EQ(d.variants[1], before.variants[1]);
  promote_variant(d, 0);
  EXPECT_EQ(d, before);
  EXPECT_THROW(promote_variant(d, 2), std::out_of_range);
}

TEST(variants, names_never_meet) {
  Design d = with_turns(1000);
  for (int i = 0; i < 4; ++i) keep_variant(d, d, i % 2 ? "" : "Kept");
  rename_variant(d, 3, "Kept");
  std::set<std::string> names;
  for (const DesignVariant& v : d.variants) EXPECT_TRUE(names.insert(v.name).second) << v.name;
  rename_variant(d, 0, "Kept");
  EXPECT_EQ(d.variants[0].name, "Kept") << "its own name is free for it";
  remove_variant(d, 0);
  EXPECT_EQ(d.variants.size(), 3u);
}

TEST(compared_designs, every_number_that_was_changed_is_among_the_differences_and_no_other) {
  std::mt19937 dice(7);
  for (const CoilKind* kind : coil_kinds()) {
    const Design first = new_design(*kind);
    Design second = first;
    std::vector<NumberPlace> numbers = movable_numbers(first);
    std::ranges::shuffle(numbers, dice);
    const NumberPlace& moved = numbers.front();
    const double to = moved.value > 0 ? std::max(moved.minimum, 0.9 * moved.value) : moved.maximum;
    second = with_number(second, moved, to);
    auto rows = compare_inputs(first, second, UnitSystem::metric);
    const auto differing = std::ranges::count_if(rows, &ComparedRow::differs);
    EXPECT_EQ(differing, to == moved.value ? 0 : 1) << kind->key << " " << moved.path;
    differences_first(rows);
    EXPECT_EQ(rows.front().differs, differing > 0);
    for (const ComparedRow& row : compare_inputs(first, first, UnitSystem::inch)) EXPECT_FALSE(row.differs);
  }
}

TEST(compared_designs, two_kinds_are_compared_by_what_both_have) {
  const ComputedDesign gap = compute(new_design(*coil_kind("spark-gap")), Computing::simulation, goes_on);
  const ComputedDesign bridge = compute(new_design(*coil_kind("bridge")), Computing::simulation, goes_on);
  const auto rows = compare_figures(gap.view(), bridge.view(), UnitSystem::metric);
  EXPECT_FALSE(rows.empty());
  for (const ComparedRow& row : rows) EXPECT_FALSE(row.first.empty() || row.second.empty()) << row.title;
  const auto same = compare_figures(gap.view(), gap.view(), UnitSystem::metric);
  EXPECT_GT(same.size(), rows.size()) << "of one kind the simulation's figures stand there too";
  for (const ComparedRow& row : same) EXPECT_FALSE(row.differs) << row.title;
}

// The wall's power into a bridge that runs in bursts follows their rate (definition of average power), its idle
// load apart; the bus sags under more of them, so that each takes a little less.
TEST(curves, more_bursts_take_more_power_in_proportion_but_for_the_sag_of_the_bus) {
  const Design d = new_design(*coil_kind("bridge"));
  const Curves found = curves(d, "interrupter.rate_hz", 50, 200, 3, goes_on);
  ASSERT_GE(found.points.size(), 3u);
  const auto at = [&](double hz) { return *std::ranges::find(found.points, hz, &SweptPoint::at); };
  const double first = *at(50).input_w, second = *at(125).input_w, third = *at(200).input_w;
  EXPECT_LT(third - second, second - first);
  EXPECT_GT(third - second, 0.85 * (second - first));
  EXPECT_GT(third, 1.5 * first);
  for (const SweptPoint& p : found.points) expect_close(*p.frequency_hz, *found.points[0].frequency_hz, 1e-9);
}

TEST(curves, each_place_is_what_a_design_with_that_number_gives) {
  const Design d = with_turns(1000);
  const Curves found = curves(d, "topload[0].outer_diameter_m", 0.2, 0.5, 4, goes_on);
  for (const SweptPoint& p : found.points) {
    Design other = d;
    other.topload.at(0).outer_diameter_m = p.at;
    const ComputedDesign now = compute(other, Computing::simulation, goes_on);
    ASSERT_TRUE(p.problem.empty()) << p.problem;
    expect_close(*p.frequency_hz, coil_hz(now.analysis), 1e-9);
    expect_close(*p.input_w, now.power.drive.input_w, 1e-9);
    const auto stops =
        std::ranges::count(all_findings(now.analysis, &now.power), Severity::stop, &Finding::severity);
    EXPECT_EQ(p.stops, stops);
  }
  const std::string table = curves_csv(found);
  EXPECT_EQ(std::ranges::count(table, '\n'), static_cast<std::ptrdiff_t>(found.points.size()) + 1);
}

TEST(curves, whole_numbers_stay_whole_and_the_present_one_is_among_them) {
  const Design d = with_turns(1003);
  const Curves found = curves(d, "secondary.turns", 900, 1100, 5, goes_on);
  for (const SweptPoint& p : found.points) EXPECT_EQ(p.at, std::round(p.at));
  EXPECT_EQ(std::ranges::count(found.points, 1003, &SweptPoint::at), 1);
}

TEST(curves, what_cannot_be_swept_is_refused_with_what_would_be_right) {
  const Design d = with_turns(1000);
  const auto refusal = [&](const char* number, double low, double high, int count) {
    try {
      curves(d, number, low, high, count, goes_on);
    } catch (const std::invalid_argument& error) {
      return std::string(error.what());
    }
    return std::string();
  };
  EXPECT_THAT(refusal("secondary.turn", 1, 2, 3), HasSubstr("secondary.turn"));
  EXPECT_THAT(refusal("secondary.turns", 900, 900, 3), HasSubstr("smaller"));
  EXPECT_THAT(refusal("secondary.turns", std::nan(""), 900, 3), HasSubstr("smaller"));
  EXPECT_THAT(refusal("secondary.turns", -5, 900, 3), HasSubstr("can be"));
  EXPECT_THAT(refusal("secondary.turns", 900, 1000, 1), HasSubstr("places"));
  const std::atomic<bool> stopped{true};
  EXPECT_TRUE(curves(d, "secondary.turns", 900, 1000, 9, stopped).points.empty());
}

TEST(movable_numbers, of_every_kind_have_a_title_and_can_be_set_by_their_path) {
  for (const CoilKind* kind : coil_kinds()) {
    const Design d = new_design(*kind);
    const auto numbers = movable_numbers(d);
    ASSERT_GT(numbers.size(), 10u) << kind->key;
    for (const NumberPlace& place : numbers) {
      EXPECT_THAT(place.title, HasSubstr(": "));
      EXPECT_EQ(number_at(d, place.path).value, place.value);
      const double to = place.value == place.minimum ? place.maximum : place.minimum;
      EXPECT_EQ(number_at(with_number(d, place, to), place.path).value, to) << place.path;
    }
  }
}

TEST(left_brief, a_design_that_passes_a_limit_says_so_and_one_that_holds_does_not) {
  Design d = with_turns(1000);
  const Analysis analysis = analyse(d);
  EXPECT_FALSE(left_brief(d, analysis, nullptr, UnitSystem::metric)) << "no brief";
  const Overall size = overall_size(d);
  const auto asked = [&](double height_m) {
    d.unknown.set("brief", Json{{"name", "Attic"}, {"limits", {{"height_m", height_m}}}});
    return left_brief(d, analysis, nullptr, UnitSystem::metric);
  };
  EXPECT_FALSE(asked(1.01 * size.height_m));
  const auto left = asked(0.9 * size.height_m);
  ASSERT_TRUE(left);
  EXPECT_EQ(left->id, "left-brief");
  EXPECT_EQ(left->severity, Severity::note);
  EXPECT_THAT(left->title, HasSubstr("Height"));
  EXPECT_THAT(left->text, HasSubstr("Attic"));
  expect_close(left->value, size.height_m, 1e-9);
  left->apply(d);
  EXPECT_FALSE(brief_of(d));
  EXPECT_FALSE(left_brief(d, analysis, nullptr, UnitSystem::metric));
  d.unknown.set("brief", Json{{"aim", 7}});
  EXPECT_FALSE(left_brief(d, analysis, nullptr, UnitSystem::metric)) << "one that cannot be read says nothing";
}

TEST(left_brief, what_only_a_simulation_knows_waits_for_it) {
  Design d = with_turns(1000);
  d.unknown.set("brief", Json{{"limits", {{"line_current_a", 0.01}, {"arc_length_m", 30}}}});
  const ComputedDesign now = compute(d, Computing::simulation, goes_on);
  EXPECT_FALSE(left_brief(d, now.analysis, nullptr, UnitSystem::metric));
  const auto left = left_brief(d, now.analysis, &now.power, UnitSystem::metric);
  ASSERT_TRUE(left);
  EXPECT_THAT(left->text, HasSubstr("Line current"));
  EXPECT_THAT(left->text, HasSubstr("Arc"));
}

} // namespace
