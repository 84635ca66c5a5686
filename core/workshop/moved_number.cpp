// Titles carry the group, since "Turns" alone says too little.
#include "workshop/moved_number.h"

#include "analysis/analyse.h"
#include "file/examples.h"
#include "file/number_walk.h"

#include <cmath>
#include <fmt/format.h>
#include <optional>
#include <stdexcept>
#include <utility>

namespace arc {
namespace {

constexpr std::array<std::string_view, 5> held{"site.", "measurements", "tolerances.", "topload_variants",
                                               "equivalent."};

bool whole_number(const Met& met, const std::string& path) {
  return met.value == std::round(met.value) && path.find("tap_turns") == std::string::npos &&
         (met.dimension == Dimension::count || path.ends_with("turns"));
}

// "Secondary", "Topload 2", "Ballast".
std::string group_title(const Design& design, const std::string& path) {
  std::string group = path.substr(0, path.find_first_of(".["));
  const std::size_t open = path.find('['), close = path.find(']');
  const bool listed = open != std::string::npos && close != std::string::npos;
  const std::size_t place = listed ? std::stoul(path.substr(open + 1, close - open - 1)) : 0;
  if (listed && group == "feed")
    if (const BlockKind* kind = block_kind(design.feed[place].kind)) return std::string(kind->title);
  group[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(group[0])));
  return listed ? fmt::format("{} {}", group, place + 1) : group;
}

NumberPlace place_of(const Design& design, const Met& met) {
  const std::string path = met.path();
  std::string label(met.label);
  const bool word = label.size() > 1 && std::islower(static_cast<unsigned char>(label[1]));
  if (word) label[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(label[0])));
  return {path,
          fmt::format("{}: {}", group_title(design, path), label),
          met.dimension,
          met.minimum,
          met.maximum,
          met.value,
          whole_number(met, path)};
}

} // namespace

std::vector<NumberPlace> movable_numbers(const Design& design) {
  std::vector<NumberPlace> out;
  visit_numbers(design, typed_only, [&](const Met& met) {
    const std::string path = met.path();
    const auto begins = [&](std::string_view with) { return path.starts_with(with); };
    if (!of_another_kind(design, path) && std::ranges::none_of(held, begins) &&
        path.find(".points_m") == std::string::npos)
      out.push_back(place_of(design, met));
  });
  return out;
}

NumberPlace number_at(const Design& design, std::string_view path) {
  const std::string wanted = bracketed_path(std::string(path));
  std::optional<NumberPlace> found;
  visit_numbers(design, typed_only, [&](const Met& met) {
    if (!found && met.path() == wanted) found = place_of(design, met);
  });
  if (!found) throw std::invalid_argument(fmt::format("there is no number “{}” in the design", path));
  return *found;
}

Design with_number(Design design, const NumberPlace& place, double value) {
  visit_numbers(design, typed_only, [&](const Met& met) {
    if (met.path() == place.path) met.set(value);
  });
  design.tank.capacitance_f = tank_capacitance_f(design.tank);
  settle_examples(design);
  return design;
}

const Figure& figure_named(const Design& design, std::string_view name) {
  const std::size_t dot = name.rfind('.');
  const std::string_view group = dot == std::string_view::npos ? "" : name.substr(0, dot);
  const std::string_view key = dot == std::string_view::npos ? name : name.substr(dot + 1);
  if (group.empty() || group == "results")
    for (const Figure* figure : figures_at_rest(kind_of(design)))
      if (figure->key == key) return *figure;
  for (const Figure& figure : figures_of(design))
    if (figure.group == group && figure.key == key) return figure;
  throw std::invalid_argument(fmt::format(
      "there is no figure “{}” of this kind; `high-arc-calc figures {}` lists them", name, design.kind));
}

std::string name_of(const Figure& figure) {
  return figure.group.empty() || figure.needs != Needs::power ? std::string(figure.key)
                                                              : fmt::format("{}.{}", figure.group, figure.key);
}

ComputedDesign compute(Design design, Computing how, const std::atomic<bool>& cancelled, UnitSystem units) {
  ComputedDesign out{std::move(design), {}, {}};
  Kept kept(4);
  const bool evidence = !out.design.measurements.empty();
  out.analysis = analyse_untried(out.design, units, evidence, kept);
  if (how == Computing::rest) {
    out.power = at_rest(out.design, out.analysis).power;
    return out;
  }
  const PowerOptions options{.advice = false, .variac = false, .waveforms = false};
  const std::function<void(double)> nobody;
  out.power = analyse_power(out.design, out.analysis, options, units, {cancelled, nobody, kept});
  return out;
}

} // namespace arc
