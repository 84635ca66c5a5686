// Single changes that a simulation tried, one value for every craft: what each would bring, ranked, and whether it
// may be offered.
#pragma once

#include "model/design.h"

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// By how much a change must better what it is ranked by to be offered.
inline constexpr double least_gain = 1.001;

struct TriedChange {
  /// Of a figure, then over now.
  struct Ratio {
    std::string_view key;   // in results for scripts
    std::string_view words; // "heat in the transistor"; empty where it is not said
    double value;
  };
  std::string title = {};         // "Move the tap out 0.39 turn"
  double merit = 0;               // what it is ranked by, over now
  std::string instead = {};       // said for a gain where nothing can be compared with now: "starts"
  std::string more = {};          // said with that
  std::vector<Ratio> ratios = {}; // in the order in which they are said
  std::function<void(Design&)> apply = {};
  double frequency_hz = 0; // on which it would run, of the crafts that ask
  std::string stop = {};   // that it would bring
  bool offered = false;    // it helps, and brings none

  /// The ratio with this key; 0 when there is none.
  double ratio(std::string_view key) const;
  /// "+3.1 %", or what stands for it.
  std::string gain_text() const;
  /// "Top 95 %, heat in the transistor 90 % of now"; empty where there is nothing to say.
  std::string ratios_text() const;
};

/// Best first; what is alike stays in its order.
void rank_changes(std::vector<TriedChange>& changes);

} // namespace arc
