// What a feed's loads say of its blocks, whatever it ends in. Limits are common practice of coil builders (no
// source) unless a source is named.
#pragma once

#include "circuit/feed.h"
#include "circuit/feed_loads.h"
#include "craft/finding.h"

#include <functional>
#include <optional>
#include <string>
#include <string_view>

namespace arc {

/// The name under which a block's number is shown and found: "block 2 setting".
std::string feed_field(const Design& design, const FeedBlock& block, std::string_view key);

/// A remedy that sets one number of the first block of a role; nothing happens when the block is gone.
std::function<void(Design&)> set_block(BlockRole role, std::string key, double value);

/// A remedy that sets one number of the block at this place of the path, while the same block stands there.
std::function<void(Design&)> set_block_at(const Design& design, std::size_t place, std::string key, double value);

/// Place of the level shifter in the path; empty without one.
std::optional<std::size_t> level_shifter_at(const Design& design);

/// `holds`: the largest setting of the variac at which the breaker holds; 0: none is known.
std::optional<Finding> breaker_trips(const Design& design, const FeedLoads& loads, double holds, UnitSystem units);
/// `fits`: the largest setting of the variac at which no block is; 0: none is known.
std::optional<Finding> block_overloaded(const Design& design, const FeedLoads& loads, UnitSystem units,
                                        double fits = 0);
/// Inverse volts and mean amperes of every string of diodes against its ratings.
std::optional<Finding> diodes_overloaded(const Design& design, const FeedLoads& loads, UnitSystem units);
/// Of the capacitors that double or shift: volts and ripple against what is marked on them.
std::optional<Finding> capacitor_overloaded(const Design& design, const FeedLoads& loads, UnitSystem units);
/// A level shifter's capacitor that nothing empties in time; `volts` on it.
std::optional<Finding> shifter_bleeds_slowly(const Design& design, double volts, UnitSystem units);

/// The bleeder of the last block that stores, so that it is `ohm` across the whole of it.
void set_store_bleeder(Design& design, double ohm);

/// Scales one number of the last block that stores, so that the whole changes by this factor.
void scale_store(Design& design, std::string_view StoreKeys::*number, double factor);

/// Volts `volts` on `farad`, emptied through `ohm` (infinite: nothing empties it): a warning when it takes more
/// than a minute, a stop when it never ends, with the ohms that do it in 48 s. Its id, title, field and remedy's
/// function are the caller's.
struct SlowBleeding {
  Finding finding;
  double wanted_ohm;
  double seconds;   // 0 when it never ends
  bool hot = false; // it bleeds in time and burns too much all the while
};
std::optional<SlowBleeding> slow_bleeding(double farad, double ohm, double volts, UnitSystem units);

} // namespace arc
