#include "crafts/tubes/window.h"

#include "base/craft_window.h"
#include "feed/feed_ends.h"
#include "stages/stage.h"

#include <array>

namespace {

std::span<const StageSpec> tubes_stages() {
  static const std::array table{
      StageSpec{
          .key = "oscillator",
          .title = "Oscillator",
          .make = make_oscillator_stage,
          .about = "The tube, its tank, its feedback winding and its grid leak, drawn as they are wired. Whether "
                   "it starts, "
                   "what it draws and how hot the plate gets is simulated; the quick figures follow every drag.",
          .cautions = {"Plate coil, tank, trap and the tube's cap are at kilovolts, direct and radio frequency "
                       "together: they "
                       "kill, "
                       "and burn at a distance.",
                       "Supply and RF bypass capacitors stay charged: off, unplugged, short, leave the clip on.",
                       "A tube that does not oscillate turns its input into heat within seconds: watch the plate, "
                       "one hand on the "
                       "switch.",
                       "Glass under vacuum bursts inwards, and is hot: eye protection. Above some ten kilovolts it "
                       "makes X-rays.",
                       defer_to_codes},
          .group = "tube"},
      StageSpec{.key = "staccato",
                .title = "Gate",
                .make = make_staccato_stage,
                .about = "The interrupter in the cathode's return: which mains cycles run, and for how long. What "
                         "is asked and what "
                         "the thyristor makes of it are drawn over the supply.",
                .cautions = {"The thyristor and its gate float at the cathode: isolate the interrupter by fibre or "
                             "opto-coupler for two "
                             "to "
                             "four kilovolts.",
                             "The snubber's capacitor stays charged.",
                             "Flashing light at a few times a second troubles some people: ask who watches.",
                             defer_to_codes},
                .group = "feedback",
                .help = "Gate (tube"}};
  return table;
}

const FeedEndRow& tubes_feed_end() {
  static const FeedEndRow row{.end = arc::FeedEnd::plate,
                              .name = "Plate coil",
                              .symbol = "triode",
                              .empty = "Nothing feeds the plate yet",
                              .sized = "Sized for these mains and this tube",
                              .make_view = make_plate_feed_view};
  return row;
}

constexpr std::array<DemoPicture, 2> tubes_pictures{
    {{"tube", "oscillator", "tube"}, {"tube", "staccato", "staccato"}}};

} // namespace

const CraftWindow& tubes_window() {
  static const CraftWindow window{.stages = tubes_stages, .feed_end = tubes_feed_end, .pictures = tubes_pictures};
  return window;
}
