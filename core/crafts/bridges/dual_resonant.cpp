// The row of the dual resonant bridge.
#include "crafts/bridges/dual_resonant.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/dual_resonant_start.h"

#include <array>

namespace arc {

const CoilKind& dual_resonant_kind() {
  static constexpr std::array<std::string_view, 6> needed{"secondary", "primary", "tank",
                                                          "feed",      "bridge",  "interrupter"};
  static constexpr std::array<RunColumn, 5> columns{{{"tap_turns", "Tap"},
                                                     {"coupling", "Coupling"},
                                                     {"on_time_s", "On-time"},
                                                     {"burst_rate_hz", "Rate"},
                                                     {"arc_length_m", "Arc"}}};
  static constexpr std::array<std::string_view, 2> tank_numbers{"bridge.current_limit_a", "interrupter.rate_hz"};
  static const CoilKind kind = [] {
    CoilKind row = row_of_bridges();
    row.key = "dual-resonant";
    row.title = "Dual resonant bridge";
    row.purpose = "Long arcs: the primary rings up with a tank capacitor in series, burst by burst";
    row.needs = "A bridge of stout switches, pulse capacitors, current limit, interrupter";
    row.coupling_low = 0.10;
    row.coupling_high = 0.20;
    row.tank = true;
    row.tank_end = "to the bridge, %1 at the limit";
    row.tank_fields = tank_numbers;
    row.clip = true;
    row.series_tank = true;
    row.groups = needed;
    row.run_columns = columns;
    row.start = dual_resonant_begins;
    row.vary = vary_dual_resonant;
    row.demo = "tin-orchard";
    return row;
  }();
  return kind;
}

} // namespace arc
