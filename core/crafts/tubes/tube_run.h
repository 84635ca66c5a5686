// A tube oscillator in time: start-up and steady state on direct current, whole cycles of a swinging supply, bursts
// by a thyristor. Between changes of switches and diodes the network is linear and is advanced exactly, with the
// tube's two currents straight over each step and solved at its end (an exponential first-order hold, 1/120 of the
// fastest period); while tube and grid are cut off, several steps at once. Powers within 0.3 % of the SPICE
// program. Limits: electrode capacitances constant, no electron transit, no secondary emission from the grid;
// diodes and thyristor change at the end of a step; the arc hangs on the resonator's first mode. Method:
// docs/methods/tube.md.
#pragma once

#include "crafts/tubes/tube_circuit.h"
#include "quantity/kept.h"

#include <atomic>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace arc {

struct TubeOptions {
  bool mains = false;    // whole cycles of the supply; else direct current at its crest
  int cycles = 0;        // of the mains; 0: two, or one firing period
  bool waveforms = true; // beside the figures
  bool operator==(const TubeOptions&) const = default;
};

/// Over one bin of the run: means of the supply, of the plate's heat and of the grid leak's volts, peak of the top.
struct TubeSample {
  double time_s, rail_v, top_v, plate_w, bias_v, line_a;
};
/// Radio frequency at the end of the run (on the mains: about the highest top volts).
struct TubeWave {
  double time_s, plate_v, grid_v, plate_a, grid_a, top_v;
};

struct TubeResult {
  bool oscillates = false;
  bool steady = false;       // direct current: it came to rest
  bool intermittent = false; // it stops and starts by itself, whatever the supply does
  double frequency_hz = 0;
  double plate_input_w = 0, plate_dissipation_w = 0, grid_dissipation_w = 0, leak_w = 0;
  double winding_w = 0, trap_w = 0, secondary_power_w = 0, thyristor_w = 0;
  double arc_w = 0;     // of secondary_power_w
  double stored_w = 0;  // by which what is stored grew
  double balance_w = 0; // input less all of the above: how far the books are out
  double plate_average_a = 0, grid_average_a = 0, grid_bias_v = 0, cathode_peak_a = 0;
  double plate_most_v = 0, plate_least_v = 0, grid_most_v = 0, grid_least_v = 0;
  double top_peak_v = 0, tank_peak_v = 0, tank_rms_a = 0, feedback_rms_a = 0;
  double conduction_deg = 0;        // while it oscillates
  double start_s = 0;               // until nine tenths of the top volts
  std::optional<double> burst_s;    // period of an intermittent oscillation
  std::optional<double> breakout_s; // when the arc joined
  double line_rms_a = 0;            // of the line, or of a measured supply's winding
  double rail_most_v = 0;
  double cathode_most_v = 0, thyristor_peak_a = 0, thyristor_rms_a = 0;
  std::vector<double> on_s, off_s; // when the thyristor came on and went off
  bool stays_on = false;           // it stood through a whole swing of the supply
  double from_s = 0, to_s = 0;     // what the figures are of
  double crest_s = 0;              // of the top volts, in there
  std::vector<TubeSample> samples;
  std::vector<TubeWave> wave;
};

/// Whole cycles of the supply for an oscillator far above the mains (megahertz): what it does at every moment is
/// what full runs on direct current of those volts do, and the supply feels that. Figures are means over two cycles
/// after the supply has settled, peaks and frequency those at its height. Limits: nothing that takes longer than
/// some hundred microseconds (a slow grid leak, the last start and stop of a swing) is followed; no thyristor.
TubeResult simulate_envelope(const TubeCircuit& circuit, const TubeOptions& options,
                             const std::atomic<bool>& cancelled);
/// A flame coil on the mains goes by its envelope. Throws std::invalid_argument with what does not make a circuit,
/// or has no solution.
TubeResult simulate_tube(const TubeCircuit& circuit, const TubeOptions& options,
                         const std::atomic<bool>& cancelled);

struct TubeStep {
  using Result = TubeResult;
  static constexpr std::size_t kept = 40;
  TubeCircuit circuit;
  TubeOptions options;
  bool operator==(const TubeStep&) const = default;
};
std::shared_ptr<const TubeResult> simulate_tube(Kept& kept, const TubeCircuit& circuit, const TubeOptions& options,
                                                const std::atomic<bool>& cancelled);

/// The circuit as a deck that measures the figures of `result` by their names.
std::string tube_netlist(const TubeCircuit& circuit, const TubeOptions& options, const TubeResult& result,
                         const std::string& title);
std::string tube_csv(const TubeResult& result);

} // namespace arc
