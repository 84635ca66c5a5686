// Rows of the table of feed blocks, in two halves; internal to circuit/.
#pragma once

#include "circuit/feed.h"
#include "circuit/feed_network.h"

#include <string_view>
#include <vector>

namespace arc {

// Numbers of a block by key.
struct BlockValues {
  const FeedBlock& block;
  double operator()(std::string_view key) const { return block_value(block, key); }
};

/// From the wall up to what makes the volts.
std::vector<BlockKind> source_block_kinds();
/// What stands behind it.
std::vector<BlockKind> block_kinds_behind();

} // namespace arc
