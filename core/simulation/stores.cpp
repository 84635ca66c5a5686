// Stores of the feed by its blocks, those of the kind by its row; the order in which they are emptied.
#include "simulation/stores.h"

#include "circuit/feed.h"
#include "circuit/feed_loads.h"
#include "craft/kind.h"
#include "laws/circuit.h"
#include "parts/bank.h"
#include "quantity/say.h"
#include "simulation/advice.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace arc {
namespace {

using enum Dimension;

// A title inside a sentence.
std::string within(std::string title) {
  if (!title.empty()) title[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(title[0])));
  return title;
}

void add_feed_stores(const Design& d, const FeedLoads* loads, std::vector<Store>& out) {
  std::vector<FeedBlock> before; // up to and with the block
  bool mains = true;
  for (std::size_t i = 0; i < d.feed.size(); ++i) {
    const FeedBlock& block = d.feed[i];
    before.push_back(block);
    const BlockKind* row = block_kind(block.kind);
    if (!row) continue;
    if (is_source(block.kind)) mains = false;
    double volts = unloaded_bus_v(before, d.site.mains_voltage_v);
    // The joint behind it has seen what it stands at.
    if (loads && i < loads->joints.size()) volts = std::max(volts, loads->joints[i].peak_v);
    const bool walls = row->rectifies || (row->needs_direct && !row->reservoir); // diodes, or a choke
    if (walls && !out.empty()) out.back().behind_it = true;
    if (row->reservoir) {
      const Reservoir r = row->reservoir(block);
      out.push_back({std::string(row->title), r.capacitance_f, volts,
                     r.bleed_ohm > 0 ? r.bleed_ohm : std::numeric_limits<double>::infinity(), mains});
    } else if (row->keeps_share > 0) {
      const double ohm = row->doubles ? block_value(block, "bleed_resistance_ohm") : 0;
      out.push_back({std::string(row->title), block_value(block, "capacitance_f"), row->keeps_share * volts,
                     ohm > 0 ? ohm : std::numeric_limits<double>::infinity(), mains});
    }
  }
}

} // namespace

double Store::bleeds_s() const {
  return std::isfinite(bleed_ohm) ? bleed_time_s(bleed_ohm, farad, volts) : std::numeric_limits<double>::infinity();
}

std::vector<Store> stores_of(const Design& design, const Analysis& analysis, const PowerAnalysis* power) {
  std::vector<Store> out;
  const CoilKind& kind = kind_of(design);
  if (kind.feed_end != FeedEnd::none)
    add_feed_stores(design, power && power->part ? power->part->feed() : nullptr, out);
  if (kind.stores) kind.stores(design, analysis, power, out);
  std::erase_if(out, [](const Store& s) { return !(s.volts > store_counts_v) || !(s.farad > 0); });
  return out;
}

std::optional<double> discharge_wait_s(const std::vector<Store>& stores) {
  double slowest = 0;
  for (const Store& s : stores) slowest = std::max(slowest, s.bleeds_s());
  if (stores.empty() || !std::isfinite(slowest)) return {};
  return wait_bleed_times * slowest;
}

void add_discharge_steps(const std::vector<Store>& stores, UnitSystem units, std::vector<std::string>& out) {
  if (stores.empty()) return;
  const Say say{units};
  if (const auto wait = discharge_wait_s(stores)) {
    const Store& slowest = *std::ranges::max_element(stores, {}, &Store::bleeds_s);
    out.push_back(fmt::format("Wait {} (slowest: {}); a bleeder may be open: then measure, then short.",
                              say(*wait, time), within(slowest.title)));
  } else {
    std::string names;
    for (const Store& s : stores)
      if (!std::isfinite(s.bleeds_s())) names += (names.empty() ? "" : ", ") + within(s.title);
    out.push_back(fmt::format("No bleeder entered, so no wait counts: {}. Measure, then short.", names));
  }
  std::string order;
  bool high = false;
  for (std::size_t i = 0; i < stores.size(); ++i) {
    const Store& s = stores[i];
    high = high || s.volts > probe_by_hand_v;
    order += fmt::format("{}{} ({}, {}{})", order.empty() ? "" : ", ", within(s.title), say(s.joule(), energy),
                         say(s.volts, voltage),
                         s.behind_it && i + 1 < stores.size() ? "; choke or diodes behind it" : "");
  }
  out.push_back(fmt::format("By the stick's resistor, then directly, clip left on: {}.{}", order,
                            high ? " No probe in the hand: a fixed divider." : ""));
}

Distances distances_of(const Design& design, const Analysis& analysis, const PowerAnalysis* power) {
  const CoilKind& kind = kind_of(design);
  double arc_m = std::max(analysis.expected_arc_m.high,
                          kind.arc_of_winding * (analysis.has_winding ? design.secondary.winding_length_m : 0));
  if (power && power->part) arc_m = std::max(arc_m, power->part->longest_arc_m());
  return {std::max(kind.least_people_m, 3 * arc_m), std::max(kind.least_people_m / 3, arc_m)};
}

std::string live_words(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                       UnitSystem units) {
  const Distances away = distances_of(design, analysis, power);
  return fmt::format(
      "POWER ON for this step: everybody at least {} back, one person at the switch and nobody else, "
      "hold-to-run; off, waited and shorted before anybody goes near.",
      Say{units}.arc(away.people_m));
}

} // namespace arc
