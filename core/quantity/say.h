// Values inside sentences, in the builder's units.
#pragma once

#include "quantity/quantity.h"

namespace arc {

struct Say {
  UnitSystem units;
  int usual_digits = 3;
  std::string operator()(double si, Dimension dimension) const { return (*this)(si, dimension, usual_digits); }
  std::string operator()(double si, Dimension dimension, int digits) const {
    return format_quantity(si, dimension, units, digits);
  }
  std::string length(double m) const { return (*this)(m, Dimension::length); }
  std::string arc(double m) const { return length(round_significant(m, 2)); }
};

} // namespace arc
