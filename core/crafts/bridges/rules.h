// Rules on a bridge as it runs; findings.cpp puts them into its table.
#pragma once

#include "crafts/bridges/bridge.h"

#include <optional>

namespace arc::bridge_rule {

using Maybe = std::optional<Finding>;
using enum Dimension;

inline double half_period_s(const BridgeAnalysis& b) {
  return b.burst.frequency_hz > 0 ? 0.5 / b.burst.frequency_hz : 0.5 / b.poles.back();
}

Maybe unit_over_current(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe unit_too_steep(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe unit_warm(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe snubber_hot(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe snubber_slow(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe capacitor_over_current(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe does_not_lock(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe glitches(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe locks_to_the_primary(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe takes_a_higher_mode(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe chain_too_slow(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe hard_switching(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe fixed_off_pole(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe listens_elsewhere(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe gate_magnetising(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe turn_off_volts(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe gate_droops(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe transformer_saturates(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe burden_hot(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe switch_over_current(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe arcs_reach_the_antenna(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe bus_differs(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe dead_time_long(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe dead_time_short(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe core_saturates(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe over_pulse_rating(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe junction_too_hot(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe signal_strength(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe ends_mid_wave(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe limits_hold(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe tripped(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);
Maybe rate_beats(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);

} // namespace arc::bridge_rule
