// A timer circuit drawn in ordinary symbols (after IEC 60617), with its parts' names and values, as SVG.
#pragma once

#include "timing/timer.h"

#include <string>
#include <string_view>

namespace arc {

/// SVG 1.1 of 800 by 430 units; colours as SVG takes them. Every part of the circuit stands in it by its name.
std::string timer_svg(const TimerCircuit& circuit, UnitSystem units, std::string_view ink = "black",
                      std::string_view paper = "white");

} // namespace arc
