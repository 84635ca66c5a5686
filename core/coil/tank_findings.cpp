// Findings on a tank, whatever the kind that has one.
#include "coil/analysis.h"
#include "coil/finding_rules.h"
#include "coil/say.h"
#include "laws/circuit.h"

#include <cmath>
#include <fmt/format.h>

namespace arc {

std::optional<Finding> tank_off_tune(const Design& d, const Analysis& a, const TuneLimits& limits,
                                     UnitSystem units) {
  if (!(a.target_hz > 0) || !a.tuned_tap_turns || !a.tuned_capacitance_f) return {};
  const double off = a.tank_hz / a.target_hz - 1;
  if (std::abs(off) < limits.warn) return {};
  const Say say{units};
  const double move = *a.tuned_tap_turns - used_turns(d);
  return Finding{"tank-off-tune",
                 std::abs(off) > limits.stop ? Severity::stop : Severity::warning,
                 "primary",
                 "primary.tap_turns",
                 fmt::format("Tank is {:.1f} % {} for the coil", std::abs(off) * 100, off > 0 ? "high" : "low"),
                 fmt::format("{} against {}, {}. At this clip {} would be in tune.",
                             say(a.tank_hz, Dimension::frequency, 4), say(a.target_hz, Dimension::frequency, 4),
                             a.target_source, say(*a.tuned_capacitance_f, Dimension::capacitance)),
                 fmt::format("Move the clip {} {:.2f} turn, to {:.2f}", move > 0 ? "out" : "in", std::abs(move),
                             *a.tuned_tap_turns),
                 off * 100,
                 100 * limits.warn,
                 Dimension::percent,
                 [tap = *a.tuned_tap_turns](Design& e) { e.primary.tap_turns = std::round(tap * 1000) / 1000; }};
}

// Ratio of present to wanted capacitance when the whole primary cannot reach the resonator.
std::optional<Finding> tank_cannot_tune(const Design& d, const Analysis& a, const TuneLimits& limits,
                                        UnitSystem units) {
  if (!(a.target_hz > 0) || a.tuned_tap_turns || a.tap_curve.empty() || !a.tuned_capacitance_f) return {};
  const double off = std::abs(a.tank_hz / a.target_hz - 1);
  if (off < limits.warn) return {};
  const Say say{units};
  const bool too_high = a.tap_curve.back().tank_hz > a.target_hz;
  const double needed = resonating_capacitance_f(a.tap_curve.back().inductance_h, a.target_hz);
  const double ratio = *a.tuned_capacitance_f / a.tank_capacitance_f;
  if (ratio > 100 || ratio < 0.01) return {}; // capacitance_slipped says it better
  return Finding{
      "tank-cannot-tune",
      off >= limits.stop ? Severity::stop : Severity::warning,
      "tank",
      "tank.capacitance_f",
      too_high ? fmt::format("No clip reaches {}", say(a.target_hz, Dimension::frequency, 4))
               : fmt::format("Even the first turn is below {}", say(a.target_hz, Dimension::frequency, 4)),
      too_high ? fmt::format("With all {:.4g} turns the tank is at {}.", d.primary.turns,
                             say(a.tap_curve.back().tank_hz, Dimension::frequency, 4))
               : "The capacitance is too large for this coil.",
      too_high ? fmt::format("Raise the capacitance above {}, or add turns", say(needed, Dimension::capacitance))
               : "Use less capacitance",
      a.tank_hz,
      a.target_hz,
      Dimension::frequency,
      {}};
}

} // namespace arc
