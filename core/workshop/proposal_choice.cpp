// Characters, in the order in which they are looked for.
#include "workshop/proposal_choice.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

// Figures by which two designs differ.
std::array<double, 8> figures_to_tell_apart(const CoilCandidate& c) {
  const CoilFigures& f = c.figures;
  return {f.height_m,
          f.floor_diameter_m,
          f.resonance_hz,
          f.line_current_a.value_or(1),
          f.arc_high_m,
          c.design.secondary.turns,
          c.design.secondary.form_diameter_m,
          f.power_w};
}

bool alike(const CoilCandidate& a, const CoilCandidate& b) {
  constexpr double different = 0.1; // relative; 8 % is asked
  if (a.design.kind != b.design.kind) return false;
  const auto of_a = figures_to_tell_apart(a), of_b = figures_to_tell_apart(b);
  for (std::size_t i = 0; i + 1 < of_a.size(); ++i) // the power follows from the others
    if (std::abs(std::log(std::max(of_a[i], 1e-9) / std::max(of_b[i], 1e-9))) >= different) return false;
  return true;
}

constexpr std::array<Character, 7> characters{
    {{"Longest arc", [](const CoilCandidate& c) { return c.figures.arc_high_m; }, "no other reaches as far"},
     {"Smallest",
      [](const CoilCandidate& c) {
        return -c.figures.height_m * c.figures.floor_diameter_m * c.figures.floor_diameter_m;
      },
      "no other takes as little room"},
     {"Least line current",
      [](const CoilCandidate& c) { return -c.figures.line_current_a.value_or(c.figures.power_w / 1000); },
      "no other asks as little of the line"},
     {"Most from the shelf",
      [](const CoilCandidate& c) {
        return static_cast<double>(c.owned.size()) - static_cast<double>(c.buy.size());
      },
      "no other needs less to be bought"},
     {"Quickest to wind", [](const CoilCandidate& c) { return -c.design.secondary.turns; },
      "no other has as few turns"},
     {"Most arc for its power",
      [](const CoilCandidate& c) { return c.figures.arc_high_m / std::sqrt(std::max(c.figures.power_w, 1.0)); },
      "no other makes more arc of its watts"},
     {"Lowest frequency", [](const CoilCandidate& c) { return -c.figures.resonance_hz; },
      "no other runs as low: calmer switching and wider parts"}}};

} // namespace

std::string why_proposed(const CoilCandidate& c, const Character* character, const std::string& aim,
                         std::size_t of) {
  const CoilFigures& f = c.figures;
  const auto text = [](double value, Dimension dimension) {
    return format_quantity(value, dimension, UnitSystem::metric, 2);
  };
  std::string figures = text(f.height_m, Dimension::length) + " high";
  if (f.arc_high_m > 0)
    figures = fmt::format("arcs of {} to {}, {}", text(f.arc_low_m, Dimension::length),
                          text(f.arc_high_m, Dimension::length), figures);
  if (f.line_current_a) figures += fmt::format(", {} from the line", text(*f.line_current_a, Dimension::current));
  return fmt::format("Of {} designs that keep the brief, {}: {}.", of, character ? character->because : aim,
                     figures);
}

// The best by the aim, then those of other character that differ from all before.
std::vector<std::pair<const CoilCandidate*, const Character*>> chosen(const std::vector<CoilCandidate*>& good,
                                                                      int count) {
  std::vector<std::pair<const CoilCandidate*, const Character*>> out;
  const auto take = [&](const CoilCandidate* c, const Character* character) {
    if (static_cast<int>(out.size()) >= count) return;
    if (std::ranges::none_of(out, [&](const auto& o) { return alike(*o.first, *c); }))
      out.emplace_back(c, character);
  };
  take(good.front(), nullptr);
  for (const Character& character : characters) {
    const auto best =
        std::ranges::max_element(good, {}, [&](const CoilCandidate* c) { return character.worth(*c); });
    take(*best, &character);
  }
  for (const CoilCandidate* c : good) take(c, nullptr);
  return out;
}

} // namespace arc
