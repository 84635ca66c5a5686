// The nearest class by the logarithm of its ratings, since these go from parts that one holds between two fingers
// to such as one carries.
#include "workshop/shelf_devices.h"

#include "circuit/feed.h"
#include "craft/kind.h"
#include "parts/bridge_switch.h"
#include "parts/transistor.h"
#include "parts/tube.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <initializer_list>
#include <utility>

namespace arc {
namespace {

using enum Dimension;

// A number of the shelf's part and the member that it stands for.
template <typename Part>
struct Stated {
  std::string_view key;
  double Part::*member;
};

template <typename Classes, typename Rows>
auto nearest_class(const Classes& classes, const ShelfPart& part, const Rows& ratings, auto part_of) {
  const auto off = [&](const auto& of) {
    double sum = 0;
    for (const auto& rating : ratings)
      if (const auto value = part_value(part, rating.key))
        sum += std::abs(std::log(*value / (part_of(of).*rating.member)));
    return sum;
  };
  return *std::ranges::min_element(classes, {}, off);
}

template <typename Part, typename Rows>
void state(Part& to, const ShelfPart& from, const Rows& rows) {
  for (const auto& row : rows)
    if (const auto value = part_value(from, row.key)) to.*row.member = *value;
}

std::string as_class(std::string_view what, std::string_view title) {
  return fmt::format("{}; what the shelf does not state is as of the class “{}”", what, title);
}

bool has_group(const Design& design, std::string_view group) {
  return std::ranges::count(kind_of(design).groups, group) > 0;
}

std::string no_such(const Design& design, std::string_view group, std::string_view what) {
  if (has_group(design, group)) return {};
  return fmt::format("a coil of the kind {} has no {}", kind_of(design).title, what);
}

constexpr std::array<Stated<Tube>, 7> tube_numbers{{{"plate_dissipation_w", &Tube::plate_dissipation_w},
                                                    {"plate_voltage_v", &Tube::plate_voltage_v},
                                                    {"mu", &Tube::mu},
                                                    {"perveance_a_per_v15", &Tube::perveance_a_per_v15},
                                                    {"cathode_peak_a", &Tube::cathode_peak_a},
                                                    {"filament_v", &Tube::filament_v},
                                                    {"filament_a", &Tube::filament_a}}};

std::string use_tube(const ShelfPart& part, Design& design) {
  if (std::string why = no_such(design, "tube", "tube"); !why.empty()) return why;
  const TubeClass near = nearest_class(tube_classes(), part, std::span(tube_numbers).first(2),
                                       [](const TubeClass& c) { return c.tube; });
  design.tube.tube = near.tube;
  state(design.tube.tube, part, tube_numbers);
  return as_class("it is the tube", near.title);
}

constexpr std::array<Stated<BridgeSwitch>, 7> switch_numbers{{{"voltage_rating_v", &BridgeSwitch::voltage_rating_v},
                                                              {"current_rating_a", &BridgeSwitch::current_rating_a},
                                                              {"pulse_rating_a", &BridgeSwitch::pulse_rating_a},
                                                              {"on_ohm", &BridgeSwitch::on_ohm},
                                                              {"knee_v", &BridgeSwitch::knee_v},
                                                              {"gate_charge_c", &BridgeSwitch::gate_charge_c},
                                                              {"output_f", &BridgeSwitch::output_f}}};

// With a knee stated it is an IGBT, with an on resistance a MOS.
std::string use_switch(const ShelfPart& part, Design& design) {
  if (std::string why = no_such(design, "bridge", "switches"); !why.empty()) return why;
  std::vector<SwitchClass> alike(switch_classes().begin(), switch_classes().end());
  const bool igbt = part_value(part, "knee_v").has_value(), mos = !igbt && part_value(part, "on_ohm").has_value();
  std::erase_if(alike, [&](const SwitchClass& c) {
    return (igbt && c.part.type == SwitchType::mos) || (mos && c.part.type == SwitchType::igbt);
  });
  const SwitchClass near =
      nearest_class(alike, part, std::span(switch_numbers).first(2), [](const SwitchClass& c) { return c.part; });
  design.bridge.device = near.part;
  state(design.bridge.device, part, switch_numbers);
  BridgeSwitch& device = design.bridge.device;
  device.pulse_rating_a = std::max(device.pulse_rating_a, device.current_rating_a);
  return as_class("all switches of the bridge are such", near.title);
}

constexpr std::array<Stated<Transistor>, 4> transistor_numbers{
    {{"voltage_rating_v", &Transistor::voltage_rating_v},
     {"current_rating_a", &Transistor::current_rating_a},
     {"forward_gain", &Transistor::forward_gain},
     {"junction_k_per_w", &Transistor::junction_k_per_w}}};

std::string use_transistor(const ShelfPart& part, Design& design) {
  if (std::string why = no_such(design, "exciter", "transistor of its own"); !why.empty()) return why;
  const TransistorClass near = nearest_class(transistor_classes(), part, std::span(transistor_numbers).first(2),
                                             [](const TransistorClass& c) { return c.part; });
  design.exciter.transistor = near.part;
  state(design.exciter.transistor, part, transistor_numbers);
  return as_class("it drives the coil", near.title);
}

constexpr std::array<Stated<Bridge>, 3> core_numbers{{{"core_area_mm2", &Bridge::gate_core_area_mm2},
                                                      {"al_h", &Bridge::gate_core_al_h},
                                                      {"flux_limit_t", &Bridge::gate_core_limit_t}}};

std::string use_core(const ShelfPart& part, Design& design) {
  if (std::string why = no_such(design, "bridge", "gate transformer"); !why.empty()) return why;
  state(design.bridge, part, core_numbers);
  return "the gate transformer is wound on it; its turns stay as they were";
}

std::string use_supply(const ShelfPart& part, Design& design) {
  if (std::string why = no_such(design, "exciter", "supply of low volts"); !why.empty()) return why;
  design.exciter.supply_voltage_v = part.values.at("voltage_v");
  design.exciter.supply_limit_a = part.values.at("current_a");
  return "it feeds the exciter";
}

std::string use_variac(const ShelfPart& part, Design& design) {
  for (FeedBlock& block : design.feed)
    if (block.kind == "variac") {
      block.values["rated_current_a"] = part.values.at("rated_current_a");
      return "it is the variac of the path from the wall";
    }
  return "the path from the wall has no variac";
}

// As many in series as come nearest to the volts of the source that stands there.
std::string use_ovens(const ShelfPart& part, Design& design) {
  const auto at = std::ranges::find_if(design.feed, [](const FeedBlock& block) { return is_source(block.kind); });
  const FeedEnd end = kind_of(design).feed_end;
  if (at == design.feed.end() || (end != FeedEnd::plate && end != FeedEnd::tank))
    return "the path from the wall has no place for them";
  const double each_v = part.values.at("output_v"),
               wanted_v = block_value(*at, "output_v") *
                          (at->kind == "oven-transformers" ? block_value(*at, "in_series") : 1);
  const double most = std::min(6, part_count(part));
  FeedBlock ovens = make_block("oven-transformers");
  for (const char* key : {"rated_mains_v", "output_v", "leakage_h", "resistance_ohm"})
    if (const auto value = part_value(part, key)) ovens.values[key] = *value;
  ovens.values["in_series"] = std::clamp(std::round(wanted_v / each_v), 1.0, std::max(1.0, most));
  design.feed[static_cast<std::size_t>(at - design.feed.begin())] = ovens;
  return fmt::format("{:.0f} in series feed it: stout, live cores that kill at once", ovens.values.at("in_series"));
}

std::string two(std::string_view what, double a, Dimension of_a, double b, Dimension of_b) {
  return fmt::format("{}, {} {}", what, format_quantity(a, of_a, UnitSystem::metric, 3),
                     format_quantity(b, of_b, UnitSystem::metric, 3));
}

const FeedBlock* source_of(const Design& d) {
  if (kind_of(d).feed_end != FeedEnd::plate) return nullptr;
  const auto at = std::ranges::find_if(d.feed.get(), [](const FeedBlock& block) { return is_source(block.kind); });
  return at == d.feed.end() ? nullptr : &*at;
}

int taken_ovens(const Design& d) {
  const FeedBlock* source = source_of(d);
  if (!source) return 0;
  return source->kind == "oven-transformers"
             ? static_cast<int>(block_value(*source, "in_series") * block_value(*source, "in_parallel"))
             : 1;
}

const FeedBlock* variac_block(const Design& d) {
  const auto at = std::ranges::find(d.feed.get(), "variac", &FeedBlock::kind);
  return at == d.feed.end() ? nullptr : &*at;
}

int taken_tubes(const Design& d) {
  return has_group(d, "tube") ? static_cast<int>(d.tube.in_parallel) * (d.tube.push_pull ? 2 : 1) : 0;
}

int taken_switches(const Design& d) {
  return !has_group(d, "bridge") ? 0 : d.bridge.legs == BridgeLegs::full ? 4 : 2;
}

} // namespace

std::vector<ShelfGroup> device_groups() {
  return {{.key = "ovens",
           .title = "Oven transformers",
           .one = "oven transformer",
           .columns = {{"rated_mains_v", "Rated mains", voltage, 10, 1000, true},
                       {"output_v", "Output", voltage, 100, 20000, true},
                       {"leakage_h", "Leakage", inductance, 1e-3, 100, false},
                       {"resistance_ohm", "Resistance", resistance, 0, 1e5, false},
                       pieces,
                       price},
           .use = use_ovens,
           .takes = taken_ovens,
           .taken =
               [](const Design& d) {
                 const FeedBlock* source = source_of(d);
                 return two("oven transformer", block_value(*source, "output_v"), voltage,
                            block_value(*source, "rated_mains_v"), voltage);
               }},
          {.key = "variacs",
           .title = "Variacs",
           .one = "variac",
           .columns = {{"rated_current_a", "Rated current", current, 0.1, 200, true}, pieces, price},
           .use = use_variac,
           .takes = [](const Design& d) { return variac_block(d) ? 1 : 0; },
           .taken =
               [](const Design& d) {
                 return fmt::format("variac, {}", format_quantity(block_value(*variac_block(d), "rated_current_a"),
                                                                  current, UnitSystem::metric, 3));
               }},
          {.key = "supplies",
           .title = "Supplies",
           .one = "supply",
           .columns = {{"voltage_v", "Voltage", voltage, 0.5, 1000, true},
                       {"current_a", "Current limit", current, 1e-3, 1000, true},
                       pieces,
                       price},
           .use = use_supply,
           .takes = [](const Design& d) { return has_group(d, "exciter") ? 1 : 0; },
           .taken =
               [](const Design& d) {
                 return fmt::format("supply, {}",
                                    format_quantity(d.exciter.supply_voltage_v, voltage, UnitSystem::metric, 3));
               }},
          {.key = "tubes",
           .title = "Tubes",
           .one = "tube",
           .columns = {{"plate_dissipation_w", "Plate dissipation", power, 0.1, 1e6, true},
                       {"plate_voltage_v", "Plate volts", voltage, 10, 1e6, true},
                       {"mu", "µ", number, 1, 5000, false},
                       {"perveance_a_per_v15", "A per V^1.5", number, 1e-7, 1, false},
                       {"cathode_peak_a", "Cathode, peak", current, 1e-3, 1e4, false},
                       {"filament_v", "Filament", voltage, 0.5, 100, false},
                       {"filament_a", "Filament current", current, 0.01, 1000, false},
                       pieces,
                       price},
           .use = use_tube,
           .takes = taken_tubes,
           .taken =
               [](const Design& d) {
                 return two("tube, plate", d.tube.tube.plate_dissipation_w, power, d.tube.tube.plate_voltage_v,
                            voltage);
               }},
          {.key = "switches",
           .title = "Switches",
           .one = "switch",
           .columns = {{"voltage_rating_v", "Rated volts", voltage, 10, 20000, true},
                       {"current_rating_a", "Rated current", current, 0.1, 1e5, true},
                       {"pulse_rating_a", "Pulse current", current, 0.1, 1e6, false},
                       {"on_ohm", "On resistance, hot", resistance, 1e-5, 1000, false},
                       {"knee_v", "Knee of an IGBT", voltage, 0, 20, false},
                       {"gate_charge_c", "Gate charge", charge, 1e-10, 1e-4, false},
                       {"output_f", "Output capacitance", capacitance, 1e-12, 1e-6, false},
                       pieces,
                       price},
           .use = use_switch,
           .takes = taken_switches,
           .taken =
               [](const Design& d) {
                 const BridgeSwitch& s = d.bridge.device;
                 return two(s.type == SwitchType::igbt ? "IGBT" : "MOS switch", s.voltage_rating_v, voltage,
                            s.current_rating_a, current);
               }},
          {.key = "transistors",
           .title = "Transistors",
           .one = "transistor",
           .columns = {{"voltage_rating_v", "Rated volts", voltage, 1, 1e4, true},
                       {"current_rating_a", "Rated current", current, 1e-3, 1000, true},
                       {"forward_gain", "Gain", number, 1, 1e5, false},
                       {"junction_k_per_w", "Junction to case, K/W", number, 0.01, 1000, false},
                       pieces,
                       price},
           .use = use_transistor,
           .takes = [](const Design& d) { return has_group(d, "exciter") ? 1 : 0; },
           .taken =
               [](const Design& d) {
                 const Transistor& t = d.exciter.transistor;
                 return two("transistor", t.voltage_rating_v, voltage, t.current_rating_a, current);
               }},
          {.key = "cores",
           .title = "Cores",
           .one = "core",
           .columns = {{"core_area_mm2", "Area, mm²", number, 0.1, 10000, true},
                       {"al_h", "One turn, A_L", inductance, 1e-10, 1e-3, true},
                       {"flux_limit_t", "Most flux, T", number, 0.01, 3, false},
                       pieces,
                       price},
           .use = use_core,
           .takes = [](const Design& d) { return has_group(d, "bridge") ? 1 : 0; },
           .taken =
               [](const Design& d) {
                 return fmt::format("core of the gate transformer, {:.0f} mm²", d.bridge.gate_core_area_mm2);
               }}};
}

} // namespace arc
