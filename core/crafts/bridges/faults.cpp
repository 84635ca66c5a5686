// Where to look when a bridge does not do what it should, at low bus volts from an isolated supply: the order of
// practitioners (common practice, no source).
#include "crafts/bridges/bridge.h"
#include "quantity/say.h"

#include <array>
#include <fmt/format.h>
#include <string_view>

namespace arc {
namespace {

std::vector<FaultStep> no_output(const Design& d, const Analysis& a, const PowerAnalysis* power, UnitSystem units) {
  const Say say{units};
  const Bridge& b = d.bridge;
  const auto* simulated = part_of<BridgeAnalysis>(power);
  const double gate = gate_voltage_v(b);
  const double hz = a.circuit.resonance_hz;
  std::vector<FaultStep> out;
  out.push_back({.question = fmt::format("Is the driver's supply at {}, and its enable input active?",
                                         say(b.driver_supply_v, Dimension::voltage)),
                 .how = "Meter at the driver's chips; bus off and discharged.",
                 .fault_if = false,
                 .cure = "Supply, regulator or interrupter first: nothing else can be judged without them.",
                 .stage = "bridge",
                 .field = "bridge.driver_supply_v"});
  out.push_back(
      {.question = fmt::format("Do both gates of a leg see about {}, opposite to each other, 12 V or more?",
                               say(gate, Dimension::voltage)),
       .how = "Isolated oscilloscope from gate to source, bus off, the driver fed from a generator.",
       .fault_if = false,
       .cure = "A gate winding's ends swapped, a broken gate resistor, or a core that saturates.",
       .stage = "bridge",
       .field = "bridge.gate_secondary_turns"});
  FaultStep phase{.question = "With the primary's two ends swapped, does it start?",
                  .how = fmt::format("At {} to {} of bus from an isolated, current-limited supply.",
                                     say(20, Dimension::voltage), say(30, Dimension::voltage)),
                  .fault_if = true,
                  .cure = "The phase was wrong: leave it so.",
                  .stage = "bridge",
                  .field = "bridge.drive_direction"};
  if (b.reversed) phase.apply = [](Design& x) { x.bridge.reversed = false; };
  out.push_back(phase);
  if (b.feedback == Feedback::antenna)
    out.push_back(
        {.question = "Does it start with the antenna nearer?",
         .how = simulated && simulated->signal_v
                    ? fmt::format("At full bus it would carry {}; at a tenth of that, a tenth.",
                                  say(*simulated->signal_v, Dimension::voltage))
                    : "Move it with everything off; bursts at a low bus from an isolated, current-limited supply.",
         .fault_if = true,
         .cure = "Too little signal: a longer antenna, or one nearer to the topload.",
         .apply = [](Design& x) { x.bridge.antenna_length_m *= 1.5; },
         .stage = "bridge",
         .field = "bridge.antenna_length_m"});
  if (hz > 0)
    out.push_back({.question = fmt::format("Does the driver pass {} from a generator, edges clean?",
                                           say(hz, Dimension::frequency)),
                   .how = fmt::format("It ends at {}.", say(chain_limit_hz(b), Dimension::frequency)),
                   .fault_if = false,
                   .cure = "The coil is above the driver's range: more secondary turns, or a larger topload.",
                   .stage = "resonator",
                   .field = "secondary.turns"});
  out.push_back({.question = "Does the meter read the bus volts at the bridge?",
                 .how = "At the switches, not at the supply.",
                 .fault_if = false,
                 .cure = "Fuse, connector, or the current limit of the supply.",
                 .stage = "bridge",
                 .field = "bridge.bus_voltage_v"});
  out.push_back({.question = "Does each switch read a diode one way and nothing the other, on diode test?",
                 .how = "Unplugged, discharged, gates shorted to their sources.",
                 .fault_if = false,
                 .cure = "A switch is dead; replace both of the leg, and look at its gate drive before power.",
                 .stage = "bridge",
                 .field = "bridge.switch_voltage_rating_v"});
  return out;
}

std::vector<FaultStep> cuts_out(const Design& d, const Analysis&, const PowerAnalysis* power, UnitSystem units) {
  const Say say{units};
  const auto* simulated = part_of<BridgeAnalysis>(power);
  std::vector<FaultStep> out;
  if (d.bridge.feedback == Feedback::antenna)
    out.push_back({.question = "Does it hold on with the antenna shorter or farther away?",
                   .how = simulated && simulated->signal_v
                              ? fmt::format("It carries {} at full bus; the input is made for {}.",
                                            say(*simulated->signal_v, Dimension::voltage),
                                            say(d.bridge.input_limit_v, Dimension::voltage))
                              : "Halve its length.",
                   .fault_if = true,
                   .cure = "The signal was too strong: leave it shorter.",
                   .apply = [](Design& x) { x.bridge.antenna_length_m /= 2; },
                   .stage = "bridge",
                   .field = "bridge.antenna_length_m"});
  out.push_back({.question = "Does the driver's supply stay up while it bursts?",
                 .how = fmt::format("Meter on the {} rail, bus at a third.",
                                    say(d.bridge.driver_supply_v, Dimension::voltage)),
                 .fault_if = false,
                 .cure = "A larger capacitor at the gate driver, or its own supply.",
                 .stage = "bridge",
                 .field = "bridge.driver_supply_v"});
  if (d.bridge.current_limit_a)
    out.push_back({.question = fmt::format("Does the over-current lamp stay dark? The limit is {}.",
                                           say(*d.bridge.current_limit_a, Dimension::current)),
                   .how = simulated ? fmt::format("The burst reaches {} in the simulation.",
                                                  say(simulated->burst.primary_peak_a, Dimension::current))
                                    : "Count the lamp's flashes.",
                   .fault_if = false,
                   .cure = "It does what it is for: shorter bursts, a looser coupling, or the tank lower.",
                   .stage = "gate",
                   .field = "interrupter.on_time_s"});
  return out;
}

std::vector<FaultStep> few_sparks(const Design& d, const Analysis& a, const PowerAnalysis* power,
                                  UnitSystem units) {
  const Say say{units};
  const auto* simulated = part_of<BridgeAnalysis>(power);
  std::vector<FaultStep> out;
  if (simulated && !simulated->changes.empty()) {
    const TriedChange& best = simulated->changes.front();
    out.push_back({.question = "Is the coil as it is drawn here, turns and height measured again?",
                   .how = fmt::format("Coupling should be {:.2f}, primary {}.", a.circuit.coupling,
                                      say(a.circuit.primary_h, Dimension::inductance)),
                   .fault_if = false,
                   .cure = "Correct the design first: what follows depends on it.",
                   .stage = "primary",
                   .field = "primary.turns"});
    out.push_back({.question = fmt::format("Has this been tried: {}?", best.title),
                   .how = fmt::format("Simulated: {:.2f} times the top voltage, {:.2f} times the energy.",
                                      best.ratio("top_ratio"), best.ratio("energy_ratio")),
                   .fault_if = false,
                   .cure = best.title,
                   .apply = best.apply,
                   .stage = "bridge"});
  }
  if (!is_dual_resonant(d))
    out.push_back({.question = "Do arcs grow with turns taken off the primary and its height raised again?",
                   .how = "Fewer turns draw more and couple less; the height brings the coupling back.",
                   .fault_if = true,
                   .cure = "The primary's impedance was too high: go on until the switches say stop.",
                   .stage = "primary",
                   .field = "primary.turns"});
  out.push_back({.question = "Does the bus hold within a tenth while it bursts?",
                 .how = "Meter with peak hold at the reservoir, or an isolated oscilloscope.",
                 .fault_if = false,
                 .cure = "A larger reservoir, or a stiffer mains path.",
                 .stage = "bridge",
                 .field = "bridge.reservoir_f"});
  out.push_back({.question = "Is the breakout point sharp, and free of the topload's shadow?",
                 .how = "A blunt or hidden point lets the voltage leave elsewhere.",
                 .fault_if = false,
                 .cure = "A point that stands a hand's breadth off.",
                 .stage = "resonator",
                 .field = "breakout.point_length_m"});
  return out;
}

std::vector<FaultStep> switches_die(const Design& d, const Analysis&, const PowerAnalysis* power,
                                    UnitSystem units) {
  const Say say{units};
  const auto* simulated = part_of<BridgeAnalysis>(power);
  std::vector<FaultStep> out;
  out.push_back({.question = "Do the gates stay below their limit, ringing counted?",
                 .how = fmt::format("{} at most.", say(d.bridge.device.gate_limit_v, Dimension::voltage)),
                 .fault_if = false,
                 .cure = "A larger gate resistor, and a Zener pair from gate to source.",
                 .stage = "bridge",
                 .field = "bridge.gate_resistance_ohm"});
  if (simulated)
    out.push_back({.question = fmt::format("Is {} of current at the turn-off what the transformer shows?",
                                           say(simulated->burst.turn_off_a, Dimension::current)),
                   .how = "Positive: soft. Negative: each switch turns on into the other's diode.",
                   .fault_if = false,
                   .cure = "Phase or delay differ from the design: measure the chain's delay and enter it.",
                   .stage = "bridge",
                   .field = "bridge.driver_delay_s"});
  out.push_back({.question = "Is there a film capacitor right across each leg?",
                 .how = "Centimetres of lead ring above the bus at every turn-off.",
                 .fault_if = false,
                 .cure = "A microfarad of film at the switches' own pins.",
                 .stage = "bridge"});
  return out;
}

// Those that need power; all others are done unplugged, waited and shorted.
constexpr std::array<std::string_view, 10> live_questions{{
    "Does it start with the antenna",
    "With the primary's two ends swapped, does it start",
    "Does the meter read the bus volts",
    "Does it hold on with the antenna",
    "Does the driver's supply stay up",
    "Does the over-current lamp",
    "Has this been tried",
    "Do arcs grow with turns",
    "Does the bus hold",
    "Do the gates stay below",
}};

constexpr std::array<FaultSymptom, 4> table{
    {{"no-output", "Nothing comes out", with_live<no_output, live_questions>},
     {"cuts-out", "It cuts out when the bus rises", with_live<cuts_out, live_questions>},
     {"few-sparks", "It runs, but the arcs are short", with_live<few_sparks, live_questions>},
     {"switches-die", "Switches die or get hot", with_live<switches_die, live_questions>}}};

} // namespace

std::span<const FaultSymptom> bridge_symptoms() {
  return table;
}

} // namespace arc
