// How far what is not known well moves the simulated figures: one input at a time by its tolerance either way, the
// larger deviation of each, added in squares. Inputs count as independent.
#pragma once

#include "crafts/spark_gap/charging.h"
#include "crafts/spark_gap/shot.h"
#include "simulation/power.h"

#include <map>
#include <string>

namespace arc {

/// The shot as far as its first beats, sampled coarsely: enough for peaks and energies.
ShotResult quick_shot(const ShotCircuit& circuit, ShotOptions options, const Work& work);

/// Half-widths of top_peak_v, primary_peak_a and secondary_peak_j: tuning and coupling by the analysis' bands, Q by
/// 20 %, the arc's resistance by half (assumptions). Empty when cancelled.
std::map<std::string, double> shot_bands(const Analysis& analysis, const ShotCircuit& circuit,
                                         const ShotOptions& options, const Work& work);

/// Half-widths of break_rate_hz, tank_power_w, input_power_w and line_current_a: the mains by 5 %, half of what
/// EN 50160 allows (value from memory), what the gap fires at by 10 % (clean or not, warm or cold; common
/// practice), the tank's capacitance by its tolerance. `charging` is the design's run with these options. Empty
/// when cancelled.
std::map<std::string, double> charging_bands(const Design& design, const ChargingResult& charging,
                                             const ChargingOptions& options, const Work& work);

} // namespace arc
