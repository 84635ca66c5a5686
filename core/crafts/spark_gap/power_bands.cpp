// Bands of the simulated figures.
#include "crafts/spark_gap/power_bands.h"

#include "evidence/tolerance.h"
#include "parts/bank.h"
#include "parts/gap.h"
#include "simulation/one_at_a_time.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <stdexcept>
#include <vector>

namespace arc {
namespace {

FigureValues figures_of(const ChargingResult& c) {
  return {{"break_rate_hz", c.break_rate_hz},
          {"tank_power_w", c.tank_power_w},
          {"input_power_w", c.input_power_w},
          {"line_current_a", c.line_current_a}};
}

} // namespace

ShotResult quick_shot(const ShotCircuit& circuit, ShotOptions options, const Work& work) {
  options.duration_s = std::min(options.duration_s, std::max(3 * circuit.beat_s, 50e-6));
  return *trial_shot(work.kept, circuit, options, work.cancelled);
}

std::map<std::string, double> shot_bands(const Analysis& analysis, const ShotCircuit& circuit,
                                         const ShotOptions& options, const Work& work) {
  const CircuitDoubt doubt = circuit_doubt(analysis);
  const double detune = std::hypot(relative_band(analysis, "tank_hz", analysis.tank_hz), doubt.detune);
  const double coupling = doubt.coupling;
  constexpr double loss = 0.2;
  const auto run = [&](const ShotCircuit& c) {
    const ShotResult shot = quick_shot(c, options, work);
    return FigureValues{{"top_peak_v", shot.top_peak_v},
                        {"primary_peak_a", shot.primary_peak_a},
                        {"secondary_peak_j", shot.secondary_peak_j},
                        {"gap_loss_j", shot.gap_loss_j}};
  };
  return one_at_a_time<ShotCircuit>(circuit, run(circuit),
                                    {[&](ShotCircuit& c, double sign) { c.tank_f *= std::exp(-2 * sign * detune); },
                                     [&](ShotCircuit& c, double sign) {
                                       for (WindingMode& m : c.modes) m.mutual_h *= std::exp(sign * coupling);
                                     },
                                     [&](ShotCircuit& c, double sign) {
                                       for (WindingMode& m : c.modes) m.resistance_ohm *= 1 + sign * loss;
                                     },
                                     [&](ShotCircuit& c, double sign) {
                                       c.arc_ohm *= 1 + sign * arc_volts_band;
                                       c.arc_drop_v *= 1 + sign * arc_volts_band;
                                     }},
                                    run, work.cancelled);
}

std::map<std::string, double> charging_bands(const Design& design, const ChargingResult& charging,
                                             const ChargingOptions& options, const Work& work) {
  constexpr double mains = 0.05, gap = 0.1;
  const auto tank = std::ranges::find(tolerance_inputs(), "tank", &ToleranceInput::key);
  return one_at_a_time<Design>(
      design, figures_of(charging),
      {[](Design& d, double sign) { d.site.mains_voltage_v *= 1 + sign * mains; },
       [](Design& d, double sign) {
         d.gap.firing_voltage_v *= 1 + sign * gap; // of a static gap; a rotor fires by its clearance
         d.gap.rotor_clearance_m *= 1 + sign * gap;
         if (d.gap.rotary_electrodes && d.gap.spacing_m) *d.gap.spacing_m *= 1 + sign * gap;
       },
       [&](Design& d, double sign) { tank->nudge(d, sign * tolerance_of(design, *tank)); }},
      [&](const Design& d) { return figures_of(*charging_figures(work.kept, d, options, work.cancelled)); },
      work.cancelled);
}

} // namespace arc
