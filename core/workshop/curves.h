// What becomes of the whole coil while one number is swept: arc, power, line current, the part that is nearest to
// its rating, stops. Each place is a simulation from the wall to the arc, by the same rules as any design.
#pragma once

#include "workshop/moved_number.h"

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct SweptPoint {
  double at = 0;                               // the number, SI
  std::optional<double> arc_low_m, arc_high_m; // none of coils that make none; 0 where nothing breaks out
  std::optional<double> input_w, line_current_a, top_peak_v, frequency_hz;
  std::optional<double> weakest_used; // share of its rating
  std::string weakest;                // which part that is
  int stops = 0;
  std::string problem; // why there is nothing; empty otherwise
};

struct Curves {
  NumberPlace of;
  std::vector<SweptPoint> points; // the number rising; with the one of the design as it is, where it is in between
};

inline constexpr int most_curve_points = 200;

/// What a number is usefully swept over: half to twice what it is, within its range; whole numbers by one at least.
struct SweptRange {
  double low = 0, high = 0;
};
SweptRange usual_range(const NumberPlace& place);

/// One column of the curves.
struct CurveColumn {
  std::string_view key;   // in tables for scripts
  std::string_view title; // "Line current"
  Dimension dimension;
  std::optional<double> SweptPoint::*value;
};
std::span<const CurveColumn> curve_columns();

/// `count` places (2 to most_curve_points) from `low` to `high`, evenly in the logarithm where both are above zero
/// and apart by more than a factor of four; whole numbers at whole places. Throws std::invalid_argument for a
/// number that the design has not, and for places outside of its range. When cancelled: those that were ready.
Curves curves(const Design& design, std::string_view number, double low, double high, int count,
              const std::atomic<bool>& cancelled, const std::function<void(double)>& progress = {});

/// A table with one row for each place, SI units: the number, the columns, the weakest part, stops, the problem.
std::string curves_csv(const Curves& curves);

} // namespace arc
