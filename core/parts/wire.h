// Round winding wire: gauge, enamel, turns, length, mass and direct-current resistance.
// Sources: ASTM B258 (gauge), IEC 60317-0-1 and NEMA MW 1000 (overall diameters; table values from memory, see
// overall_diameter_m), IEC 60028 (copper). Limits: solid round copper at bench temperatures.
#pragma once

namespace arc {

inline constexpr double copper_resistivity_ohm_m = 1.7241e-8;           // at 20 C, IEC 60028
inline constexpr double copper_temperature_coefficient_per_k = 0.00393; // IEC 60028
inline constexpr double copper_density_kg_m3 = 8890;                    // IEC 60028

enum class EnamelGrade { grade_1, grade_2 }; // single and heavy build

/// Largest overall diameter in metres of enamelled wire of bare diameter 0.02 to 5 mm (IEC 60317-0-1 table, log
/// interpolation between tabulated sizes; table values from memory). Outside the table the end increase is kept.
double overall_diameter_m(double bare_diameter_m, EnamelGrade grade);

/// What hand winding loses against close packing: the middle of 3 to 10 % (common practice, no source). One figure
/// for all advice.
inline constexpr double hand_winding_allowance = 0.05;

/// Turns that a winding of `length_m` really holds: close packing less `allowance` (0.03 to 0.10 for hand winding;
/// common practice, no source).
double turns_from_length(double length_m, double overall_diameter_m, double allowance);

/// Winding length for `turns`, the reverse of turns_from_length.
double length_from_turns(double turns, double overall_diameter_m, double allowance);

/// Wire length in metres of a helix: turns * sqrt((pi d)^2 + p^2), d the mean winding diameter, p = length/turns.
double helix_wire_length_m(double mean_diameter_m, double turns, double winding_length_m);

/// Copper mass in kilograms of bare wire.
double wire_mass_kg(double bare_diameter_m, double wire_length_m);

/// Metres of bare wire that weigh `mass_kg`.
double wire_length_of_mass_m(double bare_diameter_m, double mass_kg);

/// Direct-current resistance in ohms at `temperature_c`.
double wire_resistance_ohm(double bare_diameter_m, double wire_length_m, double temperature_c);

} // namespace arc
