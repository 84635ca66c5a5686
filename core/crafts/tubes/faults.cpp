// Where to look first with a tube coil: the order of practitioners (common practice, no source).
#include "crafts/tubes/tube.h"
#include "quantity/say.h"
#include "simulation/advice.h"

#include <array>
#include <fmt/format.h>
#include <string_view>

namespace arc {
namespace {

using enum Dimension;

FaultStep filament_step(const Design& d, UnitSystem units) {
  const Say say{units};
  return {.question =
              fmt::format("Does the filament glow, with {} at the socket?", say(d.tube.tube.filament_v, voltage)),
          .how = "Meter on alternating volts at the socket, tube in, plate supply unplugged and shorted.",
          .cure = "Repair the filament's supply first; within 5 %, low is as harmful as high.",
          .stage = "oscillator",
          .field = "tube.filament_supply_v"};
}

std::vector<FaultStep> no_arcs(const Design& d, const Analysis& a, const PowerAnalysis* power, UnitSystem units) {
  const Say say{units};
  const TubePower* p = part_of<TubePower>(power);
  const bool known = p && p->problem.empty();
  std::vector<FaultStep> out{filament_step(d, units)};
  out.push_back(
      {.question = known ? fmt::format("Are there plate volts? Its crest should be near {} without the tube.",
                                       say(p->crest_v, voltage))
                         : std::string("Are there plate volts?"),
       .how = "On a divider that was wired in with everything shorted, its meter at the switch; low variac "
              "setting, scaled up.",
       .cure = "Follow the feed from the wall: fuse, contactor, transformer, diodes.",
       .stage = "feed"});
  out.push_back({.question = "With the feedback winding's two ends swapped, does it start?",
                 .how = "Everything off and shorted; swap the ends; a second at a tenth of the variac.",
                 .fault_if = true,
                 .cure = "They were the wrong way round: leave them as they are now.",
                 .apply = [](Design& x) { x.tube.reversed = !x.tube.reversed; },
                 .stage = "oscillator",
                 .field = "tube.feedback_direction"});
  out.push_back(
      {.question = "Is the grid's return at ground, and not at the filament's centre tap?",
       .how = "Socket from below against the data sheet; ohmmeter from grid pin to the cold end of the grid leak.",
       .cure = "Rewire it: the classic slip of this circuit.",
       .stage = "oscillator"});
  out.push_back({.question = fmt::format("Does the grid leak measure {}?", say(d.tube.grid_leak_ohm, resistance)),
                 .how = "Ohmmeter, one end free.",
                 .cure = "Fit a new one, for twice the watts.",
                 .stage = "oscillator",
                 .field = "tube.grid_leak_ohm"});
  if (a.tank_hz > 0 && a.resonator)
    out.push_back({.question = fmt::format("Is the tank near the resonator: {} against {}?",
                                           say(a.tank_hz, frequency), say(a.resonator->mode_1_hz, frequency)),
                   .how = "Grid-dip or generator and lamp at the plate coil, tube out.",
                   .cure = a.tuned_tap_turns ? fmt::format("Tap the plate coil at turn {:.4g}.", *a.tuned_tap_turns)
                                             : std::string("Add or take away a tank capacitor at a time."),
                   .stage = "tank",
                   .field = "primary.tap_turns"});
  out.push_back({.question = "Does it start with two feedback turns more?",
                 .how = "Everything off and shorted; wind them; then a second at a tenth of the variac.",
                 .fault_if = true,
                 .cure = "The feedback is just too small: a turn or two more.",
                 .apply = [](Design& x) { x.feedback.turns += 2; },
                 .stage = "oscillator",
                 .field = "feedback.turns"});
  out.push_back({.question = "Does the plate stay dark with the secondary taken away?",
                 .how = "A second at low variac; a glow without the secondary is a parasitic oscillation.",
                 .cure = "Fit or change the trap in the plate lead; shorten the grid's lead.",
                 .stage = "oscillator",
                 .field = "tube.trap_ohm"});
  out.push_back({.question = "Does another tube work in its place?",
                 .how = "Swap with one that is known good.",
                 .fault_if = true,
                 .cure = "The tube is worn: its emission is gone.",
                 .stage = "oscillator",
                 .field = "tube.perveance_a_per_v15"});
  return out;
}

std::vector<FaultStep> plate_glows(const Design& d, const Analysis&, const PowerAnalysis* power, UnitSystem units) {
  const Say say{units};
  const TubePower* p = part_of<TubePower>(power);
  const bool known = p && p->problem.empty();
  std::vector<FaultStep> out;
  out.push_back(
      {.question = "Does it oscillate at all while the plate glows?",
       .how = "A small gas-filled lamp a metre from the top lights; without, it only conducts.",
       .cure = "Switch off: a tube that does not oscillate takes its whole input as heat. Go through “No arcs”.",
       .stage = "oscillator"});
  out.push_back(
      {.question = known ? fmt::format("Is the plate expected to glow? It takes {} of {} rated.",
                                       say(p->worst_plate_w, Dimension::power),
                                       say(d.tube.tube.plate_dissipation_w, Dimension::power))
                         : std::string("Is the plate within its rating?"),
       .how = "Compare with the figures of this stage.",
       .cure = "A larger resistor at the grid, or shorter runs.",
       .apply = [](Design& x) { (is_flame(x) ? x.flame.grid_resistor_ohm : x.tube.grid_leak_ohm) *= 1.5; },
       .stage = "oscillator",
       .field = is_flame(d) ? "flame.grid_resistor_ohm" : "tube.grid_leak_ohm"});
  if (is_flame(d)) return out;
  out.push_back(
      {.question = "With one tank capacitor more, is it darker for the same arcs?",
       .how = "Off and shorted, add one, a second at the same variac setting; then one fewer than before.",
       .fault_if = true,
       .cure = "Keep the better of the two: the tank was off.",
       .stage = "tank"});
  out.push_back({.question = "Do both tubes of a pair glow alike?",
                 .how = "Look at both plates in the dark.",
                 .cure = "Swap them between the sockets; if the glow goes with the tube, match them better.",
                 .stage = "oscillator",
                 .field = "tube.sharing"});
  return out;
}

std::vector<FaultStep> flashes_over(const Design& d, const Analysis&, const PowerAnalysis*, UnitSystem units) {
  const Say say{units};
  return {{.question =
               fmt::format("Is there {} between feedback winding and plate coil everywhere?", say(0.012, length)),
           .how = "Off and shorted; ruler, and look for tracks of carbon.",
           .cure = "Move it away, clean or cut out the track.",
           .apply = [](Design& x) { x.feedback.gap_m = 0.012; },
           .stage = "oscillator",
           .field = "feedback.gap_m"},
          {.question = "Does it stop with the feedback winding below the plate coil?",
           .how = "Its hot end then faces away from the secondary.",
           .fault_if = true,
           .cure = "Leave it below.",
           .apply = [](Design& x) { x.feedback.above = false; },
           .stage = "oscillator",
           .field = "feedback.side"},
          {.question = d.tube.bypass_f > 0 ? fmt::format("Is the RF bypass capacitor of {} whole?",
                                                         say(d.tube.bypass_f, capacitance))
                                           : std::string("Is there an RF bypass capacitor?"),
           .how = "Meter, one end free.",
           .cure = "Fit one at the supply's end, short leads to ground.",
           .apply = [](Design& x) { x.tube.bypass_f = 4.7e-9; },
           .stage = "oscillator",
           .field = "tube.bypass_f"}};
}

std::vector<FaultStep> staccato_fails(const Design& d, const Analysis&, const PowerAnalysis*, UnitSystem units) {
  const Say say{units};
  return {{.question = "Does it run with the thyristor bridged?",
           .how = "Off and shorted; a wire across it; low variac.",
           .fault_if = true,
           .cure = "The oscillator is right; the fault is in the thyristor or its gate.",
           .stage = "staccato"},
          {.question = "Is there a gate pulse of a volt or more at the thyristor, against its cathode?",
           .how = "A meter on the opto-coupler's input only, wired in with everything shorted.",
           .cure = "Look at the opto-coupler, its resistor and its own small supply.",
           .stage = "staccato"},
          {.question = fmt::format("Is it fired later than 20° after the supply's zero? Now {:.0f}°.",
                                   d.interrupter.phase_deg),
           .how = "The phase of the interrupter.",
           .cure = "Too early there is not enough current to hold it.",
           .apply = [](Design& x) { x.interrupter.phase_deg = 60; },
           .stage = "staccato",
           .field = "interrupter.phase_deg"},
          {.question = "Does it turn off between firings?",
           .how = "The arcs pause; on direct current they cannot.",
           .cure = "Take the reservoir out: the supply must come to zero.",
           .stage = "feed"},
          {.question = fmt::format("Is its snubber of {} whole?", say(d.tube.snubber_f, capacitance)),
           .how = "Meter, one end free.",
           .cure = "Refit it: without it the thyristor fires by itself.",
           .stage = "staccato",
           .field = "tube.snubber_f"}};
}

// Those that need power; all others are done unplugged, waited and shorted.
constexpr std::array<std::string_view, 15> live_questions{{
    "Are there plate volts",
    "With the feedback winding's two ends swapped",
    "Does it start with two feedback turns more",
    "Does the plate stay dark",
    "Does another tube work",
    "Does it oscillate at all",
    "With one tank capacitor more",
    "Do both tubes of a pair",
    "Does it stop with the feedback winding below",
    "Does it run with the thyristor bridged",
    "Is there a gate pulse",
    "Does it turn off between firings",
    "With the feedback plate at half",
    "Is the supply's plus",
    "Does it light with a sharper point",
}};

constexpr std::array<FaultSymptom, 4> symptom_table{
    {{"no-arcs", "No arcs", with_live<no_arcs, live_questions>},
     {"plate-glows", "The plate glows", with_live<plate_glows, live_questions>},
     {"flashes-over", "Flashes over between windings", with_live<flashes_over, live_questions>},
     {"staccato", "Staccato does not work", with_live<staccato_fails, live_questions>}}};

std::vector<FaultStep> no_flame(const Design& d, const Analysis&, const PowerAnalysis*, UnitSystem units) {
  const Say say{units};
  std::vector<FaultStep> out{{.question = "Are the tube's pins wired as its data sheet shows them, from below?",
                              .how = "Everything off and shorted; ohmmeter from each pin.",
                              .cure = "Rewire the socket.",
                              .stage = "oscillator"},
                             filament_step(d, units)};
  out.push_back(
      {.question = fmt::format("Does the grid resistor measure {}?", say(d.flame.grid_resistor_ohm, resistance)),
       .how = "Ohmmeter, one end free.",
       .cure = "Fit a new one, for a hundred watts and more.",
       .stage = "oscillator",
       .field = "flame.grid_resistor_ohm"});
  out.push_back({.question = "With the feedback plate at half its distance, does it start?",
                 .how = "Everything off and shorted; then a second at a tenth of the supply.",
                 .fault_if = true,
                 .cure = "It was too small or too far: fix it there.",
                 .apply = [](Design& x) { x.flame.feedback_f *= 2; },
                 .stage = "oscillator",
                 .field = "flame.feedback_f"});
  out.push_back({.question = "Do plate coil and resonator go the right way: supply end, plate end, base, hot end?",
                 .how = "Follow the wire from the supply to the breakout point.",
                 .cure = "Join the resonator's base to the plate.",
                 .stage = "primary"});
  out.push_back({.question = "Is the supply's plus at the plate coil and its minus at the cathode?",
                 .how = "On a divider that was wired in with everything shorted, its meter at the switch; a tenth "
                        "of the supply.",
                 .cure = "Turn the supply round.",
                 .stage = "feed"});
  out.push_back({.question = "Does it light with a sharper point?",
                 .how = "Everything off and shorted; file or change it; then a second at a time, from the switch.",
                 .fault_if = true,
                 .cure = "It oscillates and only wants lighting: a sharper point.",
                 .stage = "resonator"});
  return out;
}

constexpr std::array<FaultSymptom, 2> flame_symptom_table{
    {{"no-flame", "No flame", with_live<no_flame, live_questions>},
     {"plate-glows", "The plate glows", with_live<plate_glows, live_questions>}}};

} // namespace

std::span<const FaultSymptom> flame_symptoms() {
  return flame_symptom_table;
}

std::span<const FaultSymptom> tube_symptoms() {
  return symptom_table;
}

} // namespace arc
