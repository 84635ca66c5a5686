// The kinds of coil, in the order in which they are offered. Only those whose whole path works are listed.
#include "coil/kind.h"
#include "kinds/bridge/bridge.h"
#include "kinds/dual_resonant/dual_resonant.h"
#include "kinds/exciter/exciter.h"
#include "kinds/flame/flame.h"
#include "kinds/spark_gap/spark_gap.h"
#include "kinds/tube/tube.h"

#include <array>

namespace arc {

std::span<const CoilKind* const> coil_kinds() {
  static const std::array<const CoilKind*, 6> kinds{&spark_gap_kind(),     &exciter_kind(), &bridge_kind(),
                                                    &dual_resonant_kind(), &tube_kind(),    &flame_kind()};
  return kinds;
}

} // namespace arc
