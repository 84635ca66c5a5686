// Checklists with the coil's numbers filled in.
#include "kinds/spark_gap/spark_gap.h"

#include "parts/bank.h"

#include <fmt/format.h>

namespace arc {

std::vector<CheckItem> spark_gap_checks(const Design& design, const Analysis& analysis, UnitSystem units) {
  const auto print = [&](double si, Dimension d) { return format_quantity(si, d, units, 3); };
  // Three arc lengths keeps streamers and their surprises away from people.
  const double back = 3 * analysis.expected_arc_m.high;
  const std::string bleeders =
      analysis.bleed_time_s
          ? fmt::format("Bleeders on every tank unit looked at: {} down to {}",
                        print(*analysis.bleed_time_s, Dimension::time), print(bled_target_v, Dimension::voltage))
          : "No bleeders entered: the shorting clip stays on the tank until the last moment";
  return {
      {"people", fmt::format("People and pets at least {} back; nobody with a pacemaker or implant near",
                             print(round_significant(back, 2), Dimension::length))},
      {"devices", "Phones, watches, hearing aids and meters away; computers unplugged"},
      {"ground", "Secondary foot on its own ground rod or counterpoise, not on mains earth"},
      {"strike", fmt::format("Nothing that may be struck within {}: wiring, lamps, pipes, ceiling",
                             print(round_significant(analysis.expected_arc_m.high, 2), Dimension::length))},
      {"bleed", bleeders},
      {"clip", fmt::format("Clip at turn {:.2f}, tight; gap set and clean", design.primary.tap_turns)},
      {"fire", "Fire extinguisher for electrical fires within reach; ventilation on (ozone)"},
      {"protect", "Ear and eye protection on; no looking into the gap"},
      {"switch", "One person on the switch, hold-to-run, one hand behind the back; someone else in the room"},
  };
}

std::vector<std::string> spark_gap_steps_after(const Design& design, const Analysis& analysis, UnitSystem units) {
  const auto print = [&](double si, Dimension d) { return format_quantity(si, d, units, 3); };
  std::vector<std::string> out{"Switch off, turn the variac to zero, pull the plug."};
  if (analysis.bleed_time_s)
    out.push_back(fmt::format("Wait {}: three times the bleed time from {}.",
                              print(3 * *analysis.bleed_time_s, Dimension::time),
                              print(design.gap.firing_voltage_v, Dimension::voltage)));
  else
    out.push_back("There is no bleeder: treat the tank as charged however long you wait.");
  out.push_back(fmt::format("Short the tank ({}) with a long insulated grounding stick, then leave the clip on.",
                            print(analysis.stored_energy_j, Dimension::energy)));
  out.push_back("Only then touch the primary, the gap or the capacitors.");
  return out;
}

} // namespace arc
