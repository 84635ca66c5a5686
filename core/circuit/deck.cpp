// The harmless first line.
#include "circuit/deck.h"

#include <fmt/format.h>

namespace arc {

std::string deck_title(std::string_view name, std::string_view what) {
  constexpr std::size_t longest = 80;
  std::string plain;
  for (const char c : name) {
    if (plain.size() == longest) break;
    const bool harmless = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ||
                          std::string_view(" -_,()").find(c) != std::string_view::npos;
    plain += harmless ? c : ' ';
  }
  return fmt::format("* {}: {}, written by High Arc\n", plain, what);
}

} // namespace arc
