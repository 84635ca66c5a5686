// When the air gives way: surface field against Peek's strength, with air density and roughness.
// Source: Peek, Dielectric Phenomena in High-Voltage Engineering, 1929 (30 kV/cm with the curvature term of round
// wires); half-ellipsoid on a plane for a breakout point (Kosmahl, IEEE Trans. Electron Devices 38 (1991) 1534).
// Limits: clean air, slow fields; a coil's breakout scatters by some 10 %.
#pragma once

#include "field/resonator.h"
#include "model/design.h"
#include "parts/air.h"

#include <optional>
#include <string>

namespace arc {

/// Field at the tip of a half-ellipsoid of `length_m` and tip radius `tip_radius_m` over the field of the surface
/// it stands on; 3 for a hemisphere. length >= tip radius.
double point_enhancement(double length_m, double tip_radius_m);

/// How far a winding's last wire stands off where no topload ends it (assumption: a bent end of a centimetre).
inline constexpr double wire_end_m = 0.01;

struct Breakout {
  double voltage_v = 0;      // at the top, peak
  double field_per_volt = 0; // at the hottest piece, 1/m
  double radius_m = 0;       // where: radius, height above the floor
  double height_m = 0;
  std::string where; // "topload", "breakout point", "last turn", "wire end"
};

/// The hottest spot of topload, breakout point or last turn at the resonance; empty when the result has no charges.
std::optional<Breakout> find_breakout(const Design& design, const ResonatorResult& resonator);

} // namespace arc
