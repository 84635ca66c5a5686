// Shelf files.
#include "parts/shelf.h"

#include "quantity/csv_rows.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace arc {
namespace {

struct Column {
  std::string_view key;
  double minimum, maximum;
  bool required;
  std::optional<double> (*get)(const ShelfCapacitor&);
  void (*set)(ShelfCapacitor&, double);
};

const std::array columns{
    Column{"capacitance_f", 1e-14, 10, true, [](const ShelfCapacitor& c) { return std::optional(c.capacitance_f); },
           [](ShelfCapacitor& c, double v) { c.capacitance_f = v; }},
    Column{"voltage_v", 1, 1e6, true, [](const ShelfCapacitor& c) { return std::optional(c.voltage_v); },
           [](ShelfCapacitor& c, double v) { c.voltage_v = v; }},
    Column{"count", 1, 10000, true, [](const ShelfCapacitor& c) { return std::optional<double>(c.count); },
           [](ShelfCapacitor& c, double v) { c.count = static_cast<int>(std::lround(v)); }},
    Column{"tolerance", 0, 1, false, [](const ShelfCapacitor& c) { return std::optional(c.tolerance); },
           [](ShelfCapacitor& c, double v) { c.tolerance = v; }},
    Column{"rms_current_a", 1e-6, 1e5, false, [](const ShelfCapacitor& c) { return c.rms_current_a; },
           [](ShelfCapacitor& c, double v) { c.rms_current_a = v; }},
    Column{"slope_v_per_s", 1, 1e15, false, [](const ShelfCapacitor& c) { return c.slope_v_per_s; },
           [](ShelfCapacitor& c, double v) { c.slope_v_per_s = v; }},
    Column{"dissipation_factor", 0, 1, false, [](const ShelfCapacitor& c) { return c.dissipation_factor; },
           [](ShelfCapacitor& c, double v) { c.dissipation_factor = v; }},
    Column{"price", 0, 1e6, false, [](const ShelfCapacitor& c) { return c.price; },
           [](ShelfCapacitor& c, double v) { c.price = v; }},
};

void take(ShelfCapacitor& part, const Column& column, double value, const std::string& where) {
  if (!std::isfinite(value) || value < column.minimum || value > column.maximum)
    throw ShelfError(
        fmt::format("{}: {} is outside of {} to {} (SI units)", where, value, column.minimum, column.maximum));
  if (column.key == "count" && value != std::floor(value))
    throw ShelfError(fmt::format("{}: {} is not a whole number", where, value));
  column.set(part, value);
}

} // namespace

Shelf read_shelf(std::string_view text) {
  Json json;
  try {
    json = Json::parse(text);
  } catch (const Json::exception&) {
    throw ShelfError("this is not valid JSON; it may be cut off");
  }
  if (!json.is_object() || json.value("format", Json()) != "high-arc-shelf")
    throw ShelfError("this is not a shelf; expected \"format\": \"high-arc-shelf\"");
  if (json.value("version", Json()) != 1) throw ShelfError("version: expected 1");
  Shelf shelf;
  if (json.contains("name") && json["name"].is_string()) shelf.name = json["name"];
  const Json list = json.value("capacitors", Json::array());
  if (!list.is_array()) throw ShelfError("capacitors: expected a list [...]");
  for (std::size_t i = 0; i < list.size(); ++i) {
    const std::string where = fmt::format("capacitors[{}]", i);
    if (!list[i].is_object()) throw ShelfError(where + ": expected an object {...}");
    ShelfCapacitor part;
    std::set<std::string> known{"name"};
    if (list[i].contains("name")) {
      if (!list[i]["name"].is_string()) throw ShelfError(where + ".name: expected text in quotes");
      part.name = list[i]["name"];
    }
    for (const Column& column : columns) {
      const std::string key(column.key);
      known.insert(key);
      if (!list[i].contains(key)) {
        if (column.required && key != "count") throw ShelfError(fmt::format("{}.{}: missing", where, key));
        continue;
      }
      if (!list[i][key].is_number()) throw ShelfError(fmt::format("{}.{}: expected a number", where, key));
      take(part, column, list[i][key].get<double>(), where + "." + key);
    }
    if (part.name.empty()) part.name = fmt::format("part {}", i + 1);
    for (const auto& [key, value] : list[i].items())
      if (!known.contains(key)) part.unknown[key] = value;
    shelf.capacitors.push_back(std::move(part));
  }
  for (const auto& [key, value] : json.items())
    if (key != "format" && key != "version" && key != "name" && key != "capacitors") shelf.unknown[key] = value;
  return shelf;
}

std::string write_shelf(const Shelf& shelf) {
  Json json{{"format", "high-arc-shelf"}, {"version", 1}, {"name", shelf.name}, {"capacitors", Json::array()}};
  for (const ShelfCapacitor& part : shelf.capacitors) {
    Json item{{"name", part.name}};
    for (const Column& column : columns)
      if (const auto value = column.get(part)) {
        if (column.key == "count")
          item["count"] = part.count;
        else
          item[std::string(column.key)] = *value;
      }
    item.update(part.unknown);
    json["capacitors"].push_back(item);
  }
  json.update(shelf.unknown);
  return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Shelf shelf_from_csv(std::string_view text) {
  CsvRows rows;
  try {
    rows = csv_rows(text);
  } catch (const CsvError& error) {
    throw ShelfError(error.what());
  }
  if (rows.empty())
    throw ShelfError("the file is empty; expected the columns name, capacitance_f, voltage_v, count");
  Shelf shelf;
  for (const Column& column : columns)
    if (column.required && std::ranges::count(rows[0], column.key) == 0)
      throw ShelfError(fmt::format("row 1: the column “{}” is missing", column.key));
  for (std::size_t r = 1; r < rows.size(); ++r) {
    if (rows[r].size() != rows[0].size())
      throw ShelfError(
          fmt::format("row {}: {} cells where the header has {}", r + 1, rows[r].size(), rows[0].size()));
    ShelfCapacitor part;
    part.name = fmt::format("part {}", r);
    for (std::size_t c = 0; c < rows[r].size(); ++c) {
      if (rows[0][c] == "name") {
        part.name = rows[r][c];
        continue;
      }
      const auto column = std::ranges::find(columns, rows[0][c], &Column::key);
      if (column == columns.end()) throw ShelfError(fmt::format("row 1: the column “{}” is not known", rows[0][c]));
      const std::string where = fmt::format("row {}, column {}", r + 1, column->key);
      if (rows[r][c].empty() && !column->required) continue;
      double value = 0;
      if (!csv_number(rows[r][c], value))
        throw ShelfError(fmt::format("{}: “{}” is not a number", where, rows[r][c]));
      take(part, *column, value, where);
    }
    shelf.capacitors.push_back(std::move(part));
  }
  return shelf;
}

std::string shelf_to_csv(const Shelf& shelf) {
  std::string out = "name";
  for (const Column& column : columns) out += fmt::format(",{}", column.key);
  out += "\r\n";
  for (const ShelfCapacitor& part : shelf.capacitors) {
    out += csv_cell(part.name);
    for (const Column& column : columns) {
      const auto value = column.get(part);
      out += value ? fmt::format(",{}", *value) : ",";
    }
    out += "\r\n";
  }
  return out;
}

Shelf starter_shelf() {
  Shelf shelf;
  shelf.name = "Starter shelf";
  const auto add = [&](const char* name, double f, double v, int count, double tolerance, double amps, double slope,
                       double loss) {
    ShelfCapacitor c;
    c.name = name;
    c.capacitance_f = f;
    c.voltage_v = v;
    c.count = count;
    c.tolerance = tolerance;
    c.rms_current_a = amps;
    c.slope_v_per_s = slope;
    c.dissipation_factor = loss;
    shelf.capacitors.push_back(c);
  };
  add("film pulse 150n 2 kV", 150e-9, 2000, 24, 0.05, 13, 1.5e9, 5e-4);
  add("film pulse 120n 2 kV", 120e-9, 2000, 20, 0.05, 11, 1.5e9, 5e-4);
  add("film pulse 47n 1.6 kV", 47e-9, 1600, 40, 0.05, 6, 2.5e9, 5e-4);
  add("ceramic 1 nF 15 kV", 1e-9, 15000, 12, 0.2, 2, 1e11, 3e-3);
  add("ceramic 400 pF 30 kV", 400e-12, 30000, 11, 0.1, 3, 1e11, 2e-3);
  add("mica 2n2 12 kV", 2.2e-9, 12000, 6, 0.05, 8, 1e11, 4e-4);
  add("oil can 10 nF 40 kV", 10e-9, 40000, 1, 0.1, 15, 2e10, 3e-3);
  add("oven capacitor 1 uF 3 kV", 1e-6, 3000, 4, 0.1, 10, 5e7, 4e-3);
  return shelf;
}

std::vector<std::string> doubtful_markings(const Shelf& shelf, double wanted_f) {
  std::vector<std::string> out;
  for (const ShelfCapacitor& part : shelf.capacitors) {
    const double ratio = part.capacitance_f / wanted_f;
    if (ratio > 1000.0 * 30 || ratio < 1.0 / 30 / 1000) out.push_back(part.name);
  }
  return out;
}

} // namespace arc
