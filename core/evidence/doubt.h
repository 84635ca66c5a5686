// A second look at a number as it is typed: slips of a prefix or a decimal point are ten, a thousand or a million
// times off what the rest of the coil needs.
#pragma once

#include "coil/analysis.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct Doubt {
  std::string text; // "The coil wants about 12 nF."
  double meant;     // the value that was likely meant
};

/// What the rest of the coil leads to expect of a number: of a design's field by its key, or of a measured one by
/// "measured " and its kind's key. Empty where nothing is expected.
std::optional<double> expected_value(std::string_view key, const Design& design, const Analysis& analysis);

/// Empty when `value` is what can be expected, or nothing is.
std::optional<Doubt> doubt_about(std::string_view key, Dimension dimension, double value, const Design& design,
                                 const Analysis& analysis, UnitSystem units);

} // namespace arc
