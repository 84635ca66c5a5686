// Checklists with the coil's numbers filled in.
#include "crafts/spark_gap/spark_gap.h"

#include "parts/bank.h"
#include "quantity/say.h"
#include "simulation/stores.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace arc {

void spark_gap_stores(const Design& design, const Analysis&, const PowerAnalysis* power, std::vector<Store>& out) {
  const auto* p = part_of<SparkGapPower>(power);
  const double lifted_v = p && p->charging_problem.empty() ? p->charging.tank_peak_v : 0;
  out.push_back({"Tank", tank_capacitance_f(design.tank), std::max(design.gap.firing_voltage_v, lifted_v),
                 tank_bleed_resistance_ohm(design.tank).value_or(std::numeric_limits<double>::infinity())});
}

std::vector<CheckItem> spark_gap_checks(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                        UnitSystem units) {
  const Say print{units};
  const Distances away = distances_of(design, analysis, power);
  std::string bleeders =
      analysis.bleed_time_s
          ? fmt::format("Bleeders on every tank unit looked at: {} down to {}",
                        print(*analysis.bleed_time_s, Dimension::time), print(bled_target_v, Dimension::voltage))
          : "No bleeders entered: the shorting clip stays on the tank until the last moment";
  std::string others;
  for (const Store& store : stores_of(design, analysis, power))
    if (store.title != "Tank")
      others += fmt::format("; {}: {}", store.title,
                            std::isfinite(store.bleed_ohm) ? print(store.bleeds_s(), Dimension::time)
                                                           : std::string("no bleeder entered"));
  bleeders += others;
  return {
      {"people", fmt::format("People and pets at least {} back; nobody with a pacemaker or implant near",
                             print(round_significant(away.people_m, 2), Dimension::length))},
      {"devices", "Phones, watches, hearing aids and meters away; computers unplugged"},
      {"ground", "Secondary base on its own ground rod or counterpoise, not on mains earth"},
      {"strike", fmt::format("Nothing that may be struck within {}: wiring, lamps, pipes, ceiling",
                             print(round_significant(away.strike_m, 2), Dimension::length))},
      {"bleed", bleeders},
      {"clip", fmt::format("Tap at turn {:.2f}, tight; gap set and clean", design.primary.tap_turns)},
      {"fire", "Fire extinguisher for electrical fires within reach; ventilation on (ozone)"},
      {"protect", "Ear and eye protection on; no looking into the gap"},
      {"switch", "One person on the switch, hold-to-run, one hand behind the back; someone else in the room"},
  };
}

std::vector<std::string> spark_gap_steps_after(const Design& design, const Analysis& analysis,
                                               const PowerAnalysis* power, UnitSystem units) {
  std::vector<std::string> out{"Switch off, turn the variac to zero, pull the plug."};
  add_discharge_steps(stores_of(design, analysis, power), units, out);
  out.push_back("Only then touch the primary, the gap or the capacitors.");
  return out;
}

} // namespace arc
