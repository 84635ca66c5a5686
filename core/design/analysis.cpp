// The analysis: geometry -> magnetics and fields -> tank -> expectations -> bands -> findings.
#include "design/analysis.h"

#include "design/fields.h"
#include "design/finding_rules.h"
#include "design/geometry.h"
#include "design/tapped_primary.h"
#include "design/tolerance.h"
#include "design/validity.h"
#include "field/handbook.h"
#include "field/loss.h"
#include "field/tubing.h"
#include "kinds/kind.h"
#include "parts/bank.h"
#include "parts/topload.h"
#include "parts/wire.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

void analyse_winding(const Design& design, Analysis& out) {
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  out.secondary_inductance_h = solenoid_inductance_h(radius, coil.turns, coil.winding_length_m,
                                                     coil.wire_bare_diameter_m / 2, CurrentDistribution::uniform);
  out.secondary_inductance_estimate_h = wheeler_helix_h(radius, coil.turns, coil.winding_length_m);
  out.wire_length_m = helix_wire_length_m(2 * radius, coil.turns, coil.winding_length_m);
  out.wire_mass_kg = wire_mass_kg(coil.wire_bare_diameter_m, out.wire_length_m);
  out.secondary_resistance_ohm =
      wire_resistance_ohm(coil.wire_bare_diameter_m, out.wire_length_m, design.site.air_temperature_c);
  out.height_to_diameter = coil.winding_length_m / coil.form_diameter_m;
  out.packing = coil.turns * coil.wire_overall_diameter_m / coil.winding_length_m;
}

void analyse_resonator(const Design& design, UnitSystem units, Analysis& out) {
  out.estimate = lumped_resonator(design, out.secondary_inductance_h);
  out.problem = geometry_problem(design, units);
  if (!out.problem.empty()) return;
  try {
    out.resonator = field_resonator(design);
  } catch (const std::invalid_argument& refusal) {
    out.problem = refusal.what();
  }
}

double primary_estimate(const Primary& primary, const std::vector<Ring>& rings, double tap) {
  if (rings.empty()) return 0;
  const double angle =
      std::atan2(rings.back().height_m - rings.front().height_m, rings.back().radius_m - rings.front().radius_m);
  const double mean = (rings.front().radius_m + rings.back().radius_m) / 2;
  const double span = tap * primary.pitch_m;
  const double helix = wheeler_helix_h(mean, tap, std::max(span * std::sin(angle), primary.conductor_diameter_m));
  const double flat =
      wheeler_flat_spiral_h(mean, tap, std::max(span * std::cos(angle), primary.conductor_diameter_m));
  return cone_estimate_h(helix, flat, rings.size() > 1 ? angle : 0);
}

void analyse_primary(const Design& design, const TappedPrimary& model, Analysis& out) {
  const Primary& primary = design.primary;
  const double tap = used_turns(design);
  const auto rings = primary_rings(primary, tap);
  const double radius = secondary_mean_radius_m(design.secondary);
  const auto winding = solenoid_rings(radius, design.secondary.turns, design.secondary.winding_length_m,
                                      design.secondary.base_height_m);
  out.primary_inductance_h = model.inductance(tap);
  out.primary_inductance_estimate_h = primary_estimate(primary, rings, tap);
  out.lead_inductance_h = lead_inductance_h(primary);
  try {
    // Fewer filaments on long primaries keep the work in bounds; the figure moves by less than 0.2 %.
    const SkinCurrent skin = skin_current(rings, primary.conductor_diameter_m / 2,
                                          std::clamp(static_cast<int>(160 / rings.size()), 6, 12));
    out.primary_skin_h = skin.inductance_h;
    out.primary_crowding = skin.crowding;
  } catch (const std::invalid_argument&) {
    out.primary_skin_h = 0; // turns touch; a finding says so
  }
  out.mutual_inductance_h = coil_mutual_h(rings, winding);
  out.coupling = out.mutual_inductance_h / std::sqrt(out.primary_inductance_h * out.secondary_inductance_h);
  const auto all = primary_rings(primary, primary.turns);
  double innermost = all.front().radius_m;
  for (const Ring& ring : all) {
    innermost = std::min(innermost, ring.radius_m);
    out.primary_outer_radius_m = std::max(out.primary_outer_radius_m, ring.radius_m);
    out.primary_wire_length_m += ring.weight * 2 * std::numbers::pi * ring.radius_m;
  }
  const double winding_radius = design.secondary.form_diameter_m / 2 + design.secondary.wire_overall_diameter_m;
  out.primary_clearance_m = innermost - primary.conductor_diameter_m / 2 - winding_radius;
  out.primary_outer_radius_m += primary.conductor_diameter_m / 2;
}

} // namespace

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

double top_voltage_v(const Analysis& analysis) {
  return analysis.breakout ? std::min(analysis.breakout->voltage_v, analysis.top_voltage_limit_v)
                           : analysis.top_voltage_limit_v;
}

std::optional<double> tap_for_frequency(const Design& design, double capacitance_f, double wanted_hz) {
  return tap_for(TappedPrimary(design.primary), design.primary, capacitance_f, wanted_hz);
}

namespace {

// Form loss: a few per cent of the field in plastic with a loss factor of about 0.01 (assumption, common practice).
constexpr double form_loss = 4e-4;

void analyse_loss(const Design& design, Analysis& out) {
  if (!out.resonator) return;
  const Secondary& coil = design.secondary;
  const ResonatorResult& r = *out.resonator;
  const double omega = 2 * std::numbers::pi * r.mode_1_hz;
  out.skin_depth_m = skin_depth_m(r.mode_1_hz, design.site.air_temperature_c);
  out.winding_resistance_ohm =
      out.secondary_resistance_ohm *
      winding_resistance_ratio(coil.wire_bare_diameter_m, coil.winding_length_m / coil.turns,
                               coil.winding_length_m / (2 * secondary_mean_radius_m(coil)), r.mode_1_hz,
                               design.site.air_temperature_c);
  // For 1 V at the top: energy C/2, base current w Ces.
  const double base_current = omega * r.effective_capacitance_f;
  const double winding_loss = out.winding_resistance_ohm * r.mean_square_current * base_current * base_current;
  const double ground_loss = design.site.ground_resistance_ohm * base_current * base_current;
  const double stored = omega * r.energy_capacitance_f;
  out.winding_q = stored / winding_loss;
  out.quality_estimate = stored / (winding_loss + ground_loss + form_loss * stored);
  out.quality_factor = out.quality_estimate;
  for (const Measurement& m : design.measurements)
    if (m.kind == "ring-down") out.quality_factor = m.quality_factor;
}

void analyse_breakout(const Design& design, Analysis& out) {
  if (!out.resonator) return;
  out.breakout = find_breakout(design, *out.resonator);
}

// The circuit of the coil: measured where it was measured, computed elsewhere.
void make_circuit(const Design& design, Analysis& out) {
  CoilCircuit& c = out.circuit;
  const Equivalent& measured = design.equivalent;
  const auto take = [&](double& into, const std::optional<double>& value, double computed, const char* name) {
    into = value.value_or(computed);
    if (value) c.measured.emplace_back(name);
  };
  const ResonatorResult* r = out.resonator ? &*out.resonator : nullptr;
  take(c.secondary_h, measured.secondary_inductance_h, r ? r->effective_inductance_h : 0, "resonator's inductance");
  take(c.secondary_f, measured.secondary_capacitance_f, r ? r->effective_capacitance_f : 0,
       "resonator's capacitance");
  const bool resonates = c.secondary_h > 0 && c.secondary_f > 0;
  c.resonance_hz = resonates ? resonance_hz(c.secondary_h, c.secondary_f) : 0;
  const double omega = 2 * std::numbers::pi * c.resonance_hz;
  take(c.secondary_ohm, measured.secondary_resistance_ohm,
       out.quality_factor > 0 ? omega * c.secondary_h / out.quality_factor : 0, "resonator's resistance");
  take(c.primary_h, measured.primary_inductance_h, out.primary_inductance_h, "primary's inductance");
  take(c.primary_ohm, measured.primary_resistance_ohm,
       out.has_primary && resonates ? primary_resistance_ohm(design, out, c.resonance_hz) : 0,
       "primary's resistance");
  take(c.coupling, measured.coupling, out.coupling, "coupling");
}

// What is given of a design, and what its kind needs besides.
void see_what_is_given(const Design& design, Analysis& out) {
  const CoilKind& kind = kind_of(design);
  out.has_winding = given(design, "secondary");
  // Without a clip the whole primary counts, wherever the clip would stand.
  const auto needed = still_needed(design, "primary");
  out.has_primary =
      out.has_winding &&
      (needed.empty() || (!kind.clip && needed.size() == 1 && design.absent.contains("primary.tap_turns")));
  out.has_tank = kind.tank && given(design, "tank");
}

} // namespace

bool CoilCircuit::complete() const {
  return primary_h > 0 && coupling > 0 && secondary_h > 0 && secondary_f > 0 && secondary_ohm > 0;
}

Analysis analyse_untried(const Design& design, UnitSystem units, bool bands) {
  Analysis out;
  see_what_is_given(design, out);
  const auto wrong = numbers_out_of_range(design);
  if (!wrong.empty())
    out.problem = wrong.front().text(units);
  else if (out.has_winding)
    out.problem = conductor_problem(design, units);
  if (!out.problem.empty()) {
    out.findings = wrong.empty() ? find_all(design, out, units) : range_findings(wrong, units);
    return out;
  }
  if (!out.has_winding) {
    out.problem = "the secondary is not given yet";
    make_circuit(design, out);
    out.findings = find_all(design, out, units);
    return out;
  }
  out.computed = true;
  analyse_winding(design, out);
  analyse_resonator(design, units, out);
  std::optional<TappedPrimary> primary;
  if (out.has_primary) {
    primary.emplace(design.primary);
    analyse_primary(design, *primary, out);
  }
  analyse_loss(design, out);
  analyse_breakout(design, out);
  make_circuit(design, out);
  kind_of(design).analyse(design, primary ? &*primary : nullptr, out);
  if (out.resonator) {
    out.turn_voltage_v = top_voltage_v(out) * out.resonator->steepest_turn_voltage;
    out.best_mode_1_hz = out.resonator->mode_1_hz; // until evidence says better
    if (bands) propagate_tolerances(design, out);
  }
  out.findings = find_all(design, out, units);
  return out;
}

Analysis analyse(const Design& design, UnitSystem units) {
  Analysis out = analyse_untried(design, units, true);
  if (!out.computed) return out; // the remedy is the nearest number in range: there is nothing to try it against
  keep_tried_remedies(design, out.findings,
                      [&](const Design& changed) { return analyse_untried(changed, units, false).findings; });
  return out;
}

} // namespace arc
