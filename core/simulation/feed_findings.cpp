// Findings on a feed's blocks.
#include "simulation/feed_findings.h"

#include "craft/kind.h"
#include "parts/bank.h"
#include "parts/diodes.h"
#include "quantity/say.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <utility>

namespace arc {

using enum Dimension;

std::string feed_field(const Design& d, const FeedBlock& block, std::string_view key) {
  return fmt::format("block {} {}", &block - d.feed.data() + 1, key);
}

std::function<void(Design&)> set_block(BlockRole role, std::string key, double value) {
  return [role, key = std::move(key), value](Design& e) {
    if (FeedBlock* block = find_block(e.feed, role)) block->values[key] = value;
  };
}

std::optional<Finding> breaker_trips(const Design& d, const FeedLoads& loads, double holds, UnitSystem units) {
  const FeedBlock* breaker = find_block(d.feed, BlockRole::breaker);
  if (!breaker || std::isinf(loads.breaker_trip_s)) return {};
  const Say say{units};
  const FeedBlock* variac = find_block(d.feed, BlockRole::variac);
  return Finding{.id = "breaker-trips",
                 .severity = loads.breaker_trip_s < 600 ? Severity::stop : Severity::warning,
                 .stage = "feed",
                 .field = feed_field(d, *breaker, "rated_current_a"),
                 .title = fmt::format("The breaker trips after {}", say(loads.breaker_trip_s, time, 2)),
                 .text = fmt::format(
                     "{} through a {} breaker; it never trips below 1.13 times its rating (IEC 60898-1).",
                     say(loads.line_current_a, current), say(block_value(*breaker, "rated_current_a"), current)),
                 .remedy = variac && holds > 0 ? fmt::format("Turn the variac to {:.0f} %", 100 * holds)
                                               : "Less power, more ballast, or a power-factor capacitor",
                 .value = loads.line_current_a,
                 .limit = 1.13 * block_value(*breaker, "rated_current_a"),
                 .dimension = current,
                 .apply = variac && holds > 0 ? set_block(BlockRole::variac, "setting", holds) : nullptr};
}

std::optional<Finding> block_overloaded(const Design& d, const FeedLoads& loads, UnitSystem units, double fits) {
  std::size_t worst = d.feed.size();
  double used = 1.01;                             // a limiter that holds its own limit is at it
  for (std::size_t i = 0; i < d.feed.size(); ++i) // what it ends in has its own findings
    if (role_of(d.feed[i]) != BlockRole::breaker && loads.joints[i].used() > used) {
      used = loads.joints[i].used();
      worst = i;
    }
  if (worst == d.feed.size()) return {};
  const JointLoad& joint = loads.joints[worst];
  const Say say{units};
  const bool volts = joint.limit_v > 0 && joint.peak_v / joint.limit_v >= used;
  const double carries = volts ? joint.peak_v : joint.rms_a;
  const std::string part =
      fmt::format("a part for {} or more", say(round_significant(1.25 * carries, 2), volts ? voltage : current));
  const FeedBlock* variac = find_block(d.feed, BlockRole::variac);
  const bool turned = variac && fits > 0 && fits < block_value(*variac, "setting");
  return Finding{
      .id = "block-overloaded",
      .severity = used > 1.2 ? Severity::stop : Severity::warning,
      .stage = "feed",
      .field = feed_field(d, d.feed[worst], block_kind(d.feed[worst].kind)->numbers.front().key),
      .title = fmt::format("{}: {:.0f} % of its limit", joint.title, 100 * used),
      .text =
          volts ? fmt::format("{} peak, its limit is {}.", say(joint.peak_v, voltage), say(joint.limit_v, voltage))
                : fmt::format("{} RMS, its limit is {}.", say(joint.rms_a, current), say(joint.limit_a, current)),
      .remedy = turned   ? fmt::format("Turn the variac to {:.0f} %, or {}", 100 * fits, part)
                : !volts ? "Less power, or " + part
                : kind_of(d).feed_end == FeedEnd::tank ? "A narrower gap, a safety gap, or " + part
                                                       : "A lower variac setting, or " + part,
      .value = carries,
      .limit = volts ? joint.limit_v : joint.limit_a,
      .dimension = volts ? voltage : current,
      .apply = turned ? set_block(BlockRole::variac, "setting", fits) : nullptr};
}

std::optional<Finding> diodes_overloaded(const Design& d, const FeedLoads& loads, UnitSystem units) {
  if (loads.diodes.empty()) return {};
  const auto worst = std::ranges::max_element(loads.diodes, {}, [](const DiodeLoad& l) { return l.used(); });
  if (worst->used() <= 1) return {};
  const auto block = std::ranges::find_if(
      d.feed, [](const FeedBlock& b) { return block_kind(b.kind) && block_kind(b.kind)->diode_strings > 0; });
  const DiodeString needed =
      diode_string(worst->inverse_v, worst->average_a, block_value(*block, "inverse_voltage_v"),
                   block_value(*block, "average_current_a"), block_value(*block, "sharing_ohm"));
  const Say say{units};
  const std::string inverse = fmt::format("{} inverse on a string for {}", say(worst->inverse_v, voltage),
                                          say(worst->limit_v, voltage)),
                    average = fmt::format("{} average on one for {}", say(worst->average_a, current),
                                          say(worst->limit_a, current));
  const bool by_volts = worst->inverse_v > worst->limit_v;
  return Finding{.id = "diodes-overloaded",
                 .severity = Severity::stop,
                 .stage = "feed",
                 .field = feed_field(d, *block, by_volts ? "inverse_voltage_v" : "average_current_a"),
                 .title = by_volts ? inverse : "Diodes: " + average,
                 .text = fmt::format("And {}. Diodes in series count at {:.0f} % without sharing resistors.",
                                     by_volts ? average : inverse, 100 * diode_voltage_share),
                 .remedy = fmt::format("{} in series, {} in parallel", needed.in_series, needed.in_parallel),
                 .value = by_volts ? worst->inverse_v : worst->average_a,
                 .limit = by_volts ? worst->limit_v : worst->limit_a,
                 .dimension = by_volts ? voltage : current,
                 .apply = [needed](Design& e) {
                   for (FeedBlock& b : e.feed)
                     if (const BlockKind* kind = block_kind(b.kind); kind && kind->diode_strings > 0) {
                       b.values["diodes_in_series"] = needed.in_series;
                       b.values["diodes_in_parallel"] = needed.in_parallel;
                     }
                 }};
}

std::function<void(Design&)> set_block_at(const Design& d, std::size_t place, std::string key, double value) {
  return [kind = d.feed[place].kind, place, key = std::move(key), value](Design& e) {
    if (place < e.feed.size() && e.feed[place].kind == kind) e.feed[place].values[key] = value;
  };
}

std::optional<std::size_t> level_shifter_at(const Design& d) {
  for (std::size_t i = 0; i < d.feed.size(); ++i)
    if (const BlockKind* row = block_kind(d.feed[i].kind); row && row->shifts) return i;
  return {};
}

std::optional<Finding> capacitor_overloaded(const Design& d, const FeedLoads& loads, UnitSystem units) {
  constexpr double near = 0.9;
  const CapacitorLoad* worst = nullptr;
  double used = near;
  bool by_volts = true;
  for (const CapacitorLoad& c : loads.capacitors) {
    const double volts = c.limit_v > 0 ? c.peak_v / c.limit_v : 0, amps = c.limit_a > 0 ? c.rms_a / c.limit_a : 0;
    if (std::max(volts, amps) <= used || c.block >= d.feed.size()) continue;
    used = std::max(volts, amps);
    worst = &c;
    by_volts = volts >= amps;
  }
  if (!worst) return {};
  const Say say{units};
  return Finding{
      .id = "shifter-capacitor-overloaded",
      .severity = used > 1 ? Severity::stop : Severity::warning,
      .stage = "feed",
      .field = feed_field(d, d.feed[worst->block], by_volts ? "rated_v" : "rated_ripple_a"),
      .title = by_volts ? fmt::format("{} on a capacitor for {}", say(worst->peak_v, voltage),
                                      say(worst->limit_v, voltage))
                        : fmt::format("{} of ripple in a capacitor for {}", say(worst->rms_a, current),
                                      say(worst->limit_a, current)),
      .text = fmt::format("{}: {} at its peak, {} effective through it. An oven's capacitor is marked in volts of "
                          "alternating current; its peak is 1.4 times that, and it is not made for a direct part.",
                          block_kind(d.feed[worst->block].kind)->title, say(worst->peak_v, voltage),
                          say(worst->rms_a, current)),
      .remedy = by_volts ? fmt::format("Equal capacitors in series, good for {} together, with a bleeder on each",
                                       say(round_significant(1.25 * worst->peak_v, 2), voltage))
                         : "More of them in parallel, or one for more ripple",
      .value = by_volts ? worst->peak_v : worst->rms_a,
      .limit = by_volts ? worst->limit_v : worst->limit_a,
      .dimension = by_volts ? voltage : current};
}

std::optional<Finding> shifter_bleeds_slowly(const Design& d, double volts, UnitSystem units) {
  const auto place = level_shifter_at(d);
  if (!place) return {};
  const FeedBlock& shifter = d.feed[*place];
  const double ohm = block_value(shifter, "bleed_resistance_ohm");
  auto slow = slow_bleeding(block_value(shifter, "capacitance_f"),
                            ohm > 0 ? ohm : std::numeric_limits<double>::infinity(), volts, units);
  if (!slow) return {};
  const Say say{units};
  Finding& f = slow->finding;
  if (f.severity == Severity::stop) f.severity = Severity::warning; // the steps after power empty it
  f.id = slow->hot ? "shifter-bleeder-hot" : slow->seconds == 0 ? "shifter-no-bleeder" : "shifter-bleeds-slowly";
  f.stage = "feed";
  f.field = feed_field(d, shifter, "bleed_resistance_ohm");
  if (!slow->hot)
    f.title = slow->seconds == 0 ? "Nothing bleeds the level shifter"
                                 : fmt::format("{} until the level shifter is below {}",
                                               say(slow->seconds, time, 2), say(bled_target_v, voltage));
  f.apply = set_block_at(d, *place, "bleed_resistance_ohm", slow->wanted_ohm);
  return std::move(f);
}

std::optional<SlowBleeding> slow_bleeding(double farad, double ohm, double volts, UnitSystem units) {
  constexpr double longest = 60;
  const bool none = !std::isfinite(ohm);
  const double seconds = none ? 0 : bleed_time_s(ohm, farad, volts);
  constexpr double most_w = 25; // that a bleeder burns all the time (common practice, no source)
  const double watts = none ? 0 : volts * volts / ohm;
  const bool hot = watts > most_w;
  if (!none && !hot && !(seconds > longest)) return {};
  const double wanted =
      round_significant(bleed_resistance_ohm(farad, std::max(volts, 1.1 * bled_target_v), 0.8 * longest), 2);
  const Say say{units};
  Finding f;
  f.severity = none || watts > 4 * most_w ? Severity::stop : Severity::warning;
  f.text = fmt::format("It stores {}; above {} counts as hazardous (IEC 61010-1). A bleeder of {} takes {}.",
                       say(stored_energy_j(farad, volts), energy), say(hazardous_energy_j, energy),
                       say(wanted, resistance, 2), say(volts * volts / wanted, power, 2));
  f.remedy = fmt::format("Use a bleeder of {} across it", say(wanted, resistance, 2));
  f.value = seconds;
  f.limit = longest;
  f.dimension = time;
  if (hot) {
    f.value = watts;
    f.limit = most_w;
    f.dimension = power;
    f.title = fmt::format("The bleeder burns {}", say(watts, power));
  }
  return SlowBleeding{std::move(f), wanted, seconds, hot};
}

void set_store_bleeder(Design& design, double ohm) {
  const auto at = last_store(design.feed);
  if (!at) return;
  FeedBlock& block = design.feed[*at];
  const BlockKind& row = *block_kind(block.kind);
  double& each = block.values[std::string(row.store_keys.bleeder)];
  each = 1; // what one ohm in each place comes to
  each = round_significant(ohm / row.reservoir(block).bleed_ohm, 3);
}

void scale_store(Design& design, std::string_view StoreKeys::*number, double factor) {
  const auto at = last_store(design.feed);
  if (!at) return;
  FeedBlock& block = design.feed[*at];
  const std::string_view key = block_kind(block.kind)->store_keys.*number;
  block.values[std::string(key)] = round_significant(block_value(block, key) * factor, 3);
}

} // namespace arc
