// Charging over mains cycles: the feed's blocks as one network referred to the source's output, the tank, and the
// gap firing as it would. Exact between events (circuit/network.h). When the gap fires the tank is taken as emptied
// at once: the shot lasts microseconds, charging milliseconds. Limits: those of circuit/feed_network.h. The work is
// bounded: a gap that fires again and again without end is refused with a message.
#pragma once

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

/// What one joint of the feed carries; amperes flow toward the tank. RMS over the later half of the cycles.
struct JointLoad {
  std::string title;
  bool mains = false;
  double rms_v = 0, peak_v = 0;
  double rms_a = 0, peak_a = 0;
  double limit_v = 0, limit_a = 0; // peak volts and RMS amperes, 0 when there is none
  double insulation_v =
      0; // of a winding that floats: the larger peak of its two ends against the tank's other rail
  /// Share of the nearer limit; 0 when there is none.
  double used() const;
};

struct DiodeLoad {
  std::string title;
  std::size_t block = 0; // of the feed, to which it belongs
  double inverse_v = 0, average_a = 0;
  double limit_v = 0, limit_a = 0;
  double used() const;
};

struct SafetyGapLoad {
  std::string title;
  double firing_v = 0;
  int firings = 0; // in the later half
};

struct ChargingResult {
  std::vector<ChargingSample> samples;
  std::vector<double> break_times_s;
  std::vector<double> break_voltages_v;
  double break_rate_hz = 0;
  double break_voltage_v = 0; // mean size over the later half
  double tank_peak_v = 0;
  double input_power_w = 0;  // over whole cycles; while the feed gives back to the line, what it uses up
  double line_current_a = 0; // RMS
  double power_factor = 0;
  double reactive_va = 0;        // of the fundamental; positive when the current lags, negative when it leads
  double tank_power_w = 0;       // energy of the breaks
  double breaker_trip_s = 0;     // infinite when it holds or there is none
  double breaker_used = 0;       // line current over the rating; 0 without a breaker
  std::vector<JointLoad> joints; // one for each block, then the tank
  std::vector<DiodeLoad> diodes;
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
