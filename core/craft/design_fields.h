// The registry of all numbers and choices of a design: those that every coil has, then those of the crafts.
#pragma once

#include "model/fields.h"

#include <span>
#include <string_view>
#include <vector>

namespace arc {

/// All fields in file order.
std::span<const FieldSpec> design_fields();

/// The field with this key. Throws std::out_of_range when there is none.
const FieldSpec& design_field(std::string_view key);

/// All choices in file order.
std::span<const ChoiceSpec> design_choices();
/// Throws std::out_of_range when there is none.
const ChoiceSpec& design_choice(std::string_view key);

/// Whether the field or choice with this key is of this group: "tank.capacitance_f" of "tank".
bool is_of_group(std::string_view key, std::string_view group);

/// Whether everything that the group ("secondary", "primary", "tank") needs is given.
bool given(const Design& design, std::string_view group);
/// Labels of what the group still needs, in the order of the table.
std::vector<std::string_view> still_needed(const Design& design, std::string_view group);
/// What stands in for numbers that are not given ceases to do so where an edit has changed it.
void note_given(const Design& before, Design& after);

/// The stage at which the numbers of a group are entered on this kind of coil.
std::string_view stage_of_group(const struct CoilKind& kind, std::string_view group);

} // namespace arc
