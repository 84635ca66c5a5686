// Interrupters: the bursts that are asked for, the limits that are kept, and what comes of both. Limits act in the
// order rate, on-time, duty, energy, least off-time; every one that changes something is said.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

enum class PulseLimit { rate, on_time, duty, energy, off_time };

struct LimitHit {
  PulseLimit limit;
  double asked, given; // seconds, hertz, joules or share, as the limit is
  std::string text;    // "On-time of 400 µs is held at 300 µs"
};

struct PulsePlan {
  double on_s = 0, rate_hz = 0;
  double duty() const { return on_s * rate_hz; }
  double off_s() const { return 1 / rate_hz - on_s; }
  double first_s = 0; // of the first burst, after the mains' rise through zero
  std::vector<LimitHit> hits;
  double beat_hz = 0; // |rate - n mains| of a free-running one, as the eye sees it; 0 when locked or in step
};

/// What the interrupter gives. `burst_j`: energy of one burst by its length, rising; empty when it is not known.
/// Throws std::invalid_argument when nothing is left of a burst.
PulsePlan plan_pulses(const Interrupter& asked, double mains_hz, UnitSystem units,
                      const std::function<double(double)>& burst_j = {});

/// Start times in seconds of all bursts that begin before `until_s`.
std::vector<double> burst_starts(const PulsePlan& plan, double until_s);

/// Beats between these are seen as flashing (common practice, no source): slower is a drift, faster is steady
/// light.
inline constexpr double slowest_flash_hz = 0.05, fastest_flash_hz = 20;
/// Of a beat in hertz: between these two.
inline bool is_seen_flashing(double beat_hz) {
  return beat_hz >= slowest_flash_hz && beat_hz < fastest_flash_hz;
}

/// Hertz at which light that flashes `rate_hz` times a second beats with the mains: distance to the nearest whole
/// multiple or part of its frequency (|f_i - n f_mains|).
double mains_beat_hz(double rate_hz, double mains_hz);

} // namespace arc
