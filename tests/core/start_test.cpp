// New designs of every kind and every usual feed, on the mains of both sides of the ocean: nothing of them may be
// stopped by the program's own rules. Figures of the crafts are common practice, no source, unless one is named.
#include "analysis/analyse.h"
#include "file/design_file.h"
#include "support.h"
#include "workshop/start.h"

#include <algorithm>
#include <array>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

namespace arc {
namespace {

using ::testing::HasSubstr;
using ::testing::IsEmpty;

struct Mains {
  double volts, hertz;
};
constexpr std::array<Mains, 4> mains{{{230, 50}, {230, 60}, {120, 50}, {120, 60}}};

PowerAnalysis whole(const Design& d, const Analysis& a, bool advice = false) {
  return analyse_power(d, a, {.advice = advice, .variac = false, .waveforms = false}, UnitSystem::metric, never);
}

std::vector<std::string> stops(const Design& d) {
  const Analysis a = analyse(d);
  const PowerAnalysis p = whole(d, a);
  std::vector<std::string> out;
  for (const Finding& f : all_findings(a, &p))
    if (f.severity == Severity::stop) out.push_back(f.id + ": " + f.title);
  return out;
}

const CoilKind& row(std::string_view key) {
  return *coil_kind(key);
}

TEST(new_design, of_every_kind_is_whole_and_nothing_stops_it) {
  for (const Mains& at : mains)
    for (const CoilKind* kind : coil_kinds()) {
      const Design d = new_design(*kind, at.volts, at.hertz);
      SCOPED_TRACE(std::string(kind->key) + " at " + std::to_string(at.volts));
      EXPECT_EQ(d.kind, kind->key);
      EXPECT_EQ(d.feed.empty(), kind->feed_end == FeedEnd::none);
      for (const std::string_view group : kind->groups)
        for (const std::string& key : d.absent) EXPECT_FALSE(key.starts_with(std::string(group) + ".")) << key;
      EXPECT_EQ(read_design(write_design(d)), d);
      EXPECT_THAT(stops(d), IsEmpty());
    }
}

TEST(new_design, is_what_its_craft_begins_with) {
  const Design dual = new_design(row("dual-resonant"));
  EXPECT_EQ(dual.bridge.feedback, Feedback::primary_transformer);
  EXPECT_TRUE(dual.bridge.current_limit_a);
  const Analysis a = analyse(dual);
  ASSERT_TRUE(a.resonator);
  EXPECT_NEAR(a.tank_hz / a.circuit.resonance_hz, 0.95, 0.01) << "5 % low";
  for (const char* kind : {"bridge", "tube"}) {
    const Design d = new_design(row(kind));
    EXPECT_EQ(d.primary.shape, PrimaryShape::helix) << kind;
    EXPECT_NEAR(analyse(d).circuit.coupling, 0.3, 0.03) << kind;
  }
  const Design tube = new_design(row("tube"));
  EXPECT_FALSE(tube.tube.filament.trial_turns || tube.tube.filament.trial_v || tube.tube.filament.open_v)
      << "nobody wound a trial yet";
  const Design flame = new_design(row("flame"));
  const double hz = analyse(flame).circuit.resonance_hz;
  EXPECT_GT(hz, 20e6);
  EXPECT_LT(hz, 30e6);
  EXPECT_LT(flame.tube.tube.plate_dissipation_w, 100);
  EXPECT_GT(flame.tube.tube.screen_v, 0);
}

TEST(new_design, of_each_kind_that_makes_arcs_makes_one) {
  for (const char* kind : {"spark-gap", "bridge", "dual-resonant", "tube", "flame"}) {
    const Design d = new_design(row(kind));
    const PowerAnalysis p = whole(d, analyse(d));
    ASSERT_TRUE(p.arc) << kind;
    EXPECT_TRUE(p.arc->breaks_out) << kind << ": " << p.arc->reason;
    EXPECT_GT(p.arc->length_m.high, 0.02) << kind;
  }
}

TEST(usual_feeds, of_every_new_design_on_all_mains_are_free_of_stops) {
  for (const Mains& at : mains)
    for (const CoilKind* kind : coil_kinds()) {
      const Design d = new_design(*kind, at.volts, at.hertz);
      for (const FeedArrangement& feed : feed_arrangements()) {
        if (feed.end != kind->feed_end || !feed.unfit_for(d).empty()) continue;
        const Design fed = fed_by(d, feed);
        EXPECT_THAT(stops(fed), IsEmpty()) << kind->key << " " << feed.key << " " << at.volts << " " << at.hertz;
      }
    }
}

TEST(usual_feeds, a_doubler_of_230_v_is_refused_for_500_v_switches_with_the_reason) {
  Design d = new_design(row("bridge"));
  EXPECT_THAT(feed_arrangement("doubled").unfit_for(d), HasSubstr("651 V of bus on switches for 500 V"));
  d.bridge.device.voltage_rating_v = 1200;
  EXPECT_EQ(feed_arrangement("doubled").unfit_for(d), "");
  d = new_design(row("bridge"), 120, 60);
  EXPECT_EQ(feed_arrangement("doubled").unfit_for(d), "");
}

TEST(usual_feeds, resonant_charging_brings_its_rotor_and_keeps_one_that_is_there) {
  Design d = new_design(row("spark-gap"), 120, 60);
  ASSERT_FALSE(d.gap.rotary_electrodes);
  d = fed_by(d, feed_arrangement("direct"));
  ASSERT_TRUE(d.gap.rotary_electrodes);
  EXPECT_EQ(d.gap.rotor_speed_hz, 30) << "a four-pole motor at 60 Hz";
  EXPECT_EQ(d.gap.break_rate_hz, 240);
  d.gap.rotor_speed_hz = 50;
  EXPECT_EQ(fed_by(d, feed_arrangement("direct")).gap.rotor_speed_hz, 50);
}

TEST(usual_feeds, a_gap_beyond_what_a_feed_reaches_is_set_to_it) {
  Design d = new_design(row("spark-gap"));
  const double before = d.gap.firing_voltage_v;
  EXPECT_EQ(fed_by(d, feed_arrangement("sign")).gap.firing_voltage_v, before);
  const Design small = fed_by(d, feed_arrangement("ignition"));
  EXPECT_LT(small.gap.firing_voltage_v, before);
  EXPECT_EQ(small.gap.break_rate_hz, 100) << "one for each half wave's edge";
}

TEST(usual_feeds, a_steady_supply_ends_a_staccato_that_it_would_never_let_go) {
  const Design d = new_design(row("tube"));
  ASSERT_TRUE(d.tube.staccato);
  EXPECT_FALSE(fed_by(d, feed_arrangement("filtered")).tube.staccato);
  EXPECT_TRUE(fed_by(d, feed_arrangement("full-wave")).tube.staccato);
}

TEST(another_kind, keeps_what_was_typed_and_begins_the_rest_anew) {
  Design d = new_design(row("bridge"));
  d.secondary.turns = 1111;
  d.primary.turns = d.primary.tap_turns = 9; // typed
  d.name = "Mine";
  d.topload.front().outer_diameter_m = 0.3;
  const Design dual = as_kind(d, row("dual-resonant"));
  EXPECT_EQ(dual.kind, "dual-resonant");
  EXPECT_EQ(dual.secondary, d.secondary);
  EXPECT_EQ(dual.primary, d.primary);
  EXPECT_EQ(dual.name, "Mine");
  EXPECT_EQ(dual.bridge, new_design(row("dual-resonant")).bridge) << "nobody had touched it";
  EXPECT_EQ(dual.bridge.feedback, Feedback::primary_transformer);
  EXPECT_EQ(dual.tank, new_design(row("dual-resonant")).tank);
  EXPECT_TRUE(dual.absent.empty());
  d.bridge.lead_s = 1e-7;
  EXPECT_EQ(as_kind(d, row("dual-resonant")).bridge, d.bridge);
  EXPECT_EQ(as_kind(d, row("bridge")), d);
}

TEST(another_kind, stands_around_the_secondary_that_was_wound_and_is_in_tune_with_it) {
  for (const double form_m : {0.075, 0.11, 0.2})
    for (const CoilKind* kind : coil_kinds()) {
      Design d = new_design(row("spark-gap"));
      if (kind->key == d.kind || kind->key == "flame") continue;
      d.secondary.form_diameter_m = form_m;
      d.secondary.winding_length_m = 4 * form_m;
      d.secondary.turns = std::floor(4 * form_m / d.secondary.wire_overall_diameter_m / 1.03);
      const Design other = as_kind(d, *kind);
      SCOPED_TRACE(std::string(kind->key) + " on " + std::to_string(form_m));
      EXPECT_EQ(other.secondary, d.secondary);
      for (const std::string_view group : kind->groups)
        for (const std::string& key : other.absent) EXPECT_FALSE(key.starts_with(std::string(group) + ".")) << key;
      EXPECT_GT(other.primary.inner_radius_m, form_m / 2);
      EXPECT_EQ(other.feed.empty(), kind->feed_end == FeedEnd::none);
      const Analysis a = analyse(other);
      EXPECT_GT(a.circuit.coupling, 0.05);
      const double off = kind->tank && a.tuned_tap_turns ? a.tank_hz / a.target_hz - 1 : 0;
      EXPECT_LT(std::abs(off), 0.02);
    }
}

TEST(another_kind, of_an_untouched_design_is_a_new_one_of_that_kind) {
  for (const CoilKind* from : coil_kinds())
    for (const CoilKind* to : coil_kinds()) {
      Design d = as_kind(new_design(*from), *to), fresh = new_design(*to);
      EXPECT_EQ(d.primary, fresh.primary) << from->key << " to " << to->key;
      EXPECT_EQ(d.secondary, fresh.secondary) << from->key << " to " << to->key;
      EXPECT_TRUE(from->feed_end == to->feed_end || d.feed == fresh.feed) << from->key << " to " << to->key;
    }
}

// A tank that only heats its primary has a word, on every kind that has one.
TEST(another_kind, a_tank_far_off_is_said) {
  for (const char* kind : {"spark-gap", "dual-resonant", "tube"}) {
    Design d = new_design(row(kind));
    const Analysis now = analyse(d);
    EXPECT_TRUE(std::ranges::none_of(now.findings, [](const Finding& f) { return f.id == "tank-off-tune"; }))
        << kind;
    d.tank.unit_capacitance_f = *d.tank.unit_capacitance_f / 3;
    d.tank.capacitance_f /= 3;
    const Analysis off = analyse(d);
    const auto f = std::ranges::find_if(off.findings, [](const Finding& each) {
      return each.id == "tank-off-tune" ||
             each.id == "tank-cannot-tune"; // no clip of a gap's primary reaches so low
    });
    ASSERT_NE(f, off.findings.end()) << kind;
    EXPECT_EQ(f->severity, std::string_view(kind) == "tube" ? Severity::warning : Severity::stop) << kind;
  }
}

} // namespace
} // namespace arc
