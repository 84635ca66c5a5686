// The whole coil in six figures, the same places in the same order for every kind: the arc, power and line current,
// rate or duty, the craft's own headline, the part that gives way first, what is open. The kind's row names them.
#pragma once

#include "simulation/figures.h"

#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// How much of its rating a part carries.
struct PartLoad {
  std::string part;  // "Ballast, current"
  double used = 0;   // 1 at the rating
  std::string words; // "3.2 A of 4 A"
  std::string stage; // key of the stage that shows it
};

/// Every part whose rating is known, fullest first: rated figures of the kind, joints, diodes and capacitors of the
/// feed, its breaker, the units of the tank. Empty without a simulation.
std::vector<PartLoad> part_loads(const PowerView& view, UnitSystem units);

struct StripItem {
  std::string_view key;             // "arc", "power", "rate", "craft", "weakest", "open"
  std::string title;                // what it is, in short
  std::string value;                // without band; a dash where it is not known
  std::string full;                 // with band and reason, for a tip and to be read out
  std::string stage;                // key of the stage that shows it; empty: none does
  const Figure* figure = nullptr;   // that explains it; null: `why` does
  std::vector<const Figure*> shown; // all that the value is made of
  Explanation why = {};
  bool alarm = false; // a stop stands, or a part is beyond its rating
};
inline constexpr std::size_t strip_places = 6;
inline constexpr std::string_view open_place = "open"; // leads to the findings

/// The strip of a design; Of `findings` those count that are not dismissed. Before a simulation, and where the
/// kind's part has none, values are dashes.
std::array<StripItem, strip_places> strip_of(const PowerView& view, const std::vector<Finding>& findings,
                                             UnitSystem units);

} // namespace arc
