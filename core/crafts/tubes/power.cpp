// The coil at rest, its run, single changes, sweeps and bands.
#include "coil/feed_findings.h"
#include "coil/ideas.h"
#include "coil/one_at_a_time.h"
#include "coil/streamer.h"
#include "coil/tank_at_rest.h"
#include "coil/tapped_primary.h"
#include "coil/validity.h"
#include "crafts/tubes/tube.h"
#include "laws/circuit.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "quantity/parallel.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

// Of the resonance: output peaks where the tank meets the resonator as arcs load it, one to three per cent down; a
// little below that it keeps the lower pole (own runs of oscillators like those of tests/data/solved-tubes.json; no
// source).
constexpr double tank_below = 0.02;
constexpr double swing_over_supply =
    1.1; // of the tank, at most, at rest: a tube swings it nearly as far as its supply

// What ends at the plate, without a run: for the coil at rest.
double crest_at_rest_v(const Design& d) {
  TubeCircuit c;
  c.site = d.site;
  c.direct_v = is_flame(d) ? d.flame.supply_voltage_v : d.tube.supply_voltage_v;
  if (!c.direct_v && !is_flame(d) && d.equivalent.supply_emf_v)
    c.shifter = ShifterSupply{*d.equivalent.supply_emf_v, 1, 1, 1, 1, 1};
  c.feed = d.feed;
  const bool known = c.direct_v || c.shifter || feed_problem(d.feed, FeedEnd::plate).empty();
  return known ? crest_supply_v(c) : 0;
}

// Metres of arc by the input while it is fired: 4 to 9 mm for each root of a watt, short and thick on a supply that
// runs through, longer in bursts (common practice, no source).
constexpr Range tube_arc_m_per_root_w{0.004, 0.009};

double silent_top_v(const TubePower& t) {
  TubeCircuit c = t.circuit;
  c.arc = ArcLoad::never;
  const auto b = tube_balance(c, t.crest_v);
  return b ? b->top_peak_v : 0;
}

std::optional<TubeBalance> balance_of(const Design& d, const Analysis& a) {
  const TubeCircuit c = circuit_of(d, a, true);
  return tube_balance(c, crest_supply_v(c));
}

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
  const auto print = [&](double si, Dimension dimension) { return format_quantity(si, dimension, units, 2); };
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
  const auto print = [&](double si, Dimension dimension) { return format_quantity(si, dimension, units, 2); };
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

void try_changes(const Design& design, const Analysis& analysis, UnitSystem units, const Work& work,
                 TubePower& out) {
  const auto& now = analysis.quick;
  out.changes = tried_ideas<TubeChange>(design, ideas(design, units), units, work,
                                        [&](const Idea& idea, const Design&, const Analysis& changed) {
                                          const auto& then = changed.quick;
                                          // Where nothing swings now there is nothing to compare with: whatever
                                          // starts it comes first.
                                          const double output = then && now ? then->output_w / now->output_w : 0;
                                          const double plate = then && now ? then->device_w / now->device_w : 1;
                                          const double merit = !then ? 0 : now ? output / std::sqrt(plate) : 1e3;
                                          return TubeChange{idea.title, output, plate, merit, idea.apply};
                                        });
  std::ranges::stable_sort(out.changes, std::greater{}, &TubeChange::merit);
}

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
  for (const auto& [across_key, up_key] : pairs) {
    const auto across = of(across_key), up = of(up_key);
    if (across == all.end() || up == all.end()) continue;
    TubeMap map;
    const auto axis = [](const Knob& k, std::size_t many) {
      TubeMap::Axis a{k.key, k.title, k.dimension, k.now, {}};
      for (std::size_t i = 0; i < many; ++i) a.values.push_back(k.evenly(i, many));
      return a;
    };
    map.across = axis(*across, wide);
    map.up = axis(*up, high);
    map.points.resize(wide * high);
    parallel_for(high, [&](std::size_t row) {
      try {
        Design changed = design;
        const TubeCircuit c = up->turned(changed, analysis, middle, map.up.values[row]);
        for (std::size_t i = 0; i < wide && !work.cancelled; ++i)
          map.points[row * wide + i] =
              point_of(map.across.values[i], across->turned(changed, analysis, c, map.across.values[i]));
      } catch (const std::invalid_argument&) { // that value makes no circuit
      }
    });
    if (across->take && up->take)
      map.apply = [one = across->take, other = up->take](Design& d, double x, double y) {
        one(d, x);
        other(d, y);
      };
    out.maps.push_back(std::move(map));
  }
}

// One at a time on the balance, relative, then put on the full run's figures: resonance and coupling by their
// bands, Q by 20 %, the tube's perveance by 15 % and µ by 10 % (tubes of one type differ so; common practice, no
// source), grid leak by 5 %, tank by its marking, supply by 5 %.
void find_bands(const Design& design, const Analysis& analysis, const Work& work, TubePower& out) {
  const auto [detune, coupling] = circuit_doubt(analysis);
  const double tank = design.tank.unit_tolerance.value_or(usual_capacitor_tolerance) / 2;
  struct State {
    TubeCircuit c;
    double rail_v;
  };
  const State middle{circuit_of(design, analysis, true), out.crest_v};
  const auto run = [](const State& s) {
    const auto b = tube_balance(s.c, s.rail_v);
    if (!b) throw std::invalid_argument("it does not swing");
    return FigureValues{{"frequency_hz", b->frequency_hz},
                        {"plate_input_w", b->plate_input_w},
                        {"plate_dissipation_w", b->plate_dissipation_w},
                        {"secondary_power_w", b->secondary_power_w},
                        {"top_peak_v", b->top_peak_v}};
  };
  const std::vector<std::function<void(State&, double)>> inputs{
      [detune = detune](State& s, double sign) { s.c.modes.front().capacitance_f *= std::exp(-2 * sign * detune); },
      [coupling = coupling](State& s, double sign) { s.c.modes.front().mutual_h *= std::exp(sign * coupling); },
      [](State& s, double sign) { s.c.modes.front().resistance_ohm *= 1 + 0.2 * sign; },
      [](State& s, double sign) {
        s.c.law.perveance *= 1 + 0.15 * sign;
        s.c.law.grid_perveance *= 1 + 0.15 * sign;
      },
      [](State& s, double sign) { s.c.law.mu *= 1 + 0.1 * sign; },
      [](State& s, double sign) { s.c.grid_leak_ohm *= 1 + 0.05 * sign; },
      [tank](State& s, double sign) { s.c.tank_f *= 1 + tank * sign; },
      [](State& s, double sign) { s.rail_v *= 1 + 0.05 * sign; }};
  if (!tube_balance(middle.c, middle.rail_v)) return;
  const FigureValues at = run(middle);
  const FigureValues full{{"frequency_hz", out.run.frequency_hz},
                          {"plate_input_w", out.run.plate_input_w},
                          {"plate_dissipation_w", out.run.plate_dissipation_w},
                          {"secondary_power_w", out.run.secondary_power_w},
                          {"top_peak_v", out.run.top_peak_v}};
  const double pole_hz = at.at("frequency_hz");
  OtherCourses others{[pole_hz](const FigureValues& way) { return is_other_pole(way.at("frequency_hz"), pole_hz); },
                      {}};
  const FigureValues bands = one_at_a_time<State>(middle, at, inputs, run, work.cancelled, &others);
  if (!others.ways.empty()) out.other_pole_hz = others.ways.front().at("frequency_hz");
  for (const auto& [key, half] : bands)
    if (at.at(key) > 0) out.band[key] = half / at.at(key) * full.at(key);
}

// The tube that takes most of what several share, and how long plate and grid stand it.
void share_heat(const Design& d, TubePower& out) {
  const TubeOscillator& t = d.tube;
  const double count = tube_count(d), most = count > 1 ? 1 + t.sharing : 1;
  out.worst_plate_w = out.run.plate_dissipation_w / count * most;
  out.worst_grid_w = out.run.grid_dissipation_w / count * most;
  out.plate_time_s = time_to_limit_s(out.worst_plate_w / t.tube.plate_dissipation_w, t.tube.plate_heat_s);
  out.grid_time_s = time_to_limit_s(out.worst_grid_w / t.tube.grid_dissipation_w, t.tube.grid_heat_s);
}

void square_load(const Design& d, double ohm, const Work& work, TubePower& out) {
  try {
    FeedLoads loads = simulate_plate_feed(d.feed, d.site, ohm, d.tube.bypass_f, work.cancelled);
    // Between firings, and as the oscillator lets go, leakage and capacitors ring the supply above what a resistor
    // lets it reach: diodes and joints behind the rectifier see that.
    for (DiodeLoad& diode : loads.diodes) diode.inverse_v = std::max(diode.inverse_v, out.run.rail_most_v);
    for (JointLoad& joint : loads.joints)
      if (!joint.mains && &joint >= &loads.joints.back() - 1)
        joint.peak_v = std::max(joint.peak_v, out.run.rail_most_v);
    out.mains = std::make_shared<const FeedLoads>(std::move(loads));
  } catch (const std::invalid_argument& refusal) {
    out.mains_problem = refusal.what();
  }
}

// In what a flame coil's resonator is wound on: by the mean square of its radio frequency, which stands on the
// supply's volts.
double lost_in_form_w(const Design& d, const TubePower& t) {
  const double peak_v = t.run.top_peak_v - (t.on_mains ? t.run.rail_most_v : t.crest_v);
  double square = peak_v * peak_v;
  if (t.on_mains && !t.run.samples.empty()) {
    square = 0;
    for (const TubeSample& s : t.run.samples) square += std::pow(std::max(0.0, s.top_v - s.rail_v), 2);
    square /= static_cast<double>(t.run.samples.size());
  }
  return form_loss(d.flame.form) * std::numbers::pi * t.run.frequency_hz * t.circuit.modes.front().capacitance_f *
         square;
}

// Watts while it is fired, at full variac and with the tank in tune: of the larger of the run, scaled as a supply's
// power goes with the square of its volts, and of the balance there.
double full_power_w(const Design& d, const Analysis& a, const TubePower& t) {
  const FeedBlock* variac = find_block(d.feed, BlockRole::variac);
  const double rise = variac ? std::max(1.0, 1 / block_value(*variac, "setting")) : 1;
  double watts = t.run.plate_input_w / std::max(t.duty, 1e-3) * rise * rise;
  TubeCircuit c = circuit_of(d, a, true);
  if (!is_flame(d) && a.tuned_capacitance_f) c.tank_f = *a.tuned_capacitance_f;
  if (const auto b = tube_balance(c, t.crest_v * rise)) {
    // On a swinging supply the mean is about half of what the crest's volts take: (sin^2).
    watts = std::max(watts, b->plate_input_w * (t.circuit.direct_v ? 1 : 0.5));
  }
  return watts;
}

// A small capacitor sags with every cycle, and a large one may ring less with the leakage than a middling one: the
// least that gives nearly what the best of those tried does.
void try_shifters(const Design& d, double ohm, const Work& work, TubePower& out) {
  const auto place = level_shifter_at(d);
  if (!place || !out.mains) return;
  constexpr std::array factors{1.0, 1.5, 2.2, 3.3, 4.7, 6.8, 10.0};
  constexpr double worth = 1.3, nearly = 0.9;
  const double now_f = block_value(d.feed[*place], "capacitance_f");
  std::array<double, factors.size()> square{}; // of the rail
  parallel_for(factors.size(), [&](std::size_t i) {
    if (work.cancelled) return;
    Design tried = d;
    tried.feed[*place].values["capacitance_f"] = factors[i] * now_f;
    const FeedLoads loads = simulate_plate_feed(tried.feed, d.site, ohm, d.tube.bypass_f, work.cancelled);
    square[i] = loads.joints.back().rms_v * loads.joints.back().rms_v;
  });
  if (work.cancelled || !(square[0] > 0)) return;
  const double best = *std::ranges::max_element(square);
  if (best < worth * square[0]) return;
  const auto enough = std::ranges::find_if(square, [&](double each) { return each >= nearly * best; });
  const auto i = static_cast<std::size_t>(enough - square.begin());
  out.better_shifter = {*place, round_significant(factors[i] * now_f, 2), square[i] / square[0]};
}

// The feed's load by the power that the run took of it.
void load_feed(const Design& d, const Work& work, TubePower& out) {
  if (out.circuit.feed.empty() || !(out.run.plate_input_w > 0)) return;
  if (!out.on_mains) { // at its crest: a resistor that takes this power there
    square_load(d, out.crest_v * out.crest_v / out.run.plate_input_w, work, out);
    return;
  }
  double square = 0;
  for (const TubeSample& s : out.run.samples)
    if (s.time_s >= out.run.from_s) square += s.rail_v * s.rail_v;
  const auto count =
      std::ranges::count_if(out.run.samples, [&](const TubeSample& s) { return s.time_s >= out.run.from_s; });
  if (count == 0) return;
  const double ohm = std::max(10.0, square / static_cast<double>(count) / out.run.plate_input_w);
  square_load(d, ohm, work, out);
  try_shifters(d, ohm, work, out);
}

// Means of plate and grid current over what the supply swings through, at `share` of its present crest: the balance
// at a dozen rail volts, straight between them.
struct MeterLaw {
  double crest_v = 0; // of the highest setting
  std::vector<double> plate_a, grid_a;
  std::vector<double> swing; // of the rail over its crest, along a period
  double oscillates_from_v = 0;

  TubeMeters at(double crest) const {
    TubeMeters out;
    out.crest_v = crest;
    const auto between = [&](const std::vector<double>& all, double volts) {
      const double place = std::clamp(volts / crest_v, 0.0, 1.0) * static_cast<double>(all.size() - 1);
      const auto low = std::min(static_cast<std::size_t>(place), all.size() - 2);
      const double part = place - static_cast<double>(low);
      return all[low] * (1 - part) + all[low + 1] * part;
    };
    for (const double share : swing) {
      const double volts = share * crest, plate = between(plate_a, volts);
      out.plate_a += plate / static_cast<double>(swing.size());
      out.grid_a += between(grid_a, volts) / static_cast<double>(swing.size());
      out.input_w += plate * volts / static_cast<double>(swing.size());
    }
    out.oscillates = oscillates_from_v > 0 && crest >= oscillates_from_v;
    return out;
  }
};

MeterLaw meter_law(const TubeCircuit& circuit, const TubePower& t, double crest_v, const Work& work) {
  constexpr std::size_t steps = 16;
  MeterLaw law;
  law.crest_v = crest_v;
  law.plate_a.assign(steps + 1, 0);
  law.grid_a.assign(steps + 1, 0);
  std::vector<char> swings(steps + 1, 0);
  parallel_for(steps, [&](std::size_t i) {
    if (work.cancelled) return;
    const double volts = crest_v * static_cast<double>(i + 1) / steps;
    if (const auto b = tube_balance(circuit, volts)) {
      law.plate_a[i + 1] = b->plate_average_a;
      law.grid_a[i + 1] = b->grid_average_a;
      swings[i + 1] = 1;
    } else { // what flows where nothing oscillates, the grid at the cathode's volts
      law.plate_a[i + 1] = tube_currents(circuit.law, volts, 0).plate_a;
    }
  });
  const auto first = std::ranges::find(swings, 1);
  if (first != swings.end()) law.oscillates_from_v = crest_v * static_cast<double>(first - swings.begin()) / steps;
  for (const TubeSample& s : t.run.samples)
    if (s.time_s >= t.run.from_s) law.swing.push_back(std::max(0.0, s.rail_v) / t.crest_v);
  if (law.swing.empty()) law.swing.push_back(1);
  return law;
}

// What a builder watches while the variac comes up.
void read_meters(const Design& d, const Analysis& a, const Work& work, TubePower& out) {
  const FeedBlock* variac = find_block(d.feed, BlockRole::variac);
  if (!variac || !out.on_mains || !out.mains || !out.run.oscillates || !(out.run.plate_average_a > 0)) return;
  const double now = block_value(*variac, "setting");
  if (!(now > 0)) return;
  constexpr std::array settings{0.1, 0.25, 0.5, 0.75, 1.0};
  const MeterLaw law = meter_law(circuit_of(d, a, true), out, out.crest_v * std::max(1.0, 1 / now), work);
  const TubeMeters here = law.at(out.crest_v);
  if (!(here.plate_a > 0) || !(here.input_w > 0)) return;
  double square = 0;
  for (const double share : law.swing) square += share * share / static_cast<double>(law.swing.size());
  std::vector<TubeMeters> meters(settings.size());
  parallel_for(settings.size(), [&](std::size_t i) {
    if (work.cancelled) return;
    TubeMeters& m = meters[i];
    m = law.at(out.crest_v * settings[i] / now);
    m.setting = settings[i];
    m.plate_a *= out.run.plate_average_a / here.plate_a;
    m.grid_a *= here.grid_a > 0 ? out.run.grid_average_a / here.grid_a : 1;
    m.input_w *= out.run.plate_input_w / here.input_w;
    Design turned = d;
    find_block(turned.feed, BlockRole::variac)->values["setting"] = settings[i];
    const double ohm = std::max(10.0, square * m.crest_v * m.crest_v / std::max(m.input_w, 1e-3));
    const FeedLoads loads = simulate_plate_feed(turned.feed, d.site, ohm, d.tube.bypass_f, work.cancelled);
    m.line_a = loads.line_current_a;
  });
  if (!work.cancelled) out.meters = std::move(meters);
}

} // namespace

double supply_at_most_v(const Design& design, const TubePower* tube) {
  return std::max(crest_at_rest_v(design), tube ? tube->supply_most_v() : 0);
}

double gate_stands_off_v(const Design& design, const TubePower* tube) {
  return std::max(
      {design.tube.thyristor_voltage_v, supply_at_most_v(design, tube), tube ? tube->run.cathode_most_v : 0});
}

double TubePower::longest_arc_m() const {
  return tube_arc_m_per_root_w.high * std::sqrt(full_w);
}

std::optional<ArcBasis> TubePower::arc_basis(const Design&, const Analysis&) const {
  if (!problem.empty() || !run.oscillates) return {};
  ArcBasis out;
  out.power_w = run.plate_input_w / std::max(duty, 1e-3); // while it is fired
  out.transferred = run.plate_input_w > 0 ? run.secondary_power_w / run.plate_input_w : 0;
  out.m_per_root_w = tube_arc_m_per_root_w;
  // With its arc on all the time the top stands lower than what broke out.
  out.top_v = circuit.arc == ArcLoad::always ? std::max(run.top_peak_v, silent_top_v) : run.top_peak_v;
  out.joined = run.breakout_s.has_value();
  return out;
}

std::optional<double> time_to_limit_s(double settled, double time_constant_s) {
  if (settled <= 1) return {};
  return -time_constant_s * std::log1p(-1 / settled);
}

double plate_warmth_w(const Design& design, const TubePower& tube, double seconds) {
  return tube.worst_plate_w * -std::expm1(-seconds / design.tube.tube.plate_heat_s);
}

std::optional<QuickDrive> quick_drive(const Design& design, const Analysis& analysis) {
  try {
    const auto b = balance_of(design, analysis);
    if (!b) return {};
    return QuickDrive{b->frequency_hz, b->plate_input_w, b->secondary_power_w, b->plate_dissipation_w,
                      b->top_peak_v};
  } catch (const std::invalid_argument&) { // the full run says why
    return {};
  }
}

void analyse_tube(const Design& design, const TappedPrimary* primary, Analysis& out) {
  out.quick = quick_drive(design, out);
  if (!out.has_tank) return;
  out.tank_capacitance_f = tank_capacitance_f(design.tank);
  if (!primary) return;
  const double halves = design.tube.push_pull ? 2 : 1; // of the plate coil, each swung by a tube
  analyse_tank(design, *primary, halves * swing_over_supply * crest_at_rest_v(design), out);
  if (!out.resonator) return;
  const auto [silent, source] = silent_coil(design, out);
  out.target_hz = silent * (1 - tank_below);
  out.target_source = "2 % below " + source + ", where arcs pull it";
  const double own = out.resonator->effective_capacitance_f;
  const auto pulled = [&, silent = silent](double arc_m) { return loaded_by_arc_hz(silent, own, arc_m); };
  out.loaded_hz = {pulled(design.secondary.winding_length_m), pulled(design.secondary.winding_length_m / 4)};
  tune_tank(design, *primary, out);
}

// The one thing put right that betters the share of the input at the coil the most, at the supply's crest.
void find_waste(const Design& d, const Analysis& analysis, UnitSystem units, const Work& work, TubePower& out) {
  const auto& now = analysis.quick;
  if (!now || !(now->input_w > 0) || out.efficiency() >= usual_efficiency || out.efficiency() <= 0) return;
  const auto say = [&](double si, Dimension dimension) { return format_quantity(si, dimension, units, 2); };
  std::vector<TubePower::Waste> ways;
  const auto add = [&](std::string cause, std::string cure, std::function<void(Design&)> apply) {
    ways.push_back({std::move(cause), std::move(cure), 0, std::move(apply)});
  };
  const double off = analysis.target_hz > 0 ? analysis.tank_hz / analysis.target_hz - 1 : 0;
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

PowerAnalysis simulate_tube_coil(const Design& design, const Analysis& analysis, const PowerOptions& options,
                                 UnitSystem units, const Work& work) {
  PowerAnalysis out;
  auto part = std::make_shared<TubePower>();
  TubePower& t = *part;
  t.filament = filament_plan(design);
  try {
    t.circuit = circuit_of(design, analysis, options.lumped);
    t.crest_v = crest_supply_v(t.circuit);
    t.start = tube_start(t.circuit, t.crest_v);
    t.balance = tube_balance(t.circuit, t.crest_v);
    work.tell(0.1);
    TubeOptions run{.waveforms = options.waveforms};
    t.on_mains = !t.circuit.direct_v || t.circuit.staccato;
    run.mains = t.on_mains;
    // Enough for the supply to settle; a whole firing period where there is one.
    constexpr int settled = 4;
    if (run.mains && !t.circuit.staccato) run.cycles = settled;
    FiredRun fired = run_fired(t.circuit, design.interrupter.locked, run, work);
    t.run = std::move(fired.run);
    t.firings = fired.firings;
    t.duty = fired.duty;
    work.tell(0.5);
    share_heat(design, t);
    t.silent_top_v = silent_top_v(t);
    if (!is_flame(design))
      t.duty_of_tank.load = {t.run.tank_peak_v, t.run.tank_rms_a,
                             2 * std::numbers::pi * t.run.frequency_hz * t.run.tank_peak_v, t.run.frequency_hz};
    if (!is_flame(design)) t.duty_of_tank.stress = bank_stress(design.tank, t.duty_of_tank.load);
    t.full_w = full_power_w(design, analysis, t);
    t.form_w = lost_in_form_w(design, t);
    t.duty_of_tank.rate_hz = design.site.mains_frequency_hz;
    t.duty_of_tank.what = "swings of the supply";
    load_feed(design, work, t);
    work.tell(0.6);
    if (options.variac) {
      const TubeCircuit middle = circuit_of(design, analysis, true);
      const std::vector<Knob> all = knobs(design, middle);
      sweep(design, analysis, middle, all, work, t);
      draw_maps(design, analysis, middle, all, work, t);
    }
    if (options.variac) read_meters(design, analysis, work, t);
    if (options.advice) try_changes(design, analysis, units, work, t);
    if (options.advice) find_waste(design, analysis, units, work, t);
    if (options.advice && t.balance && t.run.oscillates) find_bands(design, analysis, work, t);
  } catch (const std::invalid_argument& refusal) {
    t.problem = refusal.what();
  }
  out.part = part;
  if (work.cancelled) return out;
  out.findings = tube_findings(design, analysis, t, units);
  if (options.advice)
    weigh_changes(design, analysis, out.findings, options, units, work, &TubeChange::merit, t.changes);
  out.drive = {t.run.frequency_hz, t.mains ? t.mains->input_power_w : t.run.plate_input_w, t.run.tank_peak_v,
               std::numbers::sqrt2 * t.run.tank_rms_a, t.run.top_peak_v};
  return out;
}

} // namespace arc
