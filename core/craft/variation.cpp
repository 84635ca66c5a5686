// Banks and sources that several crafts vary.
#include "craft/variation.h"

#include "circuit/feed.h"
#include "parts/bank.h"

#include <algorithm>
#include <cmath>

namespace arc {

double between(double gene, double low, double high) {
  return low + gene * (high - low);
}

double log_between(double gene, double low, double high) {
  return low * std::pow(high / low, gene);
}

bool fill_bank(Tank& tank, const BankUnit& unit, double peak_v, double farad) {
  constexpr double loaded = 0.65; // of the rating, tolerances and ringing apart (common practice, no source)
  const double in_series = std::max(1.0, std::ceil(peak_v / (loaded * unit.voltage_v)));
  const double chain_f = unit.capacitance_f / in_series, there = std::floor(unit.count / in_series);
  if (there < 1) return false;
  const double in_parallel = std::clamp(std::round(farad / chain_f), 1.0, there);
  tank.sections.own().clear();
  tank.sections_in_series = false;
  tank.given_as = TankGiven::equal_units;
  tank.single_capacitance_f.reset();
  tank.unit_capacitance_f = unit.capacitance_f;
  tank.unit_voltage_v = unit.voltage_v;
  tank.unit_tolerance = unit.tolerance;
  tank.unit_ratings = unit.ratings;
  tank.units_in_series = in_series;
  tank.units_in_parallel = in_parallel;
  tank.capacitance_f = tank_capacitance_f(tank);
  return true;
}

void replace_ovens(Design& design, double amperes) {
  for (FeedBlock& block : design.feed.own()) {
    if (block.kind != "oven-transformers") continue;
    const double output_v = block_value(block, "output_v") * block_value(block, "in_series");
    FeedBlock plate = make_block("transformer");
    plate.values["rated_mains_v"] = design.site.mains_voltage_v;
    plate.values["output_v"] = output_v;
    plate.values["short_circuit_a"] = amperes;
    plate.values["resistance_ohm"] = round_significant(0.02 * output_v / amperes, 2);
    block = plate;
  }
}

} // namespace arc
