// The seam between a coil's geometry and its resonance: every model of the secondary with its topload answers with
// the same values, and the analysis does not know which model it asked. Models state their method and accuracy.
#pragma once

#include "field/piece.h"
#include "field/rings.h"
#include "model/design.h"
#include "quantity/kept.h"

#include <optional>
#include <string>
#include <vector>

namespace arc {

struct ProfilePoint {
  double height_m; // above the floor
  double voltage;  // relative to the top
  double current;  // relative to the base
};

struct ModeShape {
  double frequency_hz;
  double effective_capacitance_f;    // charge through the base for 1 V at the top; negative when they oppose
  double energy_capacitance_f;       // stored energy is half of this times the top voltage squared
  double mean_square_current;        // along the winding, relative to the base current squared
  std::vector<ProfilePoint> profile; // base to top; voltage relative to its largest value
};

/// Field at a piece of surface that faces the air, for 1 V at the top.
struct SurfaceField {
  double radius_m;
  double height_m; // above the floor
  double field_per_volt;
  double curvature_m;
  bool winding; // the last turn rather than the topload
};

struct ChargedPiece {
  Piece piece;
  double charge_c; // for 1 V at the top
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
  double cutting_error = 0;          // of the frequency, relative: what finer cutting could still change
  double energy_capacitance_f = 0;   // stored energy is half of this times the top voltage squared
  double mean_square_current = 0;    // along the winding, relative to the base current squared
  double steepest_turn_voltage = 0;  // largest voltage between neighbouring turns for 1 V at the top
  std::vector<ProfilePoint> profile; // first mode, base to top; empty when the model has none
  std::vector<ModeShape> modes;      // first three
  std::vector<SurfaceField> surface; // topload pieces and the last turn
  std::vector<ChargedPiece> charges; // of the first mode
};

/// The textbook sum: uniform inductance, Medhurst self-capacitance plus isolated toploads. Stated accuracy 12 %;
/// the parts shade each other, so it reads low by 5 to 20 % on squat coils.
ResonatorResult lumped_resonator(const Design& design, double secondary_inductance_h);

/// How finely the field model cuts its conductors.
struct FieldResolution {
  int winding_pieces = 80;
  int topload_pieces = 40;     // for each part
  bool frequency_only = false; // skip what only the full result shows: mode shapes, charges, the topload alone
  bool operator==(const FieldResolution&) const = default;
};

/// All that a field solution depends on, as a step that can be kept.
struct FieldStep {
  using Result = ResonatorResult;
  static constexpr std::size_t kept = 96;
  Secondary secondary;
  SharedList<ToploadPart> topload;
  std::optional<double> ceiling_height_m, wall_distance_m;
  bool primary_grounded = false, strike_ring = false;
  Primary primary; // where one of these stands in the field; as by default elsewhere
  FieldResolution resolution;
  double added_top_f = 0;
  /// The floor carries currents too, as a sheet of metal does; an ordinary one only holds charge.
  bool metal_floor = false;
  bool operator==(const FieldStep&) const = default;
};
/// What of a design the field needs; equal steps have equal solutions.
FieldStep field_step(const Design& design, FieldResolution resolution = {}, double added_top_f = 0);

/// Distributed line with capacitances from boundary elements (docs/methods/resonator.md): within 1 % in frequency
/// of an independent solution. A ceiling counts as a grounded plate; a wall as a grounded cylinder all around,
/// which overstates a single wall. `added_top_f`: a capacitor between the top and ground (farads), for measurements
/// with a known one. Throws std::invalid_argument when bodies touch, cross or lie on the axis.
ResonatorResult field_resonator(const FieldStep& step);
ResonatorResult field_resonator(const Design& design, FieldResolution resolution = {}, double added_top_f = 0);
std::shared_ptr<const ResonatorResult> field_resonator(Kept& kept, const FieldStep& step);
/// Farads of the step's topload alone in free space; 0 without one or where only the frequency is asked.
double isolated_topload_f(Kept& kept, const FieldStep& step);
std::shared_ptr<const ResonatorResult> field_resonator(Kept& kept, const Design& design,
                                                       FieldResolution resolution = {}, double added_top_f = 0);

/// A grounded ring over the outermost primary turn, one pitch outside and 40 mm (or four conductors) above it:
/// where builders put it (common practice, no source). It catches strikes that would hit the primary.
struct StrikeRing {
  double radius_m;
  double height_m;
  double tube_radius_m;
};
StrikeRing strike_ring(const Primary& primary);

/// How steeply a primary of any shape rises: 0 flat, a right angle for a helix; radians.
double primary_rise_rad(const Primary& primary);

/// Turn rings of the first `turns` turns of a primary of any shape.
std::vector<Ring> primary_rings(const Primary& primary, double turns);

/// Mean radius of the winding in metres: (form + wire over enamel)/2.
double secondary_mean_radius_m(const Secondary& secondary);

/// Sum of the exact capacitances of the topload's parts standing alone; parts without a closed form count as the
/// sphere of equal largest radius. An upper bound when there are several.
double topload_isolated_sum_f(const std::vector<ToploadPart>& topload);

} // namespace arc
