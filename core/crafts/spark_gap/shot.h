// The single shot: the charged tank discharges through the gap into the primary, and the energy crosses to the
// resonator and back until the gap quenches. Exact between events (circuit/network.h). The resonator is one lumped
// circuit or its first three modes, each with its own coupling to the primary; the streamer loads the first.
// Source of the modal reduction: docs/methods/simulation.md. Limits: the arc is a constant drop with a resistance;
// streamers are a capacitance behind a resistance (common practice), joined at the first breakout and kept.
#pragma once

#include "circuit/network.h"
#include "circuit/winding_mode.h"
#include "quantity/kept.h"

#include <atomic>
#include <optional>
#include <string>
#include <vector>

namespace arc {

inline constexpr int most_shot_events = 20000; // reversals of the current in the gap, one run
inline constexpr int most_trial_events = 2000; // in runs of which there are many
inline constexpr double trial_step_s = 100e-9; // exact whatever the step; only where those are sampled

struct ShotOptions {
  std::optional<double> tank_voltage_v; // the gap's firing voltage when not given
  bool ideal = false;                   // no gap loss, no winding loss, no breakout, lumped resonator
  bool lumped = false;                  // one circuit instead of the first three modes, losses kept
  int quench_notch = 1;                 // the gap opens at the zero of its current nearest this notch; 0: never
  double duration_s = 500e-6;
  double step_s = 20e-9; // of the output
  int most_events = most_shot_events;
  bool operator==(const ShotOptions&) const = default;
};

/// The circuit's numbers, taken from a design and its analysis.
struct ShotCircuit {
  double tank_f, tank_v;
  double loop_h, loop_ohm; // primary with leads
  double arc_drop_v, arc_ohm;
  std::vector<WindingMode> modes;
  double breakout_v = 0; // 0: never
  double streamer_f = 0, streamer_ohm = 0;
  double beat_s = 0; // time from one full tank to the next: 1 / difference of the two coupled modes
  bool operator==(const ShotCircuit&) const = default;
};

struct ShotSample {
  double time_s, tank_v, primary_a, top_v, base_a, primary_j, secondary_j;
};

struct ShotResult {
  std::vector<ShotSample> samples;
  double top_peak_v = 0;
  double top_peak_s = 0;
  double primary_peak_a = 0;
  double first_notch_s = 0; // least energy in the primary within the first three quarters of a beat, gap burning
  double tank_energy_j = 0;
  double secondary_peak_j = 0; // largest electric energy of the resonator
  std::optional<double> quench_s;
  std::optional<double> breakout_s;
  std::optional<double> cut_s; // so many reversals that the rest was left out
  double gap_loss_j = 0;
  double gap_charge_c = 0;   // that passed the gap, either way
  double left_in_tank_j = 0; // in tank and primary when the gap has opened
  double caught_j = 0;       // in the resonator at that moment; both 0 when the gap never opens
  double base_peak_a = 0;
  double tank_rms_a = 0; // over the shot; scale with the root of duration times break rate
  double tank_slope_v_per_s = 0;
};

/// Runs the shot; stops early, with what is done, when `cancelled` becomes true and after most_shot_events (cut_s
/// then says when).
ShotResult simulate_shot(const ShotCircuit& circuit, const ShotOptions& options,
                         const std::atomic<bool>& cancelled);

/// The shot as a step that can be kept, waveforms and all.
struct ShotStep {
  using Result = ShotResult;
  static constexpr std::size_t kept = 3;
  ShotCircuit circuit;
  ShotOptions options;
  bool operator==(const ShotStep&) const = default;
};
std::shared_ptr<const ShotResult> simulate_shot(Kept& kept, const ShotCircuit& circuit, const ShotOptions& options,
                                                const std::atomic<bool>& cancelled);

/// The same without its waveforms, for runs of which there are many.
struct ShotFiguresStep : ShotStep {
  static constexpr std::size_t kept = 48;
  bool operator==(const ShotFiguresStep&) const = default;
};
std::shared_ptr<const ShotResult> shot_figures(Kept& kept, const ShotCircuit& circuit, const ShotOptions& options,
                                               const std::atomic<bool>& cancelled);

/// Runs of which there are more still: coarse steps, at most most_trial_events, kept without their waveforms.
struct TrialShotStep : ShotStep {
  static constexpr std::size_t kept = 96;
  bool operator==(const TrialShotStep&) const = default;
};
std::shared_ptr<const ShotResult> trial_shot(Kept& kept, const ShotCircuit& circuit, ShotOptions options,
                                             const std::atomic<bool>& cancelled);

/// The same circuit as a SPICE deck that measures top_peak_v, primary_peak_a, first_notch_s and tank_energy_j in
/// batch mode. `quench_s` opens the gap there, as the simulation found it.
std::string shot_netlist(const ShotCircuit& circuit, const ShotOptions& options, std::optional<double> quench_s,
                         const std::string& title);

/// Waveforms as CSV (RFC 4180), SI units in the column names.
std::string shot_csv(const ShotResult& shot);

/// Coupling coefficients at which the energy crosses completely: (b^2 - a^2)/(b^2 + a^2), a and b whole, difference
/// odd, for b - a = 1, largest first (0.600, 0.385, ...; Finkelstein et al., Sov. Phys. Tech. Phys. 11 (1966) 9).
std::vector<double> complete_transfer_couplings();

} // namespace arc
