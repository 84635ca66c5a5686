// The usual feeds of a tank or a bus, to start from instead of an empty path (common practice of builders, no
// source). To add one, add a row in feed_arrangements.cpp.
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
  FeedEnd end;
  /// Its blocks for these mains (V); `wanted` is what a tank's gap fires at (V), of a bus the farads of its
  /// reservoir, of a plate what the tube is rated for (V). Each can be changed afterwards.
  std::vector<FeedBlock> (*blocks)(double mains_v, double wanted);
};
std::span<const FeedArrangement> feed_arrangements();

} // namespace arc
