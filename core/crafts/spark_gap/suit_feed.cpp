// What of gap and ratings goes with a feed that was just put: charging simulated, the rest set by what it reaches.
#include "circuit/feed_arrangements.h"
#include "crafts/spark_gap/power_rules.h"
#include "parts/gap.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace arc {
namespace {

// A fixed gap on direct current through a choke burns on: a rotor of eight 6 mm rods on a four-pole motor (common
// practice, no source).
void fit_rotor(Gap& gap, const Site& site) {
  constexpr double rods = 8, poles = 4;
  gap.rotary_electrodes = rods;
  gap.rotor_speed_hz = 2 * site.mains_frequency_hz / poles;
  gap.rotor_phase_deg.reset();
  gap.gaps_in_series = 1;
  gap.spacing_m.reset();
  gap.electrode_diameter_m = 0.006;
}

ChargingResult charged(const Design& design) {
  static const std::atomic<bool> never{false};
  return simulate_charging(design, {.cycles = 100}, never); // a second is counted
}

double settled_v(Design design) { // with nothing that fires
  design.gap.firing_voltage_v = 1e6;
  std::erase_if(design.feed.own(), [](const FeedBlock& b) { return role_of(b) == BlockRole::safety_gap; });
  return charged(design).settled_peak_v;
}

void set_safety_gaps(Design& design, double firing_v) {
  for (FeedBlock& block : design.feed)
    if (role_of(block) == BlockRole::safety_gap) block.values["firing_v"] = round_significant(1.15 * firing_v, 2);
}

} // namespace

void suit_gap_to_feed(Design& design) {
  try {
    if (find_block(design.feed, BlockRole::charging_choke)) {
      if (!presentations_hz(design.gap)) fit_rotor(design.gap, design.site);
    } else if (!presentations_hz(design.gap)) {
      constexpr double surely = 0.9, usual = 0.85; // of what the tank settles at
      const double settled = settled_v(design);
      if (design.gap.firing_voltage_v > surely * settled) {
        set_firing_voltage(design, std::max(10.0, round_significant(usual * settled, 2)));
        set_safety_gaps(design, design.gap.firing_voltage_v);
      }
    }
    const ChargingResult charging = charged(design);
    size_for_line(design.feed, charging.line_current_a);
    if (!(charging.break_rate_hz > 0)) return;
    design.gap.break_rate_hz = std::round(charging.break_rate_hz);
    if (presentations_hz(design.gap)) design.gap.firing_voltage_v = round_significant(charging.break_voltage_v, 3);
  } catch (const std::invalid_argument&) { // what is missing or cannot be is a finding of its own
  }
}

} // namespace arc
