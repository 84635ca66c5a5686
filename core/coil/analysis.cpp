#include "coil/analysis.h"

#include "coil/tapped_primary.h"
#include "craft/kind.h"
#include "field/handbook.h"
#include "field/loss.h"
#include "parts/wire.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {

double used_turns(const Design& design) {
  return kind_of(design).clip ? std::min(design.primary.tap_turns, design.primary.turns) : design.primary.turns;
}

// Skin of the conductor at this frequency, crowded.
double primary_resistance_ohm(const Design& design, const Analysis& a, double frequency_hz) {
  double length = 0;
  for (const Ring& ring : primary_rings(design.primary, used_turns(design)))
    length += 2 * std::numbers::pi * ring.radius_m * ring.weight;
  const double d = design.primary.conductor_diameter_m;
  const double depth = skin_depth_m(frequency_hz, design.site.air_temperature_c);
  return length * copper_resistivity_ohm_m / (std::numbers::pi * d * depth) * a.primary_crowding;
}

double primary_inductance_at_h(const Primary& primary, double tap_turns) {
  return TappedPrimary(primary).inductance(tap_turns);
}

double lead_inductance_h(const Primary& primary) {
  if (!primary.lead_length_m || !primary.lead_spacing_m) return primary.lead_inductance_h;
  return pair_inductance_h(*primary.lead_length_m, *primary.lead_spacing_m, primary.conductor_diameter_m / 2);
}

double tank_loop_inductance_h(const Primary& primary, double tap_turns) {
  return primary_inductance_at_h(primary, tap_turns) + lead_inductance_h(primary);
}

double relative_band(const Analysis& analysis, std::string_view key, double value) {
  const auto it = analysis.band.find(std::string(key));
  return it == analysis.band.end() || !(value > 0) ? 0.0 : it->second / value;
}

double top_voltage_v(const Analysis& analysis) {
  return analysis.breakout ? std::min(analysis.breakout->voltage_v, analysis.top_voltage_limit_v)
                           : analysis.top_voltage_limit_v;
}

std::optional<double> tap_for_frequency(const Design& design, double capacitance_f, double wanted_hz) {
  const TappedPrimary model(design.primary);
  const auto& measured = design.equivalent.primary_inductance_h;
  return tap_for(model, design.primary, capacitance_f, wanted_hz,
                 measured ? *measured / model.inductance(used_turns(design)) : 1);
}

bool CoilCircuit::complete() const {
  return primary_h > 0 && coupling > 0 && secondary_h > 0 && secondary_f > 0 && secondary_ohm > 0;
}

const CoilCircuit& complete_circuit(const Analysis& a) {
  const CoilCircuit& coil = a.circuit;
  if (coil.complete()) return coil;
  if (a.computed && !a.problem.empty()) throw std::invalid_argument(a.problem);
  throw std::invalid_argument(!(coil.secondary_h > 0 && coil.secondary_f > 0 && coil.secondary_ohm > 0)
                                  ? "the resonator is not known: enter the secondary, or its measured values"
                                  : "the primary is not known: enter it, or its measured values");
}

CircuitDoubt circuit_doubt(const Analysis& a) {
  const auto measured = [&](std::string_view what) { return std::ranges::count(a.circuit.measured, what) > 0; };
  // Of an instrument's inductance and capacitance, each by 1 %; of its coupling, by 2 %. Knowing more never widens.
  constexpr double resonance = 0.01 / std::numbers::sqrt2, coupled = 0.02;
  const auto narrower = [](double band, double instrument) {
    return band > 0 ? std::min(band, instrument) : instrument;
  };
  CircuitDoubt out{relative_band(a, "best_mode_1_hz", a.best_mode_1_hz), relative_band(a, "coupling", a.coupling)};
  if (measured("resonator's inductance") && measured("resonator's capacitance"))
    out.detune = narrower(out.detune, resonance);
  if (measured("coupling")) out.coupling = narrower(out.coupling, coupled);
  return out;
}

} // namespace arc
