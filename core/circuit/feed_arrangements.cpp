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

constexpr double most_bleeder_ohm = 1e6;

// Units of a usual rating that hold a tenth above the bus, and give these farads.
FeedBlock electrolytics(double bus_v, double farad) {
  constexpr double unit_v = 450;
  const double series = std::max(1.0, std::ceil(1.1 * bus_v / unit_v));
  const double unit_f = round_significant(farad * series, 2);
  return with("electrolytics", {{"unit_capacitance_f", unit_f},
                                {"unit_voltage_v", unit_v},
                                {"units_in_series", series},
                                {"unit_bleed_ohm", usual_bleeder_ohm(unit_f, most_bleeder_ohm)},
                                {"unit_esr_ohm", round_significant(1e-4 / unit_f, 2)}});
}

// A cold resistor that lets the peak of these mains drive some 12 A, bridged by a relay once the bus is up.
FeedBlock limiter(double mains_v, double farad, double time_constants) {
  const double ohm = round_significant(std::numbers::sqrt2 * mains_v / 12, 2);
  return with("inrush-limiter",
              {{"resistance_ohm", ohm},
               {"relay_after_s", std::clamp(round_significant(time_constants * ohm * farad, 1), 0.3, 8.0)}});
}

std::vector<FeedBlock> bus(double mains_v, double farad, double time_constants, const FeedBlock& rectifier,
                           double bus_v) {
  return {with("breaker", {{"rated_current_a", 16}}),
          make_block("contactor"),
          with("variac", {{"rated_current_a", 10}}),
          make_block("line-filter"),
          limiter(mains_v, farad, time_constants),
          rectifier,
          electrolytics(bus_v, farad),
          with("fuse", {{"rated_current_a", 16}}),
          with("shunt", {{"resistance_ohm", 0.01}, {"power_w", 5}})};
}

double inverse_v(double bus_v) {
  return round_significant(2.5 * bus_v, 1);
}

std::vector<FeedBlock> rectified(double mains_v, double farad) {
  const double bus_v = std::numbers::sqrt2 * mains_v;
  return bus(mains_v, farad, 12,
             with("bridge", {{"inverse_voltage_v", inverse_v(bus_v)}, {"average_current_a", 25}}), bus_v);
}

std::vector<FeedBlock> doubled(double mains_v, double farad) {
  const double bus_v = 2 * std::numbers::sqrt2 * mains_v, each_f = round_significant(2 * farad, 2);
  std::vector<FeedBlock> out =
      bus(mains_v, each_f, 25,
          with("full-wave-doubler", {{"capacitance_f", each_f},
                                     {"bleed_resistance_ohm", usual_bleeder_ohm(each_f, most_bleeder_ohm)},
                                     {"inverse_voltage_v", inverse_v(bus_v)},
                                     {"average_current_a", 25}}),
          bus_v);
  std::erase_if(out, [](const FeedBlock& b) { return b.kind == "electrolytics"; }); // its own capacitors are
  return out;
}

std::vector<FeedBlock> plain(double mains_v, double farad) {
  const double bus_v = std::numbers::sqrt2 * mains_v;
  return {with("breaker", {{"rated_current_a", 10}}), make_block("contactor"),
          with("inrush-limiter",
               {{"resistance_ohm", 10}, {"relay_after_s", 0}, {"hot_ohm", 0.3}, {"rated_current_a", 5}}),
          with("bridge", {{"inverse_voltage_v", inverse_v(bus_v)}, {"average_current_a", 10}}),
          electrolytics(bus_v, farad)};
}

// Oven transformers whose crest, times `crest`, comes near what the tube is rated for.
FeedBlock plate_ovens(double mains_v, double plate_v, double crest) {
  constexpr double each_v = 2100;
  const double many = std::clamp(std::floor(1.05 * plate_v / (crest * std::numbers::sqrt2 * each_v)), 1.0, 4.0);
  // A tube for less is fed from a single one wound down or kept low by the variac.
  const double one_v = std::min(each_v, round_significant(1.05 * plate_v / (crest * std::numbers::sqrt2), 2));
  return with("oven-transformers", {{"rated_mains_v", mains_v}, {"in_series", many}, {"output_v", one_v}});
}

std::vector<FeedBlock> shifted(double mains_v, double plate_v) {
  const double inverse = round_significant(2.5 * plate_v, 1);
  return joined(wall(16), {plate_ovens(mains_v, plate_v, 2), with("level-shifter", {{"capacitance_f", 1e-6},
                                                                                    {"inverse_voltage_v", inverse},
                                                                                    {"average_current_a", 0.5}})});
}

std::vector<FeedBlock> full_wave(double mains_v, double plate_v) {
  return joined(wall(16), {plate_ovens(mains_v, plate_v, 1),
                           with("bridge", {{"inverse_voltage_v", round_significant(2 * plate_v, 1)},
                                           {"average_current_a", 0.5}})});
}

std::vector<FeedBlock> filtered(double mains_v, double plate_v) {
  return joined(full_wave(mains_v, plate_v),
                {with("filter-choke", {{"inductance_h", 5}, {"resistance_ohm", 80}, {"current_a", 1}}),
                 with("reservoir", {{"capacitance_f", 4e-6},
                                    {"voltage_v", round_significant(1.5 * plate_v, 2)},
                                    {"bleed_resistance_ohm", 4e6}})});
}

} // namespace

std::span<const FeedArrangement> feed_arrangements() {
  static const std::array<FeedArrangement, 11> all{{
      {"sign", "Sign or burner transformer", "Limits its own current; the usual first feed", FeedEnd::tank, sign},
      {"ovens", "Oven transformers with a resonant capacitor",
       "Much power from the bench's junk: stout, live cores, kills at once", FeedEnd::tank, ovens},
      {"direct", "Direct current, resonant charging",
       "Rectifier, reservoir and choke: the tank goes to twice the supply, at any break rate", FeedEnd::tank,
       direct},
      {"ignition", "Ignition coils behind a dimmer and a ballast",
       "Two in antiphase; a small coil from the car parts shelf", FeedEnd::tank, ignition},
      {"push-pull", "Push-pull flyback driver", "A small coil from a bench supply, no mains transformer",
       FeedEnd::tank, push_pull},
      {"rectified", "Rectified mains behind a variac",
       "Raised slowly from zero, a limiter that a relay bridges, fuse and shunt: what builders keep", FeedEnd::bus,
       rectified},
      {"doubled", "Voltage doubler behind a variac",
       "Twice the bus; switches for that, and the line current doubles too", FeedEnd::bus, doubled},
      {"plain", "Rectified mains behind a thermistor", "The least that works, for a small coil at full mains",
       FeedEnd::bus, plain},
      {"shifted", "Oven transformer and level shifter",
       "Swings from zero to twice the peak once a cycle: tall arcs, and what staccato needs", FeedEnd::plate,
       shifted},
      {"full-wave", "Oven transformers, full wave",
       "Two humps a cycle: fuller, softer arcs; more transformers for the same volts", FeedEnd::plate, full_wave},
      {"filtered", "Full wave with choke and reservoir",
       "Direct current: a quiet flame; the plate works all the time and the store can kill", FeedEnd::plate,
       filtered},
  }};
  return all;
}

} // namespace arc
