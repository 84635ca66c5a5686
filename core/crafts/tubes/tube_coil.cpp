// The row of the vacuum-tube coil.
#include "crafts/tubes/tube_coil.h"
#include "crafts/tubes/tube.h"
#include "crafts/tubes/tube_coil_start.h"

#include <array>

namespace arc {

CoilKind row_of_tubes() {
  static constexpr std::array<GroupPlace, 4> places{
      {{"tube", "oscillator"}, {"feedback", "oscillator"}, {"flame", "oscillator"}, {"interrupter", "staccato"}}};
  return {.feed_end = FeedEnd::plate,
          .achieved = "arc_length_m",
          .strip = {{{"Expected arc", "arc_shortest_m", "no forecast"},
                     {"Power and line current",
                      "mains.input_power_w mains.line_current_a|run.plate_input_w run.line_rms_a"},
                     {"Firings and duty", "firing_rate_hz duty|duty"},
                     {"Heat in each plate", "worst_plate_w"}}},
          .figures = tube_figures,
          .power_json = tube_json,
          .part = []() -> std::shared_ptr<KindPart> { return std::make_shared<TubePower>(); },
          .steps_after_power = tube_steps_after,
          .suit_feed = suit_tube_to_feed,
          .stores = tube_stores,
          .fields = tube_fields,
          .choices = tube_choices,
          .run_fields = tube_run_fields,
          .places = places};
}

const CoilKind& tube_kind() {
  static constexpr std::array<std::string_view, 7> needed{"secondary", "primary", "tank",       "feed",
                                                          "feedback",  "tube",    "interrupter"};
  static constexpr std::array<RunColumn, 5> columns{{{"tap_turns", "Tap"},
                                                     {"tank_capacitance_f", "Tank"},
                                                     {"line_current_a", "Line"},
                                                     {"arc_length_m", "Arc"},
                                                     {"duration_s", "Ran for"}}};
  static const CoilKind kind = [] {
    CoilKind row = row_of_tubes();
    row.key = "tube";
    row.title = "Vacuum tube";
    row.purpose = "Quiet sword-like arcs, or straight bursts in staccato; no gap, no noise of one";
    row.needs = "A transmitting tube, its filament supply, oven transformers, a few capacitors";
    row.coupling_low = 0.15;
    row.coupling_high = 0.35;
    row.tank = true;
    row.tank_end = "across the plate coil, swung to %1";
    row.clip = true;
    row.groups = needed;
    row.modes = tube_modes();
    row.run_columns = columns;
    row.analyse = analyse_tube;
    row.rules = tube_rules;
    row.checks_before_power = tube_checks;
    row.symptoms = tube_symptoms;
    row.interrupter = tube_interrupter_json;
    row.least_people_m = 2;
    row.arc_of_winding = 0.5;
    row.start = tube_begins;
    row.first_feed = "shifted";
    row.vary = vary_tube;
    row.demo = "glass-willow";
    return row;
  }();
  return kind;
}

} // namespace arc
