// A tank capacitor with the primary: resonance against the clip, and what it holds at its peak.
#pragma once

#include "coil/analysis.h"
#include "craft/finding.h"

#include <optional>
#include <string>

namespace arc {

class TappedPrimary;

/// Fills tank_hz, tap_curve, energy, charge, peak current, stress of the fullest unit and bleed time, for a tank
/// that is at `peak_v` volts. The tank's capacitance and the primary's inductances are there.
void analyse_tank(const Design& design, const TappedPrimary& primary, double peak_v, Analysis& out);

/// Fills the clip and the capacitance that tune the tank to target_hz, when that is known.
void tune_tank(const Design& design, const TappedPrimary& primary, Analysis& out);

/// Henries of primary up to the clip and leads, as simulations take them: measured where it was measured.
double tank_loop_h(const Analysis& analysis);
/// Of the primary's inductance; 1 where it was not measured.
double measured_over_computed(const Analysis& analysis);

/// The resonance without arcs that a tank is tuned to, and which that is. The resonator must be computed.
struct Silent {
  double hz;
  std::string source;
};
Silent silent_coil(const Design& design, const Analysis& analysis);

/// A capacitance of which only a thousand times more or less brings the tank to the coil, the clip staying: a slip
/// of prefix or marking, as a stop. Empty where another clip of a turn or more tunes it, for then the clip is
/// wrong.
std::optional<Finding> capacitance_slipped(const Design& design, const Analysis& analysis, UnitSystem units);

} // namespace arc
