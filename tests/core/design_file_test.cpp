// The design file: round trips, unknown keys, migration, and every kind of broken file.
#include "craft/design_fields.h"
#include "model/fields.h"
#include "support.h"

#include <array>
#include <nlohmann/json.hpp>
#include <random>

using namespace arc;
using testing::HasSubstr;

namespace {

std::string minimal() {
  return R"({"format":"high-arc-design","version":1,"name":"m","kind":"spark-gap",
 "secondary":{"form_diameter_m":0.1,"turns":900,"winding_length_m":0.4,"wire_bare_diameter_m":0.0004,
              "wire_overall_diameter_m":0.00044,"base_height_m":0.3},
 "primary":{"shape":"flat","inner_radius_m":0.08,"pitch_m":0.012,"turns":10,"conductor_diameter_m":0.006,
            "base_height_m":0.3,"tap_turns":8},
 "tank":{"capacitance_f":1e-8}})";
}

DesignFileError refusal(const std::string& text) {
  try {
    read_design(text);
  } catch (const DesignFileError& error) {
    return error;
  }
  ADD_FAILURE() << "accepted: " << text.substr(0, 200);
  return {"", "", 0};
}

std::string with(std::string text, const std::string& from, const std::string& to) {
  const auto at = text.find(from);
  EXPECT_NE(at, std::string::npos) << from;
  return text.replace(at, from.size(), to);
}

Design random_design(unsigned seed) {
  std::mt19937 random(seed);
  Design d;
  for (const FieldSpec& field : design_fields()) {
    if (field.nullable && random() % 2) {
      field.set(d, std::nullopt);
      continue;
    }
    double value =
        field.minimum + (field.maximum - field.minimum) * std::uniform_real_distribution<double>(0, 1)(random);
    if (field.dimension == Dimension::count) value = std::floor(value);
    field.set(d, value);
  }
  d.tank.capacitance_f = d.tank.unit_capacitance_f
                             ? *d.tank.unit_capacitance_f * d.tank.units_in_parallel / d.tank.units_in_series
                             : d.tank.capacitance_f;
  ToploadPart part;
  part.outer_diameter_m = 0.5;
  part.tube_diameter_m = 0.1;
  d.topload.push_back(part);
  part = {};
  part.shape = "profile";
  part.points_m = {{0, 0.1}, {0.1, 0.1}, {0.1, 0.2}, {0, 0.2}};
  d.topload.push_back(part);
  d.measurements.push_back(measured("tank", 2.2e5, 9.5));
  d.measurements.back().note = "note “quoted”, with, commas\nand a line";
  arc::Run run;
  run.when = "2026-01-02T03:04:05";
  run.conditions = {{"tap_turns", 9.5}};
  run.observations = {{"arc_length_m", 0.41}};
  run.notes = "ümlaut";
  d.runs.push_back(run);
  d.tolerances = {{"turns", 0.04}};
  d.tune_target = random() % 2 ? TuneTarget::loaded_coil : TuneTarget::silent_coil;
  return d;
}

TEST(design_file, what_is_written_is_read_back_exactly) {
  for (unsigned seed = 0; seed < 200; ++seed) {
    const Design design = random_design(seed);
    EXPECT_EQ(read_design(write_design(design)), design) << "seed " << seed;
  }
}

TEST(design_file, keys_of_the_future_survive_a_round_trip) {
  std::string text =
      with(minimal(), "\"name\":\"m\"", "\"name\":\"m\",\"colour\":{\"top\":\"red\",\"list\":[1,2]}");
  text = with(text, "\"turns\":900", "\"turns\":900,\"varnish_coats\":3");
  text =
      with(text,
           "\"tank\":", "\"topload\":[{\"shape\":\"sphere\",\"diameter_m\":0.2,\"finish\":\"brushed\"}],\"tank\":");
  const Json again = Json::parse(write_design(read_design(text)));
  EXPECT_EQ(again["colour"], Json::parse(R"({"top":"red","list":[1,2]})"));
  EXPECT_EQ(again["secondary"]["varnish_coats"], 3);
  EXPECT_EQ(again["topload"][0]["finish"], "brushed");
}

TEST(design_file, absent_site_keys_mean_a_floor_and_nothing_else) {
  const Design d = read_design(minimal());
  EXPECT_FALSE(d.site.ceiling_height_m);
  EXPECT_TRUE(d.site.grounded_conductors.empty());
  EXPECT_EQ(read_design(with(minimal(), "\"tank\":", "\"site\":{\"ceiling_height_m\":null},\"tank\":"))
                .site.ceiling_height_m,
            std::nullopt);
}

TEST(design_file, every_broken_file_is_refused_with_place_and_remedy) {
  struct Broken {
    std::string text;
    const char* expected;
  };
  const std::string good = minimal();
  const std::array broken{
      Broken{"", "empty"},
      Broken{"   \n", "empty"},
      Broken{"hello", "not valid JSON"},
      Broken{good.substr(0, good.size() / 2), "cut off"},
      Broken{with(good, "900", "NaN"), "line 2"},
      Broken{with(good, "900", "\"many\""), "secondary.turns (line 2): expected a number, found \"many\""},
      Broken{with(good, "0.4,", "-0.4,"),
             "secondary.winding_length_m (line 2): Winding length of -400 mm is outside of 3 mm to 20 m"},
      Broken{with(good, "1e-8", "1e999"), "too large"},
      Broken{with(good, "high-arc-design", "something-else"), "not a High Arc design"},
      Broken{with(good, "\"version\":1", "\"version\":99"), "newer High Arc"},
      Broken{with(good, "\"version\":1", "\"version\":\"one\""), "whole number"},
      Broken{with(good, "flat", "square"),
             "primary.shape (line 4): “square” is not known; known: flat, helix, cone"},
      Broken{with(good, "spark-gap", "laser"), "kind (line 1)"},
      Broken{with(good, "\"tank\":{\"capacitance_f\":1e-8}", "\"tank\":7"), "tank (line 6): expected an object"},
      Broken{with(good, "\"tank\":", "\"topload\":[{\"shape\":\"cube\"}],\"tank\":"), "topload[0].shape"},
      Broken{with(good, "\"tank\":", "\"topload\":[{\"shape\":\"sphere\"}],\"tank\":"), "topload[0].diameter_m"},
      Broken{with(good, "\"tank\":", "\"topload\":{},\"tank\":"), "expected a list"},
      Broken{with(good, "\"tank\":", "\"runs\":[{\"observations\":{\"arc_length_m\":\"long\"}}],\"tank\":"),
             "runs[0].observations.arc_length_m"},
      Broken{with(good, "\"tank\":", "\"measurements\":[{\"kind\":\"guess\",\"frequency_hz\":1}],\"tank\":"),
             "measurements[0].kind"},
      Broken{with(good, "\"tank\":", "\"tolerances\":{\"turns\":-7},\"tank\":"),
             "tolerances.turns (line 6): Tolerance of -7 is outside of 0 to 0.5"},
      Broken{"[]", "one JSON object"},
      Broken{std::string(200000, '['), "nested more than 40 deep"},
      Broken{"\xff\xfe\x00 binary", "not valid JSON"},
  };
  for (const Broken& item : broken)
    EXPECT_THAT(refusal(item.text).what(), HasSubstr(item.expected)) << item.text.substr(0, 120);
}

TEST(design_file, a_refusal_carries_path_and_line) {
  const auto error = refusal(with(minimal(), "0.012", "-1"));
  EXPECT_EQ(error.path(), "primary.pitch_m");
  EXPECT_EQ(error.line(), 4);
}

TEST(design_file, cutting_the_file_anywhere_never_crashes_or_half_reads) {
  const std::string text = write_design(demo_design());
  for (std::size_t size = 0; size < text.size() - 2; size += 7)
    EXPECT_THROW(read_design(text.substr(0, size)), DesignFileError);
}

TEST(design_file, a_flipped_byte_is_refused_or_read_but_never_crashes) {
  const std::string text = write_design(demo_design());
  std::mt19937 random(9);
  int read = 0;
  for (int i = 0; i < 2000; ++i) {
    std::string bad = text;
    bad[random() % bad.size()] = static_cast<char>(random() % 256);
    try {
      read_design(bad);
      ++read;
    } catch (const DesignFileError& error) {
      EXPECT_FALSE(std::string(error.what()).empty());
    }
  }
  EXPECT_GT(read, 0);
  EXPECT_LT(read, 2000);
}

TEST(design_file, older_versions_migrate_step_by_step) {
  const std::array steps{Migration{1, [](Json& d) { d["b"] = d["a"]; }},
                         Migration{2, [](Json& d) { d.erase("a"); }}};
  Json document{{"version", 1}, {"a", 5}};
  migrate(document, steps, 3);
  EXPECT_EQ(document, (Json{{"version", 3}, {"b", 5}}));
  Json current{{"version", 3}};
  migrate(current, steps, 3);
  EXPECT_EQ(current["version"], 3);
}

TEST(design_file, the_shipped_example_is_in_the_current_form) {
  EXPECT_EQ(write_design(demo_design()), read_text(HIGH_ARC_EXAMPLES "/quiet-lantern.json"));
}

TEST(fields, every_field_reads_back_what_was_set) {
  Design d;
  for (const FieldSpec& field : design_fields()) {
    const double value = field.dimension == Dimension::count ? 3 : (field.minimum + field.maximum) / 2;
    field.set(d, value);
    EXPECT_EQ(field.get(d), value) << field.key;
    EXPECT_EQ(range_problem(field, value), "");
    EXPECT_NE(range_problem(field, field.maximum * 2 + 1), "") << field.key;
    EXPECT_NE(range_problem(field, NAN), "") << field.key;
  }
  EXPECT_THAT(range_problem(design_field("tank.units_in_series"), 2.5), HasSubstr("whole number"));
  EXPECT_THROW(design_field("no.such"), std::out_of_range);
}

} // namespace
