// What a running coil asks of its tank's capacitors, whatever drives it, and what they say to that.
#pragma once

#include "craft/finding.h"
#include "parts/bank.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct TankDuty {
  BankLoad load;
  std::vector<UnitStress> stress; // of each section of the tank
  double rate_hz = 0;             // how often it is charged and emptied
  std::string_view what = "breaks";
  std::string_view rate_from = {}; // "by the feed", "as entered": where either can be
};

inline constexpr double long_run_s = 1800; // for which a capacitor's warming is judged

/// In words: whether the tank's capacitors stand half an hour of this, by what is stated of them.
std::string long_run_verdict(const TankDuty& duty, UnitSystem units);

/// The worst section for one kind of stress; null without any.
const UnitStress* worst_unit(const TankDuty& duty, double UnitStress::*member);

/// The fullest unit against what it states, RMS current and volts per second, and the warmest after a long run
/// against what film stands. Empty within them.
std::optional<Finding> unit_over_current(const TankDuty& duty, UnitSystem units);
std::optional<Finding> unit_too_steep(const TankDuty& duty, UnitSystem units);
std::optional<Finding> unit_warm(const TankDuty& duty, UnitSystem units);

} // namespace arc
