// Monte-Carlo sampling of the tolerances.
#include "analysis/sampling.h"

#include "coil/geometry.h"
#include "evidence/tolerance.h"
#include "file/validity.h"
#include "quantity/parallel.h"

#include <algorithm>
#include <cmath>
#include <random>
#include <stdexcept>
#include <thread>

namespace arc {

SamplingResult sample_tolerances(const Design& design, int samples, unsigned seed, int threads,
                                 const std::atomic<bool>& cancelled, const std::function<void(int)>& progress) {
  const auto inputs = tolerance_inputs();
  // Drawn up front and in order, so that neither threads nor cancelling change a sample.
  std::mt19937 generator(seed);
  std::normal_distribution<double> normal;
  std::vector<std::vector<double>> draws(static_cast<std::size_t>(samples));
  for (auto& draw : draws)
    for (std::size_t i = 0; i < inputs.size(); ++i) draw.push_back(normal(generator));

  std::vector<std::optional<std::map<std::string, double>>> results(draws.size());
  std::atomic<std::size_t> next{0};
  std::atomic<int> refused{0};
  Tally done;
  const auto work = [&] {
    for (std::size_t k = next++; k < draws.size() && !cancelled; k = next++) {
      Design varied = design;
      for (std::size_t i = 0; i < inputs.size(); ++i)
        inputs[i].nudge(varied, draws[k][i] * tolerance_of(design, inputs[i]));
      try {
        if (numbers_out_of_range(varied).empty() && conductor_problem(varied).empty())
          results[k] = banded_results(varied, {40, 20, true});
        else
          ++refused;
      } catch (const std::invalid_argument&) {
        ++refused;
      }
      done.add([&](int now) {
        if (progress) progress(now);
      });
    }
  };
  std::vector<std::jthread> crew;
  for (int t = 1; t < threads; ++t) crew.emplace_back(work);
  work();
  crew.clear(); // joins

  SamplingResult out;
  out.refused = refused;
  std::map<std::string, std::vector<double>> values;
  for (const auto& result : results) {
    if (!result) continue;
    ++out.samples;
    for (const auto& [key, value] : *result) values[key].push_back(value);
  }
  for (auto& entry : values) {
    std::vector<double>& list = entry.second;
    std::ranges::sort(list);
    const auto quantile = [&](double part) {
      const double place = part * static_cast<double>(list.size() - 1);
      const auto low = static_cast<std::size_t>(place);
      const std::size_t high = std::min(low + 1, list.size() - 1);
      return list[low] + (place - static_cast<double>(low)) * (list[high] - list[low]);
    };
    out.bands.push_back({entry.first, quantile(0.5), quantile(0.158655), quantile(0.841345)});
  }
  return out;
}

} // namespace arc
