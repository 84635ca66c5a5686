// The usual feeds of a tank or a bus, to start from instead of an empty path (common practice of builders, no
// source). To add one, add a row in feed_arrangements.cpp.
#pragma once

#include "circuit/feed.h"

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct FeedArrangement {
  std::string_view key;
  std::string_view title;
  std::string_view words; // what it suits, and what it takes
  FeedEnd end;
  /// Its blocks, sized for the design's mains and for what its gap fires at, its bus stores, or its tube is rated
  /// for. Each can be changed afterwards.
  std::vector<FeedBlock> (*blocks)(const Design&);
  /// Why it cannot serve this design, "650 V of bus on switches for 500 V"; empty when it can. Null: always.
  std::string (*unfit)(const Design&) = nullptr;
  std::string unfit_for(const Design& design) const { return unfit ? unfit(design) : std::string(); }
};
/// The usual paths of all ends, in the order in which they are offered.
std::span<const FeedArrangement> feed_arrangements();
/// Whatever is rated for the line's current (A) raised to the next usual size where that is too much for it.
void size_for_line(SharedList<FeedBlock>& feed, double line_a);
/// Throws std::out_of_range for an unknown key.
const FeedArrangement& feed_arrangement(std::string_view key);

} // namespace arc
