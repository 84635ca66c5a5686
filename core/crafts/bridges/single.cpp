// The row of the single resonant bridge.
#include "crafts/bridges/single.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/single_start.h"

#include <array>

namespace arc {

CoilKind row_of_bridges() {
  static constexpr std::array<GroupPlace, 2> places{{{"bridge", "bridge"}, {"interrupter", "gate"}}};
  return {.feed_end = FeedEnd::bus,
          .modes = bridge_modes(),
          .achieved = "arc_length_m",
          .strip = {{{"Expected arc", "arc_shortest_m"},
                     {"Power and line current",
                      "mains.input_power_w mains.line_current_a|average_power_w line_current_a"},
                     {"Rate and duty", "rate_hz duty"},
                     {"Primary peak current", "burst.primary_peak_a"}}},
          .analyse = analyse_bridge,
          .figures = bridge_figures,
          .power_json = bridge_json,
          .rules = bridge_rules,
          .part = []() -> std::shared_ptr<KindPart> { return std::make_shared<BridgeAnalysis>(); },
          .checks_before_power = bridge_checks,
          .steps_after_power = bridge_steps_after,
          .symptoms = bridge_symptoms,
          .interrupter = interrupter_json,
          .least_people_m = 2,
          .arc_of_winding = 1,
          .first_feed = "rectified",
          .stores = bridge_stores,
          .fields = bridge_fields,
          .choices = bridge_choices,
          .run_fields = bridge_run_fields,
          .places = places};
}

const CoilKind& bridge_kind() {
  static constexpr std::array<std::string_view, 5> needed{"secondary", "primary", "feed", "bridge", "interrupter"};
  static constexpr std::array<RunColumn, 5> columns{{{"primary_turns", "Turns"},
                                                     {"coupling", "Coupling"},
                                                     {"on_time_s", "On-time"},
                                                     {"burst_rate_hz", "Rate"},
                                                     {"arc_length_m", "Arc"}}};
  static const CoilKind kind = [] {
    CoilKind row = row_of_bridges();
    row.key = "bridge";
    row.title = "Bridge";
    row.purpose = "Steady or interrupted arcs from the mains without a transformer or a gap";
    row.needs = "Two or four switches, gate transformer, driver, interrupter; the mains is on the bridge";
    row.coupling_low = 0.15;
    row.coupling_high = 0.35;
    row.groups = needed;
    row.run_columns = columns;
    row.start = bridge_begins;
    row.vary = vary_bridge;
    row.demo = "copper-heron";
    return row;
  }();
  return kind;
}

} // namespace arc
