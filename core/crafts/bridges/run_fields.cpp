// What a run of a bridge records beside what every run does.
#include "crafts/bridges/bridge.h"
#include "workshop/runs.h"

#include <array>

namespace arc {
namespace {

using enum Dimension;

constexpr std::array run_rows{
    RunField{.key = "bus_voltage_v",
             .label = "Bus",
             .dimension = voltage,
             .minimum = 0,
             .maximum = 10000,
             .group = "bridge"},
};

} // namespace

std::span<const RunField> bridge_run_fields() {
  return run_rows;
}

} // namespace arc
