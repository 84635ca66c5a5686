// A design's numeric fields as rows: the file reader, the entry fields of the window, range checks and comparisons
// all use this one table. To add a number to the design, add its member and one row: in fields.cpp where every coil
// has it, in the folder of its craft otherwise. A craft whose numbers have no member here keeps them in
// Design::own.
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
/// Of what every coil has; those of crafts are in their folders, all of them in craft/design_fields.h.
std::span<const FieldSpec> shared_fields();
std::span<const ChoiceSpec> shared_choices();

/// Empty when `si` is in the field's range; otherwise one sentence with the value, the range and the unit.
std::string range_problem(const FieldSpec& field, double si, UnitSystem units = UnitSystem::metric);

/// The same for any labelled value.
std::string range_problem(std::string_view label, Dimension dimension, double si, double minimum, double maximum,
                          UnitSystem units = UnitSystem::metric);

} // namespace arc
