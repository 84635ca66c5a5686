// Samples the number's range on all processors, then closes in on the crossing nearest to where it is.
#include "workshop/solve.h"

#include "analysis/analyse.h"
#include "file/examples.h"
#include "file/number_walk.h"
#include "quantity/parallel.h"
#include "simulation/figures.h"

#include <boost/math/tools/toms748_solve.hpp>

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>

namespace arc {
namespace {

constexpr double widest = 5; // times what the number is, either way

struct Place {
  std::string path;
  Dimension dimension;
  double minimum, maximum, value;
};

const Figure& named_figure(const Design& design, std::string_view result) {
  const std::size_t dot = result.rfind('.');
  const std::string_view group = dot == std::string_view::npos ? "" : result.substr(0, dot);
  const std::string_view key = dot == std::string_view::npos ? result : result.substr(dot + 1);
  if (group.empty() || group == "results")
    for (const Figure* figure : figures_at_rest(kind_of(design)))
      if (figure->key == key) return *figure;
  for (const Figure& figure : figures_of(design))
    if (figure.group == group && figure.key == key) return figure;
  throw std::invalid_argument(fmt::format(
      "there is no figure “{}” of this kind; `high-arc-calc figures {}` lists them", result, design.kind));
}

bool same_path(std::string_view a, std::string_view b) {
  std::string plain;
  for (const char c : b)
    if (c == '[')
      plain += '.';
    else if (c != ']')
      plain += c;
  return a == b || a == plain;
}

Place place_of(const Design& design, std::string_view field) {
  std::optional<Place> found;
  visit_numbers(design, typed_only, [&](const Met& met) {
    if (!found && same_path(field, met.path()))
      found = Place{met.path(), met.dimension, met.minimum, met.maximum, met.value};
  });
  if (!found) throw std::invalid_argument(fmt::format("there is no number “{}” in the design", field));
  return *found;
}

Design with(Design design, const Place& place, double value) {
  visit_numbers(design, typed_only, [&](const Met& met) {
    if (met.path() == place.path) met.set(value);
  });
  design.tank.capacitance_f = tank_capacitance_f(design.tank);
  return design;
}

struct Computed {
  Design design;
  Analysis analysis;
  PowerAnalysis power;
  PowerView view() const { return {design, analysis, power}; }
};

class Solver {
 public:
  Solver(const Design& design, const Figure& figure, const Place& place, const std::atomic<bool>& cancelled)
      : design_(design), figure_(figure), place_(place), cancelled_(cancelled) {}

  Computed at(double value) const {
    Computed out{with(design_, place_, value), {}, {}};
    Kept kept(4);
    const bool evidence = !out.design.measurements.empty();
    out.analysis = analyse_untried(out.design, UnitSystem::metric, evidence, kept);
    if (figure_.needs != Needs::power) {
      out.power = at_rest(out.design, out.analysis).power;
      return out;
    }
    const PowerOptions options{.advice = false, .variac = false, .waveforms = false};
    const std::function<void(double)> nobody;
    out.power = analyse_power(out.design, out.analysis, options, UnitSystem::metric, {cancelled_, nobody, kept});
    return out;
  }
  std::optional<double> of(double value) const try {
    const Computed now = at(value);
    const auto out = figure_value(figure_, now.view());
    return out && std::isfinite(*out) ? out : std::nullopt;
  } catch (const std::invalid_argument&) {
    return {};
  }

 private:
  const Design& design_;
  const Figure& figure_;
  const Place& place_;
  const std::atomic<bool>& cancelled_;
};

// Where the number is tried: evenly in the logarithm, denser than a figure bends; whole ones at whole places.
std::vector<double> tried_places(const Place& place, bool whole, int count) {
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

std::vector<AlsoChanged> also_changed(const Computed& before, const Computed& after, const Figure& asked) {
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
  return named_figure(design, result).dimension;
}

Solved solve(const Design& design, std::string_view result, double wanted, std::string_view field,
             const std::atomic<bool>& cancelled) {
  const Figure& figure = named_figure(design, result);
  const Place place = place_of(design, field);
  const bool whole = place.value == std::round(place.value) && place.path.find("tap_turns") == std::string::npos &&
                     (place.dimension == Dimension::count || place.path.ends_with("turns"));
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
  out.design = with(design, place, out.value);
  settle_examples(out.design);
  if (!cancelled) out.also = also_changed(solver.at(place.value), solver.at(out.value), figure);
  return out;
}

} // namespace arc
