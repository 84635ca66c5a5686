// What a bridge's simulation says, figure by figure. Ratings are those of the design; whatever is common practice
// has no source.
#include "crafts/bridges/figure_parts.h"

namespace arc {

std::span<const Figure> bridge_figures() {
  static const auto all = joined_figures({bridge_figure::burst_rows(), bridge_figure::switches_rows(),
                                          bridge_figure::train_rows(), bridge_figure::path_rows()});
  return all;
}

} // namespace arc
