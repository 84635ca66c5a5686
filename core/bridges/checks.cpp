// What to check before a bridge is switched on, and after. Common practice of builders (no source).
#include "bridges/bridge.h"
#include "coil/say.h"
#include "laws/circuit.h"

#include <cmath>
#include <fmt/format.h>

namespace arc {

namespace {

std::string bleeder_words(const Design& d, const Say& say) {
  const Bus bus = bus_of(d);
  const double ohm = bus.reservoir.bleed_ohm;
  if (!std::isfinite(ohm)) return "A bleeder across the reservoir: there is none yet";
  return fmt::format("Bleeder of {} across the reservoir: {} until below {}", say(ohm, Dimension::resistance),
                     say(bleed_time_s(ohm, bus.reservoir.capacitance_f, bus.volts), Dimension::time, 2),
                     say(bled_target_v, Dimension::voltage));
}

} // namespace

std::vector<CheckItem> bridge_checks(const Design& d, const Analysis&, UnitSystem units) {
  const Bridge& b = d.bridge;
  const Say say{units};
  const double bus = bus_voltage_v(d);
  const double gate = gate_voltage_v(b);
  std::vector<CheckItem> out{
      {"people", "People and pets back; nobody with a pacemaker or implant near"},
      {"driver-alone",
       fmt::format("Driver alone, no bus: {} supply, enable on, its output toggles with a touch at the input",
                   say(b.driver_supply_v, Dimension::voltage))},
      {"gates", fmt::format("Gates without bus: about {} at each, opposite in a leg, with {} of dead time between",
                            say(gate, Dimension::voltage), say(b.dead_time_s, Dimension::time))},
      {"low-bus",
       "Low bus first: 20 to 30 V from an isolated supply that limits its current; it locks, small brush or "
       "none, switches cold"},
      {"scope",
       "No oscilloscope with a grounded probe on a bridge that hangs on the mains: isolation transformer or "
       "differential probe, and licensed practice"},
      {"bleeder", bleeder_words(d, say)},
      {"full-bus", fmt::format("Then the full bus of {} by the variac, bursts of {} at the lowest rate",
                               say(bus, Dimension::voltage), say(d.interrupter.on_time_s, Dimension::time))},
      {"ground", "Secondary's foot on its own ground, never on the mains' protective earth alone"},
      {"eyes", "Eye and ear protection: switches can burst; a cover over the bridge"}};
  if (is_dual_resonant(d))
    out.insert(out.begin() + 4,
               {"limit", b.current_limit_a ? fmt::format("Over-current limit tested at low bus, set to {}",
                                                         say(*b.current_limit_a, Dimension::current))
                                           : "No over-current limit is set: bursts of a few cycles only"});
  return out;
}

std::vector<std::string> bridge_steps_after(const Design& d, const Analysis&, UnitSystem units) {
  const Say say{units};
  const Bus bus = bus_of(d);
  const double ohm = bus.reservoir.bleed_ohm;
  std::vector<std::string> out{
      "Interrupter off, variac to zero, unplug.",
      std::isfinite(ohm)
          ? fmt::format("Wait {} for the reservoir, then measure it: below {} before a hand goes near.",
                        say(bleed_time_s(ohm, bus.reservoir.capacitance_f, bus.volts), Dimension::time, 2),
                        say(bled_target_v, Dimension::voltage))
          : fmt::format(
                "Nothing bleeds the reservoir: empty it through a resistor on a stick, measure it: below {} "
                "before a hand goes near.",
                say(bled_target_v, Dimension::voltage))};
  if (is_dual_resonant(d)) out.emplace_back("Short the tank with the grounding stick, and leave the clip on.");
  out.emplace_back("Feel the heat sink only then; write its warmth down.");
  return out;
}

} // namespace arc
