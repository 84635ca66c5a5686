// One forecast of the arc for every kind, after the simulation: what its power and transfer give at this variac
// setting and tune, where it breaks out at all. Never fed back into a simulation; the rule at rest
// (`expected_arc_m`) stays what streamer loads go by. All of it common practice, no source.
#pragma once

#include "coil/analysis.h"

#include <optional>
#include <string>

namespace arc {

/// What a kind's simulation says of its arcs.
struct ArcBasis {
  double power_w = 0;       // by which the kind's rule goes, as it runs
  double transferred = 0;   // share of it that reaches resonator and arc
  double usual_share = 0.6; // that the rule's coils transfer: less shortens the arc
  Range m_per_root_w{};     // the rule's band
  double top_v = 0;         // that the top reaches, or would without its arc; peak
  bool joined = false;      // an arc did join in the simulation
};

struct ArcForecast {
  double power_w = 0; // by which it goes
  bool breaks_out = false;
  Range length_m{};                 // zero where nothing breaks out
  double top_v = 0, breakout_v = 0; // the latter 0 where it is not known
  std::string reason;               // one sentence
};
ArcForecast forecast_arc(const ArcBasis& basis, const Design& design, const Analysis& analysis, UnitSystem units);

/// "Nothing breaks out: the top reaches 107 of 247 kV". Empty where it does, or nothing is delivered at all.
std::optional<Finding> nothing_breaks_out(const ArcForecast& forecast, const Design& design, UnitSystem units);

} // namespace arc
