// The lumped estimate of the resonator.
#include "field/handbook.h"
#include "field/resonator.h"
#include "parts/bank.h"
#include "parts/topload.h"

namespace arc {

double topload_isolated_sum_f(const std::vector<ToploadPart>& topload) {
  double sum = 0;
  for (const ToploadPart& part : topload) {
    const ToploadShape* shape = topload_shape(part.shape);
    if (!shape || !shape->problem(part).empty()) continue;
    const auto exact = shape->exact_capacitance_f(part);
    sum += exact ? *exact : sphere_capacitance_f(topload_extent(part).radius_m);
  }
  return sum;
}

ResonatorResult lumped_resonator(const Design& design, double secondary_inductance_h) {
  ResonatorResult out;
  out.method = "textbook sum";
  out.assumption = "uniform current, Medhurst self-capacitance plus the topload as if it stood alone";
  out.relative_accuracy = 0.12;
  const double diameter = 2 * secondary_mean_radius_m(design.secondary);
  out.topload_isolated_f = topload_isolated_sum_f(design.topload);
  out.topload_in_place_f = out.topload_isolated_f;
  out.effective_inductance_h = secondary_inductance_h;
  out.effective_capacitance_f =
      medhurst_capacitance_f(design.secondary.winding_length_m, diameter) + out.topload_isolated_f;
  out.mode_1_hz = resonance_hz(secondary_inductance_h, out.effective_capacitance_f);
  return out;
}

} // namespace arc
