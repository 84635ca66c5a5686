// What to check before a tube coil gets power, and after; build-up in steps with expected readings. Common practice
// of builders (no source).
#include "crafts/tubes/tube.h"
#include "quantity/say.h"
#include "simulation/stores.h"

#include <algorithm>
#include <fmt/format.h>
#include <limits>

namespace arc {

void tube_stores(const Design& d, const Analysis& a, const PowerAnalysis* simulated, std::vector<Store>& out) {
  constexpr double none = std::numeric_limits<double>::infinity();
  const auto* run = part_of<TubePower>(simulated);
  const double supply_v = supply_at_most_v(d, run);
  out.push_back({"RF bypass capacitor", d.tube.bypass_f, supply_v, none});
  if (is_flame(d)) return;
  if (run)
    out.push_back({"Grid-leak capacitor", d.tube.grid_leak_f, -std::min(0.0, run->run.grid_least_v) / 2,
                   d.tube.grid_leak_ohm});
  if (d.tube.staccato && a.computed)
    out.push_back({"Thyristor's snubber", d.tube.snubber_f,
                   run ? std::max(run->run.cathode_most_v, supply_v) : supply_v, d.tube.thyristor_off_ohm});
}

std::vector<CheckItem> tube_checks(const Design& d, const Analysis& a, const PowerAnalysis* simulated,
                                   UnitSystem units) {
  const TubeOscillator& t = d.tube;
  const Say say{units};
  using enum Dimension;
  const Distances away = distances_of(d, a, simulated);
  std::vector<CheckItem> out{
      {"people", fmt::format("Nobody with a pacemaker or implant near; people and pets at least {} back, one hand "
                             "behind, ears and eyes covered",
                             say.arc(away.people_m))},
      {"strike",
       fmt::format("Nothing that may be struck within {}: wiring, lamps, pipes, ceiling", say.arc(away.strike_m))},
      {"filament",
       fmt::format("Filament alone: {} at the socket with the tube in, within 5 %; wait until it has its "
                   "full glow, cooling air on, before any plate volts",
                   say(t.tube.filament_v, voltage))},
      {"pins", "Tube's pins looked up from below; the grid goes to the feedback winding, never to the filament's "
               "centre tap"},
      {"directions",
       "Plate coil, feedback winding and secondary wound the same way; the feedback's ends marked for "
       "swapping"},
      {"clearance", fmt::format("At least {} between feedback winding and plate coil, nothing loose near either",
                                say(0.010, length))},
      {"leak", fmt::format("Grid leak of {} measured, and clear of anything that burns: it takes tens of watts",
                           say(t.grid_leak_ohm, resistance))},
      {"bypass",
       fmt::format("RF bypass capacitor of {} from the supply's end to ground", say(t.bypass_f, capacitance))},
      {"feed", "Supply tried alone at a low variac setting, then discharged and shorted"},
      {"cores", "Transformer cores insulated and out of reach; with series windings they are live"},
      {"first",
       "First power at a tenth of the variac, for a second, watching the plate: a glow without arcs means it "
       "does not oscillate: switch off"}};
  if (t.supply_voltage_v)
    out[8].text = fmt::format("Supply of {} direct current with its bleeder", say(*t.supply_voltage_v, voltage));
  if (t.push_pull)
    out.push_back({"middles",
                   "Push-pull: supply and the tank's middle at the plate coil's middle, grid leak at the feedback "
                   "winding's; as many turns on either side of each"});
  if (t.staccato)
    out.push_back({"gate", "Interrupter at its lowest rate; its box isolated by opto-coupler or fibre, " +
                               fmt::format("{} are a wire away",
                                           say(gate_stands_off_v(d, part_of<TubePower>(simulated)), voltage))});
  if (a.breakout)
    out.push_back({"ground", "Secondary's base on its own ground rod; strike path clear of the feed"});
  return out;
}

std::vector<CheckItem> flame_checks(const Design& d, const Analysis& a, const PowerAnalysis* simulated,
                                    UnitSystem units) {
  const Say say{units};
  const Distances away = distances_of(d, a, simulated);
  using enum Dimension;
  return {
      {"isolation", "A cage or a rail around it: the flame is at plate volts, floating transformer or not; nothing "
                    "goes near it while it is on"},
      {"people",
       fmt::format("People at least {} back, nobody with a pacemaker or implant near; at these megahertz phones, "
                   "watches and radios all round hear it",
                   say.arc(away.people_m))},
      {"filament", fmt::format("Filament alone: {} at the socket with the tube in, within 5 %, for a minute",
                               say(d.tube.tube.filament_v, voltage))},
      {"pins", "Tube's pins looked up from below; screen on its own supply, bypassed at the socket"},
      {"grid", fmt::format("Grid resistor of {} measured, for {} and more",
                           say(d.flame.grid_resistor_ohm, resistance), say(d.flame.grid_resistor_rating_w, power))},
      {"feedback", "Feedback plate firmly fixed: a millimetre changes the drive"},
      {"point", "Breakout point of tungsten or steel, screwed: solder there melts"},
      {"first",
       "First power at a tenth of the supply for a second, watching the plate; a glow without a flame: off"}};
}

std::vector<std::string> tube_steps_after(const Design& d, const Analysis& a, const PowerAnalysis* simulated,
                                          UnitSystem units) {
  const bool fired = d.tube.staccato && !is_flame(d);
  std::vector<std::string> out{fired ? "Interrupter off, variac to zero, unplug the plate supply."
                                     : "Variac to zero, unplug the plate supply."};
  add_discharge_steps(stores_of(d, a, simulated), units, out);
  out.emplace_back("Filament off after a minute of air, unplug all; only then feel for warmth, and write it down.");
  return out;
}

} // namespace arc
