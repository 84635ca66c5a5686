// Piecewise-linear networks, advanced exactly. Between events (a switch or diode changes state) a network of
// resistors, coupled inductors, capacitors and sources is linear and time-invariant: x' = A x + B u. With the
// sources (constant and one sine) carried as extra states, a step is one matrix exponential, exact to rounding
// whatever its length. Events are located inside a step by exact steps of a half, a quarter, an eighth ... down to
// 2^-24 of it. Limits: no loop of capacitors and voltage sources alone, no cut set of inductors alone (a small
// resistance avoids both); one source frequency.
#pragma once

#include <Eigen/Dense>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <map>
#include <string>
#include <vector>

namespace arc {

/// Node 0 is ground.
using Node = std::size_t;

struct Network {
  struct Resistor {
    Node a, b;
    double ohm;
  };
  struct Capacitor {
    std::string name;
    Node a, b;
    double farad;
    double start_v = 0;
  };
  struct Inductor {
    std::string name;
    Node a, b;
    double henry;
    double start_a = 0;
  };
  struct Coupling {
    std::size_t first, second; // inductors
    double henry;              // mutual inductance
  };
  struct Source { // voltage a over b: dc + amplitude sin(2 pi f t)
    Node a, b;
    double dc_v;
    double amplitude_v;
  };
  /// A resistor with two values. A diode sets itself; a switch is set from outside.
  struct Switch {
    std::string name;
    Node a, b; // a diode conducts from a to b
    double on_ohm, off_ohm;
    bool diode;
    bool on = false;
  };

  Node nodes = 1; // with ground
  double source_hz = 50;
  std::vector<Resistor> resistors;
  std::vector<Capacitor> capacitors;
  std::vector<Inductor> inductors;
  std::vector<Coupling> couplings;
  std::vector<Source> sources;
  std::vector<Switch> switches;

  Node add_node() { return nodes++; }
};

/// A network in motion, in steps of `step_s`. Throws std::invalid_argument when a topology has no solution.
class Motion {
 public:
  Motion(Network network, double step_s);

  double time_s() const { return static_cast<double>(ticks_) * tick_s_; }
  double capacitor_v(std::size_t index) const { return state_(static_cast<Eigen::Index>(index)); }
  double inductor_a(std::size_t index) const;
  double node_v(Node node) const;
  /// All node voltages at once, ground first.
  const Eigen::VectorXd& node_voltages();
  /// Amperes of a switch or diode with `across_v` over it, in its present state.
  double switch_a(std::size_t index, double across_v) const {
    const Network::Switch& s = network_.switches[index];
    return across_v / (s.on ? s.on_ohm : s.off_ohm);
  }
  /// Reverses a source, or switches it off; in one run a source only ever has one magnitude.
  void set_source_dc(std::size_t index, double volts);
  void set_switch(std::size_t index, bool on);

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
  /// Above 1 when a diode must change, with its index.
  double diode_violation(std::size_t* which) const;
  void settle_diodes();

  Network network_;
  double step_s_;
  double tick_s_;
  std::int64_t ticks_ = 0;
  Eigen::VectorXd state_;
  std::map<std::vector<bool>, Topology> topologies_;
  Topology* present_ = nullptr;
  Eigen::VectorXd voltages_;
};

} // namespace arc
