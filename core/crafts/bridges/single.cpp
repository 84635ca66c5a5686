// The row of the single resonant bridge.
#include "crafts/bridges/single.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/single_start.h"

#include <array>

namespace arc {

const CoilKind& bridge_kind() {
  static constexpr std::array<std::string_view, 5> needed{"secondary", "primary", "feed", "bridge", "interrupter"};
  static constexpr std::array<RunColumn, 5> columns{{{"primary_turns", "Turns"},
                                                     {"coupling", "Coupling"},
                                                     {"on_time_s", "On-time"},
                                                     {"burst_rate_hz", "Rate"},
                                                     {"arc_length_m", "Arc"}}};
  static const CoilKind kind{
      .key = "bridge",
      .title = "Bridge",
      .purpose = "Steady or interrupted arcs from the mains without a transformer or a gap",
      .needs = "Two or four switches, gate transformer, driver, interrupter; the mains is on the bridge",
      .coupling_low = 0.15,
      .coupling_high = 0.35,
      .tank = false,
      .feed_end = FeedEnd::bus,
      .clip = false,
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
      .start = bridge_begins,
      .first_feed = "rectified",
      .stores = bridge_stores};
  return kind;
}

} // namespace arc
