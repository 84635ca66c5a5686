// The single-transistor exciter, solved in time. The secondary's foot drives the base; the collector drives the
// primary; nothing is tuned. Equations: docs/methods/exciter.md. The transistor's law is in parts/transistor.h; the
// circuit is non-linear and stiff, so it is integrated by a linearly implicit method of order four with step
// control (Rosenbrock; Boost.Odeint) on derivatives that are exact (automatic differentiation). Limits: one lumped
// circuit for the resonator, a stiff supply, junctions at 27 C, gain that does not fall with current, no collector
// breakdown. At high quality or gain the state may depend on how it was started: then both states are reported.
#pragma once

#include "parts/transistor.h"
#include "quantity/kept.h"

#include <atomic>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace arc {

/// SI units; see the picture in docs/methods/exciter.md.
struct ExciterCircuit {
  double supply_v = 12;
  std::optional<double> supply_limit_a;
  double bias_ohm = 27e3;
  double primary_h = 0, primary_ohm = 0;
  double mutual_h = 0; // negative: the primary is connected the wrong way round
  double secondary_h = 0, secondary_f = 0, secondary_ohm = 0;
  Transistor transistor;
  std::optional<ClampDiode> clamp;
  double base_stray_f = 0, collector_stray_f = 0;
  bool operator==(const ExciterCircuit&) const = default;
};

/// Why this circuit cannot be computed; empty when it can.
std::string circuit_problem(const ExciterCircuit& circuit);

struct OscillationSample {
  double time_s, collector_v, collector_a, base_v, top_v, foot_a;
};

struct OscillationResult {
  bool oscillates = false;
  bool steady = false;     // the same from cycle to cycle within 0.2 %
  double frequency_hz = 0; // 0 when it does not oscillate
  double natural_hz = 0;   // of the resonator by itself
  double pull() const { return natural_hz > 0 ? frequency_hz / natural_hz - 1 : 0; } // by what drives it, a share
  double supply_v = 0;  // what the supply gives, its limit applied
  bool limited = false; // the supply's limit holds it there
  double collector_average_a = 0, collector_peak_a = 0, collector_peak_v = 0;
  double base_least_v = 0, base_peak_v = 0; // least is negative: what the clamp leaves
  double top_peak_v = 0, foot_peak_a = 0;
  double top_low_v = 0, top_high_v = 0; // smallest and largest peak from cycle to cycle
  double supply_w = 0;
  double dissipation_w = 0; // in the transistor
  double clamp_w = 0, bias_w = 0, primary_w = 0, secondary_w = 0;
  double start_s = 0;                     // until half of the final swing
  std::vector<OscillationSample> samples; // of the last cycles, evenly spaced
  /// Top voltage that it settles at when it is started harder instead; only where that differs by more than 2 %
  /// (10 % where it swells and fades).
  std::optional<double> other_top_v;
};

struct OscillationOptions {
  double start_top_v = 0;   // it starts ringing at this top voltage instead of at rest
  bool both_states = false; // tries harder starts too: three times the time
  int most_cycles = 900;
  bool coarse = false; // ten times the error of a step: half the time, figures within 1 %
  bool operator==(const OscillationOptions&) const = default;
};

/// Runs until the swing stays the same, at the most `most_cycles`. Averages are over whole
/// cycles, of the second half of the run when it swells and fades. Stops early when
/// `cancelled` becomes true. Throws std::invalid_argument when circuit_problem() has something to say or the
/// numbers lie too far apart to be integrated.
OscillationResult simulate_oscillation(const ExciterCircuit& circuit, const OscillationOptions& options,
                                       const std::atomic<bool>& cancelled);

/// The run as a step that can be kept.
struct OscillationStep {
  using Result = OscillationResult;
  static constexpr std::size_t kept = 96;
  ExciterCircuit circuit;
  OscillationOptions options;
  bool operator==(const OscillationStep&) const = default;
};
std::shared_ptr<const OscillationResult> simulate_oscillation(Kept& kept, const ExciterCircuit& circuit,
                                                              const OscillationOptions& options,
                                                              const std::atomic<bool>& cancelled);

/// The same circuit as a SPICE deck that measures frequency_hz, collector_average_a, collector_peak_a,
/// dissipation_w and top_peak_v in batch mode, over whole cycles of `result`.
std::string oscillation_netlist(const ExciterCircuit& circuit, const OscillationResult& result,
                                const std::string& title);

/// Waveforms as CSV (RFC 4180), SI units in the column names.
std::string oscillation_csv(const OscillationResult& result);

} // namespace arc
