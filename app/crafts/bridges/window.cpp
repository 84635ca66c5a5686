#include "crafts/bridges/window.h"

#include "base/craft_window.h"
#include "feed/feed_ends.h"
#include "stages/stage.h"

#include <array>

namespace {

std::span<const StageSpec> bridges_stages() {
  static const std::array table{
      StageSpec{
          .key = "bridge",
          .title = "Bridge",
          .make = make_bridge_stage,
          .about = "The half or full bridge and its switches, driven at the coil's own frequency. See current, "
                   "switching "
                   "instant and heat over a burst, and what dead time and phase lead do to them.",
          .cautions =
              {"The bridge, its driver's far side and the primary hang on the mains: nothing of it is touched, nor "
               "connected to "
               "a grounded instrument.",
               "The reservoir kills and stays charged: unplug, wait the bleed time, measure it before a hand goes "
               "near.",
               "Switches that fail can burst: eye protection, and a cover over the bridge.",
               "First power from an isolated supply of 20 to 30 V with a current limit.", defer_to_codes},
          .group = "bridge"},
      StageSpec{
          .key = "gate",
          .title = "Gate",
          .make = make_gate_stage,
          .about = "When the bridge runs: bursts, rate, or music. Limits of the switches and of the coil are drawn "
                   "over what "
                   "is asked, so that what really happens can be seen before power.",
          .cautions =
              {"Longer bursts and higher rates heat switches faster than a sink shows: the junction is hot long "
               "before.",
               "The interrupter's lead is an antenna at the coil: fibre, or an opto-isolator with its own battery.",
               "Loud at high rates: ear protection, and neighbours.", defer_to_codes},
          .group = "bridge",
          .help = "Gate (bridges"}};
  return table;
}

const FeedEndRow& bridges_feed_end() {
  static const FeedEndRow row{.end = arc::FeedEnd::bus,
                              .name = "Bridge",
                              .symbol = "full-bridge",
                              .empty = "Nothing feeds the bus yet",
                              .sized = "Sized for these mains and this reservoir",
                              .make_view = make_bus_feed_view};
  return row;
}

constexpr std::array<DemoPicture, 4> bridges_pictures{{{"bridge", "feed", "bridge-feed"},
                                                       {"bridge", "bridge", "bridge"},
                                                       {"bridge", "gate", "gate"},
                                                       {"dual-resonant", "bridge", "dual-resonant"}}};

} // namespace

const CraftWindow& bridges_window() {
  static const CraftWindow window{
      .stages = bridges_stages, .feed_end = bridges_feed_end, .pictures = bridges_pictures};
  return window;
}
