// The checklist of the design's kind.
#include "workshop/checklist.h"

#include "craft/kind.h"

namespace arc {

std::vector<CheckItem> checks_before_power(const Design& design, const Analysis& analysis,
                                           const PowerAnalysis* power, UnitSystem units) {
  return kind_of(design).checks_before_power(design, analysis, power, units);
}

std::vector<std::string> steps_after_power(const Design& design, const Analysis& analysis,
                                           const PowerAnalysis* power, UnitSystem units) {
  return kind_of(design).steps_after_power(design, analysis, power, units);
}

} // namespace arc
