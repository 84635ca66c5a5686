// Shelf files, the registry of part groups, and what each part does when it is used.
#include "workshop/shelf.h"

#include "circuit/feed.h"
#include "craft/kind.h"
#include "model/fields.h"
#include "parts/diodes.h"
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

double value_or(const ShelfPart& part, std::string_view key, double fallback) {
  return part_value(part, key).value_or(fallback);
}

std::string use_wire(const ShelfPart& part, Design& design) {
  design.secondary.wire_bare_diameter_m = part.values.at("bare_diameter_m");
  design.secondary.wire_overall_diameter_m = part.values.at("overall_diameter_m");
  return "the secondary is wound with it; the turn count stays as it was";
}

std::string use_pipe(const ShelfPart& part, Design& design) {
  design.secondary.form_diameter_m = part.values.at("outside_diameter_m");
  if (const auto length = part_value(part, "length_m")) design.secondary.form_length_m = *length;
  return "it is the secondary's form";
}

// The first block of a role, added when there is none: mains-side blocks and sources to the front.
FeedBlock& block_of(Design& design, BlockRole role) {
  if (!find_block(design.feed, role)) add_block(design.feed, make_block(role));
  return *find_block(design.feed, role);
}

// Empty where a block of this role may stand in the design's path; else what to say instead of using the part.
std::string no_place(const Design& design, BlockRole role) {
  const FeedEnd end = kind_of(design).feed_end;
  return block_kind(make_block(role).kind)->serves(end)
             ? ""
             : fmt::format("the path of a coil of the kind {} has no place for it", kind_of(design).title);
}

std::string use_transformer(const ShelfPart& part, Design& design) {
  if (std::string why = no_place(design, BlockRole::transformer); !why.empty()) return why;
  std::erase_if(design.feed.own(),
                [](const FeedBlock& b) { return role_of(b) != BlockRole::transformer && is_source(b.kind); });
  FeedBlock& block = block_of(design, BlockRole::transformer);
  for (const char* key : {"rated_mains_v", "output_v", "short_circuit_a", "resistance_ohm"})
    if (const auto value = part_value(part, key)) block.values[key] = *value;
  return "it feeds the tank";
}

std::string use_diodes(const ShelfPart& part, Design& design) {
  const double volts = part.values.at("inverse_voltage_v"), amps = part.values.at("average_current_a");
  int strings = 0;
  DiodeString last;
  for (FeedBlock& block : design.feed) {
    const BlockKind* kind = block_kind(block.kind);
    if (!kind || kind->diode_strings == 0) continue;
    const DiodeString made = substitute_string(block, volts, amps);
    block.values["inverse_voltage_v"] = volts;
    block.values["average_current_a"] = amps;
    block.values["diodes_in_series"] = made.in_series;
    block.values["diodes_in_parallel"] = made.in_parallel;
    strings += kind->diode_strings;
    last = made;
  }
  if (strings == 0) return "the feed has no rectifier to put them into";
  return fmt::format("{} strings of {} in series and {} side by side: {} pieces, {} on hand", strings,
                     last.in_series, last.in_parallel, strings * last.units(), part_count(part));
}

// As what a level shifter or doubler charges: so many in series as hold its peak, side by side as far as they go
// towards the capacitance that stands there.
std::string use_capacitor(const ShelfPart& part, Design& design) {
  const auto at = std::ranges::find_if(design.feed, [](const FeedBlock& block) {
    return block_kind(block.kind) && block_kind(block.kind)->doubles;
  });
  if (at == design.feed.end())
    return "this path has no level shifter or doubler to put it into; banks for the tank are found on Tank";
  const ShelfCapacitor one = shelf_capacitor(part);
  if (one.polarised) return "it is polarised: not for here";
  const std::vector<FeedBlock> up_to(design.feed.get().begin(),
                                     design.feed.get().begin() + (at - design.feed.begin()) + 1);
  const double peak_v = unloaded_bus_v(up_to, design.site.mains_voltage_v) / 2;
  constexpr double loaded = 0.8; // of its rating (common practice, no source)
  const double in_series = std::max(1.0, std::ceil(peak_v / (loaded * one.voltage_v)));
  const double wanted_f = block_value(*at, "capacitance_f"), chain_f = one.capacitance_f / in_series;
  const double on_hand = std::floor(one.count / in_series);
  const double side_by_side = std::clamp(std::round(wanted_f / chain_f), 1.0, std::max(1.0, on_hand));
  FeedBlock& block = design.feed[static_cast<std::size_t>(at - design.feed.begin())];
  block.values["capacitance_f"] = round_significant(side_by_side * chain_f, 6);
  block.values["rated_v"] = in_series * one.voltage_v;
  block.values["rated_ripple_a"] = side_by_side * one.ratings.rms_current_a.value_or(0);
  return fmt::format("{:.0f} in series, {:.0f} side by side in the {}: {} for {}; {:.0f} pieces, {} on hand{}",
                     in_series, side_by_side, block_kind(block.kind)->title,
                     format_quantity(side_by_side * chain_f, Dimension::capacitance),
                     format_quantity(in_series * one.voltage_v, Dimension::voltage), in_series * side_by_side,
                     one.count, in_series > 1 ? "; a bleeder across each" : "");
}

std::string use_resistor(const ShelfPart& part, Design& design) {
  design.tank.bleed_resistance_ohm = part.values.at("resistance_ohm");
  return "one across every unit of the tank";
}

std::string use_choke(const ShelfPart& part, Design& design) {
  if (std::string why = no_place(design, BlockRole::charging_choke); !why.empty()) return why;
  FeedBlock& block = block_of(design, BlockRole::charging_choke);
  block.values["inductance_h"] = part.values.at("inductance_h");
  if (const auto ohm = part_value(part, "resistance_ohm")) block.values["resistance_ohm"] = *ohm;
  return "it is the charging choke; it needs direct current before it";
}

std::string use_gap_hardware(const ShelfPart& part, Design& design) {
  design.gap.electrode_diameter_m = part.values.at("electrode_diameter_m");
  return "the gap's electrodes are made of it";
}

const ShelfColumn pieces{"count", "Pieces", count, 1, 10000, false};

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

std::span<const ShelfGroup> shelf_groups() {
  static const std::vector<ShelfGroup> groups{
      {.key = "capacitors",
       .title = "Capacitors",
       .one = "capacitor",
       .columns = {{"capacitance_f", "Marked", capacitance, 1e-14, 10, true},
                   {"voltage_v", "Rating", voltage, 1, 1e6, true},
                   {"pulse_voltage_v", "For pulses", voltage, 1, 1e6, false},
                   pieces,
                   {"measured_f", "Measured", capacitance, 1e-14, 10, false},
                   {"tolerance", "Tolerance", fraction, 0, 0.9, false},
                   {"rms_current_a", "RMS current", current, 1e-6, 1e5, false},
                   {"slope_v_per_s", "dV/dt", slope, 1, 1e15, false},
                   {"dissipation_factor", "Loss factor", number, 0, 1, false},
                   {"esr_ohm", "ESR", resistance, 0, 1e6, false},
                   {"thermal_k_per_w", "K per W", number, 0.01, 1000, false},
                   {"polarised", "Polarised: 1", count, 0, 1, false},
                   {"price", "Price", number, 0, 1e6, false}},
       .use = use_capacitor},
      {.key = "wires",
       .title = "Wire",
       .one = "spool",
       .columns = {{"bare_diameter_m", "Bare", wire_diameter, 1e-5, 0.02, true},
                   {"overall_diameter_m", "Over enamel", wire_diameter, 1e-5, 0.03, true},
                   {"length_m", "Length", length, 0.1, 1e6, false},
                   pieces},
       .use = use_wire},
      {.key = "pipes",
       .title = "Pipe",
       .one = "pipe",
       .columns = {{"outside_diameter_m", "Outside", length, 0.003, 3, true},
                   {"length_m", "Length", length, 0.003, 20, false},
                   pieces},
       .use = use_pipe},
      {.key = "transformers",
       .title = "Transformers",
       .one = "transformer",
       .columns = {{"rated_mains_v", "Rated mains", voltage, 10, 1000, true},
                   {"output_v", "Open output", voltage, 100, 200000, true},
                   {"short_circuit_a", "Short circuit", current, 1e-3, 10, true},
                   {"resistance_ohm", "Resistance", resistance, 0, 1e6, false},
                   pieces},
       .use = use_transformer},
      {.key = "diodes",
       .title = "Diodes",
       .one = "diode",
       .columns = {{"inverse_voltage_v", "Inverse volts", voltage, 10, 1e6, true},
                   {"average_current_a", "Average current", current, 1e-4, 1e4, true},
                   pieces},
       .use = use_diodes},
      {.key = "resistors",
       .title = "Resistors",
       .one = "resistor",
       .columns = {{"resistance_ohm", "Resistance", resistance, 1, 1e12, true},
                   {"power_w", "Power", power, 0.01, 1e5, false},
                   {"voltage_v", "Rating", voltage, 1, 1e6, false},
                   pieces},
       .use = use_resistor},
      {.key = "chokes",
       .title = "Chokes",
       .one = "choke",
       .columns = {{"inductance_h", "Inductance", inductance, 1e-6, 1000, true},
                   {"resistance_ohm", "Resistance", resistance, 0, 1e6, false},
                   {"current_a", "Current", current, 1e-3, 1000, false},
                   pieces},
       .use = use_choke},
      {.key = "gap_hardware",
       .title = "Gap hardware",
       .one = "electrode",
       .columns = {{"electrode_diameter_m", "Diameter", length, 1e-3, 0.5, true},
                   {"length_m", "Length", length, 1e-3, 5, false},
                   pieces},
       .use = use_gap_hardware}};
  return groups;
}

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
  return static_cast<int>(std::lround(value_or(part, "count", 1)));
}

ShelfCapacitor shelf_capacitor(const ShelfPart& part, double unstated_tolerance) {
  ShelfCapacitor c;
  c.name = part.name;
  const auto measured = part_value(part, "measured_f");
  c.capacitance_f = measured ? *measured : part.values.at("capacitance_f");
  c.voltage_v = value_or(part, "pulse_voltage_v", part.values.at("voltage_v"));
  c.count = part_count(part);
  c.tolerance = measured ? meter_tolerance : value_or(part, "tolerance", unstated_tolerance);
  c.polarised = value_or(part, "polarised", 0) > 0.5;
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
  return std::abs(*measured / *marked - 1) > 3 * value_or(part, "tolerance", usual_capacitor_tolerance);
}

} // namespace arc
