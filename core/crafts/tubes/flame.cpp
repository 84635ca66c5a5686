// The row of the flame coil.
#include "crafts/tubes/flame.h"
#include "crafts/tubes/flame_start.h"
#include "crafts/tubes/tube.h"

#include <array>

namespace arc {

const CoilKind& flame_kind() {
  static constexpr std::array<std::string_view, 5> needed{"secondary", "primary", "feed", "flame", "tube"};
  static constexpr std::array<RunColumn, 5> columns{{{"primary_turns", "Plate turns"},
                                                     {"resonance_hz", "Coil"},
                                                     {"line_current_a", "Line"},
                                                     {"arc_length_m", "Flame"},
                                                     {"duration_s", "Ran for"}}};
  static const CoilKind kind{.key = "flame",
                             .title = "Flame coil",
                             .purpose =
                                 "A silent flame of radio frequency at the tip; not isolated from the supply",
                             .needs = "One screen-fed pentode, a few turns on ceramic, two kilovolts",
                             .coupling_low = 0,
                             .coupling_high = 1,
                             .tank = false,
                             .feed_end = FeedEnd::plate,
                             .topload_usual = false,
                             .close_wound = false,
                             .clip = false,
                             .groups = needed,
                             .modes = flame_modes(),
                             .run_columns = columns,
                             .achieved = "arc_length_m",
                             .analyse = [](const Design& design, const TappedPrimary*,
                                           Analysis& out) { out.quick = quick_drive(design, out); },
                             .figures = tube_figures,
                             .power_json = tube_json,
                             .rules = flame_rules,
                             .simulate = simulate_tube_coil,
                             .checks_before_power = flame_checks,
                             .steps_after_power = tube_steps_after,
                             .symptoms = flame_symptoms,
                             .least_people_m = 1,
                             .arc_of_winding = 0,
                             .start = flame_begins,
                             .first_feed = "filtered",
                             .suit_feed = suit_tube_to_feed,
                             .stores = tube_stores};
  return kind;
}

} // namespace arc
