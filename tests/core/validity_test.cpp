// One validity for every way into a design, and what becomes of numbers outside of it.
#include "analysis/analyse.h"
#include "analysis/sampling.h"
#include "circuit/deck.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "crafts/spark_gap/charging.h"
#include "crafts/spark_gap/shot.h"
#include "evidence/doubt.h"
#include "evidence/tolerance.h"
#include "evidence/tuning.h"
#include "file/validity.h"
#include "model/fields.h"
#include "parts/profile_import.h"
#include "quantity/csv_rows.h"
#include "simulation/figures.h"
#include "support.h"
#include "workshop/bank_search.h"
#include "workshop/run_table.h"
#include "workshop/runs.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <thread>

using namespace arc;
using testing::HasSubstr;

namespace {

std::string design_refusal(const std::string& text) {
  try {
    read_design(text);
  } catch (const DesignFileError& error) {
    return error.what();
  }
  return "accepted";
}

// The first demo whose kind the field counts for.
Design one_with(const FieldSpec& field) {
  const std::string_view group = field.key.substr(0, field.key.find('.'));
  for (const char* name : {"quiet-lantern", "paper-moth", "copper-heron", "glass-willow", "candle-reed"}) {
    Design d = read_design(read_text(std::string(HIGH_ARC_EXAMPLES "/") + name + ".json"));
    if (std::ranges::count(kind_of(d).groups, group) > 0) return d;
  }
  return demo_design();
}

TEST(validity, a_number_out_of_its_range_opens_with_a_finding_and_its_remedy_settles_it) {
  for (const FieldSpec& field : design_fields()) {
    Design d = one_with(field);
    field.set(d, field.maximum * 5);
    if (field.key == "tank.capacitance_f") d.tank.given_as = TankGiven::one_value;
    const Design opened = read_design(write_design(d));
    const Analysis a = analyse(opened);
    ASSERT_FALSE(a.computed) << field.key;
    ASSERT_EQ(a.findings.size(), 1u) << field.key;
    const Finding& f = a.findings.front();
    EXPECT_EQ(f.field, field.key);
    EXPECT_THAT(f.title, HasSubstr("outside of"));
    for (const Figure* r : figures_at_rest(kind_of(opened)))
      EXPECT_EQ(value_text(*r, at_rest(opened, a), UnitSystem::metric), "–") << r->key;
    Design mended = opened;
    f.apply(mended);
    EXPECT_TRUE(numbers_out_of_range(mended).empty()) << field.key;
    if (field.key.find("bleed") == std::string_view::npos) { // of a bleeder it is what bleeds in time
      EXPECT_EQ(*field.get(mended), field.maximum) << field.key;
    }
  }
}

TEST(validity, what_is_absurd_or_negative_is_refused_with_key_and_line) {
  const std::string good = write_design(demo_design());
  const auto with = [&](const std::string& from, const std::string& to) {
    std::string text = good;
    text.replace(text.find(from), from.size(), to);
    return design_refusal(text);
  };
  EXPECT_THAT(with("\"turns\": 1030.0", "\"turns\": -3"), HasSubstr("secondary.turns (line"));
  EXPECT_THAT(with("\"turns\": 1030.0", "\"turns\": 1e12"), HasSubstr("outside of 2 to 20000"));
  EXPECT_THAT(with("\"name\": ", "\"name\": \"a\", \"name\": "), HasSubstr("stands here twice"));
  EXPECT_THAT(with("\"version\": 1", "\"version\": 4294967297"), HasSubstr("newer High Arc"));
  EXPECT_THAT(with("\"version\": 1", "\"version\": 1e300"), HasSubstr("whole number"));
}

TEST(validity, deep_and_crowded_files_are_refused_before_they_cost_anything) {
  const auto deep = [](int levels) {
    return R"({"format":"high-arc-design","version":1,"secondary":)" +
           std::string(static_cast<std::size_t>(levels), '[') + std::string(static_cast<std::size_t>(levels), ']') +
           "}";
  };
  for (const int levels : {50, 20000, 1000000}) {
    EXPECT_THAT(design_refusal(deep(levels)), HasSubstr("secondary: lists or objects nested more than 40 deep"));
    std::string unknown = deep(levels);
    unknown.replace(unknown.find("secondary"), 9, "future");
    EXPECT_THAT(design_refusal(unknown), HasSubstr("nested"));
  }
  std::string keys = R"({"format":"high-arc-design","version":1)";
  for (int i = 0; i < 2000; ++i) keys += fmt::format(",\"k{}\":1", i);
  EXPECT_THAT(design_refusal(keys + "}"), HasSubstr("more than 1000 keys"));
  std::string svg = "<svg xmlns=\"http://www.w3.org/2000/svg\">";
  for (int i = 0; i < 20000; ++i) svg += "<g>";
  EXPECT_THROW(profile_from_svg(svg), ProfileError);
  EXPECT_THROW(
      profile_from_svg(
          R"(<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 A 1e308 1e-308 45 1 1 50 50 L0 60"/></svg>)"),
      ProfileError);
}

TEST(validity, more_than_can_be_kept_is_refused_by_name) {
  Design d = demo_design();
  d.topload = std::vector<ToploadPart>(most_topload_parts + 1, d.topload[0]);
  EXPECT_THAT(unreadable(d)->text, HasSubstr("at most 50"));
  d = demo_design();
  d.topload[0].shape = "profile";
  d.topload[0].points_m.resize(most_profile_points + 1);
  EXPECT_EQ(unreadable(d)->path, "topload[0].points_m");
  EXPECT_THAT(design_refusal(write_design(d)), HasSubstr("at most 400"));
  d = demo_design();
  d.tolerances["moonlight"] = 0.1;
  EXPECT_THAT(design_refusal(write_design(d)), HasSubstr("known: form_diameter"));
  d = demo_design();
  d.site.grounded_conductors = {"neighbour"};
  EXPECT_THAT(design_refusal(write_design(d)), HasSubstr("known: primary, strike-ring"));
}

TEST(validity, tolerances_beyond_what_an_input_can_lose_never_leave_a_result_below_zero) {
  Design d = demo_design();
  d.primary.tap_turns = 0.3;
  for (const ToleranceInput& input : tolerance_inputs()) d.tolerances[std::string(input.key)] = largest_tolerance;
  const Analysis a = analyse(d);
  for (const auto& [key, band] : a.band) EXPECT_TRUE(std::isfinite(band)) << key;
  const SamplingResult samples = sample_tolerances(d, 40, 3, 2, never);
  EXPECT_GT(samples.refused, 0);
  for (const SampledBand& band : samples.bands) EXPECT_GT(band.low, 0) << band.key;
}

TEST(validity, a_measurement_ten_times_off_is_left_out_and_said) {
  Design d = demo_design();
  d.measurements.clear();
  const double computed = analyse(d).resonator->mode_1_hz;
  d.measurements.push_back(measured("winding-inductance", analyse(d).secondary_inductance_h * 10));
  const Analysis a = analyse(d);
  EXPECT_FALSE(a.evidence[0].used);
  expect_close(a.best_mode_1_hz, computed, 1e-9);
  EXPECT_NE(find(a, "measured-disagrees"), nullptr);
}

TEST(validity, a_conductor_thicker_than_its_ring_is_named_and_gives_no_number) {
  Design d = demo_design();
  d.primary.conductor_diameter_m = 0.1;
  d.primary.inner_radius_m = 0.03;
  const Analysis a = analyse(d);
  EXPECT_THAT(a.problem, HasSubstr("thicker than its innermost turn"));
  EXPECT_EQ(value_text(figure_at_rest("coupling"), at_rest(d, a), UnitSystem::metric), "–");
}

TEST(decks, a_name_is_one_harmless_line_whatever_was_typed) {
  Design d = demo_design();
  d.name = "Q\n.control\nshell touch owned\nquit\n.endc\n*";
  const Analysis a = analyse(d);
  const ShotCircuit circuit = shot_circuit(d, a, {});
  for (const std::string& deck : {charging_netlist(d, {}), shot_netlist(circuit, {}, {}, d.name)}) {
    EXPECT_EQ(deck.find(".control"), std::string::npos);
    EXPECT_EQ(deck.find("\nshell"), std::string::npos);
    EXPECT_TRUE(deck.starts_with("* Q"));
    EXPECT_NE(deck.find('\n'), std::string::npos);
  }
  EXPECT_EQ(deck_title("Ümlaut; rm -rf", "x"), "*   mlaut  rm -rf: x, written by High Arc\n");
}

TEST(tables, cells_that_a_spreadsheet_would_run_are_disarmed_and_read_back_equal) {
  std::vector<arc::Run> runs;
  for (const char* text : {"=1+1", "+cmd", "-2", "@sum", "'=1", "''-x", "plain", "it's", "\ttab", "'", ""}) {
    arc::Run run;
    run.id = new_run_id();
    run.when = "2026-01-02T03:04:05";
    run.notes = text;
    runs.push_back(run);
  }
  const std::string table = runs_to_csv(runs);
  EXPECT_TRUE(read_runs(table, {}).added == runs);
  for (const auto& row : csv_rows(table))
    for (const std::string& cell : row)
      EXPECT_TRUE(cell.empty() || std::string("=+@\t").find(cell[0]) == std::string::npos) << cell;
}

TEST(doubt, a_slip_of_ten_or_a_thousand_is_asked_about_and_a_plausible_value_is_not) {
  const Design d = demo_design();
  const Analysis a = analyse(d);
  const auto ask = [&](double f) {
    return doubt_about("tank.capacitance_f", Dimension::capacitance, f, d, a, UnitSystem::metric);
  };
  EXPECT_FALSE(ask(12e-9));
  EXPECT_FALSE(ask(20e-9));
  ASSERT_TRUE(ask(12e-6));
  EXPECT_NEAR(ask(12e-6)->meant, 12e-9, 1e-15);
  EXPECT_NEAR(ask(12e-12)->meant, 12e-9, 1e-15);
  EXPECT_NEAR(ask(130e-9)->meant, 13e-9, 1e-15);
}

TEST(bank_search, a_shelf_of_thousands_ends_soon_with_the_simple_banks_and_says_what_it_left_out) {
  std::vector<ShelfCapacitor> parts;
  for (int i = 0; i < 60; ++i) {
    ShelfCapacitor c;
    c.name = fmt::format("part {}", i);
    c.capacitance_f = (1 + 0.03 * i) * 1e-10;
    c.voltage_v = 15000;
    c.count = 4000;
    parts.push_back(c);
  }
  bool left_out = false;
  const auto banks = find_banks(parts, {12e-9, 10000, 0.8, 0.05, 10}, nullptr, &left_out);
  EXPECT_TRUE(left_out);
  ASSERT_EQ(banks.size(), 10u);
  EXPECT_EQ(banks.front().strings.size(), 1u);
  std::atomic<bool> cancelled{true};
  EXPECT_TRUE(find_banks(parts, {12e-9, 10000, 0.8, 0.05, 10}, &cancelled).empty());
}

TEST(quantities, what_builders_write_on_parts_is_understood) {
  const auto read = [](const char* text, Dimension d, double like = 0) {
    const ParseResult r = parse_quantity(text, d, UnitSystem::metric, like);
    const double* value = std::get_if<double>(&r);
    return value ? *value : std::nan("");
  };
  EXPECT_NEAR(read("154J", Dimension::capacitance), 150e-9, 1e-15); // IEC 60062
  EXPECT_NEAR(read("479K", Dimension::capacitance), 4.7e-12, 1e-18);
  EXPECT_NEAR(read("u15", Dimension::capacitance), 0.15e-6, 1e-15);
  EXPECT_NEAR(read("n47", Dimension::capacitance), 0.47e-9, 1e-18);
  EXPECT_NEAR(read("R22", Dimension::resistance), 0.22, 1e-12);
  EXPECT_NEAR(read("1500 rpm", Dimension::frequency), 25, 1e-12);
  EXPECT_NEAR(read("3", Dimension::time, 150), 180, 1e-9) << "150 s is shown as 2.5 min";
  EXPECT_NEAR(read("1.3", Dimension::length, 1.2), 1.3, 1e-12) << "1.2 m is shown in metres";
  EXPECT_NEAR(read("110.5", Dimension::frequency, 226e3), 110.5e3, 1e-6);
}

TEST(quantities, bands_and_values_end_at_their_meaningful_digits) {
  const auto text = [](double value, double band, Dimension d) {
    const BandedText t = format_banded(value, band, d, UnitSystem::metric);
    return t.value + " " + t.band;
  };
  EXPECT_EQ(text(0.122041, 6.2e-5, Dimension::number), "0.12204 ± 0.00006");
  EXPECT_EQ(text(0.1263, 0.0042, Dimension::number), "0.1263 ± 0.0042");
  EXPECT_EQ(text(226.1e3, 1.13e3, Dimension::frequency), "226.1 kHz ± 1.1");
  EXPECT_EQ(text(1.2e-8, 1e-15, Dimension::capacitance), "12.000 nF ± 0.001");
  EXPECT_EQ(format_entry(19.9990001e-9, Dimension::capacitance, UnitSystem::metric), "20 nF");
  EXPECT_EQ(format_entry(0.5e-3, Dimension::length, UnitSystem::inch), "0.01969 in");
  EXPECT_EQ(format_entry(1.2345, Dimension::length, UnitSystem::metric), "1.2345 m");
  EXPECT_EQ(format_quantity(1e-320, Dimension::voltage), "1e-320 V");
}

} // namespace
