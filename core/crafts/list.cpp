// The kinds of coil, in the order in which they are offered. Only those whose whole path works are listed.
#include "craft/kind.h"
#include "crafts/bridges/dual_resonant.h"
#include "crafts/bridges/single.h"
#include "crafts/exciter/exciter.h"
#include "crafts/spark_gap/spark_gap.h"
#include "crafts/tubes/flame.h"
#include "crafts/tubes/tube_coil.h"

#include <array>

namespace arc {

std::span<const CoilKind* const> coil_kinds() {
  static const std::array<const CoilKind*, 6> kinds{&spark_gap_kind(),     &exciter_kind(), &bridge_kind(),
                                                    &dual_resonant_kind(), &tube_kind(),    &flame_kind()};
  return kinds;
}

} // namespace arc
