// What was measured beside what was computed, and what each tells about the coil.
#pragma once

#include "evidence/tolerance.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// One number of a measurement with its plausible range.
struct MeasuredNumber {
  std::string_view key; // in the file
  std::string_view label;
  Dimension dimension;
  double minimum;
  double maximum;
  double Measurement::*member;
  double usual; // a size that a bare number takes its prefix from; 0: the plain unit
};

/// Where a measured frequency stands beside the computed ones: a line across the tuning curve, a point on it.
enum class MeasuredMark { none, coil, coil_apart, tank };

struct MeasurementKind {
  std::string_view key;
  std::string_view title;
  MeasuredNumber value;                     // what the instrument showed
  std::optional<MeasuredNumber> given = {}; // what must be known beside it: the clip, the added capacitor
  double accuracy;                          // relative, of the usual instrument (common practice, no source)
  std::string_view how;                     // how it is done, in a sentence
  std::string_view group = {};              // group of the file that a kind of coil must have for it to be measured
  std::string_view result = {}; // banded result whose inputs it tells of, and that are doubted when it does not
                                // fit; empty: none
  MeasuredMark mark = MeasuredMark::none;
  /// What the model expects; may throw std::invalid_argument where that cannot be computed.
  Expectation (*expect)(const Expecting&, const Measurement&);
  /// A first guess at it, for slips of the keyboard; 0 when there is none.
  double (*about)(const Design&, const Analysis&);
  /// What the difference says; `off` in percent of what is expected.
  std::string (*meaning)(const Design&, const Analysis&, const Measurement&, double off, UnitSystem);
};

/// What can be measured. To add one, add its row: in tuning.cpp, or in the folder of the craft that alone has it.
std::span<const MeasurementKind> measurement_kinds();
/// nullptr when the kind is not known.
const MeasurementKind* measurement_kind(std::string_view key);

struct MeasurementReport {
  double measured = 0;            // in the kind's own dimension
  std::optional<double> computed; // empty when the geometry cannot be solved
  double offset_percent = 0;      // measured against computed
  std::string meaning;            // what the difference says, with a number
};

/// Compares the design's measurement number `index` with the analysis of that design.
MeasurementReport report_measurement(const Design& design, const Analysis& analysis, std::size_t index,
                                     UnitSystem units);

/// Inductance in henries that the leads must have for the tank to have measured `frequency_hz`; negative values
/// mean that the capacitance or the clip position is off instead.
double implied_lead_inductance_h(const Design& design, double tap_turns, double frequency_hz);
/// The leads that a measurement of the tank tells of, henry: empty where it is another kind of measurement, they
/// are as entered, or no such leads can be.
std::optional<double> leads_told_by(const Design& design, const Measurement& measurement);

/// Clip table: every half turn with its frequency and its distance from the target in percent.
struct TapRow {
  double turns;
  double inductance_h;
  double tank_hz;
  double off_percent; // 0 when there is no target
};
std::vector<TapRow> tap_table(const Analysis& analysis);

/// The latest measurement of a kind; null when there is none.
const Measurement* latest_measurement(const Design& design, std::string_view kind);

} // namespace arc
