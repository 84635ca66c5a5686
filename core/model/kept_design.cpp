// Designs beside runs.
#include "model/design.h"

#include "model/inputs.h"

#include <utility>

namespace arc {

KeptDesign::KeptDesign(const Design& design) {
  Design bare = without_examples(design); // a run is fired with numbers
  bare.runs = {};
  bare.topload_variants = {};
  bare.dismissed = {};
  bare.confirmed = {};
  design_ = std::make_shared<const Design>(std::move(bare));
}

bool KeptDesign::operator==(const KeptDesign& other) const {
  return design_ == other.design_ || (design_ && other.design_ && *design_ == *other.design_);
}

} // namespace arc
