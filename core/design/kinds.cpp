// Coil kinds. Only kinds whose whole path works are listed.
#include "design/kinds.h"

#include <array>

namespace arc {

std::span<const CoilKind> coil_kinds() {
  static constexpr std::array<CoilKind, 1> kinds{{{"spark-gap", "Spark gap", 0.10, 0.15}}};
  return kinds;
}

const CoilKind* coil_kind(std::string_view key) {
  for (const CoilKind& kind : coil_kinds())
    if (kind.key == key) return &kind;
  return nullptr;
}

} // namespace arc
