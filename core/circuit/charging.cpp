// Charging: the run of the feed's network and its netlist.
#include "circuit/charging.h"

#include "circuit/deck.h"
#include "circuit/feed.h"
#include "circuit/feed_network.h"
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

// Amperes through a branch, toward the tank, with these node voltages.
double branch_a(const Network& n, const Motion& motion, const Eigen::VectorXd& v, const Branch& branch) {
  const auto across = [&](Node a, Node b) {
    return v(static_cast<Eigen::Index>(a)) - v(static_cast<Eigen::Index>(b));
  };
  switch (branch.kind) {
  case Branch::Kind::resistor: {
    const auto& r = n.resistors[branch.index];
    return across(r.a, r.b) / r.ohm;
  }
  case Branch::Kind::inductor:
    return motion.inductor_a(branch.index);
  case Branch::Kind::switched: {
    const auto& s = n.switches[branch.index];
    return motion.switch_a(branch.index, across(s.a, s.b));
  }
  case Branch::Kind::none:
    break;
  }
  return 0;
}

// A gap during the run.
struct Burning {
  FeedGap gap;
  bool burns = false;
  int firings = 0; // in the later half
};

double used_share(double value, double limit) {
  return limit > 0 ? value / limit : 0;
}

// Sums over the later half.
struct Sums {
  double squares = 0, volts = 0, work = 0, count = 0;
};

// Fundamental of voltage and current over the later half.
struct Fundamental {
  double v_sin = 0, v_cos = 0, a_sin = 0, a_cos = 0;
  void add(double angle, double volts, double amps) {
    const double s = std::sin(angle), c = std::cos(angle);
    v_sin += volts * s, v_cos += volts * c, a_sin += amps * s, a_cos += amps * c;
  }
  double reactive_va(double count) const { return 2 * (v_cos * a_sin - v_sin * a_cos) / (count * count); }
};

// Short enough to see each presentation of a rotor, long enough to keep the work in bounds.
double charging_step_s(const ChargingOptions& options, const GapModel& model, double duration_s) {
  const double fine = model.rotary() ? std::min(options.step_s, 0.25 / model.rate_hz) : options.step_s;
  return std::max(fine, duration_s / most_charging_samples);
}

} // namespace

double JointLoad::used() const {
  return std::max(used_share(peak_v, limit_v), used_share(rms_a, limit_a));
}

double DiodeLoad::used() const {
  return std::max(used_share(inverse_v, limit_v), used_share(average_a, limit_a));
}

namespace {

// A gap that fires and goes out without end: nothing that runs so is a coil.
[[noreturn]] void refuse_endless(const Design& design, double time_s, std::size_t breaks) {
  throw std::invalid_argument(fmt::format(
      "the gaps fire {} times within the first {}, more than can be followed; the main gap is set to {}, far below "
      "what the feed gives, or a safety gap is",
      breaks, format_quantity(time_s, Dimension::time),
      format_quantity(design.gap.firing_voltage_v, Dimension::voltage)));
}

} // namespace

ChargingResult simulate_charging(const Design& design, const ChargingOptions& options,
                                 const std::atomic<bool>& cancelled, const std::function<void(int)>& progress) {
  const FeedNetwork feed = feed_network(design);
  const GapModel model = gap_model(design.gap, design.site);
  ChargingResult out;
  const double mains_hz = design.site.mains_frequency_hz;
  const double duration = options.cycles / mains_hz;
  const double step_s = charging_step_s(options, model, duration);
  Motion motion(feed.network, step_s);
  const auto steps = static_cast<std::size_t>(std::llround(duration / step_s));
  const double settled = std::floor(options.cycles / 2.0) / mains_hz;
  std::vector<Burning> gaps{{feed.gap, false, 0}};
  for (const FeedGap& gap : feed.safety_gaps) gaps.push_back({gap, false, 0});
  // Amperes through the dimmer's triac; it goes out when they pass zero.
  bool lit = false;
  double lit_sign = 0;
  const auto triac_a = [&](const Motion& m) {
    const auto& s = feed.network.switches[feed.dimmer->switch_index];
    return m.switch_a(feed.dimmer->switch_index, m.node_v(s.a) - m.node_v(s.b));
  };
  // Above zero when the triac is fired or goes out.
  const auto triac_tension = [&](const Motion& m) {
    if (lit) return lit_sign == 0 ? -1.0 : -lit_sign * triac_a(m) / feed.dimmer->holds_a - 1e-3;
    const double half = 2 * mains_hz * m.time_s();
    const double place = half - std::floor(half);
    return place < feed.dimmer->angle_share || place > feed.dimmer->angle_share + triac_pulse_share ? -1.0 : 1.0;
  };
  const auto across = [&](const Motion& m, const FeedGap& gap) {
    return std::abs(m.node_v(gap.a) - m.node_v(gap.b));
  };
  // Above zero when a gap fires or goes out; the one that is furthest.
  const auto tension = [&](const Motion& m, std::size_t k) {
    const Burning& g = gaps[k];
    const double v = k == 0 ? std::abs(m.capacitor_v(feed.tank)) : across(m, g.gap);
    if (g.burns) return 1 - v / g.gap.opens_v;
    return v / (k == 0 ? model.threshold_v(m.time_s()) : g.gap.firing_v) - 1;
  };
  const auto event = [&](const Motion& m) {
    double most = tension(m, 0);
    for (std::size_t k = 1; k < gaps.size(); ++k) most = std::max(most, tension(m, k));
    if (feed.dimmer) most = std::max(most, triac_tension(m));
    return most;
  };
  double energy = 0, volts_of_breaks = 0;
  int late_breaks = 0;
  const auto turn = [&](std::size_t k) { // a gap changes its state
    Burning& g = gaps[k];
    const bool late = motion.time_s() >= settled;
    if (!g.burns && k == 0) {
      const double v = motion.capacitor_v(feed.tank);
      out.break_times_s.push_back(motion.time_s());
      out.break_voltages_v.push_back(v);
      if (late) {
        energy += stored_energy_j(tank_capacitance_f(design.tank), v);
        volts_of_breaks += std::abs(v);
        ++late_breaks;
      }
    }
    g.firings += !g.burns && late;
    g.burns = !g.burns;
    motion.set_switch(g.gap.switch_index, g.burns);
  };
  const auto volts = [](const Eigen::VectorXd& v, Node node) { return v(static_cast<Eigen::Index>(node)); };
  const auto volts_at_source = [&](const Eigen::VectorXd& v) {
    return feed.driver ? design.site.mains_voltage_v * std::numbers::sqrt2 *
                             std::sin(2 * std::numbers::pi * mains_hz * motion.time_s())
                       : (volts(v, feed.source_plus) - volts(v, feed.source_minus)) / feed.ratio;
  };
  const auto sample = [&](const Eigen::VectorXd& v) {
    return ChargingSample{motion.time_s(), volts_at_source(v),
                          branch_a(feed.network, motion, v, feed.source_current) * feed.ratio,
                          motion.capacitor_v(feed.tank)};
  };
  std::vector<Sums> joint_sums(feed.joints.size());
  std::vector<double> diode_sums(feed.diodes.size(), 0.0);
  for (const FeedJoint& j : feed.joints)
    out.joints.push_back({j.title, j.mains, 0, 0, 0, 0, j.limit_v, j.limit_a, 0});
  for (const FeedDiode& d : feed.diodes) out.diodes.push_back({d.title, 0, 0, d.limit_v, d.limit_a});
  Sums line;
  Fundamental fundamental;
  double driver_w = 0;
  const auto watch = [&](const ChargingSample& s, const Eigen::VectorXd& at) {
    const bool late = s.time_s > settled;
    // While the gap burns the joints carry the rush out of the last filter: that is the shot's, not charging.
    for (std::size_t i = 0; i < feed.joints.size() && !gaps[0].burns; ++i) {
      const FeedJoint& j = feed.joints[i];
      const double v = (volts(at, j.plus) - volts(at, j.minus)) / j.scale;
      const double a = branch_a(feed.network, motion, at, j.current) * j.scale;
      out.joints[i].peak_v = std::max(out.joints[i].peak_v, std::abs(v));
      out.joints[i].peak_a = std::max(out.joints[i].peak_a, std::abs(a));
      if (j.winding)
        out.joints[i].insulation_v =
            std::max({out.joints[i].insulation_v, std::abs(volts(at, j.plus)), std::abs(volts(at, j.minus))});
      if (late)
        joint_sums[i] = {joint_sums[i].squares + a * a, joint_sums[i].volts + v * v, 0, joint_sums[i].count + 1};
    }
    for (std::size_t i = 0; i < feed.diodes.size(); ++i) {
      const auto& d = feed.network.switches[feed.diodes[i].switch_index];
      const double forward = volts(at, d.a) - volts(at, d.b);
      out.diodes[i].inverse_v = std::max(out.diodes[i].inverse_v, -forward);
      if (late) diode_sums[i] += std::max(0.0, motion.switch_a(feed.diodes[i].switch_index, forward));
    }
    if (!late) return;
    fundamental.add(2 * std::numbers::pi * mains_hz * s.time_s, s.mains_v, s.line_a);
    line = {line.squares + s.line_a * s.line_a, line.volts + s.mains_v * s.mains_v,
            line.work + s.line_a * s.mains_v, line.count + 1};
    // What the driver gives: its output's resistance stands for leakage, which limits and does not burn.
    if (feed.driver) driver_w += s.line_a * volts(at, feed.network.resistors[feed.source_current.index].b);
  };
  out.samples.reserve(steps + 1);
  out.samples.push_back(sample(motion.node_voltages()));
  const auto steps_each_cycle = std::max<std::size_t>(1, steps / static_cast<std::size_t>(options.cycles));
  int events = 0;
  double stored_at_settled_j = motion.stored_j();
  for (std::size_t k = 1; k <= steps && !cancelled; ++k) {
    while (!cancelled && motion.advance(event)) {
      if (++events > most_gap_events) refuse_endless(design, motion.time_s(), out.break_times_s.size());
      for (std::size_t g = 0; g < gaps.size(); ++g)
        if (tension(motion, g) >= 0) turn(g);
      if (feed.dimmer && triac_tension(motion) >= 0) {
        lit = !lit;
        lit_sign = 0;
        motion.set_switch(feed.dimmer->switch_index, lit);
      }
    }
    if (lit && lit_sign == 0) // which way it carries shows after a step; a current that never came lets it go out
      if (const double a = triac_a(motion); std::abs(a) > feed.dimmer->holds_a) lit_sign = a > 0 ? 1 : -1;
    const Eigen::VectorXd& at = motion.node_voltages();
    const ChargingSample s = sample(at);
    if (s.time_s > settled && out.samples.back().time_s <= settled) {
      for (Burning& g : gaps) g.firings += g.burns; // those that burn on without end
      stored_at_settled_j = motion.stored_j();
    }
    out.tank_peak_v = std::max(out.tank_peak_v, std::abs(s.tank_v));
    watch(s, at);
    out.samples.push_back(s);
    if (progress && k % steps_each_cycle == 0) progress(static_cast<int>(k / steps_each_cycle));
  }
  for (const double v : out.break_voltages_v) out.tank_peak_v = std::max(out.tank_peak_v, std::abs(v));
  out.joints.back().peak_v = out.tank_peak_v; // the gap fires between samples
  const double span = duration - settled;
  out.break_rate_hz = late_breaks / span;
  out.break_voltage_v = late_breaks > 0 ? volts_of_breaks / late_breaks : 0;
  if (line.count > 0) {
    const double rms_v = std::sqrt(line.volts / line.count);
    out.line_current_a = std::sqrt(line.squares / line.count);
    // A resonance that beats gives its energy back to the line for some cycles: then what is used up counts, which
    // is the work less what the stored energy grew by.
    const double gained_w = (motion.stored_j() - stored_at_settled_j) / (line.count * step_s);
    const double work_w = line.work / line.count;
    out.input_power_w = work_w >= 0 ? work_w : std::max(0.0, work_w - gained_w);
    if (feed.driver) { // not simulated up to the wall
      out.input_power_w = driver_w / line.count / feed.driver->efficiency;
      out.line_current_a = out.input_power_w / (feed.driver->power_factor * design.site.mains_voltage_v);
    }
    out.power_factor = std::min(1.0, out.input_power_w / std::max(out.line_current_a * rms_v, 1e-12));
    out.reactive_va = feed.driver ? 0 : fundamental.reactive_va(line.count);
    for (std::size_t i = 0; i < feed.joints.size(); ++i) {
      const Sums& joint = joint_sums[i];
      out.joints[i].rms_v = std::sqrt(joint.volts / std::max(joint.count, 1.0));
      out.joints[i].rms_a = std::sqrt(joint.squares / std::max(joint.count, 1.0));
      if (feed.driver && feed.joints[i].mains) {
        out.joints[i].rms_v = design.site.mains_voltage_v;
        out.joints[i].rms_a = out.line_current_a;
        out.joints[i].peak_v = design.site.mains_voltage_v * std::numbers::sqrt2;
        out.joints[i].peak_a = out.line_current_a / feed.driver->power_factor; // short pulses into its supply
      }
    }
    for (std::size_t i = 0; i < feed.diodes.size(); ++i) out.diodes[i].average_a = diode_sums[i] / line.count;
  }
  for (std::size_t g = 1; g < gaps.size(); ++g)
    out.safety_gaps.push_back({gaps[g].gap.title, gaps[g].gap.firing_v, gaps[g].firings});
  out.tank_power_w = energy / span;
  out.breaker_used = feed.breaker_a > 0 ? out.line_current_a / feed.breaker_a : 0;
  out.breaker_trip_s = feed.breaker_a > 0 ? breaker_trip_s(feed.breaker_a, out.line_current_a, feed.breaker_c)
                                          : std::numeric_limits<double>::infinity();
  return out;
}

std::shared_ptr<const ChargingResult> simulate_charging(Kept& kept, const Design& design,
                                                        const ChargingOptions& options,
                                                        const std::atomic<bool>& cancelled,
                                                        const std::function<void(int)>& progress) {
  const ChargingStep step{design.feed, design.tank, design.gap, design.site, options};
  return kept.get(step, cancelled, [&] {
    Design alone; // so that nothing else can count
    alone.feed = step.feed;
    alone.tank = step.tank;
    alone.gap = step.gap;
    alone.site = step.site;
    return simulate_charging(alone, options, cancelled, progress);
  });
}

std::string charging_netlist(const Design& design, const ChargingOptions& options) {
  const FeedNetwork feed = feed_network(design);
  if (feed.dimmer)
    throw std::invalid_argument(
        "a feed with a dimmer cannot be exported as a deck: its triac is simulated here only");
  const GapModel model = gap_model(design.gap, design.site);
  const Network& n = feed.network;
  std::string deck = deck_title(design.name, "charging, referred to the source's output");
  const auto line = [&]<typename... T>(fmt::format_string<T...> text, T&&... values) {
    deck += fmt::format(text, std::forward<T>(values)...) + "\n";
  };
  const auto& source = n.sources.front();
  if (feed.driver)
    line("Vmains n{} n{} {:.10g}", source.a, source.b, source.dc_v);
  else
    line("Vmains n{} n{} sin(0 {:.10g} {:.8g})", source.a, source.b, source.amplitude_v, n.source_hz);
  for (std::size_t i = 0; i < n.resistors.size(); ++i)
    line("R{} n{} n{} {:.10g}", i, n.resistors[i].a, n.resistors[i].b, n.resistors[i].ohm);
  for (std::size_t i = 0; i < n.inductors.size(); ++i) {
    const Network::Inductor& item = n.inductors[i];
    if (item.knees.empty()) {
      line("L{} n{} n{} {:.10g} ic={:.10g}", i, item.a, item.b, item.henry, item.start_a);
      continue;
    }
    // The flux is the integral of the voltage, as a node of its own; the current follows from it, more beyond each
    // knee.
    line("Gflux{0} 0 flux{0} n{1} n{2} 1", i, item.a, item.b);
    line("Cflux{0} flux{0} 0 1 ic={1:.10g}", i, item.henry * item.start_a);
    line("Rflux{0} flux{0} 0 1e9", i);
    std::string current = fmt::format("v(flux{})/{:.10g}", i, item.henry);
    for (const Network::Knee& knee : item.knees)
      current += fmt::format("+max(0,abs(v(flux{0}))-{1:.10g})*sgn(v(flux{0}))/{2:.10g}", i,
                             item.henry * knee.linear_a, knee.henry);
    line("Bflux{0} n{1} n{2} I={3}", i, item.a, item.b, current);
  }
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
  // Every gap closes at its firing voltage and opens when little is left across it.
  const auto hysteresis = [&](const char* name, double ohm, double firing, double opens) {
    line(".model {} sw(vt={:.10g} vh={:.10g} ron={} roff={})", name, (firing + opens) / 2, (firing - opens) / 2,
         ohm, gap_off_ohm);
  };
  if (model.rotary()) { // in units of what the rotor's spacing holds at the instant
    line("Babs gate 0 V=abs(v(n{}))/({})", hot, model.spice());
    hysteresis("gap", gap_on_ohm, 1, feed.gap.opens_v / model.threshold_v(model.first_s));
  } else {
    line("Babs gate 0 V=abs(v(n{}))", hot);
    hysteresis("gap", gap_on_ohm, feed.gap.firing_v, feed.gap.opens_v);
  }
  line("Sgap n{} gapfoot gate 0 gap", hot);
  for (std::size_t k = 0; k < feed.safety_gaps.size(); ++k) {
    const FeedGap& g = feed.safety_gaps[k];
    line("Bsafe{0} gate{0} 0 V=abs(v(n{1})-v(n{2}))", k + 1, g.a, g.b);
    line("Ssafe{0} n{1} n{2} gate{0} 0 safe{0}", k + 1, g.a, g.b);
    hysteresis(fmt::format("safe{}", k + 1).c_str(), safety_gap_on_ohm, g.firing_v, g.opens_v);
  }
  const double duration = options.cycles / n.source_hz, settled = std::floor(options.cycles / 2.0) / n.source_hz;
  line("Vzero n0 0 0");
  line("Btank tankabs 0 V=abs(v(n{}))", hot);
  line("Vgap gapfoot 0 0");
  // Each break empties the tank: energy and charge leave it through the burning gap. Their ratio is half the
  // voltage of a break. The supply's own current through the gap does not count.
  line("Bcount count 0 V=abs(i(Vgap)) > 1 ? abs(i(Vtank)) : 0");
  line("Benergy energy 0 V=abs(i(Vgap)) > 1 ? abs(i(Vtank)*v(n{})) : 0", hot);
  line(".options reltol=1e-5 method=trap");
  const double step_s = charging_step_s(options, model, duration);
  line(".tran {:.6g} {:.8g} 0 {:.6g} uic", step_s, duration, step_s / 4);
  line(".meas tran tank_peak_v max v(tankabs)");
  if (feed.driver) {
    line("Bpower power 0 V=-i(Vmains)*v(n{})/{:.10g}", n.resistors[feed.source_current.index].b,
         feed.driver->efficiency);
    line(".meas tran input_power_w avg v(power) from={:.8g} to={:.8g}", settled, duration);
    line(".meas tran line_current_a param='input_power_w/{:.10g}'",
         feed.driver->power_factor * design.site.mains_voltage_v);
    line(".meas tran power_factor param='{:.6g}'", feed.driver->power_factor);
  } else {
    line("Bline line 0 V=-i(Vmains)*{:.10g}", feed.ratio);
    line("Bpower power 0 V=-i(Vmains)*(v(n{})-v(n{}))", source.a, source.b);
    line(".meas tran line_current_a rms v(line) from={:.8g} to={:.8g}", settled, duration);
    line(".meas tran input_power_w avg v(power) from={:.8g} to={:.8g}", settled, duration);
    line(".meas tran power_factor param='input_power_w/(line_current_a*{:.8g})'",
         source.amplitude_v / std::numbers::sqrt2 / feed.ratio);
  }
  line(".meas tran break_charge integ v(count) from={:.8g} to={:.8g}", settled, duration);
  if (model.rotary()) { // breaks differ in voltage: counted as q^2 / (2 W C), exact when they are alike
    line(".meas tran break_energy integ v(energy) from={:.8g} to={:.8g}", settled, duration);
    line(".meas tran break_rate_hz param='break_charge*break_charge/(2*break_energy*{:.10g})'",
         n.capacitors[feed.tank].farad * (duration - settled));
  } else {
    line(".meas tran break_rate_hz param='break_charge/{:.10g}'",
         n.capacitors[feed.tank].farad * feed.gap.firing_v * (duration - settled));
  }
  line(".end");
  return deck;
}

std::string charging_csv(const ChargingResult& charging) {
  std::string out = "time_s,mains_v,line_a,tank_v\r\n";
  for (const ChargingSample& s : charging.samples)
    out += fmt::format("{:.9g},{:.7g},{:.7g},{:.7g}\r\n", s.time_s, s.mains_v, s.line_a, s.tank_v);
  return out;
}

} // namespace arc
