// Changes of a primary.
#include "coil/ideas.h"

#include <fmt/format.h>

namespace arc {

std::vector<Idea> primary_ideas(const Design& d, bool turns, UnitSystem units) {
  std::vector<Idea> out;
  if (d.equivalent.primary_inductance_h || d.equivalent.coupling) return out;
  if (turns)
    for (const double more : {-1.0, 1.0})
      if (d.primary.turns + more >= 1)
        out.push_back({more > 0 ? "One primary turn more" : "One primary turn fewer",
                       [more](Design& x) { x.primary.turns += more; }});
  constexpr double lift = 0.01;
  for (const double rise : {-lift, lift})
    if (d.primary.base_height_m + rise > 0)
      out.push_back({fmt::format("{} the primary {}", rise > 0 ? "Raise" : "Lower",
                                 format_quantity(lift, Dimension::length, units, 2)),
                     [rise](Design& x) { x.primary.base_height_m += rise; }});
  return out;
}

} // namespace arc
