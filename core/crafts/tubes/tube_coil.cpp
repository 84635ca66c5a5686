// The row of the vacuum-tube coil.
#include "crafts/tubes/tube_coil.h"
#include "crafts/tubes/tube.h"
#include "crafts/tubes/tube_coil_start.h"

#include <array>

namespace arc {

const CoilKind& tube_kind() {
  static constexpr std::array<std::string_view, 7> needed{"secondary", "primary", "tank",       "feed",
                                                          "feedback",  "tube",    "interrupter"};
  static constexpr std::array<RunColumn, 5> columns{{{"tap_turns", "Tap"},
                                                     {"tank_capacitance_f", "Tank"},
                                                     {"line_current_a", "Line"},
                                                     {"arc_length_m", "Arc"},
                                                     {"duration_s", "Ran for"}}};
  static const CoilKind kind{
      .key = "tube",
      .title = "Vacuum tube",
      .purpose = "Quiet sword-like arcs, or straight bursts in staccato; no gap, no noise of one",
      .needs = "A transmitting tube, its filament supply, oven transformers, a few capacitors",
      .coupling_low = 0.15,
      .coupling_high = 0.35,
      .tank = true,
      .tank_end = "across the plate coil, swung to %1",
      .feed_end = FeedEnd::plate,
      .clip = true,
      .groups = needed,
      .modes = tube_modes(),
      .run_columns = columns,
      .achieved = "arc_length_m",
      .analyse = analyse_tube,
      .figures = tube_figures,
      .power_json = tube_json,
      .rules = tube_rules,
      .simulate = simulate_tube_coil,
      .checks_before_power = tube_checks,
      .steps_after_power = tube_steps_after,
      .symptoms = tube_symptoms,
      .interrupter = tube_interrupter_json,
      .least_people_m = 2,
      .arc_of_winding = 0.5,
      .start = tube_begins,
      .first_feed = "shifted",
      .suit_feed = suit_tube_to_feed,
      .stores = tube_stores};
  return kind;
}

} // namespace arc
