// The path from the wall to a bridge's bus: from switching on at the crest of the mains through the inrush, and on
// through bursts until it is settled. Exact between events (circuit/network.h), the bridge as a load that draws
// each burst's energy, with the square of the bus as a bridge does. Limits: those of circuit/feed_network.h; diodes
// without their knee (some half per cent of the bus); a burst's current evenly over its time. Method:
// docs/methods/bridge.md.
#pragma once

#include "circuit/feed.h"
#include "circuit/feed_loads.h"
#include "model/design.h"
#include "quantity/kept.h"

#include <atomic>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace arc {

/// What the bus is, from the feed where there is one, else as the bridge's own numbers say.
struct Bus {
  bool from_feed = false;
  bool doubled = false;
  double volts = 0; // unloaded, or as measured
  Reservoir reservoir;
};
Bus bus_of(const Design& design);

/// What the bridge asks of the bus.
struct MainsLoad {
  double energy_j = 0; // of a burst, less what comes back, from a bus of `at_v`
  double at_v = 0;
  double on_s = 0, rate_hz = 0; // 0: nothing is drawn
  double first_s = 0;           // of a burst, after the mains' rise through zero
  double rms_a = 0, peak_a = 0; // behind the reservoir, the first over all time
  bool operator==(const MainsLoad&) const = default;
};

struct MainsSample {
  double time_s, mains_v, line_a, bus_v;
};

struct MainsResult : FeedLoads { // figures of the later half of the bursts
  std::vector<MainsSample> samples;
  double unloaded_v = 0;
  double crest_v = 0;    // highest of the bus while it is charged
  double inrush_a = 0;   // peak from the line, switched on at the crest
  double surge_2_a = 0;  // as the relay closes
  double inrush_a2s = 0; // what a fuse before the rectifier sees of switching on
  double limiter_j = 0;  // what the limiter takes of it
  double charged_s = 0;  // until 95 % of the unloaded bus; the whole of it where that was not reached
  bool charged = false;  //
  double pull_from_s = 0, pull_to_s = 0; // in which an overshoot is brought down before bursts begin
  double bursts_from_s = 0, counts_from_s = 0, ends_s = 0; // on the run's time axis
  double bus_v = 0, bus_least_v = 0;                       // mean, and least
  double ripple_v = 0;                                     // peak to peak
  double start_v = 0;                                      // mean at the beginning of a burst
  double start_spread_v = 0;                               // by which they differ
  double droop_v = 0;                                      // mean over a burst
  double recovered = 1;     // share of a droop that is back before the next burst, at worst
  double reservoir_a = 0;   // RMS in it
  double limiter_w = 0;     // in a limiter that stays in the line
  double limiter_ohm = 0;   // of it, warm
  double limiter_hot_c = 0; // degrees Celsius of a thermistor in the long run; 0 without
};

inline constexpr double longest_inrush_s = 8;

/// Throws std::invalid_argument with feed_problem(), and when the circuit has no solution.
MainsResult simulate_mains(const std::vector<FeedBlock>& feed, const Site& site, const MainsLoad& load,
                           const std::atomic<bool>& cancelled);

struct MainsStep {
  using Result = MainsResult;
  static constexpr std::size_t kept = 6;
  SharedList<FeedBlock> feed;
  Site site;
  MainsLoad load;
  bool operator==(const MainsStep&) const = default;
};
std::shared_ptr<const MainsResult> simulate_mains(Kept& kept, const Design& design, const MainsLoad& load,
                                                  const std::atomic<bool>& cancelled);

/// The same circuit as a deck for the SPICE program, that measures the figures of `result` by their names. Throws
/// as simulate_mains(), and for a feed with a dimmer.
std::string mains_netlist(const Design& design, const MainsLoad& load, const MainsResult& result);

/// Waveforms as CSV (RFC 4180), SI units in the column names.
std::string mains_csv(const MainsResult& result);

} // namespace arc
