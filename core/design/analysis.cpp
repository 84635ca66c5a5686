// The analysis: geometry -> magnetics and fields -> tank -> expectations -> bands -> findings.
#include "design/analysis.h"

#include "design/finding_rules.h"
#include "design/geometry.h"
#include "design/tolerance.h"
#include "design/validity.h"
#include "field/handbook.h"
#include "field/loss.h"
#include "field/tubing.h"
#include "parts/bank.h"
#include "parts/topload.h"
#include "parts/wire.h"

#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

// Inductance of a primary up to any clip position. Full turns are summed once; a partial turn is one ring at the
// middle of its span, weighted.
class TappedPrimary {
 public:
  explicit TappedPrimary(const Primary& primary)
      : primary_(primary), wire_radius_(primary.conductor_diameter_m / 2) {
    const auto whole = std::floor(primary.turns + 1e-9);
    rings_ = primary_rings(primary, std::max(whole, 0.0));
    cumulative_.push_back(0);
    for (std::size_t j = 0; j < rings_.size(); ++j) {
      double row = ring_self_h(rings_[j].radius_m, wire_radius_, CurrentDistribution::skin);
      for (std::size_t i = 0; i < j; ++i) row += 2 * mutual(rings_[i], rings_[j]);
      cumulative_.push_back(cumulative_.back() + row);
    }
  }

  double inductance(double tap) const {
    const double turns = std::clamp(tap, 0.0, primary_.turns);
    const auto whole = std::min(static_cast<std::size_t>(turns + 1e-9), rings_.size());
    double total = cumulative_[whole];
    const double part = turns - static_cast<double>(whole);
    if (part < 1e-9) return total;
    const Ring last = primary_rings(primary_, turns).back();
    total += part * part * ring_self_h(last.radius_m, wire_radius_, CurrentDistribution::skin);
    for (std::size_t i = 0; i < whole; ++i) total += 2 * part * mutual(rings_[i], last);
    return total;
  }

 private:
  static double mutual(const Ring& a, const Ring& b) {
    return ring_mutual_h(a.radius_m, b.radius_m, a.height_m - b.height_m);
  }

  const Primary& primary_;
  double wire_radius_;
  std::vector<Ring> rings_;
  std::vector<double> cumulative_;
};

std::optional<double> tap_for(const TappedPrimary& model, const Primary& primary, double capacitance, double hz) {
  const double wanted = 1 / (std::pow(2 * std::numbers::pi * hz, 2) * capacitance) - lead_inductance_h(primary);
  const auto miss = [&](double turns) { return model.inductance(turns) - wanted; };
  if (!(wanted > 0) || miss(primary.turns) < 0) return std::nullopt;
  constexpr double least = 0.05; // as little as a clip can be set to
  if (miss(least) > 0) return std::nullopt;
  std::uintmax_t steps = 100;
  const auto bracket = boost::math::tools::toms748_solve(
      miss, least, primary.turns, [](double a, double b) { return b - a < 1e-7; }, steps);
  return (bracket.first + bracket.second) / 2;
}

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
  const double tap = std::min(primary.tap_turns, primary.turns);
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

// Latest measurement of a kind; nullptr when there is none.
const Measurement* latest(const Design& design, std::string_view kind) {
  const auto it = std::find_if(design.measurements.rbegin(), design.measurements.rend(),
                               [&](const Measurement& m) { return m.kind == kind; });
  return it == design.measurements.rend() ? nullptr : &*it;
}

void choose_target(const Design& design, Analysis& out) {
  if (!out.resonator) return;
  double silent = out.resonator->mode_1_hz;
  out.target_source = "the computed resonance";
  if (const Measurement* measured = latest(design, "coil-with-topload")) {
    silent = measured->frequency_hz;
    out.target_source = "the measured resonance";
  }
  const double loading = (out.loaded_hz.low + out.loaded_hz.high) / 2 / out.resonator->mode_1_hz;
  out.target_hz = silent;
  if (design.tune_target == TuneTarget::loaded_coil) {
    out.target_hz = silent * loading;
    out.target_source += ", pulled down by streamers";
  }
}

void analyse_expectations(const Design& design, Analysis& out) {
  // Arc length 1.7 inch x sqrt(W) is the upper trend (common practice, no source); everyday coils reach 60 % of it.
  out.power_w = out.stored_energy_j * design.gap.break_rate_hz;
  const double longest = 1.7 * 0.0254 * std::sqrt(out.power_w);
  out.expected_arc_m = {0.6 * longest, longest};
  if (!out.resonator) return;
  // Streamer capacitance about 1 pF for each 0.3 m (common practice, no source); half of it when just breaking out.
  const double own = out.resonator->effective_capacitance_f;
  const auto pulled = [&](double arc_m, double part) {
    return out.resonator->mode_1_hz * std::sqrt(own / (own + part * arc_m / 0.3 * 1e-12));
  };
  out.loaded_hz = {pulled(out.expected_arc_m.high, 1), pulled(out.expected_arc_m.low, 0.5)};
  out.top_voltage_limit_v = design.gap.firing_voltage_v * std::sqrt(out.tank_capacitance_f / own);
}

void analyse_tank(const Design& design, const TappedPrimary& model, Analysis& out) {
  const Primary& primary = design.primary;
  out.tank_capacitance_f = tank_capacitance_f(design.tank);
  const double loop = out.primary_inductance_h + out.lead_inductance_h;
  out.tank_hz = resonance_hz(loop, out.tank_capacitance_f);
  const int quarters = std::min(400, static_cast<int>(std::floor(primary.turns * 4 + 1e-9)));
  for (int q = 2; q <= quarters; ++q) {
    const double l = model.inductance(q / 4.0) + out.lead_inductance_h;
    out.tap_curve.push_back({q / 4.0, l, resonance_hz(l, out.tank_capacitance_f)});
  }
  const double v = design.gap.firing_voltage_v;
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

// Shortest way from the topload's rim (or the winding's top turn) to the outermost primary turn.
std::optional<double> strike_distance(const Design& design, const Analysis& out) {
  const double top = design.secondary.base_height_m + design.secondary.winding_length_m;
  double best = std::hypot(out.primary_outer_radius_m - secondary_mean_radius_m(design.secondary),
                           top - design.primary.base_height_m);
  bool any = false;
  const auto rings = primary_rings(design.primary, design.primary.turns);
  for (const ToploadPart& part : design.topload)
    if (const ToploadShape* shape = topload_shape(part.shape))
      for (const OutlinePoint& point : shape->outline(part, 24))
        for (const Ring& ring : {rings.front(), rings.back()}) {
          const double d = std::hypot(point.radius_m - ring.radius_m, top + point.height_m - ring.height_m);
          best = any ? std::min(best, d) : d;
          any = true;
        }
  return best - design.primary.conductor_diameter_m / 2;
}

} // namespace

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
  out.turn_voltage_v = top_voltage_v(out) * out.resonator->steepest_turn_voltage;
}

// Mean fields across the air that must hold: topload to primary, and winding to primary at every height.
void analyse_stand_off(const Design& design, Analysis& out) {
  out.strike_distance_m = strike_distance(design, out);
  if (!out.resonator) return;
  const double top = top_voltage_v(out);
  if (*out.strike_distance_m > 0) out.strike_field_v_per_m = top / *out.strike_distance_m;
  const double wire = secondary_mean_radius_m(design.secondary) + design.secondary.wire_bare_diameter_m / 2;
  for (const ProfilePoint& point : out.resonator->profile)
    for (const Ring& ring : primary_rings(design.primary, design.primary.turns)) {
      const double across = ring.height_m - point.height_m, conductor = design.primary.conductor_diameter_m / 2;
      const double distance = std::hypot(ring.radius_m - wire, across) - conductor;
      if (distance <= 0) continue;
      const double voltage = std::abs(point.voltage) * top + design.gap.firing_voltage_v;
      out.primary_field_v_per_m = std::max(out.primary_field_v_per_m, voltage / distance);
      const double needed = voltage / winding_field_limit_v_per_m + conductor;
      if (needed > std::abs(across))
        out.primary_widen_m =
            std::max(out.primary_widen_m, std::sqrt(needed * needed - across * across) - (ring.radius_m - wire));
    }
}

} // namespace

Analysis analyse_untried(const Design& design, UnitSystem units, bool bands) {
  Analysis out;
  const auto wrong = numbers_out_of_range(design);
  if (!wrong.empty())
    out.problem = wrong.front().text(units);
  else
    out.problem = conductor_problem(design, units);
  if (!out.problem.empty()) {
    out.findings = wrong.empty() ? find_all(design, out, units) : range_findings(wrong, units);
    return out;
  }
  out.computed = true;
  const TappedPrimary model(design.primary);
  analyse_winding(design, out);
  analyse_resonator(design, units, out);
  analyse_primary(design, model, out);
  analyse_tank(design, model, out);
  analyse_expectations(design, out);
  choose_target(design, out);
  analyse_loss(design, out);
  analyse_breakout(design, out);
  if (out.target_hz > 0) {
    out.tuned_tap_turns = tap_for(model, design.primary, out.tank_capacitance_f, out.target_hz);
    out.tuned_capacitance_f =
        resonating_capacitance_f(out.primary_inductance_h + out.lead_inductance_h, out.target_hz);
  }
  analyse_stand_off(design, out);
  if (out.resonator) out.best_mode_1_hz = out.resonator->mode_1_hz; // until evidence says better
  if (out.resonator && bands) propagate_tolerances(design, out);
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
