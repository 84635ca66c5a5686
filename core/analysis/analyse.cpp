// The analysis: geometry -> magnetics and fields -> tank -> expectations -> bands -> findings.
#include "analysis/analyse.h"

#include "analysis/findings.h"
#include "coil/geometry.h"
#include "coil/tapped_primary.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "evidence/tolerance.h"
#include "field/handbook.h"
#include "field/loss.h"
#include "file/validity.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "parts/topload.h"
#include "parts/wire.h"
#include "quantity/parallel.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

void analyse_winding(const Design& design, Kept& kept, Analysis& out) {
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  out.secondary_inductance_h = winding_inductance_h(kept, coil);
  out.secondary_inductance_estimate_h = wheeler_helix_h(radius, coil.turns, coil.winding_length_m);
  out.wire_length_m = helix_wire_length_m(2 * radius, coil.turns, coil.winding_length_m);
  out.wire_mass_kg = wire_mass_kg(coil.wire_bare_diameter_m, out.wire_length_m);
  out.secondary_resistance_ohm =
      wire_resistance_ohm(coil.wire_bare_diameter_m, out.wire_length_m, design.site.air_temperature_c);
  out.height_to_diameter = coil.winding_length_m / coil.form_diameter_m;
  out.packing = coil.turns * coil.wire_overall_diameter_m / coil.winding_length_m;
}

void analyse_resonator(const Design& design, Kept& kept, Analysis& out) {
  out.estimate = lumped_resonator(design, out.secondary_inductance_h);
  if (!out.problem.empty()) return;
  try {
    out.resonator = *field_resonator(kept, design);
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

void analyse_primary(const Design& design, const TappedPrimary& model, Kept& kept, Analysis& out) {
  const Primary& primary = design.primary;
  const double tap = used_turns(design);
  const auto rings = primary_rings(primary, tap);
  const auto used = used_primary(kept, primary, tap, design.secondary);
  out.primary_inductance_h = model.inductance(tap);
  out.primary_inductance_estimate_h = primary_estimate(primary, rings, tap);
  out.lead_inductance_h = lead_inductance_h(primary);
  if (used->skin) {
    out.primary_skin_h = used->skin->inductance_h;
    out.primary_crowding = used->skin->crowding;
  }
  out.turn_mutual_h = {used, &used->turn_mutual_h};
  out.mutual_inductance_h = used->mutual_h;
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
  out.coupling = out.mutual_inductance_h / std::sqrt(out.primary_inductance_h * out.secondary_inductance_h);
  const bool crosses = out.primary_clearance_m <= 0 && !out.problem.empty();
  if (crosses || out.coupling >= 1) { // rings that lie in each other: no coils couple so, and none is claimed
    out.coupling = out.mutual_inductance_h = 0;
    out.turn_mutual_h.reset();
  }
}

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

// The slow steps of an analysis with bands, which know nothing of each other, side by side; what follows takes them
// over.
void compute_ahead(const Design& design, bool has_primary, Kept& kept) {
  std::vector<FieldStep> steps = band_steps(design);
  steps.insert(steps.begin(), field_step(design)); // the longest first
  parallel_for(steps.size() + (has_primary ? 2 : 1), [&](std::size_t i) {
    try {
      if (i == 1)
        isolated_topload_f(kept, steps.front());
      else if (i <= steps.size())
        field_resonator(kept, steps[i == 0 ? 0 : i - 1]);
      else
        used_primary(kept, design.primary, used_turns(design), design.secondary);
    } catch (const std::invalid_argument&) { // said where it is needed
    }
  });
}

} // namespace

Analysis analyse_untried(const Design& design, UnitSystem units, bool bands, Kept& kept) {
  Analysis out;
  see_what_is_given(design, out);
  const auto wrong = numbers_out_of_range(design);
  if (!wrong.empty())
    out.problem = wrong.front().text(units);
  else if (out.has_winding)
    out.problem = conductor_problem(design, units);
  if (!out.problem.empty()) {
    out.findings = wrong.empty() ? find_all(design, out, units) : range_findings(kind_of(design), wrong, units);
    return out;
  }
  if (!out.has_winding) {
    out.problem = "the secondary is not given yet";
    make_circuit(design, out);
    out.findings = find_all(design, out, units);
    return out;
  }
  out.computed = true;
  out.problem = geometry_problem(design, units);
  if (bands && out.problem.empty()) compute_ahead(design, out.has_primary, kept);
  analyse_winding(design, kept, out);
  analyse_resonator(design, kept, out);
  std::shared_ptr<const TappedPrimary> primary;
  if (out.has_primary) {
    primary = tapped_primary(kept, design.primary);
    analyse_primary(design, *primary, kept, out);
  }
  analyse_loss(design, out);
  analyse_breakout(design, out);
  make_circuit(design, out);
  kind_of(design).analyse(design, primary.get(), out);
  if (out.resonator) {
    out.turn_voltage_v = top_voltage_v(out) * out.resonator->steepest_turn_voltage;
    out.best_mode_1_hz = out.resonator->mode_1_hz; // until evidence says better
    if (bands) propagate_tolerances(design, out, kept);
  }
  out.findings = find_all(design, out, units);
  return out;
}

Analysis analyse(const Design& design, UnitSystem units, Kept& kept) {
  Analysis out = analyse_untried(design, units, true, kept);
  if (!out.computed) return out; // the remedy is the nearest number in range: there is nothing to try it against
  keep_tried_remedies(
      design, out.findings,
      [&](const Design& changed) { return analyse_untried(changed, units, false, kept).findings; }, kept);
  return out;
}

Analysis analyse(const Design& design, UnitSystem units) {
  Kept kept;
  return analyse(design, units, kept);
}

} // namespace arc
