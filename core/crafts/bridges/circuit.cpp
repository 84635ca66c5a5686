// The circuit of a burst from the design, and the drive chain around it.
#include "crafts/bridges/bridge.h"

#include "coil/streamer.h"
#include "coil/winding_modes.h"
#include "craft/design_fields.h"
#include "field/boundary.h"
#include "laws/circuit.h"
#include "model/fields.h"
#include "parts/bank.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double antenna_wire_m = 1e-3; // radius of the rod

// About what has come back through the diodes by then.
double ring_down_s(double hz) {
  return 20 / hz;
}

BurstSignal signal_of(Feedback feedback) {
  switch (feedback) {
  case Feedback::primary_transformer:
    return BurstSignal::primary;
  case Feedback::fixed:
    return BurstSignal::fixed;
  default:
    return BurstSignal::foot;
  }
}

} // namespace

bool is_dual_resonant(const Design& design) {
  return kind_of(design).series_tank;
}

double bus_voltage_v(const Design& design) {
  return bus_of(design).volts;
}

double chain_delay_s(const Bridge& b) {
  return b.squarer_delay_s + b.logic_delay_s + b.driver_delay_s + b.gate_delay_s;
}

double chain_limit_hz(const Bridge& b) {
  return 0.5 / b.driver_slowest_s;
}

double gate_voltage_v(const Bridge& b) {
  return b.driver_supply_v * b.gate_secondary_turns / b.gate_primary_turns;
}

std::optional<double> soft_lead_s(const Bridge& b, double hz) {
  if (!(hz > 0)) return {};
  const double omega = 2 * std::numbers::pi * hz, phase = omega * (chain_delay_s(b) + b.dead_time_s);
  constexpr double most = 1.3; // beyond it the lead is many times the delay, and brings noise more than signal
  if (phase > most) return {};
  return std::tan(phase) / omega;
}

BurstCircuit burst_circuit(const Design& design, const Analysis& a, double on_s, bool lumped, double bus_share) {
  const CoilCircuit& coil = complete_circuit(a);
  const Bridge& b = design.bridge;
  BurstCircuit c;
  c.full = b.legs == BridgeLegs::full;
  if (b.legs == BridgeLegs::half_split) c.split_f = b.split_capacitance_f;
  const Bus bus = bus_of(design);
  c.bus_v = bus.volts * bus_share;
  c.reservoir_f = bus.reservoir.capacitance_f;
  if (is_dual_resonant(design)) {
    if (!given(design, "tank")) throw std::invalid_argument("tank.capacitance_f: not given yet");
    c.series_f = tank_capacitance_f(design.tank);
  }
  if (b.legs == BridgeLegs::half_blocking) {
    // Charged to half the bus by earlier bursts; with a tank, the tank blocks.
    if (!c.series_f) c.series_f = b.blocking_capacitance_f;
    c.series_start_v = c.bus_v / 2;
  }
  c.primary_h = coil.primary_h + lead_inductance_h(design.primary);
  c.primary_ohm = coil.primary_ohm;
  c.modes = winding_modes(design, a, lumped);
  c.device = b.device;
  c.signal = signal_of(b.feedback);
  c.frequency_hz = b.fixed_frequency_hz;
  // A rising foot's current drives the primary's down: that half is the right one, unless ends are swapped.
  c.reversed = (c.signal == BurstSignal::foot) != b.reversed;
  c.delay_s = chain_delay_s(b);
  c.lead_s = b.lead_s;
  c.dead_s = b.dead_time_s;
  const bool from_noise = b.start == BridgeStart::noise;
  c.kick_s = from_noise ? 0 : b.kick_s;
  c.noise_a = from_noise ? b.noise_a : 0;
  c.blanking_s = b.blanking_s;
  c.hysteresis = b.hysteresis_a;
  c.on_s = on_s;
  c.after_s = ring_down_s(burst_poles_hz(c).back());
  c.limit_a = b.current_limit_a;
  c.limit_delay_s = b.limit_delay_s;
  c.limit_skips = b.limit_action == LimitAction::skip_cycles;
  // Arcs about as long as the winding, which is what these coils are built for (common practice, no source).
  const StreamerLoad streamer =
      streamer_load(design, a, streamer_f_per_m * (a.has_winding ? design.secondary.winding_length_m : 0.3));
  c.breakout_v = streamer.breakout_v;
  c.streamer_f = streamer.farad;
  c.streamer_ohm = streamer.ohm;
  return c;
}

GateTransformer gate_transformer(const Bridge& b, double hz) {
  GateTransformer out{};
  const double half_s = 0.5 / hz;
  const double magnetising_h = b.gate_core_al_h * b.gate_primary_turns * b.gate_primary_turns;
  out.gate_v = gate_voltage_v(b);
  // Half of the swing either way: a capacitor in series with the driver keeps the flux centred.
  out.flux_t = b.driver_supply_v * half_s / (b.gate_primary_turns * b.gate_core_area_mm2 * 1e-6) / 2;
  out.magnetising_a = b.driver_supply_v * half_s / magnetising_h / 2;
  out.droop = 1 - std::exp(-b.driver_resistance_ohm * half_s / magnetising_h);
  const double knee = std::max(b.gate_resistance_ohm, 0.1);
  out.rise_s = std::max(b.device.gate_charge_c * knee / std::max(out.gate_v - b.device.gate_threshold_v, 1.0),
                        std::numbers::pi / 2 *
                            std::sqrt(b.gate_leakage_h * b.device.gate_charge_c / std::max(out.gate_v, 1.0)));
  // The sheet's charge is from nothing to one end; the way from the other end has no plateau.
  constexpr double both_ways = 1.8; // of it (common practice, no source)
  out.power_w_per_switch = both_ways * b.device.gate_charge_c * 2 * out.gate_v * hz;
  return out;
}

TurnOffs turn_offs(const Bridge& b, const BurstResult& burst, double bus_v) {
  TurnOffs out;
  if (burst.edges.empty()) return out;
  const auto worst = std::ranges::max_element(burst.edges, {}, &BurstEdge::off_a);
  out.first_a = burst.edges.front().off_a;
  out.worst_a = worst->off_a;
  out.worst_s = worst->time_s;
  out.last_a = burst.edges.back().off_a;
  const double amps = std::max(0.0, out.worst_a);
  const double rings_v = amps * std::sqrt(b.stray_h / b.device.output_f);
  out.peak_v = bus_v + (b.device.fall_s > 0 ? std::min(rings_v, amps * b.stray_h / b.device.fall_s) : rings_v);
  return out;
}

std::optional<double> input_signal_v(const Design& design, const Analysis& a, double top_v, double foot_a,
                                     double primary_a) {
  const Bridge& b = design.bridge;
  switch (b.feedback) {
  case Feedback::fixed:
    return {};
  case Feedback::foot_transformer:
    return foot_a / b.transformer_turns * b.burden_ohm;
  case Feedback::primary_transformer:
    return primary_a / b.transformer_turns * b.burden_ohm;
  case Feedback::antenna:
    break;
  }
  if (!a.resonator || a.resonator->charges.empty()) return {};
  // Mean potential along the rod, which stands on the level of the lowest turn, for 1 V at the top.
  constexpr int places = 16;
  std::vector<double> r(places, b.antenna_distance_m), z(places), volts(places, 0.0);
  for (int i = 0; i < places; ++i)
    z[static_cast<std::size_t>(i)] =
        std::max(0.02, design.secondary.base_height_m) + b.antenna_length_m * (i + 0.5) / places;
  for (const auto& [piece, charge] : a.resonator->charges)
    add_potential_v(piece, charge, Ground::floor, r, z, volts);
  double mean = 0;
  for (const double v : volts) mean += v / places;
  // A thin rod over a plane, its own capacitance (Howe's average potential; handbook form, value from memory).
  const double slender = std::max(std::log(2 * b.antenna_length_m / antenna_wire_m) - 1, 0.5);
  const double rod_f = 2 * std::numbers::pi * eps0_f_per_m * b.antenna_length_m / slender;
  return top_v * mean * rod_f / (rod_f + b.input_f);
}

} // namespace arc
