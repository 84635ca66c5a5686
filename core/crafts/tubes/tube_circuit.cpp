// The network of a tube oscillator, its start and its first-harmonic balance.
#include "crafts/tubes/tube_circuit.h"
#include "circuit/feed_network.h"
#include "circuit/motion.h"
#include "laws/circuit.h"
#include "quantity/matrix.h"
#include "quantity/quantity.h"
#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>
#include <utility>

namespace arc {

namespace {

constexpr double least_ohm = 1e-3;

constexpr double electrode_ohm = 0.1; // in the leads between grid and plate: keeps three capacitances from a loop

constexpr double no_arc_ohm = 1e12;

// Adds parts to the network under names that its deck shows.
struct Parts {
  Network& n;
  void resistor(Node a, Node b, double ohm) { n.resistors.push_back({a, b, std::max(ohm, least_ohm)}); }
  void capacitor(const char* name, Node a, Node b, double farad, double start_v = 0) {
    n.capacitors.push_back({name, a, b, farad, start_v});
  }
  std::size_t inductor(const char* name, Node a, Node b, double henry) {
    n.inductors.push_back({name, a, b, henry});
    return n.inductors.size() - 1;
  }
  void couple(std::size_t a, std::size_t b, double henry) {
    if (henry != 0) n.couplings.push_back({a, b, henry});
  }
};

// Where the mains' sine stands as the supply rises from zero: a level shifter's output is zero at its trough.
double rise_deg(const std::vector<FeedBlock>& feed) {
  const bool shifted = std::ranges::any_of(feed, [](const FeedBlock& b) {
    const BlockKind* kind = block_kind(b.kind);
    return kind && kind->shifts;
  });
  return shifted ? -90 : 0;
}

void add_direct(const TubeCircuit& c, TubeNetwork& out) {
  out.rail = out.network.add_node();
  out.network.sources.push_back({out.rail, 0, *c.direct_v, 0});
}

void add_shifter(const TubeCircuit& c, TubeNetwork& out) {
  Network& n = out.network;
  Parts p{n};
  const ShifterSupply& s = *c.shifter;
  const double peak_v = s.emf_v * std::numbers::sqrt2;
  const Node emf = n.add_node(), coil = n.add_node(), end = n.add_node();
  out.rail = n.add_node();
  n.sources.push_back({emf, 0, 0, peak_v});
  out.source_resistor = n.resistors.size();
  p.resistor(emf, coil, s.ohm);
  p.inductor("winding", coil, end, s.henry);
  p.capacitor("shifter", end, out.rail, s.farad, -peak_v);
  n.switches.push_back({"shifter's diodes", 0, out.rail, s.on_ohm, s.off_ohm, true});
  out.start_deg = -90;
  out.line_per_a = 1;
}

// The feed as it stands, charged as running leaves it.
void add_feed(const TubeCircuit& c, TubeNetwork& out) {
  FeedNetwork feed = feed_network(c.feed, c.site, FeedEnd::plate);
  out.network = std::move(feed.network);
  out.rail = feed.end;
  out.start_deg = rise_deg(c.feed);
  out.line_per_a = feed.ratio;
  out.source_resistor = feed.source_current.index;
  const double peak_v = std::numbers::sqrt2 * c.site.mains_voltage_v * feed.ratio;
  for (Network::Capacitor& cap : out.network.capacitors) {
    cap.start_v = cap.running_full ? crest_supply_v(c) : cap.running_peaks * peak_v;
  }
  const double cosine = std::cos(out.start_deg * std::numbers::pi / 180);
  for (Network::Inductor& coil : out.network.inductors)
    if (coil.magnetising) coil.start_a *= cosine;
}

// Another tube, its grid at `to`, behind a stopper where there is one.
void add_grid(const TubeCircuit& c, Node to, TubeNetwork& out) {
  Network& n = out.network;
  TubeNetwork::Tube& tube = out.tubes.emplace_back();
  tube.grid = to;
  if (!(c.stopper_ohm > 0)) return;
  tube.grid = n.add_node();
  tube.stopper = n.resistors.size();
  Parts{n}.resistor(tube.grid, to, c.stopper_ohm);
}

void add_plate_coil(const TubeCircuit& c, Node far, TubeNetwork& out) {
  Parts p{out.network};
  const Node middle = out.network.add_node();
  out.plate_coils = {p.inductor("plate coil", out.coil, middle, c.plate_h)};
  p.resistor(middle, far, c.plate_ohm);
}

// A winding from `from` to `to`, tapped at its middle: two like halves that couple by k.
std::vector<std::size_t> add_halves(const char* name, const std::array<Node, 3>& at, double henry, double ohm,
                                    double k, TubeNetwork& out) {
  Network& n = out.network;
  Parts p{n};
  const double half_h = henry / (2 * (1 + k));
  std::vector<std::size_t> halves;
  for (std::size_t i = 0; i < 2; ++i) {
    const Node inside = n.add_node();
    halves.push_back(p.inductor(name, at[i], inside, half_h));
    p.resistor(inside, at[i + 1], ohm / 2);
  }
  p.couple(halves[0], halves[1], k * half_h);
  return halves;
}

void add_tank(const TubeCircuit& c, Node from, Node far, TubeNetwork& out) {
  out.tanks = {out.network.capacitors.size()};
  Parts{out.network}.capacitor("tank", from, far, c.tank_f);
}

void add_leak(const TubeCircuit& c, Node from, Node to, TubeNetwork& out) {
  out.leak = out.network.resistors.size();
  Parts{out.network}.resistor(from, to, c.grid_leak_ohm);
}

void add_armstrong(const TubeCircuit& c, Node far, TubeNetwork& out) {
  Network& n = out.network;
  Parts p{n};
  const Node top = n.add_node(), low = n.add_node(), cold = n.add_node();
  add_plate_coil(c, far, out);
  add_tank(c, out.coil, far, out);
  out.feedback_coils = {p.inductor("feedback", top, low, c.feedback_h)};
  p.resistor(low, cold, c.feedback_ohm);
  add_leak(c, cold, 0, out);
  p.capacitor("grid leak", cold, 0, c.grid_leak_f);
  add_grid(c, top, out);
}

// Plates at the two ends of the plate coil, grids at those of the feedback winding, so that each tube stands to its
// half as a single one to the whole. The tank starts with a little charge: two tubes are never quite alike, and
// without a difference nothing would tip the balance.
void add_push_pull(const TubeCircuit& c, Node far, Node other, TubeNetwork& out) {
  Network& n = out.network;
  Parts p{n};
  const Node top = n.add_node(), low = n.add_node(), cold = n.add_node();
  out.plate_coils = add_halves("plate coil", {other, out.coil, far}, c.plate_h, c.plate_ohm, c.plate_halves_k, out);
  const double start_v = c.direct_v ? 1e-3 * *c.direct_v : 0;
  out.tanks = {n.capacitors.size(), n.capacitors.size() + 1};
  p.capacitor("tank", other, out.coil, 2 * c.tank_f, start_v);
  p.capacitor("tank", out.coil, far, 2 * c.tank_f, start_v);
  out.feedback_coils =
      add_halves("feedback", {top, cold, low}, c.feedback_h, c.feedback_ohm, c.feedback_halves_k, out);
  add_leak(c, cold, 0, out);
  p.capacitor("grid leak", cold, 0, c.grid_leak_f);
  add_grid(c, top, out);
  add_grid(c, low, out);
}

void add_hartley(const TubeCircuit& c, Node far, TubeNetwork& out) {
  Network& n = out.network;
  Parts p{n};
  const Node end = n.add_node(), low = n.add_node(), leak = n.add_node();
  add_plate_coil(c, far, out);
  out.feedback_coils = {p.inductor("feedback", end, low, c.feedback_h)};
  p.resistor(low, out.coil, c.feedback_ohm);
  add_tank(c, end, far, out);
  p.capacitor("grid leak", end, leak, c.grid_leak_f);
  add_leak(c, leak, out.cathode, out);
  add_grid(c, leak, out);
}

// One mode of the resonator, its foot at `foot`; the arc hangs on the first, whose top volts are nearly all there
// are. Gives its top.
Node add_mode(const TubeCircuit& c, const WindingMode& m, Node foot, TubeNetwork& out) {
  Network& n = out.network;
  Parts p{n};
  const bool first = out.mode_coils.empty();
  const Node top = n.add_node(), inside = n.add_node();
  out.mode_coils.push_back(p.inductor("resonator", top, inside, m.inductance_h));
  p.resistor(inside, foot, m.resistance_ohm);
  out.mode_caps.push_back(n.capacitors.size());
  p.capacitor("resonator", top, 0, m.capacitance_f);
  if (!first || c.arc == ArcLoad::never || !(c.streamer_f > 0)) return top;
  const Node arc = n.add_node();
  out.arc = n.switches.size();
  n.switches.push_back({"arc", top, arc, c.streamer_ohm, no_arc_ohm, false, c.arc == ArcLoad::always});
  p.capacitor("arc", arc, 0, c.streamer_f);
  return top;
}

// Plate coil with its own capacitance, the resonator's foot at its far end; the grid hears the hot end.
void add_flame(const TubeCircuit& c, Node far, TubeNetwork& out) {
  Network& n = out.network;
  Parts p{n};
  const Node leak = n.add_node(), heard = n.add_node();
  add_plate_coil(c, far, out);
  add_tank(c, out.coil, far, out);
  add_leak(c, leak, out.cathode, out);
  add_grid(c, leak, out);
  const Node top = add_mode(c, c.modes.front(), far, out);
  p.resistor(leak, heard, electrode_ohm);
  p.capacitor("feedback plate", top, heard, c.feedback_f);
}

void add_resonator(const TubeCircuit& c, TubeNetwork& out) {
  Parts p{out.network};
  // Halves share a winding's mutual inductance: what tells them apart couples to nothing.
  const auto couple = [&](const std::vector<std::size_t>& some, const std::vector<std::size_t>& others,
                          double henry) {
    for (const std::size_t a : some)
      for (const std::size_t b : others) p.couple(a, b, henry / static_cast<double>(some.size() * others.size()));
  };
  couple(out.plate_coils, out.feedback_coils, c.plate_feedback_h);
  for (std::size_t i = 0; i < c.modes.size(); ++i) {
    add_mode(c, c.modes[i], 0, out);
    couple(out.plate_coils, {out.mode_coils[i]}, c.modes[i].mutual_h);
    couple(out.feedback_coils, {out.mode_coils[i]}, c.feedback_mode_h[i]);
  }
}

void add_cathode(const TubeCircuit& c, TubeNetwork& out) {
  if (!c.staccato) return;
  Network& n = out.network;
  Parts p{n};
  out.cathode = n.add_node();
  out.thyristor = n.switches.size();
  n.switches.push_back({"thyristor", out.cathode, 0, c.staccato->on_ohm, c.staccato->off_ohm, false});
  const Node snubber = n.add_node();
  p.resistor(out.cathode, snubber, c.staccato->snubber_ohm);
  p.capacitor("snubber", snubber, 0, c.staccato->snubber_f);
}

// Trap and capacitances between the electrodes.
void add_electrodes(const TubeCircuit& c, Node far, TubeNetwork::Tube& tube, TubeNetwork& out) {
  Network& n = out.network;
  Parts p{n};
  tube.plate = n.add_node();
  if (c.trap_ohm > 0) {
    tube.trap = n.resistors.size();
    p.resistor(far, tube.plate, c.trap_ohm);
    p.inductor("trap", far, tube.plate, c.trap_h);
  } else {
    p.resistor(far, tube.plate, electrode_ohm); // the lead alone
  }
  const Node inside = n.add_node();
  p.resistor(tube.grid, inside, electrode_ohm);
  p.capacitor("grid to plate", inside, tube.plate, c.grid_plate_f);
  p.capacitor("grid to cathode", tube.grid, out.cathode, c.grid_cathode_f);
  p.capacitor("plate to cathode", tube.plate, out.cathode, c.plate_cathode_f);
}

} // namespace

std::string circuit_problem(const TubeCircuit& c) {
  const auto need = [](double value, std::string_view what) {
    return value > 0 && std::isfinite(value) ? std::string() : fmt::format("{} must be above zero", what);
  };
  for (const auto& [value, what] : std::initializer_list<std::pair<double, std::string_view>>{
           {c.law.perveance, "the tube's perveance"},
           {c.law.grid_perveance, "the grid's perveance"},
           {c.law.mu, "the tube's amplification"},
           {c.law.knee_v, "the tube's knee"},
           {c.plate_h, "the plate coil's inductance"},
           {c.tank_f, "the tank's capacitance"},
           {c.wiring == TubeWiring::flame ? c.feedback_f : c.feedback_h, c.wiring == TubeWiring::flame
                                                                             ? "the feedback plate's capacitance"
                                                                             : "the feedback winding's inductance"},
           {c.grid_leak_ohm, "the grid leak"},
           {c.wiring == TubeWiring::flame ? 1 : c.grid_leak_f, "the grid leak's capacitor"}})
    if (std::string problem = need(value, what); !problem.empty()) return problem;
  if (c.law.grid_perveance >= c.law.perveance)
    return "the grid takes more than the cathode gives: its perveance must be below the tube's";
  if (c.modes.empty()) return "the resonator is not known";
  if (c.push_pull && c.wiring != TubeWiring::armstrong)
    return "a push-pull pair feeds back through a winding of its own: choose Armstrong as the oscillator";
  if (c.push_pull && (std::abs(c.plate_halves_k) >= 1 || std::abs(c.feedback_halves_k) >= 1))
    return "the halves of a winding couple by 1 or more, which no pair of coils can";
  if (c.wiring != TubeWiring::flame && std::abs(c.plate_feedback_h) >= std::sqrt(c.plate_h * c.feedback_h))
    return "plate coil and feedback winding couple by 1 or more, which no pair of coils can";
  if (!c.direct_v && !c.shifter && c.feed.empty())
    return "there is no plate supply yet: build the feed, or enter direct current";
  return {};
}

double crest_supply_v(const TubeCircuit& c) {
  if (c.direct_v) return *c.direct_v;
  if (c.shifter) return 2 * std::numbers::sqrt2 * c.shifter->emf_v;
  return unloaded_bus_v(c.feed, c.site.mains_voltage_v);
}

TubeNetwork tube_supply(const TubeCircuit& c) {
  if (std::string problem = circuit_problem(c); !problem.empty()) throw std::invalid_argument(problem);
  TubeNetwork out;
  if (c.direct_v)
    add_direct(c, out);
  else if (c.shifter)
    add_shifter(c, out);
  else
    add_feed(c, out);
  Network& n = out.network;
  n.source_hz = c.site.mains_frequency_hz;
  Parts p{n};
  if (!c.direct_v && c.bypass_f > 0) p.capacitor("bypass", out.rail, 0, c.bypass_f);
  out.first_own_capacitor = n.capacitors.size();
  out.coil = n.add_node();
  p.resistor(out.rail, out.coil, rail_ohm);
  return out;
}

TubeNetwork tube_network(const TubeCircuit& c) {
  TubeNetwork out = tube_supply(c);
  Network& n = out.network;
  add_cathode(c, out);
  std::vector<Node> far{n.add_node()};
  if (c.push_pull) {
    far.push_back(n.add_node());
    add_push_pull(c, far[0], far[1], out);
  } else if (c.wiring == TubeWiring::armstrong)
    add_armstrong(c, far[0], out);
  else if (c.wiring == TubeWiring::hartley)
    add_hartley(c, far[0], out);
  else
    add_flame(c, far[0], out);
  if (c.wiring != TubeWiring::flame) add_resonator(c, out);
  for (std::size_t i = 0; i < out.tubes.size(); ++i) add_electrodes(c, far[i], out.tubes[i], out);
  return out;
}

} // namespace arc
