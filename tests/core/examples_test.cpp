// Given, example or absent: what nobody has typed is said so, until somebody does.
#include "file/design_file.h"
#include "file/examples.h"
#include "file/number_walk.h"
#include "file/validity.h"
#include "model/inputs.h"
#include "support.h"
#include "workshop/arming.h"
#include "workshop/start.h"

#include <algorithm>
#include <gmock/gmock.h>
#include <nlohmann/json.hpp>
#include <random>

namespace arc {
namespace {

using ::testing::Contains;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;
using ::testing::SizeIs;

Design fresh(std::string_view kind = "spark-gap") {
  return new_design(*coil_kind(kind));
}

TEST(examples, are_all_the_numbers_of_a_new_design_that_count_for_its_kind) {
  for (const CoilKind* kind : coil_kinds()) {
    SCOPED_TRACE(std::string(kind->key));
    const Design d = new_design(*kind);
    std::vector<std::string> numbers;
    visit_numbers(d, typed_only, [&](const Met& n) {
      if (!of_another_kind(d, n.path())) numbers.push_back(n.path());
    });
    EXPECT_GT(numbers.size(), 20u);
    EXPECT_EQ(counting_examples(d), numbers);
    const Design back = read_design(write_design(d));
    EXPECT_EQ(example_paths(back), example_paths(d));
    const auto finding = examples_finding(d);
    ASSERT_TRUE(finding);
    EXPECT_EQ(finding->value, static_cast<double>(numbers.size()));
    EXPECT_EQ(finding->severity, Severity::warning) << "it computes as a preview";
  }
}

TEST(examples, are_none_in_a_design_that_says_nothing_of_them) {
  EXPECT_THAT(example_paths(demo_design()), IsEmpty());
  EXPECT_FALSE(examples_finding(demo_design()));
  EXPECT_THAT(write_design(demo_design()), Not(HasSubstr("\"examples\"")));
}

class ExamplesAtRandom : public testing::TestWithParam<unsigned> {};

TEST_P(ExamplesAtRandom, only_the_number_that_is_edited_becomes_given) {
  std::mt19937 random(GetParam());
  for (const CoilKind* kind : coil_kinds()) {
    Design d = new_design(*kind);
    for (int turn = 0; turn < 12; ++turn) {
      std::vector<std::string> before = counting_examples(d);
      ASSERT_FALSE(before.empty());
      const std::string path = before[random() % before.size()];
      SCOPED_TRACE(std::string(kind->key) + " " + path);
      const Design old = d;
      visit_numbers(old, typed_only, [&](const Met& n) {
        if (n.path() == path) set_number(d, path, n.value == 0 ? (n.minimum + n.maximum) / 2 : n.value * 1.01);
      });
      settle_edit(old, d);
      std::erase(before, path);
      EXPECT_EQ(counting_examples(d), before);
      EXPECT_FALSE(is_example(d, path));
      EXPECT_EQ(example_paths(read_design(write_design(d))), example_paths(d));
      // What was typed once is given, also when it is typed back.
      visit_numbers(std::as_const(old), typed_only, [&](const Met& n) {
        if (n.path() == path) set_number(d, path, n.value);
      });
      settle_edit(old, d);
      EXPECT_FALSE(is_example(d, path));
    }
  }
}

INSTANTIATE_TEST_SUITE_P(seeds, ExamplesAtRandom, testing::Values(11u, 907u, 55001u));

TEST(examples, go_with_their_block_when_it_moves) {
  Design d = fresh();
  ASSERT_GE(d.feed.size(), 2u);
  const std::string key = d.feed[0].examples.begin()->first;
  take_examples(d);
  mark_examples(d, {"feed[0]." + key});
  EXPECT_TRUE(is_example(d, "feed[0]." + key));
  const Design before = d;
  std::swap(d.feed[0], d.feed[1]);
  settle_edit(before, d);
  EXPECT_EQ(example_paths(d), std::vector<std::string>{"feed[1]." + key});
}

TEST(examples, taken_are_given_and_change_no_figure) {
  Design d = fresh("tube");
  const Design before = d;
  take_example(d, "secondary.turns");
  EXPECT_FALSE(is_example(d, "secondary.turns"));
  EXPECT_THAT(counting_examples(d), SizeIs(counting_examples(before).size() - 1));
  take_examples(d);
  EXPECT_THAT(example_paths(d), IsEmpty());
  EXPECT_EQ(inputs_of(d), inputs_of(before));
}

TEST(examples, are_read_by_their_paths_and_what_is_not_known_is_kept) {
  Design d = demo_design();
  ASSERT_FALSE(d.feed.empty());
  const std::string key = d.feed[0].values.begin()->first;
  Json json = Json::parse(write_design(d));
  json["examples"] = {"secondary.turns", "feed.0." + key, "secondary.colour", "feed[99].x"};
  const Design back = read_design(json.dump());
  EXPECT_EQ(example_paths(back), (std::vector<std::string>{"secondary.turns", "feed[0]." + key}));
  const Json again = Json::parse(write_design(back));
  EXPECT_THAT(again["examples"].get<std::vector<std::string>>(),
              testing::UnorderedElementsAre("secondary.turns", "feed[0]." + key, "secondary.colour", "feed[99].x"));
  EXPECT_EQ(read_design(again.dump()), back);
}

TEST(examples, that_are_no_list_of_paths_are_refused_where_they_stand) {
  Json json = Json::parse(write_design(demo_design()));
  const auto refusal = [&](const Json& list) -> std::string {
    json["examples"] = list;
    try {
      read_design(json.dump());
    } catch (const DesignFileError& error) {
      return error.what();
    }
    return {};
  };
  EXPECT_THAT(refusal(7), HasSubstr("examples"));
  EXPECT_THAT(refusal({"secondary.turns", 3}), HasSubstr("examples[1]"));
  EXPECT_THAT(refusal(std::vector<std::string>(2000, "no.number")), HasSubstr("at most"));
}

TEST(examples, come_with_a_feed_and_with_another_kind_and_leave_what_was_typed) {
  Design d = demo_design();
  const Design fed = fed_by(d, feed_arrangements().front());
  EXPECT_FALSE(fed.feed.empty());
  EXPECT_THAT(example_paths(fed), Not(IsEmpty()));
  for (const std::string& path : example_paths(fed)) EXPECT_TRUE(path.starts_with("feed[")) << path;

  Design typed = fresh();
  const Design before = typed;
  typed.secondary.turns += 100;
  settle_edit(before, typed);
  const Design tube = as_kind(typed, *coil_kind("tube"));
  EXPECT_FALSE(is_example(tube, "secondary.turns"));
  EXPECT_EQ(tube.secondary.turns, typed.secondary.turns);
  EXPECT_TRUE(is_example(tube, "tube.plate_dissipation_w") || counting_examples(tube).size() > 30u);
  EXPECT_THAT(counting_examples(as_kind(demo_design(), *coil_kind("tube"))), Not(IsEmpty()));
}

TEST(examples, keep_the_coil_from_being_armed_until_they_are_taken) {
  Design d = fresh();
  Arming arming;
  const std::vector<CheckItem> checks{{"people", "Nobody is near."}};
  const auto show = [&](const Design& now) {
    arming.look_at(std::make_shared<const Design>(now));
    arming.show_checks(checks);
    arming.figures_there({});
    arming.tick("people", true);
  };
  show(d);
  EXPECT_EQ(arming.examples(), counting_examples(d).size());
  EXPECT_THAT(arming.hindrance(), HasSubstr("nobody has typed"));
  EXPECT_FALSE(arming.arm("whatever")) << "no reason helps";
  Design taken = d;
  take_examples(taken);
  show(taken);
  EXPECT_EQ(arming.hindrance(), "");
  ASSERT_TRUE(arming.arm());
  arming.look_at(std::make_shared<const Design>(d)); // undone
  EXPECT_EQ(arming.state(), ArmState::checking);
  EXPECT_THAT(arming.take_notices(), Contains(HasSubstr("examples")));
}

TEST(examples, are_not_in_what_a_run_was_fired_with) {
  EXPECT_THAT(example_paths(*KeptDesign(fresh()).get()), IsEmpty());
}

} // namespace
} // namespace arc
