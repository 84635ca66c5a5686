// A feed's joints and diodes for scripts.
#pragma once

#include "circuit/feed_loads.h"
#include "quantity/json_text.h"

namespace arc {

/// A list with title, rms_v, peak_v, rms_a, peak_a of each, and the limits that it has.
Json joints_json(const FeedLoads& loads);
/// A list with title, inverse_v, average_a and their limits.
Json diodes_json(const FeedLoads& loads);

} // namespace arc
