// Measurements against the model.
#include "evidence/tuning.h"

#include "circuit/feed.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "parts/bank.h"
#include "parts/wire.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {

namespace {

constexpr MeasuredNumber read_frequency{
    "frequency_hz", "Frequency", Dimension::frequency, 100, 1e9, &Measurement::frequency_hz, 1e3};
constexpr MeasuredNumber read_inductance{
    "inductance_h", "Inductance", Dimension::inductance, 1e-9, 100, &Measurement::inductance_h, 1e-3};
constexpr MeasuredNumber read_quality{
    "quality_factor", "Quality factor", Dimension::number, 1, 1e5, &Measurement::quality_factor, 0};
constexpr MeasuredNumber read_clip{"tap_turns", "Tap", Dimension::number, 0.05, 200, &Measurement::tap_turns, 0};
constexpr MeasuredNumber read_added{
    "capacitance_f", "Added capacitor", Dimension::capacitance, 1e-14, 1e-8, &Measurement::capacitance_f, 1e-12};

constexpr MeasuredNumber read_resistance{
    "resistance_ohm", "Resistance", Dimension::resistance, 1e-3, 1e6, &Measurement::resistance_ohm, 0};
constexpr MeasuredNumber read_temperature{
    "temperature_c", "Wire at", Dimension::temperature, -30, 120, &Measurement::temperature_c, 0};
constexpr MeasuredNumber read_mass{"mass_kg", "Wire", Dimension::mass, 1e-4, 500, &Measurement::mass_kg, 0.1};
constexpr MeasuredNumber read_current{
    "current_a", "Idle current", Dimension::current, 1e-4, 200, &Measurement::current_a, 0};
constexpr MeasuredNumber read_volts{
    "voltage_v", "Applied", Dimension::voltage, 0.5, 1000, &Measurement::voltage_v, 0};

// The quality factor's estimate is good to about this much, whatever the inputs' tolerances (assumption).
constexpr double quality_estimate_accuracy = 0.25;
// The model of an iron core, from one or two readings (assumption).
constexpr double core_accuracy = 0.2;

double about_mode(const Design&, const Analysis& a) {
  return a.resonator ? a.resonator->mode_1_hz : 0;
}

// The core of the feed's source, of one of its transformers; empty when there is none.
std::optional<CoreData> source_core(const Design& design) {
  for (const FeedBlock& block : design.feed)
    if (is_source(block.kind))
      return block_core(block, design.site.mains_voltage_v, design.site.mains_frequency_hz);
  return {};
}

double expected_idle_a(const Design& design, double volts) {
  const auto core = source_core(design);
  if (!core || !(volts > 0)) return 0;
  return idle_current_a(magnetising_branch(*core), volts, design.site.mains_frequency_hz);
}

std::string printed(double si, Dimension dimension, UnitSystem units) {
  return format_quantity(si, dimension, units, 3);
}

std::string fits_turns(const Design& design, double off, double slack) {
  return std::abs(off) < slack
             ? "the turns are as entered"
             : fmt::format("fits {:.0f} turns; count again", design.secondary.turns * (1 + off / 100));
}

std::string resonance_means(const Design&, const Analysis& analysis, const Measurement& m, double off,
                            UnitSystem units) {
  const double capacitance =
      resonating_capacitance_f(analysis.resonator->effective_inductance_h, m.frequency_hz) - m.capacitance_f;
  const bool inside = std::abs(off / 100 * analysis.resonator->mode_1_hz) <= analysis.band.at("mode_1_hz");
  return fmt::format("{}; effective capacitance {}", inside ? "inside the band" : "outside of the band",
                     printed(capacitance, Dimension::capacitance, units));
}

std::string tank_means(const Design& design, const Analysis&, const Measurement& m, double, UnitSystem units) {
  const double leads = implied_lead_inductance_h(design, m.tap_turns, m.frequency_hz);
  if (leads >= 0) return fmt::format("leads and gap add {}", printed(leads, Dimension::inductance, units));
  const double actual =
      resonating_capacitance_f(tank_loop_inductance_h(design.primary, m.tap_turns), m.frequency_hz);
  return fmt::format("the capacitance is nearer {}", printed(actual, Dimension::capacitance, units));
}

double resistance_at(const Analysis& a, const Design& design, double temperature_c) {
  return wire_resistance_ohm(design.secondary.wire_bare_diameter_m, a.wire_length_m, temperature_c);
}

} // namespace

namespace {

std::span<const MeasurementKind> shared_measurements() {
  using Off = double;
  static const std::array kinds{
      MeasurementKind{
          .key = "coil-with-topload",
          .title = "Coil with its topload",
          .value = read_frequency,
          .accuracy = 0.005,
          .how =
              "Generator at the base, primary open and away; the frequency at which a lamp or probe near the top "
              "peaks.",
          .result = "mode_1_hz",
          .mark = MeasuredMark::coil,
          .expect = [](const Expecting& e,
                       const Measurement&) { return e.as_result("mode_1_hz", e.analysis.resonator->mode_1_hz); },
          .about = about_mode,
          .meaning = resonance_means},
      MeasurementKind{
          .key = "coil-bare",
          .title = "Coil without topload",
          .value = read_frequency,
          .accuracy = 0.005,
          .how = "The same with the topload taken off.",
          .result = "mode_1_hz",
          .mark = MeasuredMark::coil_apart,
          .expect = [](const Expecting& e, const Measurement&) { return e.resonance(true, 0); },
          .about = about_mode,
          .meaning = [](const Design&, const Analysis&, const Measurement&, Off off, UnitSystem) -> std::string {
            return std::abs(off) < 2 ? "the winding is as entered" : "check the turn count and the winding length";
          }},
      MeasurementKind{
          .key = "coil-with-capacitor",
          .title = "Coil with a known capacitor",
          .value = read_frequency,
          .given = read_added,
          .accuracy = 0.005,
          .how =
              "The same with a capacitor of a few picofarads, known from its marking or a meter, from the top to "
              "ground.",
          .result = "mode_1_hz",
          .expect = [](const Expecting& e, const Measurement& m) { return e.resonance(false, m.capacitance_f); },
          .about = about_mode,
          .meaning = resonance_means},
      MeasurementKind{.key = "winding-inductance",
                      .title = "Winding inductance",
                      .value = read_inductance,
                      .accuracy = 0.02,
                      .how = "LCR meter at its lowest test frequency, across the winding, topload off.",
                      .result = "secondary_inductance_h",
                      .expect =
                          [](const Expecting& e, const Measurement&) {
                            return e.as_result("secondary_inductance_h", e.analysis.secondary_inductance_h);
                          },
                      .about = [](const Design&, const Analysis& a) { return a.secondary_inductance_h; },
                      .meaning =
                          [](const Design& d, const Analysis&, const Measurement&, Off off, UnitSystem) {
                            // Inductance goes with the square of the turns.
                            return std::abs(off) < 3 ? fits_turns(d, 0, 1)
                                                     : fits_turns(d, 100 * (std::sqrt(1 + off / 100) - 1), 0);
                          }},
      MeasurementKind{.key = "winding-resistance",
                      .title = "Winding resistance",
                      .value = read_resistance,
                      .given = read_temperature,
                      .accuracy = 0.01,
                      .how = "Ohmmeter across the winding, its own leads taken off the reading; the wire at the "
                             "temperature of the "
                             "room.",
                      .result = "secondary_resistance_ohm",
                      .expect =
                          [](const Expecting& e, const Measurement& m) {
                            return e.as_result("secondary_resistance_ohm",
                                               resistance_at(e.analysis, e.design, m.temperature_c));
                          },
                      .about = [](const Design&, const Analysis& a) { return a.secondary_resistance_ohm; },
                      .meaning = [](const Design& d, const Analysis&, const Measurement&, Off off,
                                    UnitSystem) { return fits_turns(d, off, 2); }},
      MeasurementKind{
          .key = "wire-weight",
          .title = "Weight of the wire",
          .value = read_mass,
          .accuracy = 0.02,
          .how = "The spool weighed before and after winding: what is gone is on the form, enamel included (a few "
                 "percent).",
          .result = "wire_mass_kg",
          .expect = [](const Expecting& e,
                       const Measurement&) { return e.as_result("wire_mass_kg", e.analysis.wire_mass_kg); },
          .about = [](const Design&, const Analysis& a) { return a.wire_mass_kg; },
          .meaning = [](const Design& d, const Analysis&, const Measurement&, Off off,
                        UnitSystem) { return fits_turns(d, off, 4); }},
      MeasurementKind{
          .key = "ring-down",
          .title = "Quality factor by ring-down",
          .value = read_quality,
          .accuracy = 0.1,
          .how = "Excite the coil, cut the drive, count the cycles until the ringing has fallen to 4.3 % (e to the "
                 "minus pi): that count is Q.",
          .expect =
              [](const Expecting& e, const Measurement&) {
                return Expectation{e.analysis.quality_estimate, {}, quality_estimate_accuracy};
              },
          .about = [](const Design&, const Analysis&) { return 0.0; },
          .meaning = [](const Design&, const Analysis&, const Measurement&, Off off, UnitSystem) -> std::string {
            return off < 0 ? "more is lost than wire, ground and form explain; used instead of the estimate"
                           : "used instead of the estimate";
          }},
      MeasurementKind{
          .key = "tank",
          .title = "Tank at a tap",
          .value = read_frequency,
          .given = read_clip,
          .accuracy = 0.005,
          .how = "Gap shorted, secondary taken away or opened; the frequency at which a pick-up loop peaks.",
          .group = "tank",
          .result = "tank_hz",
          .mark = MeasuredMark::tank,
          .expect =
              [](const Expecting& e, const Measurement& m) {
                if (!e.analysis.has_primary || !e.analysis.has_tank) return Expectation{};
                return e.as_result("tank_hz", resonance_hz(tank_loop_inductance_h(e.design.primary, m.tap_turns),
                                                           e.analysis.tank_capacitance_f));
              },
          .about = [](const Design&, const Analysis& a) { return a.tank_hz; },
          .meaning = tank_means},
      MeasurementKind{
          .key = "idle-current",
          .title = "Transformer's idle current",
          .value = read_current,
          .given = read_volts,
          .accuracy = 0.03,
          .how = "One transformer of the feed with its output open and guarded, an ammeter in its mains lead, the "
                 "variac at the volts given. Its output is at full voltage meanwhile.",
          .group = "tank",
          .expect =
              [](const Expecting& e, const Measurement& m) {
                return Expectation{expected_idle_a(e.design, m.voltage_v), {}, core_accuracy};
              },
          .about = [](const Design& d, const Analysis&) { return expected_idle_a(d, d.site.mains_voltage_v); },
          .meaning = [](const Design&, const Analysis&, const Measurement&, Off off, UnitSystem) -> std::string {
            if (std::abs(off) < 15) return "the core is as the feed takes it to be";
            return off > 0 ? "the core saturates earlier, or shorted turns; enter it at the transformer in the feed"
                           : "less than the feed takes it to be; enter it at the transformer there";
          }}};
  return kinds;
}

} // namespace

std::span<const MeasurementKind> measurement_kinds() {
  static const auto all = with_rows_of_kinds(shared_measurements(), &CoilKind::measurements);
  return all;
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

std::optional<double> leads_told_by(const Design& design, const Measurement& measurement) {
  if (measurement_kind(measurement.kind)->mark != MeasuredMark::tank) return {};
  const double leads = implied_lead_inductance_h(design, measurement.tap_turns, measurement.frequency_hz);
  constexpr double told_apart = 0.01; // relative, from those that are entered
  return leads > 0 && leads <= design_field("primary.lead_inductance_h").maximum &&
                 std::abs(leads / lead_inductance_h(design.primary) - 1) > told_apart
             ? std::optional(leads)
             : std::nullopt;
}

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
  if (!(analysis.evidence[index].expected > 0)) {
    out.meaning = "the design says nothing to compare with";
    return out;
  }
  out.computed = analysis.evidence[index].expected;
  out.offset_percent = (out.measured / *out.computed - 1) * 100;
  out.meaning = kind->meaning(design, analysis, measurement, out.offset_percent, units);
  return out;
}

std::vector<TapRow> tap_table(const Analysis& analysis) {
  std::vector<TapRow> out;
  for (const TapPoint& point : analysis.tap_curve) {
    if (std::abs(point.turns * 2 - std::round(point.turns * 2)) > 1e-9) continue;
    out.push_back({point.turns, point.inductance_h, point.tank_hz, analysis.detuning(point.tank_hz) * 100});
  }
  return out;
}

const Measurement* latest_measurement(const Design& design, std::string_view kind) {
  const auto it = std::find_if(design.measurements.rbegin(), design.measurements.rend(),
                               [&](const Measurement& m) { return m.kind == kind; });
  return it == design.measurements.rend() ? nullptr : &*it;
}

} // namespace arc
