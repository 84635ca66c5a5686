#include "workshop/start.h"

#include "analysis/analyse.h"
#include "craft/design_fields.h"
#include "file/design_file.h"
#include "file/examples.h"
#include "model/inputs.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <vector>

namespace arc {
namespace {

using Keys = std::set<std::string, std::less<>>;

Keys absent_of(const Design& design, std::string_view group) {
  Keys out;
  for (const std::string& key : design.absent)
    if (key.starts_with(group)) out.insert(key);
  return out;
}

// What is an example in the group is one where the group is taken over.
void take_marks(Design& design, std::string_view group, const Design& from) {
  const auto of_group = [&](const auto& entry) { return is_of_group(entry.first, group); };
  std::erase_if(design.examples, of_group);
  std::ranges::copy_if(from.examples, std::inserter(design.examples, design.examples.end()), of_group);
}

// The group of `from`, where the design's is that of one of the models: what is given in it, and what is not.
// Whether a number was typed does not tell models apart: none of them has examples, but `from`.
template <typename Group>
void take(Design& design, Group Design::*group, std::string_view name, const Design& from,
          std::initializer_list<const Design*> models) {
  const Design bare = without_examples(design);
  const bool same = std::ranges::any_of(models, [&](const Design* m) {
    return m->*group == bare.*group && absent_of(*m, name) == absent_of(design, name);
  });
  if (!same) return;
  design.*group = from.*group;
  std::erase_if(design.absent, [&](const std::string& key) { return key.starts_with(name); });
  design.absent.merge(absent_of(from, name));
  take_marks(design, name.substr(0, name.find('.')), from);
}

// The same for a group of a craft, by the tables of numbers and choices.
void take_group(Design& design, std::string_view group, const Design& from,
                std::initializer_list<const Design*> models) {
  const auto numbers = [&](const Design& d) {
    std::vector<std::optional<double>> out;
    for (const FieldSpec& field : design_fields())
      if (is_of_group(field.key, group)) out.push_back(field.get(d));
    for (const ChoiceSpec& choice : design_choices())
      if (is_of_group(choice.key, group)) out.emplace_back(static_cast<double>(choice.get(d)));
    return out;
  };
  const auto own = numbers(design);
  if (std::ranges::none_of(models, [&](const Design* m) { return numbers(*m) == own; })) return;
  for (const FieldSpec& field : design_fields())
    if (is_of_group(field.key, group)) field.set(design, field.get(from));
  for (const ChoiceSpec& choice : design_choices())
    if (is_of_group(choice.key, group)) choice.set(design, choice.get(from));
  take_marks(design, group, from);
}

// Groups of the kind that stand in the tables alone, after those that every coil has.
std::vector<std::string_view> craft_groups(const CoilKind& kind) {
  constexpr std::array<std::string_view, 4> of_every_coil{"secondary", "primary", "tank", "feed"};
  std::vector<std::string_view> out;
  for (const std::string_view group : kind.groups)
    if (std::ranges::count(of_every_coil, group) == 0) out.push_back(group);
  return out;
}

// A primary as `model` has it, around another secondary: as far from its form and its base, and in tune with it.
void fit_around(Design& design, const Design& model) {
  const double wider_m = (design.secondary.form_diameter_m - model.secondary.form_diameter_m) / 2;
  const auto near = [&](double radius_m) {
    return std::max(radius_m + wider_m, 1.1 * design.secondary.form_diameter_m / 2);
  };
  design.primary.inner_radius_m = near(design.primary.inner_radius_m);
  design.primary.base_height_m =
      std::max(0.0, design.primary.base_height_m + design.secondary.base_height_m - model.secondary.base_height_m);
  if (design.feedback == model.feedback) design.feedback.radius_m = near(design.feedback.radius_m);
  if (!kind_of(design).tank) return;
  Kept kept;
  const auto clip = analyse_untried(design, UnitSystem::metric, false, kept).tuned_tap_turns;
  if (clip) design.primary.tap_turns = std::round(*clip * 100) / 100;
}

} // namespace

Design fed_by(Design design, const FeedArrangement& arrangement) {
  design.feed = arrangement.blocks(design);
  for (FeedBlock& block : design.feed.own()) mark_examples(block);
  const auto examples = example_paths(design); // what suits the feed is still nobody's
  if (const auto suit = kind_of(design).suit_feed) suit(design);
  mark_examples(design, examples);
  return design;
}

Design new_design(const CoilKind& kind, double mains_v, double mains_hz) {
  Design out;
  if (!kind.start.empty()) out = read_design(kind.start);
  out.kind = kind.key;
  out.site.mains_voltage_v = mains_v;
  out.site.mains_frequency_hz = mains_hz;
  // Its values go with that feed already: nothing is simulated to suit them, for every start of the program waits.
  if (!kind.first_feed.empty()) out.feed = feed_arrangement(kind.first_feed).blocks(out);
  mark_examples(out);
  return out;
}

Design as_kind(const Design& design, const CoilKind& kind) {
  Design out = design;
  out.kind = kind.key;
  if (design.kind == kind.key) return out;
  const Site& site = design.site;
  const Design before =
                   without_examples(new_design(kind_of(design), site.mains_voltage_v, site.mains_frequency_hz)),
               now = new_design(kind, site.mains_voltage_v, site.mains_frequency_hz), blank;
  const auto each = [&](auto group, std::string_view name) { take(out, group, name, now, {&before, &blank}); };
  each(&Design::secondary, "secondary.");
  each(&Design::topload, "topload.");
  each(&Design::breakout, "breakout.");
  each(&Design::primary, "primary.");
  each(&Design::tank, "tank.");
  for (const CoilKind* each_kind : coil_kinds())
    for (const std::string_view group : craft_groups(*each_kind)) take_group(out, group, now, {&before, &blank});
  if (kind.feed_end != kind_of(design).feed_end) each(&Design::feed, "feed.");
  if (out.primary == now.primary && out.secondary != now.secondary) {
    const auto examples = example_paths(out);
    fit_around(out, now);
    mark_examples(out, examples);
  }
  return out;
}

} // namespace arc
