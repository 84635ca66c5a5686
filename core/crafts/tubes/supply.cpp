// What the path from the wall carries while the oscillator runs: its load as a resistor of equal power. The
// oscillator draws in proportion to its rail as far as that is high enough, so that the line's current is right
// within some per cent; what its radio frequency does to the rail stays with the full run.
#include "circuit/feed_run.h"
#include "crafts/tubes/tube.h"

#include <cmath>
#include <numbers>

namespace arc {

FeedLoads simulate_plate_feed(const std::vector<FeedBlock>& blocks, const Site& site, double load_ohm,
                              double bypass_f, const std::atomic<bool>& cancelled) {
  constexpr int steps_in_cycle = 400, settling = 12, counted = 4;
  FeedNetwork feed = feed_network(blocks, site, FeedEnd::plate);
  feed.joints.push_back({"Plate coil", feed.end, 0, 1, feed.into_end, 0, 0});
  Network& n = feed.network;
  // As running leaves it: what rings up where it is switched on at full volts is gone by then.
  const double peak_v = std::numbers::sqrt2 * site.mains_voltage_v * feed.ratio;
  for (Network::Capacitor& cap : n.capacitors) cap.start_v = cap.running_peaks * peak_v;
  n.resistors.push_back({feed.end, 0, load_ohm});
  const Node bypass = n.add_node();
  n.resistors.push_back({feed.end, bypass, 0.5});
  n.capacitors.push_back({"bypass", bypass, 0, bypass_f});
  const double step_s = 1 / site.mains_frequency_hz / steps_in_cycle;
  FeedRun run(feed, site, step_s);
  for (int i = 0; i < (settling + counted) * steps_in_cycle && !cancelled; ++i) {
    if (i == settling * steps_in_cycle) run.begin_books();
    run.advance();
    if (i >= settling * steps_in_cycle) run.gather();
  }
  return run.conclude();
}

} // namespace arc
