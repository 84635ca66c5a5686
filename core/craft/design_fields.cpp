#include "craft/design_fields.h"

#include "craft/kind.h"

#include <array>
#include <fmt/format.h>
#include <stdexcept>

namespace arc {

std::span<const ChoiceSpec> design_choices() {
  static const auto all = with_rows_of_kinds(shared_choices(), &CoilKind::choices);
  return all;
}

const ChoiceSpec& design_choice(std::string_view key) {
  for (const ChoiceSpec& choice : design_choices())
    if (choice.key == key) return choice;
  throw std::out_of_range(fmt::format("no choice of the design is called {}", key));
}

bool is_of_group(std::string_view key, std::string_view group) {
  return key.starts_with(group) && key.size() > group.size() && key[group.size()] == '.';
}

std::vector<std::string_view> still_needed(const Design& design, std::string_view group) {
  std::vector<std::string_view> out;
  if (design.absent.empty()) return out;
  for (const FieldSpec& field : design_fields())
    if (is_of_group(field.key, group) && design.absent.contains(field.key)) out.push_back(field.label);
  return out;
}

bool given(const Design& design, std::string_view group) {
  return still_needed(design, group).empty();
}

void note_given(const Design& before, Design& after) {
  if (after.absent.empty()) return;
  for (const FieldSpec& field : design_fields())
    if (after.absent.contains(field.key) && field.member(before) != field.member(after))
      after.absent.erase(std::string(field.key));
}

std::span<const FieldSpec> design_fields() {
  static const auto all = with_rows_of_kinds(shared_fields(), &CoilKind::fields);
  return all;
}

const FieldSpec& design_field(std::string_view key) {
  for (const FieldSpec& field : design_fields())
    if (field.key == key) return field;
  throw std::out_of_range(fmt::format("no design field is called {}", key));
}

std::string_view stage_of_group(const CoilKind& kind, std::string_view group) {
  static constexpr std::array<GroupPlace, 6> shared{{{"primary", "primary"},
                                                     {"tank", "tank"},
                                                     {"feed", "feed"},
                                                     {"equivalent", "tune"},
                                                     {"measurements", "tune"},
                                                     {"tolerances", "tune"}}};
  for (const std::span<const GroupPlace> places : {kind.places, std::span<const GroupPlace>(shared)})
    for (const GroupPlace& place : places)
      if (place.group == group) return place.stage;
  return "resonator";
}

} // namespace arc
