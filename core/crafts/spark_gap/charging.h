// Charging over mains cycles: the feed's blocks as one network referred to the source's output, the tank, and the
// gap firing as it would. Exact between events (circuit/network.h). When the gap fires the tank is taken as emptied
// at once: the shot lasts microseconds, charging milliseconds. Limits: those of circuit/feed_network.h. The work is
// bounded: a gap that fires again and again without end is refused with a message.
#pragma once

#include "circuit/feed_loads.h"
#include "model/design.h"
#include "quantity/kept.h"

#include <atomic>
#include <functional>
#include <string>
#include <vector>

namespace arc {

struct ChargingOptions {
  int cycles = 10;
  double step_s = 20e-6;
  bool operator==(const ChargingOptions&) const = default;
};

inline constexpr int most_gap_events = 30000;           // of one run, firing and going out
inline constexpr double most_charging_samples = 400000; // longer runs are sampled more coarsely, and stay exact

struct ChargingSample {
  double time_s, mains_v, line_a, tank_v;
};

struct SafetyGapLoad {
  std::string title;
  double firing_v = 0;
  int firings = 0; // in the later half
};

struct ChargingResult : FeedLoads { // figures of the later half; the last joint is the tank's
  std::vector<ChargingSample> samples;
  std::vector<double> break_times_s;
  std::vector<double> break_voltages_v;
  double break_rate_hz = 0;
  double break_voltage_v = 0; // mean size over the later half
  double tank_peak_v = 0;
  double settled_peak_v = 0; // of the later half
  int idle_cycles = 0;       // of the mains, in the later half, without a break
  double tank_power_w = 0;   // energy of the breaks
  std::vector<SafetyGapLoad> safety_gaps;
};

/// Runs the feed of the design from switching on at a zero of the mains. Figures are of the second half of the
/// cycles, when the start has died away. `progress` is called now and then with the cycles done. Stops early, with
/// what is done, when `cancelled` becomes true. Throws std::invalid_argument with feed_problem(), when the circuit
/// has no solution, and when gaps fire more often than can be followed (most_gap_events).
ChargingResult simulate_charging(const Design& design, const ChargingOptions& options,
                                 const std::atomic<bool>& cancelled, const std::function<void(int)>& progress = {});

/// All that a charging run depends on, as a step that can be kept, waveforms and all: of long runs they are
/// megabytes.
struct ChargingStep {
  using Result = ChargingResult;
  static constexpr std::size_t kept = 3;
  SharedList<FeedBlock> feed;
  Tank tank;
  Gap gap;
  Site site;
  ChargingOptions options;
  bool operator==(const ChargingStep&) const = default;
};
std::shared_ptr<const ChargingResult> simulate_charging(Kept& kept, const Design& design,
                                                        const ChargingOptions& options,
                                                        const std::atomic<bool>& cancelled,
                                                        const std::function<void(int)>& progress = {});

/// The same without waveforms, for runs of which there are many.
struct ChargingFiguresStep : ChargingStep {
  static constexpr std::size_t kept = 64;
  bool operator==(const ChargingFiguresStep&) const = default;
};
std::shared_ptr<const ChargingResult> charging_figures(Kept& kept, const Design& design,
                                                       const ChargingOptions& options,
                                                       const std::atomic<bool>& cancelled);

/// The same circuit as a SPICE deck that measures the same names in batch mode. Throws as simulate_charging(), and
/// for a feed with a dimmer.
std::string charging_netlist(const Design& design, const ChargingOptions& options);

/// Waveforms as CSV (RFC 4180), SI units in the column names.
std::string charging_csv(const ChargingResult& charging);

} // namespace arc
