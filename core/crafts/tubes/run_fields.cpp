// What a run of a tube coil records beside what every run does.
#include "crafts/tubes/tube.h"
#include "workshop/runs.h"

#include <array>

namespace arc {
namespace {

using enum Dimension;

constexpr std::array run_rows{
    RunField{.key = "direct_supply_v",
             .label = "Direct supply",
             .dimension = voltage,
             .minimum = 0,
             .maximum = 1e5,
             .group = "tube",
             .from_design = [](const Design& d, const Analysis&) { return direct_supply_v(d); }},
    RunField{.key = "feedback_turns",
             .label = "Feedback turns",
             .dimension = number,
             .minimum = 0,
             .maximum = 1000,
             .of = "feedback.turns",
             .group = "feedback"},
    RunField{.key = "grid_leak_ohm",
             .label = "Grid leak",
             .dimension = resistance,
             .minimum = 0,
             .maximum = 1e9,
             .of = "tube.grid_leak_ohm",
             .group = "feedback"},
    RunField{.key = "grid_resistor_ohm",
             .label = "Grid resistor",
             .dimension = resistance,
             .minimum = 0,
             .maximum = 1e9,
             .of = "flame.grid_resistor_ohm",
             .group = "flame"},
    RunField{.key = "plate_voltage_v",
             .label = "Plate supply",
             .dimension = voltage,
             .minimum = 0,
             .maximum = 1e5,
             .group = "tube"},
    RunField{.key = "plate_current_a",
             .label = "Plate current",
             .dimension = current,
             .minimum = 0,
             .maximum = 1000,
             .group = "tube"},
    RunField{.key = "grid_current_a",
             .label = "Grid current",
             .dimension = current,
             .minimum = 0,
             .maximum = 100,
             .group = "tube"},
    RunField{.key = "filament_voltage_v",
             .label = "Filament",
             .dimension = voltage,
             .minimum = 0,
             .maximum = 200,
             .group = "tube"},
};

} // namespace

std::span<const RunField> tube_run_fields() {
  return run_rows;
}

} // namespace arc
