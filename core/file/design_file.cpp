// Writing a design as JSON.
#include "file/design_file.h"
#include "circuit/feed.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "evidence/tolerance.h"
#include "evidence/tuning.h"
#include "file/design_keys.h"
#include "file/examples.h"
#include "file/validity.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "parts/topload.h"
#include "quantity/json_text.h"
#include "quantity/listed.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <set>

namespace arc {

namespace {

void append(Json& object, const Json& more) {
  for (const auto& [key, value] : more.items())
    if (!object.contains(key))
      object[key] = value;
    else if (value.is_object() && object[key].is_object())
      append(object[key], value);
}

Json part_json(const ToploadPart& part) {
  Json json{{"shape", part.shape}};
  const ToploadShape* own = topload_shape(part.shape);
  for (const ToploadShape& shape : topload_shapes())
    for (const ToploadLength& length : shape.lengths)
      if (&shape == own || part.*length.member != 0) json[std::string(length.key)] = part.*length.member;
  json["centre_above_winding_m"] = part.centre_above_winding_m;
  if (!part.points_m.empty()) json["points_m"] = part.points_m;
  append(json, part.unknown.json());
  return json;
}

Json measurement_json(const Measurement& m) {
  Json json{{"kind", m.kind}};
  if (const MeasurementKind* kind = measurement_kind(m.kind)) {
    json[std::string(kind->value.key)] = m.*kind->value.member;
    if (kind->given) json[std::string(kind->given->key)] = m.*kind->given->member;
  }
  if (!m.note.empty()) json["note"] = m.note;
  append(json, m.unknown.json());
  return json;
}

Json section_json(const BankSection& section) {
  Json json{{"name", section.name}};
  for (const SectionNumber& number : section_numbers())
    if (const auto value = number.get(section)) json[std::string(number.key)] = *value;
  append(json, section.unknown.json());
  return json;
}

Json block_json(const FeedBlock& block) {
  Json json{{"kind", block.kind}};
  for (const auto& [key, value] : block.values) json[key] = value;
  append(json, block.unknown.json());
  return json;
}

Json dismissed_json(const Dismissed& mark) {
  Json json{{"id", mark.id},       {"field", mark.field},   {"value", mark.value},
            {"limit", mark.limit}, {"reason", mark.reason}, {"when", mark.when}};
  append(json, mark.unknown.json());
  return json;
}

Json confirmed_json(const Confirmed& mark) {
  Json json{{"stage", mark.stage}, {"when", mark.when}, {"inputs", mark.inputs}};
  append(json, mark.unknown.json());
  return json;
}

Json run_json(const Run& run) {
  Json json = Json::object();
  if (!run.id.empty()) json["id"] = run.id;
  json["when"] = run.when;
  json["conditions"] = run.conditions;
  json["observations"] = run.observations;
  if (!run.notes.empty()) json["notes"] = run.notes;
  if (!run.failed.empty()) json["failed"] = run.failed;
  if (!run.open_stops.empty()) json["open_stops"] = run.open_stops;
  if (!run.armed_despite.empty()) json["armed_despite"] = run.armed_despite;
  if (!run.columns.empty()) json["columns"] = run.columns;
  append(json, run.unknown.json());
  return json;
}

template <typename Items, typename ToJson>
Json list_json(const Items& items, ToJson to_json) {
  Json list = Json::array();
  for (const auto& item : items) list.push_back(to_json(item));
  return list;
}

} // namespace

Json json_of(const Design& design) {
  Json json{{"name", design.name}, {"kind", design.kind}};
  static constexpr std::array<std::string_view, 7> always{"site", "secondary", "topload", "primary",
                                                          "tank", "breakout",  "gap"};
  for (const std::string_view group : always) json[group] = Json::object();
  json["primary"]["shape"] = nullptr; // stands first
  // The others where the kind of coil needs them or they differ from a fresh one.
  static const Design fresh;
  std::set<std::string, std::less<>> written(always.begin(), always.end());
  const auto& needed = kind_of(design).groups;
  written.insert(needed.begin(), needed.end());
  for (const FieldSpec& field : design_fields())
    if (field.get(design) != field.get(fresh)) written.insert(split_key(field.key).first);
  for (const ChoiceSpec& choice : design_choices())
    if (choice.get(design) != choice.get(fresh)) written.insert(split_key(choice.key).first);
  for (const FieldSpec& field : design_fields()) {
    const auto [group, leaf] = split_key(field.key);
    if (const auto value = field.get(design); value && written.contains(group)) json[group][leaf] = *value;
  }
  for (const ChoiceSpec& choice : design_choices()) {
    const auto [group, leaf] = split_key(choice.key);
    if (written.contains(group)) json[group][leaf] = choice.choices[choice.get(design)].key;
  }
  if (given(design, "tank")) json["tank"]["capacitance_f"] = tank_capacitance_f(design.tank);
  for (const TankWay& way : tank_ways)
    if (design.tank.given_as == way.way) json["tank"]["given_as"] = way.key;
  if (design.tank.single_capacitance_f) json["tank"]["single_capacitance_f"] = *design.tank.single_capacitance_f;
  if (!design.tank.sections.empty()) {
    json["tank"]["sections"] = list_json(design.tank.sections, section_json);
    json["tank"]["sections_in_series"] = design.tank.sections_in_series;
  }
  if (!design.site.grounded_conductors.empty())
    json["site"]["grounded_conductors"] = design.site.grounded_conductors;
  json["topload"] = list_json(design.topload, part_json);
  if (!design.topload_variants.empty())
    json["topload_variants"] = list_json(design.topload_variants, [](const ToploadVariant& variant) {
      Json one{{"name", variant.name}, {"parts", list_json(variant.parts, part_json)}};
      append(one, variant.unknown.json());
      return one;
    });
  if (!design.feed.empty()) json["feed"] = list_json(design.feed, block_json);
  if (!design.tolerances.empty()) json["tolerances"] = design.tolerances;
  json["tune_target"] = design.tune_target == TuneTarget::loaded_coil ? "loaded-coil" : "silent-coil";
  json["measurements"] = list_json(design.measurements, measurement_json);
  if (!design.dismissed.empty()) json["dismissed"] = list_json(design.dismissed, dismissed_json);
  if (!design.confirmed.empty()) json["confirmed"] = list_json(design.confirmed, confirmed_json);
  append(json, design.unknown.json());
  if (const auto paths = example_paths(design); !paths.empty()) {
    Json& list = json["examples"]; // behind those of no number here, which are kept
    for (const std::string& path : paths) list.push_back(path);
  }
  return json;
}

namespace {

/// The designs of runs and variants, each different one once.
class DesignList {
 public:
  std::size_t place_of(const KeptDesign& design) {
    const auto known = places_.find(design.get());
    if (known != places_.end()) return known->second;
    Json json = json_of(*design.get());
    const auto [place, is_new] = texts_.emplace(json.dump(), designs_.size());
    if (is_new) designs_.push_back(std::move(json));
    return places_[design.get()] = place->second;
  }
  const Json& json() const { return designs_; }

 private:
  Json designs_ = Json::array();
  std::map<std::string, std::size_t> texts_;
  std::map<const Design*, std::size_t> places_;
};

} // namespace

Json json_of(const Run& run) {
  Json json = run_json(run);
  if (run.fired_with.get()) json["design"] = json_of(*run.fired_with.get());
  return json;
}

std::string write_design(const Design& design) {
  Json json{{"format", "high-arc-design"}, {"version", design_file_version}};
  json.update(json_of(design));
  DesignList designs;
  Json runs = list_json(design.runs, [&](const Run& run) {
    Json one = run_json(run);
    if (run.fired_with.get()) one["design"] = designs.place_of(run.fired_with);
    return one;
  });
  if (!design.variants.empty())
    json["variants"] = list_json(design.variants, [&](const DesignVariant& variant) {
      Json one{{"name", variant.name}, {"design", designs.place_of(variant.design)}};
      append(one, variant.unknown.json());
      return one;
    });
  if (!designs.json().empty()) json["designs"] = designs.json();
  json["runs"] = std::move(runs);
  std::string text = json.dump(2, ' ', false, Json::error_handler_t::replace);
  if (text.size() >= largest_design_file_bytes) text = json.dump(-1, ' ', false, Json::error_handler_t::replace);
  return text + "\n";
}

std::string too_large_to_keep(const Design& design) {
  // Counted first: most designs are far from any bound.
  std::size_t bytes = 1 << 20, numbers = 0;
  std::set<const Design*> designs;
  bool extras = !design.unknown.empty();
  const auto add_kept = [&](const Design* kept) {
    if (!kept || !designs.insert(kept).second) return;
    constexpr std::size_t numbers_of_design = 1000;
    numbers += numbers_of_design;
    extras = extras || !kept->unknown.empty();
    for (const Measurement& m : kept->measurements) bytes += m.note.size();
  };
  for (const DesignVariant& variant : design.variants) {
    bytes += variant.name.size();
    extras = extras || !variant.unknown.empty();
    add_kept(variant.design.get());
  }
  for (const Run& run : design.runs) {
    extras = extras || !run.unknown.empty();
    bytes +=
        run.when.size() + run.notes.size() + run.failed.size() + run.armed_despite.size() + run.open_stops.size();
    numbers += run.conditions.size() + run.observations.size() + run.columns.size() + 12;
    for (const auto& [name, cell] : run.columns) bytes += name.size() + cell.size();
    add_kept(run.fired_with.get());
  }
  for (const Measurement& m : design.measurements) bytes += m.note.size();
  const auto too_large = [](std::size_t written) {
    return fmt::format("The design would be {} MB when it is written; at most {} MB can be kept", written >> 20,
                       largest_design_file_bytes >> 20);
  };
  if (bytes > largest_design_file_bytes + (1 << 20)) return too_large(bytes); // its words alone
  constexpr std::size_t longest_escape = 6, longest_number = 60;
  if (!extras && longest_escape * bytes + longest_number * numbers < largest_design_file_bytes &&
      numbers < most_json_values / 2)
    return {};
  const std::string text = write_design(design);
  if (text.size() > largest_design_file_bytes) return too_large(text.size());
  try {
    parse_json(text, "a High Arc design");
    return {};
  } catch (const JsonTextError& error) {
    return error.what();
  }
}

} // namespace arc
