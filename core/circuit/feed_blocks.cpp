// The table of feed blocks.
#include "circuit/feed_block_rows.h"

#include <algorithm>
#include <iterator>

namespace arc {

std::span<const BlockKind> block_kinds() {
  static const std::vector<BlockKind> kinds = [] {
    std::vector<BlockKind> all = source_block_kinds();
    std::ranges::move(block_kinds_behind(), std::back_inserter(all));
    return all;
  }();
  return kinds;
}

} // namespace arc
