// What to check before a bridge is switched on, and after. Common practice of builders (no source).
#include "crafts/bridges/bridge.h"
#include "laws/circuit.h"
#include "parts/bank.h"
#include "quantity/say.h"
#include "simulation/stores.h"

#include <cmath>
#include <fmt/format.h>
#include <limits>

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

void bridge_stores(const Design& d, const Analysis& a, const PowerAnalysis* power, std::vector<Store>& out) {
  const Bridge& b = d.bridge;
  const auto* run = part_of<BridgeAnalysis>(power);
  const Bus bus = bus_of(d);
  constexpr double none = std::numeric_limits<double>::infinity();
  if (!bus.from_feed) out.push_back({"Reservoir", bus.reservoir.capacitance_f, bus.volts, bus.reservoir.bleed_ohm});
  if (b.legs == BridgeLegs::half_split)
    out.push_back({"Split capacitors", b.split_capacitance_f / 2, bus.volts, bus.reservoir.bleed_ohm});
  if (b.legs == BridgeLegs::half_blocking && !is_dual_resonant(d))
    out.push_back({"Blocking capacitor", b.blocking_capacitance_f, bus.volts / 2, none});
  if (is_dual_resonant(d) && a.has_tank)
    out.push_back({"Tank", tank_capacitance_f(d.tank),
                   run ? std::max(run->burst.series_peak_v, bus.volts) : a.tank_peak_v,
                   tank_bleed_resistance_ohm(d.tank).value_or(none)});
}

std::vector<CheckItem> bridge_checks(const Design& d, const Analysis& a, const PowerAnalysis* power,
                                     UnitSystem units) {
  const Bridge& b = d.bridge;
  const Say say{units};
  const double bus = bus_voltage_v(d);
  const double gate = gate_voltage_v(b);
  const Distances away = distances_of(d, a, power);
  std::vector<CheckItem> out{
      {"people", fmt::format("People and pets at least {} back; nobody with a pacemaker or implant near",
                             say.arc(away.people_m))},
      {"strike", fmt::format("Nothing that may be struck within {}: wiring, lamps, pipes, the driver, its antenna",
                             say.arc(away.strike_m))},
      {"driver-alone",
       fmt::format("Driver alone, no bus: {} supply, enable on, its output follows a generator at the input",
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
      {"ground", "Secondary's base on its own ground, never on the mains' protective earth alone"},
      {"eyes", "Eye and ear protection: switches can burst; a cover over the bridge"}};
  if (is_dual_resonant(d))
    out.insert(out.begin() + 5,
               {"limit", b.current_limit_a ? fmt::format("Over-current limit tested at low bus, set to {}",
                                                         say(*b.current_limit_a, Dimension::current))
                                           : "No over-current limit is set: bursts of a few cycles only"});
  return out;
}

std::vector<std::string> bridge_steps_after(const Design& d, const Analysis& a, const PowerAnalysis* power,
                                            UnitSystem units) {
  std::vector<std::string> out{"Interrupter off, variac to zero, unplug."};
  add_discharge_steps(stores_of(d, a, power), units, out);
  out.emplace_back("Feel the heat sink only then; write its warmth down.");
  return out;
}

} // namespace arc
