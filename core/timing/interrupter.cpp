// Limits, and the train that is left.
#include "timing/interrupter.h"
#include "quantity/say.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>

namespace arc {
namespace {

// The longest on-time whose burst keeps below `limit_j`; bisection on a rising function.
double on_for_energy(const std::function<double(double)>& burst_j, double limit_j, double longest_s) {
  double low = 0, high = longest_s;
  for (int i = 0; i < 50; ++i) {
    const double middle = (low + high) / 2;
    (burst_j(middle) <= limit_j ? low : high) = middle;
  }
  return low;
}

} // namespace

double mains_beat_hz(double rate_hz, double mains_hz) {
  const double n = std::max(1.0, std::round(rate_hz / mains_hz));
  return std::abs(rate_hz - n * mains_hz);
}

PulsePlan plan_pulses(const Interrupter& asked, double mains_hz, UnitSystem units,
                      const std::function<double(double)>& burst_j) {
  PulsePlan out;
  const Say print{units};
  const auto hit = [&](PulseLimit limit, const char* what, double from, double to, Dimension dimension,
                       const char* why) {
    out.hits.push_back(
        {limit, from, to,
         fmt::format("{} of {} is held at {}: {}", what, print(from, dimension), print(to, dimension), why)});
  };
  out.on_s = asked.on_time_s;
  out.rate_hz = asked.locked ? mains_hz / std::max(1.0, asked.every_cycle) : asked.rate_hz;
  if (out.rate_hz > asked.highest_rate_hz) {
    double held = asked.highest_rate_hz;
    if (asked.locked) held = mains_hz / std::ceil(mains_hz / asked.highest_rate_hz - 1e-9);
    hit(PulseLimit::rate, "Rate", out.rate_hz, held, Dimension::frequency, "the highest that is allowed");
    out.rate_hz = held;
  }
  if (out.on_s > asked.longest_on_s) {
    hit(PulseLimit::on_time, "On-time", out.on_s, asked.longest_on_s, Dimension::time,
        "the longest that is allowed");
    out.on_s = asked.longest_on_s;
  }
  if (out.duty() > asked.largest_duty) {
    const double held = asked.largest_duty / out.rate_hz;
    hit(PulseLimit::duty, "On-time", out.on_s, held, Dimension::time, "the largest duty at this rate");
    out.on_s = held;
  }
  if (asked.largest_energy_j && burst_j && burst_j(out.on_s) > *asked.largest_energy_j) {
    const double held = on_for_energy(burst_j, *asked.largest_energy_j, out.on_s);
    hit(PulseLimit::energy, "On-time", out.on_s, held, Dimension::time, "the largest energy of one burst");
    out.on_s = held;
  }
  if (out.off_s() < asked.least_off_s) {
    double held = 1 / (asked.least_off_s + out.on_s);
    if (asked.locked) held = mains_hz / std::ceil(mains_hz / held - 1e-9);
    hit(PulseLimit::off_time, "Rate", out.rate_hz, held, Dimension::frequency, "the least off-time");
    out.rate_hz = held;
  }
  if (!(out.on_s > 0) || !(out.rate_hz > 0)) throw std::invalid_argument("the limits leave nothing of a burst");
  if (asked.locked)
    out.first_s = asked.phase_deg / 360 / mains_hz;
  else
    out.beat_hz = mains_beat_hz(out.rate_hz, mains_hz);
  return out;
}

std::vector<double> burst_starts(const PulsePlan& plan, double until_s) {
  std::vector<double> out;
  constexpr std::size_t most = 100000;
  for (std::size_t k = 0; out.size() < most; ++k) {
    const double at = plan.first_s + static_cast<double>(k) / plan.rate_hz;
    if (at >= until_s) break;
    out.push_back(at);
  }
  return out;
}

} // namespace arc
