// Blocks of the usual feeds, sized for the gap.
#include "circuit/feed_arrangements.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <utility>

namespace arc {
namespace {

using Values = std::initializer_list<std::pair<const char*, double>>;

FeedBlock with(std::string_view kind, Values values) {
  FeedBlock block = make_block(kind);
  for (const auto& [key, value] : values) block.values[key] = value;
  return block;
}

// What every feed on the mains begins with.
std::vector<FeedBlock> wall(double rated_a) {
  return {with("breaker", {{"rated_current_a", rated_a}}), make_block("contactor"), make_block("variac")};
}

std::vector<FeedBlock> joined(std::vector<FeedBlock> first, std::vector<FeedBlock> rest) {
  for (FeedBlock& block : rest) first.push_back(std::move(block));
  return first;
}

double above(double firing_v) {
  return round_significant(1.15 * firing_v, 2);
}

// Effective volts whose peak is this much above the gap's.
double effective(double firing_v, double factor) {
  return round_significant(factor * firing_v / std::numbers::sqrt2, 2);
}

std::vector<FeedBlock> sign(double mains_v, double firing_v) {
  return joined(wall(10), {make_block("power-factor-capacitor"),
                           with("transformer", {{"rated_mains_v", mains_v},
                                                {"output_v", effective(firing_v, 1.2)},
                                                {"short_circuit_a", 0.06},
                                                {"resistance_ohm", round_significant(0.02 * firing_v / 0.06, 2)}}),
                           with("safety-gap", {{"firing_v", above(firing_v)}}), make_block("protection-filter")});
}

std::vector<FeedBlock> ovens(double mains_v, double firing_v) {
  const double many = std::clamp(std::ceil(firing_v / 2700), 2.0, 4.0);
  return joined(wall(16), {with("ballast-capacitor", {{"capacitance_f", 60e-6}}),
                           with("oven-transformers", {{"rated_mains_v", mains_v}, {"in_series", many}}),
                           with("safety-gap", {{"firing_v", above(firing_v)}})});
}

std::vector<FeedBlock> direct(double mains_v, double firing_v) {
  return joined(wall(16),
                {with("transformer", {{"rated_mains_v", mains_v},
                                      {"output_v", effective(firing_v, 0.65)}, // the choke doubles it
                                      {"short_circuit_a", 0.25},
                                      {"resistance_ohm", round_significant(0.02 * firing_v / 0.25, 2)}}),
                 with("bridge", {{"inverse_voltage_v", round_significant(1.5 * firing_v, 2)}}),
                 with("reservoir", {{"capacitance_f", 1e-6}, {"voltage_v", round_significant(firing_v, 2)}}),
                 with("charging-choke", {{"inductance_h", 20},
                                         {"safety_gap_v", above(firing_v)},
                                         {"inverse_voltage_v", round_significant(2.5 * firing_v, 2)}}),
                 with("safety-gap", {{"firing_v", above(firing_v)}})});
}

std::vector<FeedBlock> ignition(double mains_v, double firing_v) {
  return {with("breaker", {{"rated_current_a", 10}}),
          make_block("contactor"),
          make_block("dimmer"),                                  // its edge is what drives the coils
          with("ballast-capacitor", {{"capacitance_f", 40e-6}}), // two of 20 uF
          with("ignition-coils", {{"rated_mains_v", mains_v}}),
          with("safety-gap", {{"firing_v", above(firing_v)}})};
}

std::vector<FeedBlock> push_pull(double, double firing_v) {
  // pi times the supply on each switch, stepped up to a fifth above the gap.
  constexpr double supply_v = 24;
  return {
      with("flyback-driver", {{"supply_v", supply_v},
                              {"step_up", round_significant(1.2 * firing_v / (std::numbers::pi * supply_v), 2)}}),
      with("safety-gap", {{"firing_v", above(firing_v)}})};
}

} // namespace

std::span<const FeedArrangement> feed_arrangements() {
  static const std::array<FeedArrangement, 5> all{{
      {"sign", "Sign or burner transformer", "Limits its own current; the usual first feed", sign},
      {"ovens", "Oven transformers with a resonant capacitor",
       "Much power from the bench's junk: stout, live cores, kills at once", ovens},
      {"direct", "Direct current, resonant charging",
       "Rectifier, reservoir and choke: the tank goes to twice the supply, at any break rate", direct},
      {"ignition", "Ignition coils behind a dimmer and a ballast",
       "Two in antiphase; a small coil from the car parts shelf", ignition},
      {"push-pull", "Push-pull flyback driver", "A small coil from a bench supply, no mains transformer",
       push_pull},
  }};
  return all;
}

} // namespace arc
