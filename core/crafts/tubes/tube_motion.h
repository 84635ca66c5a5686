// The run of an oscillator as a motion in time: what it holds, and what one of its steps needs. Its members are
// defined in tube_step.h (steps) and tube_run.cpp (sums and runs).
#pragma once

#include "circuit/motion.h"
#include "circuit/sweep.h"
#include "circuit/waves.h"
#include "crafts/tubes/tube_run.h"
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

namespace arc::tube_motion {

using namespace lanes;

inline constexpr int steps_in_period = 120; // of the faster of tank and resonator
inline constexpr int look_every =
    4; // steps between looks at diodes and at what is summed; one while the tube is cut off
inline constexpr double conducts_a = 0.01;
inline constexpr double loud_v = 100; // at the top, beside which noise at the plate is nothing
inline constexpr int most_tubes = 2;  // on their own: those side by side are one

using Eigen::Index;
using Eigen::MatrixXd;
using Eigen::RowVectorXd;
using Eigen::VectorXd;

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
inline constexpr int signals_of(int tubes) {
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
  void build_reads(Topology& t, const StateSpace& space) const;
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
  void book_heat(double weight_s, double leak);
  void book_arc(double weight_s, double top);
  void see_peaks(double top);
  void count_period(double top, double rail);
  void fill_bin(double weight_s, double top);
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

} // namespace arc::tube_motion
