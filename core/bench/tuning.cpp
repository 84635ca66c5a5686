// Measurements against the model.
#include "bench/tuning.h"

#include "parts/bank.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>

namespace arc {

std::span<const MeasurementKind> measurement_kinds() {
  static constexpr std::array<MeasurementKind, 3> kinds{{{"coil-with-topload", "Coil with its topload", false},
                                                         {"coil-bare", "Coil without topload", false},
                                                         {"tank", "Tank at a clip", true}}};
  return kinds;
}

double implied_lead_inductance_h(const Design& design, double tap_turns, double frequency_hz) {
  const double loop = resonating_capacitance_f(tank_capacitance_f(design.tank), frequency_hz); // L and C swap roles
  return loop - primary_inductance_at_h(design.primary, tap_turns);
}

namespace {

std::optional<double> computed(const Design& design, const Analysis& analysis, const Measurement& m) {
  if (m.kind == "tank")
    return resonance_hz(primary_inductance_at_h(design.primary, m.tap_turns) + design.primary.lead_inductance_h,
                        tank_capacitance_f(design.tank));
  if (!analysis.resonator) return std::nullopt;
  if (m.kind == "coil-with-topload") return analysis.resonator->mode_1_hz;
  Design bare = design;
  bare.topload.clear();
  return field_resonator(bare, {48, 8}).mode_1_hz;
}

std::string meaning(const Design& design, const Analysis& analysis, const Measurement& m, double off,
                    UnitSystem units) {
  const auto print = [&](double si, Dimension d) { return format_quantity(si, d, units, 3); };
  if (m.kind == "tank") {
    const double leads = implied_lead_inductance_h(design, m.tap_turns, m.frequency_hz);
    if (leads >= 0) return fmt::format("leads and gap add {}", print(leads, Dimension::inductance));
    const double actual = resonating_capacitance_f(
        primary_inductance_at_h(design.primary, m.tap_turns) + design.primary.lead_inductance_h, m.frequency_hz);
    return fmt::format("the capacitance is nearer {}", print(actual, Dimension::capacitance));
  }
  const double capacitance = resonating_capacitance_f(
      analysis.resonator ? analysis.resonator->effective_inductance_h : analysis.secondary_inductance_h,
      m.frequency_hz);
  if (m.kind == "coil-with-topload") {
    const auto band = analysis.band.find("mode_1_hz");
    const bool inside =
        band != analysis.band.end() && std::abs(off / 100 * analysis.resonator->mode_1_hz) <= band->second;
    return fmt::format("{}; effective capacitance {}", inside ? "inside the band" : "outside of the band",
                       print(capacitance, Dimension::capacitance));
  }
  return std::abs(off) < 2 ? "the winding is as entered" : "check the turn count and the winding length";
}

} // namespace

MeasurementReport report_measurement(const Design& design, const Analysis& analysis, const Measurement& measurement,
                                     UnitSystem units) {
  MeasurementReport out;
  out.measured_hz = measurement.frequency_hz;
  try {
    out.computed_hz = computed(design, analysis, measurement);
  } catch (const std::invalid_argument& refusal) {
    out.meaning = refusal.what();
  }
  if (!out.computed_hz) return out;
  out.offset_percent = (measurement.frequency_hz / *out.computed_hz - 1) * 100;
  out.meaning = meaning(design, analysis, measurement, out.offset_percent, units);
  return out;
}

std::vector<TapRow> tap_table(const Analysis& analysis) {
  std::vector<TapRow> out;
  for (const TapPoint& point : analysis.tap_curve) {
    if (std::abs(point.turns * 2 - std::round(point.turns * 2)) > 1e-9) continue;
    out.push_back({point.turns, point.inductance_h, point.tank_hz,
                   analysis.target_hz > 0 ? (point.tank_hz / analysis.target_hz - 1) * 100 : 0});
  }
  return out;
}

} // namespace arc
