// The magnetising branch of transformers and variacs: an inductance across the winding that the core's saturation
// makes smaller, and a resistance for the core's loss. Two knees of the flux stand for the bend of the curve.
// Source: circuit laws; shares and slopes are common practice of power transformers, no source. Limits: no
// hysteresis, no remanence.
#pragma once

#include "circuit/network.h"

namespace arc {

/// What is known of a core, all on the winding that it is fed from.
struct CoreData {
  double rated_v; // RMS
  double rated_hz;
  double idle_a;     // RMS at the rated volts and frequency, nothing connected
  double knee_share; // flux at which the core starts to saturate over the flux at rated volts
  double loss_share; // real part of the idle volt-amperes
};

/// A reading of idle current.
struct IdleReading {
  double volts; // RMS
  double amps;  // RMS
};

struct Magnetising {
  double henry;                     // unsaturated
  std::vector<Network::Knee> knees; // referred to the same winding
  double loss_ohm;                  // across it
};

/// The branch that draws the idle current of `core`. Throws std::invalid_argument when a number is not positive.
Magnetising magnetising_branch(const CoreData& core);

/// RMS amperes that a branch draws from a sine of `volts` RMS at `hz`, core loss included.
double idle_current_a(const Magnetising& branch, double volts, double hz);

/// A core whose idle current was read once or twice: one reading sets the size of the current, a second one at
/// other volts where saturation starts (within 0.4 to 3 times the rated flux).
CoreData fit_core(CoreData core, const std::vector<IdleReading>& readings);

} // namespace arc
