// Spark gaps: at which voltage they fire, and how often a rotor presents its electrodes.
// Sources: Peek, Dielectric Phenomena in High-Voltage Engineering, 1929 (sphere gaps, 27.2 kV/cm with the curvature
// term and the field factor of two spheres; parallel cylinders, 30 kV/cm with theirs, and the field factor of two
// cylinders from electrostatics); for short gaps the uniform-field rule 24.36 d s + 6.72 sqrt(d s) kV (s
// in cm, d air density; after Paschen; value from memory). Limits: clean rounded electrodes, 0.1 mm to half a
// diameter; a hot, ionised gap fires lower, by 10 to 30 % (common practice).
#pragma once

#include "model/design.h"

#include <optional>
#include <string>

namespace arc {

/// Peak volts at which one gap of this spacing between electrodes of this diameter fires in air of this relative
/// density.
double gap_breakdown_v(double spacing_m, double electrode_diameter_m, double air_density,
                       ElectrodeShape shape = ElectrodeShape::rounded);

/// Peak volts at which gaps in series fire together: n gaps, less 10 % for their uneven shares (common practice).
double series_gaps_v(double one_gap_v, double count);

/// Firing voltage of the design's gap from spacing and electrodes; empty when they are not given.
std::optional<double> computed_firing_v(const Gap& gap, const Site& site);

/// Spacing in metres of each gap so that the design's gap fires at `firing_v`; empty without electrodes.
std::optional<double> spacing_for_firing_m(const Gap& gap, const Site& site, double firing_v);

/// Presentations each second of a rotary gap; empty when the gap has no rotor.
std::optional<double> presentations_hz(const Gap& gap);

/// When the gap fires, over time: a static gap at one voltage; a rotor whose electrodes come near and leave, whose
/// spacing decides; a static gap in series with a rotor adds its own voltage.
struct GapModel {
  double static_v = 0;      // of the static part
  double rate_hz = 0;       // presentations; 0 without a rotor
  double first_s = 0;       // the first presentation after a zero of the mains
  double speed_m_per_s = 0; // of the rotor's electrodes
  double clearance_m = 0;
  double electrode_diameter_m = 0;
  double air_density = 1;

  bool rotary() const { return rate_hz > 0; }
  /// Peak volts at which the gap would fire at this instant.
  double threshold_v(double time_s) const;
  /// Seconds of each presentation during which the gap would fire at `volts`; 0 when never.
  double dwell_s(double volts) const;
  /// threshold_v(time) as an expression for a SPICE deck.
  std::string spice() const;
};

/// A rotor without electrode size takes 6 mm rods (assumption). Beside a rotor the static gap counts when its
/// spacing and electrodes are given.
GapModel gap_model(const Gap& gap, const Site& site);

/// Volts across the burning gap, all of its gaps in series, at about `amps`: as typed, or by Ayrton's form from
/// their spacing, which holds within arc_volts_band either way. Nearly constant above some tens of amperes.
double arc_drop_v(const Gap& gap, double amps);
inline constexpr double arc_volts_band = 0.5; // relative (common practice)

} // namespace arc
