// Rules on a tube coil as it runs; findings.cpp puts them into its tables.
#pragma once

#include "crafts/tubes/tube.h"

#include <optional>

namespace arc::tube_rule {

using Maybe = std::optional<Finding>;
using enum Dimension;
using Rule = Maybe (*)(const Design&, const Analysis&, const TubePower&, UnitSystem);
inline constexpr double least_gap_m = 0.010, usual_gap_m = 0.012;
inline constexpr double xray_v = 10e3;
inline constexpr double sure_start =
    2; // times weaker that the tube may be and still start, of a coil that starts surely

Maybe does_not_start(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe starts_badly(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe plate_too_hot(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe efficiency_low(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe grid_too_hot(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe cathode_over(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe plate_over_volts(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe xrays(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe leak_over(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe intermittent(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe never_off(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe does_not_latch(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe thyristor_over(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe beats(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe over_current(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe warm(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe trips(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe block(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe diodes(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe capacitors(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe sags(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe bleeds(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe flame_not_isolated(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe flame_does_not_start(const Design&, const Analysis&, const TubePower&, UnitSystem);
Maybe form_chars(const Design&, const Analysis&, const TubePower&, UnitSystem);

} // namespace arc::tube_rule
