// Logged runs: copied conditions, comparison, CSV out and in.
#include "support.h"
#include "workshop/runs.h"

#include <random>

using namespace arc;
using testing::HasSubstr;

namespace {

std::string runs_refusal(const std::string& text) {
  try {
    runs_from_csv(text);
  } catch (const RunFileError& error) {
    return error.what();
  }
  ADD_FAILURE() << "accepted: " << text;
  return {};
}

TEST(runs, a_new_run_copies_the_conditions_of_this_moment) {
  Design d = demo_design();
  const Analysis a = analyse(d);
  const arc::Run run = begin_run(d, a, "2026-05-01T20:00:00");
  EXPECT_DOUBLE_EQ(run.conditions.at("tap_turns"), d.primary.tap_turns);
  EXPECT_NEAR(run.conditions.at("coupling"), a.coupling, 1e-11) << "twelve digits";
  EXPECT_DOUBLE_EQ(run.conditions.at("topload_diameter_m"), 0.4);
  EXPECT_TRUE(run.observations.empty());
  d.primary.tap_turns = 3;
  EXPECT_NE(run.conditions.at("tap_turns"), 3) << "later edits do not reach back";
}

TEST(runs, csv_round_trip_keeps_every_run) {
  std::mt19937 random(23);
  std::vector<arc::Run> runs;
  const char* texts[] = {"",           "plain", "with, comma", "with \"quotes\"", "two\nlines",
                         "ümlaut µ Ω", "\"",    ",,",          "ends with space "};
  for (int i = 0; i < 60; ++i) {
    arc::Run run;
    run.when = "2026-03-07T20:14:0" + std::to_string(i % 10);
    for (const RunField& field : run_fields())
      if (random() % 3)
        (is_condition(field) ? run.conditions : run.observations)[std::string(field.key)] =
            field.minimum + (field.maximum - field.minimum) * std::uniform_real_distribution<double>(0, 1)(random);
    run.notes = texts[random() % std::size(texts)];
    run.failed = texts[random() % std::size(texts)];
    runs.push_back(run);
  }
  EXPECT_EQ(runs_from_csv(runs_to_csv(runs)), runs);
  EXPECT_EQ(runs_from_csv(runs_to_csv({})), std::vector<arc::Run>{});
}

TEST(runs, columns_may_move_and_be_missing) {
  const auto runs = runs_from_csv("\xEF\xBB\xBFnotes,when,arc_length_m\r\nhot,2026-01-01,0.3\n,2026-01-02,\n");
  ASSERT_EQ(runs.size(), 2u);
  EXPECT_EQ(runs[0].notes, "hot");
  EXPECT_DOUBLE_EQ(runs[0].observations.at("arc_length_m"), 0.3);
  EXPECT_TRUE(runs[1].observations.empty());
}

TEST(runs, a_bad_csv_is_refused_by_row_and_column) {
  EXPECT_THAT(runs_refusal(""), HasSubstr("empty"));
  EXPECT_THAT(runs_refusal("a,b\n1,2\n"), HasSubstr("no column “when”"));
  EXPECT_THAT(runs_refusal("when,colour\n1,red\n"), HasSubstr("“colour” is not known"));
  EXPECT_THAT(runs_refusal("when,arc_length_m\nx,long\n"),
              HasSubstr("row 2, column arc_length_m: “long” is not a number"));
  EXPECT_THAT(runs_refusal("when,arc_length_m\nx,-2\n"), HasSubstr("outside of 0 to 50"));
  EXPECT_THAT(runs_refusal("when,arc_length_m\nx,nan\n"), HasSubstr("not a number"));
  EXPECT_THAT(runs_refusal("when,arc_length_m\nx\n"), HasSubstr("row 2: 1 cells where the header has 2"));
  EXPECT_THAT(runs_refusal("when,notes\nx,\"never closed\n"), HasSubstr("cut off"));
}

TEST(runs, comparison_marks_what_differed) {
  const Design d = demo_design();
  const auto list = compare_runs(d.runs[6], d.runs[7], UnitSystem::metric);
  const auto by_label = [&](const std::string& label) {
    const auto it = std::ranges::find(list, label, &RunDifference::label);
    EXPECT_NE(it, list.end()) << label;
    return *it;
  };
  EXPECT_TRUE(by_label("Clip at turn").differs);
  EXPECT_TRUE(by_label("Arc length").differs);
  EXPECT_FALSE(by_label("Tank capacitance").differs);
  EXPECT_EQ(by_label("Arc length").second, "430 mm");
}

TEST(runs, the_demo_tells_a_tuning_story) {
  const Design d = demo_design();
  ASSERT_GE(d.runs.size(), 6u);
  ASSERT_LE(d.runs.size(), 10u);
  EXPECT_GT(d.runs.back().observations.at("arc_length_m"), 3 * d.runs.front().observations.at("arc_length_m"));
  for (const arc::Run& run :
       d.runs) // an arc as long as the power allows, never longer: 1.7 inch x sqrt(W), common practice
    EXPECT_LT(run.observations.at("arc_length_m"), 1.7 * 0.0254 * std::sqrt(run.conditions.at("power_w")));
}

} // namespace
