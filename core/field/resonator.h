// The seam between a coil's geometry and its resonance: every model of the secondary with its topload answers with
// the same values, and the analysis does not know which model it asked. Models state their method and accuracy.
#pragma once

#include "design/design.h"
#include "field/rings.h"

#include <optional>
#include <string>
#include <vector>

namespace arc {

struct ProfilePoint {
  double height_m; // above the floor
  double voltage;  // relative to the top
  double current;  // relative to the base
};

struct ResonatorResult {
  std::string method;
  std::string assumption;
  double relative_accuracy = 0; // of the frequency, of the model itself, inputs taken as exact
  double mode_1_hz = 0;
  std::optional<double> mode_2_hz;
  std::optional<double> mode_3_hz;
  double effective_inductance_h = 0;  // V_top / (w I_base)
  double effective_capacitance_f = 0; // I_base / (w V_top)
  double topload_isolated_f = 0;
  double topload_in_place_f = 0;
  std::vector<ProfilePoint> profile; // first mode, base to top; empty when the model has none
};

/// The textbook sum: uniform inductance, Medhurst self-capacitance plus isolated toploads. Stated accuracy 12 %;
/// the parts shade each other, so it reads low by 5 to 20 % on squat coils.
ResonatorResult lumped_resonator(const Design& design, double secondary_inductance_h);

/// How finely the field model cuts its conductors.
struct FieldResolution {
  int winding_pieces = 80;
  int topload_pieces = 40; // for each part
};

/// Distributed line with capacitances from boundary elements (docs/methods/resonator.md): within 1 % in frequency
/// of an independent solution. Throws std::invalid_argument when bodies touch, cross or lie on the axis.
ResonatorResult field_resonator(const Design& design, FieldResolution resolution = {});

/// Turn rings of the first `turns` turns of a primary of any shape.
std::vector<Ring> primary_rings(const Primary& primary, double turns);

/// Mean radius of the winding in metres: (form + wire over enamel)/2.
double secondary_mean_radius_m(const Secondary& secondary);

/// Sum of the exact capacitances of the topload's parts standing alone; parts without a closed form count as the
/// sphere of equal largest radius. An upper bound when there are several.
double topload_isolated_sum_f(const std::vector<ToploadPart>& topload);

} // namespace arc
