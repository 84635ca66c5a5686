// Piecewise-linear networks as values: resistors, coupled inductors, capacitors, sources, switches and diodes. An
// inductor may saturate: its current is piecewise linear in its flux. How they move: circuit/motion.h.
#pragma once

#include <cmath>
#include <cstddef>
#include <string>
#include <utility>
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
    /// What running leaves on it, by the peak of the winding that feeds it: so many times that.
    double running_peaks = 0;
    bool running_full = false; // or the unloaded volts of the supply's end
  };
  /// Beyond a flux of `linear_a` times the unsaturated inductance, either way, as much more current flows as an
  /// inductor of `henry` in parallel would take.
  struct Knee {
    double linear_a;
    double henry;
  };
  struct Inductor {
    std::string name;
    Node a, b;
    double henry; // unsaturated
    double start_a = 0;
    std::vector<Knee> knees{}; // by rising flux; such an inductor couples with no other
    bool magnetising = false;  // across a winding, not in the path of the current
    int level = 0;             // knees passed, negative for negative flux; set by the motion
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

/// What tells one piece of a piecewise-linear network from another: switches, signs of the constant sources, knees.
std::vector<signed char> topology_key(const Network& network);

/// For runs that look at the end of a step and do not locate the event in it: the state that a diode with so many
/// volts across it, or an inductor with so much flux, should be in. True when it had to change.
inline bool set_diode(Network::Switch& diode, double volts) {
  constexpr double least_v = 0.5, least_a = 1e-6; // no chatter
  const bool on = diode.on ? volts / diode.on_ohm > -least_a : volts > least_v;
  return std::exchange(diode.on, on) != on;
}
inline bool set_level(Network::Inductor& inductor, double flux) {
  int level = 0;
  for (const Network::Knee& knee : inductor.knees)
    if (std::abs(flux) > knee.linear_a) ++level;
  if (flux < 0) level = -level;
  return std::exchange(inductor.level, level) != level;
}

} // namespace arc
