// The table of feed blocks.
#include "circuit/feed.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <stdexcept>

namespace arc {
namespace {

using enum Dimension;

constexpr std::string_view mains_caution =
    "Mains side: local electrical codes and a licensed electrician come first. Unplug before touching.";
constexpr std::string_view charge_caution =
    "Stays charged and can recharge itself. Wait the bleed time, short with a grounding stick, leave the clip on.";
constexpr std::string_view core_caution =
    "High voltage on the winding and, with series windings, on the core: cores stand insulated.";

} // namespace

std::span<const BlockKind> block_kinds() {
  static const std::vector<BlockKind> kinds{
      {"breaker",
       "Breaker",
       {{"rated_current_a", "Rating", current, 0.1, 200, 16}, {"type_c", "Type C: 1", count, 0, 1, 0}},
       mains_caution},
      {"variac", "Variac", {{"setting", "Setting", number, 0.01, 1.4, 1}}, mains_caution},
      {"line-filter", "Line filter", {{"inductance_h", "Inductance", inductance, 1e-6, 0.1, 1e-3}}, mains_caution},
      {"power-factor-capacitor",
       "Power-factor capacitor",
       {{"capacitance_f", "Capacitance", capacitance, 1e-7, 1e-3, 40e-6}},
       mains_caution},
      {"ballast-inductor",
       "Ballast inductor",
       {{"inductance_h", "Inductance", inductance, 1e-5, 10, 0.03},
        {"resistance_ohm", "Resistance", resistance, 0, 1000, 0.5}},
       mains_caution},
      {"ballast-resistor",
       "Ballast resistor",
       {{"resistance_ohm", "Resistance", resistance, 0.01, 10000, 10}},
       mains_caution},
      {"transformer",
       "Transformer, current-limited",
       {{"rated_mains_v", "Rated mains", voltage, 10, 1000, 230},
        {"output_v", "Open output", voltage, 100, 200000, 8000},
        {"short_circuit_a", "Short circuit", current, 1e-3, 10, 0.06},
        {"resistance_ohm", "Resistance", resistance, 0, 1e6, 3000}},
       core_caution},
      {"oven-transformers",
       "Oven transformers",
       {{"rated_mains_v", "Rated mains", voltage, 10, 1000, 230},
        {"output_v", "Output, each", voltage, 100, 20000, 2100},
        {"leakage_h", "Leakage, each", inductance, 1e-3, 100, 4},
        {"resistance_ohm", "Resistance, each", resistance, 0, 1e5, 120},
        {"in_series", "In series", count, 1, 6, 2},
        {"in_parallel", "In parallel", count, 1, 6, 1}},
       core_caution},
      {"bridge",
       "Bridge rectifier",
       {{"inverse_voltage_v", "Inverse volts", voltage, 50, 1e6, 30000}},
       charge_caution},
      {"doubler",
       "Level-shift doubler",
       {{"capacitance_f", "Capacitance", capacitance, 1e-9, 1e-3, 1e-6},
        {"inverse_voltage_v", "Inverse volts", voltage, 50, 1e6, 30000}},
       charge_caution},
      {"reservoir",
       "Reservoir",
       {{"capacitance_f", "Capacitance", capacitance, 1e-9, 1e-2, 2e-6},
        {"voltage_v", "Rating", voltage, 10, 1e6, 20000},
        {"bleed_resistance_ohm", "Bleeder", resistance, 100, 1e12, 10e6}},
       charge_caution},
      {"charging-choke",
       "Charging choke",
       {{"inductance_h", "Inductance", inductance, 1e-3, 1000, 20},
        {"resistance_ohm", "Resistance", resistance, 0, 1e6, 200},
        {"diode", "De-Q diodes: 1", count, 0, 1, 1}},
       "Its voltage can reach twice the supply: a safety gap across it."},
      {"protection-filter",
       "Protection filter",
       {{"resistance_ohm", "Series R", resistance, 1, 1e6, 1000},
        {"capacitance_f", "Capacitance", capacitance, 1e-12, 1e-6, 500e-12}},
       "Resistors stay hot; its own safety gap is set before the main gap."},
  };
  return kinds;
}

const BlockKind* block_kind(std::string_view key) {
  for (const BlockKind& kind : block_kinds())
    if (kind.key == key) return &kind;
  return nullptr;
}

FeedBlock make_block(std::string_view kind) {
  const BlockKind* row = block_kind(kind);
  if (!row) throw std::out_of_range(fmt::format("no feed block is called {}", kind));
  FeedBlock block;
  block.kind = std::string(kind);
  for (const BlockNumber& number : row->numbers) block.values[std::string(number.key)] = number.standard;
  return block;
}

double block_value(const FeedBlock& block, std::string_view key) {
  if (const auto it = block.values.find(std::string(key)); it != block.values.end()) return it->second;
  if (const BlockKind* kind = block_kind(block.kind))
    for (const BlockNumber& number : kind->numbers)
      if (number.key == key) return number.standard;
  throw std::out_of_range(fmt::format("block {} has no number {}", block.kind, key));
}

std::string feed_problem(const std::vector<FeedBlock>& feed) {
  if (feed.empty()) return "there is no feed yet; add a transformer to start with";
  int source = -1, rectifier = -1;
  for (int i = 0; i < static_cast<int>(feed.size()); ++i) {
    const std::string& kind = feed[static_cast<std::size_t>(i)].kind;
    const BlockKind* row = block_kind(kind);
    if (!row) return fmt::format("block {} is of the unknown kind “{}”", i + 1, kind);
    const std::string title(row->title);
    const bool is_source = kind == "transformer" || kind == "oven-transformers";
    const bool mains_side = kind == "breaker" || kind == "variac" || kind == "line-filter" ||
                            kind == "power-factor-capacitor" || kind.starts_with("ballast");
    if (is_source && source >= 0)
      return fmt::format("block {}, {}: there is a transformer already; use its series count", i + 1, title);
    if (mains_side && source >= 0)
      return fmt::format("block {}, {}: belongs on the mains side, before the transformer", i + 1, title);
    if (!is_source && !mains_side && source < 0)
      return fmt::format("block {}, {}: needs a transformer before it", i + 1, title);
    if (is_source) source = i;
    if (kind == "bridge" || kind == "doubler") {
      if (rectifier >= 0) return fmt::format("block {}, {}: there is a rectifier already", i + 1, title);
      rectifier = i;
    }
    if ((kind == "reservoir" || kind == "charging-choke") && rectifier < 0)
      return fmt::format("block {}, {}: needs direct current; put a bridge or a doubler before it", i + 1, title);
  }
  if (source < 0) return "there is no transformer; add one before the tank";
  return {};
}

double breaker_trip_s(double rated_a, double current_a, bool type_c) {
  const double times = current_a / rated_a;
  const double magnetic = type_c ? 7.5 : 4;
  if (times < 1.13) return std::numeric_limits<double>::infinity();
  if (times >= magnetic) return 0.02;
  if (times > 2.55) return 30 * std::pow(2.55 / times, 2); // the same heat in the bimetal
  // Log-log line through an hour at 1.45 and 30 s at 2.55.
  const double slope = std::log(30.0 / 3600) / std::log(2.55 / 1.45);
  return 3600 * std::pow(times / 1.45, slope);
}

} // namespace arc
