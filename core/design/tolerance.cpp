// Tolerance propagation and the geometry check that comes before any field is solved.
#include "design/tolerance.h"

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
ResonatorResult coarse_field(const Design& design) {
  return field_resonator(design, {20, 14, true});
}

Outputs coarse(const Design& design, const ResonatorResult& field) {
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
  const double tap = std::min(design.primary.tap_turns, design.primary.turns);
  out.primary_h = primary_inductance_at_h(design.primary, tap);
  out.mutual_h = coil_mutual_h(primary_rings(design.primary, tap), winding);
  out.coupling = out.mutual_h / std::sqrt(out.primary_h * out.secondary_h);
  out.tank_hz = resonance_hz(out.primary_h + design.primary.lead_inductance_h, tank_capacitance_f(design.tank));
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
     [](Design& d, double t) { d.primary.inner_radius_m += t; }, false},
    {"primary_pitch", "primary pitch", "measure across all primary turns", true, 0.01,
     [](Design& d, double t) { d.primary.pitch_m *= 1 + t; }, false},
    {"primary_height", "primary height", "measure the primary's height against the winding", false, 0.001,
     [](Design& d, double t) { d.primary.base_height_m += t; }, false},
    {"clip", "clip position", "mark the quarter turns on the primary", false, 0.02,
     [](Design& d, double t) { d.primary.tap_turns -= t; }, false},
    {"tank", "tank capacitance", "measure the capacitors, discharged and out of the circuit", true, 0.05,
     [](Design& d, double t) {
       d.tank.capacitance_f *= 1 + t;
       if (d.tank.unit_capacitance_f) *d.tank.unit_capacitance_f *= 1 + t;
     },
     false},
}};

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

void propagate_tolerances(const Design& design, Analysis& analysis) {
  std::array<Outputs, inputs.size()> moved{};
  Outputs middle{};
  Design bare = design;
  bare.topload.clear();
  const bool uses_bare = std::ranges::count(design.measurements, "coil-bare", &Measurement::kind) > 0;
  double bare_middle = 0;
  Eigen::VectorXd bare_slope = Eigen::VectorXd::Zero(model + 1);
  try {
    const ResonatorResult field = coarse_field(design);
    middle = coarse(design, field);
    if (uses_bare) bare_middle = coarse_field(bare).mode_1_hz;
    for (std::size_t i = 0; i < inputs.size(); ++i) {
      Design nudged = design;
      inputs[i].nudge(nudged, tolerance_of(design, inputs[i]));
      moved[i] = coarse(nudged, inputs[i].moves_field ? coarse_field(nudged) : field);
      if (!uses_bare || !inputs[i].moves_field) continue;
      nudged.topload.clear();
      bare_slope(static_cast<Eigen::Index>(i)) = coarse_field(nudged).mode_1_hz / bare_middle - 1;
    }
  } catch (const std::invalid_argument&) {
    return; // a nudge made bodies touch: no bands rather than wrong ones
  }

  const double accuracy = analysis.resonator->relative_accuracy;
  std::map<std::string, Eigen::VectorXd> slopes; // relative change for one tolerance of each input
  for (const Named& result : named) {
    Eigen::VectorXd slope = Eigen::VectorXd::Zero(model + 1);
    for (std::size_t i = 0; i < inputs.size(); ++i)
      if (middle.*result.member > 0)
        slope(static_cast<Eigen::Index>(i)) = moved[i].*result.member / (middle.*result.member) - 1;
    slopes[result.key] = slope;
  }
  slopes["mode_1_hz"](model) = accuracy;
  bare_slope(model) = accuracy;

  Belief belief{Eigen::VectorXd::Zero(model + 1), Eigen::MatrixXd::Identity(model + 1, model + 1)};
  const Eigen::VectorXd& mode_slope = slopes["mode_1_hz"];
  for (const Measurement& m : design.measurements) {
    const bool on_tank = m.kind == "tank";
    const Eigen::VectorXd& slope = on_tank ? slopes["tank_hz"] : m.kind == "coil-bare" ? bare_slope : mode_slope;
    double expected = analysis.resonator->mode_1_hz;
    if (on_tank)
      expected =
          resonance_hz(primary_inductance_at_h(design.primary, m.tap_turns) + design.primary.lead_inductance_h,
                       tank_capacitance_f(design.tank));
    else if (m.kind == "coil-bare")
      expected = field_resonator(bare, {48, 8, true}).mode_1_hz;
    const double surprise = m.frequency_hz / expected - 1;
    analysis.evidence.push_back({surprise / std::hypot(slope.norm(), measured_frequency_tolerance)});
    learn(belief, slope, surprise, measured_frequency_tolerance);
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
  analysis.best_mode_1_hz = analysis.resonator->mode_1_hz * (1 + mode_slope.dot(belief.shift));

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

std::string geometry_problem(const Design& design, UnitSystem units) {
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  const double top = coil.base_height_m + coil.winding_length_m;
  const auto print = [&](double metres) { return format_quantity(metres, Dimension::length, units, 3); };
  for (std::size_t i = 0; i < design.topload.size(); ++i) {
    const ToploadPart& part = design.topload[i];
    const ToploadShape* shape = topload_shape(part.shape);
    if (!shape) return fmt::format("topload part {} has the unknown shape “{}”", i + 1, part.shape);
    const std::string name = fmt::format("topload part {} ({})", i + 1, shape->key);
    if (std::string problem = shape->problem(part); !problem.empty()) return fmt::format("{}: {}", name, problem);
    const auto outline = shape->outline(part, 48);
    for (std::size_t k = 0; k < outline.size(); ++k) {
      const OutlinePoint& p = outline[k];
      if (top + p.height_m <= 0)
        return fmt::format("{} reaches into the floor; raise it by {}", name, print(-top - p.height_m));
      if (design.site.ceiling_height_m && top + p.height_m >= *design.site.ceiling_height_m)
        return fmt::format("{} reaches into the ceiling; lower it by {}", name,
                           print(top + p.height_m - *design.site.ceiling_height_m));
      if (k == 0) continue;
      const OutlinePoint& q = outline[k - 1];
      const bool crosses_side = (p.radius_m - radius) * (q.radius_m - radius) <= 0 &&
                                std::min(p.height_m, q.height_m) <= 0 &&
                                top + std::max(p.height_m, q.height_m) >= coil.base_height_m;
      if (crosses_side) return fmt::format("{} crosses the winding; raise it until it clears the last turn", name);
    }
  }
  if (design.site.ceiling_height_m && top >= *design.site.ceiling_height_m)
    return "the winding reaches into the ceiling; check the ceiling height";
  for (const Ring& ring : primary_rings(design.primary, design.primary.turns)) {
    const bool beside = ring.height_m + design.primary.conductor_diameter_m / 2 > coil.base_height_m &&
                        ring.height_m - design.primary.conductor_diameter_m / 2 < top;
    if (beside && std::abs(ring.radius_m - radius) <=
                      (design.primary.conductor_diameter_m + coil.wire_overall_diameter_m) / 2)
      return fmt::format("the primary crosses the secondary winding; its inner radius must be above {}",
                         print(radius + design.primary.conductor_diameter_m));
  }
  return {};
}

} // namespace arc
