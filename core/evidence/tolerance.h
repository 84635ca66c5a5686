// Bands: how far the inputs' tolerances move each result, by linear propagation on a coarse copy of the model; what
// was measured narrows them by weighted least squares. Default tolerances by kind of input follow common bench
// practice (no source). Inputs count as independent. Checked against sampling in tests/core/analysis_test.cpp.
#pragma once

#include "coil/analysis.h"

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

inline constexpr double largest_tolerance = 0.5;

struct ToleranceInput {
  std::string_view key;              // in the file's "tolerances"
  std::string_view label;            // "turn count"
  std::string_view advice;           // what to do to know it better
  bool relative = false;             // otherwise in metres (turns for the clip)
  double standard;                   // default
  void (*nudge)(Design&, double by); // by this many times the unit of the tolerance
  bool moves_field = false;          // whether the resonator feels it
  bool moves_primary = false;        // whether the primary's inductance feels it
};

/// Those of every coil, then those of each craft.
std::span<const ToleranceInput> tolerance_inputs();

/// The design's tolerance of an input, or its default.
double tolerance_of(const Design& design, const ToleranceInput& input);

/// The results that carry a band, by key, from a model of this resolution. Throws like field_resonator.
std::map<std::string, double> banded_results(const Design& design, FieldResolution resolution);

/// What the model expects of a measurement.
struct Expectation {
  double expected = 0; // in the measurement's own unit; 0 when there is nothing to compare with
  /// Relative change for one tolerance of each input, in their order, then of the model itself. Empty: no input is
  /// to be learned from it.
  std::vector<double> slope;
  double own_error = 0; // relative, of the expectation itself
};

struct BandSlopes;

/// What the row of a kind of measurement can ask the model for.
class Expecting {
 public:
  Expecting(const Design& of, const Analysis& found, const BandSlopes& slopes, Kept& kept)
      : design(of), analysis(found), slopes_(slopes), kept_(kept) {}
  const Design& design;
  const Analysis& analysis;
  /// `expected`, which moves with the inputs as this banded result does.
  Expectation as_result(std::string_view key, double expected) const;
  /// Resonance of the coil as it stood: without its topload, or with a capacitor added at its top. Throws as
  /// field_resonator().
  Expectation resonance(bool bare, double added_f) const;

 private:
  const BandSlopes& slopes_;
  Kept& kept_;
};

/// The field solutions that the bands of a design rest on.
std::vector<FieldStep> band_steps(const Design& design);

/// Fills band, influences, evidence and next_measurement of the analysis. Needs analysis.resonator.
void propagate_tolerances(const Design& design, Analysis& analysis, Kept& kept);

} // namespace arc
