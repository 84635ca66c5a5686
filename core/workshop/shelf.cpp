// Shelf files, and what is asked of a shelf; its groups of parts stand in workshop/shelf_groups.cpp.
#include "workshop/shelf.h"

#include "model/fields.h"
#include "quantity/csv_rows.h"
#include "quantity/json_text.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <set>

namespace arc {
namespace {

using enum Dimension;

// What is wrong with one part: its key with a dot in front (or nothing), and what would be right.
struct PartProblem {
  std::string key;
  std::string text;
};

// Throws PartProblem when the number is not one that the column can hold.
void take(ShelfPart& part, const ShelfColumn& column, double value) {
  if (auto problem = range_problem(column.label, column.dimension, value, column.minimum, column.maximum);
      !problem.empty())
    throw PartProblem{fmt::format(".{}", column.key), problem};
  part.values[std::string(column.key)] = value;
}

ShelfPart read_part(const Json& json, const ShelfGroup& group) {
  if (!json.is_object()) throw PartProblem{"", "expected an object {...}, found " + describe(json)};
  ShelfPart part;
  std::set<std::string> known{"name", "invented"};
  if (json.contains("name")) {
    if (!json["name"].is_string()) throw PartProblem{".name", "expected text in quotes"};
    part.name = json["name"];
  }
  if (json.contains("invented")) {
    if (!json["invented"].is_boolean()) throw PartProblem{".invented", "expected true or false"};
    part.invented = json["invented"];
  }
  for (const ShelfColumn& column : group.columns) {
    const std::string key(column.key);
    known.insert(key);
    if (!json.contains(key)) {
      if (column.required) throw PartProblem{"." + key, "missing; every part of this kind needs it"};
      continue;
    }
    if (!json[key].is_number()) throw PartProblem{"." + key, "expected a number, found " + describe(json[key])};
    take(part, column, json[key].get<double>());
  }
  for (const auto& [key, value] : json.items())
    if (!known.contains(key)) part.unknown.set(key, value);
  return part;
}

} // namespace

const ShelfGroup& shelf_group(std::string_view key) {
  for (const ShelfGroup& group : shelf_groups())
    if (group.key == key) return group;
  throw std::out_of_range(fmt::format("no group of parts is called {}", key));
}

const std::vector<ShelfPart>& Shelf::of(std::string_view group) const {
  static const std::vector<ShelfPart> none;
  const auto it = parts.find(std::string(group));
  return it == parts.end() ? none : it->second;
}

std::optional<double> part_value(const ShelfPart& part, std::string_view key) {
  const auto it = part.values.find(std::string(key));
  return it == part.values.end() ? std::nullopt : std::optional(it->second);
}

int part_count(const ShelfPart& part) {
  return static_cast<int>(std::lround(part_value(part, "count").value_or(1)));
}

ShelfCapacitor shelf_capacitor(const ShelfPart& part, double unstated_tolerance) {
  ShelfCapacitor c;
  c.name = part.name;
  const auto measured = part_value(part, "measured_f");
  c.capacitance_f = measured ? *measured : part.values.at("capacitance_f");
  c.voltage_v = part_value(part, "pulse_voltage_v").value_or(part.values.at("voltage_v"));
  c.count = part_count(part);
  c.tolerance = measured ? meter_tolerance : part_value(part, "tolerance").value_or(unstated_tolerance);
  c.polarised = part_value(part, "polarised").value_or(0) > 0.5;
  c.ratings = {part_value(part, "rms_current_a"), part_value(part, "slope_v_per_s"),
               part_value(part, "dissipation_factor"), part_value(part, "esr_ohm"),
               part_value(part, "thermal_k_per_w")};
  c.price = part_value(part, "price");
  return c;
}

std::vector<ShelfCapacitor> shelf_capacitors(const Shelf& shelf, double unstated_tolerance) {
  std::vector<ShelfCapacitor> out;
  for (const ShelfPart& part : shelf.of("capacitors"))
    if (shelf.owned(part)) out.push_back(shelf_capacitor(part, unstated_tolerance));
  return out;
}

Shelf read_shelf(std::string_view text) {
  Json json;
  try {
    json = parse_json(text, "a High Arc shelf");
  } catch (const JsonTextError& error) {
    throw ShelfError(error.what());
  }
  const auto refuse = [&](const std::string& path, const std::string& why) {
    throw ShelfError(with_place(path, json_line_of(text, path), why));
  };
  if (!json.is_object() || json.value("format", Json()) != "high-arc-shelf")
    throw ShelfError("this is not a shelf; expected \"format\": \"high-arc-shelf\"");
  if (json.value("version", Json()) != 1)
    refuse("version", fmt::format("expected 1, found {}; a newer High Arc may have written it",
                                  describe(json.value("version", Json()))));
  Shelf shelf;
  if (json.contains("name") && json["name"].is_string()) shelf.name = json["name"];
  if (json.contains("invented_parts_count")) {
    if (!json["invented_parts_count"].is_boolean()) refuse("invented_parts_count", "expected true or false");
    shelf.invented_count = json["invented_parts_count"];
  }
  std::set<std::string> known{"format", "version", "name", "invented_parts_count"};
  for (const ShelfGroup& group : shelf_groups()) {
    const std::string key(group.key);
    known.insert(key);
    if (!json.contains(key)) continue;
    const Json& list = json[key];
    if (!list.is_array()) refuse(key, "expected a list [...], found " + describe(list));
    if (list.size() > most_shelf_parts) refuse(key, fmt::format("more than {} parts", most_shelf_parts));
    for (std::size_t i = 0; i < list.size(); ++i) try {
        shelf.of(key).push_back(read_part(list[i], group));
        if (ShelfPart& part = shelf.of(key).back(); part.name.empty())
          part.name = fmt::format("{} {}", group.one, i + 1);
      } catch (const PartProblem& problem) {
        refuse(fmt::format("{}[{}]{}", key, i, problem.key), problem.text);
      }
  }
  for (const auto& [key, value] : json.items())
    if (!known.contains(key)) shelf.unknown.set(key, value);
  return shelf;
}

std::string write_shelf(const Shelf& shelf) {
  Json json{{"format", "high-arc-shelf"}, {"version", 1}, {"name", shelf.name}};
  if (shelf.invented_count) json["invented_parts_count"] = true;
  for (const ShelfGroup& group : shelf_groups()) {
    if (shelf.of(group.key).empty() && group.key != "capacitors") continue;
    Json list = Json::array();
    for (const ShelfPart& part : shelf.of(group.key)) {
      Json item{{"name", part.name}};
      if (part.invented) item["invented"] = true;
      for (const ShelfColumn& column : group.columns)
        if (const auto value = part_value(part, column.key)) {
          if (column.dimension == Dimension::count)
            item[std::string(column.key)] = std::llround(*value);
          else
            item[std::string(column.key)] = *value;
        }
      item.update(part.unknown.json());
      list.push_back(std::move(item));
    }
    json[std::string(group.key)] = std::move(list);
  }
  json.update(shelf.unknown.json());
  return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::vector<ShelfPart> parts_from_csv(std::string_view text, const ShelfGroup& group) {
  CsvRows rows;
  try {
    rows = csv_rows(text);
  } catch (const CsvError& error) {
    throw ShelfError(error.what());
  }
  if (rows.size() > most_shelf_parts + 1) throw ShelfError(fmt::format("more than {} rows", most_shelf_parts));
  if (rows.empty()) throw ShelfError("the file is empty; expected a header row with the column names");
  const std::vector<std::string>& head = rows[0];
  for (const ShelfColumn& column : group.columns)
    if (column.required && std::ranges::count(head, column.key) == 0)
      throw ShelfError(fmt::format("row 1: the column “{}” is missing", column.key));
  for (const std::string& name : head)
    if (std::ranges::count(head, name) > 1)
      throw ShelfError(fmt::format("row 1: the column “{}” stands twice", name));
  std::vector<ShelfPart> parts;
  for (std::size_t r = 1; r < rows.size(); ++r) {
    if (rows[r].size() != head.size())
      throw ShelfError(fmt::format("row {}: {} cells, the header has {}", r + 1, rows[r].size(), head.size()));
    ShelfPart part;
    part.name = fmt::format("{} {}", group.one, r);
    for (std::size_t c = 0; c < head.size(); ++c) {
      if (head[c] == "name") {
        part.name = csv_text(rows[r][c]);
        continue;
      }
      const auto column = std::ranges::find(group.columns, head[c], &ShelfColumn::key);
      if (column == group.columns.end())
        throw ShelfError(fmt::format("row 1: the column “{}” is not known", head[c]));
      const std::string where = fmt::format("row {}, column {}", r + 1, column->key);
      if (rows[r][c].empty() && !column->required) continue;
      double value = 0;
      if (!csv_number(rows[r][c], value))
        throw ShelfError(fmt::format("{}: “{}” is not a number", where, rows[r][c]));
      try {
        take(part, *column, value);
      } catch (const PartProblem& problem) {
        throw ShelfError(fmt::format("{}: {}", where, problem.text));
      }
    }
    parts.push_back(std::move(part));
  }
  return parts;
}

std::string parts_to_csv(const std::vector<ShelfPart>& parts, const ShelfGroup& group) {
  std::string out = "name";
  for (const ShelfColumn& column : group.columns) out += fmt::format(",{}", column.key);
  out += "\r\n";
  for (const ShelfPart& part : parts) {
    out += csv_cell(part.name);
    for (const ShelfColumn& column : group.columns) {
      const auto value = part_value(part, column.key);
      out += value ? fmt::format(",{}", *value) : ",";
    }
    out += "\r\n";
  }
  return out;
}

Shelf starter_shelf() {
  Shelf shelf;
  shelf.name = "Starter shelf";
  const auto add = [&](const char* group, const char* name, std::map<std::string, double> values) {
    shelf.of(group).push_back({name, std::move(values), {}, true});
  };
  const auto capacitor = [&](const char* name, double f, double v, int count, double tolerance, double amps,
                             double steepest, double loss, double price) {
    add("capacitors", name,
        {{"capacitance_f", f},
         {"voltage_v", v},
         {"count", count},
         {"tolerance", tolerance},
         {"rms_current_a", amps},
         {"slope_v_per_s", steepest},
         {"dissipation_factor", loss},
         {"price", price}});
  };
  capacitor("film pulse 150n 2 kV", 150e-9, 2000, 24, 0.05, 13, 6e9, 5e-4, 4);
  capacitor("film pulse 120n 2 kV", 120e-9, 2000, 20, 0.05, 11, 6e9, 5e-4, 3.5);
  capacitor("film pulse 47n 1.6 kV", 47e-9, 1600, 40, 0.05, 6, 8e9, 5e-4, 1.2);
  capacitor("ceramic 1 nF 15 kV", 1e-9, 15000, 12, 0.2, 2, 1e11, 3e-3, 2);
  capacitor("ceramic 400 pF 30 kV", 400e-12, 30000, 11, 0.1, 3, 1e11, 2e-3, 6);
  capacitor("mica 2n2 12 kV", 2.2e-9, 12000, 6, 0.05, 8, 1e11, 4e-4, 15);
  capacitor("oil can 10 nF 40 kV", 10e-9, 40000, 1, 0.1, 15, 2e10, 3e-3, 60);
  capacitor("oven capacitor 1 uF 3 kV", 1e-6, 3000, 4, 0.1, 10, 5e7, 4e-3, 5);
  add("capacitors", "electrolytic 330 uF 450 V",
      {{"capacitance_f", 330e-6},
       {"voltage_v", 450},
       {"count", 8},
       {"tolerance", 0.2},
       {"polarised", 1},
       {"esr_ohm", 0.4},
       {"rms_current_a", 2}});
  add("wires", "enamelled 0.4 mm", {{"bare_diameter_m", 4e-4}, {"overall_diameter_m", 4.39e-4}, {"length_m", 220}});
  add("wires", "enamelled 0.25 mm",
      {{"bare_diameter_m", 2.5e-4}, {"overall_diameter_m", 2.8e-4}, {"length_m", 600}});
  add("wires", "enamelled 0.8 mm", {{"bare_diameter_m", 8e-4}, {"overall_diameter_m", 8.55e-4}, {"length_m", 80}});
  add("pipes", "drain pipe 110 mm", {{"outside_diameter_m", 0.11}, {"length_m", 1}});
  add("pipes", "card tube 75 mm", {{"outside_diameter_m", 0.075}, {"length_m", 0.6}, {"count", 2}});
  add("tubing", "soft copper tube 8 mm", {{"outside_diameter_m", 0.008}, {"length_m", 15}});
  add("toploads", "aluminium duct ring 250 by 60 mm", {{"outer_diameter_m", 0.25}, {"tube_diameter_m", 0.06}});
  add("transformers", "sign transformer 10 kV 50 mA",
      {{"rated_mains_v", 230}, {"output_v", 10000}, {"short_circuit_a", 0.05}, {"resistance_ohm", 4200}});
  add("transformers", "burner transformer 7.5 kV 25 mA",
      {{"rated_mains_v", 230},
       {"output_v", 7500},
       {"short_circuit_a", 0.025},
       {"resistance_ohm", 6000},
       {"count", 2}});
  add("diodes", "rectifier 1 kV 10 A", {{"inverse_voltage_v", 1000}, {"average_current_a", 10}, {"count", 60}});
  add("diodes", "stick 12 kV 0.5 A", {{"inverse_voltage_v", 12000}, {"average_current_a", 0.5}, {"count", 6}});
  add("resistors", "10 Mohm 1 W", {{"resistance_ohm", 10e6}, {"power_w", 1}, {"voltage_v", 1500}, {"count", 40}});
  add("resistors", "82 kohm 3 W", {{"resistance_ohm", 82e3}, {"power_w", 3}, {"voltage_v", 500}, {"count", 28}});
  add("chokes", "filter choke 10 H",
      {{"inductance_h", 10}, {"resistance_ohm", 120}, {"current_a", 0.2}, {"count", 2}});
  add("gap_hardware", "copper pipe 22 mm", {{"electrode_diameter_m", 0.022}, {"length_m", 1}});
  add("gap_hardware", "tungsten rod 6 mm", {{"electrode_diameter_m", 0.006}, {"length_m", 0.15}, {"count", 4}});
  add("ovens", "oven transformer 2.1 kV",
      {{"rated_mains_v", 230}, {"output_v", 2100}, {"leakage_h", 4}, {"resistance_ohm", 120}, {"count", 2}});
  add("variacs", "variac 15 A", {{"rated_current_a", 15}});
  add("supplies", "bench supply 15 V 2 A", {{"voltage_v", 15}, {"current_a", 2}});
  add("tubes", "transmitting triode, 65 W plate",
      {{"plate_dissipation_w", 65},
       {"plate_voltage_v", 1500},
       {"filament_v", 6.3},
       {"filament_a", 5},
       {"count", 2}});
  add("switches", "MOS 600 V 47 A",
      {{"voltage_rating_v", 600},
       {"current_rating_a", 30},
       {"pulse_rating_a", 140},
       {"on_ohm", 0.15},
       {"count", 4}});
  add("transistors", "NPN 80 V 1.5 A", {{"voltage_rating_v", 80}, {"current_rating_a", 1.5}, {"count", 10}});
  add("cores", "ferrite ring 80 mm²", {{"core_area_mm2", 80}, {"al_h", 4e-6}, {"flux_limit_t", 0.2}, {"count", 2}});
  return shelf;
}

Shelf merged_shelf(const Shelf& before, const Shelf& after, const Shelf& theirs) {
  Shelf out = theirs;
  if (after.name != before.name) out.name = after.name;
  if (after.invented_count != before.invented_count) out.invented_count = after.invented_count;
  for (const ShelfGroup& group : shelf_groups()) {
    std::vector<ShelfPart> gone, come = after.of(group.key);
    for (const ShelfPart& part : before.of(group.key))
      if (const auto same = std::ranges::find(come, part); same != come.end())
        come.erase(same);
      else
        gone.push_back(part);
    if (gone.empty() && come.empty()) continue;
    std::vector<ShelfPart>& list = out.of(group.key);
    for (const ShelfPart& part : gone) {
      const auto at = std::ranges::find(list, part);
      if (at == list.end()) continue; // they have changed or removed it too
      if (come.empty()) {
        list.erase(at);
      } else { // what has come stands in the place of what went
        *at = come.front();
        come.erase(come.begin());
      }
    }
    list.insert(list.end(), come.begin(), come.end());
  }
  return out;
}

void remove_invented(Shelf& shelf) {
  for (auto& [group, list] : shelf.parts) std::erase_if(list, [](const ShelfPart& part) { return part.invented; });
}

bool doubtful_marking(const ShelfCapacitor& part, double wanted_f) {
  const double ratio = part.capacitance_f / wanted_f;
  return !part.polarised && (ratio > 1000.0 * 30 || ratio < 1.0 / 30 / 1000);
}

bool measured_off_marking(const ShelfPart& part) {
  const auto measured = part_value(part, "measured_f"), marked = part_value(part, "capacitance_f");
  if (!measured || !marked) return false;
  return std::abs(*measured / *marked - 1) > 3 * part_value(part, "tolerance").value_or(usual_capacitor_tolerance);
}

} // namespace arc
