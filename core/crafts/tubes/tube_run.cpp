// The run: steps, events, sums.
#include "crafts/tubes/tube_run.h"

#include "circuit/motion.h"
#include "circuit/waves.h"
#include "laws/circuit.h"
#include "quantity/matrix.h"

#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <complex>
#include <cstdint>
#include <fmt/format.h>
#include <map>
#include <numbers>
#include <numeric>
#include <stdexcept>

namespace arc {
namespace {

constexpr int steps_in_period = 120; // of the faster of tank and resonator
constexpr int look_every = 4; // steps between looks at diodes and at what is summed; one while the tube is cut off
constexpr double conducts_a = 0.01;
constexpr double loud_v = 100; // at the top, beside which noise at the plate is nothing
constexpr int most_rows = 64;
constexpr int most_tubes = 2; // on their own: those side by side are one

using Eigen::Index;
using Eigen::MatrixXd;
using Eigen::RowVectorXd;
using Eigen::VectorXd;

// out = m x, m stored by columns of `rows` doubles. Plain lanes instead of a matrix library's expressions: as fast
// when optimised, and ten times as fast under the sanitizers. Each row's sum goes over the columns in their order,
// so that wide lanes give the very same numbers as narrow ones.
using Sweep = void (*)(const double* m, int columns, const double* x, double* out);
using Two = double __attribute__((vector_size(16), may_alias));
template <int Rows>
void sweep(const double* m, int columns, const double* x, double* out) {
  constexpr int pairs = Rows / 2;
  Two sum[pairs] = {};
  for (int c = 0; c < columns; ++c) {
    const Two* const column = reinterpret_cast<const Two*>(m + c * Rows);
#pragma GCC unroll 32
    for (int i = 0; i < pairs; ++i) sum[i] += column[i] * x[c];
  }
#pragma GCC unroll 32
  for (int i = 0; i < pairs; ++i) reinterpret_cast<Two*>(out)[i] = sum[i];
}

#ifdef __x86_64__
using Four = double __attribute__((vector_size(32)));
// Columns stand on 16 bytes, not on 32; a typedef, because only there less than the usual is heeded by all
// compilers.
typedef double LooseFour __attribute__((vector_size(32), aligned(8), may_alias));
// No fused multiplication and addition, which would round differently.
template <int Rows>
__attribute__((target("avx"), no_sanitize("address", "undefined"))) void wide_sweep(const double* m, int columns,
                                                                                    const double* x, double* out) {
  constexpr int fours = Rows / 4, rest = Rows % 4 / 2;
  Four sum[fours] = {};
  Two last = {};
  for (int c = 0; c < columns; ++c) {
    const double* const from = m + c * Rows;
#pragma GCC unroll 32
    for (int i = 0; i < fours; ++i) sum[i] += *reinterpret_cast<const LooseFour*>(from + 4 * i) * x[c];
    if constexpr (rest > 0) last += *reinterpret_cast<const Two*>(from + 4 * fours) * x[c];
  }
#pragma GCC unroll 32
  for (int i = 0; i < fours; ++i) *reinterpret_cast<LooseFour*>(out + 4 * i) = sum[i];
  if constexpr (rest > 0) *reinterpret_cast<Two*>(out + 4 * fours) = last;
}
#endif

struct Width {
  int rows = 0;
  Sweep sweep = nullptr;

  // The sanitizers leave the wide sweeps alone, which would take ten times as long; here they see both ends of all
  // that is read and written.
  void over(const double* m, int columns, const double* x, double* out) const {
    out[0] = m[rows * columns - 1];
    out[rows - 1] = x[columns - 1];
    sweep(m, columns, x, out);
  }
};

// The fastest that this processor has.
template <int Rows>
Width width() {
#ifdef __x86_64__
  if (__builtin_cpu_supports("avx")) return {Rows, wide_sweep<Rows>};
#endif
  return {Rows, sweep<Rows>};
}

Width width_for(int rows) {
  static const std::array<Width, 12> widths{{width<12>(), width<16>(), width<18>(), width<20>(), width<22>(),
                                             width<24>(), width<28>(), width<32>(), width<36>(), width<40>(),
                                             width<48>(), width<most_rows>()}};
  for (const Width& w : widths)
    if (w.rows >= rows) return w;
  throw std::invalid_argument("the feed has too many parts to be simulated with the oscillator");
}

struct alignas(16) Pair {
  double values[2];
};
// Doubles on a boundary that the sweep may load from.
class Aligned {
 public:
  void resize(std::size_t doubles) { pairs_.assign((doubles + 1) / 2, Pair{}); }
  double* data() { return pairs_.empty() ? nullptr : pairs_.front().values; }
  const double* data() const { return pairs_.empty() ? nullptr : pairs_.front().values; }

 private:
  std::vector<Pair> pairs_;
};

// Peak of a smooth signal by a parabola through its last three points.
class Peak {
 public:
  void see(double time_s, double value) {
    if (count_ >= 2 && middle_ > value && middle_ >= first_) {
      const double a = middle_s_ - first_s_, b = time_s - middle_s_;
      const double left = (middle_ - first_) / a, right = (value - middle_) / b;
      const double curve = (right - left) / (a + b);
      const double slope = (left * b + right * a) / (a + b);
      const double top = curve < 0 ? middle_ - slope * slope / (4 * curve) : middle_;
      if (top > most_) {
        most_ = top;
        at_s_ = middle_s_;
      }
    }
    if (value > most_) {
      most_ = value;
      at_s_ = time_s;
    }
    first_ = middle_, first_s_ = middle_s_;
    middle_ = value, middle_s_ = time_s;
    ++count_;
  }
  double most() const { return count_ > 0 ? most_ : 0; }
  double at_s() const { return at_s_; }
  void restart() { *this = Peak{}; }

 private:
  double first_ = 0, middle_ = 0, first_s_ = 0, middle_s_ = 0, most_ = -1e300, at_s_ = 0;
  int count_ = 0;
};

// Everything that one state of switches, diodes and cores needs.
struct Topology {
  Aligned step, stride; // what the state becomes in a step with the tubes' currents, and in several without
  std::array<Aligned, 2 * most_tubes> in; // by what each tube's plate and grid take at the step's end
  Eigen::Matrix<double, 2 * most_tubes, 2 * most_tubes> ports; // volts there by amperes, of the tubes there are
  MatrixXd nodes;
  Aligned reads; // rows of Signal, then volts across each diode
};

// What is read of the state now and then.
enum Signal {
  rail_v,
  leak_v,
  trap_v,
  stopper_v,
  arc_v,
  cathode_v,
  line_a,
  signals,
  trap_2_v = signals,
  stopper_2_v
};
constexpr int signals_of(int tubes) {
  return tubes > 1 ? stopper_2_v + 1 : signals;
}

// What a tube's ports stand at.
struct TubeAt {
  double va = 0, vg = 0; // to the cathode
  TubeCurrents takes{};
  bool cut_off(const TubeLaw& law) const {
    return takes.plate_a <= 0 && takes.grid_a <= 0 && vg <= 0 && vg + law.offset_v + va / law.mu <= 0;
  }
};

// Sums over a stretch of time.
struct Sums {
  double time_s = 0;
  double input_j = 0, plate_j = 0, grid_j = 0, leak_j = 0, winding_j = 0, trap_j = 0, foot_j = 0, arc_j = 0,
         thyristor_j = 0;
  double plate_c = 0, grid_c = 0, grid_vs = 0;
  double line_a2s = 0, tank_a2s = 0, feedback_a2s = 0, thyristor_a2s = 0;
  double cathode_peak_a = 0, rail_most_v = 0, cathode_most_v = 0, thyristor_peak_a = 0;
  double over_rail_v = 0; // the plate, at most: only an oscillator lifts it above its supply
  Peak top, tank, plate, plate_low, grid, grid_low;
  struct Period {
    double length_s, conducts_s, top_v;
  };
  std::vector<Period> periods;
};

// With one tube, or the two of a push-pull pair.
template <int Tubes>
class TubeRun {
  static constexpr int ports = 2 * Tubes, signal_count = signals_of(Tubes);
  using Volts = Eigen::Matrix<double, ports, 1>;
  using Ports = Eigen::Matrix<double, ports, ports>;

 public:
  TubeRun(const TubeCircuit& circuit, const TubeOptions& options)
      : c_(circuit), options_(options), parts_(tube_network(circuit)), net_(parts_.network) {
    const double coil_hz = resonance_hz(c_.modes.front().inductance_h, c_.modes.front().capacitance_f);
    slow_hz_ = std::min(resonance_hz(c_.plate_h, c_.tank_f), coil_hz);
    h_ = 1 / (steps_in_period * std::max(resonance_hz(c_.plate_h, c_.tank_f), coil_hz));
    states_ = static_cast<int>(net_.capacitors.size() + net_.inductors.size()) + 3;
    wide_ = width_for(states_ + ports + 2);
    const auto diodes = std::ranges::count_if(net_.switches, &Network::Switch::diode);
    read_ = width_for(signal_count + static_cast<int>(diodes));
    seen_.resize(static_cast<std::size_t>(read_.rows));
    noise_step_ = std::polar(1.0, 2 * std::numbers::pi * c_.noise_hz * h_);
    noise_stride_ = std::pow(noise_step_, look_every);
    columns_ = states_ + ports + (c_.noise_a > 0 && !c_.direct_v ? 2 : 0);
    x_.resize(static_cast<std::size_t>(columns_));
    next_.resize(static_cast<std::size_t>(wide_.rows));
    double* x = x_.data();
    for (std::size_t i = 0; i < net_.capacitors.size(); ++i) x[i] = net_.capacitors[i].start_v;
    for (std::size_t i = 0; i < net_.inductors.size(); ++i)
      x[net_.capacitors.size() + i] = net_.inductors[i].start_a;
    x[states_ - 3] = c_.direct_v ? 0 : 1;
    x[states_ - 2] = std::sin(parts_.start_deg * std::numbers::pi / 180);
    x[states_ - 1] = std::cos(parts_.start_deg * std::numbers::pi / 180);
    settle();
    read_tube();
  }

  TubeResult direct(const std::atomic<bool>& cancelled);
  TubeResult mains(const std::atomic<bool>& cancelled);

 private:
  Topology& topology();
  void build(Topology& t) const;
  void settle();
  bool fix_switches();
  bool fix_cores();
  void read_tube();
  void step();
  bool stride();
  void small_step();
  using At = std::array<TubeAt, Tubes>;
  static Volts taken(const At& tubes); // amperes at the ports
  At balanced(const Volts& free) const;
  At bracketed(const Volts& free, const Ports& by) const;
  void look(double weight_s);
  void thyristor(double weight_s);
  void spend(); // of the steps that a run may take
  void run_until(double until_s, const std::atomic<bool>& cancelled);
  void run_periods(int periods, const std::atomic<bool>& cancelled);
  bool stops_and_starts() const;
  void whole_bursts(double least_s, const std::atomic<bool>& cancelled);
  void watch_turn_off(double cycle_s, const std::atomic<bool>& cancelled);
  void find_own_bursts(std::size_t first, double cycle_s);
  void begin_sums();
  void conclude(TubeResult& out) const;
  double top_v() const;
  double stored_j() const; // behind the supply
  double read(Signal s) const { return seen_.data()[s]; }
  void read_all() { read_.over(present_->reads.data(), states_, x_.data(), seen_.data()); }
  Eigen::Map<const VectorXd> state() const { return {x_.data(), states_}; }
  // Of a winding in halves their mean.
  double winding_a(const std::vector<std::size_t>& halves) const {
    double sum = 0;
    for (const std::size_t i : halves) sum += inductor_a(i);
    return halves.empty() ? 0 : sum / static_cast<double>(halves.size());
  }
  double winding_w(const std::vector<std::size_t>& halves, double ohm) const {
    double sum = 0;
    for (const std::size_t i : halves) sum += inductor_a(i) * inductor_a(i);
    return halves.empty() ? 0 : sum * ohm / static_cast<double>(halves.size());
  }
  double inductor_a(std::size_t i) const { return x_.data()[net_.capacitors.size() + i]; }

  const TubeCircuit& c_;
  const TubeOptions& options_;
  TubeNetwork parts_;
  Network& net_;
  double h_ = 0, slow_hz_ = 0;
  int states_ = 0, columns_ = 0;
  Width wide_, read_; // of a step and of a look
  Aligned seen_;      // signals and diodes as last read
  Aligned x_, next_;  // state, then each tube's plate and grid amperes, then the noise at the step's two ends
  std::map<std::vector<signed char>, Topology> topologies_;
  Topology* present_ = nullptr;
  double time_s_ = 0;
  std::array<TubeAt, Tubes> tubes_;
  std::complex<double> noise_{1, 0}, noise_step_, noise_stride_; // a turning vector: its height is the noise
  double filtered_a_ = 0;                                        // the thyristor's current, averaged
  bool gate_ = false;
  int since_look_ = 0;
  double charge_c_ = 0, last_rail_v_ = 0; // into the coil since the last look
  double last_top_v_ = 0, last_top_s_ = 0, last_rise_s_ = 0;
  int thousands_ = 0;                   // of steps, some four
  std::int64_t rises_ = 0;              // of the top volts through zero
  double swing_v_ = 0, swing_on_s_ = 0; // of the present period: top volts, and how long the plate conducts
  Sums sums_;
  double sums_stored_j_ = 0;
  TubeResult out_;
  // bins
  double bin_s_ = 0;
  struct Bin {
    double time_s = 0, rail = 0, top = 0, plate = 0, bias = 0, line = 0;
  } bin_;
  double wave_from_s_ = 1e300, wave_to_s_ = 0;
};

template <int Tubes>
Topology& TubeRun<Tubes>::topology() {
  const auto [at, is_new] = topologies_.try_emplace(topology_key(net_));
  if (is_new) build(at->second);
  return at->second;
}

// exp of [A B 0; 0 0 I; 0 0 0] h holds the step for currents that change evenly over it.
template <int Tubes>
void TubeRun<Tubes>::build(Topology& t) const {
  const StateSpace space = state_space(net_, true);
  const auto port = [](Node node) { return static_cast<Index>(node) - 1; };
  const Index n = states_;
  MatrixXd in(n, ports + 1); // by amperes that a tube takes at its plate and its grid, and that noise puts in
  const auto column = [&](Node node) -> VectorXd {
    return node == 0 ? VectorXd::Zero(n) : VectorXd(space.rate_in.col(port(node)));
  };
  for (Index i = 0; i < Tubes; ++i) {
    const TubeNetwork::Tube& tube = parts_.tubes[static_cast<std::size_t>(i)];
    in.col(2 * i) = column(parts_.cathode) - column(tube.plate);
    in.col(2 * i + 1) = column(parts_.cathode) - column(tube.grid);
  }
  in.col(ports) = column(parts_.tubes.front().plate);
  const auto row = [&](Node node) -> RowVectorXd {
    return node == 0 ? RowVectorXd::Zero(n) : RowVectorXd(space.nodes.row(port(node)));
  };
  // The charge into the coil and the grid's volt-seconds are carried along as two more states, so that they are
  // exact.
  const Index m = n + 2;
  constexpr Index inputs = ports + 1;
  MatrixXd all = MatrixXd::Zero(m + 2 * inputs, m + 2 * inputs);
  all.topLeftCorner(n, n) = space.rate * h_;
  all.block(n, 0, 1, n) = (row(parts_.rail) - row(parts_.coil)) / rail_ohm * h_;
  all.block(n + 1, 0, 1, n) = (row(parts_.tubes.front().grid) - row(parts_.cathode)) * h_;
  all.block(0, m, n, inputs) = in * h_;
  all.block(m, m + inputs, inputs, inputs) = MatrixXd::Identity(inputs, inputs);
  const MatrixXd moved = exponential(all);
  if (!moved.allFinite())
    throw std::invalid_argument("the oscillator's parts are too far apart in size to be computed");
  const MatrixXd phi = moved.topLeftCorner(m, m), end = moved.block(0, m + inputs, m, inputs),
                 begin = moved.block(0, m, m, inputs) - end;
  MatrixXd at_ports(ports, n);
  for (Index i = 0; i < Tubes; ++i) {
    const TubeNetwork::Tube& tube = parts_.tubes[static_cast<std::size_t>(i)];
    at_ports.row(2 * i) = row(tube.plate) - row(parts_.cathode);
    at_ports.row(2 * i + 1) = row(tube.grid) - row(parts_.cathode);
  }
  t.ports.template topLeftCorner<ports, ports>() = at_ports * end.topLeftCorner(n, ports);
  const auto store = [&](Aligned& to, const MatrixXd& moves) { // state, ports, integrals
    to.resize(static_cast<std::size_t>(wide_.rows) * static_cast<std::size_t>(moves.cols()));
    Eigen::Map<MatrixXd> view(to.data(), wide_.rows, moves.cols());
    view.topRows(n) = moves.topRows(n);
    view.middleRows(n, ports) = at_ports * moves.topRows(n);
    view.middleRows(n + ports, 2) = moves.bottomRows(2);
  };
  MatrixXd step(m, columns_);
  step.leftCols(n) = phi.leftCols(n);
  step.middleCols(n, ports) = begin.leftCols(ports);
  if (columns_ > n + ports) {
    step.col(n + ports) = begin.col(ports);
    step.col(n + ports + 1) = end.col(ports);
  }
  store(t.step, step);
  MatrixXd several = phi;
  for (int i = 1; i < look_every; ++i) several = several * phi;
  store(t.stride, several.leftCols(n));
  for (Index i = 0; i < ports; ++i) store(t.in[static_cast<std::size_t>(i)], end.col(i));
  t.nodes = space.nodes;
  MatrixXd reads = MatrixXd::Zero(read_.rows, n);
  reads.row(rail_v) = row(parts_.rail);
  const auto across = [&](const auto& part) -> RowVectorXd { return row(part.a) - row(part.b); };
  reads.row(leak_v) = across(net_.resistors[parts_.leak]);
  for (std::size_t i = 0; i < Tubes; ++i) {
    const TubeNetwork::Tube& tube = parts_.tubes[i];
    if (tube.trap) reads.row(i > 0 ? trap_2_v : trap_v) = across(net_.resistors[*tube.trap]);
    if (tube.stopper) reads.row(i > 0 ? stopper_2_v : stopper_v) = across(net_.resistors[*tube.stopper]);
  }
  if (parts_.arc) reads.row(arc_v) = across(net_.switches[*parts_.arc]);
  reads.row(cathode_v) = row(parts_.cathode);
  if (parts_.line_per_a > 0) {
    const Network::Resistor& r = net_.resistors[parts_.source_resistor];
    reads.row(line_a) = across(r) / r.ohm * parts_.line_per_a;
  }
  Index diode = signal_count;
  for (const Network::Switch& s : net_.switches)
    if (s.diode) reads.row(diode++) = across(s);
  t.reads.resize(static_cast<std::size_t>(read_.rows) * static_cast<std::size_t>(n));
  Eigen::Map<MatrixXd>(t.reads.data(), read_.rows, n) = reads;
}

template <int Tubes>
double TubeRun<Tubes>::top_v() const {
  double sum = 0;
  for (std::size_t i = 0; i < parts_.mode_caps.size(); ++i)
    sum += c_.modes[i].top_per_v * x_.data()[parts_.mode_caps[i]];
  return sum;
}

template <int Tubes>
double TubeRun<Tubes>::stored_j() const {
  double twice = 0;
  for (std::size_t i = parts_.first_own_capacitor; i < net_.capacitors.size(); ++i)
    twice += net_.capacitors[i].farad * x_.data()[i] * x_.data()[i];
  const std::size_t first_own = parts_.plate_coils.front();
  for (std::size_t i = first_own; i < net_.inductors.size(); ++i)
    twice += net_.inductors[i].henry * inductor_a(i) * inductor_a(i);
  for (const Network::Coupling& m : net_.couplings)
    if (m.first >= first_own) twice += 2 * m.henry * inductor_a(m.first) * inductor_a(m.second);
  return twice / 2;
}

template <int Tubes>
bool TubeRun<Tubes>::fix_switches() {
  bool changed = false;
  const double* across = seen_.data() + signal_count;
  for (Network::Switch& s : net_.switches)
    if (s.diode && set_diode(s, *across++)) changed = true;
  return changed;
}

template <int Tubes>
bool TubeRun<Tubes>::fix_cores() {
  bool changed = false;
  for (std::size_t k = 0; k < net_.inductors.size(); ++k)
    if (!net_.inductors[k].knees.empty() && set_level(net_.inductors[k], inductor_a(k))) changed = true;
  return changed;
}

template <int Tubes>
void TubeRun<Tubes>::settle() {
  present_ = &topology();
  for (int tries = 0; tries < 8; ++tries) {
    read_all();
    const bool switched = fix_switches(), bent = fix_cores();
    if (!switched && !bent) return;
    present_ = &topology();
  }
}

template <int Tubes>
void TubeRun<Tubes>::read_tube() {
  const auto volts = [&](Node node) {
    return node == 0 ? 0.0 : present_->nodes.row(static_cast<Index>(node) - 1).dot(state());
  };
  const double cathode = volts(parts_.cathode);
  for (std::size_t i = 0; i < Tubes; ++i) {
    TubeAt& tube = tubes_[i];
    tube.va = volts(parts_.tubes[i].plate) - cathode;
    tube.vg = volts(parts_.tubes[i].grid) - cathode;
    tube.takes = tube_currents(c_.law, tube.va, tube.vg);
  }
}

template <int Tubes>
typename TubeRun<Tubes>::Volts TubeRun<Tubes>::taken(const At& tubes) {
  Volts out;
  for (int i = 0; i < Tubes; ++i) {
    const TubeCurrents& takes = tubes[static_cast<std::size_t>(i)].takes;
    out(2 * i) = takes.plate_a;
    out(2 * i + 1) = takes.grid_a;
  }
  return out;
}

// Volts and currents at the step's end, where the ports stand at `free` volts without currents: by Newton, a move
// across a corner of the characteristic that leads away halved until it leads nearer. What does not converge so is
// bracketed; what is not solved then is an error, never a number.
template <int Tubes>
typename TubeRun<Tubes>::At TubeRun<Tubes>::balanced(const Volts& free) const {
  constexpr double solved_v = 1e-6;
  constexpr int most_rounds = 30, most_halvings = 12;
  const Ports by = Eigen::Map<const Ports, 0, Eigen::OuterStride<2 * most_tubes>>(present_->ports.data());
  const auto left_over = [&](const At& tubes) {
    Volts off = free;
    for (int i = 0; i < Tubes; ++i) {
      off(2 * i) -= tubes[static_cast<std::size_t>(i)].va;
      off(2 * i + 1) -= tubes[static_cast<std::size_t>(i)].vg;
    }
    off.noalias() += by * taken(tubes);
    return off;
  };
  At now = tubes_;
  Volts off = left_over(now);
  double left_v = off.template lpNorm<1>();
  bool nearer = true;
  for (int round = 0; nearer && round < most_rounds && !(left_v < solved_v); ++round) {
    Ports slope = Ports::Identity();
    for (int i = 0; i < Tubes; ++i) {
      const TubeCurrents& a = now[static_cast<std::size_t>(i)].takes;
      slope.col(2 * i) -= by.col(2 * i) * a.plate_by_va;
      slope.col(2 * i + 1) -= by.col(2 * i) * a.plate_by_vg + by.col(2 * i + 1) * a.grid_by_vg;
    }
    Volts move = slope.inverse() * off;
    nearer = false;
    for (int halving = 0; !nearer && halving < most_halvings; ++halving, move /= 2) {
      At then = now;
      for (int i = 0; i < Tubes; ++i) {
        TubeAt& tube = then[static_cast<std::size_t>(i)];
        tube.va += move(2 * i);
        tube.vg += move(2 * i + 1);
        tube.takes = tube_currents(c_.law, tube.va, tube.vg);
      }
      const Volts then_off = left_over(then);
      const double then_v = then_off.template lpNorm<1>();
      if (!(then_v < left_v)) continue;
      nearer = true;
      now = then;
      off = then_off;
      left_v = then_v;
    }
  }
  if (left_v < solved_v) return now;
  if (free.allFinite()) now = bracketed(free, by);
  if (!(left_over(now).template lpNorm<1>() < 1e3 * solved_v))
    throw std::invalid_argument(
        fmt::format("the tube's currents have no solution {:.4g} ms into the run: a part may be far from anything "
                    "real",
                    1e3 * time_s_));
  return now;
}

// One tube after the other, plate volts outside, grid volts within: each leaves less over the higher it is taken.
template <int Tubes>
typename TubeRun<Tubes>::At TubeRun<Tubes>::bracketed(const Volts& free, const Ports& by) const {
  const auto zero = [](const auto& left_over, double near) {
    double low = near - 1, high = near + 1;
    for (double wide = 2; left_over(low) < 0 && wide < 1e9; wide *= 2) low -= wide;
    for (double wide = 2; left_over(high) > 0 && wide < 1e9; wide *= 2) high += wide;
    if (!(left_over(low) >= 0 && left_over(high) <= 0)) return near;
    std::uintmax_t rounds = 200;
    const auto ends = boost::math::tools::toms748_solve(
        left_over, low, high, [](double a, double b) { return std::abs(a - b) < 1e-11 * (1 + std::abs(a)); },
        rounds);
    return std::midpoint(ends.first, ends.second);
  };
  At now = tubes_;
  constexpr int most_rounds = 50;
  for (int round = 0; round < (Tubes > 1 ? most_rounds : 1); ++round) {
    const At before = now;
    for (int i = 0; i < Tubes; ++i) {
      TubeAt& tube = now[static_cast<std::size_t>(i)];
      tube.takes = {};
      const Volts rest = free + by * taken(now); // what the other tube leaves
      const auto block = by.template block<2, 2>(2 * i, 2 * i);
      const auto at = [&](double va) {
        const auto grid = [&](double vg) {
          const TubeCurrents a = tube_currents(c_.law, va, vg);
          return rest(2 * i + 1) + block(1, 0) * a.plate_a + block(1, 1) * a.grid_a - vg;
        };
        const double vg = zero(grid, tube.vg);
        return TubeAt{va, vg, tube_currents(c_.law, va, vg)};
      };
      const auto plate = [&](double va) {
        const TubeAt a = at(va);
        return rest(2 * i) + block(0, 0) * a.takes.plate_a + block(0, 1) * a.takes.grid_a - va;
      };
      tube = at(zero(plate, tube.va));
    }
    if ((taken(now) - taken(before)).template lpNorm<1>() < 1e-15) break;
  }
  return now;
}

// One step: everything linear at once, then the tubes' currents at its end by Newton.
template <int Tubes>
void TubeRun<Tubes>::small_step() {
  const Topology& t = *present_;
  double* x = x_.data();
  double* y = next_.data();
  for (int i = 0; i < Tubes; ++i) {
    x[states_ + 2 * i] = tubes_[static_cast<std::size_t>(i)].takes.plate_a;
    x[states_ + 2 * i + 1] = tubes_[static_cast<std::size_t>(i)].takes.grid_a;
  }
  if (columns_ > states_ + ports) {
    x[states_ + ports] = c_.noise_a * noise_.imag();
    noise_ *= noise_step_;
    x[states_ + ports + 1] = c_.noise_a * noise_.imag();
  }
  // Once it swings, noise is nothing.
  const bool heard = columns_ > states_ + ports && std::abs(last_top_v_) < loud_v;
  wide_.over(t.step.data(), heard ? columns_ : states_ + ports, x, y);
  const std::array<TubeAt, Tubes> then = balanced(Eigen::Map<const Volts>(y + states_));
  const Volts takes = taken(then);
  charge_c_ += y[states_ + ports];
  sums_.grid_vs += y[states_ + ports + 1];
  if ((takes.array() != 0).any()) {
    const double* from = y;
    for (int i = 0; i < Tubes; ++i) { // plate and grid in one sweep over the state
      const double* p = t.in[static_cast<std::size_t>(2 * i)].data();
      const double* g = t.in[static_cast<std::size_t>(2 * i + 1)].data();
      const double plate_a = takes(2 * i), grid_a = takes(2 * i + 1);
      for (int k = 0; k < states_; ++k) x[k] = from[k] + p[k] * plate_a + g[k] * grid_a;
      charge_c_ += p[states_ + ports] * plate_a + g[states_ + ports] * grid_a;
      sums_.grid_vs += p[states_ + ports + 1] * plate_a + g[states_ + ports + 1] * grid_a;
      from = x;
    }
  } else {
    std::copy_n(y, states_, x);
  }
  const double half = h_ / 2;
  for (std::size_t i = 0; i < Tubes; ++i) {
    const TubeAt &from = tubes_[i], &to = then[i];
    const double plate_j = half * (from.takes.plate_a * from.va + to.takes.plate_a * to.va);
    sums_.plate_j += plate_j;
    bin_.plate += plate_j;
    sums_.grid_j += half * (from.takes.grid_a * from.vg + to.takes.grid_a * to.vg);
    sums_.plate_c += half * (from.takes.plate_a + to.takes.plate_a);
    sums_.grid_c += half * (from.takes.grid_a + to.takes.grid_a);
    sums_.cathode_peak_a = std::max(sums_.cathode_peak_a, to.takes.plate_a + to.takes.grid_a);
  }
  if (then.front().takes.plate_a > conducts_a) swing_on_s_ += h_;
  tubes_ = then;
  time_s_ += h_;
}

// Several steps at once while the tube is cut off at both ends; false when it would not stay so.
template <int Tubes>
bool TubeRun<Tubes>::stride() {
  for (const TubeAt& tube : tubes_)
    if (!tube.cut_off(c_.law)) return false;
  const Topology& t = *present_;
  double* y = next_.data();
  wide_.over(t.stride.data(), states_, x_.data(), y);
  std::array<TubeAt, Tubes> then;
  for (std::size_t i = 0; i < Tubes; ++i) {
    then[i] = {y[states_ + 2 * static_cast<int>(i)], y[states_ + 2 * static_cast<int>(i) + 1], {}};
    if (!then[i].cut_off(c_.law)) return false;
  }
  std::copy_n(y, states_, x_.data());
  noise_ *= noise_stride_;
  charge_c_ += y[states_ + ports];
  sums_.grid_vs += y[states_ + ports + 1];
  tubes_ = then;
  time_s_ += look_every * h_;
  return true;
}

template <int Tubes>
void TubeRun<Tubes>::thyristor(double weight_s) {
  const Staccato& s = *c_.staccato;
  Network::Switch& device = net_.switches[*parts_.thyristor];
  const double volts = read(cathode_v), amps = volts / (device.on ? device.on_ohm : device.off_ohm);
  filtered_a_ += (amps - filtered_a_) * -std::expm1(-weight_s / s.off_s);
  sums_.thyristor_peak_a = std::max(sums_.thyristor_peak_a, device.on ? amps : 0);
  sums_.thyristor_a2s += weight_s * amps * amps;
  sums_.thyristor_j += weight_s * amps * volts;
  const double since = time_s_ - s.first_s;
  gate_ = since >= 0 && since - std::floor(since / s.period_s) * s.period_s < s.gate_s;
  const bool on = gate_ || (device.on && filtered_a_ > s.hold_a);
  if (on == device.on) return;
  device.on = on;
  (on ? out_.on_s : out_.off_s).push_back(time_s_);
  present_ = &topology();
  read_tube();
}

template <int Tubes>
void TubeRun<Tubes>::look(double weight_s) {
  read_all();
  const double rail = read(rail_v), leak = read(leak_v), line = read(line_a);
  const double top = top_v();
  const double plate_coil_a = winding_a(parts_.plate_coils), feedback_a = winding_a(parts_.feedback_coils);
  sums_.time_s += weight_s;
  sums_.input_j += (last_rail_v_ + rail) / 2 * charge_c_;
  last_rail_v_ = rail;
  charge_c_ = 0;
  sums_.leak_j += weight_s * leak * leak / net_.resistors[parts_.leak].ohm;
  sums_.winding_j +=
      weight_s * (winding_w(parts_.plate_coils, c_.plate_ohm) + winding_w(parts_.feedback_coils, c_.feedback_ohm));
  for (std::size_t i = 0; i < Tubes; ++i) {
    const TubeNetwork::Tube& tube = parts_.tubes[i];
    if (tube.stopper) {
      const double volts = read(i > 0 ? stopper_2_v : stopper_v);
      sums_.winding_j += weight_s * volts * volts / net_.resistors[*tube.stopper].ohm;
    }
    if (tube.trap) {
      const double volts = read(i > 0 ? trap_2_v : trap_v);
      sums_.trap_j += weight_s * volts * volts / net_.resistors[*tube.trap].ohm;
    }
  }
  for (std::size_t i = 0; i < parts_.mode_caps.size(); ++i) {
    const double amps = inductor_a(parts_.mode_coils[i]);
    sums_.foot_j += weight_s * amps * amps * c_.modes[i].resistance_ohm;
  }
  if (parts_.arc) {
    Network::Switch& arc = net_.switches[*parts_.arc];
    const double volts = read(arc_v);
    if (arc.on) sums_.arc_j += weight_s * volts * volts / arc.on_ohm;
    if (!arc.on && c_.breakout_v > 0 && std::abs(top) > c_.breakout_v) {
      arc.on = true;
      out_.breakout_s = time_s_;
      present_ = &topology();
      read_tube();
    }
  }
  sums_.line_a2s += weight_s * line * line;
  sums_.tank_a2s += weight_s * plate_coil_a * plate_coil_a;
  sums_.feedback_a2s += weight_s * feedback_a * feedback_a;
  sums_.rail_most_v = std::max(sums_.rail_most_v, rail);
  sums_.over_rail_v = std::max(sums_.over_rail_v, tubes_.front().va - rail);
  sums_.cathode_most_v = std::max(sums_.cathode_most_v, read(cathode_v));
  sums_.top.see(time_s_, top);
  double tank = 0;
  for (const std::size_t i : parts_.tanks) tank += x_.data()[i];
  sums_.tank.see(time_s_, std::abs(tank));
  const TubeAt& tube = tubes_.front();
  sums_.plate.see(time_s_, tube.va);
  sums_.plate_low.see(time_s_, -tube.va);
  sums_.grid.see(time_s_, tube.vg);
  sums_.grid_low.see(time_s_, -tube.vg);
  // A flame coil's top stands at the supply's volts as well; radio frequency is what is above them.
  const double swing = c_.wiring == TubeWiring::flame ? top - rail : top;
  swing_v_ = std::max(swing_v_, std::abs(swing));
  if (last_top_v_ < 0 && swing >= 0) {
    const double at = last_top_s_ + (time_s_ - last_top_s_) * last_top_v_ / (last_top_v_ - swing);
    if (last_rise_s_ > 0) sums_.periods.push_back({at - last_rise_s_, swing_on_s_, swing_v_});
    ++rises_;
    last_rise_s_ = at;
    swing_v_ = swing_on_s_ = 0;
  }
  last_top_v_ = swing;
  last_top_s_ = time_s_;
  bin_.time_s += weight_s;
  bin_.rail += weight_s * rail;
  bin_.bias += weight_s * leak;
  bin_.line += weight_s * line * line;
  bin_.top = std::max(bin_.top, std::abs(top));
  if (bin_.time_s >= bin_s_) {
    const double t = bin_.time_s;
    out_.samples.push_back(
        {time_s_ - t / 2, bin_.rail / t, bin_.top, bin_.plate / t, bin_.bias / t, std::sqrt(bin_.line / t)});
    bin_ = {};
  }
  if (parts_.thyristor) thyristor(weight_s);
  const bool switched = fix_switches(), bent = fix_cores();
  if (!switched && !bent) return;
  present_ = &topology();
  read_tube();
}

template <int Tubes>
void TubeRun<Tubes>::step() {
  if (c_.direct_v) x_.data()[states_ - 3] = std::min(1.0, (time_s_ + h_ / 2) / c_.rise_s);
  if (since_look_ == 0 && stride()) {
    look(look_every * h_);
  } else {
    small_step();
    if (++since_look_ == look_every) {
      since_look_ = 0;
      look(look_every * h_);
    }
  }
  if (time_s_ >= wave_from_s_ && time_s_ <= wave_to_s_)
    out_.wave.push_back(
        {time_s_, tubes_[0].va, tubes_[0].vg, tubes_[0].takes.plate_a, tubes_[0].takes.grid_a, top_v()});
}

template <int Tubes>
void TubeRun<Tubes>::run_until(double until_s, const std::atomic<bool>& cancelled) {
  for (int count = 0; time_s_ < until_s; ++count) {
    if (count % 4096 == 0 && (spend(), cancelled)) return;
    step();
  }
  if (!std::isfinite(x_.data()[0] + tubes_.front().va + tubes_.front().vg))
    throw std::invalid_argument("the oscillator's numbers run away: a part is far from anything real");
}

template <int Tubes>
void TubeRun<Tubes>::spend() {
  constexpr int most_thousands = 4000; // some seconds
  if (++thousands_ > most_thousands)
    throw std::invalid_argument(
        "tank, resonator and supply are too far apart to be followed: see that the tank is near "
        "the resonator");
}

template <int Tubes>
void TubeRun<Tubes>::begin_sums() {
  sums_ = Sums{};
  sums_stored_j_ = stored_j();
}

template <int Tubes>
void TubeRun<Tubes>::conclude(TubeResult& out) const {
  const Sums& s = sums_;
  const double t = s.time_s > 0 ? s.time_s : 1;
  out.from_s = std::max(0.0, time_s_ - s.time_s);
  out.to_s = time_s_;
  out.plate_input_w = s.input_j / t;
  out.plate_dissipation_w = s.plate_j / t;
  out.grid_dissipation_w = s.grid_j / t;
  out.leak_w = s.leak_j / t;
  out.winding_w = s.winding_j / t;
  out.trap_w = s.trap_j / t;
  out.arc_w = s.arc_j / t;
  out.secondary_power_w = (s.foot_j + s.arc_j) / t;
  out.thyristor_w = s.thyristor_j / t;
  out.stored_w = (stored_j() - sums_stored_j_) / t;
  out.balance_w = out.plate_input_w - out.plate_dissipation_w - out.grid_dissipation_w - out.leak_w -
                  out.winding_w - out.trap_w - out.secondary_power_w - out.thyristor_w - out.stored_w;
  out.plate_average_a = s.plate_c / t;
  out.grid_average_a = s.grid_c / t;
  out.grid_bias_v = s.grid_vs / t;
  out.cathode_peak_a = s.cathode_peak_a;
  out.plate_most_v = s.plate.most();
  out.plate_least_v = -s.plate_low.most();
  out.grid_most_v = s.grid.most();
  out.grid_least_v = -s.grid_low.most();
  out.top_peak_v = s.top.most();
  out.crest_s = s.top.at_s();
  out.tank_peak_v = s.tank.most();
  out.tank_rms_a = std::sqrt(s.tank_a2s / t);
  out.feedback_rms_a = std::sqrt(s.feedback_a2s / t);
  out.line_rms_a = std::sqrt(s.line_a2s / t);
  out.rail_most_v = s.rail_most_v;
  out.cathode_most_v = s.cathode_most_v;
  out.thyristor_peak_a = s.thyristor_peak_a;
  out.thyristor_rms_a = std::sqrt(s.thyristor_a2s / t);
  constexpr double full = 0.9; // of the top volts: a period that counts as oscillation at its height
  double length_s = 0, conducts_s = 0, count = 0;
  double most_v = 0;
  for (const Sums::Period& p : s.periods) most_v = std::max(most_v, p.top_v);
  for (const Sums::Period& p : s.periods)
    if (p.top_v > full * most_v) {
      length_s += p.length_s;
      conducts_s += p.conducts_s;
      ++count;
    }
  if (!(count > 0)) return;
  out.frequency_hz = count / length_s;
  out.conduction_deg = 360 * conducts_s / length_s;
}

// To the end of so many periods of the top volts, or of that time where nothing swings.
template <int Tubes>
void TubeRun<Tubes>::run_periods(int periods, const std::atomic<bool>& cancelled) {
  const std::int64_t last = rises_ + periods;
  const double until_s = time_s_ + 1.5 * periods / slow_hz_;
  for (int count = 0; rises_ < last && time_s_ < until_s; ++count) {
    if (count % 4096 == 0 && (spend(), cancelled)) return;
    step();
  }
}

// Blocks of periods until they no longer differ, or it is clear that nothing swings, or that it stops and starts by
// its own grid leak.
template <int Tubes>
TubeResult TubeRun<Tubes>::direct(const std::atomic<bool>& cancelled) {
  constexpr int periods = 40, most_blocks = 60;
  constexpr double still_share = 0.02, nothing_share = 1e-3; // of the rail, of the swing
  const double rail = *c_.direct_v, block_s = periods / slow_hz_, leak_s = c_.grid_leak_ohm * c_.grid_leak_f;
  bin_s_ = (c_.wiring == TubeWiring::flame ? 1 : 0.5) / slow_hz_; // an envelope
  run_until(c_.rise_s + 2 / slow_hz_, cancelled);
  TubeResult before{};
  double last_swing = 0, swing = 0;
  const double most_s = std::max(most_blocks * block_s, std::min(20 * leak_s, 0.1));
  int alike = 0, dying = 0;
  while (!cancelled && time_s_ < most_s) {
    run_periods(1, cancelled);
    begin_sums();
    run_periods(periods, cancelled);
    TubeResult now{};
    conclude(now);
    swing = (now.plate_most_v - now.plate_least_v) / 2;
    const auto near = [](double a, double b) {
      return std::abs(a - b) <= 2e-3 * std::max(std::abs(a), std::abs(b));
    };
    const bool swings = swing > still_share * rail;
    const bool same =
        near(now.top_peak_v, before.top_peak_v) && near(now.plate_dissipation_w, before.plate_dissipation_w);
    alike = swings && same ? alike + 1 : 0;
    // Held by a charged grid leak it only waits.
    const bool waits = read(leak_v) < -0.05 * rail / c_.law.mu;
    dying = !swings && !waits && (swing < last_swing || swing < nothing_share * rail) ? dying + 1 : 0;
    last_swing = swing;
    before = now;
    // Where the leak is slower than a block, it must have had time to move.
    if ((alike >= 2 && time_s_ > 6 * leak_s) || dying >= 3) break;
    if (time_s_ > std::max(12 * block_s, 8 * leak_s) && stops_and_starts()) break;
  }
  out_.steady = alike >= 2 || dying >= 3;
  out_.oscillates = dying < 3 && swing > nothing_share * rail;
  out_.intermittent = !out_.steady && stops_and_starts();
  if (out_.intermittent) whole_bursts(std::max(10 * block_s, 8 * leak_s), cancelled);
  conclude(out_);
  const double nine_tenths = 0.9 * out_.top_peak_v;
  for (const TubeSample& s : out_.samples)
    if (s.top_v >= nine_tenths) {
      out_.start_s = s.time_s;
      break;
    }
  if (options_.waveforms && !cancelled) {
    wave_from_s_ = time_s_;
    wave_to_s_ = time_s_ + 3 / slow_hz_;
    run_until(wave_to_s_, cancelled);
  }
  return std::move(out_);
}

// Whether the top was at rest and at its height within the later half of the run.
template <int Tubes>
bool TubeRun<Tubes>::stops_and_starts() const {
  constexpr double rest = 0.2;
  double least = 1e300, most = 0;
  const auto& all = out_.samples;
  constexpr std::size_t together = 4;
  for (std::size_t i = all.size() / 2; i + together < all.size(); i += together / 2) {
    double top = 0;
    for (std::size_t k = i; k < i + together; ++k) top = std::max(top, all[k].top_v);
    least = std::min(least, top);
    most = std::max(most, top);
  }
  return most > 0 && least < rest * most;
}

// Goes on for whole bursts by the falls of the grid leak's volts through their middle, at least for `least_s`.
template <int Tubes>
void TubeRun<Tubes>::whole_bursts(double least_s, const std::atomic<bool>& cancelled) {
  double low = 0, high = -1e300;
  for (std::size_t i = out_.samples.size() / 2; i < out_.samples.size(); ++i) {
    low = std::min(low, out_.samples[i].bias_v);
    high = std::max(high, out_.samples[i].bias_v);
  }
  // A fall counts once it has risen near its top: radio frequency makes it cross the middle more than once.
  const double middle = (low + high) / 2, rested = low + 0.9 * (high - low), from_s = time_s_;
  bool armed = false;
  const auto fell = [&](std::size_t seen) {
    if (out_.samples.size() == seen) return false;
    const double volts = out_.samples.back().bias_v;
    armed = armed || volts > rested;
    if (!armed || volts > middle) return false;
    armed = false;
    return true;
  };
  int falls = 0;
  double first_s = 0;
  for (int count = 0; time_s_ < from_s + 4 * least_s; ++count) {
    if (count % 4096 == 0 && (spend(), cancelled)) return;
    const std::size_t seen = out_.samples.size();
    step();
    if (!fell(seen)) continue;
    if (falls++ == 0) {
      first_s = time_s_;
      begin_sums();
    } else {
      out_.burst_s = (time_s_ - first_s) / (falls - 1);
      if (time_s_ - from_s > least_s) return;
    }
  }
}

// Fired in every cycle it is on again before a run of one cycle could tell: what is on at the end is followed,
// beside the figures, until it has been off once or has stood through a whole swing of the supply.
template <int Tubes>
void TubeRun<Tubes>::watch_turn_off(double cycle_s, const std::atomic<bool>& cancelled) {
  constexpr double swing = 1.2; // cycles
  const std::size_t seen = out_.samples.size(), fired = out_.on_s.size(), ended = out_.off_s.size();
  if (fired <= ended) return;
  run_until(std::max(time_s_, out_.on_s.back() + swing * cycle_s), cancelled);
  out_.stays_on = out_.off_s.size() == ended;
  out_.samples.resize(seen);
  out_.on_s.resize(fired);
  out_.off_s.resize(ended);
}

// Bursts that neither the mains nor the thyristor ends: from height to rest to height again within a small part of
// a cycle.
template <int Tubes>
void TubeRun<Tubes>::find_own_bursts(std::size_t first, double cycle_s) {
  constexpr double rest = 0.1, height = 0.3; // of the highest top volts
  const double longest_s = 0.3 * cycle_s;    // of the mains' own coming and going
  double most_v = 0;
  for (std::size_t i = first; i < out_.samples.size(); ++i) most_v = std::max(most_v, out_.samples[i].top_v);
  bool swings = false;
  double began_s = -1, apart_s = 0;
  int own = 0;
  for (std::size_t i = first; i < out_.samples.size(); ++i) {
    const TubeSample& s = out_.samples[i];
    if (swings && s.top_v < rest * most_v) {
      swings = false;
    } else if (!swings && s.top_v > height * most_v) {
      const bool turned_off =
          std::ranges::any_of(out_.off_s, [&](double t) { return t > began_s && t < s.time_s; });
      if (began_s > 0 && s.time_s - began_s < longest_s && !turned_off) {
        ++own;
        apart_s += s.time_s - began_s;
      }
      swings = true;
      began_s = s.time_s;
    }
  }
  constexpr int surely = 2;
  if (own < surely) return;
  out_.intermittent = true;
  out_.burst_s = apart_s / own;
}

// Whole cycles; the figures are those of the last one, or of a whole firing period from the start.
template <int Tubes>
TubeResult TubeRun<Tubes>::mains(const std::atomic<bool>& cancelled) {
  const double cycle_s = 1 / c_.site.mains_frequency_hz;
  constexpr int longest_period = 12; // cycles, beyond which a pause is taken to go on as it is
  int cycles = options_.cycles, counted = 1;
  double pause_s = 0; // of the firing period, not run
  if (c_.staccato) {
    const double whole = std::ceil(c_.staccato->period_s / cycle_s - 1e-6);
    const int period = static_cast<int>(std::clamp(whole, 1.0, 1.0 * longest_period));
    if (cycles == 0) cycles = period;
    counted = std::min(cycles, period);
    if (counted == period) pause_s = std::max(0.0, whole - period) * cycle_s;
  } else if (cycles == 0)
    cycles = 2;
  bin_s_ = cycle_s / 1000;
  run_until((cycles - counted) * cycle_s, cancelled);
  begin_sums();
  const std::size_t first = out_.samples.size();
  if (options_.waveforms) { // radio frequency near the supply's first crest
    const double crest = parts_.start_deg < 0 ? 0.5 : 0.25;
    wave_from_s_ = (cycles - counted + crest) * cycle_s;
    wave_to_s_ = wave_from_s_ + 3 / slow_hz_;
  }
  run_until(cycles * cycle_s, cancelled);
  if (parts_.thyristor && !net_.switches[*parts_.thyristor].on) sums_.time_s += pause_s;
  conclude(out_);
  const double nine_tenths = 0.9 * out_.top_peak_v;
  for (std::size_t i = first; i < out_.samples.size(); ++i)
    if (out_.samples[i].top_v >= nine_tenths) {
      out_.start_s = out_.samples[i].time_s;
      break;
    }
  out_.oscillates = out_.top_peak_v > 0 && sums_.over_rail_v > 0.05 * out_.rail_most_v;
  find_own_bursts(first, cycle_s);
  if (parts_.thyristor) watch_turn_off(cycle_s, cancelled);
  out_.steady = true;
  return std::move(out_);
}

} // namespace

TubeResult simulate_tube(const TubeCircuit& circuit, const TubeOptions& options,
                         const std::atomic<bool>& cancelled) {
  if (options.mains && !circuit.direct_v && circuit.wiring == TubeWiring::flame)
    return simulate_envelope(circuit, options, cancelled);
  TubeCircuit c = circuit;
  if (!options.mains || c.direct_v) {
    c.direct_v = crest_supply_v(circuit);
    if (!(c.rise_s > 0)) c.rise_s = 2e-6;
    if (!options.mains) c.staccato.reset();
  }
  const auto run = [&](auto&& tubes) { return options.mains ? tubes.mains(cancelled) : tubes.direct(cancelled); };
  return c.push_pull ? run(TubeRun<2>(c, options)) : run(TubeRun<1>(c, options));
}

std::shared_ptr<const TubeResult> simulate_tube(Kept& kept, const TubeCircuit& circuit, const TubeOptions& options,
                                                const std::atomic<bool>& cancelled) {
  const TubeStep step{circuit, options};
  return kept.get(step, cancelled, [&] { return simulate_tube(circuit, options, cancelled); });
}

std::string tube_csv(const TubeResult& result) {
  return waves_csv<TubeSample>(result.samples, {{"supply_v", &TubeSample::rail_v},
                                                {"top_v", &TubeSample::top_v},
                                                {"plate_w", &TubeSample::plate_w},
                                                {"grid_leak_v", &TubeSample::bias_v},
                                                {"line_a", &TubeSample::line_a}});
}

} // namespace arc
