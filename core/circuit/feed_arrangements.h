// The usual feeds of a tank, to start from instead of an empty path (common practice of builders, no source). To
// add one, add a row in feed_arrangements.cpp.
#pragma once

#include "circuit/feed.h"

#include <span>
#include <string_view>
#include <vector>

namespace arc {

struct FeedArrangement {
  std::string_view key;
  std::string_view title;
  std::string_view words; // what it suits, and what it takes
  /// Its blocks for these mains (V) and a gap that fires at `firing_v`; each can be changed afterwards.
  std::vector<FeedBlock> (*blocks)(double mains_v, double firing_v);
};
std::span<const FeedArrangement> feed_arrangements();

} // namespace arc
