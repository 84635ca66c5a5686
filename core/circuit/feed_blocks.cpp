// The table of feed blocks: what each is called, what it asks for, its danger, and how it joins the network.
#include "circuit/feed.h"

#include "circuit/feed_network.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

using enum Dimension;
using enum BlockPlace;

constexpr std::string_view mains_caution =
    "Mains side: local electrical codes and a licensed electrician come first. Unplug before touching.";
constexpr std::string_view charge_caution =
    "Stays charged and can recharge itself. Wait the bleed time, short with a grounding stick, leave the clip on.";
constexpr std::string_view core_caution =
    "High voltage on the winding and, with series windings, on the core: cores stand insulated.";
constexpr std::string_view xray_caution =
    "Stays charged. Where its voltage stands on a hard vacuum, above some ten kilovolts, X-rays come out.";

const BlockNumber inverse{"inverse_voltage_v", "Diode, inverse", voltage, 10, 1e6, 30000};
const BlockNumber average{"average_current_a", "Diode, average", current, 1e-3, 1e4, 1};
const BlockNumber series_diodes{"diodes_in_series", "In series", count, 1, 500, 1};
const BlockNumber parallel_diodes{"diodes_in_parallel", "Side by side", count, 1, 50, 1};
const BlockNumber sharing{"sharing_ohm", "Sharing R, 0: none", resistance, 0, 1e12, 0};
const BlockNumber doubling{"capacitance_f", "Capacitance", capacitance, 1e-9, 1e-3, 1e-6};
const BlockNumber doubling_v{"rated_v", "Capacitor rated, peak, 0: not known", voltage, 0, 1e6, 0, 1};
const BlockNumber doubling_a{"rated_ripple_a", "Ripple rated, RMS, 0: not known", current, 0, 1e4, 0, 1e-3};
const BlockNumber doubling_bleed{"bleed_resistance_ohm", "Bleeder across it, 0: none", resistance, 0, 1e12, 0, 10};
const BlockNumber backwards{"reversed", "Reversed", count, 0, 1, 0};
using BlockNumbers = std::vector<BlockNumber>;
const BlockNumber safety{"safety_gap_v", "Safety gap, 0: none", voltage, 0, 1e6, 0, 100};

// The numbers of a block in their order, from those that several kinds share.
BlockNumbers joined(std::initializer_list<BlockNumbers> parts) {
  BlockNumbers out;
  for (const BlockNumbers& part : parts) out.insert(out.end(), part.begin(), part.end());
  return out;
}

// Read by the builder, so that the current from the line is what a meter shows.
const BlockNumber idle{"idle_a", "Idle current, 0: usual", current, 0, 200, 0};
const BlockNumber idle_low_v{"idle_low_v", "Idle read again at", voltage, 0, 1000, 0};
const BlockNumber idle_low_a{"idle_low_a", "… it drew", current, 0, 200, 0};

// Numbers of a block by key.
struct Values {
  const FeedBlock& block;
  double operator()(std::string_view key) const { return block_value(block, key); }
};

void add_core(FeedBuilder& b, const FeedBlock& block, const char* name, double count) {
  if (const auto core = block_core(block, b.mains_v(), b.mains_hz())) b.magnetising(name, *core, count);
}

// A sign or burner transformer: a shunted core, little idle current, far from saturation (common practice).
CoreData sign_core(const FeedBlock& block, double, double hz) {
  const Values v{block};
  const double rated_a = v("output_v") * v("short_circuit_a") / v("rated_mains_v");
  return {v("rated_mains_v"), hz, 0.08 * rated_a, 1.25, 0.35};
}

// An oven transformer: nearly saturated at its rated volts, amperes of idle current (common practice).
CoreData oven_core(const FeedBlock& block, double, double hz) {
  const Values v{block};
  return {v("rated_mains_v"), hz, 350 / v("rated_mains_v"), 0.92, 0.25};
}

// Made for pulses from 12 V: a few millihenries, saturated by some amperes, whatever volts they are run at.
CoreData coil_core(const FeedBlock& block, double, double hz) {
  const Values v{block};
  const double volts =
      v("saturation_a") * v("primary_inductance_h") * 2 * std::numbers::pi * hz / std::numbers::sqrt2;
  return {volts, hz, v("saturation_a") / std::numbers::sqrt2, 1, 0.2};
}

// Of a bleeder: 0 stands for none.
double ohms_or_none(double ohm) {
  return ohm > 0 ? ohm : std::numeric_limits<double>::infinity();
}

CoreData variac_core(const FeedBlock& block, double mains_v, double hz) {
  return {mains_v, hz, 0.03 * Values{block}("rated_current_a"), 1.15, 0.3};
}

void build_transformer(FeedBuilder& b, const FeedBlock& block) {
  const Values v{block};
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
  const Values v{block};
  const double many = v("in_series") / v("in_parallel");
  add_core(b, block, "cores", v("in_series") * v("in_parallel"));
  b.series_resistor(v("resistance_ohm") * many);
  b.series_inductor("leakage", v("leakage_h") * many);
  b.limit_voltage(1.5 * std::numbers::sqrt2 * v("output_v") * v("in_series")); // as above; they are built stouter
}

void build_coils(FeedBuilder& b, const FeedBlock& block) {
  const Values v{block};
  const double coils = 2 * v("pairs");
  b.series_resistor(v("primary_resistance_ohm") * b.square() / coils);
  add_core(b, block, "cores", coils);
  b.series_resistor(2 * v("resistance_ohm") / v("pairs"));
  b.series_inductor("leakage", 2 * v("leakage_h") / v("pairs"));
  b.limit_voltage(2 * v("insulation_v"));
}

void build_driver(FeedBuilder& b, const FeedBlock& block) {
  const Values v{block};
  b.driver(driver_switch_peak_v(v("supply_v")) * v("step_up"), v("output_resistance_ohm"), {0.7, 0.6});
}

void build_choke(FeedBuilder& b, const FeedBlock& block) {
  const Values v{block};
  const Node before = b.here();
  if (v("diode") > 0.5) b.series_diode("de-Q diodes", block);
  b.series_resistor(v("resistance_ohm"));
  b.series_inductor("choke", v("inductance_h"));
  b.limit_current(v("current_a"));
  if (v("safety_gap_v") > 0) b.safety_gap_across("safety gap of the choke", before, v("safety_gap_v"));
}

double oven_ratio(const FeedBlock& f) {
  const Values v{f};
  return v("output_v") * (v("in_series") - 2 * v("reversed")) / v("rated_mains_v");
}

std::string windings_oppose(const FeedBlock& f, const FeedSoFar&) {
  if (2 * Values{f}("reversed") < Values{f}("in_series")) return {};
  return "the windings oppose each other, so there is no output; swap one primary";
}

std::string one_dimmer(const FeedBlock&, const FeedSoFar& before) {
  return before.of_this_kind > 0 ? "there are two; one decides when the current starts" : "";
}

std::string one_limiter(const FeedBlock&, const FeedSoFar& before) {
  return before.of_this_kind > 0 ? "there are two; one limits, and its relay bridges it" : "";
}

std::string reservoir_across_shifter(const FeedBlock&, const FeedSoFar& before) {
  if (!before.shifted || before.direct) return {};
  return "it would lie across the level shifter's diodes; put half-wave diodes between the two, or use a half-wave "
         "doubler";
}

bool has_de_q_diodes(const FeedBlock& f) {
  return Values{f}("diode") > 0.5;
}

std::string de_q_diodes_against(const FeedBlock& f, const FeedSoFar& before) {
  if (!has_de_q_diodes(f) || is_reversed(f) == before.negative) return {};
  return "its diodes are reversed against the rectifier before it, so that nothing reaches the tank; turn them "
         "around";
}

} // namespace

std::span<const BlockKind> block_kinds() {
  const BlockNumbers diode_numbers{inverse, average, series_diodes, parallel_diodes, sharing};
  static const std::vector<BlockKind> kinds{
      {.key = "breaker",
       .title = "Breaker",
       .brief = "Breaker",
       .place = mains,
       .numbers = {{"rated_current_a", "Rating", current, 0.1, 200, 16}, {"type_c", "Type C", count, 0, 1, 0}},
       .danger = "Mains",
       .caution = mains_caution,
       .build = [](FeedBuilder& b,
                   const FeedBlock& f) { b.breaker(Values{f}("rated_current_a"), Values{f}("type_c") > 0.5); },
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
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.limit_current(Values{f}("rated_current_a")); },
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
             b.variac(Values{f}("setting"));
             b.limit_current(Values{f}("rated_current_a"));
           },
       .core = variac_core,
       .ratio = [](const FeedBlock& f) { return Values{f}("setting"); },
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
                   const FeedBlock& f) { b.series_inductor("filter", Values{f}("leakage_h") * b.square()); },
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
             b.shunt_capacitor("power factor", Values{f}("capacitance_f") / b.square(), 0.05 * b.square());
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
             b.series_resistor(Values{f}("resistance_ohm") * b.square());
             b.series_inductor("ballast", Values{f}("inductance_h") * b.square());
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
       .build = [](FeedBuilder& b,
                   const FeedBlock& f) { b.series_capacitor("ballast", Values{f}("capacitance_f") / b.square()); },
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
                   const FeedBlock& f) { b.series_resistor(Values{f}("resistance_ohm") * b.square()); },
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
             b.dimmer(Values{f}("angle_deg"));
             b.limit_current(Values{f}("rated_current_a"));
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
                   {"rated_current_a", "Hot at", current, 0.05, 200, 8},
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
                   {"output_v", "Open output", voltage, 100, 200000, 8000},
                   {"short_circuit_a", "Short circuit", current, 1e-3, 10, 0.06},
                   {"resistance_ohm", "Resistance", resistance, 0, 1e6, 3000},
                   idle,
                   idle_low_v,
                   idle_low_a},
       .danger = "High voltage",
       .caution = core_caution,
       .build = build_transformer,
       .core = sign_core,
       .ratio = [](const FeedBlock& f) { return Values{f}("output_v") / Values{f}("rated_mains_v"); },
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
       .ratio = [](const FeedBlock& f) { return 2 * Values{f}("output_v") / Values{f}("rated_mains_v"); },
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
      {.key = "bridge",
       .title = "Bridge rectifier",
       .brief = "Rectifier",
       .place = behind,
       .numbers = diode_numbers,
       .danger = "Stored charge; X-rays",
       .caution = xray_caution,
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.bridge(f); },
       .rectifies = true,
       .diode_strings = 4,
       .two_ended = true,
       .role = BlockRole::rectifier},
      {.key = "diode-string",
       .title = "Half-wave diodes",
       .brief = "Diodes",
       .place = behind,
       .numbers = joined({diode_numbers, {backwards}}),
       .danger = "Stored charge; X-rays",
       .caution = xray_caution,
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.series_diode("half-wave diodes", f); },
       .rectifies = true,
       .diode_strings = 1},
      {.key = "level-shifter",
       .title = "Level shifter",
       .brief = "Shifter",
       .place = behind,
       .numbers = joined({{doubling, doubling_v, doubling_a, doubling_bleed}, diode_numbers, {backwards}}),
       .danger = "Stored charge; X-rays",
       .caution = "Its output swings between zero and twice the peak once a cycle, as tube coils like it; a "
                  "reservoir does "
                  "not belong behind it. Stays charged. Where its voltage stands on a hard vacuum, above some ten "
                  "kilovolts, "
                  "X-rays come out.",
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.level_shifter(f, Values{f}("capacitance_f")); },
       .diode_strings = 1,
       .doubles = true,
       .shifts = true,
       .ends = {.bus = false},
       .keeps_share = 0.5},
      {.key = "half-wave-doubler",
       .title = "Half-wave doubler",
       .brief = "Doubler",
       .place = behind,
       .numbers = joined({{doubling, doubling_v, doubling_a, doubling_bleed}, diode_numbers, {backwards}}),
       .danger = "Stored charge; X-rays",
       .caution = xray_caution,
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.level_shifter(f, Values{f}("capacitance_f"));
             b.series_diode("doubler's series diodes", f);
           },
       .rectifies = true,
       .diode_strings = 2,
       .doubles = true,
       .keeps_share = 0.5},
      {.key = "full-wave-doubler",
       .title = "Full-wave doubler",
       .brief = "Doubler",
       .place = behind,
       .numbers = joined({{{"capacitance_f", "Each capacitor", capacitance, 1e-9, 1, 1e-6},
                           {"bleed_resistance_ohm", "Bleeder, each, 0: none", resistance, 0, 1e12, 0, 10},
                           doubling_v,
                           doubling_a},
                          diode_numbers}),
       .danger = "Stored charge; X-rays",
       .caution = xray_caution,
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.full_wave_doubler(f, Values{f}("capacitance_f"), Values{f}("bleed_resistance_ohm"));
           },
       .rectifies = true,
       .diode_strings = 2,
       .doubles = true,
       .two_ended = true,
       .role = BlockRole::doubler,
       .reservoir =
           [](const FeedBlock& f) {
             const double each_ohm = Values{f}("bleed_resistance_ohm");
             return Reservoir{Values{f}("capacitance_f") / 2, 2 * ohms_or_none(each_ohm), 0, 0, 0};
           },
       .store_keys = {"capacitance_f", "bleed_resistance_ohm", {}, {}}},
      {.key = "reservoir",
       .title = "Reservoir",
       .brief = "Reservoir",
       .place = behind,
       .numbers = {{"capacitance_f", "Capacitance", capacitance, 1e-9, 1e-2, 2e-6},
                   {"voltage_v", "Rating", voltage, 10, 1e6, 20000},
                   {"bleed_resistance_ohm", "Bleeder, 0: none", resistance, 0, 1e12, 10e6, 100}},
       .danger = "Stored charge kills",
       .caution = charge_caution,
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.shunt_capacitor("reservoir", Values{f}("capacitance_f"), b.joint_ohm(), true);
             if (const double ohm = Values{f}("bleed_resistance_ohm"); ohm > 0) b.shunt_resistor(ohm);
             b.limit_voltage(Values{f}("voltage_v"));
           },
       .needs_direct = true,
       .problem = reservoir_across_shifter,
       .role = BlockRole::reservoir,
       .reservoir =
           [](const FeedBlock& f) {
             const Values v{f};
             return Reservoir{v("capacitance_f"), ohms_or_none(v("bleed_resistance_ohm")), v("voltage_v"), 0, 0};
           },
       .store_keys = {"capacitance_f", "bleed_resistance_ohm", "voltage_v", {}}},
      {.key = "electrolytics",
       .title = "Electrolytic reservoir",
       .brief = "Reservoir",
       .place = behind,
       .numbers = {{"unit_capacitance_f", "Each unit", capacitance, 1e-7, 1, 1e-3},
                   {"unit_voltage_v", "… rated", voltage, 3, 1000, 450},
                   {"units_in_series", "In series", count, 1, 60, 1},
                   {"units_in_parallel", "Side by side", count, 1, 60, 1},
                   {"unit_bleed_ohm", "Bleeder, each, 0: none", resistance, 0, 1e9, 33e3, 10},
                   {"unit_esr_ohm", "ESR, each", resistance, 0, 100, 0.1},
                   {"unit_ripple_a", "Ripple, each, 0: not stated", current, 0, 1000, 0}},
       .danger = "Stored charge kills",
       .caution = "Stays charged for minutes and recharges itself. Reversed or overloaded it bursts: eye "
                  "protection, a cover. Wait the bleed time, measure, short, leave the clip on.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             const Reservoir r = reservoir_of({f});
             b.shunt_capacitor("reservoir", r.capacitance_f, std::max(r.esr_ohm, 1e-3), true);
             if (std::isfinite(r.bleed_ohm)) b.shunt_resistor(r.bleed_ohm);
             b.limit_voltage(r.limit_v);
           },
       .needs_direct = true,
       .problem = reservoir_across_shifter,
       .role = BlockRole::reservoir,
       .reservoir =
           [](const FeedBlock& f) {
             const Values v{f};
             const double series = v("units_in_series"), side = v("units_in_parallel");
             return Reservoir{v("unit_capacitance_f") * side / series,
                              ohms_or_none(v("unit_bleed_ohm")) * series / side, v("unit_voltage_v") * series,
                              v("unit_esr_ohm") * series / side, v("unit_ripple_a") * side};
           },
       .store_keys = {"unit_capacitance_f", "unit_bleed_ohm", "unit_voltage_v", "unit_ripple_a"}},
      {.key = "fuse",
       .title = "Fuse",
       .brief = "Fuse",
       .place = anywhere,
       .numbers = {{"rated_current_a", "Rating", current, 0.01, 500, 10},
                   {"melting_a2s", "Melts at, A²s, 0: not stated", number, 0, 1e7, 0}},
       .danger = "Unplug to change",
       .caution =
           "Behind the rectifier only a fuse that is made for direct current at these volts clears; any other "
           "burns on. Unplug and wait the bleed time before it is changed.",
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.part_in_line(0.01, Values{f}("rated_current_a")); },
       .passes_driver = true,
       .role = BlockRole::fuse},
      {.key = "shunt",
       .title = "Measuring shunt",
       .brief = "Shunt",
       .place = anywhere,
       .numbers = {{"resistance_ohm", "Resistance", resistance, 1e-6, 10, 0.01},
                   {"power_w", "Rating", power, 1e-3, 1000, 2}},
       .danger = "Not isolated",
       .caution = "Its meter hangs on the line or the bus: a floating meter, or an isolated amplifier; never a "
                  "grounded oscilloscope.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             const double ohm = Values{f}("resistance_ohm");
             b.part_in_line(ohm, std::sqrt(Values{f}("power_w") / ohm));
           },
       .passes_driver = true,
       .role = BlockRole::shunt},
      {.key = "filter-choke",
       .title = "Filter choke",
       .brief = "Choke",
       .place = behind,
       .numbers = {{"inductance_h", "Inductance", inductance, 1e-6, 1000, 1},
                   {"resistance_ohm", "Resistance", resistance, 0, 1e6, 50},
                   {"current_a", "Holds up to", current, 1e-3, 1000, 1}},
       .danger = "High voltage",
       .caution = "Its voltage jumps when the current is cut: keep leads short and clear of the core.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.series_resistor(Values{f}("resistance_ohm"));
             b.series_inductor("filter choke", Values{f}("inductance_h"));
             b.limit_current(Values{f}("current_a"));
           },
       .needs_direct = true},
      {.key = "charging-choke",
       .title = "Charging choke",
       .brief = "Chg. choke",
       .place = behind,
       .numbers = joined({{{"inductance_h", "Inductance", inductance, 1e-3, 1000, 20},
                           {"resistance_ohm", "Resistance", resistance, 0, 1e6, 200},
                           {"current_a", "Holds up to", current, 1e-3, 1000, 1},
                           safety,
                           {"diode", "De-Q diodes", count, 0, 1, 1}},
                          diode_numbers,
                          {backwards}}),
       .danger = "Twice the supply",
       .caution = "Its voltage can reach twice the supply: a safety gap across it.",
       .build = build_choke,
       .needs_direct = true,
       .diode_strings = 1,
       .rectifies_when = has_de_q_diodes,
       .problem = de_q_diodes_against,
       .role = BlockRole::charging_choke,
       .ends = {.bus = false, .plate = false}},
      {.key = "safety-gap",
       .title = "Safety gap",
       .brief = "Safety gap",
       .place = behind,
       .numbers = {{"firing_v", "Fires at", voltage, 100, 1e6, 18000}},
       .danger = "Set it first",
       .caution = "Set before the main gap, unplugged and shorted, so that it just does not fire on the supply "
                  "alone. It burns bright in the ultraviolet.",
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.safety_gap("safety gap", Values{f}("firing_v")); },
       .role = BlockRole::safety_gap,
       .ends = {.bus = false}},
      {.key = "protection-filter",
       .title = "Protection filter",
       .brief = "RC filter",
       .place = behind,
       .numbers = {{"resistance_ohm", "Series R", resistance, 1, 1e6, 1000},
                   {"capacitance_f", "Capacitance", capacitance, 1e-12, 1e-6, 500e-12},
                   safety},
       .danger = "Hot resistors",
       .caution = "Resistors stay hot; its own safety gap is set before the main gap.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             if (Values{f}("safety_gap_v") > 0) b.safety_gap("safety gap of the filter", Values{f}("safety_gap_v"));
             b.series_resistor(Values{f}("resistance_ohm"));
             b.shunt_capacitor("filter", Values{f}("capacitance_f"), 0.5);
           },
       .ends = {.bus = false},
       .keeps_share = 1},
  };
  return kinds;
}

} // namespace arc
