#include "feed/feed_ends.h"

#include "base/craft_window.h"
#include "craft/kind.h"

const FeedEndRow& feed_end_of(const arc::Design& design) {
  const FeedEndRow* first = nullptr;
  for (const CraftWindow* craft : craft_windows()) {
    if (!craft->feed_end) continue;
    const FeedEndRow& row = craft->feed_end();
    if (row.end == arc::kind_of(design).feed_end) return row;
    if (!first) first = &row;
  }
  return *first;
}
