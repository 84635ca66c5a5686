// JSON reading with the path of every key at hand, so that each complaint can say where it is.
#include "circuit/feed.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "evidence/tolerance.h"
#include "evidence/tuning.h"
#include "file/design_file.h"
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

constexpr std::size_t most_unknown_keys = 800; // of one object: with those that are written it stays readable

constexpr std::size_t surely_small = 12'000'000; // bytes of a text that no bound is near of

constexpr std::size_t surely_few = 2'900'000; // values, with those that writing adds

struct Complaint {
  std::string path;
  std::string text;
};

[[noreturn]] void complain(std::string path, std::string text) {
  throw Complaint{std::move(path), std::move(text)};
}

// One JSON object being read: hands out its members and remembers which were asked for.
class Reader {
 public:
  Reader(const Json& object, std::string path) : object_(object), path_(std::move(path)) {
    if (!object.is_object()) complain(path_, fmt::format("expected an object {{...}}, found {}", describe(object)));
  }

  std::string path_of(std::string_view key) const {
    return path_.empty() ? std::string(key) : fmt::format("{}.{}", path_, key);
  }

  const Json* find(std::string_view key) {
    taken_.insert(std::string(key));
    const auto it = object_.find(std::string(key));
    return it == object_.end() ? nullptr : &*it;
  }

  std::optional<double> number(std::string_view key, bool null_allowed = false) {
    const Json* value = find(key);
    if (!value || (null_allowed && value->is_null())) return std::nullopt;
    if (!value->is_number()) complain(path_of(key), fmt::format("expected a number, found {}", describe(*value)));
    return value->get<double>();
  }

  std::string text(std::string_view key, std::string fallback) {
    const Json* value = find(key);
    if (!value) return fallback;
    if (!value->is_string())
      complain(path_of(key), fmt::format("expected text in quotes, found {}", describe(*value)));
    return value->get<std::string>();
  }

  template <typename Each>
  void list(std::string_view key, Each each) {
    const Json* value = find(key);
    if (!value) return;
    if (!value->is_array())
      complain(path_of(key), fmt::format("expected a list [...], found {}", describe(*value)));
    for (std::size_t i = 0; i < value->size(); ++i) each((*value)[i], fmt::format("{}[{}]", path_of(key), i));
  }

  Json rest() const {
    Json out = Json::object();
    for (const auto& [key, value] : object_.items())
      if (!taken_.contains(key)) out[key] = value;
    if (out.size() > most_unknown_keys)
      complain(path_, fmt::format("{} keys that this version does not know; at most {} are kept", out.size(),
                                  most_unknown_keys));
    return out;
  }

 private:
  const Json& object_;
  std::string path_;
  std::set<std::string> taken_;
};

ToploadPart read_part(const Json& json, const std::string& path) {
  Reader in(json, path);
  ToploadPart part;
  part.shape = in.text("shape", "");
  const ToploadShape* shape = topload_shape(part.shape);
  if (!shape) {
    complain(in.path_of("shape"), fmt::format("“{}” is not a topload shape; known: {}", part.shape,
                                              listed(topload_shapes(), &ToploadShape::key)));
  }
  for (const ToploadShape& each : topload_shapes()) // those of other shapes are kept for when they are chosen again
    for (const ToploadLength& length : each.lengths) {
      const auto value = in.number(length.key);
      if (value) part.*length.member = *value;
      if (!value && &each == shape) complain(in.path_of(length.key), "missing; a length in metres is needed");
    }
  part.centre_above_winding_m = in.number("centre_above_winding_m").value_or(0);
  in.list("points_m", [&](const Json& point, const std::string& where) {
    if (!point.is_array() || point.size() != 2 || !point[0].is_number() || !point[1].is_number())
      complain(where, fmt::format("expected [radius, height] in metres, found {}", describe(point)));
    part.points_m.push_back({point[0].get<double>(), point[1].get<double>()});
  });
  part.unknown = in.rest();
  return part;
}

Measurement read_measurement(const Json& json, const std::string& path) {
  Reader in(json, path);
  Measurement m;
  m.kind = in.text("kind", m.kind);
  const MeasurementKind* kind = measurement_kind(m.kind);
  if (!kind) {
    complain(in.path_of("kind"), fmt::format("“{}” is not something measured; known: {}", m.kind,
                                             listed(measurement_kinds(), &MeasurementKind::key)));
  }
  const auto take = [&](const MeasuredNumber& number) {
    const auto value = in.number(number.key);
    if (!value)
      complain(in.path_of(number.key), fmt::format("missing; this kind of measurement needs it in SI units"));
    m.*number.member = *value;
  };
  take(kind->value);
  if (kind->given) take(*kind->given);
  m.note = in.text("note", "");
  m.unknown = in.rest();
  return m;
}

Dismissed read_dismissed(const Json& json, const std::string& path) {
  Reader in(json, path);
  Dismissed mark;
  mark.id = in.text("id", "");
  if (mark.id.empty()) complain(in.path_of("id"), "missing; it names the finding that was dismissed");
  mark.field = in.text("field", "");
  mark.value = in.number("value").value_or(0);
  mark.limit = in.number("limit").value_or(0);
  mark.reason = in.text("reason", "");
  mark.when = in.text("when", "");
  mark.unknown = in.rest();
  return mark;
}

Confirmed read_confirmed(const Json& json, const std::string& path) {
  Reader in(json, path);
  Confirmed mark;
  mark.stage = in.text("stage", "");
  if (mark.stage.empty()) complain(in.path_of("stage"), "missing; it names the stage that was confirmed");
  mark.when = in.text("when", "");
  mark.inputs = in.text("inputs", "");
  mark.unknown = in.rest();
  return mark;
}

std::map<std::string, double> read_numbers(const Json& json, const std::string& path) {
  if (!json.is_object()) complain(path, fmt::format("expected an object {{...}}, found {}", describe(json)));
  std::map<std::string, double> out;
  for (const auto& [key, value] : json.items()) {
    if (!value.is_number()) complain(path + "." + key, fmt::format("expected a number, found {}", describe(value)));
    out[key] = value.get<double>();
  }
  return out;
}

std::map<std::string, double> read_tolerances(const Json& json) {
  auto out = read_numbers(json, "tolerances");
  const auto known = tolerance_inputs();
  for (const auto& [key, value] : out)
    if (std::ranges::find(known, key, &ToleranceInput::key) == known.end())
      complain("tolerances." + key,
               fmt::format("this is no input with a tolerance; known: {}", listed(known, &ToleranceInput::key)));
  return out;
}

BankSection read_section(const Json& json, const std::string& path) {
  Reader in(json, path);
  BankSection section;
  section.name = in.text("name", "");
  for (const SectionNumber& number : section_numbers()) {
    const auto value = in.number(number.key);
    if (!value && number.required) complain(in.path_of(number.key), "missing; every section needs it");
    if (value) number.set(section, *value);
  }
  section.unknown = in.rest();
  return section;
}

FeedBlock read_block(const Json& json, const std::string& path) {
  Reader in(json, path);
  FeedBlock block;
  block.kind = current_block_key(in.text("kind", ""));
  const BlockKind* kind = block_kind(block.kind);
  if (!kind) {
    complain(in.path_of("kind"), fmt::format("“{}” is not a block of the feed; known: {}", block.kind,
                                             listed(block_kinds(), &BlockKind::key)));
  }
  for (const BlockNumber& number : kind->numbers)
    block.values[std::string(number.key)] = in.number(number.key).value_or(number.standard);
  block.unknown = in.rest();
  return block;
}

std::map<std::string, std::string> read_texts(const Json& json, const std::string& path) {
  if (!json.is_object()) complain(path, fmt::format("expected an object {{...}}, found {}", describe(json)));
  std::map<std::string, std::string> out;
  for (const auto& [key, value] : json.items()) {
    if (!value.is_string())
      complain(path + "." + key, fmt::format("expected text in quotes, found {}", describe(value)));
    out[key] = value.get<std::string>();
  }
  return out;
}

KeptDesign read_kept(const Json& json, const std::string& path);

// By its place among those of the file.
const KeptDesign& kept_at(const Json& json, const std::string& path, const std::vector<KeptDesign>& designs) {
  if (!json.is_number_unsigned())
    complain(path, fmt::format("expected the number of one of “designs”, from 0, found {}", describe(json)));
  const auto index = json.get<std::uint64_t>();
  if (index >= designs.size())
    complain(path, fmt::format("there is no design {} among the {} of “designs”, which count from 0", index,
                               designs.size()));
  return designs[index];
}

// As a run is fired with it: with numbers.
KeptDesign without_examples(const KeptDesign& design) {
  return example_paths(*design.get()).empty() ? design : KeptDesign(*design.get());
}

// The design of a run: its place, or itself where a run stands alone.
KeptDesign read_fired_with(const Json& json, const std::string& path, const std::vector<KeptDesign>& designs) {
  return json.is_object() ? without_examples(read_kept(json, path)) : kept_at(json, path, designs);
}

DesignVariant read_variant(const Json& json, const std::string& path, const std::vector<KeptDesign>& designs) {
  Reader in(json, path);
  DesignVariant variant;
  variant.name = in.text("name", "");
  const Json* design = in.find("design");
  if (!design) complain(in.path_of("design"), "is missing; the number of one of “designs”, from 0");
  variant.design = kept_at(*design, in.path_of("design"), designs);
  variant.unknown = in.rest();
  return variant;
}

Run read_run(const Json& json, const std::string& path, const std::vector<KeptDesign>& designs) {
  Reader in(json, path);
  Run run;
  run.id = in.text("id", "");
  run.when = in.text("when", "");
  if (const Json* values = in.find("conditions")) run.conditions = read_numbers(*values, in.path_of("conditions"));
  if (const Json* values = in.find("observations"))
    run.observations = read_numbers(*values, in.path_of("observations"));
  run.notes = in.text("notes", "");
  run.failed = in.text("failed", "");
  run.open_stops = in.text("open_stops", "");
  run.armed_despite = in.text("armed_despite", "");
  if (const Json* columns = in.find("columns")) run.columns = read_texts(*columns, in.path_of("columns"));
  if (const Json* design = in.find("design"))
    run.fired_with = read_fired_with(*design, in.path_of("design"), designs);
  run.unknown = in.rest();
  return run;
}

void read_fields(Design& design, Reader& in, Json& unknown) {
  std::map<std::string, Reader> groups;
  for (const FieldSpec& field : design_fields()) {
    const auto [group, leaf] = split_key(field.key);
    auto it = groups.find(group);
    if (it == groups.end()) {
      const Json* object = in.find(group);
      static const Json empty = Json::object();
      it = groups.emplace(group, Reader(object ? *object : empty, group)).first;
    }
    const auto value = it->second.number(leaf, field.nullable);
    if (value)
      field.set(design, value);
    else if (field.required)
      design.absent.emplace(field.key);
  }
  Reader& site = groups.at("site");
  site.list("grounded_conductors", [&](const Json& item, const std::string& where) {
    if (!item.is_string()) complain(where, fmt::format("expected text in quotes, found {}", describe(item)));
    const std::string name = item.get<std::string>();
    if (name != "primary" && name != "strike-ring")
      complain(where, fmt::format("“{}” is no conductor that can be grounded; known: primary, strike-ring", name));
    if (std::ranges::count(design.site.grounded_conductors, name) > 0)
      complain(where, fmt::format("“{}” stands here twice", name));
    design.site.grounded_conductors.push_back(name);
  });
  Reader& tank = groups.at("tank");
  tank.list("sections", [&](const Json& item, const std::string& where) {
    design.tank.sections.push_back(read_section(item, where));
  });
  if (const std::string given = tank.text("given_as", ""); !given.empty()) {
    const auto way = std::ranges::find(tank_ways, given, &TankWay::key);
    if (way == tank_ways.end())
      complain("tank.given_as", fmt::format("“{}” is not one-value, equal-units or mixed-bank", given));
    design.tank.given_as = way->way;
  }
  design.tank.single_capacitance_f = tank.number("single_capacitance_f");
  if (const Json* stacked = tank.find("sections_in_series")) {
    if (!stacked->is_boolean()) complain("tank.sections_in_series", "expected true or false");
    design.tank.sections_in_series = stacked->get<bool>();
  }
  for (const ChoiceSpec& choice : design_choices()) {
    const auto [group, leaf] = split_key(choice.key);
    const std::string said = groups.at(group).text(leaf, "");
    if (said.empty()) continue;
    const auto it = std::ranges::find(choice.choices, said, &Choice::key);
    if (it == choice.choices.end())
      complain(std::string(choice.key),
               fmt::format("“{}” is not known; known: {}", said, listed(choice.choices, &Choice::key)));
    choice.set(design, static_cast<std::size_t>(it - choice.choices.begin()));
  }
  for (auto& [group, reader] : groups)
    if (Json rest = reader.rest(); !rest.empty()) unknown[group] = rest;
}

// `kept`: one beside runs, which has neither a version nor a record of its own.
Design read_document(const Json& document, bool kept = false) {
  Reader in(document, "");
  if (!kept) {
    in.find("format");
    in.find("version");
  } else {
    for (const char* key : {"runs", "designs", "variants", "topload_variants", "dismissed", "confirmed"})
      if (in.find(key)) complain(key, "a design beside the present one has none of its own");
  }
  Design design;
  design.name = in.text("name", design.name);
  design.kind = in.text("kind", design.kind);
  if (!coil_kind(design.kind))
    complain("kind", fmt::format("“{}” coils are not known to this version", design.kind));
  Json groups = Json::object();
  read_fields(design, in, groups);
  in.list("topload",
          [&](const Json& item, const std::string& where) { design.topload.push_back(read_part(item, where)); });
  in.list("topload_variants", [&](const Json& item, const std::string& where) {
    Reader variant_in(item, where);
    ToploadVariant variant;
    variant.name = variant_in.text("name", "");
    variant_in.list("parts", [&](const Json& part, const std::string& part_where) {
      variant.parts.push_back(read_part(part, part_where));
    });
    variant.unknown = variant_in.rest();
    design.topload_variants.push_back(std::move(variant));
  });
  in.list("feed",
          [&](const Json& item, const std::string& where) { design.feed.push_back(read_block(item, where)); });
  if (const Json* values = in.find("tolerances")) design.tolerances = read_tolerances(*values);
  const std::string target = in.text("tune_target", "silent-coil");
  if (target != "silent-coil" && target != "loaded-coil")
    complain("tune_target", fmt::format("“{}” is not silent-coil or loaded-coil", target));
  design.tune_target = target == "loaded-coil" ? TuneTarget::loaded_coil : TuneTarget::silent_coil;
  in.list("measurements", [&](const Json& item, const std::string& where) {
    design.measurements.push_back(read_measurement(item, where));
  });
  in.list("dismissed", [&](const Json& item, const std::string& where) {
    design.dismissed.push_back(read_dismissed(item, where));
  });
  in.list("confirmed", [&](const Json& item, const std::string& where) {
    design.confirmed.push_back(read_confirmed(item, where));
  });
  std::vector<KeptDesign> designs;
  in.list("designs",
          [&](const Json& item, const std::string& where) { designs.push_back(read_kept(item, where)); });
  std::vector<KeptDesign> fired; // once for each design, however many runs have it
  for (const KeptDesign& one : designs) fired.push_back(without_examples(one));
  in.list("runs",
          [&](const Json& item, const std::string& where) { design.runs.push_back(read_run(item, where, fired)); });
  in.list("variants", [&](const Json& item, const std::string& where) {
    design.variants.push_back(read_variant(item, where, designs));
  });
  std::vector<std::string> examples;
  in.list("examples", [&](const Json& item, const std::string& where) {
    if (!item.is_string()) complain(where, fmt::format("expected the path of a number, found {}", describe(item)));
    examples.push_back(item.get<std::string>());
  });
  if (examples.size() > most_examples)
    complain("examples", fmt::format("{} paths; at most {} can be kept", examples.size(), most_examples));
  if (const auto bad = unreadable(design)) complain(bad->path, bad->text);
  settle_edit(design, design);
  examples = mark_examples(design, examples);
  if (examples.size() > most_marks)
    complain("examples", fmt::format("{} paths of no number; at most {} are kept", examples.size(), most_marks));
  Json rest = in.rest();
  if (!examples.empty()) rest["examples"] = examples; // of numbers that this version does not know
  for (const auto& [key, value] : groups.items()) rest[key] = value;
  design.unknown = rest;
  return design;
}

KeptDesign read_kept(const Json& json, const std::string& path) {
  try {
    return KeptDesign::as_it_is(read_document(json, true));
  } catch (const Complaint& complaint) {
    complain(complaint.path.empty() ? path : fmt::format("{}.{}", path, complaint.path), complaint.text);
  }
}

constexpr std::array<Migration, 0> migrations{};

} // namespace

DesignFileError::DesignFileError(const std::string& message, std::string path, int line)
    : std::runtime_error(message), path_(std::move(path)), line_(line) {}

void migrate(Json& document, std::span<const Migration> steps, int target) {
  const Json& stated = document.at("version");
  const bool newer = stated.is_number_unsigned() ? stated.get<std::uint64_t>() > static_cast<std::uint64_t>(target)
                                                 : stated.get<std::int64_t>() > target;
  if (newer)
    throw Complaint{"version",
                    fmt::format("this file is version {}, made by a newer High Arc; this one reads up to {}",
                                stated.dump(), target)};
  auto version = stated.get<std::int64_t>();
  while (version < target) {
    const auto step = std::ranges::find(steps, version, &Migration::from);
    if (step == steps.end())
      throw Complaint{"version", fmt::format("version {} is not known; expected {}", version, target)};
    step->step(document);
    document["version"] = ++version;
  }
}

Design read_design(std::string_view text) {
  if (text.size() > largest_design_file_bytes)
    throw DesignFileError(fmt::format("the file is {} MB; a design is never larger than {} MB", text.size() >> 20,
                                      largest_design_file_bytes >> 20),
                          "", 0);
  Json document;
  std::size_t values = 0;
  try {
    document = parse_json(text, "a High Arc design", 0, &values);
  } catch (const JsonTextError& error) {
    throw DesignFileError(error.what(), error.path(), error.line());
  }
  try {
    if (!document.is_object()) complain("", "expected one JSON object with \"format\": \"high-arc-design\"");
    if (document.value("format", Json()) != "high-arc-design")
      complain("format", "this is not a High Arc design; expected \"format\": \"high-arc-design\"");
    if (!document.contains("version") || !document["version"].is_number_integer())
      complain("version", "expected a whole number");
    migrate(document, migrations, design_file_version);
    Design design = read_document(document);
    if (text.size() > surely_small || values > surely_few || document.contains("designs"))
      if (std::string large = too_large_to_keep(design); !large.empty()) complain("", large);
    return design;
  } catch (const Complaint& complaint) {
    const int line = json_line_of(text, complaint.path);
    throw DesignFileError(with_place(complaint.path, line, complaint.text), complaint.path, line);
  }
}

Run run_of(const Json& json) {
  try {
    return read_run(json, "run", {});
  } catch (const Complaint& complaint) {
    throw DesignFileError(with_place(complaint.path, 0, complaint.text), complaint.path, 0);
  }
}

} // namespace arc
