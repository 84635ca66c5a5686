// Tolerance propagation and what measurements add to it.
#include "design/tolerance.h"

#include "bench/tuning.h"
#include "design/validity.h"
#include "parts/bank.h"
#include "parts/topload.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

// The main results from a coarse model: good for differences, not for values.
struct Outputs {
  double secondary_h, mode_hz, effective_h, effective_f, in_place_f, primary_h, mutual_h, coupling, tank_hz;
};

struct Named {
  const char* key;
  double Outputs::*member;
};
constexpr std::array<Named, 9> named{{{"secondary_inductance_h", &Outputs::secondary_h},
                                      {"mode_1_hz", &Outputs::mode_hz},
                                      {"effective_inductance_h", &Outputs::effective_h},
                                      {"effective_capacitance_f", &Outputs::effective_f},
                                      {"topload_in_place_capacitance_f", &Outputs::in_place_f},
                                      {"primary_inductance_h", &Outputs::primary_h},
                                      {"mutual_inductance_h", &Outputs::mutual_h},
                                      {"coupling", &Outputs::coupling},
                                      {"tank_hz", &Outputs::tank_hz}}};

// What the resonator's part of the coarse model gives.
ResonatorResult coarse_field(const Design& design, double added_f) {
  return field_resonator(design, {20, 14, true}, added_f);
}

double primary_at_clip_h(const Design& design) {
  return primary_inductance_at_h(design.primary, used_turns(design));
}

Outputs coarse(const Design& design, const ResonatorResult& field, double primary_h) {
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  Outputs out{};
  out.secondary_h = solenoid_inductance_h(radius, coil.turns, coil.winding_length_m, coil.wire_bare_diameter_m / 2,
                                          CurrentDistribution::uniform);
  out.mode_hz = field.mode_1_hz;
  out.effective_h = field.effective_inductance_h;
  out.effective_f = field.effective_capacitance_f;
  out.in_place_f = field.topload_in_place_f;
  // Lumps of turns stand for the winding: the primary is far away compared with their spacing.
  constexpr double lumps = 40;
  auto winding = solenoid_rings(radius, lumps, coil.winding_length_m, coil.base_height_m);
  for (Ring& ring : winding) ring.weight = coil.turns / lumps;
  const double tap = used_turns(design);
  out.primary_h = primary_h;
  out.mutual_h = coil_mutual_h(primary_rings(design.primary, tap), winding);
  out.coupling = out.mutual_h / std::sqrt(out.primary_h * out.secondary_h);
  out.tank_hz = resonance_hz(out.primary_h + lead_inductance_h(design.primary), tank_capacitance_f(design.tank));
  return out;
}

const std::array<ToleranceInput, 11> inputs{{
    {"form_diameter", "form diameter", "measure the form with calipers in two directions", true, 0.005,
     [](Design& d, double t) { d.secondary.form_diameter_m *= 1 + t; }, true},
    {"turns", "turn count", "count the turns, or weigh the wire", true, 0.01,
     [](Design& d, double t) { d.secondary.turns *= 1 + t; }, true},
    {"winding_length", "winding length", "measure the winding again", false, 0.001,
     [](Design& d, double t) { d.secondary.winding_length_m += t; }, true},
    {"base_height", "base height", "measure the height above the floor", false, 0.001,
     [](Design& d, double t) {
       d.secondary.base_height_m += t;
       d.primary.base_height_m += t;
     },
     true},
    {"topload_size", "topload size", "measure the topload's diameters", true, 0.01,
     [](Design& d, double t) {
       for (ToploadPart& part : d.topload)
         if (const ToploadShape* shape = topload_shape(part.shape))
           for (const ToploadLength& length : shape->lengths) part.*length.member *= 1 + t;
     },
     true},
    {"topload_height", "topload height", "measure the topload's height above the last turn", false, 0.002,
     [](Design& d, double t) {
       for (ToploadPart& part : d.topload) part.centre_above_winding_m += t;
     },
     true},
    {"primary_radius", "primary radius", "measure the primary's inner radius", false, 0.001,
     [](Design& d, double t) { d.primary.inner_radius_m += t; }, false, true},
    {"primary_pitch", "primary pitch", "measure across all primary turns", true, 0.01,
     [](Design& d, double t) { d.primary.pitch_m *= 1 + t; }, false, true},
    {"primary_height", "primary height", "measure the primary's height against the winding", false, 0.001,
     [](Design& d, double t) { d.primary.base_height_m += t; }, false},
    {"clip", "clip position", "mark the quarter turns on the primary", false, 0.02,
     [](Design& d, double t) { d.primary.tap_turns -= t; }, false, true},
    {"tank", "tank capacitance", "measure the capacitors, discharged and out of the circuit", true, 0.05,
     [](Design& d, double t) { scale_tank(d.tank, 1 + t); }, false},
}};

// The design with one input off by its tolerance; the other way where that leaves its range (`sign` then is -1; 0
// when both ways do).
Design nudged_inside(const Design& design, const ToleranceInput& input, double& sign) {
  for (const double way : {1.0, -1.0}) {
    Design nudged = design;
    input.nudge(nudged, way * tolerance_of(design, input));
    sign = way;
    if (numbers_out_of_range(nudged).empty()) return nudged;
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

constexpr Eigen::Index model = static_cast<Eigen::Index>(inputs.size());

// Weighted least squares, one measurement after the other (the order does not matter for independent errors).
void learn(Belief& belief, const Eigen::VectorXd& slope, double surprise, double error) {
  const Eigen::VectorXd gain_top = belief.covariance * slope;
  const double variance = slope.dot(gain_top) + error * error;
  const double residual = surprise - slope.dot(belief.shift);
  belief.shift += gain_top * (residual / variance);
  belief.covariance -= gain_top * gain_top.transpose() / variance;
}

// The results that carry a band, by key.
std::map<std::string, double> banded_values(const Analysis& a) {
  return {{"secondary_inductance_h", a.secondary_inductance_h},
          {"mode_1_hz", a.resonator->mode_1_hz},
          {"effective_inductance_h", a.resonator->effective_inductance_h},
          {"effective_capacitance_f", a.resonator->effective_capacitance_f},
          {"topload_in_place_capacitance_f", a.resonator->topload_in_place_f},
          {"primary_inductance_h", a.primary_inductance_h},
          {"mutual_inductance_h", a.mutual_inductance_h},
          {"coupling", a.coupling},
          {"tank_hz", a.tank_hz}};
}

} // namespace

std::span<const ToleranceInput> tolerance_inputs() {
  return inputs;
}

double tolerance_of(const Design& design, const ToleranceInput& input) {
  const auto it = design.tolerances.find(std::string(input.key));
  return it == design.tolerances.end() ? input.standard : it->second;
}

namespace {

// What the model expects of one measurement: relative slopes by input, and the value from the full model.
struct Expectation {
  double expected = 0;
  Eigen::VectorXd slope;
};

// The resonance of the coil as it stood when it was measured: without its topload, or with a capacitor added.
Expectation expect_resonance(const Design& design, bool bare, double added_f, double accuracy) {
  const auto stripped = [&](Design d) {
    if (bare) d.topload.clear();
    return d;
  };
  Expectation out{field_resonator(stripped(design), {80, 40, true}, added_f).mode_1_hz,
                  Eigen::VectorXd::Zero(model + 1)};
  const double middle = coarse_field(stripped(design), added_f).mode_1_hz;
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    if (!inputs[i].moves_field) continue;
    double sign = 0;
    const Design nudged = nudged_inside(design, inputs[i], sign);
    out.slope(static_cast<Eigen::Index>(i)) =
        sign * log_change(coarse_field(stripped(nudged), added_f).mode_1_hz, middle);
  }
  out.slope(model) = accuracy;
  return out;
}

// The quality factor's estimate is good to about this much, whatever the inputs' tolerances (assumption).
constexpr double quality_estimate_accuracy = 0.25;

} // namespace

std::map<std::string, double> banded_results(const Design& design, FieldResolution resolution) {
  const Outputs outputs = coarse(design, field_resonator(design, resolution), primary_at_clip_h(design));
  std::map<std::string, double> out;
  for (const Named& result : named) out[result.key] = outputs.*result.member;
  return out;
}

void propagate_tolerances(const Design& design, Analysis& analysis) {
  std::array<Outputs, inputs.size()> moved{};
  std::array<double, inputs.size()> signs{};
  Outputs middle{};
  const double primary = primary_at_clip_h(design);
  try {
    const ResonatorResult field = coarse_field(design, 0);
    middle = coarse(design, field, primary);
    for (std::size_t i = 0; i < inputs.size(); ++i) {
      const Design nudged = nudged_inside(design, inputs[i], signs[i]);
      moved[i] = coarse(nudged, inputs[i].moves_field ? coarse_field(nudged, 0) : field,
                        inputs[i].moves_primary ? primary_at_clip_h(nudged) : primary);
    }
  } catch (const std::invalid_argument&) {
    return; // a nudge made bodies touch: no bands rather than wrong ones
  }
  // Four times fewer pieces: at first order, the fine cutting is off by a third of the difference at most.
  analysis.resonator->cutting_error = std::abs(middle.mode_hz / analysis.resonator->mode_1_hz - 1) / 3;

  const double accuracy = analysis.resonator->relative_accuracy;
  std::map<std::string, Eigen::VectorXd> slopes; // relative change for one tolerance of each input
  for (const Named& result : named) {
    Eigen::VectorXd slope = Eigen::VectorXd::Zero(model + 1);
    for (std::size_t i = 0; i < inputs.size(); ++i)
      slope(static_cast<Eigen::Index>(i)) = signs[i] * log_change(moved[i].*result.member, middle.*result.member);
    slopes[result.key] = slope;
  }
  slopes["mode_1_hz"](model) = accuracy;

  const Eigen::VectorXd& mode_slope = slopes["mode_1_hz"];
  const auto expect = [&](const Measurement& m) -> Expectation {
    if (m.kind == "tank")
      return {resonance_hz(tank_loop_inductance_h(design.primary, m.tap_turns), analysis.tank_capacitance_f),
              slopes["tank_hz"]};
    if (m.kind == "winding-inductance") return {analysis.secondary_inductance_h, slopes["secondary_inductance_h"]};
    if (m.kind == "coil-bare") return expect_resonance(design, true, 0, accuracy);
    if (m.kind == "coil-with-capacitor") return expect_resonance(design, false, m.capacitance_f, accuracy);
    if (m.kind == "ring-down") return {analysis.quality_estimate, Eigen::VectorXd::Zero(model + 1)};
    return {analysis.resonator->mode_1_hz, mode_slope};
  };
  Belief belief{Eigen::VectorXd::Zero(model + 1), Eigen::MatrixXd::Identity(model + 1, model + 1)};
  for (const Measurement& m : design.measurements) {
    const MeasurementKind* kind = measurement_kind(m.kind);
    if (!kind) return;
    Expectation e;
    try {
      e = expect(m);
    } catch (const std::invalid_argument&) {
      return;
    }
    if (!(e.expected > 0) || !std::isfinite(e.expected)) return;
    const double surprise = std::log(m.*kind->value.member / e.expected);
    const double own =
        m.kind == "ring-down" ? std::hypot(kind->accuracy, quality_estimate_accuracy) : kind->accuracy;
    const double misfit = surprise / std::hypot(e.slope.norm(), own);
    const bool used = std::abs(misfit) <= largest_used_misfit;
    analysis.evidence.push_back({e.expected, misfit, used});
    if (used) learn(belief, e.slope, surprise, own);
  }

  const std::map<std::string, double> values = banded_values(analysis);
  for (const auto& [key, slope] : slopes) {
    const double value = values.at(key);
    analysis.band[key] = slope.norm() * value;
    std::vector<Influence> shares;
    for (std::size_t i = 0; i < inputs.size(); ++i)
      if (const double change = slope(static_cast<Eigen::Index>(i)) * value; change != 0)
        shares.push_back({std::string(inputs[i].label), change});
    std::ranges::sort(
        shares, [](const Influence& a, const Influence& b) { return std::abs(a.change) > std::abs(b.change); });
    analysis.influences[key] = std::move(shares);
  }
  analysis.best_mode_1_hz = analysis.resonator->mode_1_hz * std::exp(mode_slope.dot(belief.shift));

  // What to measure next: the input whose exact knowledge would narrow the band of the resonance most.
  const double now = std::sqrt(mode_slope.dot(belief.covariance * mode_slope));
  analysis.band["best_mode_1_hz"] = now * analysis.best_mode_1_hz;
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    const auto k = static_cast<Eigen::Index>(i);
    const double own = belief.covariance(k, k);
    if (!(own > 1e-12)) continue;
    const double learned = (belief.covariance.row(k) * mode_slope)(0);
    const double then = std::sqrt(std::max(0.0, now * now - learned * learned / own));
    if (!analysis.next_measurement ||
        then * analysis.resonator->mode_1_hz < analysis.next_measurement->band_then_hz)
      analysis.next_measurement =
          NextMeasurement{std::string(inputs[i].label), std::string(inputs[i].advice),
                          now * analysis.resonator->mode_1_hz, then * analysis.resonator->mode_1_hz};
  }
}

} // namespace arc
