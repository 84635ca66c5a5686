// A tank capacitor with the primary: resonance against the clip, and what it holds at its peak.
#pragma once

#include "coil/analysis.h"

namespace arc {

class TappedPrimary;

/// Fills tank_hz, tap_curve, energy, charge, peak current, stress of the fullest unit and bleed time, for a tank
/// that is at `peak_v` volts. The tank's capacitance and the primary's inductances are there.
void analyse_tank(const Design& design, const TappedPrimary& primary, double peak_v, Analysis& out);

} // namespace arc
