// What a feed carries: volts and amperes at each joint, its diodes, and what it takes from the line. Gathered by
// circuit/feed_meter.h.
#pragma once

#include <cstddef>
#include <limits>
#include <string>
#include <vector>

namespace arc {

/// What one joint of the feed carries; amperes flow away from the wall. RMS over the later part of a run.
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

/// A capacitor that doubles or shifts.
struct CapacitorLoad {
  std::string title;
  std::size_t block = 0;
  double farad = 0;
  double peak_v = 0, least_v = 0; // of its volts, whatever their sign, over the later part of a run
  double rms_a = 0;               // ripple
  double limit_v = 0, limit_a = 0;
  double sag_v() const { return peak_v - least_v; } // within a cycle
};

struct FeedLoads {
  std::vector<JointLoad> joints; // one for each block, then what the feed ends in
  std::vector<DiodeLoad> diodes;
  std::vector<CapacitorLoad> capacitors;
  double input_power_w = 0;  // over whole cycles; while the feed gives back to the line, what it uses up
  double line_current_a = 0; // RMS
  double power_factor = 0;
  double reactive_va = 0;  // of the fundamental; positive when the current lags, negative when it leads
  double breaker_used = 0; // line current over the rating; 0 without a breaker
  double breaker_a() const { return breaker_used > 0 ? line_current_a / breaker_used : 0; } // its rating
  double breaker_trip_s = std::numeric_limits<double>::infinity(); // infinite when it holds or there is none
};

} // namespace arc
