// Strings of equal capacitors, as many as there are.
#include "workshop/reservoir_offers.h"

#include "circuit/feed.h"

#include <algorithm>
#include <cmath>

namespace arc {
namespace {
constexpr int most_each_way = 60; // units in series, or side by side
} // namespace

void ReservoirOffer::put_into(FeedBlock& block) const {
  const double bleeder = usual_bleeder_ohm(unit.capacitance_f, 1e9);
  if (!block.values.contains("unit_capacitance_f")) { // a plain one, as a whole
    block.values["capacitance_f"] = capacitance_f;
    block.values["voltage_v"] = limit_v;
    block.values["bleed_resistance_ohm"] = bleeder * in_series / in_parallel;
    return;
  }
  block.values["unit_capacitance_f"] = unit.capacitance_f;
  block.values["unit_voltage_v"] = unit.voltage_v;
  block.values["units_in_series"] = in_series;
  block.values["units_in_parallel"] = in_parallel;
  block.values["unit_bleed_ohm"] = bleeder;
  if (unit.ratings.esr_ohm) block.values["unit_esr_ohm"] = *unit.ratings.esr_ohm;
  block.values["unit_ripple_a"] = unit.ratings.rms_current_a.value_or(0);
}

std::vector<ReservoirOffer> reservoir_offers(const Shelf& shelf, double volts) {
  std::vector<ReservoirOffer> out;
  for (const ShelfCapacitor& unit : shelf_capacitors(shelf)) {
    ReservoirOffer offer{unit};
    offer.in_series = static_cast<int>(
        std::clamp(std::ceil(reservoir_margin * volts / unit.voltage_v), 1.0, most_each_way + 1.0));
    offer.in_parallel = std::min(unit.count / offer.in_series, most_each_way);
    if (offer.in_parallel < 1 || offer.in_series > most_each_way) continue;
    offer.capacitance_f = unit.capacitance_f * offer.in_parallel / offer.in_series;
    offer.limit_v = unit.voltage_v * offer.in_series;
    out.push_back(std::move(offer));
  }
  std::ranges::stable_sort(out, std::greater{}, &ReservoirOffer::capacitance_f);
  return out;
}

} // namespace arc
