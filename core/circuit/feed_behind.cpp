// Feed blocks behind the source: rectifiers, stores, chokes and what protects, each as in circuit/feed_sources.cpp.
#include "circuit/feed_block_rows.h"

#include <limits>

namespace arc {
namespace {

using enum Dimension;
using enum BlockPlace;

constexpr std::string_view charge_caution =
    "Stays charged and can recharge itself. Wait the bleed time, short with a grounding stick, leave the clip on.";
constexpr std::string_view xray_caution =
    "Stays charged. Where its voltage stands on a hard vacuum, above some ten kilovolts, X-rays come out.";

const BlockNumber inverse{"inverse_voltage_v", "Diode, inverse", voltage, 10, 1e6, 30000};
const BlockNumber average{"average_current_a", "Diode, average", current, 1e-3, 1e4, 1};
const BlockNumber series_diodes{"diodes_in_series", "In series", count, 1, 500, 1};
const BlockNumber parallel_diodes{"diodes_in_parallel", "In parallel", count, 1, 50, 1};
const BlockNumber sharing{"sharing_ohm", "Sharing R, 0: none", resistance, 0, 1e12, 0};
const BlockNumber doubling{"capacitance_f", "Capacitance", capacitance, 1e-9, 1e-3, 1e-6};
const BlockNumber doubling_v{"rated_v", "Capacitor rated, peak, 0: not known", voltage, 0, 1e6, 0, 1};
const BlockNumber doubling_a{"rated_ripple_a", "Ripple rated, RMS, 0: not known", current, 0, 1e4, 0, 1e-3};
const BlockNumber doubling_bleed{"bleed_resistance_ohm", "Bleeder across it, 0: none", resistance, 0, 1e12, 0, 10};
const BlockNumber backwards{"reversed", "Reversed", count, 0, 1, 0};
const BlockNumber safety{"safety_gap_v", "Safety gap, 0: none", voltage, 0, 1e6, 0, 100};
using BlockNumbers = std::vector<BlockNumber>;

// The numbers of a block in their order, from those that several kinds share.
BlockNumbers joined(std::initializer_list<BlockNumbers> parts) {
  BlockNumbers out;
  for (const BlockNumbers& part : parts) out.insert(out.end(), part.begin(), part.end());
  return out;
}

// Of a bleeder: 0 stands for none.
double ohms_or_none(double ohm) {
  return ohm > 0 ? ohm : std::numeric_limits<double>::infinity();
}

void build_choke(FeedBuilder& b, const FeedBlock& block) {
  const BlockValues v{block};
  const Node before = b.here();
  if (v("diode") > 0.5) b.series_diode("de-Q diodes", block);
  b.series_resistor(v("resistance_ohm"));
  b.series_inductor("choke", v("inductance_h"));
  b.limit_current(v("current_a"));
  if (v("safety_gap_v") > 0) b.safety_gap_across("safety gap of the choke", before, v("safety_gap_v"));
}

std::string reservoir_across_shifter(const FeedBlock&, const FeedSoFar& before) {
  if (!before.shifted || before.direct) return {};
  return "it would lie across the level shifter's diodes; put half-wave diodes between the two, or use a half-wave "
         "doubler";
}

bool has_de_q_diodes(const FeedBlock& f) {
  return BlockValues{f}("diode") > 0.5;
}

std::string de_q_diodes_against(const FeedBlock& f, const FeedSoFar& before) {
  if (!has_de_q_diodes(f) || is_reversed(f) == before.negative) return {};
  return "its diodes are reversed against the rectifier before it, so that nothing reaches the tank; turn them "
         "around";
}

} // namespace

std::vector<BlockKind> block_kinds_behind() {
  const BlockNumbers diode_numbers{inverse, average, series_diodes, parallel_diodes, sharing};
  return {
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
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.level_shifter(f, BlockValues{f}("capacitance_f")); },
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
             b.level_shifter(f, BlockValues{f}("capacitance_f"));
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
             b.full_wave_doubler(f, BlockValues{f}("capacitance_f"), BlockValues{f}("bleed_resistance_ohm"));
           },
       .rectifies = true,
       .diode_strings = 2,
       .doubles = true,
       .two_ended = true,
       .role = BlockRole::doubler,
       .reservoir =
           [](const FeedBlock& f) {
             const double each_ohm = BlockValues{f}("bleed_resistance_ohm");
             return Reservoir{BlockValues{f}("capacitance_f") / 2, 2 * ohms_or_none(each_ohm), 0, 0, 0};
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
             b.shunt_capacitor("reservoir", BlockValues{f}("capacitance_f"), b.joint_ohm(), true);
             if (const double ohm = BlockValues{f}("bleed_resistance_ohm"); ohm > 0) b.shunt_resistor(ohm);
             b.limit_voltage(BlockValues{f}("voltage_v"));
           },
       .needs_direct = true,
       .problem = reservoir_across_shifter,
       .role = BlockRole::reservoir,
       .reservoir =
           [](const FeedBlock& f) {
             const BlockValues v{f};
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
                   {"units_in_parallel", "In parallel", count, 1, 60, 1},
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
             const BlockValues v{f};
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
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.part_in_line(0.01, BlockValues{f}("rated_current_a")); },
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
             const double ohm = BlockValues{f}("resistance_ohm");
             b.part_in_line(ohm, std::sqrt(BlockValues{f}("power_w") / ohm));
           },
       .passes_driver = true,
       .role = BlockRole::shunt},
      {.key = "filter-choke",
       .title = "Filter choke",
       .brief = "Choke",
       .place = behind,
       .numbers = {{"inductance_h", "Inductance", inductance, 1e-6, 1000, 1},
                   {"resistance_ohm", "Resistance", resistance, 0, 1e6, 50},
                   {"current_a", "Saturates above", current, 1e-3, 1000, 1}},
       .danger = "High voltage",
       .caution = "Its voltage jumps when the current is cut: keep leads short and clear of the core.",
       .build =
           [](FeedBuilder& b, const FeedBlock& f) {
             b.series_resistor(BlockValues{f}("resistance_ohm"));
             b.series_inductor("filter choke", BlockValues{f}("inductance_h"));
             b.limit_current(BlockValues{f}("current_a"));
           },
       .needs_direct = true},
      {.key = "charging-choke",
       .title = "Charging choke",
       .brief = "Chg. choke",
       .place = behind,
       .numbers = joined({{{"inductance_h", "Inductance", inductance, 1e-3, 1000, 20},
                           {"resistance_ohm", "Resistance", resistance, 0, 1e6, 200},
                           {"current_a", "Saturates above", current, 1e-3, 1000, 1},
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
       .build = [](FeedBuilder& b, const FeedBlock& f) { b.safety_gap("safety gap", BlockValues{f}("firing_v")); },
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
             if (BlockValues{f}("safety_gap_v") > 0)
               b.safety_gap("safety gap of the filter", BlockValues{f}("safety_gap_v"));
             b.series_resistor(BlockValues{f}("resistance_ohm"));
             b.shunt_capacitor("filter", BlockValues{f}("capacitance_f"), 0.5);
           },
       .ends = {.bus = false},
       .keeps_share = 1},
  };
}

} // namespace arc
