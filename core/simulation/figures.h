// What a simulation says, as one table for each kind of coil: each figure once, with its key, title, unit, value,
// band, what it is compared with, where it is shown and how it is explained. Results for scripts, lists beside the
// plots, the "why" and the record read it; nothing names a simulated figure a second time. Those of the coil at
// rest are rows of it too.
#pragma once

#include "circuit/feed_loads.h"
#include "craft/kind.h"
#include "quantity/json_text.h"
#include "simulation/power.h"

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct Explanation {
  std::string formula;                 // in words
  std::vector<std::string> inputs;     // "Turns 1480"
  std::string assumption;              // what the method takes for granted, and its limit
  std::string source;                  // publication, or "common practice, no source"
  std::string hand_estimate;           // the builders' formula beside it, with its known error; may be empty
  std::vector<std::string> influences; // inputs that make up the band, largest first
};

/// What figures are read from: a design, its analysis and its simulation.
struct PowerView {
  const Design& design;
  const Analysis& analysis;
  const PowerAnalysis& power;
};

/// A simulation that is no more than one way of it: the part, and nothing around it.
PowerAnalysis only(const Design& design, std::shared_ptr<const KindPart> part);

/// The coil alone, with no simulation of it.
PowerView at_rest(const Design& design, const Analysis& analysis);
inline constexpr std::string_view at_rest_group = "rest"; // of figures that need no simulation

/// What must be given, and belong to the kind of coil, for a figure to have a value; `power`: a simulation.
enum class Needs { power, winding, primary, tank };

/// SI units; empty where the figure does not exist.
using FigureValue = std::optional<double> (*)(const PowerView&);

struct Figure {
  std::string_view key;        // in results for scripts, and in decks
  std::string_view group = {}; // object of the results that holds it, "burst"; empty: the results themselves
  std::string_view stage = {}; // keys of the stages that list it, with blanks between; of figures at
                               // rest that every kind has empty: stages name them
  bool (*beside)(const PowerView&) = nullptr; // true where another figure counts in its place
  bool headline = false;                      // stands on its stages always; the others come by a key
  std::string_view title;                     // in full
  std::string_view row = {}; // short, in the list; "… conduction" belongs to the one above. Empty: the title
  Dimension dimension = Dimension::number;
  int digits = 3;
  FigureValue value;
  Needs needs = Needs::power;
  std::string_view to_key = {}; // of the upper end, where it is a range
  FigureValue to = nullptr;
  bool quiet_zero = false;    // zero is not listed
  FigureValue of = nullptr;   // what it is compared with: its rating, or the whole of which it is a part
  bool share = false;         // the comparison is shown as a share of it
  bool rated = false;         // it is a rating: the part gives way beyond it
  std::string_view unit = {}; // behind the value, where its dimension has none: "T"
  /// Key of its half-width in KindPart::band; of figures at rest it is their own, in Analysis::band.
  std::string_view band = {};
  /// Behind the value, or in its place where there is none; null: nothing is said.
  std::string (*note)(const PowerView&, UnitSystem) = nullptr;
  std::string_view formula;     // in words
  std::string_view inputs = {}; // keys of numbers of the design and of figures, with blanks between
  std::vector<std::string> (*more_inputs)(const PowerView&, UnitSystem) = nullptr; // that have no key
  std::string_view assumes = {}; // what the method takes for granted, and its limit
  std::string (*assumes_here)(const PowerView&, UnitSystem) = nullptr; // the same, where it depends on the design
  std::string_view source;                                        // publication, or "common practice, no source"
  std::string_view doubts = {};                                   // what its band is made of
  std::string (*by_hand)(const PowerView&, UnitSystem) = nullptr; // the builders' formula beside it
};

/// The figures that only this design's kind has, in the order in which they are listed.
std::span<const Figure> figures_of(const Design& design);
/// Several tables as one.
std::vector<Figure> joined_figures(std::initializer_list<std::span<const Figure>> tables);
/// Those at rest that every kind has, as far as it has what they need.
std::span<const Figure> shared_figures();
/// All figures at rest of this kind: the shared ones and its own.
std::vector<const Figure*> figures_at_rest(const CoilKind& kind);
/// The figure at rest with this key, of any kind. Throws std::out_of_range when there is none.
const Figure& figure_at_rest(std::string_view key);
/// Keys of those that only some kind has and that this stage shows beside its own.
std::vector<std::string_view> craft_figures_at_rest(std::string_view stage);
/// Whether it says something of this kind of coil.
bool belongs_to(const Figure& figure, const CoilKind& kind);

/// The figure of that kind with this key in this group. Throws std::out_of_range when there is none.
const Figure& figure_of(const Design& design, std::string_view group, std::string_view key);

/// Its value in SI units; empty where it does not exist, or is no number.
std::optional<double> figure_value(const Figure& figure, const PowerView& view);

/// Its value, and "± 0.9" in the unit of that value, each alone; a dash where it does not exist, and no band.
std::string value_text(const Figure& figure, const PowerView& view, UnitSystem units);
std::string band_text(const Figure& figure, const PowerView& view, UnitSystem units);

/// Its share of what it is compared with; empty where one of the two does not exist.
std::optional<double> figure_share(const Figure& figure, const PowerView& view);

/// Its value and band, as in a sentence; a dash where it does not exist.
std::string banded_figure(const Figure& figure, const PowerView& view, UnitSystem units);

/// As listed: value with band, the upper end of a range, what it is compared with, its note. Empty where there is
/// nothing to say.
std::string figure_text(const Figure& figure, const PowerView& view, UnitSystem units);

/// "210 mm to 350 mm"; "up to 350 mm" where it begins at zero.
std::string range_text(const std::string& from, double from_si, const std::string& to);

/// Formula, inputs with their values, assumption, source, and what its band is made of.
Explanation explain(const Figure& figure, const PowerView& view, UnitSystem units);

/// The values of a group's figures as results for scripts, by key; whole numbers as such.
Json group_json(std::string_view group, const PowerView& view);

/// The table itself, for scripts: what each figure of a kind of coil is called, holds and takes for granted;
/// "object" is the one of the results that holds it.
Json table_json(const CoilKind& kind);

/// Single changes as results for scripts: title, ratios, the stop that each would bring.
Json changes_json(const std::vector<TriedChange>& changes);

/// A map as results for scripts: both axes, and what is known at each place.
Json map_json(const struct TriedMap& map);

/// Whether a stage lists it.
bool listed_on(const Figure& figure, std::string_view stage);

// The forecast of the arc, as a figure of every kind that has one.
std::optional<double> arc_from_m(const PowerView& view);
std::optional<double> arc_up_to_m(const PowerView& view);
/// Why there is none: "no breakout, top 107 kV of 247 kV"; empty where there is.
std::string no_arc_words(const PowerView& view, UnitSystem units);
inline constexpr std::string_view arc_rule_limits =
    "A rule of builders for coils in tune, where something breaks out at all; never fed back into the simulation.";
constexpr Figure arc_forecast_row(std::string_view stage, std::string_view title, std::string_view row,
                                  std::string_view formula, std::string_view inputs) {
  return {.key = "arc_shortest_m",
          .stage = stage,
          .headline = true,
          .title = title,
          .row = row,
          .dimension = Dimension::length,
          .digits = 2,
          .value = arc_from_m,
          .to_key = "arc_longest_m",
          .to = arc_up_to_m,
          .note = no_arc_words,
          .formula = formula,
          .inputs = inputs,
          .assumes = arc_rule_limits,
          .source = "Common practice, no source"};
}

/// A value with a condition; the value where there is one above zero.
inline std::optional<double> when(bool there, double value) {
  return there ? std::optional<double>(value) : std::nullopt;
}
inline std::optional<double> above_zero(std::optional<double> value) {
  return value && *value > 0 ? value : std::nullopt;
}

/// A figure's value along members of the kind's part, through pointers and optionals that may be empty.
template <auto Member, auto... Rest, typename From>
std::optional<double> follow(const From& from) {
  const auto& next = from.*Member;
  if constexpr (sizeof...(Rest) > 0) {
    if constexpr (requires { *next; })
      return next ? follow<Rest...>(*next) : std::nullopt;
    else
      return follow<Rest...>(next);
  } else if constexpr (requires { *next; }) {
    return next ? std::optional<double>(*next) : std::nullopt;
  } else {
    return static_cast<double>(next);
  }
}

/// A figure at rest along members of the analysis.
template <auto Member, auto... Rest>
std::optional<double> resting(const PowerView& view) {
  return follow<Member, Rest...>(view.analysis);
}

inline constexpr std::string_view breakout_limits = "Clean dry air, no streamers yet; real coils scatter by 10 %.";
inline constexpr std::string_view breakout_source = "Peek 1929; half-ellipsoid for a breakout point (Kosmahl 1991)";

/// A figure of the feed's line, of whatever kind.
template <auto Member>
std::optional<double> of_line(const PowerView& view) {
  const FeedLoads* feed = view.power.part->feed();
  return feed ? follow<Member>(*feed) : std::nullopt;
}

// What the line says of every path from the wall, as rows of a kind's table; `group` and `limits` are its own.
constexpr Figure power_factor_row(std::string_view group, std::string_view limits) {
  return {.key = "power_factor",
          .group = group,
          .stage = "feed",
          .title = "Power factor",
          .digits = 2,
          .value = of_line<&FeedLoads::power_factor>,
          .formula = "Power over the product of RMS volts and amperes.",
          .inputs = "input_power_w line_current_a",
          .assumes = limits,
          .source = "Definition"};
}
constexpr Figure reactive_row(std::string_view group, std::string_view limits) {
  return {.key = "reactive_va",
          .group = group,
          .stage = "feed",
          .title = "Reactive power of the fundamental",
          .row = "Reactive",
          .value = of_line<&FeedLoads::reactive_va>,
          .unit = "var",
          .formula = "Volts times the current's quarter-cycle part; above zero where the current lags.",
          .inputs = "line_current_a power_factor",
          .assumes = limits,
          .source = "Definition"};
}
constexpr Figure breaker_row(std::string_view group) {
  return {.key = "breaker_trip_s",
          .group = group,
          .stage = "feed",
          .title = "Breaker trips after",
          .dimension = Dimension::time,
          .digits = 2,
          .value = of_line<&FeedLoads::breaker_trip_s>,
          .formula = "Middle of the band of a thermal-magnetic breaker at the line's current.",
          .inputs = "line_current_a",
          .assumes = "Type B or C; the curve between the standard's points is from memory.",
          .source = "IEC 60898-1"};
}

} // namespace arc
