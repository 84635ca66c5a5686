// A vacuum-tube oscillator as a circuit: plate coil with its tank, feedback winding, resonator, grid leak, trap,
// supply, and a thyristor in the cathode where there is one. The tube is not part of the network: it draws its
// currents from plate and grid (parts/tube.h). Equations: docs/methods/tube.md.
#pragma once

#include "circuit/network.h"
#include "circuit/winding_mode.h"
#include "model/design.h"
#include "parts/tube.h"

#include <complex>
#include <optional>
#include <string>
#include <vector>

namespace arc {

/// A level-shifted supply as measured at its winding.
struct ShifterSupply {
  double emf_v; // RMS
  double henry, ohm;
  double farad;           // of the shifter's capacitor
  double on_ohm, off_ohm; // of its diodes
  bool operator==(const ShifterSupply&) const = default;
};

/// A thyristor between cathode and ground, with its gate pulses: from `first_s` after the supply's rise from zero,
/// every `period_s`.
struct Staccato {
  double on_ohm, off_ohm;
  double hold_a, off_s; // of its current, averaged over off_s
  double snubber_ohm, snubber_f;
  double gate_s, first_s, period_s;
  bool operator==(const Staccato&) const = default;
};

/// Tuned plate with a feedback winding; one tapped coil; plate coil and resonator joined, fed back by a capacitance
/// between the resonator's hot end and the grid.
enum class TubeWiring { armstrong, hartley, flame };

/// SI units; windings wound the same way have positive mutual inductances. A push-pull pair is an Armstrong circuit
/// whose plate coil and feedback winding are tapped in the middle, for supply and grid leak, with a tube at each
/// end. Its tank is two equal halves whose middle is at the supply's tap too: without that the tubes find a way to
/// swing in step, at megahertz, through their grid to plate capacitance.
struct TubeCircuit {
  TubeWiring wiring = TubeWiring::armstrong;
  bool push_pull = false;
  double plate_halves_k = 0, feedback_halves_k = 0; // coupling of a winding's two halves, in push-pull
  TubeLaw law{}; // of all tubes side by side, as the capacitances are; in push-pull of those on one side
  double grid_cathode_f = 0, grid_plate_f = 0, plate_cathode_f = 0;
  double plate_h = 0, plate_ohm = 0, tank_f = 0; // of a flame coil its own capacitance
  double feedback_h = 0, feedback_ohm = 0;
  double feedback_f = 0;       // of a flame coil, from hot end to grid
  double plate_feedback_h = 0; // mutual; below zero when the feedback's ends are swapped
  std::vector<WindingMode> modes;
  std::vector<double> feedback_mode_h; // mutual of the feedback winding with each mode
  double grid_leak_ohm = 0, grid_leak_f = 0, stopper_ohm = 0;
  double trap_ohm = 0, trap_h = 0; // 0 ohm: none
  double bypass_f = 0;
  ArcLoad arc = ArcLoad::never;
  double breakout_v = 0, streamer_f = 0, streamer_ohm = 0;
  double noise_a = 0, noise_hz = 0;
  std::optional<double> direct_v; // then nothing of the mains counts
  double rise_s = 0;
  std::optional<ShifterSupply> shifter; // stands in for the feed
  std::vector<FeedBlock> feed;
  Site site;
  std::optional<Staccato> staccato;
  bool operator==(const TubeCircuit&) const = default;
};

/// The circuit's network, and where the tube and what is read of it are.
struct TubeNetwork {
  Network network;
  Node rail = 0, coil = 0; // the supply's end, and the plate coil's behind `rail_ohm`
  struct Tube {
    Node plate = 0, grid = 0;
    std::optional<std::size_t> trap, stopper; // resistors
  };
  std::vector<Tube> tubes; // one, or the two of a push-pull pair
  Node cathode = 0;
  std::vector<std::size_t> plate_coils;           // inductors: one, or two halves in series
  std::vector<std::size_t> feedback_coils;        // likewise; none in a flame coil
  std::vector<std::size_t> mode_coils, mode_caps; // inductors, capacitors
  std::vector<std::size_t> tanks;                 // capacitors: one, or two halves in series
  std::size_t first_own_capacitor = 0;            // behind the supply, as all its inductors from the plate coil on
  std::size_t leak = 0;                           // resistor
  std::optional<std::size_t> arc, thyristor;      // switches
  double start_deg = 0;                           // of the mains' sine, at t = 0, where the supply rises from zero
  double line_per_a = 0;                          // amperes of the line for one of the source's in the network
  std::size_t source_resistor = 0;                // whose current that is
};
inline constexpr double rail_ohm = 0.01;

/// The supply alone, up to the node `coil` from which the oscillator draws. Throws std::invalid_argument with what
/// does not make a circuit.
TubeNetwork tube_supply(const TubeCircuit& circuit);
/// Likewise, with the oscillator.
TubeNetwork tube_network(const TubeCircuit& circuit);

/// Empty when the numbers make a circuit; else what is wrong.
std::string circuit_problem(const TubeCircuit& circuit);

/// Peak of the supply's volts without load.
double crest_supply_v(const TubeCircuit& circuit);

/// One way in which the circuit can ring with the tube at rest, no bias.
struct TubeMode {
  double frequency_hz;
  double growth_per_s; // of its amplitude; below zero it dies out
};
struct TubeStart {
  std::vector<TubeMode> modes; // that lie near tank and resonator, fastest growing first
  double margin = 0;           // the tube could be so many times weaker and would still start; below 1 it does not
};
/// Small-signal behaviour on a rail of `rail_v`, grid at the cathode. The poles are the eigenvalues of the network
/// with the tube's slopes; the margin scales both slopes until no mode grows.
TubeStart tube_start(const TubeCircuit& circuit, double rail_v);

/// Steady oscillation on a constant rail by the balance of the first harmonics.
struct TubeBalance {
  double frequency_hz = 0;
  double plate_input_w = 0, plate_dissipation_w = 0, grid_dissipation_w = 0;
  double plate_average_a = 0, grid_average_a = 0, grid_bias_v = 0;
  double cathode_peak_a = 0;
  double plate_swing_v = 0, grid_swing_v = 0; // peak
  double top_peak_v = 0;
  double tank_a = 0, feedback_a = 0; // peak, of plate coil and feedback winding
  double secondary_power_w = 0;      // resonator's loss and arc together
  double conduction_deg = 0;
};
/// Solves plate and grid phasors, bias and frequency so that the tube's first harmonics, by quadrature over a
/// period, are what the network asks. Mostly within 1 % of the full solution in input and 5 % in plate heat for
/// Armstrong (at most 4 and 13 % over 200 random circuits), 8 and 16 % for Hartley, whose grid is far from a sine.
/// The arc counts unless it never does. Empty when nothing grows, and for some 3 % of ordinary circuits, where
/// Newton finds none. Under 5 ms.
std::optional<TubeBalance> tube_balance(const TubeCircuit& circuit, double rail_v);

} // namespace arc
