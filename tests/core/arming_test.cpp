// The armed state: what its table forbids cannot happen, whatever the order of what is done.
#include "analysis/analyse.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "model/fields.h"
#include "model/inputs.h"
#include "support.h"
#include "workshop/arming.h"
#include "workshop/checklist.h"
#include "workshop/runs.h"

#include <fmt/format.h>
#include <random>

using namespace arc;

namespace {

using S = ArmState;

std::shared_ptr<const Design> shared(Design d) {
  return std::make_shared<const Design>(std::move(d));
}

class Arms : public testing::Test {
 protected:
  void SetUp() override {
    arming.look_at(design);
    figures();
  }
  void figures(const std::vector<StandingStop>& stops = {}) {
    arming.show_checks(checks);
    arming.figures_there(stops);
  }
  void tick_all() {
    for (const CheckItem& item : checks) arming.tick(item.key, true);
  }
  void change(double turns) {
    Design other = *design;
    other.secondary.turns = turns;
    design = shared(other);
    arming.look_at(design);
  }

  std::shared_ptr<const Design> design = shared(demo_design());
  std::vector<CheckItem> checks{{"people", "Nobody is near."}, {"clip", "The tap is at turn 10.6."}};
  Arming arming;
};

TEST_F(Arms, goes_through_its_states_in_one_order) {
  EXPECT_EQ(arming.state(), S::disarmed);
  EXPECT_FALSE(arming.arm()) << "nothing is ticked";
  arming.tick("people", true);
  EXPECT_EQ(arming.state(), S::checking);
  EXPECT_FALSE(arming.arm());
  EXPECT_EQ(arming.hindrance(), "Tick every check first");
  arming.tick("clip", true);
  EXPECT_EQ(arming.hindrance(), "");
  EXPECT_FALSE(arming.start({})) << "not armed";
  ASSERT_TRUE(arming.arm());
  EXPECT_FALSE(arming.arm()) << "already armed";
  EXPECT_FALSE(arming.stop(1));
  ASSERT_TRUE(arming.start({}));
  EXPECT_FALSE(arming.disarm()) << "stop first";
  EXPECT_FALSE(arming.tick("clip", false)) << "ticks mean nothing while it runs";
  ASSERT_TRUE(arming.stop(2.5));
  EXPECT_EQ(arming.state(), S::after);
  EXPECT_FALSE(arming.arm());
  EXPECT_FALSE(arming.start({}));
  ASSERT_TRUE(arming.disarm());
  EXPECT_EQ(arming.state(), S::disarmed);
  EXPECT_EQ(arming.open_checks(), 2) << "each run is checked anew";
  EXPECT_EQ(arming.draft().run.observations.at("duration_s"), 2.5);
}

TEST_F(Arms, waits_for_the_figures_of_the_design_as_it_is) {
  tick_all();
  change(900);
  EXPECT_THAT(arming.hindrance(), testing::HasSubstr("not computed yet"));
  EXPECT_FALSE(arming.arm());
  figures();
  EXPECT_TRUE(arming.arm());
}

TEST_F(Arms, a_change_of_an_input_takes_it_back_and_words_do_not) {
  tick_all();
  ASSERT_TRUE(arming.arm());
  Design words = *design;
  words.name = "Another name";
  words.runs.push_back({});
  words.measurements.push_back({});
  design = shared(words);
  arming.look_at(design);
  EXPECT_NE(arming.state(), S::armed) << "a measurement is an input";
  figures();
  ASSERT_TRUE(arming.arm());
  words.measurements[0].note = "read twice";
  words.runs.push_back({});
  words.name = "A third";
  arming.look_at(shared(words));
  EXPECT_EQ(arming.state(), S::armed);
  EXPECT_EQ(arming.figures(), Figures::there);
}

TEST_F(Arms, every_number_and_choice_of_a_design_takes_it_back) {
  int tried = 0;
  const auto try_change = [&](std::string_view key, const Design& other) {
    if (other == *design) return;
    Arms::SetUp();
    tick_all();
    ASSERT_TRUE(arming.arm()) << key;
    arming.look_at(shared(other));
    EXPECT_EQ(arming.state(), S::checking) << key;
    arming.look_at(design);
    EXPECT_EQ(arming.state(), S::checking) << key << ": undo does not arm again";
    ++tried;
  };
  for (const FieldSpec& field : design_fields()) {
    Design other = *design;
    const double before = field.get(other).value_or(0.5 * (field.minimum + field.maximum));
    field.set(other, before == 0 ? 0.25 : before * 1.01);
    try_change(field.key, other);
  }
  EXPECT_GT(tried, 100);
  for (const ChoiceSpec& choice : design_choices()) {
    Design other = *design;
    choice.set(other, (choice.get(other) + 1) % choice.choices.size());
    try_change(choice.key, other);
  }
}

TEST_F(Arms, a_check_whose_words_changed_loses_its_tick_and_takes_the_coil_back) {
  tick_all();
  ASSERT_TRUE(arming.arm());
  checks[1].text = "The tap is at turn 9.";
  figures();
  EXPECT_EQ(arming.state(), S::checking);
  EXPECT_TRUE(arming.ticked("people"));
  EXPECT_FALSE(arming.ticked("clip"));
  EXPECT_EQ(arming.take_notices().size(), 1u);
}

TEST_F(Arms, over_a_stop_only_with_a_reason_that_is_kept) {
  figures({{"unit-current", "Each unit: 110 % of its RMS current"}});
  tick_all();
  EXPECT_FALSE(arming.arm());
  EXPECT_FALSE(arming.arm("ok"));
  ASSERT_TRUE(arming.arm("measured 40 A, units stay cold"));
  EXPECT_EQ(arming.draft().run.armed_despite,
            "Each unit: 110 % of its RMS current. Reason: measured 40 A, units stay cold");
  figures({{"unit-current", "Each unit: 110 % of its RMS current"}});
  EXPECT_EQ(arming.state(), S::armed) << "the same stop is answered";
  figures({{"unit-current", "Each unit: 111 % of its RMS current"}, {"dark", "The gap stays dark"}});
  EXPECT_EQ(arming.state(), S::checking);
  EXPECT_THAT(arming.take_notices().at(0), testing::HasSubstr("The gap stays dark"));
  EXPECT_EQ(arming.draft().run.armed_despite, "") << "a reason is good for one arming";
}

TEST_F(Arms, a_check_that_goes_takes_it_back_and_its_reason_with_it) {
  figures({{"dark", "The gap stays dark"}});
  tick_all();
  ASSERT_TRUE(arming.arm("looked at it"));
  checks.pop_back();
  figures({});
  EXPECT_EQ(arming.state(), S::checking);
  EXPECT_EQ(arming.take_notices().size(), 1u);
  ASSERT_TRUE(arming.arm()) << "no stop stands";
  EXPECT_EQ(arming.draft().run.armed_despite, "");
  figures({{"dark", "The gap stays dark"}});
  EXPECT_EQ(arming.state(), S::checking) << "the reason of before is not one for now";
}

TEST_F(Arms, what_changes_while_it_runs_is_said_and_kept_with_the_run) {
  tick_all();
  ASSERT_TRUE(arming.arm());
  arc::Run begun;
  begun.when = "2031-05-04T20:00:00";
  ASSERT_TRUE(arming.start(begun));
  change(950);
  EXPECT_EQ(arming.state(), S::running);
  EXPECT_THAT(arming.take_notices().at(0), testing::HasSubstr("Turns"));
  figures({{"dark", "The gap stays dark"}});
  EXPECT_THAT(arming.take_notices().at(0), testing::HasSubstr("The gap stays dark"));
  arming.note("loud", "");
  arming.stop(3);
  arming.disarm();
  const arc::Run run = arming.logged({});
  arming.give_up();
  EXPECT_THAT(run.notes, testing::AllOf(testing::StartsWith("loud\n"), testing::HasSubstr("Turns"),
                                        testing::HasSubstr("The gap stays dark")));
  EXPECT_EQ(run.when, "2031-05-04T20:00:00");
  EXPECT_FALSE(arming.unlogged());
}

TEST_F(Arms, a_run_that_is_not_logged_is_not_lost_to_the_next_one) {
  tick_all();
  arming.arm();
  arming.start({});
  arming.stop(1);
  arming.disarm();
  tick_all();
  EXPECT_FALSE(arming.arm());
  arming.give_up();
  EXPECT_TRUE(arming.arm());
}

TEST_F(Arms, another_coil_forgets_everything_but_not_while_this_one_is_live) {
  tick_all();
  arming.observe("arc_length_m", 0.4);
  ASSERT_TRUE(arming.arm());
  EXPECT_TRUE(arming.another_coil());
  EXPECT_EQ(arming.state(), S::disarmed);
  EXPECT_FALSE(arming.unlogged());
  arming.look_at(design);
  figures();
  tick_all();
  arming.arm();
  arming.start({});
  EXPECT_FALSE(arming.another_coil());
  arming.stop(1);
  EXPECT_FALSE(arming.another_coil()) << "still charged";
}

TEST_F(Arms, what_another_window_left_is_never_armed) {
  for (const S left : {S::disarmed, S::checking, S::armed, S::running, S::after}) {
    RunDraft draft{.state = left, .run = {}, .begun = true, .happened = {}};
    draft.run.observations["arc_length_m"] = 0.5;
    Arming next;
    next.look_at(design);
    next.take_over(draft);
    next.show_checks(checks);
    next.figures_there({});
    EXPECT_EQ(next.state(), left == S::disarmed || left == S::checking ? S::disarmed : S::after) << word_of(left);
    EXPECT_EQ(next.open_checks(), 2);
    EXPECT_TRUE(next.unlogged());
  }
}

TEST(arming, the_table_has_each_pair_once_and_only_the_builder_arms) {
  std::set<std::pair<S, ArmEvent>> seen;
  for (const ArmStep& step : arm_steps()) {
    EXPECT_TRUE(seen.emplace(step.from, step.event).second);
    if (step.to == S::armed) {
      EXPECT_EQ(step.event, ArmEvent::arm);
    }
    if (step.from == S::after) {
      EXPECT_EQ(step.to, S::disarmed) << "from after only to disarmed";
    }
    if (step.to == S::running) {
      EXPECT_TRUE(step.event == ArmEvent::start || step.from == S::running);
    }
  }
}

TEST(arming, every_demo_is_computed_whole) {
  for (const char* demo :
       {"quiet-lantern", "paper-moth", "copper-heron", "tin-orchard", "glass-willow", "candle-reed"}) {
    const Design d = read_design(read_text(fmt::format("{}/{}.json", HIGH_ARC_EXAMPLES, demo)));
    const Analysis a = analyse(d);
    PowerOptions plain;
    plain.advice = plain.variac = plain.waveforms = false;
    EXPECT_EQ(not_computed(d, a, analyse_power(d, a, plain, UnitSystem::metric, never)), "") << demo;
  }
}

TEST(arming, nothing_that_cannot_be_computed_is_armed_in_silence) {
  for (const CoilKind* kind : coil_kinds()) {
    Design empty;
    empty.kind = kind->key;
    for (const FieldSpec& field : design_fields())
      if (field.required) empty.absent.insert(std::string(field.key));
    const Analysis a = analyse(empty);
    Arming arming;
    arming.look_at(shared(empty));
    std::vector<StandingStop> stops;
    for (const Finding& f : a.findings)
      if (f.severity == Severity::stop) stops.push_back({f.id, f.title});
    const PowerAnalysis power = analyse_power(empty, a, {}, UnitSystem::metric, never);
    EXPECT_NE(not_computed(empty, a, power), "") << kind->key;
    if (!not_computed(empty, a, power).empty()) stops.push_back({"unfinished", not_computed(empty, a, power)});
    const auto checks = checks_before_power(empty, a, nullptr, UnitSystem::metric);
    arming.show_checks(checks);
    arming.figures_there(stops);
    for (const CheckItem& item : checks) arming.tick(item.key, true);
    EXPECT_FALSE(arming.arm()) << kind->key;
  }
}

// A million random steps over designs, figures, ticks and hands: armed always means that all is ticked, the figures
// of this very design are there, and every stop among them was answered.
class ArmingAtRandom : public testing::TestWithParam<unsigned> {};

TEST_P(ArmingAtRandom, is_never_armed_with_an_unanswered_stop_or_an_outstanding_figure) {
  std::mt19937 random(GetParam());
  const auto one_of = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
  std::vector<std::shared_ptr<const Design>> designs;
  for (int i = 0; i < 4; ++i) {
    Design d;
    d.secondary.turns = 1000 + i / 2; // in pairs that differ by their words only
    d.name = std::to_string(i);
    designs.push_back(shared(d));
  }
  const std::vector<std::string> keys{"a", "b", "c"};
  Arming arming;
  int design = 0, computed = -1, armings = 0, over_stops = 0, runs = 0;
  std::set<std::string> answered, stops;
  for (int n = 0; n < 500'000; ++n) {
    const S before = arming.state();
    switch (one_of(12)) {
    case 0:
      if (one_of(8) == 0) arming.look_at(designs[static_cast<std::size_t>(design = one_of(4))]);
      break;
    case 1:
      if (one_of(4) == 0) {
        stops.clear();
        for (const char* stop : {"x", "y"})
          if (one_of(3) == 0) stops.insert(stop);
        std::vector<CheckItem> checks;
        for (const std::string& key : keys)
          if (key != "c" || one_of(3) > 0) checks.push_back({key, key + std::to_string(design / 2 * one_of(2))});
        arming.look_at(designs[static_cast<std::size_t>(design)]);
        std::vector<StandingStop> standing;
        for (const std::string& stop : stops) standing.push_back({stop, stop});
        arming.show_checks(checks);
        arming.figures_there(standing);
        computed = design;
      }
      break;
    case 2:
    case 3:
    case 4:
    case 5: {
      const std::string& key = keys[static_cast<std::size_t>(one_of(3))];
      arming.tick(key, one_of(8) > 0);
    } break;
    case 6:
    case 7: {
      if (arming.draft().begun) arming.give_up();
      const std::string reason = one_of(2) == 0 ? "a good reason" : "";
      if (arming.arm(reason)) {
        ++armings;
        over_stops += !stops.empty();
        EXPECT_EQ(arming.open_checks(), 0);
        EXPECT_TRUE(stops.empty() || !reason.empty());
        answered = stops;
      }
      break;
    }
    case 8:
      runs += arming.start({});
      break;
    case 9:
      arming.stop(1);
      break;
    case 10:
      arming.disarm();
      break;
    default:
      if (one_of(50) == 0 && arming.another_coil()) computed = -1;
    }
    const S after = arming.state();
    if (after == S::armed) {
      ASSERT_TRUE(computed >= 0 && computed / 2 == design / 2) << n;
      ASSERT_EQ(arming.figures(), Figures::there) << n;
      ASSERT_EQ(arming.open_checks(), 0) << n;
      ASSERT_TRUE(std::ranges::includes(answered, stops)) << n;
    }
    if (before == S::after) {
      ASSERT_TRUE(after == S::after || after == S::disarmed) << n;
    }
    if (after == S::running && before != S::running) {
      ASSERT_EQ(before, S::armed) << n;
    }
  }
  EXPECT_GT(armings, 1000);
  EXPECT_GT(over_stops, 100);
  EXPECT_GT(runs, 500);
}

INSTANTIATE_TEST_SUITE_P(seeds, ArmingAtRandom, testing::Values(20311u, 7u, 4099u, 31u));

} // namespace
