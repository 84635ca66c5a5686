// Laws that hold for any feed: random chains of blocks with random numbers, random rotors, random shelves.
#include "circuit/feed.h"
#include "crafts/spark_gap/charging.h"
#include "parts/bank.h"
#include "parts/gap.h"
#include "random.h"
#include "simulation/power.h"
#include "support.h"
#include "workshop/bank_search.h"
#include "workshop/shelf.h"

#include <random>

using namespace arc;
using testing::HasSubstr;
using testing::Not;

namespace {

// A block whose numbers are within a factor of two of the standard ones, where its range allows.
FeedBlock random_block(Random& random, const BlockKind& kind) {
  FeedBlock block = make_block(kind.key);
  for (const BlockNumber& number : kind.numbers) {
    double& value = block.values.at(std::string(number.key));
    if (number.dimension == Dimension::count || value == 0) continue;
    value = std::clamp(value * random.decade(0.5, 2), number.minimum, number.maximum);
  }
  return block;
}

// A feed that can charge a tank: one source, up to two blocks before it, up to three behind.
std::vector<FeedBlock> random_feed(Random& random) {
  for (;;) {
    std::vector<FeedBlock> feed;
    const auto pick = [&](BlockPlace place) -> const BlockKind& {
      for (;;) {
        const BlockKind& kind = block_kinds()[random.below(block_kinds().size())];
        if (kind.place == place) return kind;
      }
    };
    for (std::size_t i = random.below(3); i > 0; --i) feed.push_back(random_block(random, pick(BlockPlace::mains)));
    feed.push_back(random_block(random, pick(BlockPlace::source)));
    for (std::size_t i = random.below(4); i > 0; --i)
      feed.push_back(random_block(random, pick(BlockPlace::behind)));
    if (feed_problem(feed).empty()) return feed;
  }
}

Design random_design(Random& random) {
  Design d = demo_design();
  d.feed = random_feed(random);
  d.gap.firing_voltage_v = random.decade(1500, 9000);
  return d;
}

std::string names(const Design& d) {
  std::string out;
  for (const FeedBlock& b : d.feed) out += b.kind + " ";
  return out;
}

TEST(feed_laws, no_feed_gives_the_tank_more_than_it_takes_from_the_line) {
  Random random(301);
  int fired = 0;
  for (int trial = 0; trial < 60; ++trial) {
    const Design d = random_design(random);
    if (std::ranges::count(d.feed, "flyback-driver", &FeedBlock::kind) > 0)
      continue; // not simulated up to the wall
    const ChargingResult r = simulate_charging(d, {8, 20e-6}, never);
    double taken = 0, given = 0; // from an empty start
    for (std::size_t i = 1; i < r.samples.size(); ++i)
      taken += (r.samples[i].mains_v * r.samples[i].line_a + r.samples[i - 1].mains_v * r.samples[i - 1].line_a) /
               2 * 20e-6;
    for (const double v : r.break_voltages_v) given += stored_energy_j(tank_capacitance_f(d.tank), v);
    EXPECT_LE(given, taken * 1.03 + 0.02) << names(d);
    fired += given > 0;
  }
  EXPECT_GT(fired, 20) << "many must have been tried with breaks";
}

TEST(feed_laws, every_figure_is_a_number_and_no_rms_is_above_its_peak) {
  Random random(302);
  for (int trial = 0; trial < 60; ++trial) {
    const Design d = random_design(random);
    const ChargingResult r = simulate_charging(d, {6, 20e-6}, never);
    ASSERT_EQ(r.joints.size(), d.feed.size() + 1) << names(d);
    for (const double value : {r.input_power_w, r.line_current_a, r.power_factor, r.tank_peak_v, r.tank_power_w})
      EXPECT_TRUE(std::isfinite(value)) << names(d);
    EXPECT_LE(std::abs(r.power_factor), 1.001) << names(d);
    for (const JointLoad& j : r.joints) {
      EXPECT_TRUE(std::isfinite(j.rms_v) && std::isfinite(j.rms_a)) << j.title;
      EXPECT_LE(j.rms_a, j.peak_a * 1.0001 + 1e-12) << j.title << " of " << names(d);
    }
    for (const DiodeLoad& load : r.diodes) EXPECT_GE(load.inverse_v, 0) << load.title;
  }
}

TEST(feed_laws, a_static_gap_always_fires_at_its_voltage) {
  Random random(303);
  for (int trial = 0; trial < 40; ++trial) {
    const Design d = random_design(random);
    for (const double v : simulate_charging(d, {6, 20e-6}, never).break_voltages_v)
      expect_close(std::abs(v), d.gap.firing_voltage_v, 1e-4, names(d));
  }
}

TEST(feed_laws, a_feed_survives_its_file_and_its_deck_holds_numbers_only) {
  Random random(304);
  for (int trial = 0; trial < 60; ++trial) {
    const Design d = random_design(random);
    EXPECT_EQ(read_design(write_design(d)), d);
    if (std::ranges::count(d.feed, "dimmer", &FeedBlock::kind) > 0) {
      EXPECT_THROW(charging_netlist(d, {}), std::invalid_argument) << "its triac is simulated here only";
      continue;
    }
    const std::string deck = charging_netlist(d, {});
    EXPECT_THAT(deck, Not(HasSubstr("nan")));
    EXPECT_THAT(deck, Not(HasSubstr("inf")));
    for (const char* name : {"tank_peak_v", "input_power_w", "line_current_a", "break_rate_hz", "power_factor"})
      EXPECT_THAT(deck, HasSubstr(std::string(".meas tran ") + name)) << names(d);
  }
}

TEST(feed_laws, shuffled_blocks_either_work_or_say_which_one_is_wrong) {
  Random random(305);
  std::mt19937 order(305);
  int refused = 0;
  for (int trial = 0; trial < 80; ++trial) {
    Design d = random_design(random);
    std::ranges::shuffle(d.feed, order);
    const std::string problem = feed_problem(d.feed);
    if (problem.empty()) {
      EXPECT_NO_THROW(simulate_charging(d, {2, 20e-6}, never)) << names(d);
      continue;
    }
    ++refused;
    EXPECT_THAT(problem, testing::AnyOf(HasSubstr("block "), HasSubstr("no transformer"))) << names(d);
    EXPECT_THROW(simulate_charging(d, {2, 20e-6}, never), std::invalid_argument);
    EXPECT_FALSE(d.feed.empty());
  }
  EXPECT_GT(refused, 20);
}

TEST(feed_laws, a_safety_gap_bounds_whatever_stands_behind_it) {
  Random random(306);
  for (int trial = 0; trial < 20; ++trial) {
    Design d = demo_design();
    d.gap.firing_voltage_v = 1e6;
    const double firing = random.between(3000, 9000);
    d.feed = {random_block(random, *block_kind("transformer")), make_block("safety-gap")};
    d.feed.back().values["firing_v"] = firing;
    EXPECT_LE(simulate_charging(d, {8, 20e-6}, never).tank_peak_v, 1.02 * firing);
  }
}

TEST(rotor_laws, it_never_fires_below_what_its_electrodes_hold_at_that_instant) {
  Random random(307);
  std::size_t breaks = 0;
  for (int trial = 0; trial < 25; ++trial) {
    Design d = demo_design();
    d.feed = {random_block(random, *block_kind("transformer"))};
    d.gap.spacing_m.reset();
    d.gap.rotary_electrodes = 1 + static_cast<double>(random.below(8));
    d.gap.rotor_speed_hz = random.between(10, 80);
    d.gap.rotor_radius_m = random.between(0.03, 0.2);
    d.gap.rotor_clearance_m = random.between(5e-4, 2e-3);
    if (random.below(2)) d.gap.rotor_phase_deg = random.between(0, 360);
    const GapModel model = gap_model(d.gap, d.site);
    const ChargingResult r = simulate_charging(d, {6, 20e-6}, never);
    for (std::size_t i = 0; i < r.break_times_s.size(); ++i)
      EXPECT_GE(std::abs(r.break_voltages_v[i]), 0.999 * model.threshold_v(r.break_times_s[i]));
    breaks += r.break_times_s.size();
  }
  EXPECT_GT(breaks, 50u);
}

TEST(bank_laws, stacked_units_divide_the_voltage_and_carry_one_current) {
  Random random(308);
  for (int trial = 0; trial < 50; ++trial) {
    Tank tank;
    tank.sections_in_series = true;
    for (std::size_t i = 0; i < 2 + random.below(4); ++i) {
      BankSection s;
      s.capacitance_f = random.decade(1e-10, 1e-6);
      s.in_parallel = 1 + static_cast<double>(random.below(4));
      s.in_series = 1 + static_cast<double>(random.below(3));
      s.tolerance = random.between(0, 0.3);
      s.voltage_v = random.decade(500, 4e4);
      tank.sections.push_back(s);
    }
    const auto shares = unit_shares(tank);
    double total = 0, charge = 0;
    for (std::size_t i = 0; i < shares.size(); ++i) {
      const BankSection& s = tank.sections[i];
      total += shares[i].even * s.in_series;
      EXPECT_GE(shares[i].worst, shares[i].even * (1 - 1e-12));
      // The same charge sits on every section.
      const double q = shares[i].even * s.in_series * section_capacitance_f(s);
      if (i > 0) {
        expect_close(q, charge, 1e-9);
      }
      charge = q;
    }
    expect_close(total, 1, 1e-9, "the shares are the whole");
    const double limit = *tank_voltage_limit_v(tank, 1);
    for (const UnitStress& u : bank_stress(tank, {limit, 1, 0, 0}, 1)) {
      EXPECT_LE(u.voltage_used, 1 + 1e-9);
      EXPECT_TRUE(u.within_ratings);
    }
    bool exceeded = false;
    for (const UnitStress& u : bank_stress(tank, {1.01 * limit, 0, 0, 0}, 1)) exceeded |= !u.within_ratings;
    EXPECT_TRUE(exceeded) << "one per cent more is too much for one of them";
  }
}

TEST(bank_laws, a_worse_margin_never_finds_what_a_better_one_refuses) {
  const auto parts = shelf_capacitors(owned_shelf());
  std::size_t before = 0;
  for (const double margin : {0.3, 0.5, 0.8, 1.0}) {
    const auto banks = find_banks(parts, {12e-9, 14e3, margin, 0.1, 100000});
    EXPECT_GE(banks.size() + 20, before) << margin; // the search keeps the shortest strings of each margin
    for (const BankProposal& bank : banks) EXPECT_GE(bank.voltage_v, 14e3 * (1 - 1e-9));
    before = banks.size();
  }
}

TEST(shelf_laws, every_group_refuses_what_is_out_of_range_by_name_and_place) {
  for (const ShelfGroup& group : shelf_groups())
    for (const ShelfColumn& column : group.columns) {
      Shelf shelf = owned_shelf();
      shelf.of(group.key).front().values[std::string(column.key)] = column.maximum * 10 + 1;
      try {
        read_shelf(write_shelf(shelf));
        ADD_FAILURE() << group.key << " " << column.key << " accepted";
      } catch (const ShelfError& error) {
        EXPECT_THAT(error.what(), HasSubstr(std::string(group.key) + "[0]." + std::string(column.key)));
        EXPECT_THAT(error.what(), HasSubstr(std::string(column.label)));
      }
      if (!column.required) continue;
      Shelf without = owned_shelf();
      without.of(group.key).front().values.erase(std::string(column.key));
      EXPECT_THROW(read_shelf(write_shelf(without)), ShelfError) << column.key;
    }
}

} // namespace
