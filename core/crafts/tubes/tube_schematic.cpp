// Parts and wires of the four circuits: Armstrong, Hartley, a push-pull pair, and the flame coil's.
#include "crafts/tubes/tube_schematic.h"

#include <algorithm>
#include <fmt/format.h>

namespace arc {
namespace {

using enum Dimension;
using enum SymbolKind;
using enum SchematicAnchor;
constexpr double wide = 620, high = 268;
constexpr double coil_x = 338, second_x = 500, rail_y = 40, tube_y = 172, far_y = 108, tube_radius = 25;
constexpr double pair_left = 150, pair_right = 410, pair_middle = 280; // of a push-pull pair

// What a part says: its simulated words only where there is a simulation.
class Known {
 public:
  Known(const Design& design, const TubePower* tube, UnitSystem units)
      : d(design), t(tube && tube->problem.empty() ? tube : nullptr), units_(units) {}
  std::string print(double si, Dimension dimension, int digits = 3) const {
    return format_quantity(si, dimension, units_, digits);
  }
  const TubeResult& run() const {
    static const TubeResult none{};
    return t ? t->run : none;
  }
  std::string when(std::string text) const { return t ? std::move(text) : std::string(); }
  const Design& d;
  const TubePower* t;

 private:
  UnitSystem units_;
};

SchematicPart supply_of(const Known& k) {
  return {.key = "supply",
          .title = "Supply",
          .value = k.t ? k.print(k.t->crest_v, voltage) : "",
          .live = k.when(k.print(k.run().plate_input_w, power)),
          .stage = "feed",
          .hot = k.t && k.t->crest_v > k.d.tube.tube.plate_voltage_v};
}

SchematicPart tube_of(const Known& k) {
  const double count = tube_count(k.d);
  return {.key = "tube",
          .title = count > 1 ? fmt::format("{} tubes", format_number(count)) : "Tube",
          .value = k.when(fmt::format("{} of {}", k.print(k.t ? k.t->worst_plate_w : 0, power, 2),
                                      k.print(k.d.tube.tube.plate_dissipation_w, power))),
          .live = k.when(fmt::format("peak {}", k.print(k.run().cathode_peak_a, current, 2))),
          .field = "tube.perveance_a_per_v15",
          .stage = "oscillator",
          .hot = k.t && k.t->plate_time_s.has_value()};
}

std::vector<SchematicPart> tube_parts(const Known& k, const Analysis* analysis) {
  const TubeOscillator& o = k.d.tube;
  const TubeResult& r = k.run();
  std::vector<SchematicPart> out{supply_of(k)};
  const auto two = [&](double a, Dimension of_a, double b, Dimension of_b) {
    return k.when(fmt::format("{}, {}", k.print(a, of_a, 2), k.print(b, of_b, 2)));
  };
  if (!o.supply_voltage_v)
    out.push_back({.key = "bypass",
                   .title = "RF bypass",
                   .value = k.print(o.bypass_f, capacitance),
                   .field = "tube.bypass_f",
                   .stage = "oscillator"});
  const bool over = k.t && k.t->tank() &&
                    std::ranges::any_of(k.t->tank()->stress, [](const UnitStress& u) { return !u.within_ratings; });
  out.push_back({.key = "tank",
                 .title = "Tank",
                 .value = analysis ? k.print(analysis->tank_capacitance_f, capacitance) : "",
                 .live = two(r.tank_peak_v, voltage, r.tank_rms_a, current),
                 .field = "tank.unit_capacitance_f",
                 .stage = "tank",
                 .hot = over});
  out.push_back({.key = "plate coil",
                 .title = "Plate coil",
                 .value = k.t ? k.print(k.t->circuit.plate_h, inductance) : "",
                 .live = fmt::format("tap at {:.4g}", used_turns(k.d)),
                 .field = "primary.tap_turns",
                 .stage = "primary"});
  if (o.trap_ohm > 0)
    out.push_back({.key = "trap",
                   .title = "Suppressor",
                   .value = k.print(o.trap_ohm, resistance),
                   .live = k.when(r.trap_w > 1 ? k.print(r.trap_w, power, 2) : ""),
                   .field = "tube.trap_ohm",
                   .stage = "oscillator"});
  out.push_back(tube_of(k));
  out.push_back({.key = "feedback",
                 .title = "Feedback",
                 .value = fmt::format("{:.4g} turns", k.d.feedback.turns),
                 .live = k.when(k.print(r.feedback_rms_a, current, 2)),
                 .field = "feedback.turns",
                 .stage = "oscillator",
                 .hot = k.t && k.t->grid_time_s.has_value()});
  out.push_back({.key = "leak",
                 .title = "Grid leak",
                 .value = k.print(o.grid_leak_ohm, resistance),
                 .live = two(r.grid_bias_v, voltage, r.leak_w, power),
                 .field = "tube.grid_leak_ohm",
                 .stage = "oscillator",
                 .hot = k.t && r.leak_w > o.grid_leak_rating_w});
  if (o.staccato)
    out.push_back({.key = "thyristor",
                   .title = "Thyristor",
                   .value = k.when(k.print(r.thyristor_peak_a, current, 2)),
                   .live = k.when(fmt::format("holds off {}", k.print(r.cathode_most_v, voltage, 2))),
                   .field = "interrupter.phase_deg",
                   .stage = "staccato",
                   .hot = k.t && (r.stays_on || r.cathode_most_v > o.thyristor_voltage_v)});
  out.push_back({.key = "resonator",
                 .title = "Resonator",
                 .value = k.when(k.print(r.top_peak_v, voltage)),
                 .live = k.when(k.print(r.secondary_power_w, power)),
                 .field = "secondary.turns",
                 .stage = "resonator"});
  return out;
}

struct Place {
  const char* key;
  SchematicBox box, words;
  SchematicAnchor side;
};

std::vector<Place> places_of_pair() {
  constexpr double l = pair_left, r = pair_right, m = pair_middle;
  return {{"supply", {4, rail_y - 22, 92, 44}, {6, rail_y - 22, 88, 44}, middle},
          {"bypass", {4, 66, 126, 42}, {4, 76, 96, 30}, end},
          {"tank", {l + 4, 58, m - l - 8, 54}, {l + 26, 56, m - l - 32, 44}, end},
          {"plate coil", {m + 4, 44, r - m - 8, 54}, {m + 8, 56, r - m - 16, 44}, start},
          {"trap", {r - 14, 106, 84, 38}, {r + 18, 110, 66, 30}, start},
          {"tube", {4, 144, 178, 58}, {4, 150, 112, 44}, end},
          {"feedback", {206, 114, 148, 66}, {206, 114, 148, 44}, middle},
          {"leak", {l + 12, 211, r - l - 96, 50}, {l + 12, 212, m - l - 28, 44}, end},
          {"thyristor", {4, 210, 162, 48}, {4, 210, 130, 44}, end},
          {"resonator", {464, 8, 152, 236}, {second_x + 20, 70, 98, 44}, start}};
}

std::vector<Place> places_of_one(bool hartley) {
  const double tank_y = hartley ? 44 : 50;
  return {{"supply", {4, rail_y - 22, 92, 44}, {6, rail_y - 22, 88, 44}, middle},
          {"bypass", {98, rail_y + 6, 122, 62}, {134, rail_y + 2, 92, 30}, start},
          {"tank", {146, tank_y + 18, 162, 50}, {140, tank_y + 20, 136, 48}, end},
          {"plate coil", {312, rail_y + 4, 140, 64}, {coil_x + 20, rail_y + 12, 96, 44}, start},
          {"trap", {312, 110, 130, 32}, {coil_x + 20, 108, 100, 30}, start},
          {"tube", {308, tube_y - 28, 168, 56}, {coil_x + 36, tube_y - 22, 130, 44}, start},
          {"feedback", hartley ? SchematicBox{120, 8, 190, 34} : SchematicBox{104, 156, 152, 50},
           hartley ? SchematicBox{122, 6, 108, 44} : SchematicBox{104, 160, 112, 44}, end},
          {"leak", {104, 208, 178, 52}, {104, 210, 112, 44}, end},
          {"thyristor", {312, 206, 140, 44}, {coil_x + 24, 206, 116, 44}, start},
          {"resonator", {464, 8, 152, 236}, {second_x + 20, 70, 98, 44}, start}};
}

// From the coil's end to the tube's plate.
void plate_lead(Schematic& s, double x, double from_y, bool trap) {
  constexpr double to_y = 144;
  if (!trap) return s.wire({{x, from_y}, {x, to_y}});
  s.put(resistor, {x - 6, from_y}, {x - 6, to_y}, "trap");
  s.coil({x + 8, from_y + 4}, {x + 8, to_y - 4}, 4, "trap");
  s.wire({{x - 6, from_y}, {x + 8, from_y}, {x + 8, from_y + 4}});
  s.wire({{x + 8, to_y - 4}, {x + 8, to_y}, {x - 6, to_y}});
}

// The secondary with its top and its arc.
void secondary(Schematic& s) {
  s.coil({second_x, 42}, {second_x, 216}, 17, "resonator");
  s.put(top, {second_x, 34}, {}, "resonator");
  s.wire({{second_x, 216}, {second_x, 232}});
  s.ground(second_x, 232);
  s.symbols.push_back({.kind = spark, .from = {second_x + 18, 30}, .ink = SchematicInk::arc, .part = "resonator"});
}

void put_tube(Schematic& s, double x, bool several, bool mirrored = false) {
  s.symbols.push_back(
      {.kind = tube, .from = {x, tube_y}, .several = several, .mirrored = mirrored, .part = "tube"});
}

void protection(Schematic& s, const TubeOscillator& o, double x, double foot_y) {
  if (o.supply_voltage_v) return;
  s.dot(x, rail_y);
  s.put(capacitor, {x, rail_y}, {x, foot_y}, "bypass");
  s.ground(x, foot_y);
}

// Grid leak with its capacitor beside it, from `top_y` to earth.
void leak(Schematic& s, double x, double top_y, double foot_y) {
  s.dot(x, top_y);
  s.put(resistor, {x, top_y}, {x, foot_y}, "leak");
  s.wire({{x, top_y}, {x + 26, top_y}});
  s.put(capacitor, {x + 26, top_y}, {x + 26, foot_y}, "leak");
  s.wire({{x, foot_y}, {x + 26, foot_y}});
  s.ground(x, foot_y);
}

void draw_one(Schematic& s, const TubeOscillator& o, bool hartley) {
  s.wire({{96, rail_y}, {coil_x, rail_y}});
  s.dot(coil_x, rail_y);
  protection(s, o, 118, rail_y + 56);
  // Plate coil with its tank; the plate's lead goes down from it.
  const double tank_x = 292, upper = hartley ? 12 : rail_y, grid_x = 242;
  if (hartley)
    s.wire({{tank_x, upper}, {coil_x, upper}});
  else
    s.dot(tank_x, rail_y);
  s.put(capacitor, {tank_x, upper}, {tank_x, far_y}, "tank");
  s.wire({{tank_x, far_y}, {coil_x, far_y}});
  s.dot(coil_x, far_y);
  plate_lead(s, coil_x, far_y, o.trap_ohm > 0);
  put_tube(s, coil_x, o.in_parallel > 1);
  s.coil({coil_x, rail_y}, {coil_x, far_y}, 7, "plate coil");
  if (hartley) s.coil({coil_x, upper}, {coil_x, rail_y}, 3, "feedback");
  secondary(s);
  if (hartley) {
    s.wire({{tank_x, upper}, {grid_x, upper}, {grid_x, 132}});
    s.dot(tank_x, upper);
    s.put(capacitor, {grid_x, 132}, {grid_x, tube_y}, "leak");
    s.dot(grid_x, tube_y);
    s.put(resistor, {grid_x, tube_y}, {grid_x, 244}, "leak");
    s.ground(grid_x, 244);
  } else {
    s.coil({grid_x, tube_y}, {grid_x, 208}, 4, "feedback");
    s.wire({{grid_x, 208}, {grid_x, 212}});
    leak(s, grid_x, 212, 244);
  }
  const double grid_end = coil_x - tube_radius;
  if (o.lamp_hot_ohm > 0) { // in the grid's lead
    s.put(lamp, {276, tube_y}, {}, "feedback");
    s.wire({{grid_x, tube_y}, {269, tube_y}});
    s.wire({{283, tube_y}, {grid_end, tube_y}});
  } else {
    s.wire({{grid_x, tube_y}, {grid_end, tube_y}});
  }
  s.put(cathode, {coil_x, tube_y}, {coil_x, 248}, "tube");
  if (o.staccato) s.put(thyristor, {coil_x, 228}, {}, "thyristor");
  s.ground(coil_x, 248);
}

// Plate coil between the two plates, feedback winding between the two grids; supply, tank and grid leak at the
// middles.
void draw_pair(Schematic& s, const TubeOscillator& o) {
  constexpr double coil_y = 52, tank_y = 112, leak_y = 214, foot_y = 244, joined_y = 208;
  s.wire({{96, rail_y}, {pair_middle, rail_y}, {pair_middle, tank_y}});
  s.dot(pair_middle, coil_y);
  s.dot(pair_middle, tank_y);
  protection(s, o, 116, rail_y + 60);
  constexpr double near = 44; // its plates stand near the ends, clear of the words
  s.put(capacitor, {pair_left, tank_y}, {pair_left + near, tank_y}, "tank");
  s.wire({{pair_left + near, tank_y}, {pair_right - near, tank_y}});
  s.put(capacitor, {pair_right - near, tank_y}, {pair_right, tank_y}, "tank");
  for (const double x : {pair_left, pair_right}) {
    s.wire({{x, coil_y}, {x, tank_y}});
    s.dot(x, tank_y);
    plate_lead(s, x, tank_y, o.trap_ohm > 0);
    put_tube(s, x, o.in_parallel > 1, x < pair_middle);
  }
  s.wire({{pair_left + tube_radius, tube_y}, {216, tube_y}});
  s.wire({{344, tube_y}, {pair_right - tube_radius, tube_y}});
  if (o.lamp_hot_ohm > 0) s.put(lamp, {362, tube_y}, {}, "feedback");
  s.wire({{pair_middle, tube_y}, {pair_middle, leak_y}});
  leak(s, pair_middle, leak_y, foot_y);
  if (o.staccato) { // one thyristor for both cathodes
    s.put(cathode, {pair_right, tube_y}, {pair_right, joined_y}, "tube");
    s.wire({{pair_left, joined_y}, {pair_right, joined_y}});
    s.put(thyristor, {pair_left, 228}, {}, "thyristor");
  } else {
    s.put(cathode, {pair_right, tube_y}, {pair_right, foot_y}, "tube");
    s.ground(pair_right, foot_y);
  }
  s.put(cathode, {pair_left, tube_y}, {pair_left, foot_y}, "tube");
  s.ground(pair_left, foot_y);
  s.coil({pair_left, coil_y}, {pair_middle, coil_y}, 7, "plate coil");
  s.coil({pair_middle, coil_y}, {pair_right, coil_y}, 7, "plate coil");
  s.coil({216, tube_y}, {344, tube_y}, 12, "feedback");
  secondary(s);
}

std::vector<SchematicPart> flame_parts(const Known& k) {
  const FlameCoil& f = k.d.flame;
  const TubeResult& r = k.run();
  std::vector<SchematicPart> out{supply_of(k)};
  const auto placed = [](SchematicPart part, SchematicBox box, SchematicBox words, SchematicAnchor side) {
    part.box = box;
    part.words = words;
    part.side = side;
    return part;
  };
  out[0] = placed(out[0], {4, rail_y - 22, 92, 44}, {6, rail_y - 22, 88, 44}, middle);
  out.push_back(placed({.key = "plate coil",
                        .title = "Plate coil",
                        .value = k.t ? k.print(k.t->circuit.plate_h, inductance) : "",
                        .live = k.when(k.print(r.tank_rms_a, current, 2)),
                        .field = "primary.turns",
                        .stage = "primary"},
                       {100, 44, 160, 76}, {118, 60, 106, 44}, end));
  out.push_back(placed(tube_of(k), {214, 144, 190, 58}, {276, 150, 130, 44}, start));
  out.push_back(placed(
      {.key = "grid resistor",
       .title = "Grid resistor",
       .value = k.print(f.grid_resistor_ohm, resistance),
       .live = k.when(fmt::format("{}, {}", k.print(r.grid_bias_v, voltage, 2), k.print(r.leak_w, power, 2))),
       .field = "flame.grid_resistor_ohm",
       .stage = "oscillator",
       .hot = k.t && r.leak_w > f.grid_resistor_rating_w},
      {16, 184, 134, 66}, {8, 196, 106, 44}, end));
  out.push_back(placed({.key = "feedback",
                        .title = "Feedback plate",
                        .value = k.print(f.feedback_f, capacitance),
                        .live = k.when(fmt::format("grid to {}", k.print(r.grid_most_v, voltage, 2))),
                        .field = "flame.feedback_f",
                        .stage = "oscillator",
                        .hot = k.t && k.t->grid_time_s.has_value()},
                       {10, 122, 146, 46}, {4, 122, 112, 44}, end));
  out.push_back(placed({.key = "resonator",
                        .title = "Resonator",
                        .value = k.when(k.print(r.frequency_hz, frequency, 4)),
                        .live = k.when(k.print(r.secondary_power_w, power)),
                        .field = "secondary.turns",
                        .stage = "resonator"},
                       {296, 44, 160, 78}, {316, 48, 130, 44}, start));
  out.push_back(placed({.key = "flame",
                        .title = "Flame, not isolated",
                        .value = k.when(k.print(r.top_peak_v, voltage)),
                        .live = "at plate volts too",
                        .field = "flame.flame_ohm",
                        .stage = "oscillator"},
                       {460, 20, 156, 90}, {450, 118, 164, 44}, start));
  return out;
}

// Supply, plate coil, then the resonator lying to the right with its flame; the grid hears the hot end through the
// air by the feedback plate.
void draw_flame(Schematic& s) {
  constexpr double x = 240, hot_x = 470, grid_x = 136;
  s.wire({{96, rail_y}, {x, rail_y}});
  s.wire({{x, far_y}, {x, 146}});
  s.dot(x, far_y);
  s.wire({{x, far_y}, {300, far_y}});
  s.coil({x, rail_y}, {x, far_y}, 6, "plate coil");
  s.coil({300, far_y}, {hot_x, far_y}, 12, "resonator");
  s.wire({{hot_x, far_y}, {hot_x + 10, far_y}, {hot_x + 10, 78}});
  s.symbols.push_back({.kind = flame, .from = {hot_x + 10, 76}, .ink = SchematicInk::arc, .part = "flame"});
  put_tube(s, x, false);
  s.wire({{grid_x, tube_y}, {x - tube_radius, tube_y}});
  s.dot(grid_x, tube_y);
  s.put(resistor, {grid_x, tube_y}, {grid_x, 244}, "grid resistor");
  s.ground(grid_x, 244);
  s.wire({{grid_x, tube_y}, {grid_x, 146}});
  s.wire({{grid_x - 12, 146}, {grid_x + 12, 146}});
  s.symbols.push_back(
      {.kind = field, .from = {grid_x, 142}, .to = {hot_x, 84}, .ink = SchematicInk::faint, .part = "feedback"});
  s.put(cathode, {x, tube_y}, {x, 244}, "tube");
  s.ground(x, 244);
}

} // namespace

Schematic tube_schematic(const Design& design, const Analysis* analysis, const TubePower* power_now,
                         UnitSystem units) {
  const Known known(design, power_now, units);
  Schematic out{.width = wide, .height = high, .title = design.name + ": oscillator"};
  if (is_flame(design)) {
    out.parts = flame_parts(known);
    draw_flame(out);
    return out;
  }
  const TubeOscillator& o = design.tube;
  const bool hartley = o.circuit == OscillatorCircuit::hartley, pair = o.push_pull && !hartley;
  out.parts = tube_parts(known, analysis);
  for (const Place& place : pair ? places_of_pair() : places_of_one(hartley))
    for (SchematicPart& part : out.parts)
      if (part.key == place.key) {
        part.box = place.box;
        part.words = place.words;
        part.side = place.side;
      }
  if (pair)
    draw_pair(out, o);
  else
    draw_one(out, o, hartley);
  return out;
}

} // namespace arc
