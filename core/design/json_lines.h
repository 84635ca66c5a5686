// Finds the line on which a key's value starts in a JSON text, for error messages.
#pragma once

#include <string_view>

namespace arc {

/// Line (from 1) of the value at `path` ("topload[1].shape"), or 0 when it is not there. `text` must be valid JSON.
int json_line_of(std::string_view text, std::string_view path);

} // namespace arc
