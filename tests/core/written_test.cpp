// What is written is read, whatever a design went through: files at their bounds, edits at random, remedies, banks
// that are none.
#include "analysis/analyse.h"
#include "craft/kind.h"
#include "file/validity.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "quantity/json_text.h"
#include "random_designs.h"
#include "support.h"
#include "workshop/unsaved.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <random>

using namespace arc;
using testing::HasSubstr;

namespace {

void expect_survives(const Design& d, const std::string& what) {
  EXPECT_EQ(read_design(write_design(d)), d) << what;
  const Unsaved unsaved{.design = d, .origin = "/home/a b/“x”.json", .stamp = {}, .changed = true, .draft = {}};
  EXPECT_EQ(read_unsaved(write_unsaved(unsaved)), unsaved) << what;
}

TEST(written, a_bank_that_is_none_never_makes_a_file_unreadable) {
  for (const double parallel : {-1.0, 0.0, 1e4, 3.0})
    for (const double series : {-2.0, 0.0, 1.0}) {
      Json json = Json::parse(write_design(demo_design()));
      json["tank"]["units_in_parallel"] = parallel;
      json["tank"]["units_in_series"] = series;
      const std::string what = fmt::format("{} by {}", parallel, series);
      const Design d = read_design(json.dump());
      expect_survives(d, what);
      EXPECT_TRUE(std::isfinite(d.tank.capacitance_f)) << what;
      Design renamed = d;
      renamed.name = "Other";
      EXPECT_EQ(edit_problem(d, renamed, UnitSystem::metric), "") << what << ": what is wrong stays to be mended";
      Design mended = d;
      for (const RangeProblem& problem : numbers_out_of_range(d)) set_number(mended, problem.path, problem.nearest);
      mended.tank.capacitance_f = tank_capacitance_f(mended.tank);
      expect_survives(mended, what);
    }
}

TEST(written, designs_after_edits_at_random_are_read_back_equal) {
  std::mt19937 random(71);
  const auto fields = design_fields();
  for (const char* demo :
       {"quiet-lantern", "paper-moth", "copper-heron", "tin-orchard", "glass-willow", "candle-reed"}) {
    Design d = read_design(read_text(fmt::format("{}/{}.json", HIGH_ARC_EXAMPLES, demo)));
    int taken = 0;
    for (int n = 0; n < 150; ++n) {
      Design after = d;
      const FieldSpec& field = fields[random() % fields.size()];
      const double share = static_cast<double>(random() % 1000) / 999;
      if (random() % 10 == 0)
        give_tank(after.tank, static_cast<TankGiven>(random() % 3));
      else
        field.set(after, field.minimum + share * (field.maximum - field.minimum) * (random() % 4 == 0 ? 3 : 1));
      settle_edit(d, after);
      if (!edit_problem(d, after, UnitSystem::metric).empty()) continue;
      d = after;
      if (++taken % 10 == 0) expect_survives(d, fmt::format("{} after {}", demo, field.key));
    }
    EXPECT_GT(taken, 50) << demo;
  }
}

TEST(written, remedies_leave_designs_that_are_read_back_equal) {
  for (const char* demo : {"quiet-lantern", "copper-heron", "glass-willow"}) {
    Design d = read_design(read_text(fmt::format("{}/{}.json", HIGH_ARC_EXAMPLES, demo)));
    d.secondary.form_diameter_m *= 0.6;
    for (const Finding& finding : analyse(d).findings)
      if (finding.apply) {
        Design after = d;
        finding.apply(after);
        expect_survives(after, finding.id);
      }
  }
}

TEST(written, the_deepest_file_that_opens_is_kept_by_the_autosave_too) {
  Json json = Json::parse(write_design(demo_design()));
  Json deep = 1;
  for (int i = 0; i < deepest_json - 1; ++i) deep = Json::array({deep});
  json["later"] = deep;
  expect_survives(read_design(json.dump()), "deep");
  json["later"] = Json::array({deep});
  EXPECT_THROW(read_design(json.dump()), DesignFileError);
}

TEST(written, keys_of_later_versions_are_bounded_so_that_ours_fit_beside_them) {
  Json json = Json::parse(write_design(demo_design()));
  for (int i = 0; i < 800; ++i) json["site"]["k" + std::to_string(i)] = i;
  expect_survives(read_design(json.dump()), "many keys");
  json["site"]["one more"] = 1;
  try {
    read_design(json.dump());
    ADD_FAILURE() << "read";
  } catch (const DesignFileError& error) {
    EXPECT_THAT(error.what(), HasSubstr("at most 800"));
    EXPECT_EQ(error.path(), "site");
  }
}

TEST(written, a_design_too_large_for_lines_is_written_in_one_and_beyond_that_the_edit_is_refused) {
  Design d = demo_design();
  Design before = d;
  arc::Run run;
  run.notes = std::string(most_text_bytes, 'x');
  for (int i = 0; i < 900; ++i) d.runs.push_back(run);
  EXPECT_EQ(edit_problem(before, d, UnitSystem::metric), "");
  before = d;
  for (int i = 0; i < 500; ++i) d.runs.push_back(run); // 140 MB
  EXPECT_THAT(edit_problem(before, d, UnitSystem::metric), HasSubstr("at most 128 MB"));
}

} // namespace
