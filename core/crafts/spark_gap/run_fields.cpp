// What a run of a spark gap records beside what every run does.
#include "crafts/spark_gap/spark_gap.h"
#include "workshop/runs.h"

#include <array>

namespace arc {
namespace {

using enum Dimension;

constexpr std::array run_rows{
    RunField{.key = "firing_voltage_v",
             .label = "Firing voltage",
             .dimension = voltage,
             .minimum = 0,
             .maximum = 1e6,
             .of = "gap.firing_voltage_v",
             .group = "gap"},
    RunField{.key = "break_rate_hz",
             .label = "Break rate",
             .dimension = frequency,
             .minimum = 0,
             .maximum = 1e5,
             .of = "gap.break_rate_hz",
             .group = "gap"},
    RunField{.key = "power_w",
             .label = "Tank power",
             .dimension = power,
             .minimum = 0,
             .maximum = 1e7,
             .of = "power_w",
             .group = "gap"},
    RunField{.key = "rotor_phase_deg",
             .label = "Rotor's phase",
             .dimension = angle,
             .minimum = -360,
             .maximum = 360,
             .of = "gap.rotor_phase_deg",
             .group = "gap"},
    RunField{.key = "gap_spacing_m",
             .label = "Gap spacing",
             .dimension = length,
             .minimum = 0,
             .maximum = 1,
             .group = "gap"},
};

} // namespace

std::span<const RunField> spark_gap_run_fields() {
  return run_rows;
}

} // namespace arc
