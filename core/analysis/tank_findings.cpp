// Findings on a tank, whatever the kind that has one.
#include "analysis/findings.h"
#include "coil/analysis.h"
#include "laws/circuit.h"
#include "quantity/say.h"

#include <cmath>
#include <fmt/format.h>

namespace arc {

std::optional<Finding> tank_beyond_rating(const Analysis& a, std::string_view which) {
  if (!a.unit_used || *a.unit_used <= 1 || !(a.tank_hz > 0)) return {};
  return Finding{.id = "tank-over-rating",
                 .severity = Severity::stop,
                 .stage = "tank",
                 .field = "tank.unit_voltage_v",
                 .title = fmt::format("The tank is used to {:.0f} % {}", 100 * *a.unit_used, which),
                 .value = *a.unit_used,
                 .limit = 1,
                 .dimension = Dimension::fraction};
}

std::optional<Finding> tank_off_tune(const Design& d, const Analysis& a, const TuneLimits& limits,
                                     UnitSystem units) {
  if (!(a.target_hz > 0) || !a.tuned_tap_turns || !a.tuned_capacitance_f) return {};
  const double off = a.detuning(a.tank_hz);
  if (std::abs(off) < limits.warn) return {};
  const Say say{units};
  const double move = *a.tuned_tap_turns - used_turns(d);
  return Finding{
      .id = "tank-off-tune",
      .severity = std::abs(off) > limits.stop ? Severity::stop : Severity::warning,
      .stage = "primary",
      .field = "primary.tap_turns",
      .title = fmt::format("Tank is {:.1f} % {} for the coil", std::abs(off) * 100, off > 0 ? "high" : "low"),
      .text = fmt::format("{} against {}, {}. At this clip {} would be in tune.",
                          say(a.tank_hz, Dimension::frequency, 4), say(a.target_hz, Dimension::frequency, 4),
                          a.target_source, say(*a.tuned_capacitance_f, Dimension::capacitance)),
      .remedy = fmt::format("Move the clip {} {:.2f} turn, to {:.2f}", move > 0 ? "out" : "in", std::abs(move),
                            *a.tuned_tap_turns),
      .value = off * 100,
      .limit = 100 * limits.warn,
      .dimension = Dimension::percent,
      .apply = [tap = *a.tuned_tap_turns](Design& e) { e.primary.tap_turns = std::round(tap * 1000) / 1000; }};
}

// Ratio of present to wanted capacitance when the whole primary cannot reach the resonator.
std::optional<Finding> tank_cannot_tune(const Design& d, const Analysis& a, const TuneLimits& limits,
                                        UnitSystem units) {
  if (!(a.target_hz > 0) || a.tuned_tap_turns || a.tap_curve.empty() || !a.tuned_capacitance_f) return {};
  const double off = std::abs(a.detuning(a.tank_hz));
  if (off < limits.warn) return {};
  const Say say{units};
  const bool too_high = a.tap_curve.back().tank_hz > a.target_hz;
  const double needed = resonating_capacitance_f(a.tap_curve.back().inductance_h, a.target_hz);
  const double ratio = *a.tuned_capacitance_f / a.tank_capacitance_f;
  if (ratio > 100 || ratio < 0.01) return {}; // capacitance_slipped says it better
  return Finding{
      .id = "tank-cannot-tune",
      .severity = off >= limits.stop ? Severity::stop : Severity::warning,
      .stage = "tank",
      .field = "tank.capacitance_f",
      .title = too_high ? fmt::format("No clip reaches {}", say(a.target_hz, Dimension::frequency, 4))
                        : fmt::format("Even the first turn is below {}", say(a.target_hz, Dimension::frequency, 4)),
      .text = too_high ? fmt::format("With all {:.4g} turns the tank is at {}.", d.primary.turns,
                                     say(a.tap_curve.back().tank_hz, Dimension::frequency, 4))
                       : "The capacitance is too large for this coil.",
      .remedy = too_high ? fmt::format("Raise the capacitance above {}, or add turns",
                                       say(needed, Dimension::capacitance))
                         : "Use less capacitance",
      .value = a.tank_hz,
      .limit = a.target_hz,
      .dimension = Dimension::frequency};
}

} // namespace arc
