// What a craft adds to the window, each in its folder under crafts/; crafts/list.cpp names them all. A test puts a
// list of its own in its place.
#pragma once

#include <span>

struct FeedEndRow;
struct StageSpec;

/// A stage of a kind's demo that is kept as a picture.
struct DemoPicture {
  const char *kind, *stage, *name; // of the file, without its ending
};

struct CraftWindow {
  std::span<const StageSpec> (*stages)();    // between those of every coil, in the order of work
  const FeedEndRow& (*feed_end)() = nullptr; // what its path from the wall ends in; null without one
  std::span<const DemoPicture> pictures = {};
};

/// In the order of the kinds of coil.
std::span<const CraftWindow* const> craft_windows();
