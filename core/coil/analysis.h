// What is known of a coil at rest, and the small computations that ask nothing else. It is made by analyse(),
// analysis/analyse.h. Methods and limits: docs/methods/.
#pragma once

#include "craft/finding.h"
#include "field/breakout.h"
#include "field/resonator.h"
#include "model/design.h"
#include "quantity/kept.h"

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// Inductance and resonance of the tank with the clip at `turns`.
struct TapPoint {
  double turns;
  double inductance_h; // primary up to the clip and the leads
  double tank_hz;
};

struct Range {
  double low;
  double high;
};

/// One input's share of a result's band.
struct Influence {
  std::string input; // label, "Turns"
  double change;     // change of the result for one tolerance of the input, same unit as the result
};

/// How well a measurement fits the design: what the model expects, in the measurement's own unit, and the distance
/// in standard deviations of inputs and meter together. One too far off is a slip, not evidence, and is left out.
struct Evidence {
  double expected;
  double misfit;
  bool used = true;
};
inline constexpr double largest_used_misfit = 8; // standard deviations

/// The one thing whose exact knowledge would narrow the resonance's band most.
struct NextMeasurement {
  std::string input;
  std::string advice;
  double band_now_hz;
  double band_then_hz;
};

/// Mean field that air between winding and primary should not exceed: half of what smooth plates hold, since wires
/// and edges hold less (common practice, no source).
inline constexpr double winding_field_limit_v_per_m = 1.5e6;

/// The coil as a circuit, for every simulation: one circuit for the resonator. Zero where nothing is known.
struct CoilCircuit {
  double primary_h = 0; // up to the clip, without leads
  double primary_ohm = 0;
  double coupling = 0;
  double secondary_h = 0, secondary_f = 0, secondary_ohm = 0;
  double resonance_hz = 0;
  std::vector<std::string> measured; // what of it an instrument gave
  bool complete() const;
};

/// The coil at rest: what every kind has.
struct CoilAnalysis {
  bool computed = false; // false: a number is out of its range or the winding is not given, `problem` says which,
                         // and nothing below is meant but `circuit`
  bool has_winding = false, has_primary = false, has_tank = false; // given, and part of this kind

  // winding
  double secondary_inductance_h = 0;
  double secondary_inductance_estimate_h = 0; // Wheeler
  double wire_length_m = 0;
  double wire_mass_kg = 0;
  double secondary_resistance_ohm = 0; // direct current, at the site's temperature
  double height_to_diameter = 0;
  double packing = 0; // part of the winding length that wire fills

  // resonator; empty when the geometry cannot be solved, `problem` then says why
  std::optional<ResonatorResult> resonator;
  ResonatorResult estimate; // textbook sum
  std::string problem;

  // primary
  double primary_inductance_h = 0; // at the clip, without leads
  double primary_inductance_estimate_h = 0;
  double mutual_inductance_h = 0; // this and the coupling are 0 where primary and winding cross
  double coupling = 0;
  double lead_inductance_h = 0;                             // of the leads to gap and tank
  std::shared_ptr<const std::vector<double>> turn_mutual_h; // of the primary with each turn, from the base; or null
  double primary_skin_h = 0;      // at the clip, with the current crowded as at high frequency; 0 when turns touch
  double primary_crowding = 1;    // loss of that current over an even one's
  double primary_clearance_m = 0; // innermost conductor to the winding's wire
  double primary_outer_radius_m = 0;
  double primary_wire_length_m = 0; // up to the last turn

  CoilCircuit circuit;

  // loss and breakout
  double winding_resistance_ohm = 0; // at the resonance, skin and proximity
  double winding_q = 0;
  double quality_factor = 0;   // with ground and form, or the latest one measured
  double quality_estimate = 0; // with ground and form
  double skin_depth_m = 0;
  std::optional<Breakout> breakout;
  double turn_voltage_v = 0; // between neighbouring turns, at breakout or the lossless limit, whichever is lower

  // what was measured
  std::vector<Evidence> evidence; // one for each measurement of the design
  double best_mode_1_hz = 0;      // resonance after all evidence; its band is narrower than the computed one's
  std::optional<NextMeasurement> next_measurement;

  // one standard deviation-like half-width by result key, and the inputs behind it, largest first
  std::map<std::string, double> band;
  std::map<std::string, std::vector<Influence>> influences;
};

/// What a tank adds that discharges into the primary, and what is to be expected of it. As it is here for kinds
/// without one.
struct TankAnalysis {
  double tank_capacitance_f = 0;
  double tank_rings_f = 0; // with what else stands in series with it while the primary rings
  double tank_hz = 0;
  std::vector<TapPoint> tap_curve; // whole and quarter turns up to the last
  double target_hz = 0;            // what the tank should be tuned to; 0 when unknown
  /// How far a tank at `hz` is above what it should be tuned to, as a share of it; 0 when that is unknown.
  double detuning(double hz) const { return target_hz > 0 ? hz / target_hz - 1 : 0; }
  std::string target_source; // which frequency that is
  std::optional<double> tuned_tap_turns;
  std::optional<double> tuned_capacitance_f; // at the present clip
  double unit_voltage_v = 0;                 // share of the fullest unit, evenly
  std::string fullest_unit;                  // its name; empty when all are alike
  std::optional<double> unit_used;           // its rating's share, tolerances at their worst; empty without ratings
  double tank_peak_v = 0;                    // when it fires, or at the limit: what the stress below is for
  double stored_energy_j = 0;
  double stored_charge_c = 0;
  double peak_current_a = 0;
  std::optional<double> bleed_time_s;

  // run
  double power_w = 0;
  Range expected_arc_m{};
  Range loaded_hz{};
  double top_voltage_limit_v = 0; // lossless
  std::optional<double> strike_distance_m;
  double strike_field_v_per_m = 0;  // top voltage over that distance
  double primary_field_v_per_m = 0; // largest mean field between winding and primary, both at their peak
  double primary_widen_m = 0;       // how much wider the primary must be to keep winding_field_limit_v_per_m
};

/// What a fast method says of the drive, of the kinds that have one: for whoever drags a handle.
struct QuickDrive {
  double frequency_hz = 0;
  double input_w = 0, output_w = 0;
  double device_w = 0; // heat in what drives it
  double top_peak_v = 0;
};

struct Analysis : CoilAnalysis, TankAnalysis {
  std::optional<QuickDrive> quick;
  std::vector<Finding> findings; // worst first
};

/// Clip position at which the tank resonates at `wanted_hz`, to 1e-6 turn; empty when no clip does. Monotonic: more
/// turns, lower frequency. `capacitance_f` and the design's lead inductance count.
std::optional<double> tap_for_frequency(const Design& design, double capacitance_f, double wanted_hz);

/// Turns of the primary that carry the current: up to the clip, or all where the kind has no clip.
double used_turns(const Design& design);

/// Resistance in ohms of the used primary at a frequency.
double primary_resistance_ohm(const Design& design, const Analysis& analysis, double frequency_hz);

/// Inductance in henries of the primary up to `tap_turns` (limited to the last turn), without leads.
double primary_inductance_at_h(const Primary& primary, double tap_turns);

/// Inductance in henries of the leads: from their length and spacing when both are given, else the number entered.
double lead_inductance_h(const Primary& primary);

/// Primary up to `tap_turns` and leads, in henries: what resonates with the tank capacitor.
double tank_loop_inductance_h(const Primary& primary, double tap_turns);

/// The coil's circuit, for a simulation that needs all of it. Throws std::invalid_argument with what is missing.
const CoilCircuit& complete_circuit(const Analysis& analysis);

/// Relative half-widths of the resonance and of the coupling that simulations vary: by their bands, or narrower
/// ones of an instrument (1 % of an inductance or capacitance, 2 % of a coupling; assumptions) where one gave that
/// number.
struct CircuitDoubt {
  double detune, coupling;
};
CircuitDoubt circuit_doubt(const Analysis& analysis);

/// Half-width of a result's band over its value; 0 where it has none.
double relative_band(const Analysis& analysis, std::string_view key, double value);

/// Voltage at the top when the topload breaks out, or the lossless limit when that is lower; volts, peak.
double top_voltage_v(const Analysis& analysis);

/// The coil's resonance, with what was measured where something was; hertz. `analysis` has a resonator.
inline double coil_hz(const Analysis& analysis) {
  return analysis.best_mode_1_hz > 0 ? analysis.best_mode_1_hz : analysis.resonator->mode_1_hz;
}

} // namespace arc
