// Logged runs: copied conditions, comparison, CSV out and in.
#include "support.h"

#include "analysis/analyse.h"
#include "craft/kind.h"
#include "quantity/csv_rows.h"
#include "simulation/figures.h"
#include "workshop/run_table.h"
#include "workshop/runs.h"

#include <fmt/format.h>
#include <functional>
#include <nlohmann/json.hpp>
#include <random>
#include <regex>

using namespace arc;
using testing::HasSubstr;

namespace {

std::string runs_refusal(const std::string& text) {
  try {
    read_runs(text, {});
  } catch (const RunFileError& error) {
    return error.what();
  }
  ADD_FAILURE() << "accepted: " << text;
  return {};
}

TEST(runs, a_new_run_copies_the_conditions_of_this_moment) {
  Design d = demo_design();
  const Analysis a = analyse(d);
  const arc::Run run = begin_run(d, a, nullptr, "2026-05-01T20:00:00");
  EXPECT_DOUBLE_EQ(run.conditions.at("tap_turns"), d.primary.tap_turns);
  EXPECT_NEAR(run.conditions.at("coupling"), a.coupling, 1e-11) << "twelve digits";
  EXPECT_DOUBLE_EQ(run.conditions.at("topload_diameter_m"), 0.4);
  EXPECT_TRUE(run.observations.empty());
  d.primary.tap_turns = 3;
  EXPECT_NE(run.conditions.at("tap_turns"), 3) << "later edits do not reach back";
}

// A record of so many runs over a few designs, with odd words, as a long-lived one has.
std::vector<arc::Run> random_record(int count, unsigned seed) {
  std::mt19937 random(seed);
  const char* words[] = {"",
                         "plain",
                         "with, comma",
                         "with \"quotes\"",
                         "two\nlines",
                         "ümlaut µ Ω",
                         "semi; colon",
                         ",,",
                         "3/4 of a turn in",
                         "=warm",
                         "1,5 kV",
                         "-"};
  std::vector<KeptDesign> designs;
  for (int k = 0; k < 7; ++k) {
    Design d = demo_design();
    d.primary.tap_turns = 5 + 0.25 * k;
    designs.emplace_back(d);
  }
  std::vector<arc::Run> runs;
  for (int i = 0; i < count; ++i) {
    arc::Run run;
    run.id = new_run_id();
    run.when = fmt::format("2026-{:02}-{:02}T{:02}:{:02}:{:02}", 1 + random() % 12, 1 + random() % 28,
                           random() % 24, random() % 60, random() % 60);
    for (const RunField& field : run_fields())
      if (random() % 3) {
        const double share = std::uniform_real_distribution<double>(0, 1)(random);
        const double value = field.minimum + (field.maximum - field.minimum) * share * share * share;
        (is_condition(field) ? run.conditions : run.observations)[std::string(field.key)] =
            round_significant(value, 12);
      }
    run.notes = words[random() % std::size(words)];
    run.failed = words[random() % std::size(words)];
    run.fired_with = designs[random() % designs.size()];
    runs.push_back(run);
  }
  return runs;
}

std::string joined(const CsvRows& rows, const std::string& delimiter, const std::string& end,
                   const std::function<std::string(const std::string&)>& cell_of) {
  std::string out;
  for (const auto& row : rows) {
    for (std::size_t c = 0; c < row.size(); ++c) out += (c ? delimiter : "") + cell_of(row[c]);
    out += end;
  }
  return out;
}

std::string in_marks(const std::string& text) {
  return '"' + std::regex_replace(text, std::regex("\""), "\"\"") + '"';
}

const std::regex iso_seconds(R"((\d{4})-(\d\d)-(\d\d)T(\d\d):(\d\d):\d\d)");
const std::regex plain_number(R"(-?\d+(\.\d+)?([eE][-+]?\d+)?)");

// Common practice, no source: what four spreadsheets do to a table that is opened and saved again.
struct Habit {
  const char* name;
  std::function<std::string(const std::string&)> save;
};
const Habit habits[] = {
    {"dates_to_the_minute_every_cell_quoted",
     [](const std::string& csv) {
       return joined(csv_rows(csv), ",", "\n", [](const std::string& cell) {
         return in_marks(std::regex_replace(cell, iso_seconds, "$1-$2-$3 $4:$5"));
       });
     }},
    {"semicolons_decimal_commas_dates_with_dots",
     [](const std::string& csv) {
       return "\xEF\xBB\xBF" + joined(csv_rows(csv), ";", "\r\n", [](std::string cell) {
                if (std::regex_match(cell, plain_number)) cell = std::regex_replace(cell, std::regex("\\."), ",");
                cell = std::regex_replace(cell, iso_seconds, "$3.$2.$1 $4:$5");
                return cell.find_first_of(";\"\n") == std::string::npos ? cell : in_marks(cell);
              });
     }},
    {"month_first_six_digits_and_an_own_column",
     [](const std::string& csv) {
       CsvRows rows = csv_rows(csv);
       for (std::size_t r = 0; r < rows.size(); ++r) rows[r].push_back(r == 0 ? "weather" : "");
       return joined(rows, ",", "\r\n", [](std::string cell) {
         if (std::regex_match(cell, plain_number)) cell = fmt::format("{:.6G}", std::stod(cell));
         cell = std::regex_replace(cell, iso_seconds, "$2/$3/$1 $4:$5");
         return cell.find_first_of(",\"\n") == std::string::npos ? cell : in_marks(cell);
       });
     }},
    {"tabs_in_utf_16_columns_turned_round_blank_rows", [](const std::string& csv) {
       CsvRows rows = csv_rows(csv);
       for (auto& row : rows) std::ranges::reverse(row);
       rows.insert(rows.begin() + 3, std::vector<std::string>(rows[0].size()));
       const std::string utf8 = joined(rows, "\t", "\r\n", in_marks);
       std::string out = "\xFF\xFE";
       for (std::size_t i = 0; i < utf8.size();) {
         const auto lead = static_cast<unsigned char>(utf8[i]);
         const int more = lead < 0x80 ? 0 : lead < 0xE0 ? 1 : 2; // nothing here is beyond U+FFFF
         unsigned point = more == 0 ? lead : more == 1 ? lead & 0x1F : lead & 0x0F;
         for (int k = 1; k <= more; ++k) point = point << 6 | (static_cast<unsigned char>(utf8[i + k]) & 0x3F);
         i += 1 + more;
         out += static_cast<char>(point & 0xFF);
         out += static_cast<char>(point >> 8);
       }
       return out;
     }}};

class SpreadsheetHabit : public ::testing::TestWithParam<Habit> {};
INSTANTIATE_TEST_SUITE_P(each, SpreadsheetHabit, ::testing::ValuesIn(habits),
                         [](const auto& one) { return std::string(one.param.name); });

TEST_P(SpreadsheetHabit, changes_nothing_in_a_record_of_500_runs_and_one_corrected_cell_is_one_change) {
  const auto record = random_record(500, 71);
  std::string csv = runs_to_csv(record);
  RunImport read = read_runs(GetParam().save(csv), record);
  EXPECT_EQ(read.same, record.size());
  EXPECT_TRUE(merged(record, read, {}) == record);
  CsvRows rows = csv_rows(csv);
  const auto notes = static_cast<std::size_t>(std::ranges::find(rows[0], "notes") - rows[0].begin());
  rows[43][notes] = "corrected";
  csv = joined(rows, ",", "\n", [](const std::string& cell) { return in_marks(cell); });
  read = read_runs(GetParam().save(csv), record);
  ASSERT_EQ(read.updated.size(), 1u);
  EXPECT_EQ(read.updated[0].index, 42u);
  EXPECT_EQ(read.updated[0].run.notes, "corrected");
  EXPECT_EQ(read.same, record.size() - 1);
  EXPECT_TRUE(read.added.empty() && read.both.empty());
}

TEST(runs, csv_round_trip_keeps_every_run) {
  for (arc::Run& run : random_record(60, 23)) {
    run.fired_with = {}; // stands in the file of the design only
    const auto read = read_runs(runs_to_csv({run}), {});
    ASSERT_EQ(read.added.size(), 1u);
    EXPECT_TRUE(read.added[0] == run) << runs_to_csv({run, read.added[0]});
  }
  EXPECT_TRUE(read_runs(runs_to_csv({}), {}).added.empty());
}

TEST(runs, a_run_that_changed_here_and_in_the_table_is_asked_about) {
  const auto record = random_record(4, 5);
  const std::string csv = runs_to_csv(record);
  auto here = record;
  here[1].notes = "changed here";
  here[2].notes = "changed here";
  auto there = record;
  there[2].notes = "changed there";
  there[3].notes = "changed there";
  // The table's own cells with what was said when it was written.
  CsvRows rows = csv_rows(runs_to_csv(there));
  const CsvRows before = csv_rows(csv);
  const auto exported = static_cast<std::size_t>(std::ranges::find(rows[0], "exported") - rows[0].begin());
  for (std::size_t r = 1; r < rows.size(); ++r) rows[r][exported] = before[r][exported];
  const RunImport read = read_runs(joined(rows, ",", "\n", in_marks), here);
  EXPECT_EQ(read.same, 2u) << "the first, and the one that changed here only";
  ASSERT_EQ(read.updated.size(), 1u);
  EXPECT_EQ(read.updated[0].index, 3u);
  ASSERT_EQ(read.both.size(), 1u);
  EXPECT_EQ(read.both[0].index, 2u);
  EXPECT_EQ(merged(here, read, {false})[2].notes, "changed here");
  EXPECT_EQ(merged(here, read, {true})[2].notes, "changed there");
  EXPECT_EQ(merged(here, read, {false})[1].notes, "changed here");
}

TEST(runs, a_row_without_identity_is_compared_by_what_it_says_and_a_copied_row_is_a_new_run) {
  const auto record = random_record(3, 9);
  CsvRows rows = csv_rows(runs_to_csv(record));
  const auto id = static_cast<std::size_t>(std::ranges::find(rows[0], "id") - rows[0].begin());
  rows[1][id].clear();
  rows.push_back(rows[2]);
  const auto notes = static_cast<std::size_t>(std::ranges::find(rows[0], "notes") - rows[0].begin());
  rows.back()[notes] = "the same again";
  const RunImport read = read_runs(joined(rows, ",", "\n", in_marks), record);
  EXPECT_EQ(read.same, 3u);
  ASSERT_EQ(read.added.size(), 1u);
  EXPECT_EQ(read.added[0].notes, "the same again");
  EXPECT_NE(read.added[0].id, record[1].id);
  const auto after = merged(record, read, {});
  EXPECT_EQ(read_runs(joined(rows, ",", "\n", in_marks), after).same, 4u) << "taken in once";
}

TEST(runs, own_columns_are_kept_and_an_emptied_cell_takes_its_number_away) {
  auto record = random_record(1, 3);
  settle_run(record[0]); // as every run that is kept
  const RunImport read = read_runs("id;weather;arc_length_m\n" + record[0].id + ";damp;\n", record);
  const auto& changed = read.both.empty() ? read.updated : read.both;
  ASSERT_EQ(changed.size(), 1u);
  EXPECT_EQ(changed[0].run.columns.at("weather"), "damp");
  EXPECT_FALSE(changed[0].run.observations.contains("arc_length_m"));
  EXPECT_EQ(changed[0].run.conditions, record[0].conditions) << "a column that is not there says nothing";
  EXPECT_THAT(runs_to_csv({changed[0].run}), HasSubstr(",weather\r\n"));
}

TEST(runs, columns_may_move_and_be_missing) {
  const auto runs =
      read_runs("\xEF\xBB\xBFnotes,when,arc_length_m\r\nhot,2026-01-01,0.3\n,2026-01-02,\n", {}).added;
  ASSERT_EQ(runs.size(), 2u);
  EXPECT_EQ(runs[0].notes, "hot");
  EXPECT_DOUBLE_EQ(runs[0].observations.at("arc_length_m"), 0.3);
  EXPECT_TRUE(runs[1].observations.empty());
  EXPECT_TRUE(std::regex_match(runs[0].id, std::regex("[a-f][0-9a-f]{11}"))) << runs[0].id;
}

TEST(runs, dates_are_read_as_spreadsheets_write_them) {
  const auto when = [](const std::string& text) {
    return read_runs("when;notes\n" + text + ";x\n", {}).added.at(0).when;
  };
  EXPECT_EQ(when("2026-11-30 13:47"), "2026-11-30T13:47");
  EXPECT_EQ(when("30.11.2026 13:47:05"), "2026-11-30T13:47:05");
  EXPECT_EQ(when("30.11.26"), "2026-11-30");
  EXPECT_EQ(when("2026/11/30 9:05"), "2026-11-30T09:05");
  EXPECT_EQ(when("11/30/2026 1:47 PM"), "2026-11-30T13:47");
  EXPECT_EQ(when("30/11/2026 12:00"), "2026-11-30T12:00");
  EXPECT_EQ(when("05.04.2026 20:15"), "2026-04-05T20:15");
  EXPECT_EQ(when("last winter"), "last winter");
  EXPECT_THAT(runs_refusal("when,notes\n04/05/2026,x\n"),
              HasSubstr("can be two dates; write 2026-05-04 or 2026-04-05"));
  EXPECT_EQ(read_runs("when,notes\n04/05/2026,x\n31/05/2026,y\n", {}).added[0].when, "2026-05-04")
      << "by its fellow";
}

TEST(runs, numbers_are_read_with_point_or_comma) {
  const auto arc_m = [](const std::string& head, const std::string& cell) {
    return read_runs(head + cell + "\n", {}).added.at(0).observations.at("line_current_a");
  };
  EXPECT_DOUBLE_EQ(arc_m("when;line_current_a\nx;", "0,9"), 0.9);
  EXPECT_DOUBLE_EQ(arc_m("when;line_current_a\nx;", "1,234"), 1.234);
  EXPECT_DOUBLE_EQ(arc_m("when,line_current_a\nx,", "\"0,9\""), 0.9);
  EXPECT_DOUBLE_EQ(arc_m("when,line_current_a\nx,", "+4.5E-1"), 0.45);
  EXPECT_DOUBLE_EQ(arc_m("sep=;\nwhen;line_current_a\nx;", "2.5"), 2.5);
  EXPECT_THAT(runs_refusal("when,line_current_a\nx,\"1,234\"\n"), HasSubstr("it could be two"));
}

TEST(runs, a_bad_csv_is_refused_by_row_and_column) {
  EXPECT_THAT(runs_refusal(""), HasSubstr("empty"));
  EXPECT_THAT(runs_refusal("a,b\n1,2\n"), HasSubstr("no column “when”"));
  EXPECT_THAT(runs_refusal("when,colour,colour\n1,red,red\n"), HasSubstr("“colour” stands twice"));
  EXPECT_THAT(runs_refusal("when,arc_length_m\nx,long\n"),
              HasSubstr("row 2, column arc_length_m: “long” is not a number"));
  EXPECT_THAT(runs_refusal("when,arc_length_m\nx,-2\n"), HasSubstr("outside of 0 to 50"));
  EXPECT_THAT(runs_refusal("when,arc_length_m\nx,nan\n"), HasSubstr("not a number"));
  EXPECT_THAT(runs_refusal("when,arc_length_m\nx,1,2\n"), HasSubstr("row 2: 3 cells where the header has 2"));
  EXPECT_THAT(runs_refusal("when,notes\nx,\"never closed\n"), HasSubstr("cut off"));
}

TEST(runs, a_run_at_another_variac_setting_gets_a_design_of_its_own_and_its_own_power) {
  Design d = demo_design();
  const Analysis a = analyse(d);
  const std::atomic<bool> no{false};
  PowerOptions options;
  options.advice = options.variac = options.waveforms = false;
  const PowerAnalysis power = analyse_power(d, a, options, UnitSystem::metric, no);
  arc::Run full = begin_run(d, a, &power, "2026-05-01T20:00:00");
  EXPECT_DOUBLE_EQ(full.conditions.at("simulated_power_w"), round_significant(power.drive.input_w, 12));
  settle_run(full);
  const double setting = full.observations.at("variac_percent");
  EXPECT_FALSE(lacks_simulation(full)) << "as in the design";
  arc::Run lower = full;
  lower.observations["variac_percent"] = 0.8 * setting;
  settle_run(lower);
  EXPECT_TRUE(lacks_simulation(lower));
  EXPECT_FALSE(lower.fired_with == full.fired_with);
  Kept kept;
  const auto figures = simulate_run(lower, {no, {}, kept});
  EXPECT_LT(figures.at("simulated_power_w"), 0.95 * power.drive.input_w);
  EXPECT_GT(figures.at("simulated_line_a"), 0);
  std::vector<arc::Run> record{lower, full, lower};
  simulate_runs(record, {no, {}, kept});
  for (const std::size_t i : {0U, 2U})
    EXPECT_DOUBLE_EQ(record[i].conditions.at("simulated_power_w"), figures.at("simulated_power_w"));
  EXPECT_EQ(record[1].conditions, full.conditions) << "it knew its own";
  const Design back = design_of(lower, d);
  EXPECT_TRUE(back.runs == d.runs);
  const auto variac = std::ranges::find(back.feed.get(), "variac", &FeedBlock::kind);
  ASSERT_NE(variac, back.feed.get().end());
  EXPECT_NEAR(100 * variac->values.at("setting"), 0.8 * setting, 1e-9);
}

TEST(runs, designs_are_kept_once_each_and_survive_the_file) {
  Design d = demo_design();
  d.runs = random_record(40, 12);
  for (arc::Run& run : d.runs.own()) share_design(run, d.runs);
  const std::string text = write_design(d);
  const Json json = Json::parse(text);
  EXPECT_EQ(json["designs"].size(), 7u);
  for (const Json& design : json["designs"]) EXPECT_FALSE(design.contains("runs"));
  const Design again = read_design(text);
  EXPECT_TRUE(again == d);
  EXPECT_EQ(write_design(again), text);
  std::set<const Design*> different;
  for (const arc::Run& run : again.runs) different.insert(run.fired_with.get());
  EXPECT_EQ(different.size(), 7u);
}

TEST(runs, a_bad_design_of_a_run_is_refused_with_its_place) {
  Design d = demo_design();
  d.runs = random_record(1, 2);
  const auto refusal = [&](const std::function<void(Json&)>& spoil) {
    Json json = Json::parse(write_design(d));
    spoil(json);
    try {
      read_design(json.dump(1));
    } catch (const DesignFileError& error) {
      return std::string(error.what());
    }
    return std::string("accepted");
  };
  EXPECT_THAT(refusal([](Json& j) { j["runs"][0]["design"] = 4; }), HasSubstr("runs[0].design (line"));
  EXPECT_THAT(refusal([](Json& j) { j["runs"][0]["design"] = "first"; }), HasSubstr("from 0"));
  EXPECT_THAT(refusal([](Json& j) { j["designs"][0]["secondary"]["turns"] = "many"; }),
              HasSubstr("designs[0].secondary.turns (line"));
  EXPECT_THAT(refusal([](Json& j) { j["designs"][0]["runs"] = Json::array(); }), HasSubstr("designs[0].runs"));
  EXPECT_THAT(refusal([](Json& j) { j["designs"] = 3; }), HasSubstr("expected a list"));
  EXPECT_THAT(refusal([](Json& j) { j["runs"][0]["columns"] = {{"a", 1}}; }), HasSubstr("runs[0].columns.a"));
}

TEST(runs, what_varied_most_is_found_among_the_settings) {
  std::vector<arc::Run> runs;
  for (int i = 0; i < 6; ++i) {
    arc::Run run;
    run.conditions = {{"tap_turns", 8.0}, {"primary_height_m", 0.3 + 0.01 * i}, {"power_w", 900.0 + 200 * i}};
    run.observations = {{"arc_length_m", 0.3 + 0.05 * i}, {"duration_s", 10.0 * i * i}};
    runs.push_back(run);
  }
  const CoilKind& kind = *coil_kind("spark-gap");
  const RunField& arc_length = *find_run_field("arc_length_m");
  EXPECT_EQ(varied_most(runs, arc_length, kind), "power_w");
  for (arc::Run& run : runs) run.conditions["power_w"] = 900;
  EXPECT_EQ(varied_most(runs, arc_length, kind), "primary_height_m");
  for (arc::Run& run : runs) run.conditions["primary_height_m"] = 0.3;
  EXPECT_EQ(varied_most(runs, arc_length, kind), "");
}

TEST(runs, comparison_marks_what_differed) {
  const Design d = demo_design();
  const auto list = compare_runs(d.runs[6], d.runs[7], UnitSystem::metric);
  const auto by_label = [&](const std::string& label) {
    const auto it = std::ranges::find(list, label, &RunDifference::label);
    EXPECT_NE(it, list.end()) << label;
    return *it;
  };
  EXPECT_TRUE(by_label("Tap at turn").differs);
  EXPECT_TRUE(by_label("Arc length").differs);
  EXPECT_FALSE(by_label("Tank capacitance").differs);
  EXPECT_EQ(by_label("Arc length").second, "430 mm");
}

TEST(runs, designs_of_two_runs_are_compared_by_what_is_computed_of_them_too) {
  Design d = demo_design();
  Kept kept;
  const arc::Run low = begin_run(d, analyse(d), nullptr, "2026-05-01T20:00:00");
  d.primary.base_height_m += 0.03;
  const arc::Run high = begin_run(d, analyse(d), nullptr, "2026-05-01T20:10:00");
  EXPECT_TRUE(compare_figures(low, low, UnitSystem::metric, kept).empty());
  const auto list = compare_figures(low, high, UnitSystem::metric, kept);
  const auto told = [&](const std::string& title) {
    return std::ranges::find(list, "Computed: " + title, &RunDifference::label);
  };
  for (const Figure* figure : figures_at_rest(kind_of(d))) {
    const bool moves = told(std::string(figure->title)) != list.end();
    if (figure->key == "coupling" || figure->key == "wire_mass_kg") {
      EXPECT_EQ(moves, figure->key == "coupling") << "a higher primary couples otherwise, the wire stayed";
    }
  }
  for (const RunDifference& line : list) {
    EXPECT_TRUE(line.differs);
    EXPECT_FALSE(line.first.empty() || line.second.empty()) << line.label;
  }
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
