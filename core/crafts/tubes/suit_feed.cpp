// What of oscillator and ratings goes with a feed that was just put.
#include "analysis/analyse.h"
#include "circuit/feed_arrangements.h"
#include "crafts/tubes/tube.h"

#include <algorithm>

namespace arc {

void suit_tube_to_feed(Design& design) {
  const bool steady = find_block(design.feed, BlockRole::reservoir) != nullptr;
  if (!steady) return; // a supply that swings takes the crest's current for moments only
  design.tube.staccato = false;
  Kept kept;
  const Analysis analysis = analyse_untried(design, UnitSystem::metric, false, kept);
  constexpr double power_factor = 0.8; // of a choke before the reservoir (common practice)
  if (analysis.quick)
    size_for_line(design.feed, analysis.quick->input_w / power_factor / design.site.mains_voltage_v);
}

} // namespace arc
