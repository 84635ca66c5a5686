// The same sums wherever a whole coil is judged against what was asked for.
#include "workshop/whole_coil.h"

#include "circuit/feed_loads.h"
#include "parts/topload.h"
#include "parts/wire.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <nlohmann/json.hpp>
#include <numbers>
#include <vector>

namespace arc {
namespace {

constexpr double turns_an_hour = 1200; // by crank (common practice, no source)

// A conductor of 3 mm and more is tubing of 1 mm wall.
double primary_mass_kg(const Design& d, const Analysis& analysis) {
  const double mm = d.primary.conductor_diameter_m * 1000;
  const double whole_kg = wire_mass_kg(d.primary.conductor_diameter_m, analysis.primary_wire_length_m);
  return mm < 3 ? whole_kg : whole_kg * (1 - (mm - 2) * (mm - 2) / (mm * mm));
}

} // namespace

Overall overall_size(const Design& design) {
  const Secondary& s = design.secondary;
  const double top_m = s.base_height_m + s.winding_length_m;
  Overall out{top_m, s.form_diameter_m};
  for (const ToploadPart& part : design.topload) {
    const Extent extent = topload_extent(part);
    out.height_m = std::max(out.height_m, top_m + extent.highest_m);
    out.diameter_m = std::max(out.diameter_m, 2 * extent.radius_m);
  }
  const Primary& p = design.primary;
  const double degrees = p.shape == PrimaryShape::flat ? 0 : p.shape == PrimaryShape::helix ? 90 : p.cone_angle_deg;
  const double outer_m = p.inner_radius_m + std::cos(degrees * std::numbers::pi / 180) * p.turns * p.pitch_m +
                         p.conductor_diameter_m / 2;
  out.diameter_m = std::max(out.diameter_m, 2 * outer_m);
  return out;
}

CoilFigures figures_at_rest_of(const Design& design, const Analysis& analysis) {
  const Overall size = overall_size(design);
  CoilFigures f;
  f.resonance_hz = analysis.best_mode_1_hz;
  f.height_m = size.height_m;
  f.floor_diameter_m = size.diameter_m;
  f.mass_kg = analysis.wire_mass_kg + primary_mass_kg(design, analysis);
  f.winding_hours = design.secondary.turns / turns_an_hour;
  return f;
}

CoilFigures figures_of_coil(const Design& design, const Analysis& analysis, const PowerAnalysis& power) {
  CoilFigures f = figures_at_rest_of(design, analysis);
  f.power_w = power.drive.input_w;
  f.drive_hz = power.drive.frequency_hz;
  f.highest_v = std::max(power.drive.primary_peak_v, analysis.tank_peak_v);
  if (power.arc && power.arc->breaks_out) {
    f.arc_low_m = power.arc->length_m.low;
    f.arc_high_m = power.arc->length_m.high;
  }
  if (const FeedLoads* loads = power.part ? power.part->feed() : nullptr; loads && loads->line_current_a > 0)
    f.line_current_a = loads->line_current_a;
  return f;
}

void hold_below(Misses& misses, const Brief& brief, const char* key, double value) {
  const auto it = brief.limits.find(key);
  if (it != brief.limits.end() && value > it->second) misses[key] = value / it->second - 1;
}

void hold_above(Misses& misses, const Brief& brief, const char* key, double value) {
  const auto it = brief.limits.find(key);
  if (it != brief.limits.end() && value < it->second) misses[key] = it->second / std::max(value, 1e-9) - 1;
}

Misses passed_at_rest(const Brief& brief, const CoilFigures& f) {
  Misses out;
  hold_below(out, brief, "resonance_high_hz", f.resonance_hz);
  hold_above(out, brief, "resonance_low_hz", f.resonance_hz);
  hold_below(out, brief, "height_m", f.height_m);
  hold_below(out, brief, "floor_diameter_m", f.floor_diameter_m);
  return out;
}

Misses passed_limits(const Brief& brief, const Site& site, const CoilFigures& f) {
  Misses out = passed_at_rest(brief, f);
  if (f.line_current_a) hold_below(out, brief, "line_current_a", *f.line_current_a);
  hold_below(out, brief, "driver_high_hz", f.drive_hz);
  hold_above(out, brief, "driver_low_hz", f.drive_hz);
  hold_below(out, brief, "highest_voltage_v", f.highest_v);
  hold_above(out, brief, "arc_length_m", f.arc_low_m);
  const auto beyond = [&](const char* key, const std::optional<double>& room_m, double taken_m) {
    if (room_m && taken_m + f.arc_high_m > *room_m) out[key] = (taken_m + f.arc_high_m) / *room_m - 1;
  };
  beyond("ceiling_height_m", site.ceiling_height_m, f.height_m);
  beyond("wall_distance_m", site.wall_distance_m, f.floor_diameter_m / 2);
  return out;
}

std::optional<double> figure_under(std::string_view limit, const CoilFigures& f) {
  const std::array<std::pair<std::string_view, std::optional<double>>, 10> all{
      {{"line_current_a", f.line_current_a},
       {"height_m", f.height_m},
       {"floor_diameter_m", f.floor_diameter_m},
       {"resonance_low_hz", f.resonance_hz},
       {"resonance_high_hz", f.resonance_hz},
       {"driver_low_hz", f.drive_hz},
       {"driver_high_hz", f.drive_hz},
       {"arc_length_m", f.arc_low_m},
       {"highest_voltage_v", f.highest_v},
       {"price", f.price}}};
  const auto it = std::ranges::find(all, limit, &std::pair<std::string_view, std::optional<double>>::first);
  return it == all.end() ? std::nullopt : it->second;
}

std::optional<Brief> brief_of(const Design& design) {
  if (design.unknown.empty()) return {};
  const Json& json = design.unknown.json();
  const auto kept = json.find("brief");
  if (kept == json.end() || !kept->is_object()) return {};
  Json whole = *kept;
  whole["format"] = "high-arc-brief";
  try {
    return read_brief(whole.dump());
  } catch (const BriefError&) {
    return {};
  }
}

std::optional<Finding> left_brief(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                  UnitSystem units) {
  const auto brief = brief_of(design);
  if (!brief || !analysis.problem.empty() || !analysis.resonator) return {};
  const bool simulated = power && power->part && power->kind == design.kind && power->part->problem.empty();
  const CoilFigures figures =
      simulated ? figures_of_coil(design, analysis, *power) : figures_at_rest_of(design, analysis);
  const Misses misses = simulated ? passed_limits(*brief, design.site, figures) : passed_at_rest(*brief, figures);
  std::vector<std::string> told;
  constexpr double rounding = 1e-6;
  Finding out{.id = "left-brief", .severity = Severity::note, .stage = "fire"};
  double worst = 0;
  for (const auto& [key, by] : misses) {
    if (by < rounding) continue;
    const BriefLimit* limit = brief_limit(key);
    const auto value = figure_under(key, figures);
    if (!limit || !value) continue; // the room has findings of its own
    const double asked = brief->limits.at(key);
    const auto text = [&](double si) { return format_quantity(si, limit->dimension, units, 3); };
    told.push_back(fmt::format("{} {}, asked for {} {}", limit->title, text(*value),
                               limit->least ? "at least" : "at most", text(asked)));
    if (by <= worst) continue;
    worst = by;
    out.value = *value;
    out.limit = asked;
    out.dimension = limit->dimension;
  }
  if (told.empty()) return {};
  out.title = fmt::format("The design has left its brief: {}", told.front());
  out.text = fmt::format("It was proposed from the brief “{}”, which by now it does not keep: {}.", brief->name,
                         fmt::join(told, "; "));
  out.remedy = "Change the design back, or forget the brief";
  out.apply = [](Design& d) {
    Json rest = d.unknown.json();
    rest.erase("brief");
    d.unknown = Extras(rest);
  };
  return out;
}

} // namespace arc
