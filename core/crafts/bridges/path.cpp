// Parts and their words; symbols after IEC 60617.
#include "crafts/bridges/path.h"

#include "coil/analysis.h"
#include "craft/design_fields.h"
#include "model/fields.h"
#include "quantity/say.h"

#include <fmt/format.h>

namespace arc {
namespace {

using enum Dimension;
constexpr const char* unknown = "–";

std::string_view hears(Feedback feedback) {
  return feedback == Feedback::antenna ? "antenna"
         : feedback == Feedback::fixed ? "generator"
                                       : "current-transformer";
}

std::string chosen(const Design& d, std::string_view key) {
  const ChoiceSpec& spec = design_choice(key);
  return std::string(spec.choices[spec.get(d)].title);
}

// "29.3 of 80 A"
std::string share(const std::string& part, const std::string& whole) {
  const auto unit = [](const std::string& text) { return text.substr(std::min(text.find(' '), text.size())); };
  return (unit(part) == unit(whole) ? part.substr(0, part.find(' ')) : part) + " of " + whole;
}

// From the wall to the switches; `b` is null where nothing is known of the burst.
void add_supply(const Design& d, const BridgeAnalysis* b, const Say& say, std::vector<PathPart>& out) {
  const Bridge& s = d.bridge;
  const Bus bus = bus_of(d);
  constexpr double tolerable = 0.15; // of the bus, that a burst takes off
  out.push_back({.symbol = "source",
                 .key = "bus",
                 .title = "Mains",
                 .value = say(d.site.mains_voltage_v, voltage),
                 .joint = b ? say(b->line_a, current, 2) : ""});
  out.push_back({.symbol = "rectifier",
                 .key = "bus",
                 .title = "Rectifier",
                 .value = s.bus_voltage_v ? "measured bus"
                          : bus.doubled   ? "doubler"
                                          : "bridge",
                 .joint = say(b ? b->circuit.bus_v : bus.volts, voltage)});
  out.push_back({.symbol = "electrolytics",
                 .key = "bus",
                 .title = "Reservoir",
                 .value = say(bus.reservoir.capacitance_f, capacitance),
                 .joint = b ? fmt::format("−{} a burst", say(b->burst.droop_v, voltage, 2)) : unknown,
                 .hot = b && b->burst.droop_v > tolerable * b->circuit.bus_v});
  const bool full = s.legs == BridgeLegs::full;
  out.push_back({.symbol = full ? "full-bridge" : "half-bridge",
                 .key = "switches",
                 .title = full ? "Full bridge" : "Half bridge",
                 .value = chosen(d, "bridge.switch_type"),
                 .joint = b ? share(say(b->burst.primary_peak_a, current), say(s.device.pulse_rating_a, current, 2))
                            : unknown,
                 .hot = b && b->burst.primary_peak_a > s.device.pulse_rating_a});
}

void add_coils(const Design& d, const Analysis* a, const BridgeAnalysis* b, const Say& say,
               std::vector<PathPart>& out) {
  if (is_dual_resonant(d))
    out.push_back({.symbol = "capacitor",
                   .key = "limit",
                   .title = "Tank",
                   .value = b ? say(*b->circuit.series_f, capacitance) : unknown,
                   .joint = b ? say(b->burst.series_peak_v, voltage) : unknown});
  out.push_back({.symbol = "primary",
                 .key = "limit",
                 .title = "Primary",
                 .value = a ? say(a->circuit.primary_h, inductance) : unknown,
                 .joint = a ? fmt::format("k {:.3f}", a->circuit.coupling) : "",
                 .wound = true});
  out.push_back({.symbol = "resonator",
                 .key = "feedback",
                 .title = "Resonator",
                 .value = b ? say(b->burst.frequency_hz, frequency, 4) : unknown,
                 .joint = b ? say(b->burst.top_peak_v, voltage) : unknown,
                 .wound = true});
}

// And back, from what is heard to the gates.
void add_drive(const Design& d, const BridgeAnalysis* b, const Say& say, std::vector<PathPart>& out) {
  const Bridge& s = d.bridge;
  out.push_back({.symbol = hears(s.feedback),
                 .key = "feedback",
                 .title = chosen(d, "bridge.feedback"),
                 .value = b && b->signal_v ? say(*b->signal_v, voltage) : "",
                 .joint = s.feedback == Feedback::fixed
                              ? say(s.fixed_frequency_hz, frequency, 4)
                              : fmt::format("threshold {}", say(s.input_threshold_v, voltage)),
                 .below = true});
  out.push_back({.symbol = "driver",
                 .key = "drive",
                 .title = "Driver",
                 .value = say(chain_delay_s(s), Dimension::time),
                 .joint = fmt::format("to {}", say(chain_limit_hz(s), frequency)),
                 .below = true,
                 .hot = b && b->burst.frequency_hz > b->chain_hz});
  out.push_back({.symbol = "gate-transformer",
                 .key = "gate",
                 .title = "Gate transformer",
                 .value = fmt::format("{} : 2 × {}", s.gate_primary_turns, s.gate_secondary_turns),
                 .joint = b ? fmt::format("{:.2f} T", b->gate.flux_t) : unknown,
                 .below = true,
                 .hot = b && b->gate.flux_t > s.gate_core_limit_t});
  const double gate_v = gate_voltage_v(s);
  constexpr double least_gate_v = 12; // common practice, no source
  out.push_back({.symbol = "gates",
                 .key = "gate",
                 .title = "Gates",
                 .value = say(gate_v, voltage),
                 .joint = fmt::format("dead {}", say(s.dead_time_s, Dimension::time)),
                 .below = true,
                 .hot = gate_v < least_gate_v || gate_v > s.device.gate_limit_v});
}

} // namespace

std::vector<PathPart> bridge_path(const Design& design, const Analysis* analysis, const BridgeAnalysis* bridge,
                                  UnitSystem units) {
  const Say say{units};
  const BridgeAnalysis* known = bridge && bridge->problem.empty() ? bridge : nullptr;
  std::vector<PathPart> out;
  add_supply(design, known, say, out);
  add_coils(design, analysis, known, say, out);
  add_drive(design, known, say, out);
  return out;
}

} // namespace arc
