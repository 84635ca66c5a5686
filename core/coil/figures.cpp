// Figures as text, as JSON and explained.
#include "coil/figures.h"

#include "coil/kind.h"
#include "model/fields.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace arc {
namespace {

// Rows may take the part of their kind for granted.
bool told(const PowerView& view) {
  return view.power.part && view.power.kind == view.design.kind;
}

std::optional<double> finite(FigureValue value, const PowerView& view) {
  const std::optional<double> out = value && told(view) ? value(view) : std::nullopt;
  return out && std::isfinite(*out) ? out : std::nullopt;
}

// Taken from the beginning of a list of words with blanks between.
std::string_view next_word(std::string_view& rest) {
  const std::size_t end = std::min(rest.find(' '), rest.size());
  const std::string_view word = rest.substr(0, end);
  rest.remove_prefix(std::min(end + 1, rest.size()));
  return word;
}

template <typename Row>
const Row* with_key(std::span<const Row> rows, std::string_view key) {
  const auto it = std::ranges::find(rows, key, &Row::key);
  return it == rows.end() ? nullptr : &*it;
}

// "Turns 1480", whatever table the key is of; empty where it has no value.
std::string input_text(std::string_view key, const PowerView& view, UnitSystem units) {
  const auto named = [&](std::string_view title, const std::string& value) {
    return value.empty() ? value : fmt::format("{} {}", title, value);
  };
  if (const auto* field = with_key<FieldSpec>(design_fields(), key)) {
    const auto value = field->get(view.design);
    return value ? named(field->label, format_quantity(*value, field->dimension, units)) : std::string();
  }
  for (const ChoiceSpec& choice : design_choices())
    if (choice.key == key) return named(choice.label, std::string(choice.choices[choice.get(view.design)].title));
  if (const auto* figure = with_key<Figure>(figures_of(view.design), key))
    return named(figure->title, figure_text(*figure, view, units));
  const Reading& of_coil = reading(key);
  return reading_value(of_coil, view.design, view.analysis)
             ? named(of_coil.title, reading_text(of_coil, view.design, view.analysis, units))
             : std::string();
}

} // namespace

PowerAnalysis only(const Design& design, std::shared_ptr<const KindPart> part) {
  PowerAnalysis out;
  out.kind = design.kind;
  out.part = std::move(part);
  return out;
}

std::span<const Figure> figures_of(const Design& design) {
  const CoilKind& kind = kind_of(design);
  return kind.figures ? kind.figures() : std::span<const Figure>{};
}

std::optional<double> figure_value(const Figure& figure, const PowerView& view) {
  return finite(figure.value, view);
}

const Figure& figure_of(const Design& design, std::string_view group, std::string_view key) {
  for (const Figure& figure : figures_of(design))
    if (figure.group == group && figure.key == key) return figure;
  throw std::out_of_range(fmt::format("no figure of a {} is called {} {}", design.kind, group, key));
}

std::string banded_figure(const Figure& figure, const PowerView& view, UnitSystem units) {
  const auto value = figure_value(figure, view);
  if (!value) return "–";
  if (!figure.band.empty())
    if (const auto band = view.power.part->band.find(std::string(figure.band));
        band != view.power.part->band.end()) {
      const BandedText text = format_banded(*value, band->second, figure.dimension, units, 4);
      return text.value + (text.band.empty() ? "" : " " + text.band);
    }
  return format_quantity(*value, figure.dimension, units, figure.digits);
}

std::string figure_text(const Figure& figure, const PowerView& view, UnitSystem units) {
  const auto print = [&](double si) { return format_quantity(si, figure.dimension, units, figure.digits); };
  const std::string note = figure.note && told(view) ? figure.note(view, units) : std::string();
  const auto value = figure_value(figure, view);
  if (!value || (figure.quiet_zero && *value == 0)) return note;
  std::string out = banded_figure(figure, view, units);
  if (const auto to = finite(figure.to, view)) out += " to " + print(*to);
  if (!figure.unit.empty()) out += fmt::format(" {}", figure.unit);
  if (const auto of = finite(figure.of, view)) {
    if (!figure.share)
      out += " of " + print(*of);
    else if (*of != 0)
      out += fmt::format(", {} %", round_significant(100 * *value / *of, 2));
  }
  return out + note;
}

Explanation explain(const Figure& figure, const PowerView& view, UnitSystem units) {
  Explanation out{.formula = std::string(figure.formula),
                  .inputs = {},
                  .assumption = std::string(figure.assumes),
                  .source = std::string(figure.source),
                  .hand_estimate = {},
                  .influences = {}};
  for (std::string_view rest = figure.inputs; !rest.empty();)
    if (std::string text = input_text(next_word(rest), view, units); !text.empty())
      out.inputs.push_back(std::move(text));
  if (!figure.band.empty() && view.power.part && view.power.part->band.contains(std::string(figure.band)))
    out.influences.emplace_back(figure.doubts);
  return out;
}

bool listed_on(const Figure& figure, std::string_view stage) {
  std::string_view rest = figure.stage;
  while (!rest.empty())
    if (next_word(rest) == stage) return true;
  return false;
}

std::optional<double> arc_from_m(const PowerView& o) {
  return o.power.arc && o.power.arc->breaks_out ? std::optional(o.power.arc->length_m.low) : std::nullopt;
}

std::optional<double> arc_up_to_m(const PowerView& o) {
  return o.power.arc && o.power.arc->breaks_out ? std::optional(o.power.arc->length_m.high) : std::nullopt;
}

std::string no_arc_words(const PowerView& o, UnitSystem units) {
  if (!o.power.arc) return "not forecast";
  const ArcForecast& arc = *o.power.arc;
  if (arc.breaks_out) return {};
  if (!(arc.breakout_v > 0)) return "none";
  return fmt::format("none: top {} of {}", format_quantity(arc.top_v, Dimension::voltage, units, 3),
                     format_quantity(arc.breakout_v, Dimension::voltage, units, 3));
}

Json group_json(std::string_view group, const PowerView& view) {
  Json results = Json::object();
  const auto put = [&](std::string_view key, Dimension dimension, FigureValue value) {
    const auto si = finite(value, view);
    if (key.empty() || !si) return;
    if (dimension == Dimension::count && *si == std::round(*si))
      results[std::string(key)] = static_cast<long long>(*si);
    else
      results[std::string(key)] = *si;
  };
  for (const Figure& figure : figures_of(view.design)) {
    if (figure.group != group) continue;
    put(figure.key, figure.dimension, figure.value);
    put(figure.to_key, figure.dimension, figure.to);
  }
  return results;
}

} // namespace arc
