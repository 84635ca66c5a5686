// Charging: the feed with tank and gap behind it as one network, its run and its netlist.
#include "crafts/spark_gap/charging.h"

#include "circuit/deck.h"
#include "circuit/feed.h"
#include "circuit/feed_run.h"
#include "circuit/waves.h"
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

// A gap during the run.
struct Burning {
  FeedGap gap;
  bool burns = false;
  int firings = 0; // in the later half
};

// Short enough to see each presentation of a rotor, long enough to keep the work in bounds.
double charging_step_s(const ChargingOptions& options, const GapModel& model, double duration_s) {
  const double fine = model.rotary() ? std::min(options.step_s, 0.25 / model.rate_hz) : options.step_s;
  return std::max(fine, duration_s / most_charging_samples);
}

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

// One run from switching on: a step, what ends it early, and what is gathered of it.
class ChargingRun {
 public:
  ChargingRun(const Design& design, const ChargingOptions& options)
      : design_(design), options_(options), all_(charging_network(design)), feed_(all_.feed),
        model_(gap_model(design.gap, design.site)), mains_hz_(design.site.mains_frequency_hz),
        duration_s_(options.cycles / mains_hz_), step_s_(charging_step_s(options, model_, duration_s_)),
        settled_s_(std::floor(options.cycles / 2.0) / mains_hz_), run_(feed_, design.site, step_s_) {
    gaps_.push_back({all_.gap, false, 0});
    for (const FeedGap& gap : feed_.safety_gaps) gaps_.push_back({gap, false, 0});
  }

  ChargingResult run(const std::atomic<bool>& cancelled, const std::function<void(int)>& progress) {
    const auto steps = static_cast<std::size_t>(std::llround(duration_s_ / step_s_));
    const auto steps_each_cycle = std::max<std::size_t>(1, steps / static_cast<std::size_t>(options_.cycles));
    out_.samples.reserve(steps + 1);
    out_.samples.push_back(sample(motion_.node_voltages()));
    run_.begin_books();
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
    while (!cancelled && run_.advance(event)) {
      if (++events_ > most_gap_events) refuse_endless(design_, motion_.time_s(), out_.break_times_s.size());
      for (std::size_t g = 0; g < gaps_.size(); ++g)
        if (gap_tension(motion_, g) >= 0) turn(g);
    }
  }

  // Above zero when a gap fires or goes out; the one that is furthest.
  double tension(const Motion& m) const {
    double most = gap_tension(m, 0);
    for (std::size_t k = 1; k < gaps_.size(); ++k) most = std::max(most, gap_tension(m, k));
    return most;
  }

  double gap_tension(const Motion& m, std::size_t k) const {
    const Burning& g = gaps_[k];
    const double v = k == 0 ? std::abs(m.capacitor_v(all_.tank)) : std::abs(m.node_v(g.gap.a) - m.node_v(g.gap.b));
    if (g.burns) return 1 - v / g.gap.opens_v;
    return v / (k == 0 ? model_.threshold_v(m.time_s()) : g.gap.firing_v) - 1;
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

  ChargingSample sample(const Eigen::VectorXd& v) const {
    return {motion_.time_s(), meter_.line_v(motion_, v), meter_.line_a(motion_, v), motion_.capacitor_v(all_.tank)};
  }

  void gather() {
    const Eigen::VectorXd& at = motion_.node_voltages();
    const ChargingSample s = sample(at);
    const bool late = s.time_s > settled_s_;
    if (late && out_.samples.back().time_s <= settled_s_) {
      for (Burning& g : gaps_) g.firings += g.burns; // those that burn on without end
      run_.begin_books();
    }
    out_.tank_peak_v = std::max(out_.tank_peak_v, std::abs(s.tank_v));
    // While the gap burns the joints carry the rush out of the last filter: that is the shot's, not charging.
    if (!gaps_[0].burns) meter_.gather_joints(motion_, at, late);
    meter_.gather_diodes(motion_, at, late);
    if (late) meter_.gather_line(motion_, at);
    if (late) meter_.gather_capacitors(motion_);
    if (late) out_.settled_peak_v = std::max(out_.settled_peak_v, std::abs(s.tank_v));
    out_.samples.push_back(s);
  }

  // ---- what it comes to

  void conclude() {
    for (const double v : out_.break_voltages_v) out_.tank_peak_v = std::max(out_.tank_peak_v, std::abs(v));
    static_cast<FeedLoads&>(out_) = run_.conclude();
    out_.joints.back().peak_v = out_.tank_peak_v; // the gap fires between samples
    const double span = duration_s_ - settled_s_;
    out_.break_rate_hz = late_breaks_ / span;
    out_.break_voltage_v = late_breaks_ > 0 ? volts_of_breaks_ / late_breaks_ : 0;
    for (std::size_t g = 1; g < gaps_.size(); ++g)
      out_.safety_gaps.push_back({gaps_[g].gap.title, gaps_[g].gap.firing_v, gaps_[g].firings});
    out_.tank_power_w = energy_j_ / span;
    for (double from = settled_s_; from < duration_s_ - 0.5 / mains_hz_; from += 1 / mains_hz_)
      out_.idle_cycles +=
          std::ranges::none_of(out_.break_times_s, [&](double t) { return t >= from && t < from + 1 / mains_hz_; });
    for (std::size_t k = 0; k < out_.break_times_s.size(); ++k)
      if (out_.break_times_s[k] >= settled_s_)
        out_.settled_peak_v = std::max(out_.settled_peak_v, std::abs(out_.break_voltages_v[k]));
  }

  const Design& design_;
  const ChargingOptions options_;
  const ChargingNetwork all_;
  const FeedNetwork& feed_;
  const GapModel model_;
  const double mains_hz_, duration_s_, step_s_, settled_s_;
  FeedRun run_;
  Motion& motion_ = run_.motion;
  FeedMeter& meter_ = run_.meter;
  std::vector<Burning> gaps_; // the main one, then the safety gaps
  int events_ = 0;
  double energy_j_ = 0, volts_of_breaks_ = 0; // of the breaks of the later half
  int late_breaks_ = 0;
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

namespace {

// Every gap closes at its firing voltage and opens when little is left across it.
void write_gaps(Deck& line, const ChargingNetwork& all, const GapModel& model, Node hot) {
  const auto hysteresis = [&](const std::string& name, double ohm, double firing, double opens) {
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
  for (std::size_t k = 0; k < all.feed.safety_gaps.size(); ++k) {
    const FeedGap& g = all.feed.safety_gaps[k];
    line("Bsafe{0} gate{0} 0 V=abs(v(n{1})-v(n{2}))", k + 1, g.a, g.b);
    line("Ssafe{0} n{1} n{2} gate{0} 0 safe{0}", k + 1, g.a, g.b);
    hysteresis(fmt::format("safe{}", k + 1), safety_gap_on_ohm, g.firing_v, g.opens_v);
  }
}

// The line's power and current, and the breaks, over the settled later half.
void write_charging_measures(Deck& line, const Design& design, const ChargingNetwork& all, const GapModel& model,
                             double settled_s, double end_s) {
  const FeedNetwork& feed = all.feed;
  const Network& n = feed.network;
  line(".meas tran tank_peak_v max v(tankabs)");
  if (feed.driver) {
    line("Bpower power 0 V=-i(Vmains)*v(n{})/{:.10g}", n.resistors[feed.source_current.index].b,
         feed.driver->efficiency);
    line(".meas tran input_power_w avg v(power) from={:.8g} to={:.8g}", settled_s, end_s);
    line(".meas tran line_current_a param='input_power_w/{:.10g}'",
         feed.driver->power_factor * design.site.mains_voltage_v);
    line(".meas tran power_factor param='{:.6g}'", feed.driver->power_factor);
  } else {
    line.text += deck_line(feed, settled_s, end_s);
    line(".meas tran power_factor param='input_power_w/(line_current_a*{:.8g})'",
         n.sources.front().amplitude_v / std::numbers::sqrt2 / feed.ratio);
  }
  line(".meas tran break_charge integ v(count) from={:.8g} to={:.8g}", settled_s, end_s);
  const double farad = n.capacitors[all.tank].farad, seconds = end_s - settled_s;
  if (model.rotary()) { // breaks differ in voltage: counted as q^2 / (2 W C), exact when they are alike
    line(".meas tran break_energy integ v(energy) from={:.8g} to={:.8g}", settled_s, end_s);
    line(".meas tran break_rate_hz param='break_charge*break_charge/(2*break_energy*{:.10g})'", farad * seconds);
  } else {
    line(".meas tran break_rate_hz param='break_charge/{:.10g}'", farad * all.gap.firing_v * seconds);
  }
}

} // namespace

std::string charging_netlist(const Design& design, const ChargingOptions& options) {
  const ChargingNetwork all = charging_network(design);
  const FeedNetwork& feed = all.feed;
  const GapModel model = gap_model(design.gap, design.site);
  const Network& n = feed.network;
  Deck line{deck_title(design.name, "charging, referred to the source's output") + deck_source(feed) +
            deck_parts(n, {}, {all.tank})};
  const Node hot = n.capacitors[all.tank].a;
  // The tank's current is sensed at its foot.
  line("Ctank n{} tankfoot {:.10g} ic=0", hot, n.capacitors[all.tank].farad);
  line("Vtank tankfoot 0 0");
  write_gaps(line, all, model, hot);
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
  write_charging_measures(line, design, all, model, settled, duration);
  line(".end");
  return line.text;
}

std::string charging_csv(const ChargingResult& charging) {
  return waves_csv<ChargingSample>(charging.samples, {{"mains_v", &ChargingSample::mains_v},
                                                      {"line_a", &ChargingSample::line_a},
                                                      {"tank_v", &ChargingSample::tank_v}});
}

} // namespace arc
