// Looking up the row of a kind.
#include "craft/kind.h"

#include <stdexcept>

namespace arc {

const CoilKind* coil_kind(std::string_view key) {
  for (const CoilKind* kind : coil_kinds())
    if (kind->key == key) return kind;
  return nullptr;
}

const CoilKind& kind_of(const Design& design) {
  if (const CoilKind* kind = coil_kind(design.kind)) return *kind;
  throw std::invalid_argument("“" + design.kind + "” is not a kind of coil");
}

} // namespace arc
