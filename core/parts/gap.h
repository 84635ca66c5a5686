// Spark gaps: at which voltage they fire, and how often a rotor presents its electrodes.
// Sources: Peek, Dielectric Phenomena in High-Voltage Engineering, 1929 (sphere gaps, 27.2 kV/cm with the curvature
// term and the field factor of two spheres); for short gaps the uniform-field rule 24.36 d s + 6.72 sqrt(d s) kV (s
// in cm, d air density; after Paschen; value from memory). Limits: clean rounded electrodes, 0.1 mm to half a
// diameter; a hot, ionised gap fires lower, by 10 to 30 % (common practice).
#pragma once

#include "design/design.h"

#include <optional>

namespace arc {

/// Peak volts at which one gap of this spacing between round electrodes fires in air of this relative density.
double gap_breakdown_v(double spacing_m, double electrode_diameter_m, double air_density);

/// Peak volts at which gaps in series fire together: n gaps, less 10 % for their uneven shares (common practice).
double series_gaps_v(double one_gap_v, double count);

/// Firing voltage of the design's gap from spacing and electrodes; empty when they are not given.
std::optional<double> computed_firing_v(const Gap& gap, const Site& site);

/// Spacing in metres of each gap so that the design's gap fires at `firing_v`; empty without electrodes.
std::optional<double> spacing_for_firing_m(const Gap& gap, const Site& site, double firing_v);

/// Presentations each second of a rotary gap; empty when the gap has no rotor.
std::optional<double> presentations_hz(const Gap& gap);

/// Volts across the burning gap: the drop of each gap in series.
double arc_drop_v(const Gap& gap);

} // namespace arc
