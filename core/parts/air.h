// What air holds: its density, and the field at which corona starts on a round conductor.
// Source: Peek, Dielectric Phenomena in High-Voltage Engineering, 1929. Limits: clean air, slow fields.
#pragma once

#include "model/design.h"

namespace arc {

/// Air density relative to 20 C and 1013.25 hPa.
double relative_air_density(const Site& site);

/// Field in volts per metre at which corona starts on a round conductor of `curvature_m`, air density and roughness
/// (0.7 rough to 1 polished).
double peek_field_v_per_m(double curvature_m, double air_density, double roughness);

} // namespace arc
