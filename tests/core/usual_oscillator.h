// The oscillator that tests of tube circuits vary.
#pragma once

#include "crafts/tubes/tube_circuit.h"

#include <cmath>

/// An ordinary oscillator on direct current: tank at the resonator, everything in the middle of its range.
inline arc::TubeCircuit usual_oscillator() {
  arc::TubeCircuit c;
  c.law = {6e-4, 1.2e-4, 120, 60};
  c.grid_cathode_f = 30e-12, c.grid_plate_f = 20e-12, c.plate_cathode_f = 15e-12;
  c.plate_h = 160e-6, c.plate_ohm = 0.8, c.tank_f = 1.4e-9;
  c.feedback_h = 25e-6, c.feedback_ohm = 0.3;
  c.plate_feedback_h = 0.35 * std::sqrt(c.plate_h * c.feedback_h);
  c.modes = {{0.014, 14.5e-12, 160, 0.25 * std::sqrt(c.plate_h * 0.014), 1}};
  c.feedback_mode_h = {0.1 * std::sqrt(c.feedback_h * 0.014)};
  c.grid_leak_ohm = 1000, c.grid_leak_f = 2.2e-9;
  c.trap_ohm = 50, c.trap_h = 1e-6;
  c.arc = arc::ArcLoad::always, c.streamer_f = 1e-12, c.streamer_ohm = 220e3;
  c.direct_v = 4000, c.rise_s = 2e-6;
  return c;
}
