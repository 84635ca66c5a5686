// Heat of the switches: one burst in a Foster ladder, the train of them, the sink. Form: data sheets' transient
// thermal impedance as a sum of R (1 - exp(-t / tau)); for a train of equal pulses the sum of a geometric series.
#include "crafts/bridges/bridge.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace arc {
namespace {

struct Pair {
  double k_per_w, time_s;
};

std::array<Pair, 2> pairs_of(const BridgeSwitch& s) {
  return {{{s.pair_1_k_per_w, s.pair_1_s}, {s.pair_2_k_per_w, s.pair_2_s}}};
}

double air_c(const Design& design) {
  return design.site.air_temperature_c;
}

int switches(const Design& design) {
  return design.bridge.legs == BridgeLegs::full ? 4 : 2;
}

// Kelvin over the case at the end of a burst, after `after_s` seconds of bursts.
double pulse_rise_k(const BridgeSwitch& s, double burst_w, double on_s, double period_s, double after_s) {
  double rise = 0;
  for (const Pair& p : pairs_of(s)) {
    const double each = -std::expm1(-on_s / p.time_s);
    const double train = -std::expm1(-std::max(after_s, period_s) / p.time_s) / -std::expm1(-period_s / p.time_s);
    rise += burst_w * p.k_per_w * each * train;
  }
  return rise;
}

} // namespace

SwitchHeat switch_heat(const Design& design, const BurstResult& burst, const PulsePlan& plan) {
  const BridgeSwitch& s = design.bridge.device;
  SwitchHeat out{};
  const double joule = (burst.device_j() + burst.edges_j()) / switches(design);
  const double on_s = std::max(burst.end_s, 1e-9);
  out.on_s = on_s;
  out.burst_w = joule / on_s;
  out.average_w = joule * plan.rate_hz;
  out.sink_c = air_c(design) + design.bridge.sink_k_per_w * out.average_w * switches(design);
  double inside = 0;
  for (const Pair& p : pairs_of(s)) inside += p.k_per_w;
  out.junction_c = out.sink_c + out.average_w * (s.case_k_per_w + inside);
  constexpr double for_good_s = 1e6;
  out.junction_peak_c = junction_after_c(design, out, plan, for_good_s);
  if (out.junction_peak_c <= s.junction_limit_c) return out;
  double low = 0, high = for_good_s;
  for (int i = 0; i < 80; ++i) {
    const double middle = i < 40 ? std::sqrt(std::max(low, 1e-6) * high) : (low + high) / 2;
    (junction_after_c(design, out, plan, middle) <= s.junction_limit_c ? low : high) = middle;
  }
  out.run_time_s = high;
  return out;
}

double junction_after_c(const Design& design, const SwitchHeat& heat, const PulsePlan& plan, double after_s) {
  const Bridge& b = design.bridge;
  const double sink_time = b.sink_k_per_w * b.sink_capacity_j_per_k;
  const double sink = b.sink_k_per_w * heat.average_w * switches(design) * -std::expm1(-after_s / sink_time);
  return air_c(design) + sink + heat.average_w * b.device.case_k_per_w +
         pulse_rise_k(b.device, heat.burst_w, heat.on_s, 1 / plan.rate_hz, after_s);
}

} // namespace arc
