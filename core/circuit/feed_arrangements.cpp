// Blocks of the usual feeds, sized for the gap.
#include "circuit/feed_arrangements.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>
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

std::vector<FeedBlock> sign(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, firing_v = d.gap.firing_voltage_v;
  return joined(wall(10), {make_block("power-factor-capacitor"),
                           with("transformer", {{"rated_mains_v", mains_v},
                                                {"output_v", effective(firing_v, 1.2)},
                                                {"short_circuit_a", 0.06},
                                                {"resistance_ohm", round_significant(0.02 * firing_v / 0.06, 2)}}),
                           with("safety-gap", {{"firing_v", above(firing_v)}}), make_block("protection-filter")});
}

std::vector<FeedBlock> ovens(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, firing_v = d.gap.firing_voltage_v;
  const double many = std::clamp(std::ceil(firing_v / 2700), 2.0, 4.0);
  // 60 uF at 230 V and 50 Hz resonate with the leakage of a stack (common practice, no source); referred to other
  // mains the leakage goes as the square of the volts.
  const double as_here = 230 / mains_v * 50 / d.site.mains_frequency_hz;
  const double ballast = round_significant(60e-6 * as_here * as_here, 2);
  return joined(wall(16), {with("ballast-capacitor", {{"capacitance_f", ballast}}),
                           with("oven-transformers", {{"rated_mains_v", mains_v}, {"in_series", many}}),
                           with("safety-gap", {{"firing_v", above(firing_v)}})});
}

std::vector<FeedBlock> direct(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, firing_v = d.gap.firing_voltage_v;
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

std::vector<FeedBlock> ignition(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, firing_v = d.gap.firing_voltage_v;
  return {with("breaker", {{"rated_current_a", 10}}), make_block("contactor"),
          make_block("dimmer"), // its edge is what drives the coils
          // 26 uF at 120 V; as much current at other mains.
          with("ballast-capacitor", {{"capacitance_f", round_significant(26e-6 * 120 / mains_v, 2)}}),
          make_block("ignition-coils"), // whose ratio does not ask for the mains
          with("safety-gap", {{"firing_v", above(firing_v)}})};
}

std::vector<FeedBlock> push_pull(const Design& d) {
  const double firing_v = d.gap.firing_voltage_v;
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

// A cold resistor that lets the peak of these mains drive some 45 A, bridged by a relay once the bus is up; a
// larger one would leave the bus so far below the peak, as its bleeder draws, that the relay closes into a surge of
// its own.
FeedBlock limiter(double mains_v, double farad, double time_constants) {
  const double ohm = round_significant(std::numbers::sqrt2 * mains_v / 45, 2);
  return with("inrush-limiter",
              {{"resistance_ohm", ohm},
               {"relay_after_s", std::clamp(round_significant(time_constants * ohm * farad, 1), 0.3, 20.0)}});
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

std::vector<FeedBlock> rectified(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, farad = d.bridge.reservoir_f;
  const double bus_v = std::numbers::sqrt2 * mains_v;
  return bus(mains_v, farad, 12,
             with("bridge", {{"inverse_voltage_v", inverse_v(bus_v)}, {"average_current_a", 25}}), bus_v);
}

std::vector<FeedBlock> doubled(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, farad = d.bridge.reservoir_f;
  const double bus_v = 2 * std::numbers::sqrt2 * mains_v, each_f = round_significant(2 * farad, 2);
  std::vector<FeedBlock> out =
      bus(mains_v, each_f, 60,
          with("full-wave-doubler", {{"capacitance_f", each_f},
                                     {"bleed_resistance_ohm", usual_bleeder_ohm(each_f, most_bleeder_ohm)},
                                     {"inverse_voltage_v", inverse_v(bus_v)},
                                     {"average_current_a", 25}}),
          bus_v);
  std::erase_if(out, [](const FeedBlock& b) { return b.kind == "electrolytics"; }); // its own capacitors are
  return out;
}

std::vector<FeedBlock> plain(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, farad = d.bridge.reservoir_f;
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
  const double one_v = std::min(each_v, round_significant(0.95 * plate_v / (crest * std::numbers::sqrt2), 2));
  return with("oven-transformers", {{"rated_mains_v", mains_v}, {"in_series", many}, {"output_v", one_v}});
}

std::vector<FeedBlock> shifted(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, plate_v = d.tube.tube.plate_voltage_v;
  const double inverse = round_significant(2.5 * plate_v, 1);
  const FeedBlock ovens = plate_ovens(mains_v, plate_v, 2);
  const double peak_v = std::numbers::sqrt2 * block_value(ovens, "output_v") * block_value(ovens, "in_series");
  return joined(wall(16), {ovens, with("level-shifter", {{"capacitance_f", 1e-6},
                                                         {"rated_v", round_significant(1.4 * peak_v, 1)},
                                                         {"bleed_resistance_ohm", 10e6},
                                                         {"inverse_voltage_v", inverse},
                                                         {"average_current_a", 0.5}})});
}

std::vector<FeedBlock> full_wave(const Design& d) {
  const double mains_v = d.site.mains_voltage_v, plate_v = d.tube.tube.plate_voltage_v;
  return joined(wall(16), {plate_ovens(mains_v, plate_v, 1),
                           with("bridge", {{"inverse_voltage_v", round_significant(2 * plate_v, 1)},
                                           {"average_current_a", 0.5}})});
}

std::vector<FeedBlock> filtered(const Design& d) {
  const double plate_v = d.tube.tube.plate_voltage_v;
  return joined(full_wave(d),
                {with("filter-choke", {{"inductance_h", 5}, {"resistance_ohm", 80}, {"current_a", 1}}),
                 with("reservoir", {{"capacitance_f", 4e-6},
                                    {"voltage_v", round_significant(1.5 * plate_v, 2)},
                                    {"bleed_resistance_ohm", 4e6}})});
}

// Switches of a bridge, a tenth above the bus.
std::string too_much_for_switches(const Design& d, double bus_v) {
  const double rated = d.bridge.device.voltage_rating_v;
  if (1.1 * bus_v <= rated) return {};
  return fmt::format("{:.0f} V of bus on switches for {:.0f} V", bus_v, rated);
}

} // namespace

void size_for_line(SharedList<FeedBlock>& feed, double line_a) {
  constexpr std::array sizes{6.0, 10.0, 16.0, 20.0, 25.0, 32.0};
  auto size = std::ranges::find_if(sizes, [&](double a) { return a >= 1.2 * line_a; });
  if (size == sizes.end() && sizes.back() > line_a) --size;
  if (size == sizes.end()) return;
  for (FeedBlock& block : feed) {
    const BlockKind* kind = block_kind(block.kind);
    const bool rated = kind && kind->place != BlockPlace::behind && block.values.contains("rated_current_a");
    if (rated && block.values["rated_current_a"] < *size) block.values["rated_current_a"] = *size;
  }
}

const FeedArrangement& feed_arrangement(std::string_view key) {
  for (const FeedArrangement& row : feed_arrangements())
    if (row.key == key) return row;
  throw std::out_of_range(fmt::format("no usual feed \"{}\"", key));
}

std::span<const FeedArrangement> feed_arrangements() {
  static const std::array<FeedArrangement, 11> all{{
      {"sign", "Sign or burner transformer", "Limits its own current; the usual first feed", FeedEnd::tank, sign},
      {"ovens", "Oven transformers with a resonant capacitor",
       "Much power from the bench's junk: stout, live cores, kills at once", FeedEnd::tank, ovens},
      {"direct", "Direct current, resonant charging",
       "Rectifier, reservoir and choke: the tank goes to up to twice the supply; it takes a rotary gap",
       FeedEnd::tank, direct},
      {"ignition", "Ignition coils behind a dimmer and a ballast",
       "Two in antiphase; a small coil from the car parts shelf", FeedEnd::tank, ignition},
      {"push-pull", "Push-pull flyback driver", "A small coil from a bench supply, no mains transformer",
       FeedEnd::tank, push_pull},
      {"rectified", "Rectified mains behind a variac",
       "Raised slowly from zero, a limiter that a relay bridges, fuse and shunt: what builders keep", FeedEnd::bus,
       rectified},
      {"doubled", "Voltage doubler behind a variac",
       "Twice the bus; switches for that, and the line current doubles too", FeedEnd::bus, doubled,
       [](const Design& d) { return too_much_for_switches(d, 2 * std::numbers::sqrt2 * d.site.mains_voltage_v); }},
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
