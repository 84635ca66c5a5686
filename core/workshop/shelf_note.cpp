// Pieces needed against pieces owned.
#include "workshop/shelf_note.h"

#include "craft/kind.h"
#include "parts/bank.h"
#include "quantity/say.h"

#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

double pieces_of(const Tank& tank) {
  return tank.units_in_series * tank.units_in_parallel;
}

// Of the same value within their markings, good for at least those volts.
int on_hand(const Tank& tank, const Shelf& shelf) {
  constexpr double alike = 0.05;
  int out = 0;
  for (const ShelfCapacitor& part : shelf_capacitors(shelf))
    if (!part.polarised && std::abs(part.capacitance_f / *tank.unit_capacitance_f - 1) <= alike &&
        part.voltage_v >= tank.unit_voltage_v.value_or(0))
      out += part.count;
  return out;
}

} // namespace

std::string shelf_note(const Design& before, const Design& after, const Shelf& shelf, UnitSystem units) {
  if (tank_given(after.tank) != TankGiven::equal_units || !after.tank.unit_capacitance_f ||
      pieces_of(after.tank) <= pieces_of(before.tank))
    return {};
  const Say print{units};
  const int owned = on_hand(after.tank, shelf);
  std::string out = fmt::format("It takes {:.0f} of {}", pieces_of(after.tank),
                                print(*after.tank.unit_capacitance_f, Dimension::capacitance));
  if (after.tank.unit_voltage_v) out += " for " + print(*after.tank.unit_voltage_v, Dimension::voltage);
  out += fmt::format("; {} on the shelf.", owned == 1 ? "1 is" : fmt::format("{} are", owned));
  if (owned >= pieces_of(after.tank) || kind_of(before).feed_end != FeedEnd::tank) return out;
  constexpr double loaded = 0.8; // of its rating (common practice, no source)
  if (const auto holds = tank_voltage_limit_v(before.tank, loaded); holds && *holds < before.gap.firing_voltage_v)
    out += fmt::format(" With the bank as it is, set the gap to {}.", print(*holds, Dimension::voltage));
  return out;
}

} // namespace arc
