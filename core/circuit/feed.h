// The registry of feed blocks: what stands between the wall and the tank, each with its numbers. A feed is a list
// of blocks in order; circuit/charging.h turns it into a network. To add a block, add its row in feed.cpp and what
// it does to the network there.
#pragma once

#include "design/design.h"
#include "quantity/quantity.h"

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

inline constexpr std::size_t most_feed_blocks = 30;

struct BlockNumber {
  std::string_view key; // in the file, SI units
  std::string_view label;
  Dimension dimension;
  double minimum;
  double maximum;
  double standard; // taken when the file does not say
};

struct BlockKind {
  std::string_view key;
  std::string_view title;
  std::vector<BlockNumber> numbers;
  std::string_view caution; // shown at the block
};

std::span<const BlockKind> block_kinds();
/// nullptr when the kind is not known.
const BlockKind* block_kind(std::string_view key);

/// A block with the standard numbers of its kind. Throws std::out_of_range for an unknown kind.
FeedBlock make_block(std::string_view kind);

/// A number of a block, or the standard one of its kind.
double block_value(const FeedBlock& block, std::string_view key);

/// Empty when the blocks make a path from wall to tank; otherwise what is missing or out of order.
std::string feed_problem(const std::vector<FeedBlock>& feed);

/// Seconds after which a thermal-magnetic breaker of type B or C trips at `current_a` (middle of the band of
/// IEC 60898-1: never below 1.13 times, within an hour at 1.45, 30 s at 2.55; at once above 4 or 7.5 times; the
/// curve between these points is from memory). Infinite when it holds.
double breaker_trip_s(double rated_a, double current_a, bool type_c);

} // namespace arc
