// Resonance over the clip, and the bank's stress.
#include "analysis/tank_at_rest.h"

#include "coil/tapped_primary.h"
#include "evidence/tuning.h"
#include "laws/circuit.h"
#include "parts/bank.h"

#include <algorithm>
#include <cmath>

namespace arc {

double tank_loop_h(const Analysis& a) {
  return a.circuit.primary_h + a.lead_inductance_h;
}

void tune_tank(const Design& design, const TappedPrimary& primary, Analysis& out) {
  out.tuned_tap_turns =
      tap_for(primary, design.primary, out.tank_rings_f, out.target_hz, measured_over_computed(out));
  const double rings_f = resonating_capacitance_f(tank_loop_h(out), out.target_hz);
  const double beside = 1 / out.tank_rings_f - 1 / out.tank_capacitance_f; // of what stands in series, 1/F
  if (beside * rings_f < 1) out.tuned_capacitance_f = rings_f / (1 - beside * rings_f);
}

double measured_over_computed(const Analysis& a) {
  return a.primary_inductance_h > 0 ? a.circuit.primary_h / a.primary_inductance_h : 1;
}

Silent silent_coil(const Design& design, const Analysis& a) {
  if (const Measurement* measured = latest_measurement(design, "coil-with-topload"))
    return {measured->frequency_hz, "the measured resonance"};
  const Equivalent& e = design.equivalent;
  if (e.secondary_inductance_h || e.secondary_capacitance_f)
    return {a.circuit.resonance_hz, "the measured resonator"};
  return {a.resonator->mode_1_hz, "the computed resonance"};
}

void analyse_tank(const Design& design, const TappedPrimary& model, double peak_v, Analysis& out) {
  const Primary& primary = design.primary;
  const double loop = tank_loop_h(out), scale = measured_over_computed(out);
  if (!(out.tank_rings_f > 0)) out.tank_rings_f = out.tank_capacitance_f;
  out.tank_hz = resonance_hz(loop, out.tank_rings_f);
  const int quarters = std::min(400, static_cast<int>(std::floor(primary.turns * 4 + 1e-9)));
  for (int q = 2; q <= quarters; ++q) {
    const double l = scale * model.inductance(q / 4.0) + out.lead_inductance_h;
    out.tap_curve.push_back({q / 4.0, l, resonance_hz(l, out.tank_rings_f)});
  }
  const double v = peak_v;
  out.tank_peak_v = v;
  out.stored_energy_j = stored_energy_j(out.tank_capacitance_f, v);
  out.stored_charge_c = out.tank_capacitance_f * v;
  out.peak_current_a = peak_tank_current_a(v, out.tank_capacitance_f, loop);
  const auto sections = bank_sections(design.tank);
  const auto shares = unit_shares(design.tank);
  if (const auto limit = tank_voltage_limit_v(design.tank, 1)) out.unit_used = v / *limit;
  // The fullest by its rating where all are stated, else by its volts.
  const bool rated = std::ranges::all_of(sections, [](const BankSection& s) { return s.voltage_v.has_value(); });
  double fullest = -1;
  for (std::size_t i = 0; i < sections.size(); ++i) {
    const double used = rated ? shares[i].worst / *sections[i].voltage_v : shares[i].worst;
    if (used <= fullest) continue;
    fullest = used;
    out.unit_voltage_v = v * shares[i].even;
    out.fullest_unit = sections[i].name;
  }
  if (const auto r = tank_bleed_resistance_ohm(design.tank))
    out.bleed_time_s = bleed_time_s(*r, out.tank_capacitance_f, v);
}

} // namespace arc
