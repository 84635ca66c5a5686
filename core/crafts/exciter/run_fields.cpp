// What a run of an exciter records beside what every run does.
#include "crafts/exciter/exciter.h"
#include "workshop/runs.h"

#include <array>

namespace arc {
namespace {

using enum Dimension;

constexpr std::array run_rows{
    RunField{.key = "supply_voltage_v",
             .label = "Supply",
             .dimension = voltage,
             .minimum = 0,
             .maximum = 1000,
             .of = "exciter.supply_voltage_v",
             .group = "exciter"},
    RunField{.key = "bias_resistance_ohm",
             .label = "Bias resistor",
             .dimension = resistance,
             .minimum = 0,
             .maximum = 1e9,
             .of = "exciter.bias_resistance_ohm",
             .group = "exciter"},
    RunField{.key = "supply_current_a",
             .label = "Supply current",
             .dimension = current,
             .minimum = 0,
             .maximum = 1000,
             .group = "exciter"},
    RunField{.key = "lamp_distance_m",
             .label = "Lamp lights at",
             .dimension = length,
             .minimum = 0,
             .maximum = 20,
             .group = "exciter"},
};

} // namespace

std::span<const RunField> exciter_run_fields() {
  return run_rows;
}

} // namespace arc
