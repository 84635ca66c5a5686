// Findings on the feed, from the wall to the tank's rails. Limits are common practice of coil builders (no source)
// unless a source is named.
#include "simulation/feed_findings.h"
#include "circuit/feed.h"
#include "circuit/feed_network.h"
#include "crafts/spark_gap/power_rules.h"
#include "parts/bank.h"
#include "parts/gap.h"
#include "quantity/say.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;
using enum Dimension;

bool has_own_supply(const Design& d) {
  return std::ranges::any_of(d.feed, [](const FeedBlock& b) { return block_kind(b.kind)->own_supply; });
}

bool has_safety_gap(const Design& d) {
  return std::ranges::any_of(d.feed, [](const FeedBlock& b) {
    const auto it = b.values.find("safety_gap_v");
    return role_of(b) == BlockRole::safety_gap || (it != b.values.end() && it->second > 0);
  });
}

Maybe feed_broken(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem) {
  if (charges(p) || d.feed.empty()) return {};
  return Finding{.id = "feed-broken",
                 .severity = Severity::stop,
                 .stage = "feed",
                 .field = "feed strip",
                 .title = "Charging cannot be computed",
                 .text = p.charging_problem + ".",
                 .remedy = "Move or change that block",
                 .value = 0,
                 .limit = 0,
                 .dimension = number};
}

Maybe feed_missing(const Design& d, const Analysis& a, const SparkGapPower&, UnitSystem units) {
  if (!d.feed.empty()) return {};
  // One that fires the gap with a fifth to spare, its tank a half larger than resonates with it.
  const double volts =
      std::clamp(round_significant(1.2 * d.gap.firing_voltage_v / std::numbers::sqrt2, 2), 100.0, 2e5);
  const double amps = std::clamp(
      round_significant(2 * std::numbers::pi * d.site.mains_frequency_hz * volts * a.tank_capacitance_f / 1.5, 2),
      1e-3, 10.0);
  const Say say{units};
  return Finding{
      .id = "feed-missing",
      .severity = Severity::note,
      .stage = "feed",
      .field = "add block",
      .title = "Nothing feeds the tank yet",
      .text = "Break rate and power are as entered; a feed shows what the line, the breaker and the parts see.",
      .remedy = fmt::format("Add a current-limited transformer of {} and {}", say(volts, voltage, 2),
                            say(amps, current, 2)),
      .value = 0,
      .limit = 0,
      .dimension = number,
      .apply = [volts, amps](Design& e) {
        FeedBlock block = make_block(BlockRole::transformer);
        block.values["rated_mains_v"] = e.site.mains_voltage_v;
        block.values["output_v"] = volts;
        block.values["short_circuit_a"] = amps;
        block.values["resistance_ohm"] = round_significant(0.03 * volts / amps, 2);
        add_block(e.feed, std::move(block));
      }};
}

Maybe breaker_trips(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  if (!charges(p)) return {};
  double holds = 0;
  for (const VariacPoint& point : p.variac)
    if (point.problem.empty() && std::isinf(point.charging.breaker_trip_s)) holds = std::max(holds, point.setting);
  return breaker_trips(d, p.charging, holds, units);
}

Maybe block_overloaded(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  if (!charges(p)) return {};
  double fits = 0;
  for (const VariacPoint& point : p.variac)
    if (point.problem.empty() && point.charging.break_rate_hz > 0 &&
        std::ranges::all_of(point.charging.joints, [](const JointLoad& j) { return j.used() <= 1; }))
      fits = std::max(fits, point.setting);
  return block_overloaded(d, p.charging, units, fits);
}

Maybe capacitor_overloaded(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  return charges(p) ? capacitor_overloaded(d, p.charging, units) : Maybe{};
}

Maybe diodes_overloaded(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  return charges(p) ? diodes_overloaded(d, p.charging, units) : Maybe{};
}

Maybe power_factor_low(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  if (!power_factor_is_low(d, p)) return {};
  const Say say{units};
  const bool lags = p.charging.reactive_va > 0;
  Finding f{
      "power-factor-low",
      Severity::note,
      "feed",
      "add block",
      fmt::format("Power factor {:.2f}, {}", p.charging.power_factor, lags ? "lagging" : "leading"),
      fmt::format("{} from the line for {} of real power.{}", say(p.charging.line_current_a, current),
                  say(p.charging.input_power_w, power),
                  lags ? "" : " The current leads, as through a capacitor: one more capacitor makes it worse."),
      "",
      p.charging.power_factor,
      low_power_factor,
      number,
      {}};
  if (!p.correction) return f;
  const double farad = p.correction->capacitance_f;
  f.remedy =
      fmt::format("Put {} across the transformer's input: power factor {:.2f}, {}", say(farad, capacitance, 2),
                  p.correction->power_factor, say(p.correction->line_a, current));
  f.apply = [farad](Design& e) { add_correction(e, farad); };
  return f;
}

// Ignition coils are wound for pulses from 12 V; on the mains only a ballast keeps their current in bounds.
Maybe coils_on_the_mains(const Design& d, const Analysis&, const SparkGapPower&, UnitSystem units) {
  const FeedBlock* coils = find_block(d.feed, BlockRole::ignition_coils);
  const bool ballasted =
      std::ranges::any_of(d.feed, [](const FeedBlock& b) { return block_kind(b.kind)->ballast; });
  if (!coils || ballasted || !feed_problem(d.feed).empty()) return {};
  const CoreData core = *block_core(*coils, d.site.mains_voltage_v, d.site.mains_frequency_hz);
  const Say say{units};
  if (d.site.mains_voltage_v < 2 * core.rated_v) return {};
  constexpr double usual_ballast_f = 40e-6; // two of 20 uF (common practice)
  return Finding{.id = "coils-on-the-mains",
                 .severity = Severity::stop,
                 .stage = "feed",
                 .field = feed_field(d, *coils, "rated_mains_v"),
                 .title = "Ignition coils straight on the mains",
                 .text = fmt::format(
                     "Their cores saturate above some {} at {}: without a ballast nothing but copper limits the "
                     "current. What is computed of such a feed means little.",
                     say(core.rated_v, voltage, 2), say(d.site.mains_frequency_hz, frequency)),
                 .remedy = fmt::format("Put a run capacitor of {} in series", say(usual_ballast_f, capacitance)),
                 .value = d.site.mains_voltage_v,
                 .limit = core.rated_v,
                 .dimension = voltage,
                 .apply = [](Design& e) {
                   FeedBlock block = make_block("ballast-capacitor");
                   block.values["capacitance_f"] = usual_ballast_f;
                   add_block(e.feed, std::move(block));
                 }};
}

Maybe no_safety_gap(const Design& d, const Analysis& a, const SparkGapPower& p, UnitSystem units) {
  if (!charges(p) || has_safety_gap(d) || has_own_supply(d)) return {};
  const Say say{units};
  const double wanted = round_significant(1.15 * std::max(d.gap.firing_voltage_v, p.charging.tank_peak_v), 3);
  const auto resonant = mains_resonant_capacitance_f(d);
  const double ratio = resonant ? a.tank_capacitance_f / *resonant : 0;
  const bool near = ratio > 0.8 && ratio < 1.25; // a Q of some five is left outside of it
  return Finding{
      .id = "no-safety-gap",
      .severity = near ? Severity::warning : Severity::note,
      .stage = "feed",
      .field = "add block",
      .title = "No safety gap across the source",
      .text =
          near
              ? fmt::format(
                    "The tank is {:.2f} times the {} that resonate with the source at {}: when the main gap "
                    "fails to fire, the voltage climbs until something breaks.",
                    ratio, say(*resonant, capacitance, 3), say(d.site.mains_frequency_hz, frequency))
              : "When the main gap fails to fire, resonance with the tank lifts the source until something breaks.",
      .remedy = fmt::format("Add one that fires at {}", say(wanted, voltage)),
      .value = 0,
      .limit = wanted,
      .dimension = voltage,
      .apply = [wanted](Design& e) { insert_safety_gap(e, wanted); }};
}

Maybe safety_gap_fires(const Design&, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  if (!charges(p)) return {};
  const auto it =
      std::ranges::find_if(p.charging.safety_gaps, [](const SafetyGapLoad& g) { return g.firings > 0; });
  if (it == p.charging.safety_gaps.end()) return {};
  const Say say{units};
  return Finding{
      .id = "safety-gap-fires",
      .severity = Severity::warning,
      .stage = "feed",
      .field = "feed strip",
      .title = fmt::format("The {} fires in normal running", it->title),
      .text = fmt::format("Set to {}, it takes power from every charge, and hides that something else is amiss.",
                          say(it->firing_v, voltage)),
      .remedy = "Widen it a little, or narrow the main gap",
      .value = static_cast<double>(it->firings),
      .limit = 0,
      .dimension = number};
}

Maybe choke_slow(const Design& d, const Analysis& a, const SparkGapPower& p, UnitSystem units) {
  const FeedBlock* choke = find_block(d.feed, BlockRole::charging_choke);
  const double rate = presentations_hz(d.gap).value_or(d.gap.break_rate_hz);
  if (!choke || !charges(p) || !(rate > 0)) return {};
  const double seconds = resonant_charge_s(block_value(*choke, "inductance_h"), a.tank_capacitance_f);
  if (seconds * rate <= 1) return {};
  const Say say{units};
  const double wanted = round_significant(choke_for_rate_h(rate / 0.9, a.tank_capacitance_f), 2);
  return Finding{
      .id = "choke-slow",
      .severity = Severity::warning,
      .stage = "feed",
      .field = feed_field(d, *choke, "inductance_h"),
      .title = fmt::format("The choke takes {} to fill the tank", say(seconds, time)),
      .text = fmt::format("At {:.0f} bps it has {}: the tank fires before it is full.", rate, say(1 / rate, time)),
      .remedy = fmt::format("Use a choke of {}", say(wanted, inductance, 2)),
      .value = seconds,
      .limit = 1 / rate,
      .dimension = time,
      .apply = set_block(BlockRole::charging_choke, "inductance_h", wanted)};
}

Maybe reservoir_bleeds_slowly(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  const auto at = last_store(d.feed);
  if (!at || !charges(p)) return {};
  const BlockKind& row = *block_kind(d.feed[*at].kind);
  const Reservoir r = row.reservoir(d.feed[*at]);
  auto slow = slow_bleeding(r.capacitance_f, r.bleed_ohm, p.charging.joints[*at].peak_v, units);
  const bool none = slow && slow->seconds == 0;
  if (!slow || (none && row.doubles)) return {}; // a doubler's own capacitors empty into the tank
  const Say say{units};
  Finding& f = slow->finding;
  f.id = none ? "reservoir-no-bleeder" : slow->hot ? "reservoir-bleeder-hot" : "reservoir-bleeds-slowly";
  f.stage = "feed";
  f.field = feed_field(d, d.feed[*at], row.store_keys.bleeder);
  if (!slow->hot)
    f.title = none ? "Nothing bleeds the reservoir"
                   : fmt::format("{} until the reservoir is below {}", say(slow->seconds, time, 2),
                                 say(bled_target_v, voltage));
  f.apply = [ohm = slow->wanted_ohm](Design& e) { set_store_bleeder(e, ohm); };
  return std::move(f);
}

constexpr std::array<PowerRule, 12> feed_table{capacitor_overloaded, feed_broken,        feed_missing,
                                               breaker_trips,        block_overloaded,   diodes_overloaded,
                                               power_factor_low,     no_safety_gap,      safety_gap_fires,
                                               choke_slow,           coils_on_the_mains, reservoir_bleeds_slowly};

} // namespace

bool power_factor_is_low(const Design& d, const SparkGapPower& p) {
  return charges(p) && p.charging.power_factor < low_power_factor && p.charging.line_current_a > 0.5 &&
         !find_block(d.feed, BlockRole::correction) && !has_own_supply(d);
}

void add_correction(Design& design, double farad) {
  FeedBlock block = make_block(BlockRole::correction);
  block.values["capacitance_f"] = farad;
  add_block(design.feed, std::move(block));
}

std::span<const PowerRule> feed_rules() {
  return feed_table;
}

void insert_safety_gap(Design& design, double firing_v) {
  if (FeedBlock* old = find_block(design.feed, BlockRole::safety_gap)) {
    old->values["firing_v"] = firing_v;
    return;
  }
  FeedBlock block = make_block(BlockRole::safety_gap);
  block.values["firing_v"] = firing_v;
  const auto source = std::ranges::find_if(design.feed, [](const FeedBlock& b) { return is_source(b.kind); });
  if (source != design.feed.end()) design.feed.insert(source + 1, std::move(block));
}

} // namespace arc
