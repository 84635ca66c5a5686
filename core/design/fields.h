// The registry of a design's numeric fields: the file reader, the entry fields of the window, range checks and
// comparisons all use this one table. To add a number to the design, add its member and one row here.
#pragma once

#include "design/design.h"
#include "quantity/quantity.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace arc {

struct FieldSpec {
  std::string_view key;   // path in the file, "secondary.turns"
  std::string_view label; // as shown to the builder
  Dimension dimension;
  double minimum; // inclusive, SI
  double maximum; // inclusive, SI
  bool required;  // must stand in a file
  bool nullable;  // may be absent in the model
  std::optional<double> (*get)(const Design&);
  void (*set)(Design&, std::optional<double>);
};

/// All fields in file order.
std::span<const FieldSpec> design_fields();

/// The field with this key. Throws std::out_of_range when there is none.
const FieldSpec& design_field(std::string_view key);

/// Empty when `si` is in the field's range; otherwise one sentence with the value, the range and the unit.
std::string range_problem(const FieldSpec& field, double si, UnitSystem units = UnitSystem::metric);

/// The same for any labelled value.
std::string range_problem(std::string_view label, Dimension dimension, double si, double minimum, double maximum,
                          UnitSystem units = UnitSystem::metric);

} // namespace arc
