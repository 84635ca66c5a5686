// Arcs as every kind expects and loads with them. All of it common practice, no source.
#pragma once

#include "coil/analysis.h"

#include <cmath>

namespace arc {

inline constexpr double streamer_f_per_m = 1e-12 / 0.3; // about 1 pF for each 0.3 m
inline constexpr double streamer_ohm = 220e3;           // a few hundred kilo-ohms, in series with it

/// Metres that an arc reaches at most with these watts: 1.7 inch times their root, an upper trend.
inline double longest_arc_m(double watts) {
  return 1.7 * 0.0254 * std::sqrt(watts);
}

/// Hertz to which arcs of `arc_m` metres pull a resonator of this frequency and effective capacitance.
inline double loaded_by_arc_hz(double silent_hz, double effective_f, double arc_m) {
  return silent_hz * std::sqrt(effective_f / (effective_f + arc_m * streamer_f_per_m));
}

/// A streamer as bursts and oscillators carry it: from the volts at which the top breaks out, a capacitance behind
/// a resistance. Measured values count before the computed breakout and the usual load (F, ohm).
struct StreamerLoad {
  double breakout_v, farad, ohm;
};
inline StreamerLoad streamer_load(const Design& design, const Analysis& analysis, double usual_f,
                                  double usual_ohm = streamer_ohm) {
  const Equivalent& measured = design.equivalent;
  return {measured.breakout_voltage_v.value_or(analysis.breakout ? analysis.breakout->voltage_v : 0),
          measured.streamer_capacitance_f.value_or(usual_f), measured.streamer_resistance_ohm.value_or(usual_ohm)};
}

} // namespace arc
