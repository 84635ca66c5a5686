// Two numbers tried against each other: one value for every craft. What is known at each place, where nothing runs,
// where a limit lies, and how a place is taken.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct MapAxis {
  std::string key, title;
  Dimension dimension = Dimension::number;
  double now = 0;             // where the design stands
  std::vector<double> values; // evenly spaced, SI
};

/// A quantity that is known at each place.
struct MapQuantity {
  std::string_view key;   // in results for scripts
  std::string_view title; // "Power in the burst"
  Dimension dimension = Dimension::number;
  int digits = 3;
};

struct TriedMap {
  struct Place {
    bool runs = false;
    std::vector<double> values; // by quantity, SI; empty where it does not run
    double limit = 0;           // share of what the part under most stress may reach; 0: not known
  };
  MapAxis across = {}, up = {};
  std::vector<MapQuantity> quantities = {}; // the first is what is looked at first
  std::vector<Place> places = {};           // by `up`, then by `across`
  std::string idle = {};                    // of a place that does not run: "it does not lock"
  std::string beside = {};                  // said of every other: "at the crest"
  std::string limit_words = {};             // of the line where a limit is reached; empty: there is none
  std::string only_shown = {};              // why no place can be taken; empty where one can
  /// Sets both, as near as the parts of the design allow; empty where one of them cannot be set.
  std::function<void(Design&, double across, double up)> apply = {};

  const Place& at(std::size_t column, std::size_t row) const { return places[row * across.values.size() + column]; }
  /// The value of a quantity there, by its key; not a number where it does not run.
  double value(const Place& place, std::string_view key) const;
  /// "12 turns, 300 mm: power in the burst 3 kW, …", in words for whoever picks it.
  std::string words(std::size_t column, std::size_t row, UnitSystem units) const;
};

} // namespace arc
