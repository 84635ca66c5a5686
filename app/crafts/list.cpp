// What the crafts add to the window, in the order of the kinds of coil.
#include "base/craft_window.h"
#include "crafts/bridges/window.h"
#include "crafts/exciter/window.h"
#include "crafts/spark_gap/window.h"
#include "crafts/tubes/window.h"

#include <array>

std::span<const CraftWindow* const> craft_windows() {
  static const std::array crafts{&spark_gap_window(), &exciter_window(), &bridges_window(), &tubes_window()};
  return crafts;
}
