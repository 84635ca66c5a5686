// Figures as text, as JSON and explained.
#include "simulation/figures.h"

#include "craft/design_fields.h"
#include "craft/kind.h"
#include "model/fields.h"
#include "simulation/tried_map.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace arc {
namespace {

// Whether what the row needs is there; it may take it for granted then.
bool told(const Figure& figure, const PowerView& view) {
  const Analysis& a = view.analysis;
  switch (figure.needs) {
  case Needs::power:
    return view.power.part && view.power.kind == view.design.kind;
  case Needs::winding:
    return a.computed && belongs_to(figure, kind_of(view.design));
  case Needs::primary:
    return a.computed && a.has_primary && belongs_to(figure, kind_of(view.design));
  default:
    return a.computed && a.has_primary && a.has_tank && belongs_to(figure, kind_of(view.design));
  }
}

std::optional<double> finite(const Figure& figure, FigureValue value, const PowerView& view) {
  const std::optional<double> out = value && told(figure, view) ? value(view) : std::nullopt;
  return out && std::isfinite(*out) ? out : std::nullopt;
}

// Half-width; empty where none is known.
std::optional<double> half_width(const Figure& figure, const PowerView& view) {
  const bool simulated = figure.needs == Needs::power;
  if (simulated && (figure.band.empty() || !view.power.part)) return {};
  const auto& bands = simulated ? view.power.part->band : view.analysis.band;
  const auto it = bands.find(std::string(simulated ? figure.band : figure.key));
  return it == bands.end() ? std::nullopt : std::optional<double>(it->second);
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
  const auto* own = with_key<Figure>(figures_of(view.design), key);
  const Figure& figure = own ? *own : figure_at_rest(key);
  return named(figure.title, figure_text(figure, view, units));
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

PowerView at_rest(const Design& design, const Analysis& analysis) {
  static const PowerAnalysis none;
  return {design, analysis, none};
}

std::vector<Figure> joined_figures(std::initializer_list<std::span<const Figure>> tables) {
  std::vector<Figure> out;
  for (const std::span<const Figure> table : tables) out.insert(out.end(), table.begin(), table.end());
  return out;
}

bool belongs_to(const Figure& figure, const CoilKind& kind) {
  if (figure.needs == Needs::tank && !kind.tank) return false;
  if (with_key<Figure>(shared_figures(), figure.key)) return true;
  const auto own = kind.figures ? kind.figures() : std::span<const Figure>{};
  return std::ranges::any_of(own, [&](const Figure& f) { return f.key == figure.key && f.group == figure.group; });
}

std::vector<const Figure*> figures_at_rest(const CoilKind& kind) {
  std::vector<const Figure*> out;
  for (const auto rows : {shared_figures(), kind.figures ? kind.figures() : std::span<const Figure>{}})
    for (const Figure& figure : rows)
      if (figure.needs != Needs::power && belongs_to(figure, kind)) out.push_back(&figure);
  return out;
}

std::vector<std::string_view> craft_figures_at_rest(std::string_view stage) {
  std::vector<std::string_view> out;
  for (const Figure& figure : with_rows_of_kinds(std::span<const Figure>{}, &CoilKind::figures))
    if (figure.needs != Needs::power && listed_on(figure, stage)) out.push_back(figure.key);
  return out;
}

const Figure& figure_at_rest(std::string_view key) {
  if (const Figure* shared = with_key<Figure>(shared_figures(), key)) return *shared;
  for (const CoilKind* kind : coil_kinds())
    if (kind->figures)
      for (const Figure& figure : kind->figures())
        if (figure.needs != Needs::power && figure.key == key) return figure;
  throw std::out_of_range(fmt::format("no figure at rest is called {}", key));
}

std::optional<double> figure_value(const Figure& figure, const PowerView& view) {
  return finite(figure, figure.value, view);
}

const Figure& figure_of(const Design& design, std::string_view group, std::string_view key) {
  for (const Figure& figure : figures_of(design))
    if (figure.group == group && figure.key == key) return figure;
  throw std::out_of_range(fmt::format("no figure of a {} is called {} {}", design.kind, group, key));
}

namespace {

constexpr int banded_digits = 4;

BandedText banded(const Figure& figure, double value, double band, UnitSystem units) {
  return format_banded(value, band, figure.dimension, units, banded_digits);
}

} // namespace

std::string value_text(const Figure& figure, const PowerView& view, UnitSystem units) {
  const auto value = figure_value(figure, view);
  if (!value) return "–";
  if (const auto band = half_width(figure, view)) {
    const BandedText text = banded(figure, *value, *band, units);
    if (!text.band.empty() || figure.needs == Needs::power) return text.value;
  }
  return format_quantity(*value, figure.dimension, units, figure.digits);
}

std::string band_text(const Figure& figure, const PowerView& view, UnitSystem units) {
  const auto value = figure_value(figure, view);
  const auto band = half_width(figure, view);
  return value && band ? banded(figure, *value, *band, units).band : std::string();
}

std::string banded_figure(const Figure& figure, const PowerView& view, UnitSystem units) {
  const std::string band = band_text(figure, view, units);
  return value_text(figure, view, units) + (band.empty() ? "" : " " + band);
}

std::optional<double> figure_share(const Figure& figure, const PowerView& view) {
  const auto value = figure_value(figure, view), of = finite(figure, figure.of, view);
  return value && of && *of != 0 ? std::optional(*value / *of) : std::nullopt;
}

std::string range_text(const std::string& from, double from_si, const std::string& to) {
  return from_si == 0 ? "up to " + to : from + " to " + to;
}

std::string figure_text(const Figure& figure, const PowerView& view, UnitSystem units) {
  const auto print = [&](double si) { return format_quantity(si, figure.dimension, units, figure.digits); };
  const std::string note = figure.note && told(figure, view) ? figure.note(view, units) : std::string();
  const auto value = figure_value(figure, view);
  if (!value || (figure.quiet_zero && *value == 0)) return note;
  std::string out = banded_figure(figure, view, units);
  if (const auto to = finite(figure, figure.to, view)) out = range_text(out, *value, print(*to));
  if (!figure.unit.empty()) out += fmt::format(" {}", figure.unit);
  if (const auto share = figure_share(figure, view); share && figure.share)
    out += fmt::format(", {} %", round_significant(100 * *share, 2));
  else if (const auto of = finite(figure, figure.of, view); of && !figure.share)
    out += " of " + print(*of);
  return out + note;
}

Explanation explain(const Figure& figure, const PowerView& view, UnitSystem units) {
  const bool here = told(figure, view);
  Explanation out{.formula = std::string(figure.formula),
                  .inputs = {},
                  .assumption =
                      figure.assumes_here && here ? figure.assumes_here(view, units) : std::string(figure.assumes),
                  .source = std::string(figure.source),
                  .hand_estimate = figure.by_hand && here ? figure.by_hand(view, units) : std::string(),
                  .influences = {}};
  for (std::string_view rest = figure.inputs; !rest.empty();)
    if (std::string text = input_text(next_word(rest), view, units); !text.empty())
      out.inputs.push_back(std::move(text));
  if (figure.more_inputs && here)
    for (std::string& text : figure.more_inputs(view, units)) out.inputs.push_back(std::move(text));
  if (!figure.doubts.empty() && half_width(figure, view)) out.influences.emplace_back(figure.doubts);
  if (const auto shares = view.analysis.influences.find(std::string(figure.key));
      figure.needs != Needs::power && shares != view.analysis.influences.end())
    for (std::size_t i = 0; i < std::min<std::size_t>(3, shares->second.size()); ++i)
      out.influences.push_back(
          fmt::format("{}: ± {}", shares->second[i].input,
                      format_quantity(std::abs(shares->second[i].change), figure.dimension, units, 2)));
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
  return fmt::format("no breakout, top {} of {}", format_quantity(arc.top_v, Dimension::voltage, units, 3),
                     format_quantity(arc.breakout_v, Dimension::voltage, units, 3));
}

Json changes_json(const std::vector<TriedChange>& changes) {
  Json out = Json::array();
  for (const TriedChange& change : changes) {
    Json one{{"title", change.title}};
    for (const TriedChange::Ratio& ratio : change.ratios) one[std::string(ratio.key)] = ratio.value;
    one["stop"] = change.stop;
    out.push_back(std::move(one));
  }
  return out;
}

Json map_json(const TriedMap& map) {
  Json points = Json::array();
  for (std::size_t i = 0; i < map.places.size(); ++i) {
    const TriedMap::Place& place = map.places[i];
    Json one{{"value", map.across.values[i % map.across.values.size()]}, {"oscillates", place.runs}};
    for (std::size_t q = 0; q < map.quantities.size(); ++q)
      one[std::string(map.quantities[q].key)] = place.runs ? place.values[q] : 0;
    points.push_back(std::move(one));
  }
  return {{"across", {{"of", map.across.key}, {"values", map.across.values}}},
          {"up", {{"of", map.up.key}, {"values", map.up.values}}},
          {"points", points}};
}

Json group_json(std::string_view group, const PowerView& view) {
  Json results = Json::object();
  const auto put = [&](const Figure& figure, std::string_view key, FigureValue value) {
    const auto si = finite(figure, value, view);
    if (key.empty() || !si) return;
    if (figure.dimension == Dimension::count && *si == std::round(*si))
      results[std::string(key)] = static_cast<long long>(*si);
    else
      results[std::string(key)] = *si;
  };
  for (const Figure& figure : figures_of(view.design)) {
    if (figure.group != group) continue;
    put(figure, figure.key, figure.value);
    put(figure, figure.to_key, figure.to);
  }
  return results;
}

Json table_json(const CoilKind& kind) {
  Json out = Json::array();
  const auto put = [&](const Figure& figure) {
    Json row = {{"key", figure.key}, {"title", figure.title}};
    const auto say = [&](const char* name, std::string_view text) {
      if (!text.empty()) row[name] = text;
    };
    row["printed_by"] = figure.needs == Needs::power ? "power" : "analyse";
    say("object", figure.needs == Needs::power ? figure.group : "results");
    say("unit", figure.unit.empty() ? held_unit(figure.dimension) : figure.unit);
    say("up_to", figure.to_key);
    row["band"] = !figure.band.empty();
    say("formula", figure.formula);
    say("inputs", figure.inputs);
    say("assumes", figure.assumes);
    say("source", figure.source);
    out.push_back(std::move(row));
  };
  for (const Figure& figure : shared_figures())
    if (belongs_to(figure, kind)) put(figure);
  if (kind.figures) std::ranges::for_each(kind.figures(), put);
  return out;
}

} // namespace arc
