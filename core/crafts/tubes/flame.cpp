// The row of the flame coil.
#include "crafts/tubes/flame.h"
#include "crafts/tubes/flame_start.h"
#include "crafts/tubes/tube.h"

#include "coil/analysis.h"
#include "coil/tapped_primary.h"

#include <array>

namespace arc {

const CoilKind& flame_kind() {
  static constexpr std::array<std::string_view, 5> needed{"secondary", "primary", "feed", "flame", "tube"};
  static constexpr std::array<RunColumn, 5> columns{{{"primary_turns", "Plate turns"},
                                                     {"resonance_hz", "Coil"},
                                                     {"line_current_a", "Line"},
                                                     {"arc_length_m", "Flame"},
                                                     {"duration_s", "Ran for"}}};
  static const CoilKind kind = [] {
    CoilKind row = row_of_tubes();
    row.key = "flame";
    row.title = "Flame coil";
    row.purpose = "A silent flame of radio frequency at the tip; not isolated from the supply";
    row.needs = "One screen-fed pentode, a few turns on ceramic, two kilovolts";
    row.coupling_low = 0;
    row.coupling_high = 1;
    row.topload_usual = false;
    row.close_wound = false;
    row.flame_at_tip = true;
    row.groups = needed;
    row.modes = flame_modes();
    row.run_columns = columns;
    row.analyse = [](const Design& design, const TappedPrimary*, Analysis& out) {
      out.quick = quick_drive(design, out);
    };
    row.rules = flame_rules;
    row.checks_before_power = flame_checks;
    row.symptoms = flame_symptoms;
    row.least_people_m = 1;
    row.start = flame_begins;
    row.first_feed = "filtered";
    row.vary = vary_flame;
    row.demo = "candle-reed";
    return row;
  }();
  return kind;
}

} // namespace arc
