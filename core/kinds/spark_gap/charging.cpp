// Charging: the feed with tank and gap behind it as one network, its run and its netlist.
#include "kinds/spark_gap/charging.h"

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

// Open ends of the run: where the tank and its gap stand behind the feed.
constexpr double gap_on_ohm = 10;  // empties the tank within a microsecond or two
constexpr double gap_opens_v = 25; // across the gap, when it has emptied the tank

struct ChargingNetwork {
  FeedNetwork feed;
  std::size_t tank = 0;
  FeedGap gap;
};

ChargingNetwork charging_network(const Design& design) {
  ChargingNetwork out{feed_network(design.feed, design.site), 0, {}};
  Network& n = out.feed.network;
  const Node hot = out.feed.end;
  out.tank = n.capacitors.size();
  n.capacitors.push_back({"tank", hot, 0, tank_capacitance_f(design.tank)});
  out.gap = {"gap", n.switches.size(),           hot,
             0,     design.gap.firing_voltage_v, std::min(gap_opens_v, design.gap.firing_voltage_v / 4)};
  n.switches.push_back({"gap", hot, 0, gap_on_ohm, gap_off_ohm, false});
  if (const auto bleed = tank_bleed_resistance_ohm(design.tank)) n.resistors.push_back({hot, 0, *bleed});
  out.feed.joints.push_back(
      {"Tank", hot, 0, 1, out.feed.into_end, tank_voltage_limit_v(design.tank, 1).value_or(0), 0});
  return out;
}

double volts_of(const Eigen::VectorXd& v, Node node) {
  return v(static_cast<Eigen::Index>(node));
}

// One run from switching on: a step, what ends it early, and what is gathered of it.
class ChargingRun {
 public:
  ChargingRun(const Design& design, const ChargingOptions& options)
      : design_(design), options_(options), all_(charging_network(design)), feed_(all_.feed),
        model_(gap_model(design.gap, design.site)), mains_hz_(design.site.mains_frequency_hz),
        duration_s_(options.cycles / mains_hz_), step_s_(charging_step_s(options, model_, duration_s_)),
        settled_s_(std::floor(options.cycles / 2.0) / mains_hz_), motion_(feed_.network, step_s_) {
    gaps_.push_back({all_.gap, false, 0});
    for (const FeedGap& gap : feed_.safety_gaps) gaps_.push_back({gap, false, 0});
    joint_sums_.resize(feed_.joints.size());
    diode_sums_.resize(feed_.diodes.size());
    for (const FeedJoint& j : feed_.joints)
      out_.joints.push_back({j.title, j.mains, 0, 0, 0, 0, j.limit_v, j.limit_a, 0});
    for (const FeedDiode& d : feed_.diodes) out_.diodes.push_back({d.title, d.block, 0, 0, d.limit_v, d.limit_a});
  }

  ChargingResult run(const std::atomic<bool>& cancelled, const std::function<void(int)>& progress) {
    const auto steps = static_cast<std::size_t>(std::llround(duration_s_ / step_s_));
    const auto steps_each_cycle = std::max<std::size_t>(1, steps / static_cast<std::size_t>(options_.cycles));
    out_.samples.reserve(steps + 1);
    out_.samples.push_back(sample(motion_.node_voltages()));
    stored_at_settled_j_ = motion_.stored_j();
    for (std::size_t k = 1; k <= steps && !cancelled; ++k) {
      step(cancelled);
      gather();
      if (progress && k % steps_each_cycle == 0) progress(static_cast<int>(k / steps_each_cycle));
    }
    conclude();
    return std::move(out_);
  }

 private:
  // ---- a step and its events

  void step(const std::atomic<bool>& cancelled) {
    const auto event = [this](const Motion& m) { return tension(m); };
    while (!cancelled && motion_.advance(event)) {
      if (++events_ > most_gap_events) refuse_endless(design_, motion_.time_s(), out_.break_times_s.size());
      for (std::size_t g = 0; g < gaps_.size(); ++g)
        if (gap_tension(motion_, g) >= 0) turn(g);
      if (feed_.dimmer && triac_tension(motion_) >= 0) {
        lit_ = !lit_;
        lit_sign_ = 0;
        motion_.set_switch(feed_.dimmer->switch_index, lit_);
      }
    }
    if (lit_ && lit_sign_ == 0) // which way it carries shows after a step; a current that never came lets it go out
      if (const double a = triac_a(motion_); std::abs(a) > feed_.dimmer->holds_a) lit_sign_ = a > 0 ? 1 : -1;
  }

  // Above zero when a gap or the triac fires or goes out; the one that is furthest.
  double tension(const Motion& m) const {
    double most = gap_tension(m, 0);
    for (std::size_t k = 1; k < gaps_.size(); ++k) most = std::max(most, gap_tension(m, k));
    if (feed_.dimmer) most = std::max(most, triac_tension(m));
    return most;
  }

  double gap_tension(const Motion& m, std::size_t k) const {
    const Burning& g = gaps_[k];
    const double v = k == 0 ? std::abs(m.capacitor_v(all_.tank)) : std::abs(m.node_v(g.gap.a) - m.node_v(g.gap.b));
    if (g.burns) return 1 - v / g.gap.opens_v;
    return v / (k == 0 ? model_.threshold_v(m.time_s()) : g.gap.firing_v) - 1;
  }

  // Amperes through the dimmer's triac; it goes out when they pass zero.
  double triac_a(const Motion& m) const {
    const auto& s = feed_.network.switches[feed_.dimmer->switch_index];
    return m.switch_a(feed_.dimmer->switch_index, m.node_v(s.a) - m.node_v(s.b));
  }

  double triac_tension(const Motion& m) const {
    if (lit_) return lit_sign_ == 0 ? -1.0 : -lit_sign_ * triac_a(m) / feed_.dimmer->holds_a - 1e-3;
    const double half = 2 * mains_hz_ * m.time_s();
    const double place = half - std::floor(half);
    return place < feed_.dimmer->angle_share || place > feed_.dimmer->angle_share + triac_pulse_share ? -1.0 : 1.0;
  }

  void turn(std::size_t k) { // a gap changes its state
    Burning& g = gaps_[k];
    const bool late = motion_.time_s() >= settled_s_;
    if (!g.burns && k == 0) {
      const double v = motion_.capacitor_v(all_.tank);
      out_.break_times_s.push_back(motion_.time_s());
      out_.break_voltages_v.push_back(v);
      if (late) {
        energy_j_ += stored_energy_j(tank_capacitance_f(design_.tank), v);
        volts_of_breaks_ += std::abs(v);
        ++late_breaks_;
      }
    }
    g.firings += !g.burns && late;
    g.burns = !g.burns;
    motion_.set_switch(g.gap.switch_index, g.burns);
  }

  // ---- what is gathered after each step

  double volts_at_source(const Eigen::VectorXd& v) const {
    return feed_.driver ? design_.site.mains_voltage_v * std::numbers::sqrt2 *
                              std::sin(2 * std::numbers::pi * mains_hz_ * motion_.time_s())
                        : (volts_of(v, feed_.source_plus) - volts_of(v, feed_.source_minus)) / feed_.ratio;
  }

  ChargingSample sample(const Eigen::VectorXd& v) const {
    return {motion_.time_s(), volts_at_source(v),
            branch_a(feed_.network, motion_, v, feed_.source_current) * feed_.ratio,
            motion_.capacitor_v(all_.tank)};
  }

  void gather() {
    const Eigen::VectorXd& at = motion_.node_voltages();
    const ChargingSample s = sample(at);
    const bool late = s.time_s > settled_s_;
    if (late && out_.samples.back().time_s <= settled_s_) {
      for (Burning& g : gaps_) g.firings += g.burns; // those that burn on without end
      stored_at_settled_j_ = motion_.stored_j();
    }
    out_.tank_peak_v = std::max(out_.tank_peak_v, std::abs(s.tank_v));
    gather_joints(at, late);
    gather_diodes(at, late);
    if (late) gather_line(s, at);
    out_.samples.push_back(s);
  }

  void gather_joints(const Eigen::VectorXd& at, bool late) {
    // While the gap burns the joints carry the rush out of the last filter: that is the shot's, not charging.
    for (std::size_t i = 0; i < feed_.joints.size() && !gaps_[0].burns; ++i) {
      const FeedJoint& j = feed_.joints[i];
      JointLoad& load = out_.joints[i];
      const double v = (volts_of(at, j.plus) - volts_of(at, j.minus)) / j.scale;
      const double a = branch_a(feed_.network, motion_, at, j.current) * j.scale;
      load.peak_v = std::max(load.peak_v, std::abs(v));
      load.peak_a = std::max(load.peak_a, std::abs(a));
      if (j.winding)
        load.insulation_v =
            std::max({load.insulation_v, std::abs(volts_of(at, j.plus)), std::abs(volts_of(at, j.minus))});
      if (late)
        joint_sums_[i] = {joint_sums_[i].squares + a * a, joint_sums_[i].volts + v * v, 0,
                          joint_sums_[i].count + 1};
    }
  }

  void gather_diodes(const Eigen::VectorXd& at, bool late) {
    for (std::size_t i = 0; i < feed_.diodes.size(); ++i) {
      const auto& d = feed_.network.switches[feed_.diodes[i].switch_index];
      const double forward = volts_of(at, d.a) - volts_of(at, d.b);
      out_.diodes[i].inverse_v = std::max(out_.diodes[i].inverse_v, -forward);
      if (late) diode_sums_[i] += std::max(0.0, motion_.switch_a(feed_.diodes[i].switch_index, forward));
    }
  }

  void gather_line(const ChargingSample& s, const Eigen::VectorXd& at) {
    fundamental_.add(2 * std::numbers::pi * mains_hz_ * s.time_s, s.mains_v, s.line_a);
    line_ = {line_.squares + s.line_a * s.line_a, line_.volts + s.mains_v * s.mains_v,
             line_.work + s.line_a * s.mains_v, line_.count + 1};
    // What the driver gives: its output's resistance stands for leakage, which limits and does not burn.
    if (feed_.driver) driver_w_ += s.line_a * volts_of(at, feed_.network.resistors[feed_.source_current.index].b);
  }

  // ---- what it comes to

  void conclude() {
    for (const double v : out_.break_voltages_v) out_.tank_peak_v = std::max(out_.tank_peak_v, std::abs(v));
    out_.joints.back().peak_v = out_.tank_peak_v; // the gap fires between samples
    const double span = duration_s_ - settled_s_;
    out_.break_rate_hz = late_breaks_ / span;
    out_.break_voltage_v = late_breaks_ > 0 ? volts_of_breaks_ / late_breaks_ : 0;
    if (line_.count > 0) {
      conclude_line();
      conclude_loads();
    }
    for (std::size_t g = 1; g < gaps_.size(); ++g)
      out_.safety_gaps.push_back({gaps_[g].gap.title, gaps_[g].gap.firing_v, gaps_[g].firings});
    out_.tank_power_w = energy_j_ / span;
    out_.breaker_used = feed_.breaker_a > 0 ? out_.line_current_a / feed_.breaker_a : 0;
    out_.breaker_trip_s = feed_.breaker_a > 0
                              ? breaker_trip_s(feed_.breaker_a, out_.line_current_a, feed_.breaker_c)
                              : std::numeric_limits<double>::infinity();
  }

  void conclude_line() {
    const double rms_v = std::sqrt(line_.volts / line_.count);
    out_.line_current_a = std::sqrt(line_.squares / line_.count);
    // A resonance that beats gives its energy back to the line for some cycles: then what is used up counts, which
    // is the work less what the stored energy grew by.
    const double gained_w = (motion_.stored_j() - stored_at_settled_j_) / (line_.count * step_s_);
    const double work_w = line_.work / line_.count;
    out_.input_power_w = work_w >= 0 ? work_w : std::max(0.0, work_w - gained_w);
    if (feed_.driver) { // not simulated up to the wall
      out_.input_power_w = driver_w_ / line_.count / feed_.driver->efficiency;
      out_.line_current_a = out_.input_power_w / (feed_.driver->power_factor * design_.site.mains_voltage_v);
    }
    out_.power_factor = std::min(1.0, out_.input_power_w / std::max(out_.line_current_a * rms_v, 1e-12));
    out_.reactive_va = feed_.driver ? 0 : fundamental_.reactive_va(line_.count);
  }

  void conclude_loads() {
    for (std::size_t i = 0; i < feed_.joints.size(); ++i) {
      const Sums& joint = joint_sums_[i];
      JointLoad& load = out_.joints[i];
      load.rms_v = std::sqrt(joint.volts / std::max(joint.count, 1.0));
      load.rms_a = std::sqrt(joint.squares / std::max(joint.count, 1.0));
      if (!feed_.driver || !feed_.joints[i].mains) continue;
      load.rms_v = design_.site.mains_voltage_v;
      load.rms_a = out_.line_current_a;
      load.peak_v = design_.site.mains_voltage_v * std::numbers::sqrt2;
      load.peak_a = out_.line_current_a / feed_.driver->power_factor; // short pulses into its supply
    }
    for (std::size_t i = 0; i < feed_.diodes.size(); ++i) out_.diodes[i].average_a = diode_sums_[i] / line_.count;
  }

  const Design& design_;
  const ChargingOptions options_;
  const ChargingNetwork all_;
  const FeedNetwork& feed_;
  const GapModel model_;
  const double mains_hz_, duration_s_, step_s_, settled_s_;
  Motion motion_;
  std::vector<Burning> gaps_; // the main one, then the safety gaps
  bool lit_ = false;          // the dimmer's triac
  double lit_sign_ = 0;
  int events_ = 0;
  double energy_j_ = 0, volts_of_breaks_ = 0; // of the breaks of the later half
  int late_breaks_ = 0;
  std::vector<Sums> joint_sums_;
  std::vector<double> diode_sums_;
  Sums line_;
  Fundamental fundamental_;
  double driver_w_ = 0, stored_at_settled_j_ = 0;
  ChargingResult out_;
};

} // namespace

ChargingResult simulate_charging(const Design& design, const ChargingOptions& options,
                                 const std::atomic<bool>& cancelled, const std::function<void(int)>& progress) {
  return ChargingRun(design, options).run(cancelled, progress);
}

namespace {

ChargingResult run_step(const ChargingStep& step, const std::atomic<bool>& cancelled,
                        const std::function<void(int)>& progress = {}) {
  Design alone; // so that nothing else can count
  alone.feed = step.feed;
  alone.tank = step.tank;
  alone.gap = step.gap;
  alone.site = step.site;
  return simulate_charging(alone, step.options, cancelled, progress);
}

} // namespace

std::shared_ptr<const ChargingResult> simulate_charging(Kept& kept, const Design& design,
                                                        const ChargingOptions& options,
                                                        const std::atomic<bool>& cancelled,
                                                        const std::function<void(int)>& progress) {
  const ChargingStep step{design.feed, design.tank, design.gap, design.site, options};
  return kept.get(step, cancelled, [&] { return run_step(step, cancelled, progress); });
}

std::shared_ptr<const ChargingResult> charging_figures(Kept& kept, const Design& design,
                                                       const ChargingOptions& options,
                                                       const std::atomic<bool>& cancelled) {
  const ChargingStep whole{design.feed, design.tank, design.gap, design.site, options};
  if (auto found = kept.find(whole)) return found;
  return kept.get(ChargingFiguresStep{whole}, cancelled, [&] {
    ChargingResult out = run_step(whole, cancelled);
    out.samples = {};
    return out;
  });
}

std::string charging_netlist(const Design& design, const ChargingOptions& options) {
  const ChargingNetwork all = charging_network(design);
  const FeedNetwork& feed = all.feed;
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
    const bool tank = i == all.tank; // its current is sensed at its foot
    line("C{} n{} {} {:.10g} ic=0", i, n.capacitors[i].a,
         tank ? std::string("tankfoot") : fmt::format("n{}", n.capacitors[i].b), n.capacitors[i].farad);
  }
  line("Vtank tankfoot 0 0");
  for (std::size_t i = 0; i < n.switches.size(); ++i) // diodes as switches on their own voltage, as simulated
    if (n.switches[i].diode)
      line("S{} n{} n{} n{} n{} diode", i, n.switches[i].a, n.switches[i].b, n.switches[i].a, n.switches[i].b);
  line(".model diode sw(vt=0 vh=0 ron={:.6g} roff={:.6g})", diode_on_ohm, diode_off_ohm);
  const Node hot = n.capacitors[all.tank].a;
  // Every gap closes at its firing voltage and opens when little is left across it.
  const auto hysteresis = [&](const char* name, double ohm, double firing, double opens) {
    line(".model {} sw(vt={:.10g} vh={:.10g} ron={} roff={})", name, (firing + opens) / 2, (firing - opens) / 2,
         ohm, gap_off_ohm);
  };
  if (model.rotary()) { // in units of what the rotor's spacing holds at the instant
    line("Babs gate 0 V=abs(v(n{}))/({})", hot, model.spice());
    hysteresis("gap", gap_on_ohm, 1, all.gap.opens_v / model.threshold_v(model.first_s));
  } else {
    line("Babs gate 0 V=abs(v(n{}))", hot);
    hysteresis("gap", gap_on_ohm, all.gap.firing_v, all.gap.opens_v);
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
         n.capacitors[all.tank].farad * (duration - settled));
  } else {
    line(".meas tran break_rate_hz param='break_charge/{:.10g}'",
         n.capacitors[all.tank].farad * all.gap.firing_v * (duration - settled));
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
