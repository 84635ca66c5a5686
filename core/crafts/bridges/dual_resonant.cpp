// The row of the dual resonant bridge.
#include "crafts/bridges/dual_resonant.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/dual_resonant_start.h"

#include <array>

namespace arc {

const CoilKind& dual_resonant_kind() {
  static constexpr std::array<std::string_view, 6> needed{"secondary", "primary", "tank",
                                                          "feed",      "bridge",  "interrupter"};
  static constexpr std::array<RunColumn, 5> columns{{{"tap_turns", "Clip"},
                                                     {"coupling", "Coupling"},
                                                     {"on_time_s", "On-time"},
                                                     {"burst_rate_hz", "Rate"},
                                                     {"arc_length_m", "Arc"}}};
  static const CoilKind kind{.key = "dual-resonant",
                             .title = "Dual resonant bridge",
                             .purpose =
                                 "Long arcs: the primary rings up with a tank capacitor in series, burst by burst",
                             .needs = "A bridge of stout switches, pulse capacitors, current limit, interrupter",
                             .coupling_low = 0.10,
                             .coupling_high = 0.20,
                             .tank = true,
                             .tank_end = "to the bridge, %1 at the limit",
                             .feed_end = FeedEnd::bus,
                             .clip = true,
                             .groups = needed,
                             .modes = bridge_modes(),
                             .run_columns = columns,
                             .achieved = "arc_length_m",
                             .analyse = analyse_bridge,
                             .figures = bridge_figures,
                             .power_json = bridge_json,
                             .rules = bridge_rules,
                             .simulate = simulate_bridge,
                             .checks_before_power = bridge_checks,
                             .steps_after_power = bridge_steps_after,
                             .symptoms = bridge_symptoms,
                             .interrupter = interrupter_json,
                             .least_people_m = 2,
                             .arc_of_winding = 1,
                             .start = dual_resonant_begins,
                             .first_feed = "rectified",
                             .stores = bridge_stores};
  return kind;
}

} // namespace arc
