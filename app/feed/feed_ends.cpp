#include "feed/feed_ends.h"

#include "coil/kind.h"

#include <algorithm>
#include <array>

namespace {

constexpr std::array<FeedEndRow, 3> feed_ends{{
    {arc::FeedEnd::tank, "Tank", "gap-and-tank", "Nothing feeds the tank yet",
     "Sized for this gap and these mains"},
    {arc::FeedEnd::bus, "Bridge", "full-bridge", "Nothing feeds the bus yet",
     "Sized for these mains and this reservoir"},
    {arc::FeedEnd::plate, "Plate coil", "triode", "Nothing feeds the plate yet",
     "Sized for these mains and this tube"},
}};

} // namespace

const FeedEndRow& feed_end_of(const arc::Design& design) {
  const auto it = std::ranges::find(feed_ends, arc::kind_of(design).feed_end, &FeedEndRow::end);
  return it != feed_ends.end() ? *it : feed_ends.front();
}
