// Piecewise-linear networks, advanced exactly. Between events (a switch or diode changes state) a network of
// resistors, coupled inductors, capacitors and sources is linear and time-invariant: x' = A x + B u. With the
// sources (constant and one sine) carried as extra states, a step is one matrix exponential, exact to rounding
// whatever its length. Events are located inside a step by exact steps of a half, a quarter, an eighth ... down to
// 2^-24 of it. A saturating inductor's flux stays a state of the linear network. Limits: no loop of capacitors and
// voltage sources alone, no cut set of inductors alone (a small resistance avoids both); one source frequency.
#pragma once

#include "circuit/network.h"

#include <Eigen/Core>
#include <cstdint>
#include <functional>
#include <map>

namespace arc {

/// A network between events: its state is capacitor volts, then inductor amperes, a constant 1, sine and cosine of
/// the source.
struct StateSpace {
  Eigen::MatrixXd rate;     // of the state, by the state
  Eigen::MatrixXd nodes;    // volts of all nodes but ground, by the state
  Eigen::MatrixXd rate_in;  // of the state, by amperes put into each node but ground; empty unless asked for
  Eigen::MatrixXd nodes_in; // likewise
};
/// Throws std::invalid_argument when it has no solution.
StateSpace state_space(const Network& network, bool currents_in = false);

/// A network in motion, in steps of `step_s`. Throws std::invalid_argument when a topology has no solution.
class Motion {
 public:
  Motion(Network network, double step_s);

  double time_s() const { return static_cast<double>(ticks_) * tick_s_; }
  double capacitor_v(std::size_t index) const { return state_(static_cast<Eigen::Index>(index)); }
  /// Of a saturating inductor: the current that its flux would need without saturation.
  double inductor_a(std::size_t index) const;
  double node_v(Node node) const;
  /// All node voltages at once, ground first.
  const Eigen::VectorXd& node_voltages();
  /// Amperes of a switch or diode with `across_v` over it, in its present state.
  double switch_a(std::size_t index, double across_v) const {
    const Network::Switch& s = network_.switches[index];
    return across_v / (s.on ? s.on_ohm : s.off_ohm);
  }
  /// Joules in all capacitors and inductors.
  double stored_j() const;
  /// Reverses a source, or switches it off; in one run a source only ever has one magnitude.
  void set_source_dc(std::size_t index, double volts);
  void set_switch(std::size_t index, bool on);
  /// Of a part that warms; everything that was solved before is solved anew.
  void set_resistance(std::size_t index, double ohm);

  /// Goes on to the end of the present step; diodes change state where they must. `event` (may be empty) is a
  /// function of the motion whose rise through zero ends the step early: then returns true, and the next call goes
  /// on from there.
  bool advance(const std::function<double(const Motion&)>& event = {});

 private:
  static constexpr int levels = 24;
  static constexpr std::int64_t whole = std::int64_t{1} << levels; // ticks of a step
  struct Topology {
    Eigen::MatrixXd nodes; // node voltages from the extended state: capacitors, inductors, constant, sine, cosine
    std::vector<Eigen::MatrixXd> steps; // a whole step, a half, a quarter, ...
  };
  Topology& topology();
  Topology build() const;
  Eigen::VectorXd moved(Eigen::VectorXd state, std::int64_t ticks) const;
  /// What must change its state by itself: a diode, or an inductor that passes a knee.
  struct Violation {
    double size = 0; // above 1 when it must
    std::size_t diode = 0, inductor = 0;
    int step = 0; // of the inductor's level; 0: it is a diode
  };
  Violation violation() const;
  void settle();

  Network network_;
  double step_s_;
  double tick_s_;
  std::int64_t ticks_ = 0;
  Eigen::VectorXd state_;
  std::map<std::vector<signed char>, Topology> topologies_;
  Topology* present_ = nullptr;
  Eigen::VectorXd voltages_;
};

} // namespace arc
