// Each mode's circuit from its shape and its mutual inductance with the primary.
#include "coil/winding_modes.h"

#include "field/rings.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace arc {
namespace {

// Mutual inductance of the primary with a current that has this shape along the winding (1 at the base), from its
// mutual inductance with each turn.
double shaped_mutual_h(const std::vector<double>& turn_mutual_h, const std::vector<Ring>& winding,
                       const std::vector<ProfilePoint>& profile) {
  double total = 0;
  std::size_t k = 1;
  for (std::size_t turn = 0; turn < winding.size(); ++turn) {
    const Ring& ring = winding[turn];
    while (k + 1 < profile.size() && profile[k].height_m < ring.height_m) ++k;
    const ProfilePoint &a = profile[k - 1], &b = profile[k];
    const double part = b.height_m > a.height_m
                            ? std::clamp((ring.height_m - a.height_m) / (b.height_m - a.height_m), 0.0, 1.0)
                            : 0;
    const double current = a.current + part * (b.current - a.current);
    total += current * turn_mutual_h[turn];
  }
  return total;
}

} // namespace

std::vector<WindingMode> winding_modes(const Design& design, const Analysis& a, bool lumped) {
  const CoilCircuit& coil = a.circuit;
  const Equivalent& measured = design.equivalent;
  const bool resonator_measured =
      measured.secondary_inductance_h || measured.secondary_capacitance_f || measured.secondary_resistance_ohm;
  if (lumped || resonator_measured || !a.resonator || !a.turn_mutual_h)
    return {{coil.secondary_h, coil.secondary_f, coil.secondary_ohm,
             coil.coupling * std::sqrt(coil.primary_h * coil.secondary_h), 1}};
  const auto winding = solenoid_rings(secondary_mean_radius_m(design.secondary), design.secondary.turns,
                                      design.secondary.winding_length_m, design.secondary.base_height_m);
  const double scale = measured.coupling ? *measured.coupling / a.coupling : 1;
  std::vector<WindingMode> out;
  for (const ModeShape& mode : a.resonator->modes) {
    // For base current i: stored charge energy q^2/2C with q = Ces v_top, so C = Ces^2 / C_energy.
    const double omega = 2 * std::numbers::pi * mode.frequency_hz;
    const double capacitance =
        mode.effective_capacitance_f * mode.effective_capacitance_f / mode.energy_capacitance_f;
    const double inductance = 1 / (omega * omega * capacitance);
    // All modes share the first one's quality factor at their frequency, as skin loss grows with its root.
    const double q = a.quality_factor * std::sqrt(mode.frequency_hz / a.resonator->mode_1_hz);
    out.push_back({inductance, capacitance, omega * inductance / q,
                   scale * shaped_mutual_h(*a.turn_mutual_h, winding, mode.profile),
                   capacitance / mode.effective_capacitance_f});
  }
  return out;
}

} // namespace arc
