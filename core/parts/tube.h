// Vacuum tubes: currents from volts, pentodes as the triode that their grids make of them, and the numbers from a
// data sheet's curves. Source of the law: Child 1911 and Langmuir 1913 (three-halves power), for a triode with the
// equivalent diode's voltage, as in Spangenberg, Vacuum Tubes, 1948 (from memory); the knee and the grid's share
// are empirical.
#pragma once

#include "model/devices.h"

#include <array>
#include <cmath>
#include <span>
#include <string_view>
#include <vector>

namespace arc {

/// The law of a triode: Ik = G max(0, vg + v0 + va/mu)^1.5, Ig = Gg max(0, vg)^1.5,
/// Ia = max(0, Ik - Ig) va/(va + Vk) for va > 0, else none. What the knee keeps from the plate goes back to the
/// cathode.
struct TubeLaw {
  double perveance;      // G, A/V^1.5
  double grid_perveance; // Gg, A/V^1.5
  double mu;
  double knee_v;
  double offset_v = 0; // v0, of a screen that stands at volts of its own
  bool operator==(const TubeLaw&) const = default;
};

/// Amperes at plate and grid, and their slopes in siemens by plate and grid volts.
struct TubeCurrents {
  double plate_a, grid_a;
  double plate_by_va, plate_by_vg, grid_by_vg;
};
// In the header, for it is called some millions of times in a run.
inline TubeCurrents tube_currents(const TubeLaw& t, double va, double vg) {
  TubeCurrents out{0, 0, 0, 0, 0};
  if (vg > 0) {
    const double root = std::sqrt(vg);
    out.grid_a = t.grid_perveance * vg * root;
    out.grid_by_vg = 1.5 * t.grid_perveance * root;
  }
  const double by_mu = 1 / t.mu, drive = vg + t.offset_v + va * by_mu;
  if (!(va > 0) || !(drive > 0)) return out;
  const double root = std::sqrt(drive);
  const double past = t.perveance * drive * root - out.grid_a, slope = 1.5 * t.perveance * root;
  if (!(past > 0)) return out;
  const double by_volts = 1 / (va + t.knee_v), share = va * by_volts;
  out.plate_a = past * share;
  out.plate_by_va = slope * by_mu * share + past * t.knee_v * by_volts * by_volts;
  out.plate_by_vg = (slope - out.grid_by_vg) * share;
  return out;
}

/// The triode that a tube makes as its grids are tied, `count` of them side by side. With the space current
/// G (vg + vs/mu_s + va/mu)^1.5: screen to plate, 1/mu + 1/mu_s; to the grid, G (1 + 1/mu_s)^1.5 with the grids'
/// currents added; to the cathode, mu alone; fed with vs, mu with
/// v0 = vs/mu_s, the screen's own current not counted. The suppressor goes with the cathode and takes nothing.
TubeLaw tube_law(const Tube& tube, double count = 1);

/// One point of a data sheet's plate curves: volts to the cathode, amperes at the plate.
struct CurvePoint {
  double plate_v, grid_v, plate_a;
};

/// What three points say: mu and G from two beyond the knee, Vk from one in it, `grid_share` being Ig/Ik where grid
/// and plate are at equal volts. Throws std::invalid_argument with what is wrong: points that carry no current,
/// that do not differ, or that no triode gives.
TubeLaw fit_tube(const std::array<CurvePoint, 3>& points, double grid_share);

/// Generic classes, common practice and from memory, no data sheet's: to be replaced by the builder's own.
struct TubeClass {
  std::string_view title; // "Transmitting triode, 65 W plate"
  Tube tube;
};
std::span<const TubeClass> tube_classes();

} // namespace arc
