// What the power path of a kind of coil may end in: one row for each, with its words, its symbol and what its usual
// arrangements are sized for.
#pragma once

#include "circuit/feed.h"
#include "model/design.h"

struct FeedEndRow {
  arc::FeedEnd end;
  const char *name, *symbol; // on the strip
  const char *empty, *sized; // of a path that is not there yet
};
/// The row of this design's kind; the tank's where its kind has no path.
const FeedEndRow& feed_end_of(const arc::Design& design);
