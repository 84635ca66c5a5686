// The path of power of a bridge at a glance, as values: its parts in order, from the wall to the resonator and back
// from what is heard to the gates, each with its symbol and what is known of it. The window draws them.
#pragma once

#include "crafts/bridges/bridge.h"

#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct PathPart {
  std::string_view symbol; // of the circuits' set
  std::string_view key;    // page of fields that belongs to it
  std::string title;       // "Reservoir"
  std::string value = {};  // "820 µF"
  std::string joint = {};  // what stands behind it: "−2.1 V a burst"
  bool below = false;      // on the way back
  bool hot = false;        // beyond a limit
  bool wound = false;      // drawn in the coil's own colour
};

/// The parts of this bridge. `analysis` and `bridge` may be null, and the bridge without a result: what is not
/// known yet is a dash.
std::vector<PathPart> bridge_path(const Design& design, const Analysis* analysis, const BridgeAnalysis* bridge,
                                  UnitSystem units);

} // namespace arc
