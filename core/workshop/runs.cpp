// Run records; what they hold is one table.
#include "workshop/runs.h"

#include "analysis/analyse.h"
#include "circuit/feed_loads.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "parts/topload.h"
#include "simulation/figures.h"
#include "workshop/compared_designs.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <random>

namespace arc {
namespace {

using D = Dimension;
using Value = std::optional<double>;

constexpr std::string_view variac_key = "variac_percent";
constexpr double same_to = 1e-6; // relative: values that are told apart

// Share of the variac's range, in percent; empty without one.
Value variac_of(const Design& design) {
  for (const FeedBlock& block : design.feed)
    if (block.kind == "variac")
      if (const auto it = block.values.find("setting"); it != block.values.end()) return 100 * it->second;
  return {};
}

const FeedLoads* loads_of(const PowerAnalysis& power) {
  return power.part ? power.part->feed() : nullptr;
}

Value known(double value) {
  return value > 0 && std::isfinite(value) ? Value(value) : Value();
}

const std::array shared_run_fields{
    RunField{.key = "tap_turns",
             .label = "Tap at turn",
             .dimension = D::number,
             .minimum = 0,
             .maximum = 200,
             .of = "primary.tap_turns",
             .group = "tank"},
    RunField{.key = "tank_capacitance_f",
             .label = "Tank capacitance",
             .dimension = D::capacitance,
             .minimum = 1e-13,
             .maximum = 1e-3,
             .of = "tank_capacitance_f",
             .group = "tank"},
    RunField{.key = "simulated_power_w",
             .label = "Power drawn, simulated",
             .dimension = D::power,
             .minimum = 0,
             .maximum = 1e7,
             .from_power = [](const PowerAnalysis& p) { return known(p.drive.input_w); }},
    RunField{.key = "simulated_line_a",
             .label = "Line current, simulated",
             .dimension = D::current,
             .minimum = 0,
             .maximum = 1000,
             .group = "feed",
             .from_power =
                 [](const PowerAnalysis& p) { return loads_of(p) ? known(loads_of(p)->line_current_a) : Value(); }},
    RunField{.key = "simulated_supply_v",
             .label = "Supply's peak, simulated",
             .dimension = D::voltage,
             .minimum = 0,
             .maximum = 1e6,
             .group = "feed",
             .from_power =
                 [](const PowerAnalysis& p) {
                   const FeedLoads* loads = loads_of(p);
                   return loads && !loads->joints.empty() ? known(loads->joints.back().peak_v) : Value();
                 }},
    RunField{.key = "mains_voltage_v",
             .label = "Mains",
             .dimension = D::voltage,
             .minimum = 0,
             .maximum = 1000,
             .of = "site.mains_voltage_v",
             .group = "feed"},
    RunField{.key = "primary_height_m",
             .label = "Primary above floor",
             .dimension = D::length,
             .minimum = 0,
             .maximum = 20,
             .of = "primary.base_height_m"},
    RunField{.key = "secondary_height_m",
             .label = "Secondary above floor",
             .dimension = D::length,
             .minimum = 0,
             .maximum = 20,
             .of = "secondary.base_height_m"},
    RunField{.key = "coupling",
             .label = "Coupling k",
             .dimension = D::number,
             .minimum = 0,
             .maximum = 1,
             .from_design = [](const Design&, const Analysis& a) { return known(a.circuit.coupling); }},
    RunField{.key = "topload_diameter_m",
             .label = "Topload diameter",
             .dimension = D::length,
             .minimum = 0,
             .maximum = 20,
             .from_design = [](const Design& d, const Analysis&) -> Value {
               double widest = 0;
               for (const ToploadPart& part : d.topload)
                 widest = std::max(widest, 2 * topload_extent(part).radius_m);
               return d.topload.empty() ? Value() : widest;
             }},
    RunField{.key = "resonance_hz",
             .label = "Resonance, computed",
             .dimension = D::frequency,
             .minimum = 100,
             .maximum = 1e9,
             .of = "mode_1_hz"},
    RunField{.key = "tank_hz",
             .label = "Tank frequency",
             .dimension = D::frequency,
             .minimum = 100,
             .maximum = 1e9,
             .of = "tank_hz",
             .group = "tank"},
    RunField{.key = "primary_turns",
             .label = "Primary turns",
             .dimension = D::number,
             .minimum = 0,
             .maximum = 1000,
             .of = "primary.turns"},
    RunField{.key = "on_time_s",
             .label = "On-time",
             .dimension = D::time,
             .minimum = 0,
             .maximum = 1,
             .of = "interrupter.on_time_s",
             .group = "interrupter"},
    RunField{.key = "burst_rate_hz",
             .label = "Burst rate",
             .dimension = D::frequency,
             .minimum = 0,
             .maximum = 1e5,
             .group = "interrupter",
             .from_design = [](const Design& d, const Analysis&) -> Value {
               return d.interrupter.locked ? d.site.mains_frequency_hz / d.interrupter.every_cycle
                                           : d.interrupter.rate_hz;
             }},
    RunField{.key = "mains_phase_deg",
             .label = "Fires at, of the mains",
             .dimension = D::angle,
             .minimum = -360,
             .maximum = 360,
             .group = "interrupter",
             .from_design = [](const Design& d, const Analysis&) -> Value {
               return d.interrupter.locked ? Value(d.interrupter.phase_deg) : Value();
             }},
    RunField{.key = "every_cycle",
             .label = "Mains cycles to a burst",
             .dimension = D::number,
             .minimum = 1,
             .maximum = 1000,
             .group = "interrupter",
             .from_design = [](const Design& d, const Analysis&) -> Value {
               return d.interrupter.locked ? Value(d.interrupter.every_cycle) : Value();
             }},
    RunField{.key = "arc_length_m", .label = "Arc length", .dimension = D::length, .minimum = 0, .maximum = 50},
    RunField{.key = variac_key,
             .label = "Variac",
             .dimension = D::percent,
             .minimum = 0,
             .maximum = 200,
             .group = "feed",
             .usual = variac_of},
    RunField{
        .key = "line_current_a", .label = "Line current", .dimension = D::current, .minimum = 0, .maximum = 1000},
    RunField{.key = "duration_s", .label = "Run time", .dimension = D::time, .minimum = 0, .maximum = 86400},
    RunField{.key = "temperature_c",
             .label = "Hottest part",
             .dimension = D::temperature,
             .minimum = -60,
             .maximum = 1500},
};

constexpr int kept_digits = 12; // what was typed, not what arithmetic left of it

// By the key that the row names, of a number of the design or of a figure at rest, or by its own function.
Value condition_of(const RunField& field, const Design& design, const Analysis& analysis) {
  if (field.from_design) return field.from_design(design, analysis);
  if (field.of.empty()) return {};
  for (const FieldSpec& number : design_fields())
    if (number.key == field.of) return number.get(design);
  return figure_value(figure_at_rest(field.of), at_rest(design, analysis));
}

void keep(Run& run, const RunField& field, const Value& value) {
  if (value) run.conditions[std::string(field.key)] = round_significant(*value, kept_digits);
}

} // namespace

std::span<const RunField> run_fields() {
  static const auto all = [] {
    auto rows = with_rows_of_kinds<RunField>(shared_run_fields, &CoilKind::run_fields);
    std::stable_partition(rows.begin(), rows.end(), is_condition);
    return rows;
  }();
  return all;
}

const RunField* find_run_field(std::string_view key) {
  const auto it = std::ranges::find(run_fields(), key, &RunField::key);
  return it == run_fields().end() ? nullptr : &*it;
}

bool is_condition(const RunField& field) {
  return !field.of.empty() || field.from_design || field.from_power;
}

bool belongs_to(const RunField& field, const CoilKind& kind) {
  if (field.group == "feed") return kind.feed_end != FeedEnd::none;
  return field.group.empty() || std::ranges::count(kind.groups, field.group) > 0;
}

std::string new_run_id() {
  constexpr int letters = 6, digits = 16, length = 12;
  std::random_device source;
  std::string id(1, static_cast<char>('a' + std::uniform_int_distribution(0, letters - 1)(source)));
  while (id.size() < length) id += fmt::format("{:x}", std::uniform_int_distribution(0, digits - 1)(source));
  return id;
}

Run begin_run(const Design& design, const Analysis& analysis, const PowerAnalysis* power, std::string when) {
  Run run;
  run.id = new_run_id();
  run.when = std::move(when);
  run.fired_with = KeptDesign(design);
  for (const RunField& field : run_fields()) {
    if (!belongs_to(field, kind_of(design))) continue;
    keep(run, field, condition_of(field, design, analysis));
    if (field.from_power && power) keep(run, field, field.from_power(*power));
  }
  return run;
}

void settle_run(Run& run) {
  const Design* design = run.fired_with.get();
  if (!design) return;
  for (const RunField& field : run_fields())
    if (field.usual && belongs_to(field, kind_of(*design)) && !run_value(run, field))
      if (const Value usual = field.usual(*design))
        run.observations[std::string(field.key)] = round_significant(*usual, kept_digits);
  const Value in_design = variac_of(*design);
  const auto typed = run.observations.find(std::string(variac_key));
  constexpr double same_percent = 0.01;
  if (!in_design || typed == run.observations.end() || std::abs(typed->second - *in_design) < same_percent) return;
  Design moved = *design;
  for (FeedBlock& block : moved.feed.own())
    if (block.kind == "variac") block.values["setting"] = typed->second / 100;
  run.fired_with = KeptDesign(moved);
  for (const RunField& field : run_fields())
    if (field.from_power) run.conditions.erase(std::string(field.key));
}

void share_design(Run& run, const std::vector<Run>& runs) {
  const Design* last = nullptr;
  for (auto it = runs.rbegin(); it != runs.rend(); ++it) { // each different one is looked at once where they follow
    if (it->fired_with.get() == last) continue;
    last = it->fired_with.get();
    if (it->fired_with == run.fired_with) {
      run.fired_with = it->fired_with;
      return;
    }
  }
}

bool lacks_simulation(const Run& run) {
  return run.fired_with.get() && std::ranges::none_of(run_fields(), [&](const RunField& field) {
           return field.from_power && run.conditions.contains(std::string(field.key));
         });
}

std::map<std::string, double> simulate_run(const Run& run, const Work& work) {
  const Design* design = run.fired_with.get();
  if (!design) return {};
  PowerOptions options;
  options.advice = options.variac = options.waveforms = false;
  const Analysis analysis = analyse(*design, UnitSystem::metric, work.kept);
  const PowerAnalysis power = analyse_power(*design, analysis, options, UnitSystem::metric, work);
  if (!not_computed(*design, analysis, power).empty()) return {};
  Run out;
  for (const RunField& field : run_fields())
    if (field.from_power && belongs_to(field, kind_of(*design))) keep(out, field, field.from_power(power));
  return out.conditions;
}

void simulate_runs(std::vector<Run>& runs, const Work& work) {
  std::map<const Design*, std::map<std::string, double>> figures;
  for (Run& run : runs) {
    if (!lacks_simulation(run)) continue;
    const auto [of, first] = figures.try_emplace(run.fired_with.get());
    if (first) of->second = simulate_run(run, work);
    run.conditions.insert(of->second.begin(), of->second.end());
  }
}

std::optional<double> run_value(const Run& run, const RunField& field) {
  const auto& values = is_condition(field) ? run.conditions : run.observations;
  const auto it = values.find(std::string(field.key));
  return it == values.end() ? std::nullopt : std::optional<double>(it->second);
}

Design design_of(const Run& run, const Design& present) {
  if (!run.fired_with.get()) return present;
  Design out = *run.fired_with.get();
  out.runs = present.runs;
  out.topload_variants = present.topload_variants;
  out.variants = present.variants;
  return out;
}

std::vector<RunDifference> compare_runs(const Run& first, const Run& second, UnitSystem units) {
  std::vector<RunDifference> out;
  const auto text = [&](const Value& v, Dimension dimension) {
    return v ? format_quantity(*v, dimension, units, 4) : std::string("–");
  };
  for (const RunField& field : run_fields()) {
    const auto a = run_value(first, field);
    const auto b = run_value(second, field);
    if (!a && !b) continue;
    const bool same = a && b && std::abs(*a - *b) <= same_to * std::max(std::abs(*a), std::abs(*b));
    out.push_back({std::string(field.label), text(a, field.dimension), text(b, field.dimension), !same});
  }
  const auto words = [&](std::string label, const std::string& a, const std::string& b) {
    if (!a.empty() || !b.empty()) out.push_back({std::move(label), a, b, a != b});
  };
  words("What failed", first.failed, second.failed);
  words("Stops that stood", first.open_stops, second.open_stops);
  std::map<std::string, std::pair<std::string, std::string>> own;
  for (const auto& [name, cell] : first.columns) own[name].first = cell;
  for (const auto& [name, cell] : second.columns) own[name].second = cell;
  for (const auto& [name, cells] : own) words(name, cells.first, cells.second);
  const Design* a = first.fired_with.get();
  const Design* b = second.fired_with.get();
  if (!a || !b || a == b) return out;
  Design other = *b; // the variac's setting is told by the run's own
  if (const Value setting = variac_of(*a))
    for (FeedBlock& block : other.feed.own())
      if (block.kind == "variac") block.values["setting"] = *setting / 100;
  for (ComparedRow& row : compare_inputs(*a, other, units))
    if (row.differs) out.push_back({"Design: " + row.title, std::move(row.first), std::move(row.second), true});
  return out;
}

std::vector<RunDifference> compare_figures(const Run& first, const Run& second, UnitSystem units, Kept& kept) {
  std::vector<RunDifference> out;
  const Design* a = first.fired_with.get();
  const Design* b = second.fired_with.get();
  if (!a || !b || a == b) return out;
  const Analysis of_first = analyse(*a, units, kept), of_second = analyse(*b, units, kept);
  for (ComparedRow& row : compare_figures(at_rest(*a, of_first), at_rest(*b, of_second), units))
    if (row.differs) out.push_back({"Computed: " + row.title, std::move(row.first), std::move(row.second), true});
  return out;
}

std::string_view varied_most(const std::vector<Run>& runs, const RunField& achieved, const CoilKind& kind) {
  std::string_view most;
  double most_spread = 1e-6; // rounding is no variation
  for (const RunField& field : run_fields()) {
    if (field.key == achieved.key || !belongs_to(field, kind) || !(is_condition(field) || field.usual)) continue;
    double n = 0, mean = 0, squares = 0; // B. P. Welford, Technometrics 4 (1962) 419
    for (const Run& run : runs) {
      const Value x = run_value(run, field);
      if (!x || !run_value(run, achieved)) continue;
      const double off = *x - mean;
      mean += off / ++n;
      squares += off * (*x - mean);
    }
    if (n < 2 || mean == 0) continue;
    const double spread = std::sqrt(squares / n) / std::abs(mean) * (n / static_cast<double>(runs.size()));
    if (spread > most_spread) {
      most_spread = spread;
      most = field.key;
    }
  }
  return most;
}

} // namespace arc
