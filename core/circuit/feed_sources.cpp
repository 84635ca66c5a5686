// Feed blocks from the wall to the source: what each is called, what it asks for, its danger, and how it joins the
// network.
#include "circuit/feed_block_rows.h"

#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

using enum Dimension;
using enum BlockPlace;

constexpr std::string_view mains_caution =
    "Mains side: local electrical codes and a licensed electrician come first. Unplug before touching.";
constexpr std::string_view core_caution =
    "High voltage on the winding and, with series windings, on the core: cores stand insulated.";

// Read by the builder, so that the current from the line is what a meter shows.
const BlockNumber idle{"idle_a", "Magnetising current, 0: typical", current, 0, 200, 0};
const BlockNumber idle_low_v{"idle_low_v", "2nd reading: voltage", voltage, 0, 1000, 0};
const BlockNumber idle_low_a{"idle_low_a", "2nd reading: current", current, 0, 200, 0};

void add_core(FeedBuilder& b, const FeedBlock& block, const char* name, double count) {
  if (const auto core = block_core(block, b.mains_v(), b.mains_hz())) b.magnetising(name, *core, count);
}

// A sign or burner transformer: a shunted core, little idle current, far from saturation (common practice).
CoreData sign_core(const FeedBlock& block, double, double hz) {
  const BlockValues v{block};
  const double rated_a = v("output_v") * v("short_circuit_a") / v("rated_mains_v");
  return {v("rated_mains_v"), hz, 0.08 * rated_a, 1.25, 0.35};
}

// An oven transformer: nearly saturated at its rated volts, amperes of idle current (common practice).
CoreData oven_core(const FeedBlock& block, double, double hz) {
  const BlockValues v{block};
  return {v("rated_mains_v"), hz, 350 / v("rated_mains_v"), 0.92, 0.25};
}

// Made for pulses from 12 V: a few millihenries, saturated by some amperes, whatever volts they are run at.
CoreData coil_core(const FeedBlock& block, double, double hz) {
  const BlockValues v{block};
  const double volts =
      v("saturation_a") * v("primary_inductance_h") * 2 * std::numbers::pi * hz / std::numbers::sqrt2;
  return {volts, hz, v("saturation_a") / std::numbers::sqrt2, 1, 0.2};
}

CoreData variac_core(const FeedBlock& block, double mains_v, double hz) {
  return {mains_v, hz, 0.03 * BlockValues{block}("rated_current_a"), 1.15, 0.3};
}

void build_transformer(FeedBuilder& b, const FeedBlock& block) {
  const BlockValues v{block};
  const double z = v("output_v") / v("short_circuit_a"), r = v("resistance_ohm");
  if (r >= z)
    throw std::invalid_argument("transformer: its winding resistance alone limits below the short-circuit current");
  add_core(b, block, "core", 1);
  b.series_resistor(r);
  b.series_inductor("leakage", std::sqrt(z * z - r * r) / (2 * std::numbers::pi * b.mains_hz()));
  // Resonance with the tank must not lift the winding far above its own peak (common practice, no source).
  b.limit_voltage(1.25 * std::numbers::sqrt2 * v("output_v"));
}

void build_oven(FeedBuilder& b, const FeedBlock& block) {
  const BlockValues v{block};
  const double many = v("in_series") / v("in_parallel");
  add_core(b, block, "cores", v("in_series") * v("in_parallel"));
  b.series_resistor(v("resistance_ohm") * many);
  b.series_inductor("leakage", v("leakage_h") * many);
  b.limit_voltage(1.5 * std::numbers::sqrt2 * v("output_v") * v("in_series")); // as above; they are built stouter
}

void build_coils(FeedBuilder& b, const FeedBlock& block) {
  const BlockValues v{block};
  const double coils = 2 * v("pairs");
  b.series_resistor(v("primary_resistance_ohm") * b.square() / coils);
  add_core(b, block, "cores", coils);
  b.series_resistor(2 * v("resistance_ohm") / v("pairs"));
  b.series_inductor("leakage", 2 * v("leakage_h") / v("pairs"));
  b.limit_voltage(2 * v("insulation_v"));
}

void build_driver(FeedBuilder& b, const FeedBlock& block) {
  const BlockValues v{block};
  b.driver(driver_switch_peak_v(v("supply_v")) * v("step_up"), v("output_resistance_ohm"), {0.7, 0.6});
}

double oven_ratio(const FeedBlock& f) {
  const BlockValues v{f};
  return v("output_v") * (v("in_series") - 2 * v("reversed")) / v("rated_mains_v");
}

std::string windings_oppose(const FeedBlock& f, const FeedSoFar&) {
  if (2 * BlockValues{f}("reversed") < BlockValues{f}("in_series")) return {};
  return "the windings oppose each other, so there is no output; swap one primary";
}

std::string one_dimmer(const FeedBlock&, const FeedSoFar& before) {
  return before.of_this_kind > 0 ? "there are two; one decides when the current starts" : "";
}

std::string one_limiter(const FeedBlock&, const FeedSoFar& before) {
  return before.of_this_kind > 0 ? "there are two; one limits, and its relay bridges it" : "";
}

} // namespace

std::vector<BlockKind> source_block_kinds() {
  return {
      {.key = "breaker",
       .title = "Breaker",
       .brief = "Breaker",
       .place = mains,
       .numbers = {{"rated_current_a", "Rating", current, 0.1, 200, 16}, {"type_c", "Type C", count, 0, 1, 0}},
       .danger = "Mains",
       .caution = mains_caution,
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.breaker(BlockValues{f}("rated_current_a"), BlockValues{f}("type_c") > 0.5);
           },
       .passes_driver = true,
       .role = BlockRole::breaker},
      {.key = "contactor",
       .title = "Contactor, hold to run",
       .brief = "Contactor",
       .place = mains,
       .numbers = {{"rated_current_a", "Rating", current, 0.1, 200, 16}},
       .danger = "Mains",
       .caution =
           "Held closed by the operator's hand and a key switch, both in series with its coil. Mains side: local "
           "electrical codes and a licensed electrician come first.",
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.limit_current(BlockValues{f}("rated_current_a")); },
       .passes_driver = true},
      {.key = "variac",
       .title = "Variac",
       .brief = "Variac",
       .place = mains,
       .numbers = {{"setting", "Setting", number, 0.01, 1.4, 1},
                   {"rated_current_a", "Rating", current, 0.1, 200, 8},
                   idle,
                   idle_low_v,
                   idle_low_a},
       .danger = "Mains, not isolated",
       .caution = "A variac does not isolate: its output is mains whatever the setting. Unplug before "
                  "touching; local electrical codes and a licensed electrician come first.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             add_core(b, f, "variac's core", 1);
             b.variac(BlockValues{f}("setting"));
             b.limit_current(BlockValues{f}("rated_current_a"));
           },
       .core = variac_core,
       .ratio = [](const FeedBlock& f) { return BlockValues{f}("setting"); },
       .role = BlockRole::variac},
      {.key = "line-filter",
       .title = "Line filter",
       .brief = "Filter",
       .place = mains,
       // What is printed on a filter is its common-mode inductance; the line sees near 1 % of it (common practice).
       .numbers = {{"leakage_h", "Leakage, near 1 % of what is printed", inductance, 1e-8, 0.1, 10e-6}},
       .danger = "Mains",
       .caution = mains_caution,
       .build = [](FeedBuilder& b,
                   const FeedBlock& f) { b.series_inductor("filter", BlockValues{f}("leakage_h") * b.square()); },
       .passes_driver = true},
      {.key = "power-factor-capacitor",
       .title = "Power-factor capacitor",
       .brief = "PF cap.",
       .place = mains,
       .numbers = {{"capacitance_f", "Capacitance", capacitance, 1e-7, 1e-3, 40e-6}},
       .danger = "Mains, stays charged",
       .caution = "Mains side, and it stays charged after unplugging: its own bleeder, and local codes.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.shunt_capacitor("power factor", BlockValues{f}("capacitance_f") / b.square(), 0.05 * b.square());
           },
       .role = BlockRole::correction,
       .ends = {.bus = false},
       .keeps_share = 1},
      {.key = "ballast-inductor",
       .title = "Ballast inductor",
       .brief = "Ballast L",
       .place = mains,
       .numbers = {{"inductance_h", "Inductance", inductance, 1e-5, 10, 0.03},
                   {"resistance_ohm", "Resistance", resistance, 0, 1000, 0.5}},
       .danger = "Mains",
       .caution = mains_caution,
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.series_resistor(BlockValues{f}("resistance_ohm") * b.square());
             b.series_inductor("ballast", BlockValues{f}("inductance_h") * b.square());
           },
       .ballast = true},
      {.key = "ballast-capacitor",
       .title = "Ballast capacitor",
       .brief = "Ballast C",
       .place = mains,
       .numbers = {{"capacitance_f", "Capacitance", capacitance, 1e-7, 1e-2, 40e-6}},
       .danger = "Mains, stays charged",
       .caution = "A motor-run capacitor, never an electrolytic one. Mains side, and it stays charged: "
                  "its own bleeder, and local codes.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.series_capacitor("ballast", BlockValues{f}("capacitance_f") / b.square());
           },
       .ballast = true,
       .keeps_share = 1},
      {.key = "ballast-resistor",
       .title = "Ballast resistor",
       .brief = "Ballast R",
       .place = mains,
       .numbers = {{"resistance_ohm", "Resistance", resistance, 0.01, 10000, 10}},
       .danger = "Mains, hot",
       .caution = mains_caution,
       .build = [](FeedBuilder& b,
                   const FeedBlock& f) { b.series_resistor(BlockValues{f}("resistance_ohm") * b.square()); },
       .ballast = true},
      {.key = "dimmer",
       .title = "Dimmer",
       .brief = "Dimmer",
       .place = mains,
       .numbers = {{"angle_deg", "Fires at", angle, 5, 175, 90},
                   {"rated_current_a", "Rating", current, 0.1, 200, 10}},
       .danger = "Mains, not isolated",
       .caution =
           "A dimmer does not isolate: its output is mains. Mains side: local electrical codes and a licensed "
           "electrician come "
           "first.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.dimmer(BlockValues{f}("angle_deg"));
             b.limit_current(BlockValues{f}("rated_current_a"));
           },
       .problem = one_dimmer,
       .ends = {.plate = false}},
      {.key = "inrush-limiter",
       .title = "Inrush limiter",
       .brief = "Inrush",
       .place = anywhere,
       .numbers = {{"resistance_ohm", "Cold", resistance, 0.01, 1e4, 33},
                   {"relay_after_s", "Relay after, 0: none", time, 0, 60, 0.5, 1e-3},
                   {"hot_ohm", "Hot, 0: a resistor", resistance, 0, 1000, 0},
                   {"rated_current_a", "Rated current, hot", current, 0.05, 200, 8},
                   {"pulse_j", "Pulse, 0: not stated", energy, 0, 1e5, 0}},
       .danger = "Mains, hot",
       .caution = "Hot enough to burn unless a relay bridges it; a hot thermistor limits nothing. Local electrical "
                  "codes and a licensed electrician come first.",
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.inrush_limiter(f); },
       .passes_driver = true,
       .problem = one_limiter,
       .role = BlockRole::inrush_limiter,
       .ends = {.tank = false, .plate = false}},
      {.key = "transformer",
       .title = "Transformer, current-limited",
       .brief = "Transf.",
       .place = source,
       .numbers = {{"rated_mains_v", "Rated mains", voltage, 10, 1000, 230},
                   {"output_v", "Open-circuit voltage", voltage, 100, 200000, 8000},
                   {"short_circuit_a", "Short-circuit current", current, 1e-3, 10, 0.06},
                   {"resistance_ohm", "Resistance", resistance, 0, 1e6, 3000},
                   idle,
                   idle_low_v,
                   idle_low_a},
       .danger = "High voltage",
       .caution = core_caution,
       .build = build_transformer,
       .core = sign_core,
       .ratio = [](const FeedBlock& f) { return BlockValues{f}("output_v") / BlockValues{f}("rated_mains_v"); },
       .role = BlockRole::transformer,
       .ends = {.bus = false}},
      {.key = "oven-transformers",
       .title = "Oven transformers",
       .brief = "Ovens",
       .place = source,
       .numbers = {{"rated_mains_v", "Rated mains", voltage, 10, 1000, 230},
                   {"output_v", "Output, each", voltage, 100, 20000, 2100},
                   {"leakage_h", "Leakage, each", inductance, 1e-3, 100, 4},
                   {"resistance_ohm", "Resistance, each", resistance, 0, 1e5, 120},
                   {"in_series", "In series", count, 1, 6, 2},
                   {"in_parallel", "In parallel", count, 1, 6, 1},
                   {"reversed", "Opposed", count, 0, 5, 0},
                   idle,
                   idle_low_v,
                   idle_low_a},
       .danger = "Kills at once; live cores",
       .caution = "They can give amperes at kilovolts. Cores sit at half the output with series windings: tie each "
                  "core to "
                  "its winding's low end, insulate it, and keep away.",
       .build = build_oven,
       .core = oven_core,
       .ratio = oven_ratio,
       .problem = windings_oppose,
       .ends = {.bus = false}},
      {.key = "ignition-coils",
       .title = "Ignition coils in antiphase",
       .brief = "Ign. coils",
       .place = source,
       .numbers = {{"rated_mains_v", "Rated mains", voltage, 5, 1000, 120},
                   {"output_v", "Output, each", voltage, 1000, 100000, 12000},
                   {"leakage_h", "Leakage, each", inductance, 1e-2, 1000, 40},
                   {"resistance_ohm", "Resistance, each", resistance, 0, 1e6, 9000},
                   {"pairs", "Pairs", count, 1, 6, 1},
                   {"insulation_v", "Insulation, each", voltage, 1000, 200000, 30000},
                   {"primary_inductance_h", "Primary, each", inductance, 1e-4, 1, 6e-3},
                   {"primary_resistance_ohm", "Primary R, each", resistance, 0, 100, 0.8},
                   {"saturation_a", "Saturates at", current, 0.5, 100, 8}},
       .danger = "High voltage",
       .caution = "Both output terminals are live against ground, and the case takes part. Insulate, and cool: "
                  "the coils are made for short pulses.",
       .build = build_coils,
       .core = coil_core,
       .ratio = [](const FeedBlock& f) { return 2 * BlockValues{f}("output_v") / BlockValues{f}("rated_mains_v"); },
       .role = BlockRole::ignition_coils,
       .ends = {.bus = false, .plate = false}},
      {.key = "flyback-driver",
       .title = "Push-pull flyback driver",
       .brief = "Flyback",
       .place = source,
       .numbers = {{"supply_v", "Supply", voltage, 3, 400, 24},
                   {"inductance_h", "Tank inductance", inductance, 1e-7, 1e-2, 20e-6},
                   {"capacitance_f", "Tank capacitance", capacitance, 1e-10, 1e-4, 1.45e-6},
                   {"step_up", "Step-up", number, 1, 5000, 220},
                   {"output_resistance_ohm", "Output R", resistance, 100, 1e8, 2e6}},
       .danger = "RF burns, high voltage",
       .caution = "Burns deep without a shock, and charges whatever is near. Switches see pi times the "
                  "supply: never start it unloaded into an open output.",
       .build = build_driver,
       .rectifies = true,
       .own_supply = true,
       .role = BlockRole::push_pull_driver,
       .ends = {.bus = false, .plate = false}},
  };
}

} // namespace arc
