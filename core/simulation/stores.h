// What is still charged when the switch is off, and how it is emptied; how far people and things keep away. Common
// practice of builders (no source); defers to local codes and licensed practice.
#pragma once

#include "simulation/power.h"

#include <optional>
#include <string>
#include <vector>

namespace arc {

/// A capacitor, or several as one, that keeps its charge behind an open switch.
struct Store {
  std::string title;
  double farad = 0;
  double volts = 0;       // at most, peak
  double bleed_ohm = 0;   // infinite: none is entered
  bool mains = false;     // before every transformer
  bool behind_it = false; // a choke or diodes lie between it and the next
  double joule() const { return farad / 2 * volts * volts; }
  /// Seconds until below `bled_target_v`, by its bleeder; infinite without one.
  double bleeds_s() const;
};
inline constexpr double store_counts_v = 50;   // less is no shock hazard to dry hands (IEC 61140, from memory)
inline constexpr double wait_bleed_times = 3;  // the wait, against tolerances of capacitor and bleeder
inline constexpr double probe_by_hand_v = 600; // up to which a hand-held, rated meter is used (common practice)

/// All that stands above `store_counts_v`, from the wall to the coil: those of the feed's blocks and the kind's
/// own. `power`: of this design, or null; its peaks count where they are higher.
std::vector<Store> stores_of(const Design& design, const Analysis& analysis, const PowerAnalysis* power);

/// Seconds to wait before measuring: three times what the slowest takes. Empty where one has no bleeder, or there
/// is nothing to wait for.
std::optional<double> discharge_wait_s(const std::vector<Store>& stores);

/// The steps from switched off to touched: wait, measure, short each through the stick's resistor and then
/// directly.
void add_discharge_steps(const std::vector<Store>& stores, UnitSystem units, std::vector<std::string>& out);

struct Distances {
  double people_m = 0; // at least
  double strike_m = 0; // within which nothing may be struck
};
/// By the longest arc that the rule of its watts allows, at full variac and in tune, whatever the setting; of the
/// larger of entered and simulated power, and never below the kind's least.
Distances distances_of(const Design& design, const Analysis& analysis, const PowerAnalysis* power);

} // namespace arc
