// The shot's circuit: winding modes with their own coupling to the primary, tank, gap, streamer.
#include "coil/streamer.h"
#include "coil/winding_modes.h"
#include "crafts/spark_gap/spark_gap.h"
#include "laws/circuit.h"
#include "parts/bank.h"
#include "parts/gap.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double least_ohm = 1e-6; // stands for none

// The primary's field cannot be caught by more than the whole of all modes.
void expect_physical(const ShotCircuit& c) {
  double caught = 0;
  for (const WindingMode& m : c.modes) caught += m.mutual_h * m.mutual_h / (c.loop_h * m.inductance_h);
  if (caught >= 1) throw std::invalid_argument("the coupling is 1 or more, which no pair of coils can have");
  constexpr double highest_hz = 50e6; // no gap drives anything near as fast, and following it would take minutes
  const WindingMode& first = c.modes.front();
  const double hz =
      std::max(resonance_hz(first.inductance_h, first.capacitance_f), resonance_hz(c.loop_h, c.tank_f));
  if (hz > highest_hz)
    throw std::invalid_argument(fmt::format("the break would ring at {}; what a gap drives is followed up to {}",
                                            format_quantity(hz, Dimension::frequency),
                                            format_quantity(highest_hz, Dimension::frequency)));
}

// Difference of the two frequencies of tank and first mode when coupled.
double beat_hz(const ShotCircuit& c) {
  const WindingMode& m = c.modes.front();
  const double wp = 1 / (c.loop_h * c.tank_f), ws = 1 / (m.inductance_h * m.capacitance_f);
  const double k2 = m.mutual_h * m.mutual_h / (c.loop_h * m.inductance_h);
  const double middle = (wp + ws) / (2 * (1 - k2));
  const double spread = std::sqrt(std::max(0.0, middle * middle - wp * ws / (1 - k2)));
  return (std::sqrt(middle + spread) - std::sqrt(middle - spread)) / (2 * std::numbers::pi);
}

} // namespace

ShotCircuit shot_circuit(const Design& design, const Analysis& a, const ShotOptions& options) {
  const CoilCircuit& coil = a.circuit;
  if (!coil.complete())
    throw std::invalid_argument(a.problem.empty() ? "the coil is not given as a whole yet" : a.problem);
  const Equivalent& measured = design.equivalent;
  ShotCircuit c{};
  c.tank_f = tank_capacitance_f(design.tank);
  c.tank_v = options.tank_voltage_v.value_or(design.gap.firing_voltage_v);
  c.loop_h = coil.primary_h + lead_inductance_h(design.primary);
  const double mutual_h = coil.coupling * std::sqrt(coil.primary_h * coil.secondary_h);
  if (options.ideal) {
    c.loop_ohm = c.arc_ohm = least_ohm;
    c.modes = {{coil.secondary_h, coil.secondary_f, least_ohm, mutual_h, 1}};
  } else {
    c.loop_ohm = measured.primary_resistance_ohm || !a.has_primary
                     ? std::max(least_ohm, coil.primary_ohm)
                     : primary_resistance_ohm(design, a, resonance_hz(c.loop_h, c.tank_f));
    c.arc_ohm = std::max(least_ohm, design.gap.arc_resistance_ohm.value_or(0));
    const double peak_a = std::abs(c.tank_v) * std::sqrt(c.tank_f / c.loop_h);
    c.arc_drop_v = arc_drop_v(design.gap, peak_a / 2);
    c.modes = winding_modes(design, a, options.lumped);
    if (a.breakout) c.breakout_v = a.breakout->voltage_v;
    // About 1 pF for each 0.3 m behind a few hundred kilo-ohms (common practice), at the middle of the expected
    // band.
    c.streamer_f = (a.expected_arc_m.low + a.expected_arc_m.high) / 2 * streamer_f_per_m;
    c.streamer_ohm = streamer_ohm;
  }
  if (std::abs(c.tank_v) <= c.arc_drop_v)
    throw std::invalid_argument(fmt::format(
        "the burning gap would take {}, more than the {} it fires at: nothing passes it; check the arc volts",
        format_quantity(c.arc_drop_v, Dimension::voltage), format_quantity(c.tank_v, Dimension::voltage)));
  expect_physical(c);
  c.beat_s = 1 / std::max(beat_hz(c), 1 / options.duration_s / 50);
  return c;
}

} // namespace arc
