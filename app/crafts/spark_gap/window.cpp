#include "crafts/spark_gap/window.h"

#include "base/craft_window.h"
#include "feed/feed_ends.h"
#include "stages/stage.h"

#include <array>

namespace {

std::span<const StageSpec> spark_gap_stages() {
  static const std::array table{StageSpec{
      .key = "switch",
      .title = "Switch",
      .make = make_switch_stage,
      .about = "The spark gap that empties the tank into the primary. Distances, rotor and rate decide when it "
               "fires and "
               "how often; the firing voltage is what everything before it must hold.",
      .cautions = {"A spark gap is bright in the ultraviolet and loud: eye and ear protection, and a cover.",
                   "It makes ozone and nitrogen oxides: ventilate.",
                   "Electrodes stay hot, and the tank may be charged: adjust the gap only unplugged and shorted.",
                   "A rotor can throw its electrodes: a guard around it, and never in line with it.",
                   defer_to_codes},
      .group = "gap"}};
  return table;
}

const FeedEndRow& spark_gap_feed_end() {
  static const FeedEndRow row{.end = arc::FeedEnd::tank,
                              .name = "Tank",
                              .symbol = "gap-and-tank",
                              .empty = "Nothing feeds the tank yet",
                              .sized = "Sized for this gap and these mains",
                              .make_view = make_tank_feed_view};
  return row;
}

} // namespace

const CraftWindow& spark_gap_window() {
  static const CraftWindow window{.stages = spark_gap_stages, .feed_end = spark_gap_feed_end};
  return window;
}
