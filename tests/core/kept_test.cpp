// One step recomputed: what a change does not touch is taken over, and what is taken over is what would be
// computed.
#include "analysis/analyse.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "crafts/exciter/exciter.h"
#include "file/validity.h"
#include "model/fields.h"
#include "simulation/figures.h"
#include "support.h"

#include <fmt/format.h>
#include <random>

using namespace arc;

namespace {

struct Small {
  using Result = int;
  static constexpr std::size_t kept = 2;
  int input;
  bool operator==(const Small&) const = default;
};

TEST(kept, the_results_last_asked_for_are_kept_and_older_ones_forgotten) {
  Kept kept;
  const auto ask = [&](int input) { return *kept.get(Small{input}, [&] { return 10 * input; }); };
  EXPECT_EQ(ask(1), 10);
  EXPECT_EQ(ask(2), 20);
  EXPECT_EQ(ask(1), 10); // again the latest
  EXPECT_EQ(kept.made<Small>(), 2u);
  EXPECT_EQ(ask(3), 30); // takes the place of 2
  EXPECT_EQ(ask(1), 10);
  EXPECT_EQ(kept.made<Small>(), 3u);
  ask(2);
  EXPECT_EQ(kept.made<Small>(), 4u);
}

TEST(kept, what_was_cancelled_or_thrown_is_not_kept) {
  Kept kept;
  const std::atomic<bool> cancelled{true};
  EXPECT_EQ(*kept.get(Small{1}, cancelled, [] { return -1; }), -1);
  EXPECT_EQ(*kept.get(Small{1}, [] { return 10; }), 10);
  EXPECT_THROW(kept.get(Small{2}, []() -> int { throw std::invalid_argument("no"); }), std::invalid_argument);
  EXPECT_EQ(*kept.get(Small{2}, [] { return 20; }), 20);
}

// How often each step of the spark gap was computed.
struct Made {
  explicit Made(Kept& kept)
      : field(kept.made<FieldStep>()), charging(kept.made<ChargingStep>() + kept.made<ChargingFiguresStep>()),
        shot(kept.made<ShotStep>() + kept.made<ShotFiguresStep>()), trials(kept.made<TrialShotStep>()) {}
  std::size_t field, charging, shot, trials;
};

class Recompute : public testing::Test {
 protected:
  Made whole(const Design& d, UnitSystem units = UnitSystem::metric, bool advice = true) {
    PowerOptions options;
    options.advice = advice; // remedies of new findings may change what charges, and are tried
    analyse_power(d, analyse(d, units, kept_), options, units, work_in(kept_));
    return Made(kept_);
  }
  Kept kept_;
};

TEST_F(Recompute, a_moved_clip_or_tank_value_repeats_no_field_solution_and_the_clip_no_charging) {
  Design d = demo_design();
  const Made before = whole(d, UnitSystem::metric, false);
  d.primary.tap_turns -= 0.1;
  const Made clip = whole(d, UnitSystem::metric, false);
  EXPECT_EQ(clip.field, before.field);
  EXPECT_EQ(clip.charging, before.charging);
  EXPECT_GT(clip.shot, before.shot);
  scale_tank(d.tank, 1.01);
  const Made tank = whole(d, UnitSystem::metric, false);
  EXPECT_EQ(tank.field, clip.field);
  EXPECT_GT(tank.charging, clip.charging);
}

TEST_F(Recompute, a_changed_feed_repeats_no_field_solution_and_no_shot) {
  Design d = demo_design();
  const Made before = whole(d);
  d.feed[1].values["setting"] = 0.77;
  const Made after = whole(d);
  EXPECT_EQ(after.field, before.field);
  EXPECT_EQ(after.shot, before.shot);
  EXPECT_GT(after.charging, before.charging);
}

TEST_F(Recompute, a_changed_topload_repeats_no_charging) {
  Design d = demo_design();
  const Made before = whole(d, UnitSystem::metric, false);
  d.topload[0].outer_diameter_m *= 1.02;
  const Made after = whole(d, UnitSystem::metric, false);
  EXPECT_EQ(after.charging, before.charging);
  EXPECT_GT(after.field, before.field);
}

TEST_F(Recompute, a_name_a_note_a_run_and_the_unit_system_repeat_nothing) {
  Design d = demo_design();
  whole(d);
  const Made before = whole(d, UnitSystem::inch); // round numbers of inches in remedies
  d.name = "Another";
  d.measurements[0].note = "again";
  d.runs.push_back({});
  const Made after = whole(d, UnitSystem::inch);
  EXPECT_EQ(after.field, before.field);
  EXPECT_EQ(after.charging, before.charging);
  EXPECT_EQ(after.shot, before.shot);
  EXPECT_EQ(after.trials, before.trials);
}

void expect_same(const Design& d, const Analysis& kept, const Analysis& fresh, const std::string& what) {
  for (const Figure* r : figures_at_rest(kind_of(d)))
    EXPECT_EQ(figure_value(*r, at_rest(d, kept)), figure_value(*r, at_rest(d, fresh))) << what << " " << r->key;
  EXPECT_EQ(kept.band, fresh.band) << what;
  ASSERT_EQ(kept.findings.size(), fresh.findings.size()) << what;
  for (std::size_t i = 0; i < fresh.findings.size(); ++i)
    EXPECT_EQ(kept.findings[i].title, fresh.findings[i].title) << what;
}

// The law that keeping must not break, tried on every number and choice that a design has: whichever is changed, in
// any order, the answer is that of a computation from nothing.
TEST(kept, whatever_is_changed_the_answer_is_that_of_a_computation_from_nothing) {
  std::mt19937 random(20261127);
  std::uniform_real_distribution<double> change(0.97, 1.03);
  for (const CoilKind* kind : coil_kinds()) {
    Kept kept;
    Design d = read_design(read_text(fmt::format("{}/{}.json", HIGH_ARC_EXAMPLES, kind->demo)));
    d.site.grounded_conductors = {"primary", "strike-ring"};
    // Those of other kinds too, on the first: they change nothing, and are kept all the same.
    const auto counts = [&](std::string_view key) {
      return kind == coil_kinds().front() || std::ranges::none_of(coil_kinds(), [&](const CoilKind* other) {
               return std::ranges::any_of(other->groups, [&](std::string_view group) {
                 return is_of_group(key, group) && std::ranges::count(kind->groups, group) == 0;
               });
             });
    };
    for (const FieldSpec& field : design_fields()) {
      const auto value = field.get(d);
      if (!value || !counts(field.key)) continue;
      Design changed = d;
      field.set(changed, *value == 0 ? 0.01 : *value * change(random));
      if (!numbers_out_of_range(changed).empty()) continue;
      d = changed;
      expect_same(d, analyse(d, UnitSystem::metric, kept), analyse(d), std::string(field.key));
    }
    for (const ChoiceSpec& choice : design_choices()) {
      if (!counts(choice.key)) continue;
      choice.set(d, (choice.get(d) + 1) % choice.choices.size());
      expect_same(d, analyse(d, UnitSystem::metric, kept), analyse(d), std::string(choice.key));
    }
  }
}

// The same of the simulated power path, of every kind: a dozen numbers and choices of each demo, in any order.
TEST(kept, whatever_is_changed_the_power_path_is_that_of_a_computation_from_nothing) {
  std::mt19937 random(20261130);
  std::uniform_real_distribution<double> change(0.97, 1.03);
  PowerOptions plain;
  plain.advice = plain.variac = plain.waveforms = false;
  plain.lumped = true;
  for (const char* file : {"/quiet-lantern.json", "/paper-moth.json", "/copper-heron.json", "/tin-orchard.json",
                           "/glass-willow.json", "/candle-reed.json"}) {
    Kept kept;
    Design d = read_design(read_text(std::string(HIGH_ARC_EXAMPLES) + file));
    if (kind_of(d).key == "tube") d.tube.supply_voltage_v = 4000; // a mains cycle takes its time
    std::vector<const FieldSpec*> fields;
    for (const FieldSpec& field : design_fields())
      if (field.get(d) && *field.get(d) != 0) fields.push_back(&field);
    std::ranges::shuffle(fields, random);
    int tried = 0;
    for (const FieldSpec* field : fields) {
      Design changed = d;
      field->set(changed, *field->get(d) * change(random));
      if (!numbers_out_of_range(changed).empty()) continue;
      d = changed;
      const Analysis a = analyse(d, UnitSystem::metric, kept);
      const PowerAnalysis now = analyse_power(d, a, plain, UnitSystem::metric, work_in(kept));
      const PowerAnalysis fresh = analyse_power(d, analyse(d), plain, UnitSystem::metric, never);
      const std::string what = std::string(file) + " " + std::string(field->key);
      for (const auto member : {&Drive::frequency_hz, &Drive::input_w, &Drive::primary_peak_v,
                                &Drive::primary_peak_a, &Drive::top_peak_v})
        EXPECT_EQ(now.drive.*member, fresh.drive.*member) << what;
      ASSERT_EQ(now.findings.size(), fresh.findings.size()) << what;
      for (std::size_t i = 0; i < fresh.findings.size(); ++i)
        EXPECT_EQ(now.findings[i].title, fresh.findings[i].title) << what;
      if (++tried == 12) break;
    }
    EXPECT_EQ(tried, 12) << file;
  }
}

TEST(kept, the_power_path_after_changes_is_that_of_a_computation_from_nothing) {
  Kept kept;
  Design d = demo_design();
  PowerOptions plain;
  plain.advice = plain.variac = false;
  const std::vector<void (*)(Design&)> changes{
      [](Design&) {},
      [](Design& e) { e.primary.tap_turns -= 0.2; },
      [](Design& e) { e.gap.firing_voltage_v *= 0.97; },
      [](Design& e) { e.site.mains_voltage_v = 225; },
      [](Design& e) { e.site.mains_frequency_hz = 60; },
      [](Design& e) { e.site.air_temperature_c = 31; },
      [](Design& e) { e.site.air_pressure_hpa = 950; },
      [](Design& e) { scale_tank(e.tank, 1.05); },
      [](Design& e) { e.tank.bleed_resistance_ohm = 3e6; },
      [](Design& e) { e.feed[1].values["setting"] = 0.8; },
      [](Design& e) { e.breakout.roughness = 0.75; },
      [](Design& e) { e.equivalent.coupling = 0.12; },
  };
  for (std::size_t i = 0; i < changes.size(); ++i) {
    changes[i](d);
    const Analysis a = analyse(d, UnitSystem::metric, kept);
    const PowerAnalysis now = analyse_power(d, a, plain, UnitSystem::metric, work_in(kept));
    const PowerAnalysis fresh = analyse_power(d, a, plain, UnitSystem::metric, never);
    const SparkGapRun n = now, f = fresh;
    EXPECT_EQ(n.shot.top_peak_v, f.shot.top_peak_v) << i;
    EXPECT_EQ(n.charging.input_power_w, f.charging.input_power_w) << i;
    EXPECT_EQ(n.charging.break_times_s, f.charging.break_times_s) << i;
    EXPECT_EQ(n.findings.size(), f.findings.size()) << i;
  }
}

TEST(kept, an_exciter_whose_name_changes_is_not_run_again) {
  Kept kept;
  Design d = read_design(read_text(HIGH_ARC_EXAMPLES "/paper-moth.json"));
  PowerOptions plain;
  plain.advice = plain.variac = false;
  const auto run = [&] {
    analyse_power(d, analyse(d, UnitSystem::metric, kept), plain, UnitSystem::metric, work_in(kept));
    return kept.made<OscillationStep>();
  };
  EXPECT_EQ(run(), 1u);
  d.name = "Grey Moth";
  EXPECT_EQ(run(), 1u);
  d.exciter.sink_k_per_w = 12; // a matter of heat, not of the circuit
  EXPECT_EQ(run(), 1u);
  d.exciter.bias_resistance_ohm *= 2;
  EXPECT_EQ(run(), 2u);
}

} // namespace
