// The field's own terms in every label, figure and finding, in short sentences. What is not said any more, and
// where, is in given_up.h; the terms are in docs/words.md.
#include "../given_up.h"
#include "analysis/analyse.h"
#include "craft/design_fields.h"
#include "evidence/tolerance.h"
#include "evidence/tuning.h"
#include "random_designs.h"
#include "simulation/figures.h"
#include "workshop/bank_search.h"
#include "workshop/runs.h"
#include "workshop/shelf.h"
#include "workshop/start.h"

#include <algorithm>
#include <set>
#include <sstream>

namespace arc {
namespace {

// Every word that stands for a number or a choice, of all kinds.
std::set<std::string> labels() {
  std::set<std::string> out;
  const auto add = [&](std::string_view text) { out.emplace(text); };
  for (const FieldSpec& field : design_fields()) add(field.label);
  for (const ChoiceSpec& choice : design_choices()) {
    add(choice.label);
    for (const Choice& each : choice.choices) add(each.title);
  }
  for (const BlockKind& kind : block_kinds()) {
    add(kind.title);
    for (const BlockNumber& number : kind.numbers) add(number.label);
  }
  for (const ShelfGroup& group : shelf_groups())
    for (const ShelfColumn& column : group.columns) add(column.label);
  for (const RunField& field : run_fields()) add(field.label);
  for (const BankOrder& order : bank_orders()) add(order.label);
  for (const ToleranceInput& input : tolerance_inputs()) add(input.label);
  for (const MeasurementKind& kind : measurement_kinds()) add(kind.title);
  for (const CoilKind* kind : coil_kinds()) {
    add(kind->title);
    for (const StripRow& row : kind->strip) add(row.title);
    for (const SimulationMode& mode : kind->modes) add(mode.text);
    const auto take = [&](const Figure& figure) {
      for (const std::string_view text : {figure.title, figure.row, figure.formula, figure.assumes}) add(text);
    };
    for (const Figure* figure : figures_at_rest(*kind)) take(*figure);
    if (kind->figures) std::ranges::for_each(kind->figures(), take);
  }
  return out;
}

// Findings at rest of many designs with something wrong, of every kind.
std::vector<Finding> findings() {
  std::vector<Finding> out;
  const auto add = [&](const Design& d) {
    for (const UnitSystem units : {UnitSystem::metric, UnitSystem::inch})
      std::ranges::move(analyse(d, units).findings, std::back_inserter(out));
  };
  AnyDesign random(4021);
  for (const CoilKind* kind : coil_kinds()) {
    add(new_design(*kind));
    for (int i = 0; i < 6; ++i) add(random.wild(new_design(*kind)));
  }
  for (int i = 0; i < 25; ++i) add(random.plausible());
  return out;
}

TEST(words, given_up_stand_in_no_label) {
  const auto all = labels();
  EXPECT_GT(all.size(), 500u);
  for (const std::string& text : all) EXPECT_EQ(given_up::found_in(text, given_up::label), "");
}

TEST(words, given_up_stand_in_no_finding_and_its_sentences_are_short) {
  std::set<std::string> sentences;
  std::set<std::string> ids;
  for (const Finding& f : findings()) {
    ids.insert(f.id);
    for (const std::string& text : {f.title, f.text, f.remedy}) {
      EXPECT_EQ(given_up::found_in(text, given_up::finding), "") << f.id;
      for (std::size_t begin = 0; begin < text.size();) {
        const std::size_t end = std::min(text.find(". ", begin), text.size());
        sentences.insert(text.substr(begin, end - begin));
        begin = end + 2;
      }
    }
  }
  EXPECT_GT(ids.size(), 40u);
  std::size_t words = 0;
  for (const std::string& sentence : sentences) {
    std::istringstream in(sentence);
    const auto count = std::distance(std::istream_iterator<std::string>(in), {});
    words += static_cast<std::size_t>(count);
    EXPECT_LE(count, 38) << sentence;
  }
  EXPECT_LE(words, 18 * sentences.size());
}

TEST(words, given_up_stand_on_no_page_of_the_guide) {
  for (const char* page : {"guide.md", "how-to.md", "errors.md"}) {
    std::istringstream lines(read_text(std::string(HIGH_ARC_SOURCE) + "/docs/" + page));
    for (std::string line; std::getline(lines, line);)
      EXPECT_EQ(given_up::found_in(line, given_up::guide), "") << page;
  }
}

TEST(words, the_list_finds_what_it_bans_and_nothing_else) {
  EXPECT_NE(given_up::found_in("Move the clip to turn 9", given_up::label), "");
  EXPECT_EQ(given_up::found_in("Wait, short, leave the clip on.", given_up::finding), "");
  EXPECT_NE(given_up::found_in("Heat in the gap, each shot", given_up::label), "");
  EXPECT_EQ(given_up::found_in("Hand or foot switch", given_up::label), "");
}

} // namespace
} // namespace arc
