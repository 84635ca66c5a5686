// Resistors, amperes, parts.
#include "timing/gate_drive.h"

#include <algorithm>
#include <stdexcept>

namespace arc {
namespace {

constexpr double saturated_v = 0.3; // of a transistor that is fully on
constexpr double sure = 2;          // times the trigger current
constexpr int e24_steps = 24;

} // namespace

GateDrive gate_drive(const GateDriveTask& t) {
  GateDrive out;
  const double left_v = t.source_v - t.diode_v;
  if (!(left_v > 0) || left_v / t.source_ohm < 0.2 * t.diode_a)
    throw std::invalid_argument(
        "the instrument cannot light the coupler's diode: more volts, or a buffer before it");
  const double wanted = left_v / t.diode_a - t.source_ohm;
  constexpr double least_ohm = 1;
  out.diode_ohm = wanted > least_ohm ? nearest_e_value(wanted, e24_steps) : 0;
  out.diode_a = left_v / (out.diode_ohm + t.source_ohm);
  out.coupler_a = t.transfer * out.diode_a;
  const double gate_v = t.gate_supply_v - t.trigger_v - saturated_v;
  if (!(gate_v > 0))
    throw std::invalid_argument(
        "the gate's supply is too low to trigger it: nine volts, as a battery gives, are usual");
  out.gate_ohm = nearest_e_value(gate_v / (sure * t.trigger_a), e24_steps);
  out.gate_a = gate_v / out.gate_ohm;
  out.amplified = out.gate_a > out.coupler_a;
  out.isolation_v = 2 * t.stands_off_v;
  out.fibre = out.isolation_v > coupler_isolation_v;
  const auto part = [&](const char* name, const char* what, double value = 0) {
    out.parts.push_back({name, what, value, Dimension::resistance});
  };
  part("U1", out.fibre ? "fibre transmitter and receiver" : "opto-coupler, transistor output");
  if (out.diode_ohm > 0) part("R1", "resistor, quarter watt", out.diode_ohm);
  part("R2", "resistor, one watt", out.gate_ohm);
  part("R3", "resistor, gate to cathode", 1000);
  if (out.amplified) part("Q1", "NPN transistor, half an ampere");
  part("B1", "battery of the gate's own");
  out.connections = {out.diode_ohm > 0 ? "R1: instrument to the diode of U1"
                                       : "Instrument straight to the diode of U1",
                     out.amplified ? "U1's output: B1 plus to the base of Q1" : "U1's output: B1 plus to R2",
                     out.amplified ? "Q1: collector to B1 plus, emitter to R2" : "",
                     "R2: to the gate",
                     "R3: gate to cathode",
                     "B1 minus: the thyristor's cathode"};
  std::erase(out.connections, "");
  return out;
}

} // namespace arc
