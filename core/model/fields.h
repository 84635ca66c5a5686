// The registry of a design's numeric fields: the file reader, the entry fields of the window, range checks and
// comparisons all use this one table. To add a number to the design, add its member and one row here.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct FieldSpec {
  std::string_view key;   // path in the file, "secondary.turns"
  std::string_view label; // as shown to the builder
  Dimension dimension;
  double minimum; // inclusive, SI
  double maximum; // inclusive, SI
  bool required;  // needed by every coil that has the group; a file may leave it out for later
  bool nullable;  // may be absent in the model
  std::optional<double> (*member)(const Design&);
  void (*store)(Design&, std::optional<double>);

  /// Empty when it is not given.
  std::optional<double> get(const Design& design) const;
  void set(Design& design, std::optional<double> value) const;
};

/// All fields in file order.
std::span<const FieldSpec> design_fields();

/// The field with this key. Throws std::out_of_range when there is none.
const FieldSpec& design_field(std::string_view key);

/// A member with a few named values.
struct Choice {
  std::string_view key;   // as in files
  std::string_view title; // as shown
};
struct ChoiceSpec {
  std::string_view key; // path in the file
  std::string_view label;
  std::span<const Choice> choices; // the first is the default of files that say nothing
  std::size_t (*get)(const Design&);
  void (*set)(Design&, std::size_t);
};
std::span<const ChoiceSpec> design_choices();
/// Throws std::out_of_range when there is none.
const ChoiceSpec& design_choice(std::string_view key);

/// Whether everything that the group ("secondary", "primary", "tank") needs is given.
bool given(const Design& design, std::string_view group);
/// Labels of what the group still needs, in the order of the table.
std::vector<std::string_view> still_needed(const Design& design, std::string_view group);
/// What stands in for numbers that are not given ceases to do so where an edit has changed it.
void note_given(const Design& before, Design& after);

/// Empty when `si` is in the field's range; otherwise one sentence with the value, the range and the unit.
std::string range_problem(const FieldSpec& field, double si, UnitSystem units = UnitSystem::metric);

/// The same for any labelled value.
std::string range_problem(std::string_view label, Dimension dimension, double si, double minimum, double maximum,
                          UnitSystem units = UnitSystem::metric);

} // namespace arc
