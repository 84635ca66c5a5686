// Samples the number's range on all processors, then closes in on the crossing nearest to where it is.
#include "workshop/solve.h"

#include "quantity/parallel.h"
#include "workshop/moved_number.h"

#include <boost/math/tools/toms748_solve.hpp>

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>

namespace arc {
namespace {

constexpr double widest = 5; // times what the number is, either way

class Solver {
 public:
  Solver(const Design& design, const Figure& figure, const NumberPlace& place, const std::atomic<bool>& cancelled)
      : design_(design), figure_(figure), place_(place), cancelled_(cancelled) {}

  ComputedDesign at(double value) const {
    const Computing how = figure_.needs == Needs::power ? Computing::simulation : Computing::rest;
    return compute(with_number(design_, place_, value), how, cancelled_);
  }
  std::optional<double> of(double value) const try {
    const ComputedDesign now = at(value);
    const auto out = figure_value(figure_, now.view());
    return out && std::isfinite(*out) ? out : std::nullopt;
  } catch (const std::invalid_argument&) {
    return {};
  }

 private:
  const Design& design_;
  const Figure& figure_;
  const NumberPlace& place_;
  const std::atomic<bool>& cancelled_;
};

// Where the number is tried: evenly in the logarithm, denser than a figure bends; whole ones at whole places.
std::vector<double> tried_places(const NumberPlace& place, bool whole, int count) {
  const bool negative = place.value <= 0;
  double low = negative ? place.minimum : std::max(place.minimum, place.value / widest);
  double high = negative ? std::min(place.maximum, std::max(1.0, place.minimum + 1))
                         : std::min(place.maximum, place.value * widest);
  low = std::min(low, place.value);
  high = std::max(high, place.value);
  std::vector<double> out;
  for (int i = 0; i <= count; ++i) {
    const double share = static_cast<double>(i) / count;
    const double x = low > 0 ? low * std::pow(high / low, share) : low + share * (high - low);
    out.push_back(whole ? std::round(x) : x);
  }
  out.push_back(place.value);
  std::ranges::sort(out);
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

std::vector<AlsoChanged> also_changed(const ComputedDesign& before, const ComputedDesign& after,
                                      const Figure& asked) {
  constexpr double worth = 1e-3; // relative
  constexpr std::size_t most = 40;
  std::vector<AlsoChanged> out;
  for (const Figure* figure : figures_at_rest(kind_of(before.design))) {
    if (figure->key == asked.key) continue;
    const auto was = figure_value(*figure, before.view()), is = figure_value(*figure, after.view());
    if (was && is && std::abs(*is - *was) > worth * std::max(std::abs(*was), std::abs(*is)))
      out.push_back({std::string(figure->key), *was, *is});
  }
  std::ranges::stable_sort(out, std::ranges::greater{}, [](const AlsoChanged& a) {
    return std::abs(a.after - a.before) / std::max(std::abs(a.before), std::abs(a.after));
  });
  if (out.size() > most) out.resize(most);
  return out;
}

} // namespace

Dimension dimension_of_figure(const Design& design, std::string_view result) {
  return figure_named(design, result).dimension;
}

Solved solve(const Design& design, std::string_view result, double wanted, std::string_view field,
             const std::atomic<bool>& cancelled) {
  const Figure& figure = figure_named(design, result);
  const NumberPlace place = number_at(design, field);
  const bool whole = place.whole;
  const Solver solver(design, figure, place, cancelled);
  const auto now = solver.of(place.value);
  constexpr std::string_view with_evidence = "best_"; // nothing was measured: as computed
  if (!now && result.starts_with(with_evidence))
    return solve(design, result.substr(with_evidence.size()), wanted, field, cancelled);
  if (!now) throw std::invalid_argument(fmt::format("the design has no “{}” to begin with", result));
  const std::vector<double> places = tried_places(place, whole, figure.needs == Needs::power ? 24 : 48);
  std::vector<std::optional<double>> values(places.size());
  parallel_for(places.size(), [&](std::size_t i) {
    if (!cancelled) values[i] = solver.of(places[i]);
  });
  Solved out;
  out.field = place.path;
  out.low = out.high = *now;
  out.value = place.value;
  out.reached = *now;
  const auto nearer = [&](double x, double y) { // in the figure, then in the number
    const double by = std::abs(y - wanted), best = std::abs(out.reached - wanted);
    if (by < best || (by == best && std::abs(x - place.value) < std::abs(out.value - place.value))) {
      out.value = x;
      out.reached = y;
    }
  };
  std::optional<std::size_t> crossing;
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (!values[i]) continue;
    out.low = std::min(out.low, *values[i]);
    out.high = std::max(out.high, *values[i]);
    out.tried.emplace_back(places[i], *values[i]);
    nearer(places[i], *values[i]);
    if (i == 0 || !values[i - 1] || (*values[i - 1] - wanted) * (*values[i] - wanted) > 0) continue;
    const auto off = [&](std::size_t k) { return std::abs((places[k] + places[k - 1]) / 2 - place.value); };
    if (!crossing || off(i) < off(*crossing)) crossing = i;
  }
  if (crossing && !cancelled) {
    double low = places[*crossing - 1], high = places[*crossing];
    if (whole) { // between two of them none is left out
      while (high - low > 1.5 && !cancelled) {
        const double middle = std::round((low + high) / 2);
        const auto there = solver.of(middle);
        if (!there) break;
        nearer(middle, *there);
        const bool as_low = (*there - wanted) * (*solver.of(low) - wanted) > 0;
        (as_low ? low : high) = middle;
      }
    } else {
      const auto miss = [&](double x) { return solver.of(x).value_or(std::nan("")) - wanted; };
      constexpr int bits = 30;
      std::uintmax_t steps = 40;
      const double from = miss(low), to = miss(high);
      if (from * to < 0) {
        const auto [a, b] = boost::math::tools::toms748_solve(
            miss, low, high, from, to, boost::math::tools::eps_tolerance<double>(bits), steps);
        const double x = (a + b) / 2;
        if (const auto there = solver.of(x)) nearer(x, *there);
      }
    }
  }
  // A crossing may be a jump, where a measurement ceases to fit.
  constexpr double near_enough = 1e-3;
  const double short_of = std::abs(out.reached - wanted);
  out.possible = (whole && crossing) || short_of <= near_enough * std::abs(wanted);
  out.design = with_number(design, place, out.value);
  if (!cancelled) out.also = also_changed(solver.at(place.value), solver.at(out.value), figure);
  return out;
}

} // namespace arc
