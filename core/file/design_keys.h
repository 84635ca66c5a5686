// Keys that reading and writing of a design share.
#pragma once

#include "model/design.h"

#include <array>
#include <string>
#include <string_view>
#include <utility>

namespace arc {

struct TankWay {
  std::string_view key;
  TankGiven way;
};

inline constexpr std::array<TankWay, 3> tank_ways{{{"one-value", TankGiven::one_value},
                                                   {"equal-units", TankGiven::equal_units},
                                                   {"mixed-bank", TankGiven::mixed_bank}}};

/// "tank.capacitance_f" into "tank" and "capacitance_f".
inline std::pair<std::string, std::string> split_key(std::string_view key) {
  const auto dot = key.find('.');
  return {std::string(key.substr(0, dot)), std::string(key.substr(dot + 1))};
}

} // namespace arc
