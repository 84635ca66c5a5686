// Losses of a single-layer winding at its resonance, and the quality factor they leave.
// Sources: skin effect exact for a round wire (Bessel functions); proximity effect by Medhurst 1947, Wireless
// Engineer 24, pp. 35 and 80 (table of phi, from memory). Limits: winding in air; phi is measured for strong skin
// effect, and fades in here with the skin effect, which is an assumption. Stated accuracy of the resistance 20 %.
#pragma once

namespace arc {

/// Skin depth in metres of copper at `temperature_c` and `frequency_hz`.
double skin_depth_m(double frequency_hz, double temperature_c);

/// Resistance of a straight round wire at a frequency over its direct-current resistance; `radius_over_depth` is
/// wire radius over skin depth. Exact: Re[z J0(z) / (2 J1(z))], z = (1 - i) r / depth, by continued fraction. Valid
/// up to 1000.
double skin_effect_ratio(double radius_over_depth);

/// Medhurst's phi: resistance of a coil over that of the straight wire with strong skin effect. `wire_over_pitch`
/// (0 to 1) and winding length over diameter (0 and up); interpolated in the table.
double medhurst_phi(double wire_over_pitch, double length_over_diameter);

/// Resistance of the winding at a frequency over its direct-current resistance, skin and proximity together.
double winding_resistance_ratio(double wire_diameter_m, double pitch_m, double length_over_diameter,
                                double frequency_hz, double temperature_c);

} // namespace arc
