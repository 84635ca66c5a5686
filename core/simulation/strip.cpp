// Values come from the table of figures alone, so that the strip cannot say anything but what the stages say.
#include "simulation/strip.h"

#include "simulation/tank_duty.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace arc {
namespace {

constexpr std::size_t loads_told = 8; // in the "why" of the weakest part

std::string first_word(std::string_view words) {
  return std::string(words.substr(0, words.find(' ')));
}

std::string of_rating(double value, double rating, Dimension dimension, UnitSystem units) {
  return fmt::format("{} of {}", format_quantity(value, dimension, units, 3),
                     format_quantity(rating, dimension, units, 3));
}

class Loads {
 public:
  Loads(const PowerView& view, UnitSystem units) : view_(view), units_(units) {}

  void add(std::string part, double value, double rating, Dimension dimension, std::string_view stage) {
    if (!(rating > 0) || !std::isfinite(value)) return;
    out_.push_back(
        {std::move(part), value / rating, of_rating(value, rating, dimension, units_), std::string(stage)});
  }
  void add_figures() {
    for (const Figure& figure : figures_of(view_.design))
      if (const auto used = figure.rated ? figure_share(figure, view_) : std::nullopt)
        out_.push_back(
            {std::string(figure.title), *used, figure_text(figure, view_, units_), first_word(figure.stage)});
  }
  void add_feed(const FeedLoads& feed) {
    constexpr std::string_view stage = "feed";
    for (const JointLoad& joint : feed.joints) {
      add(joint.title + ", current", joint.rms_a, joint.limit_a, Dimension::current, stage);
      add(joint.title + ", volts", joint.peak_v, joint.limit_v, Dimension::voltage, stage);
    }
    for (const DiodeLoad& diode : feed.diodes) {
      add(diode.title + ", reverse volts", diode.inverse_v, diode.limit_v, Dimension::voltage, stage);
      add(diode.title + ", mean current", diode.average_a, diode.limit_a, Dimension::current, stage);
    }
    for (const CapacitorLoad& capacitor : feed.capacitors) {
      add(capacitor.title + ", volts", capacitor.peak_v, capacitor.limit_v, Dimension::voltage, stage);
      add(capacitor.title + ", ripple current", capacitor.rms_a, capacitor.limit_a, Dimension::current, stage);
    }
    add("Breaker", feed.line_current_a, feed.breaker_a(), Dimension::current, stage);
  }
  void add_tank(const TankDuty& duty) {
    constexpr std::string_view stage = "tank";
    for (const UnitStress& unit : duty.stress) {
      const auto rating = [](double value, double used) { return used > 0 ? value / used : 0; };
      const std::string name = unit.name.empty() ? "Tank unit" : unit.name;
      add(name + ", volts", unit.worst_v, rating(unit.worst_v, unit.voltage_used), Dimension::voltage, stage);
      add(name + ", RMS current", unit.rms_a, rating(unit.rms_a, unit.rms_used), Dimension::current, stage);
      add(name + ", volts per second", unit.slope_v_per_s, rating(unit.slope_v_per_s, unit.slope_used),
          Dimension::slope, stage);
    }
  }
  std::vector<PartLoad> fullest_first() && {
    std::ranges::stable_sort(out_, std::ranges::greater{}, &PartLoad::used);
    return std::move(out_);
  }

 private:
  const PowerView& view_;
  UnitSystem units_;
  std::vector<PartLoad> out_;
};

bool simulated(const PowerView& view) {
  return view.power.part && view.power.kind == view.design.kind;
}

const Figure* named(std::string_view name, const PowerView& view) {
  const std::size_t dot = name.find('.');
  const std::string_view group = dot == std::string_view::npos ? std::string_view{} : name.substr(0, dot);
  const std::string_view key = dot == std::string_view::npos ? name : name.substr(dot + 1);
  return &figure_of(view.design, group, key);
}

std::vector<std::string_view> split(std::string_view words, char at) {
  std::vector<std::string_view> out;
  while (!words.empty()) {
    const std::size_t end = std::min(words.find(at), words.size());
    if (end > 0) out.push_back(words.substr(0, end));
    words.remove_prefix(std::min(end + 1, words.size()));
  }
  return out;
}

// Without band: what is read at a glance.
std::string short_text(const Figure& figure, const PowerView& view, UnitSystem units) {
  const auto print = [&](double si) {
    return format_quantity(si, figure.dimension, units, std::min(figure.digits, 3));
  };
  const auto value = figure_value(figure, view);
  if (!value) return figure_text(figure, view, units);
  std::string out = print(*value);
  if (const auto to = figure.to ? figure.to(view) : std::nullopt) out = range_text(out, *value, print(*to));
  if (!figure.unit.empty()) out += fmt::format(" {}", figure.unit);
  return out;
}

StripItem item_of(const StripRow& row, std::string_view key, const PowerView& view, UnitSystem units) {
  StripItem out{.key = key, .title = std::string(row.title), .value = "–", .full = {}, .stage = {}, .shown = {}};
  for (const std::string_view choice : split(row.figures, '|')) {
    std::vector<std::string> values, full;
    out.shown.clear();
    for (const std::string_view name : split(choice, ' ')) {
      const Figure* figure = named(name, view);
      if (!out.figure) out.figure = figure;
      const std::string value = short_text(*figure, view, units);
      if (value.empty()) continue;
      if (values.empty()) out.figure = figure;
      out.shown.push_back(figure);
      values.push_back(value);
      full.push_back(fmt::format("{}: {}", figure->title, figure_text(*figure, view, units)));
    }
    if (values.empty()) continue;
    out.value = fmt::format("{}", fmt::join(values, ", "));
    out.full = fmt::format("{}", fmt::join(full, "; "));
    break;
  }
  if (out.shown.empty() && simulated(view) && !row.otherwise.empty()) out.value = row.otherwise;
  if (out.full.empty()) out.full = out.value == "–" ? "not simulated yet" : out.value;
  if (out.figure) out.stage = first_word(out.figure->stage);
  return out;
}

StripItem weakest_item(const PowerView& view, UnitSystem units) {
  StripItem out{.key = "weakest", .title = "Weakest part", .value = "–", .full = {}, .stage = {}, .shown = {}};
  out.why.formula = "What each part carries, over its rating. The part with the largest share fails first.";
  out.why.assumption = "Parts without a stated rating are not among them.";
  out.why.source = "Simulation; ratings as entered from data sheets";
  const std::vector<PartLoad> loads = part_loads(view, units);
  if (loads.empty()) {
    out.full = simulated(view) ? "no part has a rating" : "not simulated yet";
    return out;
  }
  for (const PartLoad& load : loads) {
    if (out.why.inputs.size() == loads_told) break;
    out.why.inputs.push_back(
        fmt::format("{}: {}, {} %", load.part, load.words, round_significant(100 * load.used, 2)));
  }
  const PartLoad& fullest = loads.front();
  out.value = fmt::format("{} %", round_significant(100 * fullest.used, fullest.used >= 1 ? 3 : 2));
  out.title = "Weakest: " + fullest.part;
  out.full = fmt::format("{}: {}", fullest.part, fullest.words);
  out.stage = fullest.stage;
  out.alarm = fullest.used > 1;
  return out;
}

StripItem open_item(const std::vector<Finding>& findings) {
  const auto count = [&](Severity severity) {
    return std::ranges::count_if(findings,
                                 [&](const Finding& f) { return f.severity == severity && f.dismissed.empty(); });
  };
  const auto words = [](std::ptrdiff_t n, std::string_view one) {
    return n == 0 ? std::string() : fmt::format("{} {}{}", n, one, n == 1 ? "" : "s");
  };
  StripItem out{.key = open_place, .title = "Findings", .value = {}, .full = {}, .stage = {}, .shown = {}};
  std::vector<std::string> parts;
  for (const std::string& part : {words(count(Severity::stop), "stop"), words(count(Severity::warning), "warning")})
    if (!part.empty()) parts.push_back(part);
  out.value = parts.empty() ? "no stop, no warning" : fmt::format("{}", fmt::join(parts, ", "));
  out.full = out.value;
  out.alarm = count(Severity::stop) > 0;
  return out;
}

} // namespace

std::vector<PartLoad> part_loads(const PowerView& view, UnitSystem units) {
  if (!simulated(view)) return {};
  Loads loads(view, units);
  loads.add_figures();
  if (const FeedLoads* feed = view.power.part->feed()) loads.add_feed(*feed);
  if (const TankDuty* duty = view.power.part->tank()) loads.add_tank(*duty);
  return std::move(loads).fullest_first();
}

std::array<StripItem, strip_places> strip_of(const PowerView& view, const std::vector<Finding>& findings,
                                             UnitSystem units) {
  const CoilKind& kind = kind_of(view.design);
  constexpr std::array<std::string_view, 4> keys{"arc", "power", "rate", "craft"};
  std::array<StripItem, strip_places> out;
  for (std::size_t i = 0; i < keys.size(); ++i) out[i] = item_of(kind.strip[i], keys[i], view, units);
  out[4] = weakest_item(view, units);
  out[5] = open_item(findings);
  return out;
}

} // namespace arc
