// The bands once more, by brute force: random coils within the tolerances, each solved anew. Slower than linear
// propagation and free of its assumption that results move in proportion to inputs.
#pragma once

#include "model/design.h"

#include <atomic>
#include <functional>
#include <string>
#include <vector>

namespace arc {

/// Spread of one result over the samples.
struct SampledBand {
  std::string key; // as in readings
  double middle;   // median
  double low;      // 15.9 % of the samples lie below
  double high;     // 15.9 % lie above
};

struct SamplingResult {
  int samples = 0; // that could be solved
  int refused = 0; // whose bodies touched, or whose numbers fell out of their range
  std::vector<SampledBand> bands;
};

/// Solves `samples` random designs on `threads` threads; every input is drawn from a normal distribution with its
/// tolerance as standard deviation, by a generator with `seed`: the result does not depend on the threads.
/// `progress` is called with the number done, from any thread. Stops early, with what is done, when `cancelled`
/// becomes true.
SamplingResult sample_tolerances(const Design& design, int samples, unsigned seed, int threads,
                                 const std::atomic<bool>& cancelled, const std::function<void(int)>& progress = {});

} // namespace arc
