// Files that were cut off, scrambled or written by somebody else: always one clear complaint or a whole result,
// never a crash and never half a design. Seeded mutations of the shipped demo and of every other format that is
// read.
#include "analysis/analyse.h"
#include "parts/profile_import.h"
#include "quantity/csv_rows.h"
#include "quantity/quantity.h"
#include "support.h"
#include "workshop/run_table.h"
#include "workshop/shelf.h"

#include <nlohmann/json.hpp>
#include <random>

using namespace arc;

namespace {

std::string demo_text() {
  return read_text(HIGH_ARC_EXAMPLES "/quiet-lantern.json");
}

// Counts what `read` accepts and refuses; any other exception fails the test.
template <typename Error, typename Read>
std::pair<int, int> outcomes(const std::vector<std::string>& texts, Read read) {
  int accepted = 0, refused = 0;
  for (const std::string& text : texts) {
    try {
      read(text);
      ++accepted;
    } catch (const Error& error) {
      EXPECT_STRNE(error.what(), "");
      ++refused;
    }
  }
  return {accepted, refused};
}

std::vector<std::string> cut_off(const std::string& whole, std::size_t step) {
  std::vector<std::string> out;
  for (std::size_t n = 0; n + 2 < whole.size(); n += step) out.push_back(whole.substr(0, n));
  return out;
}

std::vector<std::string> scrambled(const std::string& whole, int count, unsigned seed) {
  std::mt19937 random(seed);
  std::uniform_int_distribution<std::size_t> place(0, whole.size() - 1);
  const std::string spice = "0123456789-+.eE\"{}[],:nulltrueNaN \n\xC3\xFF";
  std::uniform_int_distribution<std::size_t> grain(0, spice.size() - 1);
  std::vector<std::string> out;
  for (int i = 0; i < count; ++i) {
    std::string text = whole;
    for (int k = 0; k < 1 + i % 4; ++k) {
      const std::size_t at = place(random);
      if (i % 3 == 0)
        text.erase(std::min(at, text.size() - 1), 1);
      else if (i % 3 == 1)
        text.insert(std::min(at, text.size()), 1, spice[grain(random)]);
      else
        text[std::min(at, text.size() - 1)] = spice[grain(random)];
    }
    out.push_back(std::move(text));
  }
  return out;
}

TEST(broken_designs, every_cut_off_file_is_refused) {
  const auto texts = cut_off(demo_text(), 37);
  const auto [accepted, refused] = outcomes<DesignFileError>(texts, [](const std::string& t) { read_design(t); });
  EXPECT_EQ(accepted, 0);
  EXPECT_EQ(refused, static_cast<int>(texts.size()));
}

TEST(broken_designs, scrambled_files_are_refused_or_read_whole) {
  const auto texts = scrambled(demo_text(), 400, 41);
  const auto [accepted, refused] = outcomes<DesignFileError>(texts, [](const std::string& t) {
    const Design d = read_design(t);
    EXPECT_EQ(read_design(write_design(d)), d) << "what is accepted can be written and read again";
  });
  EXPECT_GT(refused, 200);
  EXPECT_GT(accepted, 10) << "a changed digit or letter is still a design";
}

TEST(broken_designs, a_wrong_type_at_any_key_is_refused_with_that_keys_path) {
  const Json whole = Json::parse(demo_text());
  int tried = 0;
  for (const auto& [group, members] : whole.items()) {
    if (!members.is_object()) continue;
    for (const auto& [key, value] : members.items()) {
      if (!value.is_number()) continue;
      for (const Json& wrong : {Json("12 mm"), Json::array({1}), Json(true), Json(-1e12)}) {
        if (group == "tank" && key == "capacitance_f" && wrong.is_number()) continue; // follows from its units
        Json spoiled = whole;
        spoiled[group][key] = wrong;
        try {
          read_design(spoiled.dump());
          ADD_FAILURE() << group << "." << key << " accepted " << wrong.dump();
        } catch (const DesignFileError& error) {
          EXPECT_EQ(error.path(), group + "." + key);
          ++tried;
        }
      }
    }
  }
  EXPECT_GT(tried, 100);
}

TEST(broken_designs, any_analysis_of_an_accepted_scramble_ends_with_numbers_or_a_reason) {
  int analysed = 0;
  for (const std::string& text : scrambled(demo_text(), 150, 43)) {
    std::optional<Design> d;
    try {
      d = read_design(text);
    } catch (const DesignFileError&) {
      continue;
    }
    const Analysis a = analyse(*d);
    EXPECT_TRUE(a.resonator || !a.problem.empty());
    if (a.resonator) {
      EXPECT_TRUE(std::isfinite(a.resonator->mode_1_hz) && a.resonator->mode_1_hz > 0);
    }
    ++analysed;
  }
  EXPECT_GT(analysed, 5);
}

TEST(broken_shelves, cut_off_and_scrambled_shelves_are_refused_or_read_whole) {
  const std::string whole = write_shelf(starter_shelf());
  const auto cut = outcomes<ShelfError>(cut_off(whole, 29), [](const std::string& t) { read_shelf(t); });
  EXPECT_EQ(cut.first, 0);
  const auto mixed = outcomes<ShelfError>(scrambled(whole, 300, 47), [](const std::string& t) {
    const Shelf shelf = read_shelf(t);
    for (const ShelfCapacitor& part : shelf_capacitors(shelf)) {
      EXPECT_GT(part.capacitance_f, 0);
      EXPECT_GT(part.voltage_v, 0);
      EXPECT_GE(part.count, 1);
    }
  });
  EXPECT_GT(mixed.second, 100);
}

TEST(broken_tables, scrambled_csv_of_runs_shelves_and_profiles_never_slips_through_half_read) {
  const Design d = demo_design();
  const std::string runs = runs_to_csv(d.runs);
  const auto of_runs = outcomes<RunFileError>(scrambled(runs, 200, 53), [](const std::string& t) {
    for (const arc::Run& run : read_runs(t, {}).added)
      for (const auto& [key, value] : run.conditions) EXPECT_TRUE(std::isfinite(value)) << key;
  });
  EXPECT_GT(of_runs.first, 5);
  EXPECT_GT(of_runs.second, 20);
  const auto of_shelf = outcomes<ShelfError>(
      scrambled(parts_to_csv(starter_shelf().of("capacitors"), shelf_group("capacitors")), 200, 59),
      [](const std::string& t) { parts_from_csv(t, shelf_group("capacitors")); });
  EXPECT_GT(of_shelf.second, 20);
  const auto of_profile = outcomes<ProfileError>(
      scrambled("radius_mm,height_mm\n0,0\n50,0\n60,20\n40,40\n0,45\n", 200, 61), [](const std::string& t) {
        const auto points = profile_from_csv(t);
        EXPECT_GE(points.size(), 2u);
        for (const auto& [r, z] : points) EXPECT_GE(r, 0);
      });
  EXPECT_GT(of_profile.second, 20);
}

TEST(broken_drawings, cut_off_and_scrambled_svg_is_refused_or_gives_points) {
  const std::string whole =
      R"(<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 L30 0 C 40 5 40 15 30 20 A 5 5 0 0 1 20 25 L0 25 Z"/></svg>)";
  const auto cut = outcomes<ProfileError>(cut_off(whole, 3), [](const std::string& t) { profile_from_svg(t); });
  EXPECT_GT(cut.second, 20);
  const auto mixed = outcomes<ProfileError>(scrambled(whole, 200, 67), [](const std::string& t) {
    for (const auto& [r, z] : profile_from_svg(t)) EXPECT_TRUE(std::isfinite(r) && std::isfinite(z));
  });
  EXPECT_GT(mixed.first, 5);
}

TEST(broken_entries, any_text_is_a_quantity_or_a_complaint_with_a_place_in_it) {
  std::mt19937 random(71);
  const std::string letters = "0123456789.,+-eEnupkMGmFHVAsHzin'\" \"AWGµΩ/";
  std::uniform_int_distribution<std::size_t> pick(0, letters.size() - 1), length(0, 12);
  int read = 0;
  for (int i = 0; i < 4000; ++i) {
    std::string text;
    for (std::size_t k = length(random); k > 0; --k) text += letters[pick(random)];
    for (const Dimension dimension :
         {Dimension::capacitance, Dimension::length, Dimension::wire_diameter, Dimension::number}) {
      const ParseResult result = parse_quantity(text, dimension, UnitSystem::metric);
      if (const auto* value = std::get_if<double>(&result)) {
        EXPECT_TRUE(std::isfinite(*value)) << text;
        ++read;
      } else {
        EXPECT_FALSE(std::get<ParseError>(result).message.empty()) << text;
        EXPECT_LE(std::get<ParseError>(result).position, text.size()) << text;
      }
    }
  }
  EXPECT_GT(read, 200);
}

} // namespace
