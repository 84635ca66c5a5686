// What the power path of a kind of coil may end in, with its words, its symbol and the view below the strip: one
// row for each, of the craft that has it.
#pragma once

#include "circuit/feed.h"
#include "model/design.h"

#include <QWidget>

class FeedView;
class Workspace;
struct StageHead;

struct FeedEndRow {
  arc::FeedEnd end;
  const char *name, *symbol; // on the strip
  const char *empty, *sized; // of a path that is not there yet, and of its usual arrangements
  FeedView* (*make_view)(Workspace& workspace, const StageHead& head, QWidget* parent);
};
/// The row of this design's kind; the first where its kind has no path.
const FeedEndRow& feed_end_of(const arc::Design& design);
