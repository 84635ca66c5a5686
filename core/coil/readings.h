// The registry of results: every number that a view or a script shows, with how to explain it. The command-line
// program prints all of them by key; the window shows them with their band and a "why".
#pragma once

#include "coil/analysis.h"
#include "quantity/quantity.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct Explanation {
  std::string formula;                 // in words
  std::vector<std::string> inputs;     // "Turns 1480"
  std::string assumption;              // what the method takes for granted, and its limit
  std::string source;                  // publication, or "common practice, no source"
  std::string hand_estimate;           // the builders' formula beside it, with its known error; may be empty
  std::vector<std::string> influences; // inputs that make up the band, largest first
};

/// What must be given, and belong to the kind of coil, for a reading to have a value.
enum class Needs { winding, primary, tank, gap };

struct Reading {
  std::string_view key; // as in results of the command-line program
  std::string_view title;
  Dimension dimension;
  int digits;
  std::optional<double> (*value)(const Design&, const Analysis&);
  Explanation (*explain)(const Design&, const Analysis&, UnitSystem);
  Needs needs = Needs::winding;
};

std::span<const Reading> readings();

/// Whether it says something of this kind of coil.
bool belongs_to(const Reading& reading, const struct CoilKind& kind);

/// The reading with this key. Throws std::out_of_range when there is none.
const Reading& reading(std::string_view key);

/// The value in SI units; empty when it is not known, or not of this kind of coil.
std::optional<double> reading_value(const Reading& reading, const Design& design, const Analysis& analysis);

/// Value as text, or a dash with the reason when there is none.
std::string reading_text(const Reading& reading, const Design& design, const Analysis& analysis, UnitSystem units);

/// "± 0.9" in the unit of the value's text, or empty when no band is known.
std::string band_text(const Reading& reading, const Design& design, const Analysis& analysis, UnitSystem units);

/// Full explanation, the influences of the band included.
Explanation explain(const Reading& reading, const Design& design, const Analysis& analysis, UnitSystem units);

} // namespace arc
