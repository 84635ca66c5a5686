// The resonator, or one mode of its winding, as a circuit that simulations share.
#pragma once

namespace arc {

/// One resonant circuit that stands for the resonator or one of its modes. Its inductor carries the foot's current;
/// the modes' top voltages add.
struct WindingMode {
  double inductance_h;
  double capacitance_f;
  double resistance_ohm;
  double mutual_h;      // with the primary, up to its clip
  double top_per_v = 1; // top voltage for one volt on the capacitor
  bool operator==(const WindingMode&) const = default;
};

} // namespace arc
