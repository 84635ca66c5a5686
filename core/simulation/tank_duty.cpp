// Findings on a working tank, and its verdict.
#include "simulation/tank_duty.h"

#include "quantity/say.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;
using enum Dimension;

std::string unit_name(const UnitStress& u) {
  return u.name.empty() ? "Each unit" : u.name;
}

} // namespace

// The worst section for one kind of stress.
const UnitStress* worst_unit(const TankDuty& duty, double UnitStress::*member) {
  const auto it = std::ranges::max_element(duty.stress, {}, member);
  return it == duty.stress.end() ? nullptr : &*it;
}

Maybe unit_over_current(const TankDuty& duty, UnitSystem units) {
  const UnitStress* u = worst_unit(duty, &UnitStress::rms_used);
  if (!u || u->rms_used <= 1) return {};
  const Say say{units};
  return Finding{.id = "unit-over-current",
                 .severity = Severity::stop,
                 .stage = "tank",
                 .field = "tank.units_in_parallel",
                 .title = fmt::format("{}: {:.0f} % of its RMS current", unit_name(*u), 100 * u->rms_used),
                 .text = fmt::format("{} at {:.0f} {} a second; it heats and fails in minutes.",
                                     say(u->rms_a, current), duty.rate_hz, duty.what),
                 .remedy =
                     fmt::format("More strings in parallel, fewer {}, or units made for the current", duty.what),
                 .value = 100 * u->rms_used,
                 .limit = 100,
                 .dimension = percent};
}

Maybe unit_too_steep(const TankDuty& duty, UnitSystem units) {
  const UnitStress* u = worst_unit(duty, &UnitStress::slope_used);
  if (!u || u->slope_used <= 1) return {};
  const Say say{units};
  return Finding{.id = "unit-too-steep",
                 .severity = Severity::stop,
                 .stage = "tank",
                 .field = "tank.unit_slope_v_per_s",
                 .title = fmt::format("{}: {:.0f} % of its dV/dt", unit_name(*u), 100 * u->slope_used),
                 .text =
                     fmt::format("{} on each; the contacts of the film burn off.", say(u->slope_v_per_s, slope)),
                 .remedy = "More units in series, or pulse-rated ones",
                 .value = 100 * u->slope_used,
                 .limit = 100,
                 .dimension = percent};
}

Maybe unit_warm(const TankDuty& duty, UnitSystem units) {
  double rise = 0;
  for (const UnitStress& u : duty.stress) rise = std::max(rise, u.rise_after_s(long_run_s));
  if (rise <= largest_capacitor_rise_k) return {};
  const Say say{units};
  return Finding{.id = "unit-warm",
                 .severity = Severity::warning,
                 .stage = "tank",
                 .field = "tank.unit_dissipation_factor",
                 .title = fmt::format("A capacitor warms by {:.0f} K in half an hour", rise),
                 .text = fmt::format("{:.0f} K is the usual limit. In still air; its thermal resistance is "
                                     "estimated from its size unless stated.",
                                     largest_capacitor_rise_k),
                 .remedy = fmt::format(
                     "Run shorter than {}, or use units of lower loss",
                     say(-capacitor_thermal_time_s *
                             std::log(1 - largest_capacitor_rise_k /
                                              (rise / (1 - std::exp(-long_run_s / capacitor_thermal_time_s)))),
                         time, 2)),
                 .value = rise,
                 .limit = largest_capacitor_rise_k,
                 .dimension = number};
}

std::string long_run_verdict(const TankDuty& duty, UnitSystem units) {
  if (duty.stress.empty()) return "No load is known yet.";
  const auto worst = std::ranges::max_element(duty.stress, {}, [](const UnitStress& u) {
    return std::max({u.voltage_used, u.rms_used, u.slope_used});
  });
  std::string out;
  bool within = true;
  double rise = 0;
  bool known = true;
  std::vector<std::string> missing;
  for (const UnitStress& u : duty.stress) {
    within = within && u.within_ratings;
    known = known && u.rise_k.has_value();
    rise = std::max(rise, u.rise_after_s(long_run_s));
    for (const std::string& name : u.missing)
      if (std::ranges::count(missing, name) == 0) missing.push_back(name);
  }
  const double limit = largest_capacitor_rise_k;
  if (!within)
    out = fmt::format(
        "A rating is exceeded: {:.0f} % of its volts, {:.0f} % of its RMS current, {:.0f} % of its dV/dt.",
        100 * worst->voltage_used, 100 * worst->rms_used, 100 * worst->slope_used);
  else if (known && rise > limit)
    out = fmt::format("No rating is exceeded, but a unit warms by {} in 30 min; {:.0f} K is the usual limit.",
                      format_quantity(rise, Dimension::number, units, 2) + " K", limit);
  else if (known)
    out = fmt::format("No stated rating is exceeded; a unit warms by {} K in 30 min of running{}.",
                      format_quantity(rise, Dimension::number, units, 2),
                      std::ranges::any_of(duty.stress, &UnitStress::rise_estimated)
                          ? ", its thermal resistance estimated from its size"
                          : "");
  else
    out = "No stated rating is exceeded; how warm it gets is not known.";
  if (!missing.empty()) {
    out += " Not stated:";
    for (std::size_t i = 0; i < missing.size(); ++i) out += (i ? ", " : " ") + missing[i];
    out += ".";
  }
  return out;
}

} // namespace arc
