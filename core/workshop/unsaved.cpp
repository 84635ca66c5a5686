// The design's own text is put in as it is: one way to write a design.
#include "workshop/unsaved.h"

#include "quantity/json_text.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace arc {
namespace {

constexpr const char* format_name = "high-arc-recovery";

std::string json_text(const Json& json) {
  return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

// The wrapped design and what stands beside it.
Json parsed(std::string_view text) {
  try {
    Json json = parse_json(text, "unsaved work", 1);
    const Json format = json.is_object() ? json.value("format", Json()) : Json();
    if (format == format_name && json.contains("design") && json["design"].is_object()) return json;
    if (format == "high-arc-design") // as earlier versions left it
      return {{"name", json.value("name", Json("unnamed"))}, {"design", json}};
  } catch (const JsonTextError& error) {
    throw DesignFileError(error.what(), error.path(), error.line());
  }
  throw DesignFileError("this is no unsaved work of High Arc", "", 0);
}

std::string text_in(const Json& json, const char* key) {
  const auto it = json.find(key);
  return it != json.end() && it->is_string() ? it->get<std::string>() : std::string();
}

bool changed_in(const Json& json) {
  const auto it = json.find("changed");
  return it == json.end() || *it != false;
}

} // namespace

std::string write_unsaved(const Unsaved& u) {
  return fmt::format("{{\"format\":\"{}\",\"version\":1,\"name\":{},\"origin\":{},\"stamp\":{},\"changed\":{},"
                     "\"run\":{},\"design\":{}}}\n",
                     format_name, json_text(u.design.name), json_text(u.origin), json_text(u.stamp), u.changed,
                     json_text(json_of(u.draft)), write_design(u.design));
}

Unsaved read_unsaved(std::string_view text) {
  const Json json = parsed(text);
  std::string own = json["design"].dump(1);
  if (own.size() > largest_design_file_bytes) own = json["design"].dump();
  return {.design = read_design(own),
          .origin = text_in(json, "origin"),
          .stamp = text_in(json, "stamp"),
          .changed = changed_in(json),
          .draft = json.contains("run") ? draft_of(json["run"]) : RunDraft()};
}

UnsavedHead read_unsaved_head(std::string_view text) {
  const Json json = parsed(text);
  return {.name = text_in(json, "name"),
          .origin = text_in(json, "origin"),
          .changed = changed_in(json),
          .run = json.contains("run") && !json["run"].is_null()};
}

} // namespace arc
