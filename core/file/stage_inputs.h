// What the builder enters on each stage, as one short text: marks of confirmed stages go by it.
#pragma once

#include "model/design.h"

#include <map>
#include <string>
#include <string_view>

namespace arc {

/// By key of the stage: a text that changes when a number, a choice or a part that is entered on that stage does.
/// Names, notes, runs and kept toploads do not count. The same on every machine.
std::map<std::string, std::string, std::less<>> stage_inputs(const Design& design);

/// Whether the builder has confirmed the stage, and it still holds what it held then. `inputs`: stage_inputs().
bool is_confirmed(const Design& design, std::string_view stage,
                  const std::map<std::string, std::string, std::less<>>& inputs);

/// Confirms it, or takes the confirmation back. `when`: local time, ISO 8601.
void confirm_stage(Design& design, const std::string& stage, const std::string& when);
void unconfirm_stage(Design& design, std::string_view stage);

} // namespace arc
