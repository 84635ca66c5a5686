// Expectations by key, and the slips that are looked for.
#include "evidence/doubt.h"

#include "evidence/tuning.h"

#include <cmath>
#include <fmt/format.h>

namespace arc {

std::optional<double> expected_value(std::string_view key, const Design& d, const Analysis& a) {
  if (!a.computed) return {};
  if (key == "tank.capacitance_f") return a.tuned_capacitance_f;
  if (key == "tank.unit_capacitance_f")
    return a.tuned_capacitance_f
               ? std::optional(*a.tuned_capacitance_f * d.tank.units_in_series / d.tank.units_in_parallel)
               : std::nullopt;
  constexpr std::string_view measured = "measured ";
  if (!key.starts_with(measured)) return {};
  const MeasurementKind* kind = measurement_kind(key.substr(measured.size()));
  const double about = kind ? kind->about(d, a) : 0;
  return about > 0 ? std::optional(about) : std::nullopt;
}

std::optional<Doubt> doubt_about(std::string_view key, Dimension dimension, double value, const Design& design,
                                 const Analysis& analysis, UnitSystem units) {
  const auto expected = expected_value(key, design, analysis);
  if (!expected || !(*expected > 0) || !(value > 0)) return {};
  constexpr double near = 2.5; // either way of a slip
  for (const double slip : {10.0, 1e3, 1e6})
    for (const double factor : {slip, 1 / slip}) {
      const double off = value / *expected / factor;
      if (off > near || off < 1 / near) continue;
      return Doubt{fmt::format("{:.3g} times what the rest needs, about {}.", value / *expected,
                               format_quantity(*expected, dimension, units, 2)),
                   value / factor};
    }
  return {};
}

} // namespace arc
