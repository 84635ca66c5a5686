// Places are independent, so that all processors share them.
#include "workshop/curves.h"

#include "circuit/feed_loads.h"
#include "quantity/csv_rows.h"
#include "quantity/parallel.h"
#include "simulation/strip.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <set>
#include <stdexcept>

namespace arc {
namespace {

constexpr double log_from = 4; // ratio of the ends beyond which places stand evenly in the logarithm

std::vector<double> places(const NumberPlace& of, double low, double high, int count) {
  std::set<double> out;
  const bool by_log = low > 0 && high / low > log_from;
  for (int i = 0; i < count; ++i) {
    const double share = static_cast<double>(i) / (count - 1);
    const double x = by_log ? low * std::pow(high / low, share) : low + share * (high - low);
    out.insert(of.whole ? std::round(x) : i == count - 1 ? high : x);
  }
  if (of.value > low && of.value < high) out.insert(of.value);
  return {out.begin(), out.end()};
}

SweptPoint point_at(const Design& design, const NumberPlace& of, double at, const std::atomic<bool>& cancelled) {
  SweptPoint out;
  out.at = at;
  try {
    const ComputedDesign now = compute(with_number(design, of, at), Computing::simulation, cancelled);
    if (const std::string why = not_computed(now.design, now.analysis, now.power); !why.empty()) {
      out.problem = why;
      return out;
    }
    if (now.analysis.best_mode_1_hz > 0) out.frequency_hz = now.analysis.best_mode_1_hz;
    out.input_w = now.power.drive.input_w;
    out.top_peak_v = now.power.drive.top_peak_v;
    if (const FeedLoads* loads = now.power.part->feed(); loads && loads->line_current_a > 0)
      out.line_current_a = loads->line_current_a;
    if (now.power.arc) {
      out.arc_low_m = now.power.arc->breaks_out ? now.power.arc->length_m.low : 0;
      out.arc_high_m = now.power.arc->breaks_out ? now.power.arc->length_m.high : 0;
    }
    if (const auto loads = part_loads(now.view(), UnitSystem::metric); !loads.empty()) {
      out.weakest = loads.front().part;
      out.weakest_used = loads.front().used;
    }
    for (const Finding& finding : all_findings(now.analysis, &now.power))
      out.stops += finding.severity == Severity::stop;
  } catch (const std::invalid_argument& error) {
    out.problem = error.what();
  }
  return out;
}

} // namespace

SweptRange usual_range(const NumberPlace& place) {
  if (place.value <= 0) return {place.minimum, std::min(place.maximum, std::max(1.0, place.minimum + 1))};
  SweptRange out{std::max(place.minimum, place.value / 2), std::min(place.maximum, place.value * 2)};
  if (!place.whole) return out;
  out.low = std::max(place.minimum, std::min(std::round(out.low), place.value - 1));
  out.high = std::min(place.maximum, std::max(std::round(out.high), place.value + 1));
  return out;
}

std::span<const CurveColumn> curve_columns() {
  using enum Dimension;
  static const std::array<CurveColumn, 7> all{
      {{"arc_low_m", "Arc, at least", length, &SweptPoint::arc_low_m},
       {"arc_high_m", "Arc, at most", length, &SweptPoint::arc_high_m},
       {"input_w", "Power", power, &SweptPoint::input_w},
       {"line_current_a", "Line current", current, &SweptPoint::line_current_a},
       {"top_peak_v", "Top, peak", voltage, &SweptPoint::top_peak_v},
       {"frequency_hz", "Resonance", frequency, &SweptPoint::frequency_hz},
       {"weakest_used", "Weakest part, share of its rating", number, &SweptPoint::weakest_used}}};
  return all;
}

Curves curves(const Design& design, std::string_view number, double low, double high, int count,
              const std::atomic<bool>& cancelled, const std::function<void(double)>& progress) {
  Curves out{number_at(design, number), {}};
  if (!(low < high)) throw std::invalid_argument("a sweep goes from a smaller number to a larger one");
  if (low < out.of.minimum || high > out.of.maximum)
    throw std::invalid_argument(
        fmt::format("{} can be {} to {}", out.of.title,
                    format_quantity(out.of.minimum, out.of.dimension, UnitSystem::metric, 4),
                    format_quantity(out.of.maximum, out.of.dimension, UnitSystem::metric, 4)));
  if (count < 2 || count > most_curve_points)
    throw std::invalid_argument(fmt::format("a sweep has 2 to {} places", most_curve_points));
  const std::vector<double> at = places(out.of, low, high, count);
  std::vector<std::optional<SweptPoint>> points(at.size());
  Tally tally;
  parallel_for(at.size(), [&](std::size_t i) {
    if (cancelled) return;
    SweptPoint point = point_at(design, out.of, at[i], cancelled);
    if (cancelled) return;
    points[i] = std::move(point);
    tally.add([&](int done) {
      if (progress) progress(static_cast<double>(done) / static_cast<double>(at.size()));
    });
  });
  for (auto& point : points)
    if (point) out.points.push_back(std::move(*point));
  return out;
}

std::string curves_csv(const Curves& curves) {
  std::string out = csv_cell(curves.of.path);
  for (const CurveColumn& column : curve_columns()) out += fmt::format(",{}", column.key);
  out += ",weakest,stops,problem\n";
  for (const SweptPoint& point : curves.points) {
    out += fmt::format("{:.9g}", point.at);
    for (const CurveColumn& column : curve_columns()) {
      out += ',';
      if (const auto value = point.*column.value) out += fmt::format("{:.9g}", *value);
    }
    out += fmt::format(",{},{},{}\n", csv_cell(point.weakest), point.stops, csv_cell(point.problem));
  }
  return out;
}

} // namespace arc
