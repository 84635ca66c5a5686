// Run records; what they hold is one table.
#include "workshop/runs.h"

#include "circuit/feed_loads.h"
#include "coil/kind.h"
#include "model/fields.h"
#include "parts/topload.h"

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

const std::array fields{
    RunField{"tap_turns", "Clip at turn", D::number, 0, 200,
             [](const Design& d, const Analysis&) -> Value { return d.primary.tap_turns; }, "tank"},
    RunField{"tank_capacitance_f", "Tank capacitance", D::capacitance, 1e-13, 1e-3,
             [](const Design&, const Analysis& a) -> Value { return a.tank_capacitance_f; }, "tank"},
    RunField{"firing_voltage_v", "Gap fires at", D::voltage, 0, 1e6,
             [](const Design& d, const Analysis&) -> Value { return d.gap.firing_voltage_v; }, "gap"},
    RunField{"break_rate_hz", "Breaks each second", D::frequency, 0, 1e5,
             [](const Design& d, const Analysis&) -> Value { return d.gap.break_rate_hz; }, "gap"},
    RunField{"power_w", "Power through the gap", D::power, 0, 1e7,
             [](const Design&, const Analysis& a) -> Value { return a.power_w; }, "gap"},
    RunField{"simulated_power_w",
             "Power drawn, simulated",
             D::power,
             0,
             1e7,
             nullptr,
             {},
             [](const PowerAnalysis& p) { return known(p.drive.input_w); }},
    RunField{"simulated_line_a", "Line current, simulated", D::current, 0, 1000, nullptr, "feed",
             [](const PowerAnalysis& p) { return loads_of(p) ? known(loads_of(p)->line_current_a) : Value(); }},
    RunField{"simulated_supply_v", "Supply's peak, simulated", D::voltage, 0, 1e6, nullptr, "feed",
             [](const PowerAnalysis& p) {
               const FeedLoads* loads = loads_of(p);
               return loads && !loads->joints.empty() ? known(loads->joints.back().peak_v) : Value();
             }},
    RunField{"mains_voltage_v", "Mains", D::voltage, 0, 1000,
             [](const Design& d, const Analysis&) -> Value { return d.site.mains_voltage_v; }, "feed"},
    RunField{"primary_height_m", "Primary above floor", D::length, 0, 20,
             [](const Design& d, const Analysis&) -> Value { return d.primary.base_height_m; }},
    RunField{"secondary_height_m", "Secondary above floor", D::length, 0, 20,
             [](const Design& d, const Analysis&) -> Value { return d.secondary.base_height_m; }},
    RunField{"coupling", "Coupling k", D::number, 0, 1,
             [](const Design&, const Analysis& a) -> Value {
               return a.circuit.coupling > 0 ? Value(a.circuit.coupling) : std::nullopt;
             }},
    RunField{"topload_diameter_m", "Topload diameter", D::length, 0, 20,
             [](const Design& d, const Analysis&) -> Value {
               double widest = 0;
               for (const ToploadPart& part : d.topload)
                 widest = std::max(widest, 2 * topload_extent(part).radius_m);
               return d.topload.empty() ? Value() : widest;
             }},
    RunField{"resonance_hz", "Resonance, computed", D::frequency, 100, 1e9,
             [](const Design&, const Analysis& a) -> Value {
               return a.resonator ? Value(a.resonator->mode_1_hz) : Value();
             }},
    RunField{"tank_hz", "Tank frequency", D::frequency, 100, 1e9,
             [](const Design&, const Analysis& a) -> Value { return a.tank_hz; }, "tank"},
    RunField{"arc_length_m", "Arc length", D::length, 0, 50, nullptr},
    RunField{variac_key, "Variac", D::percent, 0, 200, nullptr, "feed", nullptr, variac_of},
    RunField{"line_current_a", "Line current", D::current, 0, 1000, nullptr},
    RunField{"duration_s", "Run time", D::time, 0, 86400, nullptr},
    RunField{"temperature_c", "Hottest part", D::temperature, -60, 1500, nullptr},
    RunField{"gap_spacing_m", "Gap spacing", D::length, 0, 1, nullptr, "gap"},
    RunField{"supply_voltage_v", "Supply", D::voltage, 0, 1000,
             [](const Design& d, const Analysis&) -> Value { return d.exciter.supply_voltage_v; }, "exciter"},
    RunField{"bias_resistance_ohm", "Bias resistor", D::resistance, 0, 1e9,
             [](const Design& d, const Analysis&) -> Value { return d.exciter.bias_resistance_ohm; }, "exciter"},
    RunField{"primary_turns", "Primary turns", D::number, 0, 1000,
             [](const Design& d, const Analysis&) -> Value { return d.primary.turns; }},
    RunField{"on_time_s", "On-time", D::time, 0, 1,
             [](const Design& d, const Analysis&) -> Value { return d.interrupter.on_time_s; }, "interrupter"},
    RunField{"burst_rate_hz", "Bursts each second", D::frequency, 0, 1e5,
             [](const Design& d, const Analysis&) -> Value {
               return d.interrupter.locked ? d.site.mains_frequency_hz / d.interrupter.every_cycle
                                           : d.interrupter.rate_hz;
             },
             "interrupter"},
    RunField{"mains_phase_deg", "Fires at, of the mains", D::angle, -360, 360,
             [](const Design& d, const Analysis&) -> Value {
               return d.interrupter.locked ? Value(d.interrupter.phase_deg) : Value();
             },
             "interrupter"},
    RunField{"every_cycle", "Mains cycles to a burst", D::number, 1, 1000,
             [](const Design& d, const Analysis&) -> Value {
               return d.interrupter.locked ? Value(d.interrupter.every_cycle) : Value();
             },
             "interrupter"},
    RunField{"rotor_phase_deg", "Rotor's phase", D::angle, -360, 360,
             [](const Design& d, const Analysis&) { return d.gap.rotor_phase_deg; }, "gap"},
    RunField{"direct_supply_v", "Direct supply", D::voltage, 0, 1e5,
             [](const Design& d, const Analysis&) {
               return d.kind == "flame" ? d.flame.supply_voltage_v : d.tube.supply_voltage_v;
             },
             "tube"},
    RunField{"feedback_turns", "Feedback turns", D::number, 0, 1000,
             [](const Design& d, const Analysis&) -> Value { return d.feedback.turns; }, "feedback"},
    RunField{"grid_leak_ohm", "Grid leak", D::resistance, 0, 1e9,
             [](const Design& d, const Analysis&) -> Value { return d.tube.grid_leak_ohm; }, "feedback"},
    RunField{"grid_resistor_ohm", "Grid resistor", D::resistance, 0, 1e9,
             [](const Design& d, const Analysis&) -> Value { return d.flame.grid_resistor_ohm; }, "flame"},
    RunField{"plate_voltage_v", "Plate supply", D::voltage, 0, 1e5, nullptr, "tube"},
    RunField{"plate_current_a", "Plate current", D::current, 0, 1000, nullptr, "tube"},
    RunField{"grid_current_a", "Grid current", D::current, 0, 100, nullptr, "tube"},
    RunField{"filament_voltage_v", "Filament", D::voltage, 0, 200, nullptr, "tube"},
    RunField{"bus_voltage_v", "Bus", D::voltage, 0, 10000, nullptr, "bridge"},
    RunField{"supply_current_a", "Supply current", D::current, 0, 1000, nullptr, "exciter"},
    RunField{"lamp_distance_m", "Lamp lights at", D::length, 0, 20, nullptr, "exciter"},
};

constexpr int kept_digits = 12; // what was typed, not what arithmetic left of it

void keep(Run& run, const RunField& field, const Value& value) {
  if (value) run.conditions[std::string(field.key)] = round_significant(*value, kept_digits);
}

} // namespace

std::span<const RunField> run_fields() {
  return fields;
}

const RunField* find_run_field(std::string_view key) {
  const auto it = std::ranges::find(fields, key, &RunField::key);
  return it == fields.end() ? nullptr : &*it;
}

bool is_condition(const RunField& field) {
  return field.from_design || field.from_power;
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
  for (const RunField& field : fields) {
    if (!belongs_to(field, kind_of(design))) continue;
    if (field.from_design) keep(run, field, field.from_design(design, analysis));
    if (field.from_power && power) keep(run, field, field.from_power(*power));
  }
  return run;
}

void settle_run(Run& run) {
  const Design* design = run.fired_with.get();
  if (!design) return;
  for (const RunField& field : fields)
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
  for (const RunField& field : fields)
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
  return run.fired_with.get() && std::ranges::none_of(fields, [&](const RunField& field) {
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
  for (const RunField& field : fields)
    if (field.from_power && belongs_to(field, kind_of(*design))) keep(out, field, field.from_power(power));
  return out.conditions;
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
  return out;
}

namespace {

// Number by number where the same blocks stand in the same order.
void compare_feeds(const std::vector<FeedBlock>& first, const std::vector<FeedBlock>& second, UnitSystem units,
                   std::vector<RunDifference>& out) {
  const auto titles = [](const std::vector<FeedBlock>& feed) {
    std::string text;
    for (const FeedBlock& block : feed)
      if (const BlockKind* row = block_kind(block.kind))
        text += (text.empty() ? "" : ", ") + std::string(row->brief);
    return text.empty() ? std::string("none") : text;
  };
  if (!std::ranges::equal(first, second, {}, &FeedBlock::kind, &FeedBlock::kind)) {
    out.push_back({"Design: path from the wall", titles(first), titles(second), true});
    return;
  }
  for (std::size_t i = 0; i < first.size(); ++i)
    if (const BlockKind* row = block_kind(first[i].kind))
      for (const BlockNumber& number : row->numbers) {
        const double a = block_value(first[i], number.key), b = block_value(second[i], number.key);
        const bool told = row->role == BlockRole::variac && number.key == "setting"; // by the run's own
        if (a == b || told) continue;
        out.push_back({fmt::format("Design: {}, {}", row->title, number.label),
                       format_quantity(a, number.dimension, units, 4),
                       format_quantity(b, number.dimension, units, 4), true});
      }
}

} // namespace

std::vector<RunDifference> compare_runs(const Run& first, const Run& second, UnitSystem units) {
  std::vector<RunDifference> out;
  const auto text = [&](const Value& v, Dimension dimension) {
    return v ? format_quantity(*v, dimension, units, 4) : std::string("–");
  };
  for (const RunField& field : fields) {
    const auto a = run_value(first, field);
    const auto b = run_value(second, field);
    if (!a && !b) continue;
    const bool same = a && b && std::abs(*a - *b) <= 1e-6 * std::max(std::abs(*a), std::abs(*b));
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
  for (const FieldSpec& field : design_fields())
    if (field.get(*a) != field.get(*b))
      out.push_back({fmt::format("Design: {}", field.label), text(field.get(*a), field.dimension),
                     text(field.get(*b), field.dimension), true});
  for (const ChoiceSpec& choice : design_choices())
    if (choice.get(*a) != choice.get(*b))
      out.push_back({fmt::format("Design: {}", choice.label), std::string(choice.choices[choice.get(*a)].title),
                     std::string(choice.choices[choice.get(*b)].title), true});
  compare_feeds(a->feed, b->feed, units, out);
  if (a->topload != b->topload) out.push_back({"Design: topload", "as it was", "differs", true});
  return out;
}

std::string_view varied_most(const std::vector<Run>& runs, const RunField& achieved, const CoilKind& kind) {
  std::string_view most;
  double most_spread = 1e-6; // rounding is no variation
  for (const RunField& field : fields) {
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
