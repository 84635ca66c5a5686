// Single changes that simulations try, as kinds share them.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"

#include <functional>
#include <string>
#include <vector>

namespace arc {

struct Idea {
  std::string title;
  std::function<void(Design&)> apply;
};

/// A turn more or fewer (where `turns` is asked), and the primary a centimetre up or down. None where the primary
/// is given as measured: geometry says nothing then.
std::vector<Idea> primary_ideas(const Design& design, bool turns, UnitSystem units);

} // namespace arc
