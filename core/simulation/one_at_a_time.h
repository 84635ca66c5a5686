// Bands of simulated figures: every input moved by its own uncertainty, one after the other, both ways.
#pragma once

#include "quantity/parallel.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <functional>
#include <map>
#include <stdexcept>
#include <string>
#include <utility>
#include <vector>

namespace arc {

using FigureValues = std::map<std::string, double>; // by key

/// Ways on which it takes another course (another pole, a limit that trips in another cycle) are no shift of the
/// same figures: they are left out of the bands and given here.
struct OtherCourses {
  std::function<bool(const FigureValues& way)> is;
  std::vector<FigureValues> ways;
};
/// Whether a frequency is of another pole than `here_hz`; what inputs are in doubt by shifts a pole by some per
/// cent.
inline bool is_other_pole(double hz, double here_hz) {
  return hz > 0 && here_hz > 0 && std::abs(std::log(hz / here_hz)) > 0.08;
}

/// Half-widths of the figures `at` that `run` gives for `middle`: the larger of each input's two ways, summed in
/// squares, inputs independent. `run` is called from several threads. A way that cannot run at all
/// (std::invalid_argument) leaves the other to speak alone. Empty when cancelled. `others`: null where every way
/// counts.
template <typename State>
FigureValues one_at_a_time(const State& middle, const FigureValues& at,
                           const std::vector<std::function<void(State&, double)>>& inputs,
                           const std::function<FigureValues(const State&)>& run, const std::atomic<bool>& cancelled,
                           OtherCourses* others = nullptr) {
  std::vector<FigureValues> runs(2 * inputs.size()); // one way, the other way, of each input
  parallel_for(runs.size(), [&](std::size_t i) {
    if (cancelled) return;
    State moved = middle;
    inputs[i / 2](moved, i % 2 ? 1.0 : -1.0);
    try {
      runs[i] = run(moved);
    } catch (const std::invalid_argument&) { // that way it does not run at all
    }
  });
  for (FigureValues& way : runs)
    if (others && !way.empty() && others->is(way)) others->ways.push_back(std::exchange(way, {}));
  FigureValues squares;
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    FigureValues most;
    for (const FigureValues& way : {runs[2 * i], runs[2 * i + 1]})
      for (const auto& [key, value] : way) {
        const double off = std::abs(value - at.at(key));
        if (std::isfinite(off)) most[key] = std::max(most[key], off);
      }
    for (const auto& [key, value] : most) squares[key] += value * value;
  }
  for (auto& [key, value] : squares) value = std::sqrt(value);
  return cancelled ? FigureValues{} : squares;
}

} // namespace arc
