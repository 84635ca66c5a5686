// Texts come from the tables of fields and figures alone.
#include "workshop/compared_designs.h"

#include "craft/design_fields.h"
#include "file/number_walk.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <optional>
#include <tuple>

namespace arc {
namespace {

constexpr double same_to = 1e-6;
constexpr int digits = 4;

using Value = std::optional<double>;

double apart(const Value& a, const Value& b) {
  if (!a && !b) return 0;
  if (!a || !b) return 1;
  const double larger = std::max(std::abs(*a), std::abs(*b));
  return larger > 0 ? std::abs(*a - *b) / larger : 0;
}

ComparedRow number_row(std::string title, const Value& a, const Value& b, Dimension dimension, UnitSystem units) {
  const auto text = [&](const Value& v) {
    return v ? format_quantity(*v, dimension, units, digits) : std::string("–");
  };
  const double by = apart(a, b);
  return {std::move(title), text(a), text(b), false, by > same_to, by};
}

ComparedRow word_row(std::string title, std::string a, std::string b) {
  const bool differs = a != b;
  return {std::move(title), std::move(a), std::move(b), false, differs, differs ? 1.0 : 0.0};
}

std::string_view group_of(std::string_view key) {
  return key.substr(0, key.find('.'));
}

// A key of a group that some kind has for itself counts where one of the two is such a coil.
bool counts(std::string_view key, const Design& first, const Design& second) {
  const std::string path(key);
  return !of_another_kind(first, path) || !of_another_kind(second, path);
}

// Number by number where the same blocks stand in the same order.
void compare_feeds(const Design& first, const Design& second, UnitSystem units, std::vector<ComparedRow>& out) {
  const auto titles = [](const Design& design) {
    std::string text;
    for (const FeedBlock& block : design.feed)
      if (const BlockKind* row = block_kind(block.kind))
        text += (text.empty() ? "" : ", ") + std::string(row->brief);
    return text.empty() ? std::string("none") : text;
  };
  if (first.feed.empty() && second.feed.empty()) return;
  out.push_back(word_row("Path from the wall", titles(first), titles(second)));
  if (!std::ranges::equal(first.feed.get(), second.feed.get(), {}, &FeedBlock::kind, &FeedBlock::kind)) return;
  for (std::size_t i = 0; i < first.feed.size(); ++i)
    if (const BlockKind* row = block_kind(first.feed[i].kind))
      for (const BlockNumber& number : row->numbers)
        out.push_back(number_row(fmt::format("{}, {}", row->title, number.label),
                                 block_value(first.feed[i], number.key), block_value(second.feed[i], number.key),
                                 number.dimension, units));
}

// "toroid 300 mm x 80 mm, 60 mm up".
std::string topload_words(const Design& design, UnitSystem units) {
  std::string out;
  for (const ToploadPart& part : design.topload) {
    std::string lengths;
    if (const ToploadShape* shape = topload_shape(part.shape))
      for (const ToploadLength& length : shape->lengths)
        lengths += (lengths.empty() ? " " : " × ") +
                   format_quantity(part.*length.member, Dimension::length, units, digits);
    out += fmt::format("{}{}{}, {} up", out.empty() ? "" : "; ", part.shape, lengths,
                       format_quantity(part.centre_above_winding_m, Dimension::length, units, digits));
  }
  return out.empty() ? "none" : out;
}

} // namespace

std::vector<ComparedRow> compare_inputs(const Design& first, const Design& second, UnitSystem units) {
  std::vector<ComparedRow> out;
  const auto title_of = [](const Design& design) { return std::string(kind_of(design).title); };
  out.push_back(word_row("Kind of coil", title_of(first), title_of(second)));
  std::map<std::string_view, int> labels; // the same word in two groups says which it is
  for (const FieldSpec& field : design_fields()) ++labels[field.label];
  const auto titled = [&](std::string_view key, std::string_view label) {
    return labels[label] > 1 ? fmt::format("{} ({})", label, group_of(key)) : std::string(label);
  };
  for (const FieldSpec& field : design_fields()) {
    const auto a = field.get(first), b = field.get(second);
    if ((a || b) && counts(field.key, first, second))
      out.push_back(number_row(titled(field.key, field.label), a, b, field.dimension, units));
  }
  for (const ChoiceSpec& choice : design_choices())
    if (counts(choice.key, first, second))
      out.push_back(word_row(titled(choice.key, choice.label), std::string(choice.choices[choice.get(first)].title),
                             std::string(choice.choices[choice.get(second)].title)));
  out.push_back(word_row("Topload", topload_words(first, units), topload_words(second, units)));
  compare_feeds(first, second, units, out);
  return out;
}

std::vector<ComparedRow> compare_figures(const PowerView& first, const PowerView& second, UnitSystem units) {
  std::vector<ComparedRow> out;
  const auto add = [&](const Figure& figure, const Figure& as) {
    const auto a = figure_value(figure, first), b = figure_value(as, second);
    const auto told = [&](const Figure& of, const PowerView& view) {
      const std::string text = figure_text(of, view, units);
      return text.empty() ? std::string("–") : text;
    };
    const std::string x = told(figure, first), y = told(as, second);
    if (!a && !b && x == y) return;
    const double by = a || b ? apart(a, b) : 1;
    out.push_back({std::string(figure.title), x, y, true, by > same_to, by});
  };
  for (const Figure* figure : figures_at_rest(kind_of(first.design)))
    if (belongs_to(*figure, kind_of(second.design))) add(*figure, *figure);
  if (first.design.kind != second.design.kind || !first.power.part || !second.power.part) return out;
  for (const Figure& figure : figures_of(first.design))
    if (figure.needs == Needs::power) add(figure, figure);
  return out;
}

void differences_first(std::vector<ComparedRow>& rows) {
  std::ranges::stable_sort(rows, [](const ComparedRow& a, const ComparedRow& b) {
    return std::tuple(!a.differs, a.computed, -a.apart) < std::tuple(!b.differs, b.computed, -b.apart);
  });
}

} // namespace arc
