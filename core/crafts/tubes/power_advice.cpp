// What a single change, a swept number and a pair of numbers would bring, and what wastes the most.
#include "analysis/analyse.h"
#include "analysis/tank_at_rest.h"
#include "coil/streamer.h"
#include "coil/tapped_primary.h"
#include "crafts/tubes/power_parts.h"
#include "crafts/tubes/tube.h"
#include "file/validity.h"
#include "laws/circuit.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "quantity/parallel.h"
#include "quantity/say.h"
#include "simulation/feed_findings.h"
#include "simulation/ideas.h"
#include "simulation/one_at_a_time.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {

namespace {

void add_tank_ideas(const Design& d, std::vector<Idea>& out) {
  const Tank& tank = d.tank;
  const auto numbers = [&](double more) {
    return fmt::format("One {} {} the tank", tank.units_in_series > 1 ? "string" : "capacitor",
                       more > 0 ? "more in" : "fewer in");
  };
  if (tank_given(tank) == TankGiven::equal_units) {
    for (const double more : {1.0, -1.0})
      if (tank.units_in_parallel + more >= 1)
        out.push_back({numbers(more), [more](Design& x) { x.tank.units_in_parallel += more; }});
    return;
  }
  if (tank_given(tank) != TankGiven::one_value) return;
  for (const double factor : {0.9, 1.1}) {
    const double farad = round_significant(tank_capacitance_f(tank) * factor, 3);
    out.push_back({factor > 1 ? "A tenth more tank capacitance" : "A tenth less tank capacitance",
                   [farad](Design& x) { x.tank.single_capacitance_f = x.tank.capacitance_f = farad; }});
  }
}

std::vector<Idea> flame_ideas(const Design& d, UnitSystem units) {
  std::vector<Idea> out;
  const Say print{units, 2};
  for (const double factor : {0.5, 0.7, 1.4, 2.0}) {
    const double farad = round_significant(d.flame.feedback_f * factor, 2),
                 ohm = round_significant(d.flame.grid_resistor_ohm * factor, 2);
    out.push_back({fmt::format("Feedback plate of {}", print(farad, Dimension::capacitance)),
                   [farad](Design& x) { x.flame.feedback_f = farad; }});
    out.push_back({fmt::format("Grid resistor of {}", print(ohm, Dimension::resistance)),
                   [ohm](Design& x) { x.flame.grid_resistor_ohm = ohm; }});
  }
  if (!d.equivalent.primary_inductance_h)
    for (const double more : {-0.5, 0.5, 1.0})
      if (d.primary.turns + more >= 1)
        out.push_back({fmt::format("Coil of {:.3g} plate turns", d.primary.turns + more),
                       [more](Design& x) { x.primary.turns += more; }});
  return out;
}

std::vector<Idea> ideas(const Design& d, UnitSystem units) {
  if (is_flame(d)) return flame_ideas(d, units);
  std::vector<Idea> out;
  const TubeOscillator& t = d.tube;
  const Say print{units, 2};
  if (t.reversed) out.push_back({"Swap the feedback winding's ends", [](Design& x) { x.tube.reversed = false; }});
  add_tank_ideas(d, out);
  if (!d.equivalent.feedback_inductance_h)
    for (const double more : {-2.0, 2.0})
      if (d.feedback.turns + more >= 1)
        out.push_back({more > 0 ? "Two feedback turns more" : "Two feedback turns fewer",
                       [more](Design& x) { x.feedback.turns += more; }});
  for (const double factor : {0.5, 0.7, 1.5, 2.0}) {
    const double ohm = round_significant(t.grid_leak_ohm * factor, 2);
    out.push_back({fmt::format("Grid leak of {}", print(ohm, Dimension::resistance)),
                   [ohm](Design& x) { x.tube.grid_leak_ohm = ohm; }});
  }
  for (Idea& idea : primary_ideas(d, false, units)) out.push_back(std::move(idea));
  if (!d.equivalent.primary_inductance_h)
    for (const double more : {-1.0, 1.0})
      if (d.primary.tap_turns + more >= 2 && d.primary.tap_turns + more <= d.primary.turns)
        out.push_back({fmt::format("Plate coil tapped at turn {:.4g}", d.primary.tap_turns + more),
                       [more](Design& x) { x.primary.tap_turns += more; }});
  if (t.in_parallel > 1) out.push_back({"One tube fewer", [](Design& x) { x.tube.in_parallel -= 1; }});
  out.push_back({"One tube more beside it", [](Design& x) { x.tube.in_parallel += 1; }});
  return out;
}

} // namespace

void try_changes(const Design& design, const Analysis& analysis, UnitSystem units, const Work& work,
                 TubePower& out) {
  const auto& now = analysis.quick;
  const auto judge = [&](const Idea&, const Design&, const Analysis& changed) {
    const auto& then = changed.quick;
    // Where nothing swings now there is nothing to compare with: whatever starts it comes first.
    const double output = then && now ? then->output_w / now->output_w : 0;
    const double plate = then && now ? then->device_w / now->device_w : 1;
    return TriedChange{.merit = !then ? 0
                                : now ? output / std::sqrt(plate)
                                      : 1e3,
                       .instead = output > 0 ? ""
                                  : then     ? "starts"
                                             : "stops",
                       .more = output > 0 ? ", at the supply's crest" : "",
                       .ratios = {{"output_ratio", "Output", output}, {"plate_ratio", "plate heat", plate}}};
  };
  out.changes = tried_ideas(design, ideas(design, units), units, work, judge);
}

namespace {

// A number that sweeps and maps turn, from `low` to `high` times its present value.
struct Knob {
  const char* key;
  const char* title;
  Dimension dimension;
  double now, low, high;
  std::function<void(Design&, double)> set; // where the circuit follows from the design
  std::function<void(TubeCircuit&, double)> turn;
  std::function<void(Design&, double)> take; // as the builder's parts allow; empty: not one number of the design

  // Evenly by ratio, or by difference.
  double at(std::size_t i, std::size_t across) const {
    return now * low * std::pow(high / low, static_cast<double>(i) / static_cast<double>(across - 1));
  }
  double evenly(std::size_t i, std::size_t across) const {
    return now * std::lerp(low, high, static_cast<double>(i) / static_cast<double>(across - 1));
  }
  // The circuit with it at `value`, from a circuit and the design behind it.
  TubeCircuit turned(Design& design, const Analysis& analysis, TubeCircuit c, double value) const {
    if (set) {
      set(design, value);
      c = circuit_of(design, analysis, true);
    }
    if (turn) turn(c, value);
    return c;
  }
};

Knob tank_knob(const Design& d) {
  const double now = tank_capacitance_f(d.tank);
  Knob out{"tank.capacitance_f", "Tank capacitance", Dimension::capacitance, now, 0.6, 1.6, {}, {}, {}};
  out.turn = [](TubeCircuit& c, double farad) { c.tank_f = farad; };
  if (tank_given(d.tank) == TankGiven::equal_units)
    out.take = [](Design& x, double farad) {
      x.tank.units_in_parallel =
          std::max(1.0, std::round(farad / tank_capacitance_f(x.tank) * x.tank.units_in_parallel));
    };
  if (tank_given(d.tank) == TankGiven::one_value)
    out.take = [](Design& x, double farad) {
      x.tank.single_capacitance_f = x.tank.capacitance_f = round_significant(farad, 3);
    };
  return out;
}

// Tank, grid leak, coupling, and feedback turns where they are known; of a flame coil feedback plate, grid resistor
// and plate coil.
std::vector<Knob> knobs(const Design& d, const TubeCircuit& c) {
  using enum Dimension;
  const auto ohms = [](auto member) {
    return [member](Design& x, double ohm) { member(x) = round_significant(ohm, 2); };
  };
  if (is_flame(d)) {
    const auto plate = [](Design& x, double farad) { x.flame.feedback_f = round_significant(farad, 3); };
    return {{"flame.feedback_f",
             "Feedback plate",
             capacitance,
             d.flame.feedback_f,
             0.2,
             4,
             {},
             [](TubeCircuit& x, double farad) { x.feedback_f = farad; },
             plate},
            {"flame.grid_resistor_ohm",
             "Grid resistor",
             resistance,
             d.flame.grid_resistor_ohm,
             0.2,
             5,
             {},
             [](TubeCircuit& x, double ohm) { x.grid_leak_ohm = ohm; },
             ohms([](Design& x) -> double& { return x.flame.grid_resistor_ohm; })},
            {"equivalent.primary_inductance_h",
             "Plate coil",
             inductance,
             c.plate_h,
             0.4,
             2.5,
             {},
             [](TubeCircuit& x, double henry) { x.plate_h = henry; },
             {}}};
  }
  std::vector<Knob> out{tank_knob(d)};
  out.push_back({"tube.grid_leak_ohm",
                 "Grid leak",
                 resistance,
                 d.tube.grid_leak_ohm,
                 0.25,
                 4,
                 {},
                 [](TubeCircuit& x, double ohm) { x.grid_leak_ohm = ohm; },
                 ohms([](Design& x) -> double& { return x.tube.grid_leak_ohm; })});
  if (!d.equivalent.feedback_inductance_h)
    out.push_back({"feedback.turns",
                   "Feedback turns",
                   number,
                   d.feedback.turns,
                   0.3,
                   2,
                   [](Design& x, double turns) { x.feedback.turns = turns; },
                   {},
                   [](Design& x, double turns) { x.feedback.turns = std::max(0.5, std::round(2 * turns) / 2); }});
  const WindingMode& first = c.modes.front();
  const double k = std::abs(first.mutual_h) / std::sqrt(c.plate_h * first.inductance_h);
  if (k > 0)
    out.push_back({"equivalent.coupling",
                   "Coupling",
                   number,
                   k,
                   0.4,
                   1.8,
                   {},
                   [k](TubeCircuit& x, double wanted) {
                     for (WindingMode& m : x.modes) m.mutual_h *= wanted / k;
                     for (double& h : x.feedback_mode_h) h *= wanted / k;
                   },
                   {}});
  return out;
}

TubePoint point_of(double value, const TubeCircuit& c) {
  const auto b = tube_balance(c, crest_supply_v(c));
  if (!b) return {value};
  return {value, true, b->frequency_hz, b->secondary_power_w, b->plate_dissipation_w, b->top_peak_v};
}

// Each number alone, on the balance at the crest.
void sweep(const Design& design, const Analysis& analysis, const TubeCircuit& middle, const std::vector<Knob>& all,
           const Work& work, TubePower& out) {
  constexpr std::size_t across = 25;
  for (const Knob& knob : all) {
    TubeSweep result{knob.key, knob.title, knob.dimension, knob.now, {}};
    result.points.resize(across);
    parallel_for(across, [&](std::size_t i) {
      const double value = knob.at(i, across);
      result.points[i] = {value};
      if (work.cancelled) return;
      try {
        Design changed = design;
        result.points[i] = point_of(value, knob.turned(changed, analysis, middle, value));
      } catch (const std::invalid_argument&) { // that value makes no circuit
      }
    });
    out.sweeps.push_back(std::move(result));
  }
}

// Of the fullest plate, over the duty of now; 0 where there is no balance to compare with.
double share_of_rating(double plate_w, const Design& design, const TubePower& now) {
  const double crest_w = now.balance ? now.balance->plate_dissipation_w : 0;
  return crest_w > 0 ? plate_w / crest_w * now.worst_plate_w / design.tube.tube.plate_dissipation_w : 0;
}

// Pairs of numbers: those that are set against each other when a coil is tuned.
void draw_maps(const Design& design, const Analysis& analysis, const TubeCircuit& middle,
               const std::vector<Knob>& all, const Work& work, TubePower& out) {
  constexpr std::size_t wide = 19, high = 13;
  const auto of = [&](std::string_view key) {
    return std::ranges::find_if(all, [&](const Knob& k) { return k.key == key; });
  };
  constexpr std::array<std::pair<const char*, const char*>, 5> pairs{
      {{"tank.capacitance_f", "feedback.turns"},
       {"tank.capacitance_f", "equivalent.coupling"},
       {"tube.grid_leak_ohm", "feedback.turns"},
       {"flame.feedback_f", "flame.grid_resistor_ohm"},
       {"equivalent.primary_inductance_h", "flame.feedback_f"}}};
  const auto axis = [](const Knob& k, std::size_t many) {
    MapAxis a{k.key, k.title, k.dimension, k.now, {}};
    for (std::size_t i = 0; i < many; ++i) a.values.push_back(k.evenly(i, many));
    return a;
  };
  for (const auto& [across_key, up_key] : pairs) {
    const auto across = of(across_key), up = of(up_key);
    if (across == all.end() || up == all.end()) continue;
    TriedMap map{.across = axis(*across, wide),
                 .up = axis(*up, high),
                 .quantities = {{"secondary_power_w", "Output", Dimension::power},
                                {"plate_dissipation_w", "Plate", Dimension::power},
                                {"frequency_hz", "Frequency", Dimension::frequency},
                                {"top_peak_v", "Top", Dimension::voltage}},
                 .idle = "does not swing",
                 .beside = "at the crest",
                 .limit_words = "dashed: the plate's rating"};
    map.places.resize(wide * high);
    parallel_for(high, [&](std::size_t row) {
      try {
        Design changed = design;
        const TubeCircuit c = up->turned(changed, analysis, middle, map.up.values[row]);
        for (std::size_t i = 0; i < wide && !work.cancelled; ++i) {
          const TubePoint p =
              point_of(map.across.values[i], across->turned(changed, analysis, c, map.across.values[i]));
          if (p.oscillates)
            map.places[row * wide + i] = {
                true, {p.output_w, p.plate_w, p.frequency_hz, p.top_v}, share_of_rating(p.plate_w, design, out)};
        }
      } catch (const std::invalid_argument&) { // that value makes no circuit
      }
    });
    if (across->take && up->take)
      map.apply = [one = across->take, other = up->take](Design& d, double x, double y) {
        one(d, x);
        other(d, y);
      };
    else
      map.only_shown = "One of the two is not a number of its own: move the coil, or its tap";
    out.maps.push_back(std::move(map));
  }
}

} // namespace

// The one thing put right that betters the share of the input at the coil the most, at the supply's crest.
void find_waste(const Design& d, const Analysis& analysis, UnitSystem units, const Work& work, TubePower& out) {
  const auto& now = analysis.quick;
  if (!now || !(now->input_w > 0) || out.efficiency() >= usual_efficiency || out.efficiency() <= 0) return;
  const auto say = [&](double si, Dimension dimension) { return format_quantity(si, dimension, units, 2); };
  std::vector<TubePower::Waste> ways;
  const auto add = [&](std::string cause, std::string cure, std::function<void(Design&)> apply) {
    ways.push_back({std::move(cause), std::move(cure), 0, std::move(apply)});
  };
  const double off = analysis.detuning(analysis.tank_hz);
  constexpr double seen = 0.03,
                   by_tap = 0.2; // relative; as far as a tap mends without taking the coil's turns away
  const std::string tank = fmt::format("the tank is {:.0f} % {}", 100 * std::abs(off), off > 0 ? "high" : "low");
  if (std::abs(off) > seen && analysis.tuned_tap_turns && std::abs(off) < by_tap) {
    const double tap = std::round(*analysis.tuned_tap_turns * 100) / 100;
    add(tank, fmt::format("Tap at turn {:.2f}", tap), [tap](Design& x) { x.primary.tap_turns = tap; });
  } else if (std::abs(off) > seen && analysis.tuned_capacitance_f) {
    const double farad = round_significant(*analysis.tuned_capacitance_f, 3);
    add(tank, "Tank of " + say(farad, Dimension::capacitance),
        [farad](Design& x) { scale_tank(x.tank, farad / tank_capacitance_f(x.tank)); });
  }
  const bool flame = is_flame(d);
  const double leak = flame ? d.flame.grid_resistor_ohm : d.tube.grid_leak_ohm;
  for (const double factor : {0.25, 0.5, 2.0, 4.0}) {
    const double ohm = round_significant(leak * factor, 2);
    add(factor < 1 ? "the grid leak is too large" : "the grid leak is too small",
        fmt::format("{} of {}", flame ? "Grid resistor" : "Grid leak", say(ohm, Dimension::resistance)),
        [ohm, flame](Design& x) { (flame ? x.flame.grid_resistor_ohm : x.tube.grid_leak_ohm) = ohm; });
  }
  if (!flame && !d.equivalent.feedback_inductance_h)
    for (const double factor : {0.5, 0.7, 1.5, 2.0}) {
      const double turns = std::max(1.0, std::round(d.feedback.turns * factor));
      add(factor < 1 ? "there are too many feedback turns" : "there are too few feedback turns",
          fmt::format("{} feedback turns", format_number(turns)), [turns](Design& x) { x.feedback.turns = turns; });
    }
  parallel_for(ways.size(), [&](std::size_t i) {
    Design changed = d;
    ways[i].apply(changed);
    if (work.cancelled || !edit_problem(d, changed, units).empty()) return;
    const Analysis then = analyse_untried(changed, units, false, work.kept);
    if (then.quick && then.quick->input_w > 0) ways[i].efficiency_then = then.quick->output_w / then.quick->input_w;
  });
  const auto best = std::ranges::max_element(ways, {}, &TubePower::Waste::efficiency_then);
  constexpr double worth = 1.15;
  if (best != ways.end() && best->efficiency_then > worth * now->output_w / now->input_w) out.waste = *best;
}

void sweep_numbers(const Design& design, const Analysis& analysis, const Work& work, TubePower& out) {
  const TubeCircuit middle = circuit_of(design, analysis, true);
  const std::vector<Knob> all = knobs(design, middle);
  sweep(design, analysis, middle, all, work, out);
  draw_maps(design, analysis, middle, all, work, out);
}

} // namespace arc
