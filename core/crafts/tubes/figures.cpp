// What the simulation of a tube coil or a flame coil says, figure by figure.
#include "crafts/tubes/figure_parts.h"

namespace arc {

std::span<const Figure> tube_figures() {
  static const auto all =
      joined_figures({tube_figure::run_rows(), tube_figure::over_time_rows(), tube_figure::path_rows()});
  return all;
}

} // namespace arc
