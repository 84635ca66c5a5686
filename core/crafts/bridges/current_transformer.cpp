// Ratio, burden, flux and lowest frequency of a current transformer. Source: circuit theory, induction law.
#include "crafts/bridges/bridge.h"

#include <cmath>
#include <numbers>

namespace arc {

std::optional<CurrentTransformer> current_transformer(const Design& design, const BridgeAnalysis& bridge) {
  const Bridge& b = design.bridge;
  const bool hears = b.feedback == Feedback::foot_transformer || b.feedback == Feedback::primary_transformer;
  if ((!hears && !b.current_limit_a) || !bridge.problem.empty()) return {};
  const BurstResult& r = bridge.burst;
  CurrentTransformer out;
  out.of_foot = b.feedback == Feedback::foot_transformer;
  out.primary_peak_a = out.of_foot ? r.foot_peak_a : r.primary_peak_a;
  const double rms_a = out.of_foot ? r.foot_peak_a / std::numbers::sqrt2 : r.primary_rms_a; // while it bursts
  const double turns = b.transformer_turns, duty = std::min(1.0, r.end_s * bridge.plan.rate_hz);
  out.secondary_peak_a = out.primary_peak_a / turns;
  out.burden_peak_v = out.secondary_peak_a * b.burden_ohm;
  out.burden_burst_w = rms_a * rms_a / (turns * turns) * b.burden_ohm;
  out.burden_average_w = out.burden_burst_w * duty;
  const double hz = r.frequency_hz > 0 ? r.frequency_hz : bridge.poles.front();
  constexpr double m2_per_mm2 = 1e-6, round = 2 * std::numbers::pi;
  out.flux_t = out.burden_peak_v / (round * hz * turns * b.transformer_area_mm2 * m2_per_mm2);
  out.lowest_hz = b.burden_ohm / (round * b.transformer_al_h * turns * turns);
  out.lead_s = std::atan(out.lowest_hz / hz) / (round * hz);
  if (b.current_limit_a && !out.of_foot) out.comparator_v = *b.current_limit_a / turns * b.burden_ohm;
  return out;
}

} // namespace arc
