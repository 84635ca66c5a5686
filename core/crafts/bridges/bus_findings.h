// Findings on the path to the bus and on what it stores; findings.cpp puts them among the bridge's.
#pragma once

#include "crafts/bridges/bridge.h"

#include <optional>
#include <span>

namespace arc {

using BridgeRule = std::optional<Finding> (*)(const Design&, const Analysis&, const BridgeAnalysis&, UnitSystem);

std::span<const FindingRule> bus_rules();      // of the bus at rest
std::span<const BridgeRule> bus_burst_rules(); // of what its simulation says

} // namespace arc
