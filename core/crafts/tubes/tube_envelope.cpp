// An oscillator whose radio frequency is far above the mains, over whole cycles: at every moment it does what it
// would do on direct current of that supply. A ladder of full runs says what; the supply is advanced exactly
// between events, with what the oscillator draws solved at the end of each step.
#include "circuit/motion.h"
#include "crafts/tubes/tube_run.h"
#include "quantity/matrix.h"
#include "quantity/parallel.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

using Eigen::Index;
using Eigen::MatrixXd;
using Eigen::RowVectorXd;
using Eigen::VectorXd;

constexpr int steps_in_cycle = 4000, settling = 24, counted = 2; // cycles

// What the oscillator does on a rail of so many volts.
struct Rung {
  double rail_v = 0;
  TubeResult run{};
};

class Ladder {
 public:
  Ladder(const TubeCircuit& circuit, double crest_v, const std::atomic<bool>& cancelled) {
    // Close together where it starts; above the crest for what rings.
    constexpr std::array shares{0.02, 0.04, 0.06, 0.08, 0.11, 0.15, 0.2, 0.27, 0.35,
                                0.45, 0.57, 0.7,  0.85, 1.0,  1.15, 1.5, 2.0};
    rungs_.resize(shares.size());
    parallel_for(shares.size(), [&](std::size_t i) {
      TubeCircuit still = circuit;
      still.direct_v = shares[i] * crest_v;
      rungs_[i] = {*still.direct_v, simulate_tube(still, {.waveforms = false}, cancelled)};
    });
  }

  /// A mean power, or a peak, between two rungs; from nothing at no volts.
  double at(double rail_v, double TubeResult::*what) const {
    const auto above = std::ranges::lower_bound(rungs_, rail_v, {}, &Rung::rail_v);
    const Rung& high = above == rungs_.end() ? rungs_.back() : *above;
    const double low_v = above == rungs_.begin() ? 0 : std::prev(above)->rail_v,
                 low = above == rungs_.begin() ? 0 : std::prev(above)->run.*what;
    if (above == rungs_.end()) return high.run.*what * rail_v / high.rail_v;
    return std::lerp(low, high.run.*what, std::max(0.0, (rail_v - low_v) / (high.rail_v - low_v)));
  }
  double draws_a(double rail_v) const {
    return rail_v > 0 ? at(rail_v, &TubeResult::plate_input_w) / std::max(rail_v, 1e-3) : 0;
  }

 private:
  std::vector<Rung> rungs_;
};

class SupplyRun {
 public:
  SupplyRun(const TubeCircuit& circuit, const Ladder& ladder)
      : ladder_(ladder), parts_(tube_supply(circuit)), net_(parts_.network),
        step_s_(1 / circuit.site.mains_frequency_hz / steps_in_cycle) {
    x_ = VectorXd::Zero(static_cast<Index>(net_.capacitors.size() + net_.inductors.size() + 3));
    for (std::size_t i = 0; i < net_.capacitors.size(); ++i) x_(static_cast<Index>(i)) = net_.capacitors[i].start_v;
    for (std::size_t i = 0; i < net_.inductors.size(); ++i) x_(inductor(i)) = net_.inductors[i].start_a;
    const double start = parts_.start_deg * std::numbers::pi / 180;
    x_.tail<3>() << 1, std::sin(start), std::cos(start);
    present_ = &topology();
    for (int tries = 0; tries < 8 && fix(); ++tries) present_ = &topology();
  }

  void step() {
    const Topology& t = *present_;
    const VectorXd free = t.step * x_;
    // Volts at the end, with what is drawn there: they fall as it rises, so there is one solution.
    const double free_v = t.rail * free, ohm = t.rail * t.by_ampere;
    double low = std::min(0.0, free_v), high = std::max(0.0, free_v);
    for (int halves = 0; halves < 40; ++halves) {
      const double middle = (low + high) / 2;
      (middle < free_v + ohm * ladder_.draws_a(middle) ? low : high) = middle;
    }
    rail_v_ = high;
    drawn_a_ = ladder_.draws_a(rail_v_);
    x_ = free + t.by_ampere * drawn_a_;
    if (!x_.allFinite())
      throw std::invalid_argument("the supply's numbers run away: a part is far from anything real");
    if (fix()) present_ = &topology();
  }

  double rail_v() const { return rail_v_; }
  double drawn_a() const { return drawn_a_; }
  double line_a() const {
    if (!(parts_.line_per_a > 0)) return 0;
    const Network::Resistor& r = net_.resistors[parts_.source_resistor];
    return (volts(r.a) - volts(r.b)) / r.ohm * parts_.line_per_a;
  }

 private:
  struct Topology {
    MatrixXd step, nodes;
    VectorXd by_ampere; // of the state, by amperes drawn over the step
    RowVectorXd rail;
  };

  Index inductor(std::size_t i) const { return static_cast<Index>(net_.capacitors.size() + i); }
  double volts(Node node) const {
    return node == 0 ? 0 : present_->nodes.row(static_cast<Index>(node) - 1).dot(x_);
  }

  const Topology& topology() {
    const auto [at, is_new] = topologies_.try_emplace(topology_key(net_));
    if (!is_new) return at->second;
    const StateSpace space = state_space(net_, true);
    const Index n = x_.size(), coil = static_cast<Index>(parts_.coil) - 1;
    MatrixXd all = MatrixXd::Zero(n + 1, n + 1);
    all.topLeftCorner(n, n) = space.rate * step_s_;
    all.block(0, n, n, 1) = -space.rate_in.col(coil) * step_s_;
    const MatrixXd moved = exponential(all);
    if (!moved.allFinite())
      throw std::invalid_argument("the supply's parts are too far apart in size to be computed");
    at->second = {moved.topLeftCorner(n, n), space.nodes, moved.block(0, n, n, 1), space.nodes.row(coil)};
    return at->second;
  }

  // Diodes and cores as they are now; true when one had to change.
  bool fix() {
    bool changed = false;
    for (Network::Switch& s : net_.switches)
      if (s.diode && set_diode(s, volts(s.a) - volts(s.b))) changed = true;
    for (std::size_t k = 0; k < net_.inductors.size(); ++k)
      if (!net_.inductors[k].knees.empty() && set_level(net_.inductors[k], x_(inductor(k)))) changed = true;
    return changed;
  }

  const Ladder& ladder_;
  TubeNetwork parts_;
  Network& net_;
  double step_s_;
  VectorXd x_;
  std::map<std::vector<signed char>, Topology> topologies_;
  const Topology* present_ = nullptr;
  double rail_v_ = 0, drawn_a_ = 0;
};

constexpr std::array powers{&TubeResult::plate_input_w,      &TubeResult::plate_dissipation_w,
                            &TubeResult::grid_dissipation_w, &TubeResult::leak_w,
                            &TubeResult::winding_w,          &TubeResult::trap_w,
                            &TubeResult::secondary_power_w,  &TubeResult::arc_w,
                            &TubeResult::plate_average_a,    &TubeResult::grid_average_a,
                            &TubeResult::grid_bias_v};

} // namespace

TubeResult simulate_envelope(const TubeCircuit& circuit, const TubeOptions& options,
                             const std::atomic<bool>& cancelled) {
  TubeCircuit c = circuit;
  c.rise_s = std::max(c.rise_s, 2e-6);
  c.staccato.reset();
  const double crest_v = crest_supply_v(c), cycle_s = 1 / c.site.mains_frequency_hz;
  const Ladder ladder(c, crest_v, cancelled);
  SupplyRun supply(c, ladder);
  constexpr int first = settling * steps_in_cycle, last = (settling + counted) * steps_in_cycle, in_sample = 8;
  std::array<double, powers.size()> sums{};
  double most_v = 0, line_a2 = 0;
  TubeResult out;
  TubeSample bin{};
  for (int i = 0; i < last && !cancelled; ++i) {
    supply.step();
    if (i < first) continue;
    const double rail = supply.rail_v(), line = supply.line_a();
    for (std::size_t k = 0; k < powers.size(); ++k) sums[k] += ladder.at(rail, powers[k]);
    most_v = std::max(most_v, rail);
    line_a2 += line * line;
    bin.rail_v += rail / in_sample;
    bin.top_v = std::max(bin.top_v, ladder.at(rail, &TubeResult::top_peak_v));
    bin.plate_w += ladder.at(rail, &TubeResult::plate_dissipation_w) / in_sample;
    bin.bias_v += ladder.at(rail, &TubeResult::grid_bias_v) / in_sample;
    bin.line_a += line * line / in_sample;
    if ((i - first) % in_sample != in_sample - 1) continue;
    bin.time_s = (i - first + 1 - in_sample / 2.0) * cycle_s / steps_in_cycle;
    bin.line_a = std::sqrt(bin.line_a);
    out.samples.push_back(bin);
    bin = {};
  }
  // At its height, with waveforms: peaks, frequency, conduction.
  TubeCircuit high = c;
  high.direct_v = std::max(most_v, 1e-3 * crest_v);
  const std::vector<TubeSample> samples = std::move(out.samples);
  out = simulate_tube(high, {.waveforms = options.waveforms}, cancelled);
  out.samples = samples;
  constexpr double count = counted * steps_in_cycle;
  for (std::size_t k = 0; k < powers.size(); ++k) out.*powers[k] = sums[k] / count;
  out.stored_w = 0;
  out.balance_w = out.plate_input_w - out.plate_dissipation_w - out.grid_dissipation_w - out.leak_w -
                  out.winding_w - out.trap_w - out.secondary_power_w;
  out.line_rms_a = std::sqrt(line_a2 / count);
  out.rail_most_v = most_v;
  out.steady = true;
  out.intermittent = false;
  out.burst_s.reset();
  out.from_s = 0;
  out.to_s = counted * cycle_s;
  out.start_s = 0;
  const auto crest = std::ranges::max_element(out.samples, {}, &TubeSample::top_v);
  if (crest != out.samples.end()) out.crest_s = crest->time_s;
  return out;
}

} // namespace arc
