// Where to look when a spark-gap coil does not do what it should: the order of practitioners (common practice, no
// source).
#include "crafts/spark_gap/spark_gap.h"
#include "parts/bank.h"
#include "simulation/advice.h"

#include <array>
#include <cmath>
#include <fmt/format.h>
#include <string_view>

namespace arc {
namespace {

using Steps = std::vector<FaultStep>;

// Values in sentences.
struct Print {
  UnitSystem units;
  std::string volts(double v) const { return format_quantity(v, Dimension::voltage, units, 3); }
  std::string hertz(double v) const { return format_quantity(v, Dimension::frequency, units, 4); }
  std::string ohms(double v) const { return format_quantity(v, Dimension::resistance, units, 3); }
  std::string length(double v) const { return format_quantity(v, Dimension::length, units, 3); }
  std::string amperes(double v) const { return format_quantity(v, Dimension::current, units, 3); }
};

bool charges(const SparkGapPower* p) {
  return p && p->charging_problem.empty();
}

FaultStep tune_step(const Design& d, const Analysis& a, const Print& say) {
  FaultStep out{.question =
                    fmt::format("Is the tap at turn {:.2f}?", a.tuned_tap_turns.value_or(d.primary.tap_turns)),
                .how = "Supply unplugged, tank shorted: count the turns from the inner end.",
                .cure = "Move the tap there; then half a turn either way by eye.",
                .stage = "tune",
                .field = "primary.tap_turns"};
  if (a.tuned_tap_turns) {
    out.cure = fmt::format("Move the tap to turn {:.2f}: the tank then meets the coil at {}.", *a.tuned_tap_turns,
                           say.hertz(a.target_hz));
    out.apply = [tap = *a.tuned_tap_turns](Design& x) { x.primary.tap_turns = std::round(tap * 100) / 100; };
  }
  return out;
}

FaultStep ground_step() {
  return {.question = "Is the secondary's base on its own ground, with every joint tight?",
          .how = "Ohmmeter from the base to the rod: below an ohm of wire; never on mains earth.",
          .cure = "Give the base its own ground rod or counterpoise, by wide and short strap.",
          .stage = "resonator",
          .field = "site.ground_resistance_ohm"};
}

FaultStep winding_step(const Analysis& a, const Print& say) {
  return {.question = fmt::format("Does the secondary measure about {}?", say.ohms(a.secondary_resistance_ohm)),
          .how = "Ohmmeter from base to top, everything else off.",
          .cure = "The wire is broken, or turns are shorted: look for a burnt spot along the winding.",
          .stage = "resonator",
          .field = "secondary.turns"};
}

Steps does_not_fire(const Design& d, const Analysis&, const PowerAnalysis* power, UnitSystem units) {
  const SparkGapPower* p = part_of<SparkGapPower>(power);
  const Print say{units};
  Steps out;
  out.push_back(
      {.question =
           "At a twentieth of the variac, does the feed draw its idle current, and does its output read its share?",
       .how = "Tank and gap disconnected; a clamp meter around the mains lead, a divider across the output, both "
              "wired in "
              "unplugged and shorted and read from the switch. No arc is drawn by a stick: oven and direct-current "
              "supplies kill that way.",
       .cure = "No high voltage: breaker, contactor, variac, fuse, then the transformer.",
       .stage = "feed"});
  if (charges(p))
    out.push_back(
        {.question = fmt::format("Is the gap set for more than {}, which is what the feed reaches?",
                                 say.volts(p->charging.tank_peak_v)),
         .how = fmt::format("It was designed for {}; each of its gaps by feeler gauge, unplugged and shorted.",
                            say.volts(d.gap.firing_voltage_v)),
         .fault_if = true,
         .cure = "Close the gap until it fires at full variac, then open it step by step.",
         .stage = "switch",
         .field = "gap.spacing_m"});
  out.push_back({.question = "Do the electrodes look clean, even and parallel?",
                 .how = "Unplugged and shorted: by eye, with a feeler gauge.",
                 .cure = "Clean and true them; a burnt edge fires at another voltage each time.",
                 .stage = "switch",
                 .field = "gap.spacing_m"});
  out.push_back(
      {.question = fmt::format("Does the tank measure about {}?",
                               format_quantity(tank_capacitance_f(d.tank), Dimension::capacitance, units, 3)),
       .how = "Capacitance meter, tank shorted first, bleeders allowed for.",
       .cure = "A unit is shorted or open: measure each.",
       .stage = "tank",
       .field = "tank.capacitance_f"});
  out.push_back({.question = "Does the safety gap fire instead of the main gap?",
                 .how = "Look and listen, from a distance.",
                 .fault_if = true,
                 .cure = "Open the safety gap, or close the main gap: the safety gap must fire last.",
                 .stage = "feed"});
  return out;
}

Steps no_arc(const Design& d, const Analysis& a, const PowerAnalysis*, UnitSystem units) {
  const Print say{units};
  Steps out{tune_step(d, a, say), ground_step(), winding_step(a, say)};
  if (a.breakout)
    out.push_back(
        {.question = fmt::format("Does anything leave the top with a point of {} on it?", say.length(0.03)),
         .how = "Unplugged and shorted: fix a wire that sticks out; then a run of seconds.",
         .fault_if = true,
         .cure = fmt::format("The topload holds {}: keep the point, or take a smaller tube.",
                             say.volts(a.breakout->voltage_v)),
         .apply =
             [](Design& x) {
               x.breakout.point_length_m = 0.03;
               x.breakout.point_tip_radius_m = 0.001;
             },
         .stage = "resonator",
         .field = "breakout.point_length_m"});
  return out;
}

Steps racing_sparks(const Design& d, const Analysis& a, const PowerAnalysis*, UnitSystem units) {
  const Print say{units};
  return {{.question = fmt::format("With the primary {} lower, are they gone?", say.length(0.01)),
           .how = fmt::format("Coupling is {:.3f} now; unplugged and shorted, on spacers.", a.coupling),
           .fault_if = true,
           .cure = "Too tight: leave it lower.",
           .apply = [](Design& x) { x.primary.base_height_m -= 0.01; },
           .stage = "primary",
           .field = "primary.base_height_m"},
          tune_step(d, a, say),
          {.question = "Does the gap quench late: a soft, continuous roar instead of hard single cracks?",
           .how = "By ear, with protection.",
           .fault_if = true,
           .cure = "More, shorter gaps with moving air.",
           .stage = "switch",
           .field = "gap.gaps_in_series"},
          {.question = "Is there dirt, a scratch or a loose turn where they start?",
           .how = "Unplugged, tank shorted: along the winding.",
           .fault_if = true,
           .cure = "Clean and varnish the winding.",
           .stage = "resonator",
           .field = "secondary.turns"}};
}

Steps down_the_form(const Design& d, const Analysis& a, const PowerAnalysis*, UnitSystem units) {
  const Print say{units};
  return {{.question = "Does any wire, screw or bolt reach into the form?",
           .how = "Light through the pipe, unplugged.",
           .fault_if = true,
           .cure = "Bring every conductor outside of the form.",
           .stage = "resonator",
           .field = "secondary.form_length_m"},
          {.question = "Is the inside of the form wet, dirty or painted with something that conducts?",
           .how = "Feel and look; PVC takes up water.",
           .fault_if = true,
           .cure = "Dry it warm, varnish it, close its ends.",
           .stage = "resonator",
           .field = "secondary.form_diameter_m"},
          {.question = fmt::format("Is the topload less than {} above the last turn?",
                                   say.length(0.2 * d.secondary.form_diameter_m)),
           .how = "Ruler.",
           .fault_if = true,
           .cure = "Raise the topload.",
           .stage = "resonator",
           .field = "topload"},
          tune_step(d, a, say)};
}

Steps breaker_trips(const Design& d, const Analysis&, const PowerAnalysis* power, UnitSystem units) {
  const SparkGapPower* p = part_of<SparkGapPower>(power);
  const Print say{units};
  Steps out;
  out.push_back({.question = "Does it trip with the tank and the gap disconnected?",
                 .how = "Variac from zero upwards.",
                 .fault_if = true,
                 .cure = "The transformer or what stands before it: a shorted winding, or inrush at switching on.",
                 .stage = "feed"});
  if (charges(p)) {
    out.push_back(
        {.question = fmt::format("Is the line current clearly above {}?", say.amperes(p->charging.line_current_a)),
         .how = "Clamp meter around one conductor of the mains lead.",
         .fault_if = true,
         .cure = "More than was computed: a shorted unit or diode, or a core in saturation.",
         .stage = "feed"});
    if (p->charging.power_factor < 0.7)
      out.push_back(
          {.question = fmt::format("Does it hold with a power-factor capacitor? The power factor is {:.2f} now.",
                                   p->charging.power_factor),
           .how = "Unplugged: across the mains side of the transformer, with its own bleeder.",
           .fault_if = true,
           .cure = "Keep the capacitor; see the finding on Feed for its size.",
           .stage = "feed"});
  }
  out.push_back({.question = "Does the gap stay conducting, as a continuous arc, not separate snaps?",
                 .how = "By eye, through dark glass.",
                 .fault_if = true,
                 .cure = "A power arc: open the gap, more air, or more impedance in the feed.",
                 .stage = "switch",
                 .field = "gap.spacing_m"});
  (void)d;
  return out;
}

Steps capacitor_warm(const Design& d, const Analysis& a, const PowerAnalysis* power, UnitSystem units) {
  const SparkGapPower* p = part_of<SparkGapPower>(power);
  const Print say{units};
  Steps out;
  if (p && !p->duty.stress.empty())
    out.push_back({.question = fmt::format("Are the units rated for less than {} RMS?",
                                           say.amperes(p->duty.stress.front().rms_a)),
                   .how = "Their data sheet; what is not stated is not assumed.",
                   .fault_if = true,
                   .cure = "One more string in parallel, or units for pulses.",
                   .apply = [](Design& x) { x.tank.units_in_parallel += 1; },
                   .stage = "tank",
                   .field = "tank.units_in_parallel"});
  out.push_back(
      {.question = "Is one unit warmer than its neighbours?",
       .how = fmt::format("Unplugged, waited, shorted ({} stood there): the back of the hand, or a thermometer.",
                          say.volts(a.unit_voltage_v)),
       .fault_if = true,
       .cure = "That unit is failing: replace it before the next run.",
       .stage = "tank",
       .field = "tank.capacitance_f"});
  out.push_back({.question = "Are the units made for pulses (polypropylene film and foil, or mica)?",
                 .how = "Their marking.",
                 .cure = "Polyester and plain ceramic heat up at these frequencies: change them.",
                 .stage = "tank",
                 .field = "tank.unit_dissipation_factor"});
  (void)d;
  return out;
}

Steps tuned_but_weak(const Design& d, const Analysis& a, const PowerAnalysis* power, UnitSystem units) {
  const SparkGapPower* p = part_of<SparkGapPower>(power);
  const Print say{units};
  Steps out{tune_step(d, a, say), ground_step()};
  if (p && !p->changes.empty() && p->changes.front().merit > 1.02)
    out.push_back({.question = fmt::format("Is it better after this: {}?", p->changes.front().title),
                   .how = fmt::format("By simulation it gives {:.0f} % more arc for the same watts.",
                                      100 * (p->changes.front().merit - 1)),
                   .fault_if = true,
                   .cure = "Keep it.",
                   .apply = p->changes.front().apply,
                   .stage = "switch",
                   .field = "single changes"});
  out.push_back(winding_step(a, say));
  out.push_back({.question = "Do the gap's electrodes run hot or look burnt?",
                 .how = "Unplugged and shorted, after a run.",
                 .fault_if = true,
                 .cure = "Gap losses are high: more, shorter gaps, moving air, clean electrodes.",
                 .stage = "switch",
                 .field = "gap.gaps_in_series"});
  return out;
}

// Those that need power; all others are done unplugged, waited and shorted.
constexpr std::array<std::string_view, 10> live_questions{{
    "At a twentieth of the variac",
    "Does the safety gap fire",
    "Does anything leave the top",
    "With the primary",
    "Does the gap quench late",
    "Does it trip with",
    "Is the line current",
    "Does it hold with",
    "Does the gap stay conducting",
    "Is it better after this",
}};

constexpr std::array<FaultSymptom, 7> spark_gap_table{
    {{"does-not-fire", "Does not fire", with_live<does_not_fire, live_questions>},
     {"no-arc", "Fires, but no arc", with_live<no_arc, live_questions>},
     {"racing-sparks", "Sparks race up the winding", with_live<racing_sparks, live_questions>},
     {"down-the-form", "Arcs down the form", with_live<down_the_form, live_questions>},
     {"breaker-trips", "The breaker trips", with_live<breaker_trips, live_questions>},
     {"capacitor-warm", "The tank capacitor gets warm", with_live<capacitor_warm, live_questions>},
     {"tuned-but-weak", "Tuned, but weak", with_live<tuned_but_weak, live_questions>}}};

} // namespace

std::span<const FaultSymptom> spark_gap_symptoms() {
  return spark_gap_table;
}

} // namespace arc
