// Tolerance propagation and the geometry check that comes before any field is solved.
#include "design/tolerance.h"

#include "parts/bank.h"
#include "parts/topload.h"

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

Outputs coarse(const Design& design) {
  const Secondary& coil = design.secondary;
  const double radius = secondary_mean_radius_m(coil);
  const ResonatorResult field = field_resonator(design, {20, 14});
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

struct Input {
  const char* label;
  void (*nudge)(Design&, double); // by this many tolerances
};

const std::array<Input, 11> inputs{{
    {"form diameter", [](Design& d, double t) { d.secondary.form_diameter_m *= 1 + 0.005 * t; }},
    {"turn count", [](Design& d, double t) { d.secondary.turns *= 1 + 0.01 * t; }},
    {"winding length", [](Design& d, double t) { d.secondary.winding_length_m += 0.001 * t; }},
    {"base height",
     [](Design& d, double t) {
       d.secondary.base_height_m += 0.001 * t;
       d.primary.base_height_m += 0.001 * t;
     }},
    {"topload size",
     [](Design& d, double t) {
       for (ToploadPart& part : d.topload)
         if (const ToploadShape* shape = topload_shape(part.shape))
           for (const ToploadLength& length : shape->lengths) part.*length.member *= 1 + 0.01 * t;
     }},
    {"topload height",
     [](Design& d, double t) {
       for (ToploadPart& part : d.topload) part.centre_above_winding_m += 0.002 * t;
     }},
    {"primary radius", [](Design& d, double t) { d.primary.inner_radius_m += 0.001 * t; }},
    {"primary pitch", [](Design& d, double t) { d.primary.pitch_m *= 1 + 0.01 * t; }},
    {"primary height", [](Design& d, double t) { d.primary.base_height_m += 0.001 * t; }},
    {"clip position", [](Design& d, double t) { d.primary.tap_turns -= 0.02 * t; }},
    {"tank capacitance",
     [](Design& d, double t) {
       d.tank.capacitance_f *= 1 + 0.05 * t;
       if (d.tank.unit_capacitance_f) *d.tank.unit_capacitance_f *= 1 + 0.05 * t;
     }},
}};

} // namespace

void propagate_tolerances(const Design& design, Analysis& analysis) {
  Outputs middle{};
  std::array<Outputs, inputs.size()> moved{};
  try {
    middle = coarse(design);
    for (std::size_t i = 0; i < inputs.size(); ++i) {
      Design nudged = design;
      inputs[i].nudge(nudged, 1);
      moved[i] = coarse(nudged);
    }
  } catch (const std::invalid_argument&) {
    return; // a nudge made bodies touch: no bands rather than wrong ones
  }
  for (const Named& result : named) {
    double variance = 0;
    std::vector<Influence> shares;
    for (std::size_t i = 0; i < inputs.size(); ++i) {
      const double change = moved[i].*result.member - middle.*result.member;
      variance += change * change;
      if (change != 0) shares.push_back({inputs[i].label, change});
    }
    std::ranges::sort(
        shares, [](const Influence& a, const Influence& b) { return std::abs(a.change) > std::abs(b.change); });
    analysis.band[result.key] = std::sqrt(variance);
    analysis.influences[result.key] = std::move(shares);
  }
  const double model = analysis.resonator->relative_accuracy * analysis.resonator->mode_1_hz;
  double& band = analysis.band["mode_1_hz"];
  band = std::hypot(band, model);
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
