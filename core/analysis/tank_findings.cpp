// Findings on a tank, whatever the kind that has one.
#include "analysis/findings.h"
#include "analysis/tank_at_rest.h"
#include "coil/analysis.h"
#include "laws/circuit.h"
#include "parts/bank.h"
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
      .title = off > 2 ? fmt::format("Tank tuned to {:.3g} times its target", 1 + off)
                       : fmt::format("Tank tuned {:.1f} % {}", std::abs(off) * 100, off > 0 ? "high" : "low"),
      .text = fmt::format("{} against {}, {}. {} would tune it at this tap.",
                          say(a.tank_hz, Dimension::frequency, 4), say(a.target_hz, Dimension::frequency, 4),
                          a.target_source, say(*a.tuned_capacitance_f, Dimension::capacitance)),
      .remedy = fmt::format("Move the tap {} {:.2f} turn, to {:.2f}", move > 0 ? "out" : "in", std::abs(move),
                            *a.tuned_tap_turns),
      .value = off * 100,
      .limit = 100 * limits.warn,
      .dimension = Dimension::percent,
      .apply = [tap = *a.tuned_tap_turns](Design& e) { e.primary.tap_turns = std::round(tap * 1000) / 1000; }};
}

std::optional<Finding> tank_cannot_tune(const Design& d, const Analysis& a, const TuneLimits& limits,
                                        UnitSystem units) {
  if (!(a.target_hz > 0) || a.tuned_tap_turns || a.tap_curve.empty() || !a.tuned_capacitance_f) return {};
  const double off = std::abs(a.detuning(a.tank_hz));
  if (off < limits.warn) return {};
  const Say say{units};
  const bool too_high = a.tap_curve.back().tank_hz > a.target_hz;
  const double needed = resonating_capacitance_f(a.tap_curve.back().inductance_h, a.target_hz);
  return Finding{.id = "tank-cannot-tune",
                 .severity = off >= limits.stop ? Severity::stop : Severity::warning,
                 .stage = "tank",
                 .field = "tank.capacitance_f",
                 .title = too_high ? fmt::format("No tap gives {}", say(a.target_hz, Dimension::frequency, 4))
                                   : fmt::format("The first turn alone is below {}",
                                                 say(a.target_hz, Dimension::frequency, 4)),
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

std::optional<Finding> capacitance_slipped(const Design&, const Analysis& a, UnitSystem units) {
  if (!a.tuned_capacitance_f || !(a.tank_capacitance_f > 0)) return {};
  const double ratio = a.tank_capacitance_f / *a.tuned_capacitance_f;
  constexpr double far = 100, near = 5; // so far off it is, so near it would be
  if (ratio < far && ratio > 1 / far) return {};
  const double factor = ratio > 1 ? 1e-3 : 1e3;
  if (ratio * factor > near || ratio * factor < 1 / near) return {};
  if (a.tuned_tap_turns && *a.tuned_tap_turns >= 1) return {};
  const Say say{units};
  return Finding{.id = "capacitance-slipped",
                 .severity = Severity::stop,
                 .stage = "tank",
                 .field = "tank.capacitance_f",
                 .title =
                     fmt::format("Is {} a slip of a thousand?", say(a.tank_capacitance_f, Dimension::capacitance)),
                 .text = fmt::format("This coil wants about {}. Markings mislead: a foreign “470 N” means 470 pF.",
                                     say(*a.tuned_capacitance_f, Dimension::capacitance)),
                 .remedy = fmt::format("Change to {}", say(a.tank_capacitance_f * factor, Dimension::capacitance)),
                 .value = a.tank_capacitance_f,
                 .limit = *a.tuned_capacitance_f,
                 .dimension = Dimension::capacitance,
                 .apply = [factor](Design& e) { scale_tank(e.tank, factor); }};
}

} // namespace arc
