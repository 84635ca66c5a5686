// The registry of part groups, and what each part does when it is used.
#include "workshop/shelf.h"

#include "circuit/feed.h"
#include "craft/kind.h"
#include "model/fields.h"
#include "parts/diodes.h"
#include "workshop/shelf_devices.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

namespace arc {
namespace {

using enum Dimension;

std::string use_wire(const ShelfPart& part, Design& design) {
  design.secondary.wire_bare_diameter_m = part.values.at("bare_diameter_m");
  design.secondary.wire_overall_diameter_m = part.values.at("overall_diameter_m");
  return "the secondary is wound with it; the turn count stays as it was";
}

std::string use_pipe(const ShelfPart& part, Design& design) {
  design.secondary.form_diameter_m = part.values.at("outside_diameter_m");
  if (const auto length = part_value(part, "length_m")) design.secondary.form_length_m = *length;
  return "it is the secondary's form";
}

// The first block of a role, added when there is none: mains-side blocks and sources to the front.
FeedBlock& block_of(Design& design, BlockRole role) {
  if (!find_block(design.feed, role)) add_block(design.feed, make_block(role));
  return *find_block(design.feed, role);
}

// Empty where a block of this role may stand in the design's path; else what to say instead of using the part.
std::string no_place(const Design& design, BlockRole role) {
  const FeedEnd end = kind_of(design).feed_end;
  return block_kind(make_block(role).kind)->serves(end)
             ? ""
             : fmt::format("the path of a coil of the kind {} has no place for it", kind_of(design).title);
}

std::string use_transformer(const ShelfPart& part, Design& design) {
  if (std::string why = no_place(design, BlockRole::transformer); !why.empty()) return why;
  std::erase_if(design.feed.own(),
                [](const FeedBlock& b) { return role_of(b) != BlockRole::transformer && is_source(b.kind); });
  FeedBlock& block = block_of(design, BlockRole::transformer);
  for (const char* key : {"rated_mains_v", "output_v", "short_circuit_a", "resistance_ohm"})
    if (const auto value = part_value(part, key)) block.values[key] = *value;
  return "it feeds the tank";
}

std::string use_diodes(const ShelfPart& part, Design& design) {
  const double volts = part.values.at("inverse_voltage_v"), amps = part.values.at("average_current_a");
  int strings = 0;
  DiodeString last;
  for (FeedBlock& block : design.feed) {
    const BlockKind* kind = block_kind(block.kind);
    if (!kind || kind->diode_strings == 0) continue;
    const DiodeString made = substitute_string(block, volts, amps);
    block.values["inverse_voltage_v"] = volts;
    block.values["average_current_a"] = amps;
    block.values["diodes_in_series"] = made.in_series;
    block.values["diodes_in_parallel"] = made.in_parallel;
    strings += kind->diode_strings;
    last = made;
  }
  if (strings == 0) return "the feed has no rectifier to put them into";
  return fmt::format("{} strings of {} in series and {} in parallel: {} pieces, {} on hand", strings,
                     last.in_series, last.in_parallel, strings * last.units(), part_count(part));
}

// As what a level shifter or doubler charges: so many in series as hold its peak, side by side as far as they go
// towards the capacitance that stands there.
std::string use_capacitor(const ShelfPart& part, Design& design) {
  const auto at = std::ranges::find_if(design.feed, [](const FeedBlock& block) {
    return block_kind(block.kind) && block_kind(block.kind)->doubles;
  });
  if (at == design.feed.end())
    return "this path has no level shifter or doubler to put it into; banks for the tank are found on Tank";
  const ShelfCapacitor one = shelf_capacitor(part);
  if (one.polarised) return "it is polarised: not for here";
  const std::vector<FeedBlock> up_to(design.feed.get().begin(),
                                     design.feed.get().begin() + (at - design.feed.begin()) + 1);
  const double peak_v = unloaded_bus_v(up_to, design.site.mains_voltage_v) / 2;
  constexpr double loaded = 0.8; // of its rating (common practice, no source)
  const double in_series = std::max(1.0, std::ceil(peak_v / (loaded * one.voltage_v)));
  const double wanted_f = block_value(*at, "capacitance_f"), chain_f = one.capacitance_f / in_series;
  const double on_hand = std::floor(one.count / in_series);
  const double side_by_side = std::clamp(std::round(wanted_f / chain_f), 1.0, std::max(1.0, on_hand));
  FeedBlock& block = design.feed[static_cast<std::size_t>(at - design.feed.begin())];
  block.values["capacitance_f"] = round_significant(side_by_side * chain_f, 6);
  block.values["rated_v"] = in_series * one.voltage_v;
  block.values["rated_ripple_a"] = side_by_side * one.ratings.rms_current_a.value_or(0);
  return fmt::format("{:.0f} in series, {:.0f} in parallel in the {}: {} for {}; {:.0f} pieces, {} on hand{}",
                     in_series, side_by_side, block_kind(block.kind)->title,
                     format_quantity(side_by_side * chain_f, Dimension::capacitance),
                     format_quantity(in_series * one.voltage_v, Dimension::voltage), in_series * side_by_side,
                     one.count, in_series > 1 ? "; a bleeder across each" : "");
}

std::string use_resistor(const ShelfPart& part, Design& design) {
  design.tank.bleed_resistance_ohm = part.values.at("resistance_ohm");
  return "one across every unit of the tank";
}

std::string use_choke(const ShelfPart& part, Design& design) {
  if (std::string why = no_place(design, BlockRole::charging_choke); !why.empty()) return why;
  FeedBlock& block = block_of(design, BlockRole::charging_choke);
  block.values["inductance_h"] = part.values.at("inductance_h");
  if (const auto ohm = part_value(part, "resistance_ohm")) block.values["resistance_ohm"] = *ohm;
  return "it is the charging choke; it needs direct current before it";
}

std::string use_gap_hardware(const ShelfPart& part, Design& design) {
  design.gap.electrode_diameter_m = part.values.at("electrode_diameter_m");
  return "the gap's electrodes are made of it";
}

std::string use_tubing(const ShelfPart& part, Design& design) {
  design.primary.conductor_diameter_m = part.values.at("outside_diameter_m");
  return "the primary is wound with it; its pitch stays as it was";
}

std::string use_topload(const ShelfPart& part, Design& design) {
  ToploadPart toroid;
  toroid.outer_diameter_m = part.values.at("outer_diameter_m");
  toroid.tube_diameter_m = part.values.at("tube_diameter_m");
  toroid.centre_above_winding_m = toroid.tube_diameter_m;
  design.topload.own() = {toroid};
  return "it is the topload; how high it stands is half a tube above the winding";
}

} // namespace

std::span<const ShelfGroup> shelf_groups() {
  static const std::vector<ShelfGroup> groups = [] {
    std::vector<ShelfGroup> all{{.key = "capacitors",
                                 .title = "Capacitors",
                                 .one = "capacitor",
                                 .columns = {{"capacitance_f", "Marked", capacitance, 1e-14, 10, true},
                                             {"voltage_v", "Rating", voltage, 1, 1e6, true},
                                             {"pulse_voltage_v", "Pulse rating", voltage, 1, 1e6, false},
                                             pieces,
                                             {"measured_f", "Measured", capacitance, 1e-14, 10, false},
                                             {"tolerance", "Tolerance", fraction, 0, 0.9, false},
                                             {"rms_current_a", "RMS current", current, 1e-6, 1e5, false},
                                             {"slope_v_per_s", "dV/dt", slope, 1, 1e15, false},
                                             {"dissipation_factor", "Loss factor", number, 0, 1, false},
                                             {"esr_ohm", "ESR", resistance, 0, 1e6, false},
                                             {"thermal_k_per_w", "K/W", number, 0.01, 1000, false},
                                             {"polarised", "Polarised: 1", count, 0, 1, false},
                                             price},
                                 .use = use_capacitor},
                                {.key = "wires",
                                 .title = "Wire",
                                 .one = "spool",
                                 .columns = {{"bare_diameter_m", "Bare", wire_diameter, 1e-5, 0.02, true},
                                             {"overall_diameter_m", "Over enamel", wire_diameter, 1e-5, 0.03, true},
                                             {"length_m", "Length", length, 0.1, 1e6, false},
                                             pieces,
                                             price},
                                 .use = use_wire},
                                {.key = "pipes",
                                 .title = "Pipe",
                                 .one = "pipe",
                                 .columns = {{"outside_diameter_m", "Outside", length, 0.003, 3, true},
                                             {"length_m", "Length", length, 0.003, 20, false},
                                             pieces,
                                             price},
                                 .use = use_pipe},
                                {.key = "tubing",
                                 .title = "Tubing",
                                 .one = "coil",
                                 .columns = {{"outside_diameter_m", "Outside", length, 0.001, 0.1, true},
                                             {"length_m", "Length", length, 0.1, 1e5, false},
                                             pieces,
                                             price},
                                 .use = use_tubing},
                                {.key = "toploads",
                                 .title = "Toploads",
                                 .one = "toroid",
                                 .columns = {{"outer_diameter_m", "Outer diameter", length, 0.02, 5, true},
                                             {"tube_diameter_m", "Tube", length, 0.005, 2, true},
                                             pieces,
                                             price},
                                 .use = use_topload},
                                {.key = "transformers",
                                 .title = "Transformers",
                                 .one = "transformer",
                                 .columns = {{"rated_mains_v", "Rated mains", voltage, 10, 1000, true},
                                             {"output_v", "Open-circuit voltage", voltage, 100, 200000, true},
                                             {"short_circuit_a", "Short-circuit current", current, 1e-3, 10, true},
                                             {"resistance_ohm", "Resistance", resistance, 0, 1e6, false},
                                             pieces,
                                             price},
                                 .use = use_transformer},
                                {.key = "diodes",
                                 .title = "Diodes",
                                 .one = "diode",
                                 .columns = {{"inverse_voltage_v", "Reverse voltage, PIV", voltage, 10, 1e6, true},
                                             {"average_current_a", "Average current", current, 1e-4, 1e4, true},
                                             pieces,
                                             price},
                                 .use = use_diodes},
                                {.key = "resistors",
                                 .title = "Resistors",
                                 .one = "resistor",
                                 .columns = {{"resistance_ohm", "Resistance", resistance, 1, 1e12, true},
                                             {"power_w", "Power", power, 0.01, 1e5, false},
                                             {"voltage_v", "Rating", voltage, 1, 1e6, false},
                                             pieces,
                                             price},
                                 .use = use_resistor},
                                {.key = "chokes",
                                 .title = "Chokes",
                                 .one = "choke",
                                 .columns = {{"inductance_h", "Inductance", inductance, 1e-6, 1000, true},
                                             {"resistance_ohm", "Resistance", resistance, 0, 1e6, false},
                                             {"current_a", "Current", current, 1e-3, 1000, false},
                                             pieces,
                                             price},
                                 .use = use_choke},
                                {.key = "gap_hardware",
                                 .title = "Gap hardware",
                                 .one = "electrode",
                                 .columns = {{"electrode_diameter_m", "Diameter", length, 1e-3, 0.5, true},
                                             {"length_m", "Length", length, 1e-3, 5, false},
                                             pieces,
                                             price},
                                 .use = use_gap_hardware}};
    for (ShelfGroup& group : device_groups()) all.push_back(std::move(group));
    return all;
  }();
  return groups;
}

} // namespace arc
