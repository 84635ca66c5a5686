#include "simulation/tried_map.h"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>
#include <limits>

namespace arc {

double TriedMap::value(const Place& place, std::string_view key) const {
  const auto it = std::ranges::find(quantities, key, &MapQuantity::key);
  return !place.runs || it == quantities.end() ? std::numeric_limits<double>::quiet_NaN()
                                               : place.values[static_cast<std::size_t>(it - quantities.begin())];
}

std::string TriedMap::words(std::size_t column, std::size_t row, UnitSystem units) const {
  const auto print = [&](double si, Dimension dimension, int digits = 3) {
    return format_quantity(si, dimension, units, digits);
  };
  const auto lower = [](std::string_view title) {
    std::string out(title);
    out[0] = static_cast<char>(std::tolower(out[0]));
    return out;
  };
  std::string out = fmt::format("{} {}, {} {}", across.title, print(across.values[column], across.dimension),
                                lower(up.title), print(up.values[row], up.dimension));
  const Place& place = at(column, row);
  if (!place.runs) return out + ": " + idle;
  for (std::size_t i = 0; i < quantities.size(); ++i)
    out += fmt::format("{}{} {}", i == 0 ? ": " : ", ", lower(quantities[i].title),
                       print(place.values[i], quantities[i].dimension, quantities[i].digits));
  for (const std::string* more : {&beside, &limit_words})
    if (!more->empty()) out += "; " + *more;
  return out;
}

} // namespace arc
