// The path to the bus: its run from switching on, its deck, its waveforms.
#include "crafts/bridges/mains.h"

#include "circuit/deck.h"
#include "circuit/feed_run.h"
#include "circuit/waves.h"
#include "crafts/bridges/bridge.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr int steps_in_mains_cycle = 400;
constexpr double charged_share = 0.95;
constexpr double pull_time_constant_s = 0.02; // time constant in which an overshoot is brought down
constexpr double warm_by = 0.05;              // relative change of a thermistor at which its network is solved anew
constexpr double guessed_factor = 0.6;        // power factor before it is known, of a reservoir behind a rectifier
constexpr int least_cycles = 10, most_cycles = 150, least_bursts = 6;

struct MainsNetwork {
  FeedNetwork feed;
  std::size_t load; // the switch
  std::size_t pull; // the switch that brings an overshoot down
  std::size_t reservoir_joint;
};

MainsNetwork mains_network(const std::vector<FeedBlock>& blocks, const Site& site, const MainsLoad& load) {
  MainsNetwork out{feed_network(blocks, site, FeedEnd::bus), 0, 0, 0};
  Network& n = out.feed.network;
  out.load = n.switches.size();
  const double ohm = load.energy_j > 0 ? std::max(1e-3, load.at_v * load.at_v * load.on_s / load.energy_j) : 1e9;
  n.switches.push_back({"bridge", out.feed.end, 0, ohm, 1e9, false});
  out.pull = n.switches.size();
  n.switches.push_back({"pull", out.feed.end, 0,
                        pull_time_constant_s / std::max(1e-9, reservoir_of(blocks).capacitance_f), 1e9, false});
  out.feed.joints.push_back({"Bridge", out.feed.end, 0, 1, out.feed.into_end, 0, 0});
  out.reservoir_joint = *last_store(blocks); // feed_problem() saw to it that there is one
  return out;
}

// Cycles that are looked at, after as many in which it settles.
int half_cycles_of(const MainsLoad& load, double mains_hz) {
  const double wanted = load.rate_hz > 0 ? least_bursts / load.rate_hz * mains_hz : 0;
  return static_cast<int>(std::ceil(std::clamp(wanted, 1.0 * least_cycles, 1.0 * most_cycles) / 2));
}

// When the relay closes after switching on, at the latest before the run goes on without; 0: never.
double relay_after_s(const FeedNetwork& feed, double cycle_s) {
  return feed.limiter ? std::min(feed.limiter->relay_after_s, longest_inrush_s - 4 * cycle_s) : 0;
}

class MainsRun {
 public:
  MainsRun(const std::vector<FeedBlock>& blocks, const Site& site, const MainsLoad& load)
      : blocks_(blocks), site_(site), load_(load), all_(mains_network(blocks, site, load)), feed_(all_.feed),
        cycle_s_(1 / site.mains_frequency_hz), step_s_(cycle_s_ / steps_in_mains_cycle),
        run_(feed_, site, step_s_) {
    out_.unloaded_v = unloaded_bus_v(blocks, site.mains_voltage_v);
    if (feed_.limiter) limiter_ohm_ = feed_.network.resistors[feed_.limiter->resistor_index].ohm;
  }

  MainsResult run(const std::atomic<bool>& cancelled) {
    switch_on(cancelled);
    if (!cancelled) bursts(cancelled);
    return std::move(out_);
  }

 private:
  double bus_v() const { return motion_.node_v(feed_.end); }

  // To `until_s`, which may lie within a step.
  void go_to(double until_s) {
    while (motion_.time_s() < until_s - step_s_ * 1e-6) {
      const bool early = run_.advance([&](const Motion& m) { return m.time_s() - until_s; });
      gather();
      if (early) return;
    }
  }

  // At the end of a step, and not within one.
  void gather() {
    const auto step = static_cast<std::int64_t>(std::llround(motion_.time_s() / step_s_));
    if (!run_.at_step() || step == gathered_) return;
    gathered_ = step;
    const Eigen::VectorXd& at = motion_.node_voltages();
    const double line_a = meter_.line_a(motion_, at), bus = at(static_cast<Eigen::Index>(feed_.end));
    out_.samples.push_back({motion_.time_s(), meter_.line_v(motion_, at), line_a, bus});
    if (counts_) {
      run_.gather();
      bus_sum_ += bus;
      ++counted_;
    }
    note_bus(bus);
    if (feed_.limiter) warm(at);
  }

  void note_bus(double volts) {
    if (!counts_) return;
    bus_most_ = std::max(bus_most_, volts);
    bus_least_ = std::min(bus_least_, volts);
  }

  double limiter_w(const Eigen::VectorXd& at) const {
    const auto& r = feed_.network.resistors[feed_.limiter->resistor_index];
    const double volts = at(static_cast<Eigen::Index>(r.a)) - at(static_cast<Eigen::Index>(r.b));
    return volts * volts / limiter_ohm_;
  }

  // The limiter over one step.
  void warm(const Eigen::VectorXd& at) {
    const double watts = limiter_w(at);
    if (!charged_phase_) out_.limiter_j += (last_limiter_w_ + watts) / 2 * step_s_;
    last_limiter_w_ = watts;
    if (counts_) limiter_sum_w_ += watts;
    const auto& thermistor = feed_.limiter->thermistor;
    if (!thermistor || charged_phase_) return;
    thermistor_c_ += (watts - thermistor->dissipation_w_per_k * (thermistor_c_ - thermistor_cold_c)) * step_s_ /
                     thermistor->heat_j_per_k;
    const double ohm = thermistor->ohm(thermistor_c_) * std::pow(feed_.limiter->scale, 2);
    if (std::abs(ohm / limiter_ohm_ - 1) > warm_by) set_limiter(ohm);
  }

  void set_limiter(double ohm) {
    limiter_ohm_ = ohm;
    motion_.set_resistance(feed_.limiter->resistor_index, ohm);
  }

  double line_now_a() {
    const Eigen::VectorXd& at = motion_.node_voltages();
    return std::abs(meter_.line_a(motion_, at));
  }

  void switch_on(const std::atomic<bool>& cancelled) {
    go_to(cycle_s_ / 4);
    const double closed_s = motion_.time_s();
    motion_.set_switch(*feed_.line_switch, true);
    out_.inrush_a = line_now_a();
    if (feed_.limiter) last_limiter_w_ = limiter_w(motion_.node_voltages());
    const double relay_s = relay_after_s(feed_, cycle_s_);
    const double last_s = closed_s + longest_inrush_s;
    bool bridged = !(relay_s > 0);
    double most_v = 0, settled_s = closed_s + cycle_s_; // not before a cycle has passed
    for (double next = cycle_s_ / 2;; next += cycle_s_ / 4) {
      if (cancelled) return;
      if (!bridged && closed_s + relay_s <= next) {
        go_to(closed_s + relay_s);
        motion_.set_switch(feed_.limiter->relay_index, bridged = true);
        relay_sample_ = out_.samples.size();
        settled_s = motion_.time_s() + cycle_s_;
        out_.surge_2_a = line_now_a();
      }
      go_to(next);
      most_v = std::max(most_v, bus_v());
      const bool full = most_v >= charged_share * out_.unloaded_v;
      if (full && !out_.charged) {
        out_.charged = true;
        out_.charged_s = next - closed_s;
      }
      if ((full && bridged && next >= settled_s) || next > last_s) break;
    }
    if (!out_.charged) out_.charged_s = motion_.time_s() - closed_s;
    for (std::size_t i = 0; i < out_.samples.size(); ++i) {
      const double amps = std::abs(out_.samples[i].line_a);
      double& peak = relay_sample_ > 0 && i >= relay_sample_ ? out_.surge_2_a : out_.inrush_a;
      peak = std::max(peak, amps);
      out_.inrush_a2s += amps * amps * step_s_;
      out_.crest_v = std::max(out_.crest_v, out_.samples[i].bus_v);
    }
  }

  // A choke in the way lifts the bus beyond the crest, where only bursts and the bleeder bring it down: that is of
  // switching on, and not what running looks like.
  void pull_down() {
    out_.pull_from_s = motion_.time_s();
    motion_.set_switch(all_.pull, true);
    while (bus_v() > out_.unloaded_v && motion_.time_s() < out_.pull_from_s + 40 * cycle_s_)
      go_to(motion_.time_s() + cycle_s_ / 4);
    motion_.set_switch(all_.pull, false);
    out_.pull_to_s = motion_.time_s();
  }

  void bursts(const std::atomic<bool>& cancelled) {
    charged_phase_ = true;
    if (bus_v() > out_.unloaded_v) pull_down();
    const double from_s = (std::ceil(motion_.time_s() / cycle_s_ - 1e-9) + 1) * cycle_s_;
    go_to(from_s);
    out_.bursts_from_s = from_s;
    next_s_ = load_.rate_hz > 0 && load_.energy_j > 0 ? from_s + load_.first_s : 1e9;
    settle_limiter(load_.energy_j * load_.rate_hz / guessed_factor / site_.mains_voltage_v);
    const double half_s = half_cycles_of(load_, site_.mains_frequency_hz) * cycle_s_;
    double until_s = from_s;
    for (int left = settles() ? 2 : 1; left > 0; --left) {
      const std::size_t first = out_.samples.size();
      run_until(until_s += half_s, cancelled);
      double square = 0;
      for (std::size_t i = first; i < out_.samples.size(); ++i) square += std::pow(out_.samples[i].line_a, 2);
      settle_limiter(std::sqrt(square / std::max(1.0, static_cast<double>(out_.samples.size() - first))));
    }
    counts_ = true;
    run_.begin_books();
    bus_least_ = bus_most_ = bus_v();
    out_.counts_from_s = until_s;
    run_until(out_.ends_s = until_s + half_s, cancelled);
    conclude();
  }

  void run_until(double until_s, const std::atomic<bool>& cancelled) {
    while (!cancelled && next_s_ < until_s - 1e-3 * step_s_) { // one at the very end belongs to what follows
      go_to(next_s_);
      burst(next_s_ + load_.on_s);
      next_s_ += 1 / load_.rate_hz;
    }
    if (!cancelled) go_to(until_s);
  }

  void burst(double until_s) {
    const double before = bus_v();
    motion_.set_switch(all_.load, true);
    go_to(until_s);
    const double after = bus_v();
    motion_.set_switch(all_.load, false);
    note_bus(after);
    if (!counts_) return;
    if (!starts_.empty() && starts_.back() - last_end_ > 1e-3 * starts_.back())
      out_.recovered = std::min(out_.recovered, std::max(0.0, (before - last_end_) / (starts_.back() - last_end_)));
    starts_.push_back(before);
    droops_.push_back(before - after);
    last_end_ = after;
  }

  bool settles() const { return feed_.limiter && feed_.limiter->thermistor && !(feed_.limiter->relay_after_s > 0); }

  // A limiter that stays in the line, warm from what it has carried for long.
  void settle_limiter(double rms_a) {
    if (!feed_.limiter) return;
    out_.limiter_ohm = limiter_ohm_ / std::pow(feed_.limiter->scale, 2);
    if (!settles()) return;
    const double here_a = rms_a * feed_.limiter->scale / feed_.ratio;
    out_.limiter_ohm = feed_.limiter->thermistor->settled_ohm(here_a);
    out_.limiter_hot_c =
        thermistor_cold_c + here_a * here_a * out_.limiter_ohm / feed_.limiter->thermistor->dissipation_w_per_k;
    set_limiter(out_.limiter_ohm * std::pow(feed_.limiter->scale, 2));
  }

  static double mean(const std::vector<double>& values, double otherwise) {
    if (values.empty()) return otherwise;
    double sum = 0;
    for (const double v : values) sum += v;
    return sum / static_cast<double>(values.size());
  }

  void conclude() {
    static_cast<FeedLoads&>(out_) = run_.conclude();
    out_.bus_v = counted_ > 0 ? bus_sum_ / static_cast<double>(counted_) : bus_v();
    out_.bus_least_v = bus_least_;
    out_.ripple_v = bus_most_ - bus_least_;
    out_.start_v = mean(starts_, out_.bus_v);
    if (!starts_.empty()) {
      const auto [low, high] = std::ranges::minmax_element(starts_);
      out_.start_spread_v = *high - *low;
    }
    out_.droop_v = mean(droops_, 0);
    if (counted_ > 0 && !(feed_.limiter && feed_.limiter->relay_after_s > 0))
      out_.limiter_w = limiter_sum_w_ / static_cast<double>(counted_);
    reservoir_current();
    // Behind the reservoir flow the burst's own pulses, shorter than a step.
    for (std::size_t i = all_.reservoir_joint; i < out_.joints.size(); ++i) {
      out_.joints[i].rms_a = load_.rms_a;
      out_.joints[i].peak_a = load_.peak_a;
    }
  }

  // Charging current and bursts know nothing of each other, so that their squares add; neither has a mean there.
  void reservoir_current() {
    const double average_a = load_.energy_j * load_.rate_hz / std::max(out_.bus_v, 1.0);
    double in_a = all_.reservoir_joint > 0 ? out_.joints[all_.reservoir_joint - 1].rms_a : out_.line_current_a;
    if (block_kind(blocks_[all_.reservoir_joint].kind)->doubles) in_a /= std::numbers::sqrt2;
    out_.reservoir_a = std::sqrt(std::max(0.0, in_a * in_a - average_a * average_a) +
                                 std::max(0.0, load_.rms_a * load_.rms_a - average_a * average_a));
  }

  const std::vector<FeedBlock>& blocks_;
  const Site& site_;
  const MainsLoad& load_;
  const MainsNetwork all_;
  const FeedNetwork& feed_;
  const double cycle_s_, step_s_;
  FeedRun run_;
  Motion& motion_ = run_.motion;
  FeedMeter& meter_ = run_.meter;
  bool charged_phase_ = false; // the inrush is over
  bool counts_ = false;        // the later half of the bursts
  double limiter_ohm_ = 0;     // in the network
  double thermistor_c_ = thermistor_cold_c;
  double next_s_ = 0; // of the bursts
  double limiter_sum_w_ = 0, bus_sum_ = 0, bus_most_ = 0, bus_least_ = 0, last_end_ = 0;
  std::size_t counted_ = 0, relay_sample_ = 0;
  std::int64_t gathered_ = 0; // the last step
  double last_limiter_w_ = 0;
  std::vector<double> starts_, droops_;
  MainsResult out_;
};

} // namespace

Bus bus_of(const Design& design) {
  Bus out;
  const Bridge& b = design.bridge;
  out.from_feed = !design.feed.empty() && feed_problem(design.feed, FeedEnd::bus).empty();
  if (out.from_feed) {
    out.doubled = find_block(design.feed, BlockRole::doubler) != nullptr;
    out.reservoir = reservoir_of(design.feed);
    out.volts = unloaded_bus_v(design.feed, design.site.mains_voltage_v);
  } else {
    out.doubled = b.doubled;
    out.reservoir = {b.reservoir_f,
                     b.bleed_resistance_ohm > 0 ? b.bleed_resistance_ohm : std::numeric_limits<double>::infinity(),
                     0, 0, 0};
    out.volts = (b.doubled ? 2 : 1) * std::numbers::sqrt2 * design.site.mains_voltage_v;
  }
  if (b.bus_voltage_v) out.volts = *b.bus_voltage_v;
  return out;
}

MainsResult simulate_mains(const std::vector<FeedBlock>& feed, const Site& site, const MainsLoad& load,
                           const std::atomic<bool>& cancelled) {
  return MainsRun(feed, site, load).run(cancelled);
}

std::shared_ptr<const MainsResult> simulate_mains(Kept& kept, const Design& design, const MainsLoad& load,
                                                  const std::atomic<bool>& cancelled) {
  const MainsStep step{design.feed, design.site, load};
  return kept.get(step, cancelled, [&] { return simulate_mains(step.feed, step.site, step.load, cancelled); });
}

namespace {

// A thermistor in the line, its kelvin over the air as volts; empty without one.
std::string deck_thermistor(const FeedNetwork& feed, const MainsResult& result) {
  const FeedLimiter& l = *feed.limiter;
  if (!l.thermistor) return {};
  std::string out;
  const auto& r = feed.network.resistors[l.resistor_index];
  const double square = std::pow(l.scale, 2);
  // Once the bursts begin it is what long running makes of it, as simulated.
  const std::string ohm =
      fmt::format("(time < {:.9g} ? {:.10g}*exp({}*(1/(v(warm)+{})-1/{})) : {:.10g})", result.bursts_from_s,
                  l.thermistor->cold_ohm * square, thermistor_b_k, 273.15 + thermistor_cold_c,
                  273.15 + thermistor_cold_c, result.limiter_ohm * square);
  out += fmt::format("Bwarm n{0} n{1} I=(v(n{0})-v(n{1}))/{2}\n", r.a, r.b, ohm);
  out += fmt::format("Bheat 0 warm I=(v(n{0})-v(n{1}))*(v(n{0})-v(n{1}))/{2}\n", r.a, r.b, ohm);
  out += fmt::format("Cwarm warm 0 {:.8g} ic=0\n", l.thermistor->heat_j_per_k);
  out += fmt::format("Rwarm warm 0 {:.8g}\n", 1 / l.thermistor->dissipation_w_per_k);
  return out;
}

} // namespace

std::string mains_netlist(const Design& design, const MainsLoad& load, const MainsResult& result) {
  const MainsNetwork all = mains_network(design.feed, design.site, load);
  const FeedNetwork& feed = all.feed;
  const Network& n = feed.network;
  const double cycle_s = 1 / n.source_hz, closed_s = cycle_s / 4;
  const double from_s = result.bursts_from_s, half_s = result.counts_from_s, end_s = result.ends_s;
  std::string deck = deck_title(design.name, "from the wall to the bus, referred to the rectifier's input");
  const auto line = [&]<typename... T>(fmt::format_string<T...> text, T&&... values) {
    deck += fmt::format(text, std::forward<T>(values)...) + "\n";
  };
  deck += deck_source(feed);
  std::vector<std::size_t> own;
  if (feed.limiter && feed.limiter->thermistor) own.push_back(feed.limiter->resistor_index);
  deck += deck_parts(n, own, {});
  // A switch and the pulses that close it.
  const auto commanded = [&](const char* name, const Network::Switch& s, const std::string& pulses) {
    line("V{0} {0} 0 {1}", name, pulses);
    line("S{0} n{1} n{2} {0} 0 {0}", name, s.a, s.b);
    line(".model {} sw(vt=0.5 vh=0 ron={:.10g} roff={:.10g})", name, s.on_ohm, s.off_ohm);
  };
  const auto from = [](double at_s) { return fmt::format("pulse(0 1 {:.9g} 1u 1u 1e9)", at_s); };
  const std::string not_at_all = "0";
  commanded("closes", n.switches[*feed.line_switch], from(closed_s));
  if (feed.limiter) {
    const double relay_s = relay_after_s(feed, cycle_s);
    commanded("relay", n.switches[feed.limiter->relay_index], relay_s > 0 ? from(closed_s + relay_s) : not_at_all);
    deck += deck_thermistor(feed, result);
  }
  const double pull_s = result.pull_to_s - result.pull_from_s;
  commanded("pull", n.switches[all.pull],
            pull_s > 0 ? fmt::format("pulse(0 1 {:.9g} 1u 1u {:.9g} 1e9)", result.pull_from_s, pull_s)
                       : not_at_all);
  commanded("burst", n.switches[all.load],
            load.rate_hz > 0 && load.energy_j > 0 ? fmt::format("pulse(0 1 {:.9g} 10n 10n {:.9g} {:.9g})",
                                                                from_s + load.first_s, load.on_s, 1 / load.rate_hz)
                                                  : not_at_all);
  line("Vzero n0 0 0");
  line(".options reltol=1e-4 method=trap");
  line(".tran {:.6g} {:.8g} 0 {:.6g} uic", 50e-6, end_s, 25e-6);
  line("Binrush inrush 0 V=abs(i(Vmains))*{:.10g}", feed.ratio);
  line(".meas tran inrush_peak_a max v(inrush) from={:.8g} to={:.8g}", closed_s, from_s);
  deck += deck_line(feed, half_s, end_s);
  line(".meas tran bus_v avg v(n{}) from={:.8g} to={:.8g}", feed.end, half_s, end_s);
  line(".meas tran bus_least_v min v(n{}) from={:.8g} to={:.8g}", feed.end, half_s, end_s);
  line(".meas tran bus_most_v max v(n{}) from={:.8g} to={:.8g}", feed.end, half_s, end_s);
  line(".meas tran ripple_v param='bus_most_v-bus_least_v'");
  line(".end");
  return deck;
}

std::string mains_csv(const MainsResult& result) {
  return waves_csv<MainsSample>(
      result.samples,
      {{"mains_v", &MainsSample::mains_v}, {"line_a", &MainsSample::line_a}, {"bus_v", &MainsSample::bus_v}});
}

} // namespace arc
