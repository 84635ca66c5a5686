// Measurements against the model.
#include "bench/tuning.h"

#include "parts/bank.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {

namespace {

constexpr MeasuredNumber read_frequency{
    "frequency_hz", "Frequency", Dimension::frequency, 100, 1e9, &Measurement::frequency_hz};
constexpr MeasuredNumber read_inductance{"inductance_h", "Inductance", Dimension::inductance,
                                         1e-9,           100,          &Measurement::inductance_h};
constexpr MeasuredNumber read_quality{
    "quality_factor", "Quality factor", Dimension::number, 1, 1e5, &Measurement::quality_factor};
constexpr MeasuredNumber read_clip{"tap_turns", "Clip", Dimension::number, 0.05, 200, &Measurement::tap_turns};
constexpr MeasuredNumber read_added{
    "capacitance_f", "Added capacitor", Dimension::capacitance, 1e-14, 1e-8, &Measurement::capacitance_f};

} // namespace

std::span<const MeasurementKind> measurement_kinds() {
  static const std::array<MeasurementKind, 6> kinds{
      {{"coil-with-topload",
        "Coil with its topload",
        read_frequency,
        {},
        0.005,
        "Generator at the foot, primary open and away; the frequency at which a lamp or probe near the top peaks."},
       {"coil-bare", "Coil without topload", read_frequency, {}, 0.005, "The same with the topload taken off."},
       {"coil-with-capacitor", "Coil with a known capacitor", read_frequency, read_added, 0.005,
        "The same with a capacitor of a few picofarads, known from its marking or a meter, from the top to "
        "ground."},
       {"winding-inductance",
        "Winding inductance",
        read_inductance,
        {},
        0.02,
        "LCR meter at its lowest test frequency, across the winding, topload off."},
       {"ring-down",
        "Quality factor by ring-down",
        read_quality,
        {},
        0.1,
        "Excite the coil, cut the drive, count the cycles until the ringing has fallen to 4.3 % (e to the minus "
        "pi): "
        "that count is Q."},
       {"tank", "Tank at a clip", read_frequency, read_clip, 0.005,
        "Gap shorted, secondary taken away or opened; the frequency at which a pick-up loop peaks.", "tank"}}};
  return kinds;
}

const MeasurementKind* measurement_kind(std::string_view key) {
  for (const MeasurementKind& kind : measurement_kinds())
    if (kind.key == key) return &kind;
  return nullptr;
}

double implied_lead_inductance_h(const Design& design, double tap_turns, double frequency_hz) {
  const double loop = resonating_capacitance_f(tank_capacitance_f(design.tank), frequency_hz); // L and C swap roles
  return loop - primary_inductance_at_h(design.primary, tap_turns);
}

namespace {

std::string meaning(const Design& design, const Analysis& analysis, const Measurement& m, double off,
                    UnitSystem units) {
  const auto print = [&](double si, Dimension d) { return format_quantity(si, d, units, 3); };
  if (m.kind == "tank") {
    const double leads = implied_lead_inductance_h(design, m.tap_turns, m.frequency_hz);
    if (leads >= 0) return fmt::format("leads and gap add {}", print(leads, Dimension::inductance));
    const double actual =
        resonating_capacitance_f(tank_loop_inductance_h(design.primary, m.tap_turns), m.frequency_hz);
    return fmt::format("the capacitance is nearer {}", print(actual, Dimension::capacitance));
  }
  if (m.kind == "winding-inductance")
    return std::abs(off) < 3
               ? "the turns are as entered"
               : fmt::format("fits {:.0f} turns; count again", design.secondary.turns * std::sqrt(1 + off / 100));
  if (m.kind == "ring-down")
    return off < 0 ? "more is lost than wire, ground and form explain; used instead of the estimate"
                   : "used instead of the estimate";
  if (m.kind == "coil-bare")
    return std::abs(off) < 2 ? "the winding is as entered" : "check the turn count and the winding length";
  const double capacitance =
      resonating_capacitance_f(analysis.resonator->effective_inductance_h, m.frequency_hz) - m.capacitance_f;
  const bool inside = std::abs(off / 100 * analysis.resonator->mode_1_hz) <= analysis.band.at("mode_1_hz");
  return fmt::format("{}; effective capacitance {}", inside ? "inside the band" : "outside of the band",
                     print(capacitance, Dimension::capacitance));
}

} // namespace

MeasurementReport report_measurement(const Design& design, const Analysis& analysis, std::size_t index,
                                     UnitSystem units) {
  const Measurement& measurement = design.measurements.at(index);
  const MeasurementKind* kind = measurement_kind(measurement.kind);
  MeasurementReport out;
  if (!kind) return out;
  out.measured = measurement.*kind->value.member;
  if (index >= analysis.evidence.size()) {
    out.meaning = analysis.problem.empty() ? "no band could be computed to compare with" : analysis.problem;
    return out;
  }
  out.computed = analysis.evidence[index].expected;
  out.offset_percent = (out.measured / *out.computed - 1) * 100;
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
