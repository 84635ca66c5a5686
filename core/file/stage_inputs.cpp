// A checksum of what the file holds of each stage.
#include "file/stage_inputs.h"

#include "craft/design_fields.h"
#include "craft/kind.h"
#include "file/design_file.h"
#include "model/inputs.h"

#include <algorithm>
#include <cstdint>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <utility>

namespace arc {
namespace {

// FNV-1a, 64 bits (Fowler, Noll, Vo; constants from memory): not against forgery, only to see a change.
std::string checksum(const std::string& text) {
  std::uint64_t sum = 0xcbf29ce484222325u;
  for (const char c : text) sum = (sum ^ static_cast<unsigned char>(c)) * 0x100000001b3u;
  return fmt::format("{:016x}", sum);
}

} // namespace

std::map<std::string, std::string, std::less<>> stage_inputs(const Design& design) {
  const CoilKind& kind = kind_of(design);
  std::map<std::string, std::string, std::less<>> texts;
  const Json held = json_of(inputs_of(design));
  for (const auto& [group, value] : held.items())
    if (group != "name" && group != "kind")
      texts[std::string(stage_of_group(kind, group == "tune_target" ? "measurements" : group))] +=
          group + value.dump(-1, ' ', false, Json::error_handler_t::replace);
  for (auto& [stage, text] : texts) text = checksum(design.kind + text);
  return texts;
}

bool is_confirmed(const Design& design, std::string_view stage,
                  const std::map<std::string, std::string, std::less<>>& inputs) {
  const auto now = inputs.find(stage);
  return std::ranges::any_of(design.confirmed, [&](const Confirmed& mark) {
    return mark.stage == stage && mark.inputs == (now == inputs.end() ? std::string() : now->second);
  });
}

void confirm_stage(Design& design, const std::string& stage, const std::string& when) {
  unconfirm_stage(design, stage);
  const auto inputs = stage_inputs(design);
  const auto now = inputs.find(stage);
  design.confirmed.push_back(
      {.stage = stage, .when = when, .inputs = now == inputs.end() ? std::string() : now->second, .unknown = {}});
}

void unconfirm_stage(Design& design, std::string_view stage) {
  if (std::ranges::count(std::as_const(design.confirmed), stage, &Confirmed::stage) > 0)
    std::erase_if(design.confirmed.own(), [&](const Confirmed& mark) { return mark.stage == stage; });
}

} // namespace arc
