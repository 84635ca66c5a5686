// Closed forms and hand formulas that stand beside the exact values, each with its source and known error.
// They are estimates for people to compare with; the analysis itself uses rings and fields.
#pragma once

namespace arc {

/// Nagaoka coefficient of a current-sheet solenoid by Lorenz's closed form (Nagaoka 1909, J. Coll. Sci. Tokyo 27).
/// `diameter_over_length` > 0. Exact to rounding.
double nagaoka_coefficient(double diameter_over_length);

/// Inductance in henries of a close round-wire solenoid: current sheet less Rosa's corrections A for the round wire
/// and B for the spacing (Rosa and Grover 1911, NBS Bulletin 8; Grover 1946, ch. 16; B by its asymptotic series,
/// from memory). turns >= 2, lengths in metres, uniform current. Error below 0.1 % for close windings.
double current_sheet_inductance_h(double mean_radius_m, double turns, double length_m, double wire_diameter_m);

/// Wheeler 1928 (Proc. IRE 16, p. 1398): helix, mean radius a, length l, within 1 % for l > 0.8 a.
double wheeler_helix_h(double mean_radius_m, double turns, double length_m);

/// Wheeler 1928: flat spiral of mean radius a and winding width c, within 5 % for c > 0.2 a.
double wheeler_flat_spiral_h(double mean_radius_m, double turns, double width_m);

/// Cone by the root of the squares of the two above, weighted by the sine and cosine of the rise (hand rule; error
/// up to some 10 %).
double cone_estimate_h(double helix_h, double flat_h, double cone_angle_rad);

/// Inductance in henries of a go-and-return pair of round wires with skin current: mu0 l/pi (ln(D/r) - D/l) (Grover
/// 1946, ch. 5). Spacing D between centres above twice the wire radius r, length l above D.
double pair_inductance_h(double length_m, double spacing_m, double wire_radius_m);

/// Medhurst 1947 (Wireless Engineer 24, pp. 35 and 80): self-capacitance in farads of a single-layer coil with one
/// end grounded, C[pF] = H D[cm]. Table from memory. length/diameter from 0.1 to 50; good to about 10 %.
double medhurst_capacitance_f(double winding_length_m, double mean_diameter_m);

} // namespace arc
