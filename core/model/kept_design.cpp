// Designs beside runs and variants.
#include "model/design.h"

#include "model/inputs.h"

#include <utility>

namespace arc {

KeptDesign::KeptDesign(const Design& design) : KeptDesign(as_it_is(without_examples(design))) {}

KeptDesign KeptDesign::as_it_is(Design bare) {
  bare.runs = {};
  bare.topload_variants = {};
  bare.variants = {};
  bare.dismissed = {};
  bare.confirmed = {};
  KeptDesign out;
  out.design_ = std::make_shared<const Design>(std::move(bare));
  return out;
}

bool KeptDesign::operator==(const KeptDesign& other) const {
  return design_ == other.design_ || (design_ && other.design_ && *design_ == *other.design_);
}

} // namespace arc
