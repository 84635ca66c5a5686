// Names in a sentence: "toroid, sphere, disc".
#pragma once

#include <functional>
#include <string>
#include <string_view>

namespace arc {

/// What `name` gives of every item (a member will do), with `between` between them.
template <typename Items, typename Name = std::identity>
std::string listed(const Items& items, Name name = {}, std::string_view between = ", ") {
  std::string out;
  for (const auto& item : items) {
    if (!out.empty()) out += between;
    out += std::invoke(name, item);
  }
  return out;
}

} // namespace arc
