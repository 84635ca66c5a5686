// Charging over mains cycles: the feed's blocks as one network referred to the transformer's output, the tank, and
// the gap firing as it would. Exact between events (circuit/network.h). When the gap fires the tank is taken as
// emptied at once: the shot lasts microseconds, charging milliseconds. Limits: unsaturated transformers, constant
// leakage.
#pragma once

#include "design/design.h"

#include <atomic>
#include <string>
#include <vector>

namespace arc {

struct ChargingOptions {
  int cycles = 10;
  double step_s = 20e-6;
};

struct ChargingSample {
  double time_s, mains_v, line_a, tank_v;
};

struct BlockStress {
  std::string title;
  double peak_v;  // across the block's output
  double limit_v; // its rating, 0 when it has none
};

struct ChargingResult {
  std::vector<ChargingSample> samples;
  std::vector<double> break_times_s;
  std::vector<double> break_voltages_v;
  double break_rate_hz = 0;
  double tank_peak_v = 0;
  double input_power_w = 0;  // over whole cycles
  double line_current_a = 0; // RMS
  double power_factor = 0;
  double tank_power_w = 0;   // energy of the breaks
  double breaker_trip_s = 0; // infinite when it holds or there is none
  std::vector<BlockStress> stresses;
};

/// Runs the feed of the design from switching on at a zero of the mains. Figures are of the second half of the
/// cycles, when the start has died away. Throws std::invalid_argument with feed_problem() or when the circuit has
/// no solution.
ChargingResult simulate_charging(const Design& design, const ChargingOptions& options,
                                 const std::atomic<bool>& cancelled);

/// The same circuit as a SPICE deck that measures the same names in batch mode.
std::string charging_netlist(const Design& design, const ChargingOptions& options);

} // namespace arc
