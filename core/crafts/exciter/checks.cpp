// What to check before an exciter is switched on, and after. Common practice of builders (no source).
#include "crafts/exciter/exciter.h"
#include "quantity/say.h"
#include "simulation/advice.h"

#include <fmt/format.h>

namespace arc {

std::vector<CheckItem> exciter_checks(const Design& design, const Analysis&, const PowerAnalysis*,
                                      UnitSystem units) {
  const Exciter& e = design.exciter;
  const Say print{units};
  const bool mos = e.transistor.type == TransistorType::mos;
  return {
      {"people", "Nobody with a pacemaker or implant near; the hot end and the primary burn at a touch"},
      {"supply",
       e.supply_limit_a
           ? fmt::format("Supply at zero, its limit set to {}; to be raised slowly to {}",
                         print(*e.supply_limit_a, Dimension::current),
                         print(e.supply_voltage_v, Dimension::voltage))
           : fmt::format("Supply at zero, to be raised slowly to {}; it has no current limit: a fuse in its "
                         "lead",
                         print(e.supply_voltage_v, Dimension::voltage))},
      {"pins", mos ? "Gate, drain and source looked up for this package, from the side that faces you"
                   : "Base, collector and emitter looked up for this package, from the side that faces you"},
      {"clamp",
       mos ? "Zener from ground to gate, its ring at the gate" : "Diode from ground to base, its ring at the base"},
      {"sink", e.sink_k_per_w
                   ? "Transistor screwed to its heat sink; the sink is at the collector and must touch nothing"
                   : "No heat sink: first runs of a second, then off; warmth is felt for only then"},
      {"primary", fmt::format("Primary of {} turns close to the secondary's base, its ends marked for swapping",
                              format_number(design.primary.turns))},
      {"devices", "Phones, watches, hearing aids and meters away; radios nearby will hear it"},
  };
}

std::vector<std::string> exciter_steps_after(const Design& design, const Analysis&, const PowerAnalysis*,
                                             UnitSystem) {
  std::vector<std::string> out{"Turn the supply to zero, then switch it off and unplug it.",
                               "Wait until transistor and sink have cooled before touching them."};
  if (design.exciter.fan) out.push_back("Leave the fan on until then.");
  return out;
}

} // namespace arc
