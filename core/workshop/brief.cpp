// Reading and writing briefs.
#include "workshop/brief.h"

#include "craft/kind.h"
#include "quantity/json_text.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <nlohmann/json.hpp>
#include <set>

namespace arc {
namespace {

constexpr std::array<std::string_view, 4> site_keys{"mains_voltage_v", "mains_frequency_hz", "ceiling_height_m",
                                                    "wall_distance_m"};

template <typename Rows>
std::string keys_of(const Rows& rows) {
  std::vector<std::string_view> keys;
  for (const auto& row : rows) keys.push_back(row.key);
  return fmt::format("{}", fmt::join(keys, ", "));
}

class Reader {
 public:
  Reader(std::string_view text, const Json& json) : text_(text), json_(json) {}

  [[noreturn]] void refuse(const std::string& path, const std::string& why) const {
    throw BriefError(with_place(path, json_line_of(text_, path), why));
  }
  const Json& at(const std::string& key) {
    known_.insert(key);
    static const Json none;
    const auto found = json_.find(key);
    return found == json_.end() ? none : *found;
  }
  std::string word(const Json& value, const std::string& path) const {
    if (!value.is_string()) refuse(path, "expected words in quotes, found " + describe(value));
    return value.get<std::string>();
  }
  double number(const Json& value, const std::string& path) const {
    if (!value.is_number() || !std::isfinite(value.get<double>()) || value.get<double>() <= 0)
      refuse(path, "expected a number above 0, found " + describe(value));
    return value.get<double>();
  }
  std::vector<std::string> words(const std::string& key) {
    std::vector<std::string> out;
    const Json& list = at(key);
    if (list.is_null()) return out;
    if (!list.is_array()) refuse(key, "expected a list [...], found " + describe(list));
    for (std::size_t i = 0; i < list.size(); ++i) out.push_back(word(list[i], fmt::format("{}[{}]", key, i)));
    return out;
  }
  template <typename Known>
  std::map<std::string, double> numbers(const std::string& key, const Known& known, const std::string& names) {
    std::map<std::string, double> out;
    const Json& group = at(key);
    if (group.is_null()) return out;
    if (!group.is_object()) refuse(key, "expected an object {...}, found " + describe(group));
    for (const auto& [name, value] : group.items()) {
      if (!known(name)) refuse(key + "." + name, "not known; known are " + names);
      if (!value.is_null()) out[name] = number(value, key + "." + name);
    }
    return out;
  }
  void keep_unknown(Extras& to) const {
    for (const auto& [key, value] : json_.items())
      if (!known_.contains(key)) to.set(key, value);
  }

 private:
  std::string_view text_;
  const Json& json_;
  std::set<std::string> known_{"format", "version"};
};

Shelf shelf_of(Reader& reader) {
  Json json = reader.at("shelf");
  if (json.is_null()) return {};
  if (!json.is_object()) reader.refuse("shelf", "expected an object {...}, found " + describe(json));
  json["format"] = "high-arc-shelf";
  json["version"] = 1;
  try {
    return read_shelf(json.dump());
  } catch (const ShelfError& error) {
    throw BriefError(std::string("shelf: ") + error.what());
  }
}

} // namespace

std::span<const BriefAim> brief_aims() {
  static const std::array<BriefAim, 8> all{{{"longest-arc", "Longest arc", {}, true},
                                            {"most-from-shelf", "Most from the shelf", {}, false},
                                            {"cheapest", "Cheapest", {}, false},
                                            {"smallest", "Smallest", {}, false},
                                            {"calmest", "Calmest", {}, true},
                                            {"music", "Music", {"bridge", "dual-resonant", "tube"}, true},
                                            {"lamp", "Light a lamp", {"exciter", "bridge"}, false},
                                            {"flame", "A flame", {"flame", "tube"}, true}}};
  return all;
}

std::span<const BriefLimit> brief_limits() {
  using enum Dimension;
  static const std::array<BriefLimit, 10> all{{{"line_current_a", "Line current", current},
                                               {"height_m", "Height", length},
                                               {"floor_diameter_m", "Largest diameter", length},
                                               {"resonance_low_hz", "Lowest resonance", frequency, true},
                                               {"resonance_high_hz", "Highest resonance", frequency},
                                               {"driver_low_hz", "Lowest frequency of the driver", frequency, true},
                                               {"driver_high_hz", "Highest frequency of the driver", frequency},
                                               {"arc_length_m", "Arc", length, true},
                                               {"highest_voltage_v", "Highest voltage at the primary", voltage},
                                               {"price", "Price", count}}};
  return all;
}

const BriefLimit* brief_limit(std::string_view key) {
  const auto it = std::ranges::find(brief_limits(), key, &BriefLimit::key);
  return it == brief_limits().end() ? nullptr : &*it;
}

std::span<const std::string_view> groups_of_proposals() {
  static const std::vector<std::string_view> groups = [] {
    std::vector<std::string_view> all{"pipes", "wires", "capacitors", "tubing", "toploads", "transformers"};
    for (const ShelfGroup& group : shelf_groups())
      if (group.takes) all.push_back(group.key);
    return all;
  }();
  return groups;
}

std::string unusable_part(const Brief& brief) {
  for (std::size_t i = 0; i < brief.must_use.size(); ++i) {
    const WantedPart& part = brief.must_use[i];
    if (std::ranges::count(groups_of_proposals(), part.group) == 0)
      return fmt::format("must_use[{}]: parts of the group “{}” are not planned with; groups are {}", i, part.group,
                         fmt::join(groups_of_proposals(), ", "));
    if (std::ranges::count(brief.shelf.of(part.group), part.name, &ShelfPart::name) == 0)
      return fmt::format("must_use[{}]: no “{}” among the {} of the shelf", i, part.name, part.group);
  }
  return {};
}

Brief read_brief(std::string_view text) {
  Json json;
  try {
    json = parse_json(text, "a brief");
  } catch (const JsonTextError& error) {
    throw BriefError(error.what());
  }
  if (!json.is_object() || json.value("format", Json()) != "high-arc-brief")
    throw BriefError("this is not a brief; expected \"format\": \"high-arc-brief\"");
  Reader reader(text, json);
  if (json.contains("version") && json["version"] != 1)
    reader.refuse("version", "expected 1, found " + describe(json["version"]));
  Brief out;
  if (const Json& name = reader.at("name"); !name.is_null()) out.name = reader.word(name, "name");
  out.kinds = reader.words("kinds");
  for (std::size_t i = 0; i < out.kinds.size(); ++i)
    if (!coil_kind(out.kinds[i])) {
      std::vector<std::string_view> keys;
      for (const CoilKind* kind : coil_kinds()) keys.push_back(kind->key);
      reader.refuse(fmt::format("kinds[{}]", i), fmt::format("no such kind; kinds are {}", fmt::join(keys, ", ")));
    }
  if (const Json& aim = reader.at("aim"); !aim.is_null()) out.aim = reader.word(aim, "aim");
  if (std::ranges::find(brief_aims(), out.aim, &BriefAim::key) == brief_aims().end())
    reader.refuse("aim", "no such aim; aims are " + keys_of(brief_aims()));
  out.site = reader.numbers(
      "site", [](const std::string& key) { return std::ranges::count(site_keys, key) > 0; },
      fmt::format("{}", fmt::join(site_keys, ", ")));
  out.limits = reader.numbers(
      "limits", [](const std::string& key) { return brief_limit(key) != nullptr; }, keys_of(brief_limits()));
  out.only_shelf = reader.words("only_shelf");
  for (std::size_t i = 0; i < out.only_shelf.size(); ++i)
    if (std::ranges::count(groups_of_proposals(), out.only_shelf[i]) == 0)
      reader.refuse(fmt::format("only_shelf[{}]", i),
                    fmt::format("not planned with; groups are {}", fmt::join(groups_of_proposals(), ", ")));
  out.shelf = shelf_of(reader);
  if (const Json& list = reader.at("must_use"); !list.is_null()) {
    if (!list.is_array()) reader.refuse("must_use", "expected a list [...], found " + describe(list));
    for (std::size_t i = 0; i < list.size(); ++i) {
      const std::string path = fmt::format("must_use[{}]", i);
      if (!list[i].is_object()) reader.refuse(path, "expected {\"group\", \"name\"}, found " + describe(list[i]));
      out.must_use.push_back({reader.word(list[i].value("group", Json()), path + ".group"),
                              reader.word(list[i].value("name", Json()), path + ".name")});
    }
  }
  reader.keep_unknown(out.unknown);
  return out;
}

std::string write_brief(const Brief& brief) {
  Json json{{"format", "high-arc-brief"},
            {"version", 1},
            {"name", brief.name},
            {"kinds", brief.kinds},
            {"aim", brief.aim},
            {"site", brief.site},
            {"limits", brief.limits},
            {"must_use", Json::array()},
            {"only_shelf", brief.only_shelf}};
  for (const WantedPart& part : brief.must_use)
    json["must_use"].push_back({{"group", part.group}, {"name", part.name}});
  Json shelf = Json::parse(write_shelf(brief.shelf));
  shelf.erase("format");
  shelf.erase("version");
  json["shelf"] = shelf;
  json.update(brief.unknown.json());
  return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

} // namespace arc
