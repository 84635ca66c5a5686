// Run records; what they hold is one table.
#include "workshop/runs.h"

#include "coil/kind.h"
#include "coil/validity.h"
#include "parts/topload.h"
#include "quantity/csv_rows.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace arc {
namespace {

using D = Dimension;
using Value = std::optional<double>;

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
    RunField{"variac_percent", "Variac", D::percent, 0, 200, nullptr, "gap"},
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

std::string number_text(double value) {
  return fmt::format("{}", value);
}

const RunField* field_by_key(std::string_view key) {
  const auto it = std::ranges::find(fields, key, &RunField::key);
  return it == fields.end() ? nullptr : &*it;
}

double parse_cell(const std::string& cell, const RunField& field, std::size_t row) {
  double value = 0;
  if (!csv_number(cell, value))
    throw RunFileError(fmt::format("row {}, column {}: “{}” is not a number", row, field.key, cell));
  if (value < field.minimum || value > field.maximum)
    throw RunFileError(fmt::format("row {}, column {}: {} is outside of {} to {}", row, field.key, cell,
                                   field.minimum, field.maximum));
  return value;
}

} // namespace

std::span<const RunField> run_fields() {
  return fields;
}

bool is_condition(const RunField& field) {
  return field.from_design != nullptr;
}

bool belongs_to(const RunField& field, const CoilKind& kind) {
  return field.group.empty() || std::ranges::count(kind.groups, field.group) > 0;
}

Run begin_run(const Design& design, const Analysis& analysis, std::string when) {
  Run run;
  run.when = std::move(when);
  for (const RunField& field : fields)
    if (is_condition(field) && belongs_to(field, kind_of(design)))
      if (const auto value = field.from_design(design, analysis)) {
        constexpr int digits = 12; // what was typed, not what arithmetic left of it
        run.conditions[std::string(field.key)] = round_significant(*value, digits);
      }
  return run;
}

std::optional<double> run_value(const Run& run, const RunField& field) {
  const auto& values = is_condition(field) ? run.conditions : run.observations;
  const auto it = values.find(std::string(field.key));
  return it == values.end() ? std::nullopt : std::optional<double>(it->second);
}

std::vector<RunDifference> compare_runs(const Run& first, const Run& second, UnitSystem units) {
  std::vector<RunDifference> out;
  for (const RunField& field : fields) {
    const auto a = run_value(first, field);
    const auto b = run_value(second, field);
    if (!a && !b) continue;
    const auto text = [&](Value v) {
      return v ? format_quantity(*v, field.dimension, units, 4) : std::string("–");
    };
    const bool same = a && b && std::abs(*a - *b) <= 1e-6 * std::max(std::abs(*a), std::abs(*b));
    out.push_back({std::string(field.label), text(a), text(b), !same});
  }
  if (!first.failed.empty() || !second.failed.empty())
    out.push_back({"What failed", first.failed, second.failed, first.failed != second.failed});
  return out;
}

std::vector<Run> new_runs(const std::vector<Run>& known, const std::vector<Run>& read) {
  std::multiset<std::string> there;
  for (const Run& run : known) there.insert(runs_to_csv({run}));
  std::vector<Run> out;
  for (const Run& run : read) {
    const auto same = there.find(runs_to_csv({run}));
    if (same != there.end())
      there.erase(same);
    else
      out.push_back(run);
  }
  return out;
}

std::string runs_to_csv(const std::vector<Run>& runs) {
  std::string out = "when";
  for (const RunField& field : fields) out += fmt::format(",{}", field.key);
  out += ",failed,notes,armed_despite\r\n";
  for (const Run& run : runs) {
    out += csv_cell(run.when);
    for (const RunField& field : fields) {
      const auto value = run_value(run, field);
      out += fmt::format(",{}", value ? number_text(*value) : std::string());
    }
    out += fmt::format(",{},{},{}\r\n", csv_cell(run.failed), csv_cell(run.notes), csv_cell(run.armed_despite));
  }
  return out;
}

std::vector<Run> runs_from_csv(std::string_view text) {
  CsvRows rows;
  try {
    rows = csv_rows(text);
  } catch (const CsvError& error) {
    throw RunFileError(error.what());
  }
  if (rows.empty()) throw RunFileError("the file is empty; expected a header row that starts with “when”");
  const auto& header = rows.front();
  if (std::ranges::find(header, "when") == header.end())
    throw RunFileError("row 1: there is no column “when”; expected a file that High Arc exported");
  for (const std::string& name : header)
    if (name != "when" && name != "failed" && name != "notes" && name != "armed_despite" && !field_by_key(name))
      throw RunFileError(fmt::format("row 1: the column “{}” is not known", name));
  for (const std::string& name : header)
    if (std::ranges::count(header, name) > 1)
      throw RunFileError(fmt::format("row 1: the column “{}” stands twice", name));
  if (rows.size() > most_runs + 1) throw RunFileError(fmt::format("more than {} runs", most_runs));
  std::vector<Run> runs;
  for (std::size_t r = 1; r < rows.size(); ++r) {
    if (rows[r].size() != header.size())
      throw RunFileError(
          fmt::format("row {}: {} cells where the header has {}", r + 1, rows[r].size(), header.size()));
    Run run;
    for (std::size_t c = 0; c < header.size(); ++c) {
      const std::string& cell = rows[r][c];
      if (header[c] == "when")
        run.when = csv_text(cell);
      else if (header[c] == "failed")
        run.failed = csv_text(cell);
      else if (header[c] == "notes")
        run.notes = csv_text(cell);
      else if (header[c] == "armed_despite")
        run.armed_despite = csv_text(cell);
      else if (const RunField* field = field_by_key(header[c]); field && !cell.empty())
        (is_condition(*field) ? run.conditions : run.observations)[header[c]] = parse_cell(cell, *field, r + 1);
    }
    runs.push_back(std::move(run));
  }
  return runs;
}

} // namespace arc
