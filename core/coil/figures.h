// What a simulation says, as one table for each kind of coil: each figure once, with its key, title, unit, value,
// band, what it is compared with, where it is shown and how it is explained. Results for scripts, lists beside the
// plots, the "why" and the record read it; nothing names a simulated figure a second time. Readings of the coil at
// rest are in coil/readings.h.
#pragma once

#include "circuit/feed_loads.h"
#include "coil/power.h"
#include "coil/readings.h"
#include "quantity/json_text.h"

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace arc {

/// What figures are read from: a design, its analysis and its simulation.
struct PowerView {
  const Design& design;
  const Analysis& analysis;
  const PowerAnalysis& power;
};

/// A simulation that is no more than one way of it: the part, and nothing around it.
PowerAnalysis only(const Design& design, std::shared_ptr<const KindPart> part);

/// SI units; empty where the figure does not exist.
using FigureValue = std::optional<double> (*)(const PowerView&);

struct Figure {
  std::string_view key;        // in results for scripts, and in decks
  std::string_view group = {}; // object of the results that holds it, "burst"; empty: the results themselves
  std::string_view stage;      // keys of the stages that list it, with blanks between
  std::string_view title;      // in full
  std::string_view row = {};   // short, in the list; "… conduction" belongs to the one above. Empty: the title
  Dimension dimension = Dimension::number;
  int digits = 3;
  FigureValue value;
  std::string_view to_key = {}; // of the upper end, where it is a range
  FigureValue to = nullptr;
  bool quiet_zero = false;    // zero is not listed
  FigureValue of = nullptr;   // what it is compared with: its rating, or the whole of which it is a part
  bool share = false;         // the comparison is shown as a share of it
  std::string_view unit = {}; // behind the value, where its dimension has none: "T"
  std::string_view band = {}; // key of its half-width in KindPart::band
  /// Behind the value, or in its place where there is none; null: nothing is said.
  std::string (*note)(const PowerView&, UnitSystem) = nullptr;
  std::string_view formula;     // in words
  std::string_view inputs = {}; // keys of numbers of the design, readings and figures, with blanks between
  std::string_view assumes;     // what the method takes for granted, and its limit
  std::string_view source;      // publication, or "common practice, no source"
  std::string_view doubts = {}; // what its band is made of
};

/// The figures of a design's kind, in the order in which they are listed.
std::span<const Figure> figures_of(const Design& design);

/// The figure of that kind with this key in this group. Throws std::out_of_range when there is none.
const Figure& figure_of(const Design& design, std::string_view group, std::string_view key);

/// Its value in SI units; empty where it does not exist, or is no number.
std::optional<double> figure_value(const Figure& figure, const PowerView& view);

/// Its value and band alone, as in a sentence; a dash where it does not exist.
std::string banded_figure(const Figure& figure, const PowerView& view, UnitSystem units);

/// As listed: value with band, the upper end of a range, what it is compared with, its note. Empty where there is
/// nothing to say.
std::string figure_text(const Figure& figure, const PowerView& view, UnitSystem units);

/// Formula, inputs with their values, assumption, source, and what its band is made of.
Explanation explain(const Figure& figure, const PowerView& view, UnitSystem units);

/// The values of a group's figures as results for scripts, by key; whole numbers as such.
Json group_json(std::string_view group, const PowerView& view);

/// Whether a stage lists it.
bool listed_on(const Figure& figure, std::string_view stage);

// The forecast of the arc, as a figure of every kind that has one.
std::optional<double> arc_from_m(const PowerView& view);
std::optional<double> arc_up_to_m(const PowerView& view);
/// Why there is none: "none: top 107 kV of 247 kV"; empty where there is.
std::string no_arc_words(const PowerView& view, UnitSystem units);
inline constexpr std::string_view arc_rule_limits =
    "A rule of builders for coils in tune, where something breaks out at all; never fed back into the simulation.";

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
