// The run: steps, events, sums.
#include "circuit/tube_run.h"

#include "laws/circuit.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <cstdint>
#include <fmt/format.h>
#include <map>
#include <numbers>
#include <stdexcept>
#include <unsupported/Eigen/MatrixFunctions>

namespace arc {
namespace {

constexpr int steps_in_period = 120; // of the faster of tank and resonator
constexpr int look_every = 4; // steps between looks at diodes and at what is summed; one while the tube is cut off
constexpr double conducts_a = 0.01;
constexpr double loud_v = 100; // at the top, beside which noise at the plate is nothing
constexpr int most_rows = 64;

using Eigen::Index;
using Eigen::MatrixXd;
using Eigen::RowVectorXd;
using Eigen::VectorXd;

// out = m x, m stored by columns of `rows` doubles.
using Sweep = void (*)(const double* m, int columns, const double* x, double* out);
template <int Rows>
void sweep(const double* m, int columns, const double* x, double* out) {
  using Column = Eigen::Matrix<double, Rows, 1>;
  Column sum = Column::Zero();
  for (int c = 0; c < columns; ++c) sum += Eigen::Map<const Column, Eigen::Aligned16>(m + c * Rows) * x[c];
  Eigen::Map<Column, Eigen::Aligned16> to(out);
  to = sum;
}
struct Width {
  int rows;
  Sweep sweep;
};
constexpr std::array<Width, 12> widths{{{12, sweep<12>},
                                        {16, sweep<16>},
                                        {18, sweep<18>},
                                        {20, sweep<20>},
                                        {22, sweep<22>},
                                        {24, sweep<24>},
                                        {28, sweep<28>},
                                        {32, sweep<32>},
                                        {36, sweep<36>},
                                        {40, sweep<40>},
                                        {48, sweep<48>},
                                        {most_rows, sweep<most_rows>}}};

const Width& width_for(int rows) {
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
  Aligned step, stride; // what the state becomes in a step with the tube's currents, and in several without
  Aligned in_plate, in_grid;
  double plate_by_plate = 0, plate_by_grid = 0, grid_by_plate = 0, grid_by_grid = 0; // volts at the end by amperes
  MatrixXd nodes;
  Aligned reads; // rows of Signal, then volts across each diode
};

// What is read of the state now and then.
enum Signal { rail_v, leak_v, trap_v, stopper_v, arc_v, cathode_v, line_a, signals };

// Sums over a stretch of time.
struct Sums {
  double time_s = 0;
  double input_j = 0, plate_j = 0, grid_j = 0, leak_j = 0, winding_j = 0, trap_j = 0, foot_j = 0, arc_j = 0,
         thyristor_j = 0;
  double plate_c = 0, grid_c = 0, grid_vs = 0;
  double line_a2s = 0, tank_a2s = 0, feedback_a2s = 0, thyristor_a2s = 0;
  double cathode_peak_a = 0, rail_most_v = 0, cathode_most_v = 0, thyristor_peak_a = 0;
  Peak top, tank, plate, plate_low, grid, grid_low;
  struct Period {
    double length_s, conducts_s, top_v;
  };
  std::vector<Period> periods;
};

class TubeRun {
 public:
  TubeRun(const TubeCircuit& circuit, const TubeOptions& options)
      : c_(circuit), options_(options), parts_(tube_network(circuit)), net_(parts_.network) {
    const double coil_hz = resonance_hz(c_.modes.front().inductance_h, c_.modes.front().capacitance_f);
    slow_hz_ = std::min(resonance_hz(c_.plate_h, c_.tank_f), coil_hz);
    h_ = 1 / (steps_in_period * std::max(resonance_hz(c_.plate_h, c_.tank_f), coil_hz));
    states_ = static_cast<int>(net_.capacitors.size() + net_.inductors.size()) + 3;
    const Width& wide = width_for(states_ + 4);
    rows_ = wide.rows;
    sweep_ = wide.sweep;
    const auto diodes = std::ranges::count_if(net_.switches, &Network::Switch::diode);
    const Width& read = width_for(signals + static_cast<int>(diodes));
    read_rows_ = read.rows;
    read_sweep_ = read.sweep;
    seen_.resize(static_cast<std::size_t>(read_rows_));
    noise_step_ = std::polar(1.0, 2 * std::numbers::pi * c_.noise_hz * h_);
    noise_stride_ = std::pow(noise_step_, look_every);
    columns_ = states_ + 2 + (c_.noise_a > 0 && !c_.direct_v ? 2 : 0);
    x_.resize(static_cast<std::size_t>(columns_));
    next_.resize(static_cast<std::size_t>(rows_));
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
  void look(double weight_s);
  void thyristor(double weight_s);
  void spend(); // of the steps that a run may take
  void run_until(double until_s, const std::atomic<bool>& cancelled);
  void run_periods(int periods, const std::atomic<bool>& cancelled);
  bool stops_and_starts() const;
  void whole_bursts(double least_s, const std::atomic<bool>& cancelled);
  void begin_sums();
  void conclude(TubeResult& out) const;
  double top_v() const;
  double stored_j() const; // behind the supply
  double read(Signal s) const { return seen_.data()[s]; }
  void read_all() { read_sweep_(present_->reads.data(), states_, x_.data(), seen_.data()); }
  Eigen::Map<const VectorXd> state() const { return {x_.data(), states_}; }
  double inductor_a(std::size_t i) const { return x_.data()[net_.capacitors.size() + i]; }

  const TubeCircuit& c_;
  const TubeOptions& options_;
  TubeNetwork parts_;
  Network& net_;
  double h_ = 0, slow_hz_ = 0;
  int states_ = 0, rows_ = 0, columns_ = 0;
  Sweep sweep_ = nullptr;
  int read_rows_ = 0;
  Sweep read_sweep_ = nullptr;
  Aligned seen_;     // signals and diodes as last read
  Aligned x_, next_; // state, then plate and grid amperes, then the noise at the step's two ends
  std::map<std::vector<signed char>, Topology> topologies_;
  Topology* present_ = nullptr;
  double time_s_ = 0;
  double va_ = 0, vg_ = 0; // to the cathode
  TubeCurrents now_{};
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

Topology& TubeRun::topology() {
  std::vector<signed char> key;
  for (const Network::Switch& s : net_.switches) key.push_back(s.on);
  for (const Network::Inductor& l : net_.inductors)
    if (!l.knees.empty()) key.push_back(static_cast<signed char>(l.level));
  const auto [at, is_new] = topologies_.try_emplace(std::move(key));
  if (is_new) build(at->second);
  return at->second;
}

// exp of [A B 0; 0 0 I; 0 0 0] h holds the step for currents that change evenly over it.
void TubeRun::build(Topology& t) const {
  const StateSpace space = state_space(net_, true);
  const auto port = [](Node node) { return static_cast<Index>(node) - 1; };
  const Index n = states_;
  MatrixXd in(n, 3); // by amperes that the tube takes at the plate and the grid, and that noise puts in
  const auto column = [&](Node node) -> VectorXd {
    return node == 0 ? VectorXd::Zero(n) : VectorXd(space.rate_in.col(port(node)));
  };
  in.col(0) = column(parts_.cathode) - column(parts_.plate);
  in.col(1) = column(parts_.cathode) - column(parts_.grid);
  in.col(2) = column(parts_.plate);
  const auto row = [&](Node node) -> RowVectorXd {
    return node == 0 ? RowVectorXd::Zero(n) : RowVectorXd(space.nodes.row(port(node)));
  };
  // The charge into the coil and the grid's volt-seconds are carried along as two more states, so that they are
  // exact.
  const Index m = n + 2;
  MatrixXd all = MatrixXd::Zero(m + 6, m + 6);
  all.topLeftCorner(n, n) = space.rate * h_;
  all.block(n, 0, 1, n) = (row(parts_.rail) - row(parts_.coil)) / rail_ohm * h_;
  all.block(n + 1, 0, 1, n) = (row(parts_.grid) - row(parts_.cathode)) * h_;
  all.block(0, m, n, 3) = in * h_;
  all.block(m, m + 3, 3, 3) = MatrixXd::Identity(3, 3);
  const MatrixXd moved = all.exp();
  if (!moved.allFinite())
    throw std::invalid_argument("the oscillator's parts are too far apart in size to be computed");
  const MatrixXd phi = moved.topLeftCorner(m, m), end = moved.block(0, m + 3, m, 3),
                 begin = moved.block(0, m, m, 3) - end;
  MatrixXd ports(2, n);
  ports.row(0) = row(parts_.plate) - row(parts_.cathode);
  ports.row(1) = row(parts_.grid) - row(parts_.cathode);
  const MatrixXd end_ports = ports * end.topRows(n);
  t.plate_by_plate = end_ports(0, 0), t.plate_by_grid = end_ports(0, 1);
  t.grid_by_plate = end_ports(1, 0), t.grid_by_grid = end_ports(1, 1);
  const auto store = [&](Aligned& to, const MatrixXd& moves) { // state, ports, integrals
    to.resize(static_cast<std::size_t>(rows_) * static_cast<std::size_t>(moves.cols()));
    Eigen::Map<MatrixXd> view(to.data(), rows_, moves.cols());
    view.topRows(n) = moves.topRows(n);
    view.middleRows(n, 2) = ports * moves.topRows(n);
    view.middleRows(n + 2, 2) = moves.bottomRows(2);
  };
  MatrixXd step(m, columns_);
  step.leftCols(n) = phi.leftCols(n);
  step.middleCols(n, 2) = begin.leftCols(2);
  if (columns_ > n + 2) {
    step.col(n + 2) = begin.col(2);
    step.col(n + 3) = end.col(2);
  }
  store(t.step, step);
  MatrixXd several = phi;
  for (int i = 1; i < look_every; ++i) several = several * phi;
  store(t.stride, several.leftCols(n));
  store(t.in_plate, end.col(0));
  store(t.in_grid, end.col(1));
  t.nodes = space.nodes;
  MatrixXd reads = MatrixXd::Zero(read_rows_, n);
  reads.row(rail_v) = row(parts_.rail);
  const auto across = [&](const auto& part) -> RowVectorXd { return row(part.a) - row(part.b); };
  reads.row(leak_v) = across(net_.resistors[parts_.leak]);
  if (parts_.trap) reads.row(trap_v) = across(net_.resistors[*parts_.trap]);
  if (parts_.stopper) reads.row(stopper_v) = across(net_.resistors[*parts_.stopper]);
  if (parts_.arc) reads.row(arc_v) = across(net_.switches[*parts_.arc]);
  reads.row(cathode_v) = row(parts_.cathode);
  if (parts_.line_per_a > 0) {
    const Network::Resistor& r = net_.resistors[parts_.source_resistor];
    reads.row(line_a) = across(r) / r.ohm * parts_.line_per_a;
  }
  Index diode = signals;
  for (const Network::Switch& s : net_.switches)
    if (s.diode) reads.row(diode++) = across(s);
  t.reads.resize(static_cast<std::size_t>(read_rows_) * static_cast<std::size_t>(n));
  Eigen::Map<MatrixXd>(t.reads.data(), read_rows_, n) = reads;
}

double TubeRun::top_v() const {
  double sum = 0;
  for (std::size_t i = 0; i < parts_.mode_caps.size(); ++i)
    sum += c_.modes[i].top_per_v * x_.data()[parts_.mode_caps[i]];
  return sum;
}

double TubeRun::stored_j() const {
  double twice = 0;
  for (std::size_t i = parts_.first_own_capacitor; i < net_.capacitors.size(); ++i)
    twice += net_.capacitors[i].farad * x_.data()[i] * x_.data()[i];
  for (std::size_t i = parts_.plate_coil; i < net_.inductors.size(); ++i)
    twice += net_.inductors[i].henry * inductor_a(i) * inductor_a(i);
  for (const Network::Coupling& m : net_.couplings)
    if (m.first >= parts_.plate_coil) twice += 2 * m.henry * inductor_a(m.first) * inductor_a(m.second);
  return twice / 2;
}

bool TubeRun::fix_switches() {
  constexpr double least_v = 0.5, least_a = 1e-6;
  bool changed = false;
  const double* across = seen_.data() + signals;
  for (Network::Switch& s : net_.switches) {
    if (!s.diode) continue;
    const double volts = *across++;
    const bool on = s.on ? volts / s.on_ohm > -least_a : volts > least_v;
    changed = changed || on != s.on;
    s.on = on;
  }
  return changed;
}

bool TubeRun::fix_cores() {
  bool changed = false;
  for (std::size_t k = 0; k < net_.inductors.size(); ++k) {
    Network::Inductor& item = net_.inductors[k];
    if (item.knees.empty()) continue;
    const double flux = inductor_a(k);
    int level = 0;
    for (const Network::Knee& knee : item.knees)
      if (std::abs(flux) > knee.linear_a) ++level;
    if (flux < 0) level = -level;
    changed = changed || level != item.level;
    item.level = level;
  }
  return changed;
}

void TubeRun::settle() {
  present_ = &topology();
  for (int tries = 0; tries < 8; ++tries) {
    read_all();
    const bool switched = fix_switches(), bent = fix_cores();
    if (!switched && !bent) return;
    present_ = &topology();
  }
}

void TubeRun::read_tube() {
  const auto volts = [&](Node node) {
    return node == 0 ? 0.0 : present_->nodes.row(static_cast<Index>(node) - 1).dot(state());
  };
  const double cathode = volts(parts_.cathode);
  va_ = volts(parts_.plate) - cathode;
  vg_ = volts(parts_.grid) - cathode;
  now_ = tube_currents(c_.law, va_, vg_);
}

// One step: everything linear at once, then the tube's currents at its end by Newton.
void TubeRun::small_step() {
  const Topology& t = *present_;
  double* x = x_.data();
  double* y = next_.data();
  x[states_] = now_.plate_a;
  x[states_ + 1] = now_.grid_a;
  if (columns_ > states_ + 2) {
    x[states_ + 2] = c_.noise_a * noise_.imag();
    noise_ *= noise_step_;
    x[states_ + 3] = c_.noise_a * noise_.imag();
  }
  // Once it swings, noise is nothing.
  const bool heard = columns_ > states_ + 2 && std::abs(last_top_v_) < loud_v;
  sweep_(t.step.data(), heard ? columns_ : states_ + 2, x, y);
  const double plate_0 = y[states_], grid_0 = y[states_ + 1];
  double va = va_, vg = vg_;
  TubeCurrents a = now_;
  for (int round = 0; round < 30; ++round) {
    const double off_a = plate_0 + t.plate_by_plate * a.plate_a + t.plate_by_grid * a.grid_a - va;
    const double off_g = grid_0 + t.grid_by_plate * a.plate_a + t.grid_by_grid * a.grid_a - vg;
    if (std::abs(off_a) + std::abs(off_g) < 1e-6) break;
    const double aa = 1 - t.plate_by_plate * a.plate_by_va;
    const double ag = -(t.plate_by_plate * a.plate_by_vg + t.plate_by_grid * a.grid_by_vg);
    const double ga = -t.grid_by_plate * a.plate_by_va;
    const double gg = 1 - (t.grid_by_plate * a.plate_by_vg + t.grid_by_grid * a.grid_by_vg);
    const double under = aa * gg - ag * ga;
    va += (gg * off_a - ag * off_g) / under;
    vg += (aa * off_g - ga * off_a) / under;
    a = tube_currents(c_.law, va, vg);
  }
  const double* p = t.in_plate.data();
  const double* g = t.in_grid.data();
  if (a.plate_a != 0 || a.grid_a != 0)
    for (int i = 0; i < states_; ++i) x[i] = y[i] + p[i] * a.plate_a + g[i] * a.grid_a;
  else
    std::copy_n(y, states_, x);
  charge_c_ += y[states_ + 2] + p[states_ + 2] * a.plate_a + g[states_ + 2] * a.grid_a;
  const double half = h_ / 2;
  sums_.plate_j += half * (now_.plate_a * va_ + a.plate_a * va);
  sums_.grid_j += half * (now_.grid_a * vg_ + a.grid_a * vg);
  sums_.plate_c += half * (now_.plate_a + a.plate_a);
  sums_.grid_c += half * (now_.grid_a + a.grid_a);
  bin_.plate += half * (now_.plate_a * va_ + a.plate_a * va);
  sums_.grid_vs += y[states_ + 3] + p[states_ + 3] * a.plate_a + g[states_ + 3] * a.grid_a;
  sums_.cathode_peak_a = std::max(sums_.cathode_peak_a, a.plate_a + a.grid_a);
  if (a.plate_a > conducts_a) swing_on_s_ += h_;
  va_ = va;
  vg_ = vg;
  now_ = a;
  time_s_ += h_;
}

// Several steps at once while the tube is cut off at both ends; false when it would not stay so.
bool TubeRun::stride() {
  if (now_.plate_a > 0 || now_.grid_a > 0 || vg_ > 0 || vg_ + c_.law.offset_v + va_ / c_.law.mu > 0) return false;
  const Topology& t = *present_;
  double* y = next_.data();
  sweep_(t.stride.data(), states_, x_.data(), y);
  const double va = y[states_], vg = y[states_ + 1];
  if (vg > 0 || vg + c_.law.offset_v + va / c_.law.mu > 0) return false;
  std::copy_n(y, states_, x_.data());
  noise_ *= noise_stride_;
  charge_c_ += y[states_ + 2];
  sums_.grid_vs += y[states_ + 3];
  va_ = va;
  vg_ = vg;
  time_s_ += look_every * h_;
  return true;
}

void TubeRun::thyristor(double weight_s) {
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

void TubeRun::look(double weight_s) {
  read_all();
  const double rail = read(rail_v), leak = read(leak_v), line = read(line_a);
  const double top = top_v();
  const double plate_coil_a = inductor_a(parts_.plate_coil);
  const double feedback_a = parts_.feedback_coil ? inductor_a(*parts_.feedback_coil) : 0;
  sums_.time_s += weight_s;
  sums_.input_j += (last_rail_v_ + rail) / 2 * charge_c_;
  last_rail_v_ = rail;
  charge_c_ = 0;
  sums_.leak_j += weight_s * leak * leak / net_.resistors[parts_.leak].ohm;
  sums_.winding_j +=
      weight_s * (plate_coil_a * plate_coil_a * c_.plate_ohm + feedback_a * feedback_a * c_.feedback_ohm);
  if (parts_.stopper) {
    const double volts = read(stopper_v);
    sums_.winding_j += weight_s * volts * volts / net_.resistors[*parts_.stopper].ohm;
  }
  if (parts_.trap) {
    const double volts = read(trap_v);
    sums_.trap_j += weight_s * volts * volts / net_.resistors[*parts_.trap].ohm;
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
  sums_.cathode_most_v = std::max(sums_.cathode_most_v, read(cathode_v));
  sums_.top.see(time_s_, top);
  sums_.tank.see(time_s_, std::abs(x_.data()[parts_.tank]));
  sums_.plate.see(time_s_, va_);
  sums_.plate_low.see(time_s_, -va_);
  sums_.grid.see(time_s_, vg_);
  sums_.grid_low.see(time_s_, -vg_);
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

void TubeRun::step() {
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
    out_.wave.push_back({time_s_, va_, vg_, now_.plate_a, now_.grid_a, top_v()});
}

void TubeRun::run_until(double until_s, const std::atomic<bool>& cancelled) {
  for (int count = 0; time_s_ < until_s; ++count) {
    if (count % 4096 == 0 && (spend(), cancelled)) return;
    step();
  }
  if (!std::isfinite(x_.data()[0] + va_ + vg_))
    throw std::invalid_argument("the oscillator's numbers run away: a part is far from anything real");
}

void TubeRun::spend() {
  constexpr int most_thousands = 4000; // some seconds
  if (++thousands_ > most_thousands)
    throw std::invalid_argument(
        "tank, resonator and supply are too far apart to be followed: see that the tank is near "
        "the resonator");
}

void TubeRun::begin_sums() {
  sums_ = Sums{};
  sums_stored_j_ = stored_j();
}

void TubeRun::conclude(TubeResult& out) const {
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
void TubeRun::run_periods(int periods, const std::atomic<bool>& cancelled) {
  const std::int64_t last = rises_ + periods;
  const double until_s = time_s_ + 1.5 * periods / slow_hz_;
  for (int count = 0; rises_ < last && time_s_ < until_s; ++count) {
    if (count % 4096 == 0 && (spend(), cancelled)) return;
    step();
  }
}

// Blocks of periods until they no longer differ, or it is clear that nothing swings, or that it stops and starts by
// its own grid leak.
TubeResult TubeRun::direct(const std::atomic<bool>& cancelled) {
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
bool TubeRun::stops_and_starts() const {
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
void TubeRun::whole_bursts(double least_s, const std::atomic<bool>& cancelled) {
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

// Whole cycles; the figures are those of the last one, or of a whole firing period from the start.
TubeResult TubeRun::mains(const std::atomic<bool>& cancelled) {
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
  out_.oscillates = out_.top_peak_v > 0 && out_.plate_most_v > 1.05 * out_.rail_most_v;
  if (parts_.thyristor && !out_.on_s.empty())
    out_.stays_on = net_.switches[*parts_.thyristor].on && time_s_ - out_.on_s.back() > 1.5 * cycle_s;
  out_.steady = true;
  return std::move(out_);
}

} // namespace

TubeResult simulate_tube(const TubeCircuit& circuit, const TubeOptions& options,
                         const std::atomic<bool>& cancelled) {
  if (!options.mains || circuit.direct_v) {
    TubeCircuit still = circuit;
    still.direct_v = crest_supply_v(circuit);
    if (!(still.rise_s > 0)) still.rise_s = 2e-6;
    if (!options.mains) {
      still.staccato.reset();
      return TubeRun(still, options).direct(cancelled);
    }
    return TubeRun(still, options).mains(cancelled);
  }
  return TubeRun(circuit, options).mains(cancelled);
}

std::shared_ptr<const TubeResult> simulate_tube(Kept& kept, const TubeCircuit& circuit, const TubeOptions& options,
                                                const std::atomic<bool>& cancelled) {
  const TubeStep step{circuit, options};
  return kept.get(step, cancelled, [&] { return simulate_tube(circuit, options, cancelled); });
}

std::string tube_csv(const TubeResult& result) {
  std::string out = "time_s,supply_v,top_v,plate_w,grid_leak_v,line_a\r\n";
  for (const TubeSample& s : result.samples)
    out += fmt::format("{:.9g},{:.7g},{:.7g},{:.7g},{:.7g},{:.7g}\r\n", s.time_s, s.rail_v, s.top_v, s.plate_w,
                       s.bias_v, s.line_a);
  return out;
}

} // namespace arc
