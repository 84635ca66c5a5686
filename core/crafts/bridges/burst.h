// One burst of a half or full bridge: switches put the bus on the primary, a comparator follows the resonator or
// the primary, the reservoir sags. Exact between events, as circuit/network.h is: which switches are on, on which
// straight piece of its characteristic each stands, and whether a streamer has joined make a topology; within it
// x' = A x, advanced by cached matrix exponentials and halved down to each event (docs/methods/bridge.md).
// Limits: straight-line devices, linear output capacitance, diodes without stored charge (booked by formula), no
// stray inductance of the bus, a constant streamer, a reservoir that is not recharged within the burst.
#pragma once

#include "circuit/winding_mode.h"
#include "model/devices.h"
#include "quantity/kept.h"

#include <atomic>
#include <optional>
#include <string>
#include <vector>

namespace arc {

/// Where the comparator listens.
enum class BurstSignal { foot, primary, fixed };

struct BurstCircuit {
  bool full = false;              // two legs; else one, and capacitors
  std::optional<double> split_f;  // of a half bridge: each of two; empty: the primary returns to ground
  std::optional<double> series_f; // in the primary's lead: tank, or a blocking capacitor
  double series_start_v = 0;
  double bus_v = 0, reservoir_f = 0;
  double primary_h = 0, primary_ohm = 0; // with leads
  std::vector<WindingMode> modes;        // one, or three
  BridgeSwitch device;
  BurstSignal signal = BurstSignal::foot;
  bool reversed = false;   // the comparator hears the signal upside down
  double frequency_hz = 0; // of a fixed drive
  double delay_s = 0, lead_s = 0, dead_s = 0;
  double blanking_s = 0;         // after an edge nothing is heard for so long
  double kick_s = 0;             // the first switch is held on so long
  double noise_a = 0;            // in what the comparator hears, as the burst begins
  double on_s = 0, after_s = 0;  // burst, and what follows it
  double hysteresis = 0;         // amperes that the signal must pass zero by
  std::optional<double> limit_a; // over-current
  double limit_delay_s = 0;
  bool limit_skips = false; // cycles; else it ends the burst
  double breakout_v = 0;    // 0: never
  double streamer_f = 0, streamer_ohm = 0;
  bool operator==(const BurstCircuit&) const = default;
};

struct BurstOptions {
  double step_s = 0; // of the output; 0: a hundred and more in a cycle
  bool waveforms = true;
  int most_events = 200000;
  bool operator==(const BurstOptions&) const = default;
};

struct BurstSample {
  double time_s, bus_v, bridge_v, primary_a, foot_a, top_v, series_v, device_w;
};

/// One turn-off of the high switch: current it interrupts (positive: the soft side, the output capacitances carry
/// the voltage over; negative: its diode conducts and the other turns on hard) and the volts that the other then
/// finds.
struct BurstEdge {
  double time_s;
  double off_a;
};

struct BurstResult {
  std::vector<BurstSample> samples;
  std::vector<BurstEdge> edges; // of the first leg's high switch
  double frequency_hz = 0;      // over the last ten cycles, those that follow each other evenly; 0: none
  double counted_from_s = 0;    // a moment before the first of the rises that were counted
  int counted_cycles = 0;
  double mean_hz = 0;        // over the whole burst
  bool locked = false;       // most of the last ten cycles are alike, and the drive's as many
  double cycles = 0;         // of the drive, in the burst
  double primary_peak_a = 0; // within the burst
  double return_peak_a = 0;  // until 20 us after it, when the diodes return what is stored
  double foot_peak_a = 0;
  double top_peak_v = 0, top_peak_s = 0;
  double series_peak_v = 0;
  double bus_least_v = 0, droop_v = 0;
  double bus_j = 0, bus_net_j = 0;                       // drawn until the end of the drive; after what came back
  double primary_j = 0, secondary_j = 0, streamer_j = 0; // lost in the resistances
  double conduction_j = 0, dumped_j = 0;                 // in the switches: channel and diodes; output capacitances
  double stored_j = 0;                                   // left in coils and capacitors, the reservoir not counted
  double balance_j = 0;                                  // drawn, less all of the above: how far the books are out
  double off_j = 0, on_j = 0, recovery_j = 0; // at the edges, by formula: tf, tr, trr (not part of the balance)
  int glitches = 0;                           // of the last ten cycles, uneven ones and crossings too many
  int hard = 0, soft = 0;                     // turn-ons above and below a tenth of the bus
  double turn_off_a = 0;                      // of the middle turn-off, see BurstEdge
  double primary_rms_a = 0;                   // until the end of the drive
  double primary_a2s = 0; // integral of its square over all of the run, what flows after the end too
  double end_s = 0;       // of the drive: burst over, or tripped
  std::optional<double> trip_s, breakout_s, cut_s; // cut: so many events that the rest was left out
  int trips = 0;
  double device_j() const { return conduction_j + dumped_j; }
  double edges_j() const { return off_j + on_j + recovery_j; }
};

/// Hertz at which the loop can ring: poles of series capacitor, primary and resonator with a stiff bus, rising.
/// Without a series capacitor the one with the primary shorted, f0/sqrt(1 - k^2).
std::vector<double> burst_poles_hz(const BurstCircuit& circuit);

/// Runs the burst from t = 0, its start. Throws std::invalid_argument when the circuit makes no sense (no
/// reservoir, no period to resolve, dead time beyond half a period of a fixed drive).
BurstResult simulate_burst(const BurstCircuit& circuit, const BurstOptions& options,
                           const std::atomic<bool>& cancelled);

struct BurstStep {
  using Result = BurstResult;
  static constexpr std::size_t kept = 4;
  BurstCircuit circuit;
  BurstOptions options;
  bool operator==(const BurstStep&) const = default;
};
std::shared_ptr<const BurstResult> simulate_burst(Kept& kept, const BurstCircuit& circuit,
                                                  const BurstOptions& options, const std::atomic<bool>& cancelled);

/// The same without waveforms, for runs of which there are many.
struct BurstFiguresStep : BurstStep {
  static constexpr std::size_t kept = 1200;
  bool operator==(const BurstFiguresStep&) const = default;
};
std::shared_ptr<const BurstResult> burst_figures(Kept& kept, const BurstCircuit& circuit,
                                                 const std::atomic<bool>& cancelled);

/// The circuit as a deck for the SPICE program, that measures the figures of `result` by their names.
std::string burst_netlist(const BurstCircuit& circuit, const BurstResult& result, const std::string& title);

/// Waveforms as CSV (RFC 4180), SI units in the column names.
std::string burst_csv(const BurstResult& result);

} // namespace arc
