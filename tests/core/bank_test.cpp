// The shelf, banks of its capacitors, and diode strings.
#include "circuit/feed.h"
#include "file/examples.h"
#include "parts/bank.h"
#include "parts/diodes.h"
#include "random.h"
#include "support.h"
#include "workshop/bank_search.h"
#include "workshop/reservoir_offers.h"
#include "workshop/shelf.h"
#include "workshop/shelf_note.h"
#include "workshop/start.h"

#include <nlohmann/json.hpp>
#include <numbers>
#include <random>

using namespace arc;
using testing::HasSubstr;

namespace {

using Parts = std::vector<ShelfCapacitor>;

Parts jumpers(int count) {
  ShelfCapacitor c;
  c.name = "A";
  c.capacitance_f = 400e-12;
  c.voltage_v = 30000;
  c.count = count;
  c.tolerance = 0;
  return {c};
}

// Ten 400 pF 30 kV units make 1 nF at 60 kV, 2 or 4 nF at 30 kV; nine give 3.6 nF, eleven 4.4 nF (common practice).
TEST(bank, the_jumper_bank_of_ten_units) {
  const auto best = [](int count, double wanted_f, double voltage) {
    const auto banks = find_banks(jumpers(count), {wanted_f, voltage, 1.0, 0.3, 5});
    return banks.empty() ? BankProposal{} : banks.front();
  };
  expect_close(best(10, 1e-9, 60e3).capacitance_f, 1e-9, 1e-9);
  expect_close(best(10, 1e-9, 60e3).voltage_v, 60e3, 1e-9);
  expect_close(best(10, 2e-9, 30e3).capacitance_f, 2e-9, 1e-9);
  expect_close(best(10, 4e-9, 30e3).capacitance_f, 4e-9, 1e-9);
  expect_close(best(9, 3.6e-9, 30e3).capacitance_f, 3.6e-9, 1e-9);
  expect_close(best(11, 4.4e-9, 30e3).capacitance_f, 4.4e-9, 1e-9);
  EXPECT_TRUE(find_banks(jumpers(10), {4e-9, 60e3, 1.0, 0.25, 5}).empty()) << "ten cannot do that";
}

TEST(bank,
     electrolytics_back_to_back) { // two strings of fourteen 330 uF 450 V: 11.8 uF at 6.3 kV (common practice)
  expect_close(bank_capacitance_f(330e-6, 28, 1), 11.8e-6, 2e-3);
  EXPECT_DOUBLE_EQ(bank_voltage_v(450, 14), 6300);
}

TEST(bank, no_bank_offered_ever_exceeds_a_units_rating_at_the_margin) {
  std::mt19937 random(23);
  std::uniform_real_distribution<double> log_c(-10.5, -6), log_v(2.5, 4.6), tolerance(0, 0.3), margin(0.4, 1),
      want(-9.5, -7);
  std::uniform_int_distribution<int> count(1, 15);
  int offered = 0, stacked = 0;
  for (int trial = 0; trial < 40; ++trial) {
    Parts parts;
    for (int p = 0; p < 6; ++p) {
      ShelfCapacitor c;
      c.name = std::string(1, static_cast<char>('a' + p));
      c.capacitance_f = std::pow(10, log_c(random));
      c.voltage_v = std::pow(10, log_v(random));
      c.tolerance = tolerance(random);
      c.count = count(random);
      parts.push_back(c);
    }
    const BankWish wish{std::pow(10, want(random)), std::pow(10, log_v(random)), margin(random), 0.25, 10};
    for (const BankProposal& bank : find_banks(parts, wish)) {
      ++offered;
      EXPECT_NEAR(bank.capacitance_f / wish.capacitance_f, 1, 0.25 + 1e-9);
      std::vector<int> used(parts.size(), 0);
      double total = 0;
      for (const BankString& s : bank.strings) {
        const ShelfCapacitor& part = parts[s.part];
        used[s.part] += s.in_series * s.in_parallel;
        total += part.capacitance_f / s.in_series * s.in_parallel;
      }
      if (bank.stacked) {
        const double a = parts[bank.strings[0].part].capacitance_f * bank.strings[0].in_parallel;
        total = a * (total - a) / total;
      }
      expect_close(total, bank.capacitance_f, 1e-9);
      const Tank tank = tank_of(parts, bank, {});
      expect_close(tank_capacitance_f(tank), bank.capacitance_f, 1e-9);
      for (const UnitStress& stress : bank_stress(tank, {wish.voltage_v, 0, 0, 1e5}, wish.margin)) {
        EXPECT_LE(stress.voltage_used, wish.margin * (1 + 1e-9));
        EXPECT_TRUE(stress.within_ratings);
        stacked += bank.stacked;
      }
      for (std::size_t p = 0; p < used.size(); ++p) EXPECT_LE(used[p], parts[p].count);
    }
  }
  EXPECT_GT(offered, 50) << "the property must have been tried";
  EXPECT_GT(stacked, 0) << "on stacked banks too";
}

TEST(bank, unequal_units_are_mixed_when_that_comes_closer) {
  Parts parts = jumpers(10);
  ShelfCapacitor odd = parts[0];
  odd.name = "B";
  odd.capacitance_f = 150e-12;
  odd.count = 2;
  parts.push_back(odd);
  const auto banks = find_banks(parts, {2.15e-9, 25e3, 1.0, 0.1, 10});
  ASSERT_FALSE(banks.empty());
  expect_close(banks.front().capacitance_f, 2.15e-9, 1e-9);
  EXPECT_EQ(banks.front().strings.size(), 2u);
  EXPECT_THAT(banks.front().layout, HasSubstr("B"));
}

TEST(bank, tolerances_load_the_smallest_unit_most) { // divider of one low and n-1 high capacitors
  EXPECT_DOUBLE_EQ(worst_share(1, 0.2), 1);
  expect_close(worst_share(2, 0.1), (1 / 0.9) / (1 / 0.9 + 1 / 1.1), 1e-12);
  EXPECT_DOUBLE_EQ(worst_share(4, 0), 0.25);
}

TEST(bank, an_impossible_wish_is_refused_in_words) {
  EXPECT_THROW(find_banks(jumpers(3), {0, 1e4}), std::invalid_argument);
  EXPECT_THROW(find_banks(jumpers(3), {1e-9, -5}), std::invalid_argument);
  EXPECT_THROW(find_banks(jumpers(3), {1e-9, 5, 2}), std::invalid_argument);
  EXPECT_TRUE(find_banks({}, {1e-9, 1e4}).empty());
}

TEST(shelf, a_rating_for_pulses_counts_before_the_marking) {
  const ShelfPart part{"film",
                       {{"capacitance_f", 1e-7}, {"voltage_v", 2000}, {"pulse_voltage_v", 900}, {"count", 40}},
                       Json::object()};
  EXPECT_EQ(shelf_capacitor(part).voltage_v, 900);
  Shelf shelf;
  shelf.of("capacitors").push_back(part);
  EXPECT_EQ(shelf_capacitors(read_shelf(write_shelf(shelf)))[0].voltage_v, 900);
  const auto banks = find_banks(shelf_capacitors(shelf), {1e-8, 8000, 1.0, 0.3, 1});
  ASSERT_FALSE(banks.empty());
  EXPECT_GE(banks[0].strings[0].in_series, 9) << "five would do by the marking";
}

TEST(shelf, files_survive_a_round_trip_with_unknown_keys) {
  Shelf shelf = owned_shelf();
  shelf.unknown.set("glue", Json::array({Json{{"name", "epoxy"}}}));
  shelf.of("capacitors")[0].unknown.set("drawer", "upper left");
  const Shelf back = read_shelf(write_shelf(shelf));
  EXPECT_EQ(write_shelf(back), write_shelf(shelf));
  EXPECT_EQ(back.of("capacitors")[0].unknown.json()["drawer"], "upper left");
  Shelf tables;
  tables.name = "Starter shelf";
  for (const ShelfGroup& group : shelf_groups())
    tables.of(group.key) = parts_from_csv(parts_to_csv(owned_shelf().of(group.key), group), group);
  EXPECT_EQ(write_shelf(tables), write_shelf(owned_shelf())) << "every group survives as a table";
  EXPECT_EQ(write_shelf(owned_shelf()), read_text(HIGH_ARC_EXAMPLES "/shelf.json"));
}

TEST(shelf, bad_files_say_what_and_where) {
  const auto complaint = [](std::string_view text) -> std::string {
    try {
      read_shelf(text);
    } catch (const ShelfError& error) {
      return error.what();
    }
    return "accepted";
  };
  EXPECT_THAT(complaint("{"), HasSubstr("cut off"));
  EXPECT_THAT(complaint("{}"), HasSubstr("not a shelf"));
  const std::string head = R"({"format":"high-arc-shelf","version":1,"capacitors":[)";
  EXPECT_THAT(complaint(head + R"({"name":"A","capacitance_f":1e-9}]})"), HasSubstr("capacitors[0].voltage_v"));
  EXPECT_THAT(complaint(head + R"({"name":"A","capacitance_f":-1,"voltage_v":1}]})"), HasSubstr("outside"));
  EXPECT_THAT(complaint(head + R"({"name":"A","capacitance_f":"1n","voltage_v":1}]})"),
              HasSubstr("expected a number"));
  EXPECT_THAT(complaint(head + R"({"name":"A","capacitance_f":1e-9,"voltage_v":1,"count":1.5}]})"),
              HasSubstr("whole number"));
  EXPECT_THROW(parts_from_csv("name,capacitance_f\nA,1e-9\n", shelf_group("capacitors")), ShelfError);
  EXPECT_THROW(parts_from_csv("name,capacitance_f,voltage_v,count\nA,1e-9,x,1\n", shelf_group("capacitors")),
               ShelfError);
}

TEST(shelf, a_marking_a_thousand_times_off_is_questioned) { // "470 N" that means 470 pF
  ShelfCapacitor slipped = jumpers(4)[0];
  slipped.capacitance_f = 470e-6;
  EXPECT_TRUE(doubtful_marking(slipped, 4e-9));
  EXPECT_FALSE(doubtful_marking(jumpers(4)[0], 4e-9));
}

TEST(shelf, a_measured_value_counts_before_the_marking) {
  ShelfPart part{"x", {{"capacitance_f", 1.5e-6}, {"voltage_v", 1000}, {"tolerance", 0.1}}, {}};
  EXPECT_FALSE(measured_off_marking(part));
  part.values["measured_f"] = 1.45e-6; // six 1 uF films, two in series three times, read 1.45 (common practice)
  EXPECT_DOUBLE_EQ(shelf_capacitor(part).capacitance_f, 1.45e-6);
  EXPECT_DOUBLE_EQ(shelf_capacitor(part).tolerance, meter_tolerance);
  EXPECT_FALSE(measured_off_marking(part));
  part.values["measured_f"] = 1.5e-9;
  EXPECT_TRUE(measured_off_marking(part)) << "a thousand times off";
}

TEST(shelf, every_group_has_parts_that_can_be_put_to_use) {
  const Shelf shelf = owned_shelf();
  for (const ShelfGroup& group : shelf_groups()) {
    ASSERT_FALSE(shelf.of(group.key).empty()) << group.key;
    if (!group.use) continue;
    Design d = demo_design();
    for (const CoilKind* kind : coil_kinds())
      if (group.takes && group.takes(d) == 0) take_examples(d = new_design(*kind));
    if (group.key == "capacitors") // doubles what transformers give
      d.feed = {make_block("oven-transformers"), make_block("level-shifter")};
    else
      add_block(d.feed, make_block("bridge"));
    const Design before = d;
    const auto& parts = shelf.of(group.key);
    const std::string words = group.use(group.key == "capacitors" ? parts.front() : parts.back(), d);
    EXPECT_FALSE(words.empty()) << group.key;
    EXPECT_FALSE(d == before) << group.key;
    EXPECT_EQ(read_design(write_design(d)), d) << group.key;
  }
  EXPECT_THROW(shelf_group("cheese"), std::out_of_range);
}

TEST(shelf, an_oven_capacitor_becomes_the_level_shifters_as_often_as_its_peak_needs_and_the_shelf_has) {
  ShelfPart oven;
  oven.name = "oven 1 uF";
  oven.values = {{"capacitance_f", 1e-6}, {"voltage_v", 3000}, {"count", 4}, {"rms_current_a", 5}};
  Design d = demo_design();
  d.feed = {make_block("oven-transformers"), make_block("level-shifter")}; // two of 2.1 kV: 5.9 kV of peak
  d.feed[1].values["capacitance_f"] = 1e-6;
  const std::string words = shelf_group("capacitors").use(oven, d);
  const double peak_v = 2 * 2100 * std::sqrt(2), in_series = std::ceil(peak_v / (0.8 * 3000));
  EXPECT_NEAR(d.feed[1].values.at("rated_v"), 3000 * in_series, 1e-6) << words;
  EXPECT_GE(0.8 * d.feed[1].values.at("rated_v"), peak_v);
  EXPECT_NEAR(d.feed[1].values.at("capacitance_f"), 1e-6 / in_series, 1e-9) << "no more on hand";
  EXPECT_THAT(words, HasSubstr("a bleeder across each"));
  Design other = demo_design();
  EXPECT_THAT(shelf_group("capacitors").use(oven, other), HasSubstr("no level shifter"));
  EXPECT_TRUE(other == demo_design());
}

TEST(shelf, a_remedy_that_takes_more_capacitors_says_how_many_are_there_and_what_gap_the_bank_holds) {
  Design d = demo_design();
  d.tank.given_as = TankGiven::equal_units;
  d.tank.unit_capacitance_f = 150e-9;
  d.tank.unit_voltage_v = 2000;
  d.tank.units_in_series = 6;
  d.tank.units_in_parallel = 1;
  d.gap.firing_voltage_v = 14000;
  Design more = d;
  more.tank.units_in_series = 10;
  more.tank.units_in_parallel = 2;
  Shelf shelf;
  ShelfPart film;
  film.name = "film";
  film.values = {{"capacitance_f", 150e-9}, {"voltage_v", 2000}, {"count", 6}};
  shelf.of("capacitors") = {film};
  const std::string note = shelf_note(d, more, shelf, UnitSystem::metric);
  EXPECT_THAT(note, HasSubstr("It takes 20 of 150 nF for 2 kV; 6 are on the shelf"));
  const double holds = *tank_voltage_limit_v(d.tank, 0.8);
  EXPECT_THAT(note,
              HasSubstr("set the gap to " + format_quantity(holds, Dimension::voltage, UnitSystem::metric, 3)));
  shelf.of("capacitors")[0].values["count"] = 24;
  EXPECT_THAT(shelf_note(d, more, shelf, UnitSystem::metric), testing::Not(HasSubstr("gap")));
  EXPECT_EQ(shelf_note(more, d, shelf, UnitSystem::metric), "") << "fewer need nothing";
}

TEST(shelf, a_spool_becomes_the_winding_and_a_pipe_the_form) {
  Design d = demo_design();
  shelf_group("wires").use(owned_shelf().of("wires")[1], d);
  EXPECT_DOUBLE_EQ(d.secondary.wire_bare_diameter_m, 2.5e-4);
  EXPECT_EQ(d.secondary.turns, demo_design().secondary.turns);
  shelf_group("pipes").use(owned_shelf().of("pipes")[1], d);
  EXPECT_DOUBLE_EQ(d.secondary.form_diameter_m, 0.075);
}

// The plan calls for three parallel strings of four 12 kV diodes; the shelf has 1 kV 10 A diodes (common practice):
// 48 in series hold the same 48 kV, and one string carries what three small ones did.
TEST(shelf, a_plans_diodes_are_substituted_by_those_on_hand) {
  Design d = demo_design();
  FeedBlock bridge = make_block("diode-string");
  bridge.values = {
      {"inverse_voltage_v", 12000}, {"average_current_a", 0.5}, {"diodes_in_series", 4}, {"diodes_in_parallel", 3}};
  add_block(d.feed, bridge);
  const std::string words = shelf_group("diodes").use(owned_shelf().of("diodes")[0], d);
  EXPECT_THAT(words, HasSubstr("1 strings of 48 in series and 1 in parallel: 48 pieces, 60 on hand"));
  EXPECT_EQ(d.feed.back().values.at("diodes_in_series"), 48);
  Design none = demo_design();
  EXPECT_THAT(shelf_group("diodes").use(owned_shelf().of("diodes")[0], none), HasSubstr("no rectifier"));
}

// --- the bank as it stands in a design

TEST(bank, six_films_two_in_series_three_times_are_one_and_a_half_microfarads) { // common practice, no source
  Tank tank;
  tank.unit_capacitance_f = 1e-6;
  tank.units_in_series = 2;
  tank.units_in_parallel = 3;
  expect_close(tank_capacitance_f(tank), 1.5e-6, 1e-12);
}

TEST(bank, two_unequal_units_in_series_share_inversely_to_their_capacitance) {
  // The plan calls for 2 x 470 pF in series (235 pF); the shelf has one 800 pF and one 1000 pF: 444 pF.
  const ShelfCapacitor small{"800p", 800e-12, 20000, 1, 0, false, {}, {}};
  ShelfCapacitor large = small;
  large.name = "1n";
  large.capacitance_f = 1e-9;
  const auto banks = find_banks({small, large}, {444e-12, 30e3, 1.0, 0.05, 10});
  ASSERT_FALSE(banks.empty());
  EXPECT_TRUE(banks.front().stacked);
  expect_close(banks.front().capacitance_f, 0.8e-9 * 1e-9 / 1.8e-9, 1e-9);
  const Tank tank = tank_of({small, large}, banks.front(), {});
  const auto shares = unit_shares(tank);
  for (std::size_t i = 0; i < 2; ++i)
    expect_close(shares[i].even, tank.sections[i].name == "800p" ? 1.0 / 1.8 : 0.8 / 1.8, 1e-9);
  expect_close(*tank_voltage_limit_v(tank, 1), 20000 * 1.8, 1e-9, "the smaller unit decides");
}

TEST(bank, electrolytics_are_offered_back_to_back_only) {
  // Two strings of fourteen 330 uF 450 V back to back: 11.8 uF, 6.3 kV (common practice, no source).
  const ShelfCapacitor can{"can", 330e-6, 450, 28, 0, true, {}, {}};
  const auto banks = find_banks({can}, {11.8e-6, 6300, 1.0, 0.02, 3});
  ASSERT_FALSE(banks.empty());
  EXPECT_EQ(banks.front().units, 28);
  expect_close(banks.front().voltage_v, 6300, 1e-9);
  EXPECT_THAT(banks.front().layout, HasSubstr("back to back"));
  const Tank tank = tank_of({can}, banks.front(), {});
  EXPECT_TRUE(tank.sections.front().back_to_back);
  for (const BankProposal& bank : find_banks({can}, {50e-6, 900, 1.0, 0.25, 20}))
    for (const BankString& s : bank.strings) EXPECT_EQ(s.in_series % 2, 0);
}

TEST(bank, an_82_kilo_ohm_bleeder_on_every_electrolytic_empties_the_bank_in_minutes) { // common practice
  Tank tank;
  tank.bleed_resistance_ohm = 82e3;
  BankSection s;
  s.capacitance_f = 330e-6;
  s.voltage_v = 450;
  s.in_series = 28;
  s.back_to_back = true;
  tank.sections = {s};
  expect_close(*tank_bleed_resistance_ohm(tank), 28 * 82e3, 1e-12);
  const double seconds = bleed_time_s(*tank_bleed_resistance_ohm(tank), tank_capacitance_f(tank), 6300);
  expect_close(seconds, 82e3 * 330e-6 * std::log(6300.0 / 50), 1e-9);
  // Power capacitors: below 75 V within three minutes (IEC 60831-1, from memory).
  EXPECT_LT(bleed_time_s(*tank_bleed_resistance_ohm(tank), tank_capacitance_f(tank), 6300, 75), 180);
  const UnitStress u = bank_stress(tank, {6300, 0, 0, 0}, 1).front();
  expect_close(u.peak_v, 450, 1e-9);
  EXPECT_GT(u.bleeder_w, 450 * 450 / 82e3 * 0.999);
}

TEST(bank, iec_61010_limits_decide_what_counts_as_hazardous) { // 45 uC up to 15 kV, 350 mJ above (from memory)
  EXPECT_DOUBLE_EQ(hazardous_charge_c, 45e-6);
  EXPECT_DOUBLE_EQ(hazardous_energy_j, 0.35);
  // At 15 kV the two meet nearly: 45 uC there are 338 mJ.
  expect_close(hazardous_charge_c * 15e3 / 2, hazardous_energy_j, 0.04);
}

TEST(bank, sections_side_by_side_add_up_and_share_the_current) {
  Tank tank;
  BankSection a, b;
  a.capacitance_f = 100e-9;
  a.voltage_v = 2000;
  a.in_series = 10;
  a.ratings.dissipation_factor = 1e-3;
  b.capacitance_f = 1e-9;
  b.voltage_v = 30000;
  b.in_parallel = 2;
  b.ratings.esr_ohm = 0.5;
  tank.sections = {a, b};
  expect_close(tank_capacitance_f(tank), 12e-9, 1e-12);
  const auto stress = bank_stress(tank, {15e3, 12, 1e10, 200e3});
  expect_close(stress[0].rms_a, 10, 1e-9);
  expect_close(stress[1].rms_a, 1, 1e-9, "two ceramics carry one ampere each");
  expect_close(*stress[0].dissipation_w, 1e-3 * 100 / (2 * std::numbers::pi * 200e3 * 100e-9), 1e-9);
  expect_close(*stress[1].dissipation_w, 0.5, 1e-9);
  expect_close(stress[0].rise_after_s(1e9), *stress[0].rise_k, 1e-9);
  EXPECT_LT(stress[0].rise_after_s(60), 0.1 * *stress[0].rise_k);
  EXPECT_THAT(stress[1].missing, testing::Contains("RMS current"));
  scale_tank(tank, 2);
  expect_close(tank_capacitance_f(tank), 24e-9, 1e-12);
}

TEST(bank, strings_side_by_side_are_bled_alike_however_many_units_they_have) {
  Tank tank;
  tank.bleed_resistance_ohm = 10e6;
  BankSection ten, single;
  ten.capacitance_f = 120e-9;
  ten.in_series = 10;
  single.capacitance_f = 400e-12;
  tank.sections = {ten};
  const double alone = *tank_bleed_resistance_ohm(tank);
  expect_close(alone, 100e6, 1e-12);
  tank.sections = {ten, single};
  expect_close(*tank_bleed_resistance_ohm(tank), alone / 2, 1e-12);
  const auto stress = bank_stress(tank, {12500, 0, 0, 0});
  expect_close(stress[1].bleeder_ohm, 100e6, 1e-12);
  expect_close(stress[1].bleeder_w, 12500.0 * 12500 / 100e6, 1e-9);
  EXPECT_EQ(stress[1].bleeder_elements, 25);
  tank.sections_in_series = true;
  expect_close(*tank_bleed_resistance_ohm(tank), 110e6, 1e-12, "stacked, every unit carries its own");
}

TEST(bank, one_more_across_adds_its_own_and_keeps_every_rating) {
  const Parts parts = shelf_capacitors(owned_shelf());
  Design d = demo_design();
  const auto laid = lay_across(parts, d.tank, 12500);
  ASSERT_GT(laid.size(), 3u);
  for (const LaidAcross& l : laid) {
    const double added = parts[l.part].capacitance_f / l.units;
    expect_close(l.capacitance_f, tank_capacitance_f(d.tank) + added, 1e-9, parts[l.part].name);
    ASSERT_LT(l.section, l.tank.sections.size());
    EXPECT_EQ(l.tank.sections[l.section].name, parts[l.part].name);
    const auto stress = bank_stress(l.tank, {12500, 0, 0, 0});
    EXPECT_LE(stress.back().voltage_used, usual_rating_share * (1 + 1e-9)) << parts[l.part].name;
    // Laid across twice it is two strings of the same kind.
    const auto again = lay_across(parts, l.tank, 12500);
    const auto same = std::ranges::find(again, l.part, &LaidAcross::part);
    ASSERT_EQ(same == again.end(), 2 * l.units > parts[l.part].count) << "as long as there are pieces";
    if (same != again.end()) {
      EXPECT_EQ(same->tank.sections.size(), l.tank.sections.size());
    }
  }
  EXPECT_TRUE(lay_across(jumpers(1), d.tank, 1e6).empty()) << "one unit holds no megavolt";
}

TEST(bank, a_mixed_bank_survives_its_file_and_bad_ones_are_refused_with_their_place) {
  Design d = demo_design();
  d.tank = lay_across(shelf_capacitors(owned_shelf()), d.tank, 12500)[0].tank;
  d.tank.sections[0].unknown.set("drawer", 3);
  const Design back = read_design(write_design(d));
  EXPECT_EQ(back, d);
  std::string text = write_design(d);
  const auto at = text.find("\"in_parallel\": 1.0");
  ASSERT_NE(at, std::string::npos);
  text.replace(at, 18, "\"in_parallel\": -1e9");
  try {
    read_design(text);
    FAIL() << "accepted";
  } catch (const DesignFileError& error) {
    EXPECT_THAT(error.what(), HasSubstr("tank.sections["));
    EXPECT_THAT(error.what(), HasSubstr("Strings in parallel"));
  }
}

// --- diode strings

TEST(diodes, strings_hold_and_carry_with_their_margins_and_no_diode_too_many) {
  for (const double volts : {3e3, 17e3, 48e3})
    for (const double amps : {0.1, 1.0, 7.0}) {
      const DiodeString s = diode_string(volts, amps, 1000, 1);
      EXPECT_GE(s.in_series * 1000 * diode_voltage_share, volts * (1 - 1e-9));
      EXPECT_LT((s.in_series - 1) * 1000 * diode_voltage_share, volts);
      EXPECT_GE(s.in_parallel * (s.in_parallel > 1 ? diode_current_share : 1), amps * (1 - 1e-9));
    }
  EXPECT_THROW(diode_string(1e3, 1, 0, 1), std::invalid_argument);
}

TEST(diodes, sharing_resistors_save_diodes) {
  EXPECT_DOUBLE_EQ(string_share(1, 1000, 0), 1);
  EXPECT_DOUBLE_EQ(string_share(20, 1000, 0), diode_voltage_share);
  EXPECT_DOUBLE_EQ(string_share(20, 1000, 1e6), shared_voltage_share) << "a milliampere against ten microamperes";
  double before = 1;
  for (const double ohm : {1e6, 30e6, 100e6, 1e9}) {
    EXPECT_LE(string_share(20, 1000, ohm), before) << ohm;
    before = string_share(20, 1000, ohm);
  }
  EXPECT_LT(diode_string(20e3, 0.1, 1000, 1, 1e6).in_series, diode_string(20e3, 0.1, 1000, 1).in_series);
}

TEST(diodes, sharing_resistors_even_out_what_leakage_makes_uneven) {
  EXPECT_DOUBLE_EQ(worst_diode_v(1000, 1, 5, 0), 1000);
  expect_close(worst_diode_v(1000, 10, 0, 0), 100, 1e-12);
  const double bare = worst_diode_v(1000, 10, 3, 0), shared = worst_diode_v(1000, 10, 3, 30);
  expect_close(bare, 1000 / (1 + 9.0 / 4), 1e-12, "the tightest diode against nine that leak four times more");
  EXPECT_LT(shared, 0.5 * bare);
  EXPECT_GT(shared, 100);
}

TEST(shelf, parts_of_a_spark_gaps_path_do_not_get_into_a_bridges) {
  Design d = demo_design();
  d.kind = "bridge";
  const auto before = d.feed;
  ShelfPart transformer, choke;
  transformer.values = {{"rated_mains_v", 230}, {"output_v", 8000}, {"short_circuit_a", 0.06}};
  choke.values = {{"inductance_h", 10}};
  EXPECT_THAT(shelf_group("transformers").use(transformer, d), HasSubstr("no place"));
  EXPECT_THAT(shelf_group("chokes").use(choke, d), HasSubstr("no place"));
  EXPECT_EQ(d.feed, before);
}

TEST(reservoir_offers, hold_the_bus_with_a_tenth_to_spare_and_use_what_there_is) {
  Shelf shelf;
  shelf.of("capacitors") = {{"electrolytic",
                             {{"capacitance_f", 680e-6},
                              {"voltage_v", 200},
                              {"count", 7},
                              {"polarised", 1},
                              {"esr_ohm", 0.2},
                              {"rms_current_a", 2.5}},
                             {}},
                            {"film", {{"capacitance_f", 40e-6}, {"voltage_v", 900}, {"count", 2}}, {}},
                            {"small", {{"capacitance_f", 1e-3}, {"voltage_v", 16}, {"count", 4}}, {}}};
  const auto offers = reservoir_offers(shelf, 325);
  ASSERT_EQ(offers.size(), 2u) << "four of 16 V cannot hold it";
  EXPECT_EQ(offers[0].unit.name, "electrolytic");
  EXPECT_EQ(offers[0].in_series, 2) << "1.1 x 325 V over 200 V each";
  EXPECT_EQ(offers[0].in_parallel, 3);
  EXPECT_NEAR(offers[0].capacitance_f, 680e-6 * 1.5, 1e-9);
  EXPECT_EQ(offers[1].pieces(), 2);
  for (const char* kind : {"electrolytics", "reservoir"}) {
    FeedBlock block = make_block(kind);
    offers[0].put_into(block);
    const Reservoir r = reservoir_of({block});
    EXPECT_NEAR(r.capacitance_f, offers[0].capacitance_f, 1e-9) << kind;
    EXPECT_NEAR(r.limit_v, 400, 1e-9) << kind;
    EXPECT_LT(r.bleed_ohm * r.capacitance_f * std::log(325 / 50.0), 60) << kind << ": below 50 V within a minute";
  }
  FeedBlock block = make_block("electrolytics");
  offers[0].put_into(block);
  EXPECT_NEAR(reservoir_of({block}).ripple_a, 7.5, 1e-9);
  EXPECT_TRUE(reservoir_offers(Shelf{}, 325).empty());
}

TEST(bank, one_string_more_or_fewer_changes_its_capacitance_by_one_strings) {
  arc::Random random(53);
  for (int i = 0; i < 200; ++i) {
    Tank tank;
    const auto count = random.below(4) + 1;
    for (std::size_t k = 0; k < count; ++k) {
      BankSection string;
      string.capacitance_f = random.decade(1e-10, 1e-7);
      string.in_series = random.whole(1, 8);
      string.in_parallel = random.whole(1, 3);
      tank.sections.push_back(string);
    }
    tank.given_as = TankGiven::mixed_bank;
    const auto section = random.below(count);
    const double one = section_capacitance_f(tank.sections[section]) / tank.sections[section].in_parallel;
    const auto more = with_strings(tank, section, 1), fewer = with_strings(tank, section, -1);
    ASSERT_TRUE(more);
    expect_close(tank_capacitance_f(*more), tank_capacitance_f(tank) + one, 1e-12);
    expect_close(tank_capacitance_f(*with_strings(*more, section, -1)), tank_capacitance_f(tank), 1e-12);
    const bool last = count == 1 && tank.sections[0].in_parallel == 1;
    ASSERT_EQ(fewer.has_value(), !last);
    if (fewer) expect_close(tank_capacitance_f(*fewer), tank_capacitance_f(tank) - one, 1e-9);
    EXPECT_FALSE(with_strings(tank, count, 1)) << "no such section";
  }
  Tank equal;
  equal.unit_capacitance_f = 470e-12;
  equal.units_in_parallel = 4;
  EXPECT_NEAR(tank_capacitance_f(equal), 1.88e-9, 1e-15) << "common practice, no source";
  EXPECT_NEAR(tank_capacitance_f(*with_strings(equal, 0, 1)), 2.35e-9, 1e-15);
  EXPECT_FALSE(with_strings(equal, 0, -4));
  EXPECT_FALSE(with_strings(equal, 1, 1));
  Tank single;
  single.capacitance_f = 1e-8;
  single.given_as = TankGiven::one_value;
  EXPECT_FALSE(with_strings(single, 0, 1)) << "one value has no strings";
}

} // namespace
