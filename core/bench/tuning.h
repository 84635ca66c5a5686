// Measured frequencies beside computed ones, and what each tells about the coil.
#pragma once

#include "design/analysis.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct MeasurementKind {
  std::string_view key;
  std::string_view title;
  bool needs_tap;
};
/// What can be measured: coil with topload, coil bare, tank with the clip at a turn.
std::span<const MeasurementKind> measurement_kinds();

struct MeasurementReport {
  double measured_hz = 0;
  std::optional<double> computed_hz; // empty when the geometry cannot be solved
  double offset_percent = 0;         // measured against computed
  std::string meaning;               // what the difference says, with a number
};

/// Compares one measurement with the analysis. A bare coil is solved anew without its topload.
MeasurementReport report_measurement(const Design& design, const Analysis& analysis, const Measurement& measurement,
                                     UnitSystem units);

/// Inductance in henries that the leads must have for the tank to have measured `frequency_hz`; negative values
/// mean that the capacitance or the clip position is off instead.
double implied_lead_inductance_h(const Design& design, double tap_turns, double frequency_hz);

/// Clip table: every half turn with its frequency and its distance from the target in percent.
struct TapRow {
  double turns;
  double inductance_h;
  double tank_hz;
  double off_percent; // 0 when there is no target
};
std::vector<TapRow> tap_table(const Analysis& analysis);

} // namespace arc
