// Where to look when an exciter does not start: the order of practitioners (common practice, no source).
#include "crafts/exciter/exciter.h"
#include "quantity/say.h"
#include "simulation/advice.h"

#include <array>
#include <fmt/format.h>
#include <string_view>

namespace arc {
namespace {

std::vector<FaultStep> does_not_start(const Design& d, const Analysis& a, const PowerAnalysis* power,
                                      UnitSystem units) {
  const Say print{units};
  const Exciter& e = d.exciter;
  const bool mos = e.transistor.type == TransistorType::mos;
  const ExciterAnalysis* p = part_of<ExciterAnalysis>(power);
  const bool known = p && p->problem.empty();
  std::vector<FaultStep> out;
  out.push_back({.question = "With the primary's two ends swapped, does it start?",
                 .how = "Supply off, swap the two ends at the transistor and the supply, supply up slowly again.",
                 .fault_if = true,
                 .cure = "The ends were the wrong way round: leave them as they are now.",
                 .apply = [](Design& x) { x.exciter.primary_reversed = !x.exciter.primary_reversed; },
                 .stage = "driver",
                 .field = "exciter.primary_direction"});
  out.push_back({.question = mos ? "Are gate, drain and source where the data sheet shows them?"
                                 : "Are base, collector and emitter where the data sheet shows them?",
                 .how = "Look up the package from the side that faces you: flat ones of one shape differ in order.",
                 .cure = "Wire the pins as the data sheet shows.",
                 .stage = "driver",
                 .field = "exciter.transistor_type"});
  out.push_back({.question = fmt::format("Does the bias resistor measure about {}?",
                                         print(e.bias_resistance_ohm, Dimension::resistance)),
                 .how = "Ohmmeter, supply off, one end free.",
                 .cure = fmt::format("Fit {}.", print(e.bias_resistance_ohm, Dimension::resistance)),
                 .stage = "driver",
                 .field = "exciter.bias_resistance_ohm"});
  out.push_back(
      {.question = mos ? "Does the Zener's ring point to the gate?" : "Does the diode's ring point to the base?",
       .how = "Its cathode belongs to the base side, the anode to ground.",
       .cure = "Turn it round.",
       .stage = "driver",
       .field = "exciter.clamp"});
  out.push_back(
      {.question =
           known
               ? fmt::format("Does the supply give {} without falling into its limit? It should deliver about {}.",
                             print(e.supply_voltage_v, Dimension::voltage),
                             print(p->oscillation.collector_average_a, Dimension::current))
               : fmt::format("Does the supply give {} without falling into its limit?",
                             print(e.supply_voltage_v, Dimension::voltage)),
       .how = "Voltmeter across the supply's terminals while it is tried.",
       .cure = "Raise the limit in small steps, watching the heat.",
       .stage = "driver",
       .field = "exciter.supply_limit_a"});
  out.push_back(
      {.question =
           a.has_primary
               ? fmt::format("Is the primary's lowest turn level with the secondary's base, {} above the floor?",
                             print(d.secondary.base_height_m, Dimension::length))
               : std::string("Is the primary close to the secondary's base?"),
       .how = "Ruler; the coupling falls quickly with distance.",
       .cure = "Bring the primary down to the secondary's base.",
       .apply = [](Design& x) { x.primary.base_height_m = x.secondary.base_height_m; },
       .stage = "primary",
       .field = "primary.base_height_m"});
  out.push_back({.question = a.has_winding ? fmt::format("Does the secondary measure about {}?",
                                                         print(a.secondary_resistance_ohm, Dimension::resistance))
                                           : std::string("Does the secondary conduct from end to end?"),
                 .how = "Ohmmeter from base to top, everything else off.",
                 .cure = "The wire is broken or a joint is open: scrape the ends, then look along the winding.",
                 .stage = "resonator",
                 .field = "secondary.turns"});
  out.push_back(
      {.question = "Does the transistor pass a diode test at all its junctions?",
       .how =
           "Out of the circuit: one way conducts at about 0.6 V, the other not at all; collector to emitter not at "
           "all.",
       .cure = "The transistor is dead: replace it, and fit the clamp before it is tried.",
       .stage = "driver",
       .field = "exciter.transistor_type"});
  return out;
}

std::vector<FaultStep> runs_hot(const Design& d, const Analysis&, const PowerAnalysis* power, UnitSystem units) {
  const Say print{units};
  const ExciterAnalysis* p = part_of<ExciterAnalysis>(power);
  const bool known = p && p->problem.empty();
  std::vector<FaultStep> out;
  if (known)
    out.push_back({.question = fmt::format("Does the supply deliver clearly more than {}?",
                                           print(p->oscillation.collector_average_a, Dimension::current)),
                   .how = "Ammeter in the supply's lead.",
                   .fault_if = true,
                   .cure = "It conducts more than it oscillates: look under “Does not start”.",
                   .stage = "driver",
                   .field = "exciter.supply_voltage_v"});
  out.push_back(
      {.question = fmt::format("Is the supply above {}?", print(d.exciter.supply_voltage_v, Dimension::voltage)),
       .how = "Voltmeter at the supply.",
       .fault_if = true,
       .cure = "Turn it down to what was designed.",
       .stage = "driver",
       .field = "exciter.supply_voltage_v"});
  out.push_back({.question = "Is the transistor screwed to a heat sink, with grease or a pad?",
                 .how = "Supply off, cooled down: look.",
                 .cure = "Mount it; the sink is live with the collector and must touch nothing.",
                 .stage = "driver",
                 .field = "exciter.sink_k_per_w"});
  return out;
}

// With a meter, before the first power: packages of one shape differ in the order of their pins.
std::vector<FaultStep> check_the_pins(const Design& d, const Analysis&, const PowerAnalysis*, UnitSystem) {
  const TransistorType type = d.exciter.transistor.type;
  const bool mos = type == TransistorType::mos;
  const char* on_base = type == TransistorType::pnp ? "black" : "red";
  const char* on_others = type == TransistorType::pnp ? "red" : "black";
  const char* wrong = "Wire the pins as the meter shows them, and read them once more.";
  const std::string stage = "driver", field = "exciter.transistor_type";
  std::vector<FaultStep> out;
  out.push_back(
      {.question = "Does the data sheet's drawing show the package from the side that faces you?",
       .how =
           "Out of the circuit. Many drawings show it from below: left and right are then swapped. The flat side "
           "or the metal tab tells which way it lies.",
       .cure = "Turn the part, or read the drawing mirrored, before going on.",
       .stage = stage,
       .field = field});
  if (mos) {
    out.push_back(
        {.question =
             "Does the meter on diode test read nothing from gate to either of the others, both ways round?",
         .how = "Touch all three leads together first. A gate that conducts is broken through.",
         .cure = "The part is dead, or that lead is not the gate.",
         .stage = stage,
         .field = field});
    out.push_back(
        {.question =
             "With black on the drain and red on the source, does it read 0.4 to 0.8 V, and nothing the other way?",
         .how = "The body diode of an N-channel part.",
         .cure = wrong,
         .stage = stage,
         .field = field});
  } else {
    out.push_back({.question = fmt::format(
                       "With {} on the base, does the meter on diode test read 0.5 to 0.8 V with {} on each of "
                       "the others?",
                       on_base, on_others),
                   .how = "Both junctions conduct from the base of an NPN, and into that of a PNP.",
                   .cure = wrong,
                   .stage = stage,
                   .field = field});
    out.push_back({.question = "With the leads swapped, does it read nothing on both?",
                   .how = "Black for red, red for black.",
                   .cure = "A junction is broken through: the part is dead.",
                   .stage = stage,
                   .field = field});
    out.push_back(
        {.question = "Is the reading to the emitter the higher of the two, by some millivolts?",
         .how = "The emitter is doped more heavily; where both are alike, a meter with a gain socket tells.",
         .cure = "Collector and emitter are swapped: it would work, with little gain and few volts.",
         .stage = stage,
         .field = field});
  }
  out.push_back(
      {.question =
           mos ? "Is the metal tab connected to the drain?" : "Is the metal tab connected to the collector?",
       .how = "Meter on ohms. No tab: answer yes.",
       .cure = "The tab belongs to another lead: look the part up again before it is screwed to anything.",
       .stage = stage,
       .field = field});
  return out;
}

// Those that need power; all others are done unplugged, waited and shorted.
constexpr std::array<std::string_view, 4> live_questions{{
    "With the primary's two ends swapped, does it start",
    "Does the supply give",
    "Does the supply deliver",
    "Is the supply above",
}};

constexpr std::array<FaultSymptom, 3> exciter_table{
    {{"does-not-start", "Does not start", with_live<does_not_start, live_questions>},
     {"runs-hot", "The transistor gets hot", with_live<runs_hot, live_questions>},
     {"pins", "Before the first power: check the pins", check_the_pins}}};

} // namespace

std::span<const FaultSymptom> exciter_symptoms() {
  return exciter_table;
}

} // namespace arc
