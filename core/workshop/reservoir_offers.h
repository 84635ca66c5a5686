// What capacitors of the shelf can do as a reservoir, electrolytic ones too.
#pragma once

#include "model/design.h"
#include "workshop/shelf.h"

#include <string>
#include <vector>

namespace arc {

struct ReservoirOffer {
  ShelfCapacitor unit;
  int in_series = 1, in_parallel = 1; // all that the shelf has of it
  double capacitance_f = 0, limit_v = 0;
  /// Puts it into a block that stores, electrolytic or plain.
  void put_into(FeedBlock& block) const;
  int pieces() const { return in_series * in_parallel; }
};

inline constexpr double reservoir_margin =
    1.1; // of rating over the voltage, uneven sharing aside (common practice)

/// Owned capacitors that hold `volts` (V) with a tenth to spare in strings of equal ones; largest first.
std::vector<ReservoirOffer> reservoir_offers(const Shelf& shelf, double volts);

} // namespace arc
