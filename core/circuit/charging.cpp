// The feed as a network, its simulation and its netlist.
#include "circuit/charging.h"

#include "circuit/feed.h"
#include "circuit/network.h"
#include "parts/bank.h"
#include "parts/gap.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double line_ohm = 0.15; // house wiring, an assumption
constexpr double diode_on_ohm = 20, diode_off_ohm = 2e9;
constexpr double gap_on_ohm = 10, gap_off_ohm = 1e12; // empties the tank within a microsecond or two
constexpr double emptied = 0.002;                     // of the firing voltage
constexpr double joint_ohm = 0.5; // in series with shunt capacitors, so that none closes a loop with a source

struct Stage { // a block's output in the network
  std::string title;
  Node node;
  double limit_v;
};

struct Feed {
  Network network;
  std::size_t tank = 0, gap = 0;
  double ratio = 1; // output volts for one volt of mains
  Node source_plus = 0, source_minus = 0;
  std::size_t source = 0;
  std::vector<Stage> stages;
  double breaker_a = 0;
  bool breaker_c = false;
};

double ratio_of(const std::vector<FeedBlock>& blocks) {
  for (const FeedBlock& b : blocks) {
    if (b.kind == "transformer") return block_value(b, "output_v") / block_value(b, "rated_mains_v");
    if (b.kind == "oven-transformers")
      return block_value(b, "output_v") * block_value(b, "in_series") / block_value(b, "rated_mains_v");
  }
  return 1;
}

Feed build(const Design& design) {
  if (const std::string problem = feed_problem(design.feed); !problem.empty()) throw std::invalid_argument(problem);
  Feed out;
  Network& n = out.network;
  n.source_hz = design.site.mains_frequency_hz;
  out.ratio = ratio_of(design.feed);
  const double square = out.ratio * out.ratio;
  double setting = 1;
  for (const FeedBlock& b : design.feed)
    if (b.kind == "variac") setting *= block_value(b, "setting");
  const bool floating = std::ranges::count(design.feed, "bridge", &FeedBlock::kind) > 0;
  Node minus = floating ? n.add_node() : 0;
  Node at = n.add_node();
  out.source = n.sources.size();
  out.source_plus = at;
  out.source_minus = minus;
  n.sources.push_back({at, minus, 0, design.site.mains_voltage_v * setting * std::numbers::sqrt2 * out.ratio});
  const auto series_r = [&](double ohm) {
    const Node next = n.add_node();
    n.resistors.push_back({at, next, std::max(ohm, 1e-3)});
    at = next;
  };
  const auto series_l = [&](const char* name, double henry) {
    const Node next = n.add_node();
    n.inductors.push_back({name, at, next, henry});
    // A choke's losses and stray capacitance, as a large resistance: no current is left without a way.
    n.resistors.push_back({at, next, 2 * std::numbers::pi * n.source_hz * henry * 3000});
    at = next;
  };
  const auto shunt_c = [&](const char* name, double farad, double joint, Node to) {
    const Node middle = n.add_node();
    n.resistors.push_back({at, middle, joint});
    n.capacitors.push_back({name, middle, to, farad});
  };
  const auto diode = [&](const char* name, Node from, Node to) {
    n.switches.push_back({name, from, to, diode_on_ohm, diode_off_ohm, true});
  };
  series_r(line_ohm * square);
  for (const FeedBlock& b : design.feed) {
    const auto value = [&](const char* key) { return block_value(b, key); };
    double limit = 0;
    if (b.kind == "breaker") {
      out.breaker_a = value("rated_current_a");
      out.breaker_c = value("type_c") > 0.5;
    } else if (b.kind == "line-filter") {
      series_l("filter", value("inductance_h") * square);
    } else if (b.kind == "power-factor-capacitor") {
      shunt_c("power factor", value("capacitance_f") / square, 0.05 * square, minus);
    } else if (b.kind == "ballast-inductor") {
      series_r(value("resistance_ohm") * square);
      series_l("ballast", value("inductance_h") * square);
    } else if (b.kind == "ballast-resistor") {
      series_r(value("resistance_ohm") * square);
    } else if (b.kind == "transformer") {
      const double z = value("output_v") / value("short_circuit_a"), r = value("resistance_ohm");
      if (r >= z)
        throw std::invalid_argument(
            "transformer: its winding resistance alone limits below the short-circuit current");
      series_r(r);
      series_l("leakage", std::sqrt(z * z - r * r) / (2 * std::numbers::pi * n.source_hz));
    } else if (b.kind == "oven-transformers") {
      const double many = value("in_series") / value("in_parallel");
      series_r(value("resistance_ohm") * many);
      series_l("leakage", value("leakage_h") * many);
    } else if (b.kind == "bridge") {
      const Node plus = n.add_node();
      diode("bridge 1", at, plus);
      diode("bridge 2", minus, plus);
      diode("bridge 3", 0, at);
      diode("bridge 4", 0, minus);
      at = plus;
      limit = value("inverse_voltage_v");
    } else if (b.kind == "doubler") {
      const Node shifted = n.add_node(), middle = n.add_node();
      n.resistors.push_back({at, middle, joint_ohm});
      n.capacitors.push_back({"doubler", middle, shifted, value("capacitance_f")});
      diode("clamp", 0, shifted);
      at = shifted;
      limit = value("inverse_voltage_v");
    } else if (b.kind == "reservoir") {
      shunt_c("reservoir", value("capacitance_f"), joint_ohm, 0);
      n.resistors.push_back({at, 0, value("bleed_resistance_ohm")});
      limit = value("voltage_v");
    } else if (b.kind == "charging-choke") {
      if (value("diode") > 0.5) {
        const Node after = n.add_node();
        diode("de-Q", at, after);
        at = after;
      }
      series_r(value("resistance_ohm"));
      series_l("choke", value("inductance_h"));
    } else if (b.kind == "protection-filter") {
      series_r(value("resistance_ohm"));
      shunt_c("filter", value("capacitance_f"), joint_ohm, 0);
    }
    if (block_kind(b.kind)->caution.find("Mains side") == std::string_view::npos)
      out.stages.push_back({std::string(block_kind(b.kind)->title), at, limit});
  }
  out.tank = n.capacitors.size();
  const Node hot = n.add_node();
  n.resistors.push_back({at, hot, joint_ohm});
  n.capacitors.push_back({"tank", hot, 0, tank_capacitance_f(design.tank)});
  out.gap = n.switches.size();
  n.switches.push_back({"gap", hot, 0, gap_on_ohm, gap_off_ohm, false});
  if (const auto bleed = tank_bleed_resistance_ohm(design.tank)) n.resistors.push_back({hot, 0, *bleed});
  out.stages.push_back(
      {"Tank", hot, design.tank.unit_voltage_v ? *design.tank.unit_voltage_v * design.tank.units_in_series : 0});
  return out;
}

double source_current(const Feed& feed, const Motion& motion) { // through the line's resistance, the first resistor
  const auto& r = feed.network.resistors.front();
  return (motion.node_v(r.a) - motion.node_v(r.b)) / r.ohm;
}

} // namespace

ChargingResult simulate_charging(const Design& design, const ChargingOptions& options,
                                 const std::atomic<bool>& cancelled) {
  const Feed feed = build(design);
  Motion motion(feed.network, options.step_s);
  ChargingResult out;
  const double mains_hz = design.site.mains_frequency_hz, firing = design.gap.firing_voltage_v;
  const auto presentations = presentations_hz(design.gap);
  const double duration = options.cycles / mains_hz;
  const auto steps = static_cast<std::size_t>(std::llround(duration / options.step_s));
  const double settled = std::floor(options.cycles / 2.0) / mains_hz;
  bool burning = false;
  // The gap opens again once it has emptied the tank.
  const auto event = [&](const Motion& m) {
    const double v = std::abs(m.capacitor_v(feed.tank)) / firing;
    return burning ? 1 - v / emptied : presentations ? -1.0 : v - 1;
  };
  std::vector<double> peaks(feed.stages.size(), 0.0);
  double energy = 0, squares = 0, work = 0, volts = 0, counted = 0;
  double next_presentation = presentations ? 0.5 / *presentations : 0;
  const auto fire = [&] {
    const double v = motion.capacitor_v(feed.tank);
    out.break_times_s.push_back(motion.time_s());
    out.break_voltages_v.push_back(v);
    if (motion.time_s() >= settled) energy += stored_energy_j(tank_capacitance_f(design.tank), v);
    motion.set_switch(feed.gap, true);
    burning = true;
  };
  const auto sample = [&] {
    const double v = motion.node_v(feed.source_plus) - motion.node_v(feed.source_minus);
    return ChargingSample{motion.time_s(), v / feed.ratio, source_current(feed, motion) * feed.ratio,
                          motion.capacitor_v(feed.tank)};
  };
  out.samples.reserve(steps + 1);
  out.samples.push_back(sample());
  for (std::size_t k = 1; k <= steps && !cancelled; ++k) {
    while (motion.advance(event)) {
      if (burning) {
        motion.set_switch(feed.gap, false);
        burning = false;
      } else {
        fire();
      }
    }
    if (presentations && motion.time_s() >= next_presentation) {
      next_presentation += 1 / *presentations;
      // At the presentation the rotor's gap is at its shortest: it fires down to a fifth of the static gap's
      // voltage.
      if (std::abs(motion.capacitor_v(feed.tank)) > 0.2 * firing) fire();
    }
    const ChargingSample s = sample();
    out.tank_peak_v = std::max(out.tank_peak_v, std::abs(s.tank_v));
    for (std::size_t i = 0; i < feed.stages.size(); ++i)
      peaks[i] = std::max(peaks[i], std::abs(motion.node_v(feed.stages[i].node)));
    if (s.time_s > settled) {
      squares += s.line_a * s.line_a;
      volts += s.mains_v * s.mains_v;
      work += s.line_a * s.mains_v;
      ++counted;
    }
    out.samples.push_back(s);
  }
  for (const double v : out.break_voltages_v) out.tank_peak_v = std::max(out.tank_peak_v, std::abs(v));
  const double span = duration - settled;
  out.break_rate_hz =
      static_cast<double>(std::ranges::count_if(out.break_times_s, [&](double t) { return t >= settled; })) / span;
  if (counted > 0) {
    out.line_current_a = std::sqrt(squares / counted);
    out.input_power_w = work / counted;
    out.power_factor = out.input_power_w / std::max(out.line_current_a * std::sqrt(volts / counted), 1e-12);
  }
  out.tank_power_w = energy / span;
  out.breaker_trip_s = feed.breaker_a > 0 ? breaker_trip_s(feed.breaker_a, out.line_current_a, feed.breaker_c)
                                          : std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < feed.stages.size(); ++i)
    out.stresses.push_back({feed.stages[i].title, peaks[i], feed.stages[i].limit_v});
  return out;
}

std::string charging_netlist(const Design& design, const ChargingOptions& options) {
  const Feed feed = build(design);
  const Network& n = feed.network;
  std::string deck =
      fmt::format("* {}: charging, referred to the transformer's output, written by High Arc\n", design.name);
  const auto line = [&]<typename... T>(fmt::format_string<T...> text, T&&... values) {
    deck += fmt::format(text, std::forward<T>(values)...) + "\n";
  };
  const auto& source = n.sources.front();
  line("Vmains n{} n{} sin(0 {:.10g} {:.8g})", source.a, source.b, source.amplitude_v, n.source_hz);
  for (std::size_t i = 0; i < n.resistors.size(); ++i)
    line("R{} n{} n{} {:.10g}", i, n.resistors[i].a, n.resistors[i].b, n.resistors[i].ohm);
  for (std::size_t i = 0; i < n.inductors.size(); ++i)
    line("L{} n{} n{} {:.10g} ic=0", i, n.inductors[i].a, n.inductors[i].b, n.inductors[i].henry);
  for (std::size_t i = 0; i < n.capacitors.size(); ++i) {
    const bool tank = i == feed.tank; // its current is sensed at its foot
    line("C{} n{} {} {:.10g} ic=0", i, n.capacitors[i].a,
         tank ? std::string("tankfoot") : fmt::format("n{}", n.capacitors[i].b), n.capacitors[i].farad);
  }
  line("Vtank tankfoot 0 0");
  for (std::size_t i = 0; i < n.switches.size(); ++i) // diodes as switches on their own voltage, as simulated
    if (n.switches[i].diode)
      line("S{} n{} n{} n{} n{} diode", i, n.switches[i].a, n.switches[i].b, n.switches[i].a, n.switches[i].b);
  line(".model diode sw(vt=0 vh=0 ron={:.6g} roff={:.6g})", diode_on_ohm, diode_off_ohm);
  const Node hot = n.capacitors[feed.tank].a;
  const double firing = design.gap.firing_voltage_v;
  if (const auto presentations = presentations_hz(design.gap)) {
    line("Vctl gate 0 pulse(0 1 {:.10g} 1n 1n 2u {:.10g})", 0.5 / *presentations, 1 / *presentations);
    line("Sgap n{} gapfoot gate 0 gap", hot);
    line(".model gap sw(vt=0.5 vh=0 ron={} roff={})", gap_on_ohm, gap_off_ohm);
  } else {
    line("Babs gate 0 V=abs(v(n{}))", hot);
    line("Sgap n{} gapfoot gate 0 gap", hot);
    line(".model gap sw(vt={:.10g} vh={:.10g} ron={} roff={})", firing * (1 + emptied) / 2,
         firing * (1 - emptied) / 2, gap_on_ohm, gap_off_ohm);
  }
  const double duration = options.cycles / n.source_hz, settled = std::floor(options.cycles / 2.0) / n.source_hz;
  const double ratio = feed.ratio;
  line("Vzero n0 0 0");
  line("Bline line 0 V=-i(Vmains)*{:.10g}", ratio);
  line("Bpower power 0 V=-i(Vmains)*(v(n{})-v(n{}))", source.a, source.b);
  line("Btank tankabs 0 V=abs(v(n{}))", hot);
  line("Vgap gapfoot 0 0");
  // Charge that leaves the tank through the burning gap; the supply's own current through the gap does not count.
  line("Bcount count 0 V=abs(i(Vgap)) > 1 ? abs(i(Vtank)) : 0");
  line(".options reltol=1e-5 method=trap");
  line(".tran {:.6g} {:.8g} 0 {:.6g} uic", options.step_s, duration, options.step_s / 4);
  line(".meas tran tank_peak_v max v(tankabs)");
  line(".meas tran line_current_a rms v(line) from={:.8g} to={:.8g}", settled, duration);
  line(".meas tran input_power_w avg v(power) from={:.8g} to={:.8g}", settled, duration);
  if (const auto presentations = presentations_hz(design.gap)) {
    line(".param rate={:.10g}", *presentations);
    line(".meas tran break_rate_hz param='rate'");
  } else { // each break empties the tank from the same voltage: the charge that leaves counts them
    line(".meas tran break_charge integ v(count) from={:.8g} to={:.8g}", settled, duration);
    line(".meas tran break_rate_hz param='break_charge/{:.10g}'",
         n.capacitors[feed.tank].farad * firing * (duration - settled));
  }
  line(".meas tran power_factor param='input_power_w/(line_current_a*{:.8g})'",
       source.amplitude_v / std::numbers::sqrt2 / ratio);
  line(".end");
  return deck;
}

} // namespace arc
