// Bursts and turns of a bridge; the tank of a dual resonant one for the volts that its current limit rings up.
#include "crafts/bridges/bridge.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace arc {
namespace {

double in_steps(double value, double step) {
  return std::max(step, std::round(value / step) * step);
}

void vary_bursts(Interrupter& bursts, double on_gene, double rate_gene) {
  bursts.on_time_s = in_steps(log_between(on_gene, 60e-6, 280e-6), 5e-6);
  bursts.rate_hz = in_steps(log_between(rate_gene, 60, 450), 5);
}

} // namespace

bool vary_bridge(Design& design, CraftGenes genes, const VaryParts&) {
  design.primary.turns = std::round(between(genes[0], 7, 22));
  design.primary.tap_turns = design.primary.turns;
  vary_bursts(design.interrupter, genes[1], genes[2]);
  design.bridge.legs = genes[3] > 0.6 ? BridgeLegs::full : BridgeLegs::half_split;
  return true;
}

bool vary_dual_resonant(Design& design, CraftGenes genes, const VaryParts& parts) {
  if (parts.units.empty()) return false;
  vary_bursts(design.interrupter, genes[1], genes[2]);
  const double limit_a = in_steps(between(genes[3], 100, 280), 10);
  design.bridge.current_limit_a = limit_a;
  const double farad = log_between(genes[4], 15e-9, 150e-9);
  const double peak_v = limit_a / (2 * std::numbers::pi * parts.resonance_hz * farad);
  return fill_bank(design.tank, picked(parts.units, genes[0]), peak_v, farad);
}

} // namespace arc
