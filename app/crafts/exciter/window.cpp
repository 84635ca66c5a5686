#include "crafts/exciter/window.h"

#include "base/craft_window.h"
#include "stages/stage.h"

#include <array>

namespace {

std::span<const StageSpec> exciter_stages() {
  static const std::array table{StageSpec{
      .key = "driver",
      .title = "Driver",
      .make = make_driver_stage,
      .about =
          "The small transistor oscillator of a bench coil. Choose the arrangement, the transistor and the supply; "
          "heat and drive are simulated as the coil really runs.",
      .cautions =
          {"The collector, its heat sink and the primary swing to many times the supply, at radio frequency: they "
           "burn "
           "at a touch.",
           "A transistor that is too hot fails within seconds and can burst: eye protection, and raise the supply "
           "slowly.",
           "The supply stands between the mains and your hands: use one that is isolated and limits its current.",
           defer_to_codes},
      .group = "exciter"}};
  return table;
}

constexpr std::array<DemoPicture, 1> exciter_pictures{{{"exciter", "driver", "exciter-driver"}}};

} // namespace

const CraftWindow& exciter_window() {
  static const CraftWindow window{.stages = exciter_stages, .pictures = exciter_pictures};
  return window;
}
