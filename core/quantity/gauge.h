// American wire gauge. Source: ASTM B258.
#pragma once

namespace arc {

/// Bare diameter in metres of an American wire gauge number (0 is 1/0, -3 is 4/0). ASTM B258.
double awg_to_diameter_m(double gauge);

/// Gauge number (not rounded) of a bare diameter in metres; diameter > 0. ASTM B258.
double diameter_m_to_awg(double diameter_m);

} // namespace arc
