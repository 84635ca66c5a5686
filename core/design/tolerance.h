// Bands: how far the inputs' tolerances move each result, by linear propagation on a coarse copy of the model; what
// was measured narrows them by weighted least squares. Default tolerances by kind of input follow common bench
// practice (no source). Inputs count as independent. Checked against sampling in tests/core/analysis_test.cpp.
#pragma once

#include "design/analysis.h"

#include <span>
#include <string>
#include <string_view>

namespace arc {

inline constexpr double largest_tolerance = 0.5;

struct ToleranceInput {
  std::string_view key;              // in the file's "tolerances"
  std::string_view label;            // "turn count"
  std::string_view advice;           // what to do to know it better
  bool relative;                     // otherwise in metres (turns for the clip)
  double standard;                   // default
  void (*nudge)(Design&, double by); // by this many times the unit of the tolerance
  bool moves_field;                  // whether the resonator feels it
  bool moves_primary = false;        // whether the primary's inductance feels it
};

std::span<const ToleranceInput> tolerance_inputs();

/// The design's tolerance of an input, or its default.
double tolerance_of(const Design& design, const ToleranceInput& input);

/// The results that carry a band, by key, from a model of this resolution. Throws like field_resonator.
std::map<std::string, double> banded_results(const Design& design, FieldResolution resolution);

/// Fills band, influences, evidence and next_measurement of the analysis. Needs analysis.resonator.
void propagate_tolerances(const Design& design, Analysis& analysis);

} // namespace arc
