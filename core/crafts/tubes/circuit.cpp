// The oscillator's circuit from the design; lamp and filament.
#include "coil/geometry.h"
#include "coil/streamer.h"
#include "coil/tapped_primary.h"
#include "coil/winding_modes.h"
#include "craft/design_fields.h"
#include "crafts/tubes/tube.h"
#include "field/handbook.h"
#include "field/loss.h"
#include "field/resonator.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "parts/wire.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

// Of two halves of a winding that is only known as measured (computed for usual plate coils: 0.3 to 0.6).
constexpr double usual_halves_coupling = 0.45;

// Same ratio as the plate coil's mode: how a mode's own current shape couples compared with an even one.
std::vector<double> mode_mutuals(const std::vector<WindingMode>& modes, double plate_mutual_h,
                                 double feedback_mutual_h) {
  std::vector<double> out;
  for (const WindingMode& mode : modes)
    out.push_back(plate_mutual_h != 0 ? mode.mutual_h * feedback_mutual_h / plate_mutual_h : 0);
  return out;
}

void load_with(const StreamerLoad& streamer, TubeCircuit& c) {
  c.breakout_v = streamer.breakout_v;
  c.streamer_f = streamer.farad;
  c.streamer_ohm = streamer.ohm;
}

Staccato staccato_of(const Design& d, double cycle_s) {
  const TubeOscillator& t = d.tube;
  const Interrupter& i = d.interrupter;
  const double period_s = i.locked ? i.every_cycle * cycle_s : 1 / i.rate_hz;
  return {t.thyristor_on_ohm,
          t.thyristor_off_ohm,
          t.thyristor_hold_a,
          t.thyristor_off_s,
          t.snubber_ohm,
          t.snubber_f,
          i.on_time_s,
          i.locked ? i.phase_deg / 360 * cycle_s : 0,
          period_s};
}

// Of a winding's two halves, cut by its turns.
double halves_coupling(const std::vector<Ring>& rings, double wire_radius_m) {
  if (rings.size() < 2) return usual_halves_coupling;
  const auto all = std::span(rings), low = all.first(rings.size() / 2), high = all.subspan(rings.size() / 2);
  const auto henry = [&](std::span<const Ring> some) {
    return series_inductance_h(some, wire_radius_m, CurrentDistribution::skin);
  };
  return (henry(all) - henry(low) - henry(high)) / 2 / std::sqrt(henry(low) * henry(high));
}

} // namespace

double tube_count(const Design& d) {
  return is_flame(d) ? 1 : d.tube.in_parallel * (d.tube.push_pull ? 2 : 1);
}

FeedbackCircuit feedback_circuit(const Design& d, const Analysis& a, const std::vector<WindingMode>& modes) {
  const Equivalent& m = d.equivalent;
  const FeedbackWinding& w = d.feedback;
  const CoilCircuit& coil = complete_circuit(a);
  FeedbackCircuit out;
  out.halves_coupling = usual_halves_coupling;
  double plate_h = 0, second_h = 0; // mutual inductances by geometry
  if (a.has_primary) {
    const auto rings = feedback_rings(w, d.primary);
    out.inductance_h = series_inductance_h(rings, w.conductor_diameter_m / 2, CurrentDistribution::skin);
    out.halves_coupling = halves_coupling(rings, w.conductor_diameter_m / 2);
    out.lowest_m = 1e300;
    for (const Ring& ring : rings) {
      out.wire_m += ring.weight * 2 * std::numbers::pi * ring.radius_m;
      out.lowest_m = std::min(out.lowest_m, ring.height_m - w.conductor_diameter_m / 2);
    }
    const double depth = skin_depth_m(coil.resonance_hz, d.site.air_temperature_c);
    out.resistance_ohm =
        out.wire_m * copper_resistivity_ohm_m / (std::numbers::pi * w.conductor_diameter_m * depth);
    const auto used = primary_rings(d.primary, used_turns(d));
    plate_h = coil_mutual_h(used, rings);
    const auto winding = solenoid_rings(secondary_mean_radius_m(d.secondary), d.secondary.turns,
                                        d.secondary.winding_length_m, d.secondary.base_height_m);
    second_h = coil_mutual_h(winding, rings);
    out.plate_coupling = plate_h / std::sqrt(out.inductance_h * coil.primary_h);
    out.secondary_coupling = second_h / std::sqrt(out.inductance_h * a.secondary_inductance_h);
  } else if (!m.feedback_inductance_h || !m.feedback_coupling) {
    throw std::invalid_argument("the plate coil is not known: enter it, or the measured values of both windings");
  }
  out.inductance_h = m.feedback_inductance_h.value_or(out.inductance_h);
  out.resistance_ohm = m.feedback_resistance_ohm.value_or(out.resistance_ohm);
  out.plate_coupling = m.feedback_coupling.value_or(out.plate_coupling);
  out.secondary_coupling = m.feedback_secondary_coupling.value_or(out.secondary_coupling);
  const double sign = d.tube.reversed ? -1 : 1;
  out.plate_coupling *= sign;
  out.secondary_coupling *= sign;
  const double plate_second_h = coil.coupling * std::sqrt(coil.primary_h * coil.secondary_h);
  out.mode_h =
      mode_mutuals(modes, plate_second_h, out.secondary_coupling * std::sqrt(out.inductance_h * coil.secondary_h));
  return out;
}

double lamp_ohm(const TubeOscillator& t, double rms_a) {
  if (!(t.lamp_hot_ohm > 0)) return t.lamp_cold_ohm;
  const double share = std::clamp(rms_a / t.lamp_a, 0.0, 1.5);
  return t.lamp_cold_ohm + (t.lamp_hot_ohm - t.lamp_cold_ohm) * std::pow(share, 1.2);
}

namespace {

// Direct current, a level-shifted supply as measured, or the feed; what swings is started by noise.
void supply_with(const Design& d, TubeCircuit& c) {
  const TubeOscillator& t = d.tube;
  const Equivalent& m = d.equivalent;
  if (t.supply_voltage_v) {
    c.direct_v = t.supply_voltage_v;
    c.rise_s = t.supply_rise_s;
  } else if (m.supply_emf_v) {
    c.shifter = ShifterSupply{*m.supply_emf_v,
                              m.supply_inductance_h.value_or(1),
                              m.supply_resistance_ohm.value_or(90),
                              m.shifter_capacitance_f.value_or(1e-6),
                              m.diode_on_ohm.value_or(20),
                              m.diode_off_ohm.value_or(5e7)};
  } else {
    if (const std::string problem = feed_problem(d.feed, FeedEnd::plate); !problem.empty())
      throw std::invalid_argument(problem);
    c.feed = d.feed;
  }
  if (!c.direct_v) {
    c.noise_a = t.noise_a;
    c.noise_hz = t.noise_hz;
  }
}

} // namespace

TubeCircuit tube_circuit(const Design& d, const Analysis& a, bool lumped) {
  const CoilCircuit& coil = complete_circuit(a);
  if (!given(d, "tank")) throw std::invalid_argument("tank.capacitance_f: not given yet");
  const TubeOscillator& t = d.tube;
  TubeCircuit c;
  c.wiring = t.circuit == OscillatorCircuit::hartley ? TubeWiring::hartley : TubeWiring::armstrong;
  c.push_pull = t.push_pull;
  c.law = tube_law(t.tube, t.in_parallel);
  c.grid_cathode_f = t.tube.grid_cathode_f * t.in_parallel;
  c.grid_plate_f = t.tube.grid_plate_f * t.in_parallel;
  c.plate_cathode_f = t.tube.plate_cathode_f * t.in_parallel;
  c.plate_h = coil.primary_h + lead_inductance_h(d.primary);
  c.plate_ohm = coil.primary_ohm;
  c.tank_f = tank_capacitance_f(d.tank);
  c.modes = winding_modes(d, a, lumped);
  const FeedbackCircuit feedback = feedback_circuit(d, a, c.modes);
  c.feedback_h = feedback.inductance_h;
  if (t.push_pull) {
    c.feedback_halves_k = feedback.halves_coupling;
    c.plate_halves_k =
        a.has_primary ? halves_coupling(primary_rings(d.primary, used_turns(d)), d.primary.conductor_diameter_m / 2)
                      : usual_halves_coupling;
  }
  c.feedback_ohm = feedback.resistance_ohm;
  c.plate_feedback_h = feedback.plate_coupling * std::sqrt(coil.primary_h * feedback.inductance_h);
  c.feedback_mode_h = feedback.mode_h;
  c.grid_leak_ohm = t.grid_leak_ohm;
  c.grid_leak_f = t.grid_leak_f;
  c.stopper_ohm = t.grid_stopper_ohm;
  c.trap_ohm = t.trap_ohm;
  c.trap_h = t.trap_h;
  c.bypass_f = t.bypass_f;
  c.arc = t.arc;
  // Arcs of half the winding's length: a tube's are short and thick (common practice, no source).
  load_with(streamer_load(d, a, streamer_f_per_m * (a.has_winding ? d.secondary.winding_length_m / 2 : 0.3)), c);
  c.site = d.site;
  supply_with(d, c);
  if (t.staccato) c.staccato = staccato_of(d, 1 / d.site.mains_frequency_hz);
  if (t.lamp_cold_ohm > 0 || t.lamp_hot_ohm > 0) {
    c.feedback_ohm += lamp_ohm(t, 0);
    if (const auto now = tube_balance(c, crest_supply_v(c)))
      c.feedback_ohm += lamp_ohm(t, now->feedback_a / std::numbers::sqrt2) - lamp_ohm(t, 0);
  }
  return c;
}

bool is_flame(const Design& design) {
  return kind_of(design).flame_at_tip;
}

std::optional<double> direct_supply_v(const Design& d) {
  return is_flame(d) ? d.flame.supply_voltage_v : d.tube.supply_voltage_v;
}

double form_loss(FlameForm form) {
  return form == FlameForm::plastic ? 4e-4 : form == FlameForm::ceramic ? 1e-4 : 0;
}

TubeCircuit flame_circuit(const Design& d, const Analysis& a) {
  const CoilCircuit& coil = a.circuit;
  if (!(coil.secondary_h > 0 && coil.secondary_f > 0 && coil.secondary_ohm > 0))
    throw std::invalid_argument(
        a.problem.empty() ? "the resonator is not known: enter the secondary, or its measured values" : a.problem);
  if (!(coil.primary_h > 0))
    throw std::invalid_argument("the plate coil is not known: enter the primary, or its measured values");
  const FlameCoil& f = d.flame;
  TubeCircuit c;
  c.wiring = TubeWiring::flame;
  c.law = tube_law(d.tube.tube);
  c.grid_cathode_f = d.tube.tube.grid_cathode_f;
  c.grid_plate_f = d.tube.tube.grid_plate_f;
  c.plate_cathode_f = d.tube.tube.plate_cathode_f;
  c.plate_h = coil.primary_h + lead_inductance_h(d.primary);
  c.plate_ohm = std::max(coil.primary_ohm, 1e-3);
  // A single-layer coil's own capacitance between its ends: Medhurst's table holds for one end at ground.
  const double diameter = 2 * d.primary.inner_radius_m, high = std::max(d.primary.pitch_m * d.primary.turns, 1e-3);
  c.tank_f = f.plate_self_f.value_or(medhurst_capacitance_f(high, diameter));
  double ohm = coil.secondary_ohm;
  if (!d.equivalent.secondary_resistance_ohm) // the coil at rest was given a plastic form
    ohm += 2 * std::numbers::pi * coil.resonance_hz * coil.secondary_h *
           (form_loss(f.form) - form_loss(FlameForm::plastic));
  c.modes = {{coil.secondary_h, coil.secondary_f, std::max(ohm, 1e-2), 0, 1}};
  c.feedback_f = f.feedback_f;
  c.grid_leak_ohm = f.grid_resistor_ohm;
  c.stopper_ohm = d.tube.grid_stopper_ohm;
  c.bypass_f = d.tube.bypass_f;
  c.arc = d.tube.arc;
  load_with(streamer_load(d, a, f.flame_f, f.flame_ohm), c);
  c.site = d.site;
  c.rise_s = d.tube.supply_rise_s;
  if (f.supply_voltage_v) {
    c.direct_v = f.supply_voltage_v;
  } else {
    if (const std::string problem = feed_problem(d.feed, FeedEnd::plate); !problem.empty())
      throw std::invalid_argument(problem);
    c.feed = d.feed;
  }
  return c;
}

TubeCircuit circuit_of(const Design& d, const Analysis& a, bool lumped) {
  return is_flame(d) ? flame_circuit(d, a) : tube_circuit(d, a, lumped);
}

FilamentPlan filament_plan(const Design& d) {
  const TubeOscillator& t = d.tube;
  const FilamentSupply& f = t.filament;
  FilamentPlan out;
  const double rated_v = t.tube.filament_v;
  out.amps = t.tube.filament_a * tube_count(d);
  const double hot = rated_v / out.amps, omega = 2 * std::numbers::pi * d.site.mains_frequency_hz;
  out.wanted_v = rated_v * (1 + f.wiring_ohm / hot);
  out.assumed = !f.open_v;
  const double open_v = f.open_v.value_or(rated_v / hot * std::hypot(hot + f.wiring_ohm, omega * f.series_h));
  const auto volts = [&](double henry) { return open_v * hot / std::hypot(hot + f.wiring_ohm, omega * henry); };
  out.volts = volts(f.series_h);
  out.off = out.assumed ? 0 : out.volts / rated_v - 1;
  out.cold_a = open_v / std::hypot(f.cold_ratio * hot + f.wiring_ohm + f.soft_ohm, omega * f.series_h);
  if (f.trial_v && f.trial_turns) {
    out.volts_per_turn = *f.trial_v / *f.trial_turns;
    out.turns = out.wanted_v / *out.volts_per_turn;
  }
  if (!out.assumed && volts(0) > rated_v) {
    const double whole = open_v / rated_v * hot, real = hot + f.wiring_ohm;
    out.series_h = std::sqrt(whole * whole - real * real) / omega;
  }
  constexpr double most = 2; // times the running current
  out.soft_ohm = std::max(0.0, open_v / (most * out.amps) - f.cold_ratio * hot - f.wiring_ohm);
  return out;
}

} // namespace arc
