// The rule of power, shortened by what does not cross; none without breakout.
#include "simulation/forecast.h"

#include "quantity/say.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace arc {

ArcForecast forecast_arc(const ArcBasis& b, const Design& design, const Analysis& analysis, UnitSystem units) {
  const Say say{units};
  ArcForecast out;
  out.power_w = b.power_w;
  out.top_v = b.top_v;
  out.breakout_v =
      design.equivalent.breakout_voltage_v.value_or(analysis.breakout ? analysis.breakout->voltage_v : 0);
  // Computed breakout and top volts scatter by a tenth each: within that it may.
  constexpr double scatter = 0.14;
  const bool surely = b.joined || b.top_v >= out.breakout_v;
  out.breaks_out = b.power_w > 0 && (b.joined || (out.breakout_v > 0 && b.top_v >= (1 - scatter) * out.breakout_v));
  if (!out.breaks_out) {
    out.reason = !(b.power_w > 0) ? "Nothing is delivered."
                 : out.breakout_v > 0
                     ? fmt::format("The top reaches {} of the {} at which it breaks out.",
                                   say(b.top_v, Dimension::voltage), say(out.breakout_v, Dimension::voltage))
                     : "No arc joined in the simulation, and the breakout voltage is not known.";
    return out;
  }
  const double useful_w = b.power_w * std::clamp(b.transferred / b.usual_share, 0.0, 1.0),
               root = std::sqrt(useful_w);
  out.length_m = {surely ? b.m_per_root_w.low * root : 0, b.m_per_root_w.high * root};
  out.reason = fmt::format("By the rule of power from {}, of which {:.0f} % reach resonator and arc.",
                           say(b.power_w, Dimension::power), 100 * b.transferred);
  if (!surely)
    out.reason += fmt::format(" It may not break out: {} of {}, within what both scatter by.",
                              say(out.top_v, Dimension::voltage), say(out.breakout_v, Dimension::voltage));
  return out;
}

std::optional<Finding> nothing_breaks_out(const ArcForecast& f, const Design& design, UnitSystem units) {
  if (f.breaks_out || !(f.power_w > 0) || !(f.top_v > 0) || f.top_v >= f.breakout_v) return {};
  const Say say{units};
  Finding out{.id = "nothing-breaks-out",
              .severity = Severity::warning,
              .stage = "resonator",
              .field = "breakout.point_length_m",
              .title = fmt::format("Nothing breaks out: the top reaches {} of {}", say(f.top_v, Dimension::voltage),
                                   say(f.breakout_v, Dimension::voltage)),
              .text = "No arc is forecast. Distances to people and walls do not go by that.",
              .remedy = "More power or better tune, a smaller topload, or a breakout point",
              .value = f.top_v,
              .limit = f.breakout_v,
              .dimension = Dimension::voltage};
  if (!design.topload.empty() && !design.breakout.point_length_m) {
    static constexpr double length_m = 0.05, tip_m = 0.5e-3; // a common pin
    out.remedy =
        fmt::format("A breakout point of {}, or more power, better tune, a smaller topload", say.length(length_m));
    out.apply = [](Design& x) {
      x.breakout.point_length_m = length_m;
      x.breakout.point_tip_radius_m = tip_m;
    };
  }
  return out;
}

} // namespace arc
