// Files of every version stay readable for good: they are kept as they were written and never edited.
#include "circuit/feed.h"
#include "file/validity.h"
#include "parts/bank.h"
#include "support.h"

#include <filesystem>
#include <nlohmann/json.hpp>

using namespace arc;

namespace {

std::string frozen(const std::string& name) {
  return read_text(HIGH_ARC_TEST_DATA "/frozen/" + name);
}

TEST(frozen_files, every_kept_file_is_read_and_survives_being_written) {
  int designs = 0, shelves = 0;
  for (const auto& file : std::filesystem::directory_iterator(HIGH_ARC_TEST_DATA "/frozen")) {
    const std::string name = file.path().filename();
    if (name.starts_with("design")) {
      const Design d = read_design(frozen(name));
      EXPECT_EQ(read_design(write_design(d)), d) << name;
      EXPECT_TRUE(numbers_out_of_range(d).empty()) << name;
      ++designs;
    } else {
      const std::string once = write_shelf(read_shelf(frozen(name)));
      EXPECT_EQ(write_shelf(read_shelf(once)), once) << name;
      ++shelves;
    }
  }
  EXPECT_GE(designs, 2);
  EXPECT_GE(shelves, 2);
}

TEST(frozen_files, what_an_early_file_meant_it_still_means) {
  const Design d = read_design(frozen("design-1-before-tank-ways.json"));
  EXPECT_EQ(tank_given(d.tank), TankGiven::equal_units) << "it said so by holding units";
  EXPECT_NEAR(tank_capacitance_f(d.tank), 12e-9, 1e-15);
  EXPECT_EQ(block_value(*find_block(d.feed, BlockRole::variac), "idle_a"), 0) << "the usual idle current";
  const Shelf shelf = read_shelf(frozen("shelf-1-before-invented.json"));
  EXPECT_EQ(shelf_capacitors(shelf).size(), 9u) << "an early shelf is its builder's own";
}

TEST(frozen_files, everything_that_a_file_can_hold_arrives) {
  const Design d = read_design(frozen("design-1-everything.json"));
  EXPECT_EQ(tank_given(d.tank), TankGiven::equal_units);
  EXPECT_EQ(d.tank.single_capacitance_f, 3.3e-8);
  EXPECT_EQ(d.tank.sections.size(), 1u);
  EXPECT_EQ(d.feed[3].kind, "level-shifter");
  EXPECT_EQ(block_value(d.feed[2], "idle_low_a"), 0.6);
  EXPECT_EQ(d.topload[1].diameter_m, 0.2) << "of a shape that is not chosen now";
  EXPECT_EQ(d.topload[1].unknown.json()["finish"], "brushed");
  EXPECT_EQ(d.unknown.json()["workshop"]["shelf"], 3);
  EXPECT_THAT(d.runs[0].armed_despite, testing::HasSubstr("tested to 3 kV"));
  EXPECT_EQ(feed_problem(d.feed), "");
}

TEST(frozen_files, an_exciter_arrives_with_its_driver_its_log_and_what_was_measured) {
  const Design d = read_design(frozen("design-1-exciter.json"));
  EXPECT_EQ(d.kind, "exciter");
  EXPECT_EQ(d.exciter.transistor.type, TransistorType::pnp);
  EXPECT_EQ(d.exciter.clamp, Clamp::diode);
  EXPECT_TRUE(d.exciter.primary_reversed);
  EXPECT_TRUE(d.exciter.fan);
  EXPECT_EQ(d.exciter.sink_k_per_w, 20);
  EXPECT_EQ(d.equivalent.coupling, 0.27);
  EXPECT_EQ(d.absent, (std::set<std::string, std::less<>>{"tank.capacitance_f"}));
  EXPECT_EQ(d.runs[1].observations.at("lamp_distance_m"), 0.05);
}

} // namespace
