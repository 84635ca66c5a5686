// Tolerance propagation and what measurements add to it.
#include "evidence/tolerance.h"

#include "coil/tapped_primary.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "evidence/tuning.h"
#include "parts/bank.h"
#include "parts/topload.h"
#include "parts/wire.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace arc {
namespace {

// The main results from a coarse model: good for differences, not for values.
struct Outputs {
  double secondary_h, mode_hz, effective_h, effective_f, in_place_f, primary_h, mutual_h, coupling, tank_hz,
      wire_ohm, wire_kg;
};

struct Named {
  const char* key;
  double Outputs::*member;
  double (*value)(const Analysis&); // of the full model
};
constexpr std::array<Named, 11> named{
    {{"secondary_inductance_h", &Outputs::secondary_h, [](const Analysis& a) { return a.secondary_inductance_h; }},
     {"mode_1_hz", &Outputs::mode_hz, [](const Analysis& a) { return a.resonator->mode_1_hz; }},
     {"effective_inductance_h", &Outputs::effective_h,
      [](const Analysis& a) { return a.resonator->effective_inductance_h; }},
     {"effective_capacitance_f", &Outputs::effective_f,
      [](const Analysis& a) { return a.resonator->effective_capacitance_f; }},
     {"topload_in_place_capacitance_f", &Outputs::in_place_f,
      [](const Analysis& a) { return a.resonator->topload_in_place_f; }},
     {"primary_inductance_h", &Outputs::primary_h, [](const Analysis& a) { return a.primary_inductance_h; }},
     {"mutual_inductance_h", &Outputs::mutual_h, [](const Analysis& a) { return a.mutual_inductance_h; }},
     {"coupling", &Outputs::coupling, [](const Analysis& a) { return a.coupling; }},
     {"tank_hz", &Outputs::tank_hz, [](const Analysis& a) { return a.tank_hz; }},
     {"secondary_resistance_ohm", &Outputs::wire_ohm, [](const Analysis& a) { return a.secondary_resistance_ohm; }},
     {"wire_mass_kg", &Outputs::wire_kg, [](const Analysis& a) { return a.wire_mass_kg; }}}};

constexpr FieldResolution coarse_cutting{20, 14, true};

double primary_at_clip_h(Kept& kept, const Design& design) {
  return tapped_primary(kept, design.primary)->inductance(used_turns(design));
}

Outputs coarse(const Design& design, const ResonatorResult& field, double primary_h, Kept& kept) {
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  Outputs out{};
  out.secondary_h = winding_inductance_h(kept, coil);
  out.mode_hz = field.mode_1_hz;
  out.effective_h = field.effective_inductance_h;
  out.effective_f = field.effective_capacitance_f;
  out.in_place_f = field.topload_in_place_f;
  out.primary_h = primary_h;
  out.mutual_h = coarse_mutual_h(kept, design.primary, used_turns(design), coil);
  out.coupling = out.mutual_h / std::sqrt(out.primary_h * out.secondary_h);
  const double wire_m = helix_wire_length_m(2 * radius, coil.turns, coil.winding_length_m);
  out.wire_ohm = wire_resistance_ohm(coil.wire_bare_diameter_m, wire_m, design.site.air_temperature_c);
  out.wire_kg = wire_mass_kg(coil.wire_bare_diameter_m, wire_m);
  out.tank_hz = resonance_hz(out.primary_h + lead_inductance_h(design.primary), tank_capacitance_f(design.tank));
  return out;
}

constexpr std::array shared_inputs{
    ToleranceInput{.key = "form_diameter",
                   .label = "form diameter",
                   .advice = "measure the form with calipers in two directions",
                   .relative = true,
                   .standard = 0.005,
                   .nudge = [](Design& d, double t) { d.secondary.form_diameter_m *= 1 + t; },
                   .moves_field = true},
    ToleranceInput{.key = "turns",
                   .label = "turn count",
                   .advice = "count the turns, or weigh the wire",
                   .relative = true,
                   .standard = 0.01,
                   .nudge = [](Design& d, double t) { d.secondary.turns *= 1 + t; },
                   .moves_field = true},
    ToleranceInput{.key = "wire",
                   .label = "wire diameter",
                   .advice = "measure the bare wire with a micrometer, or weigh the winding",
                   .relative = true,
                   .standard = 0.01,
                   .nudge = [](Design& d, double t) { d.secondary.wire_bare_diameter_m *= 1 + t; }},
    ToleranceInput{.key = "winding_length",
                   .label = "winding length",
                   .advice = "measure the winding again",
                   .standard = 0.001,
                   .nudge = [](Design& d, double t) { d.secondary.winding_length_m += t; },
                   .moves_field = true},
    ToleranceInput{.key = "base_height",
                   .label = "base height",
                   .advice = "measure the height above the floor",
                   .standard = 0.001,
                   .nudge =
                       [](Design& d, double t) {
                         d.secondary.base_height_m += t;
                         d.primary.base_height_m += t;
                       },
                   .moves_field = true},
    ToleranceInput{.key = "topload_size",
                   .label = "topload size",
                   .advice = "measure the topload's diameters",
                   .relative = true,
                   .standard = 0.01,
                   .nudge =
                       [](Design& d, double t) {
                         for (ToploadPart& part : d.topload)
                           if (const ToploadShape* shape = topload_shape(part.shape))
                             for (const ToploadLength& length : shape->lengths) part.*length.member *= 1 + t;
                       },
                   .moves_field = true},
    ToleranceInput{.key = "topload_height",
                   .label = "topload height",
                   .advice = "measure the topload's height above the last turn",
                   .standard = 0.002,
                   .nudge =
                       [](Design& d, double t) {
                         for (ToploadPart& part : d.topload) part.centre_above_winding_m += t;
                       },
                   .moves_field = true},
    ToleranceInput{.key = "primary_radius",
                   .label = "primary radius",
                   .advice = "measure the primary's inner radius",
                   .standard = 0.001,
                   .nudge = [](Design& d, double t) { d.primary.inner_radius_m += t; },
                   .moves_primary = true},
    ToleranceInput{.key = "primary_pitch",
                   .label = "primary pitch",
                   .advice = "measure across all primary turns",
                   .relative = true,
                   .standard = 0.01,
                   .nudge = [](Design& d, double t) { d.primary.pitch_m *= 1 + t; },
                   .moves_primary = true},
    ToleranceInput{.key = "primary_height",
                   .label = "primary height",
                   .advice = "measure the primary's height against the winding",
                   .standard = 0.001,
                   .nudge = [](Design& d, double t) { d.primary.base_height_m += t; }},
    ToleranceInput{.key = "clip",
                   .label = "tap position",
                   .advice = "mark the quarter turns on the primary",
                   .standard = 0.02,
                   .nudge = [](Design& d, double t) { d.primary.tap_turns -= t; },
                   .moves_primary = true},
    ToleranceInput{.key = "tank",
                   .label = "tank capacitance",
                   .advice = "measure the capacitors, discharged and out of the circuit",
                   .relative = true,
                   .standard = 0.05,
                   .nudge = [](Design& d, double t) { scale_tank(d.tank, 1 + t); }},
};

} // namespace

std::span<const ToleranceInput> tolerance_inputs() {
  static const auto all = with_rows_of_kinds<ToleranceInput>(shared_inputs, &CoilKind::tolerances);
  return all;
}

namespace {

// Whether what was moved is still in its range: numbers, lengths of the topload, sections of the tank.
bool still_in_range(const Design& before, const Design& design) {
  const auto inside = [](Dimension dimension, double value, double low, double high) {
    return range_problem({}, dimension, value, low, high).empty();
  };
  for (const FieldSpec& field : design_fields())
    if (const auto value = field.get(design);
        value && value != field.get(before) && !range_problem(field, *value).empty())
      return false;
  for (const ToploadPart& part : design.topload) {
    if (!inside(Dimension::length, part.centre_above_winding_m, -most_topload_length_m, most_topload_length_m))
      return false;
    if (const ToploadShape* shape = topload_shape(part.shape))
      for (const ToploadLength& length : shape->lengths)
        if (!inside(Dimension::length, part.*length.member, least_topload_length_m, most_topload_length_m))
          return false;
  }
  for (const BankSection& section : design.tank.sections)
    for (const SectionNumber& number : section_numbers())
      if (const auto value = number.get(section);
          value && !inside(number.dimension, *value, number.minimum, number.maximum))
        return false;
  return true;
}

// The design with one input off by its tolerance; the other way where that leaves its range (`sign` then is -1; 0
// when both ways do).
Design nudged_inside(const Design& design, const ToleranceInput& input, double& sign) {
  for (const double way : {1.0, -1.0}) {
    Design nudged = design;
    input.nudge(nudged, way * tolerance_of(design, input));
    sign = way;
    if (still_in_range(design, nudged)) return nudged;
  }
  sign = 0;
  return design;
}

// Relative change for one tolerance, as a logarithm: results then stay above zero however far they move.
double log_change(double moved, double middle) {
  return moved > 0 && middle > 0 && std::isfinite(moved) ? std::log(moved / middle) : 0;
}

// Covariance of the inputs, in units of their tolerances, with the model's own error of the frequency as one more.
struct Belief {
  Eigen::VectorXd shift;
  Eigen::MatrixXd covariance;
};

Eigen::Index model() {
  return static_cast<Eigen::Index>(tolerance_inputs().size());
}

// Weighted least squares, one measurement after the other (the order does not matter for independent errors).
void learn(Belief& belief, const Eigen::VectorXd& slope, double surprise, double error) {
  const Eigen::VectorXd gain_top = belief.covariance * slope;
  const double variance = slope.dot(gain_top) + error * error;
  const double residual = surprise - slope.dot(belief.shift);
  belief.shift += gain_top * (residual / variance);
  belief.covariance -= gain_top * gain_top.transpose() / variance;
}

} // namespace

double tolerance_of(const Design& design, const ToleranceInput& input) {
  const auto it = design.tolerances.find(std::string(input.key));
  return it == design.tolerances.end() ? input.standard : it->second;
}

struct BandSlopes {
  std::map<std::string, Eigen::VectorXd, std::less<>> of; // relative change for one tolerance of each input
  double model_error = 0;                                 // relative, of the frequency
};

namespace {

std::vector<double> to_list(const Eigen::VectorXd& v) {
  return {v.begin(), v.end()};
}

// How each banded result moves with each input, from the coarse model; what an input does not touch is taken over.
// Empty when a nudge makes bodies touch: no bands rather than wrong ones.
std::optional<BandSlopes> find_slopes(const Design& design, Analysis& analysis, Kept& kept) {
  std::vector<Outputs> moved(tolerance_inputs().size());
  std::vector<double> signs(tolerance_inputs().size());
  Outputs middle{};
  const double primary = primary_at_clip_h(kept, design);
  try {
    const auto field = field_resonator(kept, design, coarse_cutting);
    middle = coarse(design, *field, primary, kept);
    for (std::size_t i = 0; i < tolerance_inputs().size(); ++i) {
      const Design nudged = nudged_inside(design, tolerance_inputs()[i], signs[i]);
      moved[i] = coarse(nudged,
                        tolerance_inputs()[i].moves_field ? *field_resonator(kept, nudged, coarse_cutting) : *field,
                        tolerance_inputs()[i].moves_primary ? primary_at_clip_h(kept, nudged) : primary, kept);
    }
  } catch (const std::invalid_argument&) {
    return {};
  }
  // Four times fewer pieces: at first order, the fine cutting is off by a third of the difference at most.
  analysis.resonator->cutting_error = std::abs(middle.mode_hz / analysis.resonator->mode_1_hz - 1) / 3;
  BandSlopes out;
  out.model_error = analysis.resonator->relative_accuracy;
  for (const Named& result : named) {
    Eigen::VectorXd slope = Eigen::VectorXd::Zero(model() + 1);
    for (std::size_t i = 0; i < tolerance_inputs().size(); ++i)
      slope(static_cast<Eigen::Index>(i)) = signs[i] * log_change(moved[i].*result.member, middle.*result.member);
    out.of[result.key] = slope;
  }
  out.of["mode_1_hz"](model()) = out.model_error;
  return out;
}

struct Weighed { // a measurement against what the inputs say
  std::size_t place;
  Eigen::VectorXd slope;
  double surprise, own;
  bool fits;
};

// Of one that does not fit: by how much a gross error of each input could still move what was measured, given what
// the measurements that fit say of that input; largest first. Stands among the influences under "evidence" and its
// place.
void find_left_open(const Weighed& odd, const std::vector<Weighed>& all, double measured, Analysis& analysis) {
  constexpr double gross = 20; // of an input's tolerance: a slip, not a band
  std::vector<Influence> open;
  for (std::size_t i = 0; i < tolerance_inputs().size(); ++i) {
    const auto k = static_cast<Eigen::Index>(i);
    if (odd.slope(k) == 0) continue;
    Belief others{Eigen::VectorXd::Zero(model() + 1), Eigen::MatrixXd::Identity(model() + 1, model() + 1)};
    others.covariance(k, k) = gross * gross;
    for (const Weighed& w : all)
      if (w.fits) learn(others, w.slope, w.surprise, w.own);
    open.push_back({std::string(tolerance_inputs()[i].label),
                    std::abs(odd.slope(k)) * std::sqrt(std::max(0.0, others.covariance(k, k))) * measured});
  }
  std::ranges::sort(open, std::greater{}, &Influence::change);
  analysis.influences[fmt::format("evidence {}", odd.place)] = std::move(open);
}

// What each measurement adds to what the inputs' tolerances say.
Belief weigh_evidence(const Design& design, const BandSlopes& slopes, Kept& kept, Analysis& analysis) {
  Belief belief{Eigen::VectorXd::Zero(model() + 1), Eigen::MatrixXd::Identity(model() + 1, model() + 1)};
  const Expecting expecting(design, analysis, slopes, kept);
  std::vector<Weighed> all;
  for (const Measurement& m : design.measurements) {
    const MeasurementKind& kind = *measurement_kind(m.kind); // a design never holds one that is not known
    Expectation e;
    try {
      e = kind.expect(expecting, m);
    } catch (const std::invalid_argument&) { // as it stood, it cannot be computed: nothing to compare with
    }
    if (!(e.expected > 0) || !std::isfinite(e.expected)) {
      analysis.evidence.push_back({0, 0, false});
      continue;
    }
    e.slope.resize(static_cast<std::size_t>(model() + 1), 0.0);
    const auto slope = Eigen::Map<const Eigen::VectorXd>(e.slope.data(), model() + 1);
    const double surprise = std::log(m.*kind.value.member / e.expected);
    const double own = std::hypot(kind.accuracy, e.own_error);
    const double misfit = surprise / std::hypot(slope.norm(), own);
    const bool used = std::abs(misfit) <= largest_used_misfit;
    analysis.evidence.push_back({e.expected, misfit, used});
    if (used) learn(belief, slope, surprise, own);
    constexpr double strange = 3; // standard deviations
    all.push_back({analysis.evidence.size() - 1, slope, surprise, own, std::abs(misfit) <= strange});
  }
  for (const Weighed& odd : all)
    if (!odd.fits) {
      const Measurement& m = design.measurements[odd.place];
      find_left_open(odd, all, m.*measurement_kind(m.kind)->value.member, analysis);
    }
  return belief;
}

void fill_bands(const BandSlopes& slopes, Analysis& analysis) {
  for (const Named& result : named) {
    const std::string key = result.key;
    const Eigen::VectorXd& slope = slopes.of.at(key);
    const double value = result.value(analysis);
    analysis.band[key] = slope.norm() * value;
    std::vector<Influence> shares;
    for (std::size_t i = 0; i < tolerance_inputs().size(); ++i)
      if (const double change = slope(static_cast<Eigen::Index>(i)) * value; change != 0)
        shares.push_back({std::string(tolerance_inputs()[i].label), change});
    std::ranges::sort(
        shares, [](const Influence& a, const Influence& b) { return std::abs(a.change) > std::abs(b.change); });
    analysis.influences[key] = std::move(shares);
  }
}

// The resonance after all evidence, and the input whose exact knowledge would narrow its band most.
void conclude(const Belief& belief, const Eigen::VectorXd& mode_slope, Analysis& analysis) {
  const double computed_hz = analysis.resonator->mode_1_hz;
  analysis.best_mode_1_hz = computed_hz * std::exp(mode_slope.dot(belief.shift));
  const double now = std::sqrt(mode_slope.dot(belief.covariance * mode_slope));
  analysis.band["best_mode_1_hz"] = now * analysis.best_mode_1_hz;
  for (std::size_t i = 0; i < tolerance_inputs().size(); ++i) {
    const auto k = static_cast<Eigen::Index>(i);
    const double own = belief.covariance(k, k);
    if (!(own > 1e-12)) continue;
    const double learned = (belief.covariance.row(k) * mode_slope)(0);
    const double then = std::sqrt(std::max(0.0, now * now - learned * learned / own));
    if (!analysis.next_measurement || then * computed_hz < analysis.next_measurement->band_then_hz)
      analysis.next_measurement =
          NextMeasurement{std::string(tolerance_inputs()[i].label), std::string(tolerance_inputs()[i].advice),
                          now * computed_hz, then * computed_hz};
  }
}

} // namespace

Expectation Expecting::as_result(std::string_view key, double expected) const {
  return {expected, to_list(slopes_.of.find(key)->second)};
}

Expectation Expecting::resonance(bool bare, double added_f) const {
  const auto stripped = [&](Design d) {
    if (bare) d.topload.clear();
    return d;
  };
  const double middle = field_resonator(kept_, stripped(design), coarse_cutting, added_f)->mode_1_hz;
  Expectation out{field_resonator(kept_, stripped(design), {80, 40, true}, added_f)->mode_1_hz,
                  std::vector<double>(static_cast<std::size_t>(model() + 1))};
  for (std::size_t i = 0; i < tolerance_inputs().size(); ++i) {
    if (!tolerance_inputs()[i].moves_field) continue;
    double sign = 0;
    const Design nudged = nudged_inside(design, tolerance_inputs()[i], sign);
    out.slope[i] =
        sign * log_change(field_resonator(kept_, stripped(nudged), coarse_cutting, added_f)->mode_1_hz, middle);
  }
  out.slope.back() = slopes_.model_error;
  return out;
}

std::map<std::string, double> banded_results(const Design& design, FieldResolution resolution) {
  Kept kept;
  const Outputs outputs =
      coarse(design, field_resonator(design, resolution), primary_at_clip_h(kept, design), kept);
  std::map<std::string, double> out;
  for (const Named& result : named) out[result.key] = outputs.*result.member;
  return out;
}

std::vector<FieldStep> band_steps(const Design& design) {
  std::vector<FieldStep> out{field_step(design, coarse_cutting)};
  double sign = 0;
  for (const ToleranceInput& input : tolerance_inputs())
    if (input.moves_field) out.push_back(field_step(nudged_inside(design, input, sign), coarse_cutting));
  return out;
}

void propagate_tolerances(const Design& design, Analysis& analysis, Kept& kept) {
  const auto slopes = find_slopes(design, analysis, kept);
  if (!slopes) return;
  const Belief belief = weigh_evidence(design, *slopes, kept, analysis);
  fill_bands(*slopes, analysis);
  conclude(belief, slopes->of.at("mode_1_hz"), analysis);
}

} // namespace arc
