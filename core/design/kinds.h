// Registry of coil kinds: what differs between them in one row each. A new kind starts here.
#pragma once

#include <span>
#include <string_view>

namespace arc {

struct CoilKind {
  std::string_view key;   // as written in files
  std::string_view title; // as shown
  double coupling_low;    // usual coupling coefficient band (common practice, no source)
  double coupling_high;
};

std::span<const CoilKind> coil_kinds();
/// nullptr when the kind is not known to this version.
const CoilKind* coil_kind(std::string_view key);

} // namespace arc
