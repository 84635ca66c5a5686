// Findings on the path to the bus. Limits are common practice of builders (no source) unless a rating or a law is
// named.
#include "crafts/bridges/bus_findings.h"

#include "circuit/feed_arrangements.h"
#include "craft/finding.h"
#include "parts/bank.h"
#include "quantity/say.h"
#include "simulation/feed_findings.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;
using enum Dimension;

// The field behind a number of what stores.
std::string store_field(const Design& d, std::string_view StoreKeys::*number) {
  const auto at = last_store(d.feed);
  if (!at) return "add block";
  const std::string_view key = block_kind(d.feed[*at].kind)->store_keys.*number;
  return key.empty() ? fmt::format("block {}", *at + 1) : feed_field(d, d.feed[*at], key);
}

void set_reservoir(Design& d, double farad) {
  const Bus bus = bus_of(d);
  if (bus.from_feed)
    scale_store(d, &StoreKeys::capacitance, farad / bus.reservoir.capacitance_f);
  else
    d.bridge.reservoir_f = farad;
}

// Across the whole of it.
void set_bleeder(Design& d, double ohm) {
  const Bus bus = bus_of(d);
  if (!bus.from_feed) {
    d.bridge.bleed_resistance_ohm = ohm;
  } else {
    set_store_bleeder(d, ohm);
  }
}

// The doubler's place taken by a bridge, its capacitors by a reservoir of as much energy.
void undouble(Design& d) {
  const auto at = std::ranges::find(d.feed, BlockRole::doubler, role_of);
  if (at == d.feed.end()) return;
  const double farad = block_value(*at, "capacitance_f"), ohm = block_value(*at, "bleed_resistance_ohm");
  FeedBlock rectifier = make_block(BlockRole::rectifier);
  for (const char* key : {"inverse_voltage_v", "average_current_a"}) rectifier.values[key] = block_value(*at, key);
  const auto place = static_cast<std::size_t>(at - d.feed.begin());
  d.feed[place] = rectifier;
  FeedBlock store = make_block("electrolytics");
  store.values["unit_capacitance_f"] = farad * 2;
  if (ohm > 0) store.values["unit_bleed_ohm"] = ohm;
  d.feed.insert(d.feed.begin() + static_cast<std::ptrdiff_t>(place) + 1, store);
}

Maybe bus_over_rating(const Design& d, const Analysis&, UnitSystem units) {
  const double volts = bus_voltage_v(d), rated = d.bridge.device.voltage_rating_v;
  constexpr double share = 0.8;
  if (volts <= share * rated) return {};
  const Say say{units};
  Finding f{.id = "bus-over-rating",
            .severity = volts > rated ? Severity::stop : Severity::warning,
            .stage = "bridge",
            .field = "bridge.switch_voltage_rating_v",
            .title = fmt::format("{} of bus on switches for {}", say(volts, voltage), say(rated, voltage)),
            .text = fmt::format("Turn-off rings above the bus; {:.0f} % of the rating is what builders load.",
                                100 * share),
            .remedy = fmt::format("Switches for {} or more", say(round_significant(volts / share, 2), voltage)),
            .value = volts,
            .limit = share * rated,
            .dimension = voltage};
  const Bus bus = bus_of(d);
  if (bus.doubled && !d.bridge.bus_voltage_v) {
    f.remedy = "A bridge rectifier instead of the doubler";
    f.apply = bus.from_feed ? undouble : [](Design& x) { x.bridge.doubled = false; };
  }
  return f;
}

Maybe bleeds_slowly(const Design& d, const Analysis&, UnitSystem units) {
  const Bus bus = bus_of(d);
  auto slow = slow_bleeding(bus.reservoir.capacitance_f, bus.reservoir.bleed_ohm, bus.volts, units);
  if (!slow) return {};
  const bool none = slow->seconds == 0;
  const Say say{units};
  Finding& f = slow->finding;
  f.id = none ? "bus-no-bleeder" : slow->hot ? "bus-bleeder-hot" : "bus-bleeds-slowly";
  f.stage = bus.from_feed ? "feed" : "bridge";
  f.field = bus.from_feed ? store_field(d, &StoreKeys::bleeder) : "bridge.bleed_resistance_ohm";
  if (!slow->hot)
    f.title = none ? "Nothing bleeds the reservoir"
                   : fmt::format("{} until the bus is below {}", say(slow->seconds, time, 2),
                                 say(bled_target_v, voltage));
  f.apply = [wanted = slow->wanted_ohm](Design& x) { set_bleeder(x, wanted); };
  return std::move(f);
}

constexpr std::array<FindingRule, 2> bus_rest_table{bus_over_rating, bleeds_slowly};

Maybe bus_sags(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const double share = b.burst.droop_v / b.circuit.bus_v;
  constexpr double tolerable = 0.15;
  if (share <= tolerable) return {};
  const Say say{units};
  const double wanted = round_significant(1.1 * b.circuit.reservoir_f * share / tolerable, 2);
  return Finding{.id = "bus-sags",
                 .severity = Severity::warning,
                 .stage = bus_of(d).from_feed ? "feed" : "bridge",
                 .field = bus_of(d).from_feed ? store_field(d, &StoreKeys::capacitance) : "bridge.reservoir_f",
                 .title = fmt::format("The bus sags by {} in a burst", say(b.burst.droop_v, voltage)),
                 .text =
                     fmt::format("{} from {} are {:.0f} % of it; the end of the burst does less than its start.",
                                 say(b.burst.bus_j, energy), say(b.circuit.reservoir_f, capacitance), 100 * share),
                 .remedy = fmt::format("Reservoir of {}", say(wanted, capacitance, 2)),
                 .value = share,
                 .limit = tolerable,
                 .dimension = fraction,
                 .apply = [wanted](Design& x) { set_reservoir(x, wanted); }};
}

Maybe bus_feed_broken(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem) {
  if (d.feed.empty() || b.mains_problem.empty()) return {};
  return Finding{.id = "feed-broken",
                 .severity = Severity::stop,
                 .stage = "feed",
                 .field = "feed strip",
                 .title = "The path to the bus cannot be computed",
                 .text = b.mains_problem + ". Until then the bus is as the bridge's own numbers say.",
                 .remedy = "Move or change that block"};
}

Maybe bus_feed_missing(const Design& d, const Analysis&, const BridgeAnalysis&, UnitSystem) {
  if (!d.feed.empty()) return {};
  const bool doubled = d.bridge.doubled;
  return Finding{
      .id = "feed-missing",
      .severity = Severity::note,
      .stage = "feed",
      .field = "feed start",
      .title = "The path from the wall to the bus is not there yet",
      .text = "The bus is as entered; the path shows inrush, ripple, what the line and the breaker see.",
      .remedy =
          doubled ? "Start from a voltage doubler behind a variac" : "Start from rectified mains behind a variac",
      .apply = [doubled](Design& x) { x.feed = feed_arrangement(doubled ? "doubled" : "rectified").blocks(x); }};
}

// What stands in the way of switching on: the breaker's magnetic trip, with twice its effective current as the peak
// of a half wave's pulse, and the rectifier; without either, a fifth of a kiloampere.
double tolerable_inrush_a(const Design& d) {
  constexpr double usual_a = 200;
  const FeedBlock* breaker = find_block(d.feed, BlockRole::breaker);
  if (!breaker) return usual_a;
  const double times = block_value(*breaker, "type_c") > 0.5 ? 7.5 : 4; // as in breaker_trip_s()
  return std::min(usual_a, times * std::numbers::sqrt2 * block_value(*breaker, "rated_current_a"));
}

// Seconds until a relay may bridge these ohms: a rectifier charges at the crests only, a doubler each of its
// capacitors at every other one, and they are twice the bus's.
double relay_after_s(const Design& d, const BridgeAnalysis& b, double ohm) {
  const double constants = bus_of(d).doubled ? 100 : 12;
  return std::clamp(round_significant(constants * ohm * b.circuit.reservoir_f, 1), 0.3, 8.0);
}

Maybe inrush(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.mains) return {};
  const double tolerable = tolerable_inrush_a(d);
  const double worst = std::max(b.mains->inrush_a, b.mains->surge_2_a);
  if (worst <= tolerable) return {};
  const Say say{units};
  const FeedBlock* limiter = find_block(d.feed, BlockRole::inrush_limiter);
  const double peak_v = std::numbers::sqrt2 * d.site.mains_voltage_v;
  Finding f{.id = limiter ? "inrush-high" : "no-inrush-limit",
            .severity = limiter ? Severity::warning : Severity::stop,
            .stage = "feed",
            .field = limiter ? feed_field(d, *limiter, "resistance_ohm") : "add block",
            .title = fmt::format("{} as it is switched on", say(worst, current)),
            .text =
                fmt::format("At the crest of the mains the empty reservoir is a short circuit; above some {} the "
                            "breaker trips at once or the rectifier suffers.",
                            say(tolerable, current, 2)),
            .value = worst,
            .limit = tolerable,
            .dimension = current};
  if (limiter && b.mains->surge_2_a > tolerable) {
    const double later =
        std::min(20.0, round_significant(2.5 * std::max(block_value(*limiter, "relay_after_s"), 0.1), 2));
    f.field = feed_field(d, *limiter, "relay_after_s");
    f.title = fmt::format("{} as the relay closes", say(worst, current));
    f.text = "The relay bridges the limiter before the reservoir is charged.";
    f.remedy = fmt::format("Close it after {}", say(later, time, 2));
    f.apply = set_block(BlockRole::inrush_limiter, "relay_after_s", later);
    return f;
  }
  const double ohm = round_significant(1.3 * peak_v / std::min(tolerable, 15.0), 2);
  const double after = relay_after_s(d, b, ohm);
  f.remedy = fmt::format("A limiter of {}, bridged after {}", say(ohm, resistance, 2), say(after, time, 2));
  f.apply = [ohm, after](Design& x) {
    if (!find_block(x.feed, BlockRole::inrush_limiter)) add_block(x.feed, make_block(BlockRole::inrush_limiter));
    FeedBlock& block = *find_block(x.feed, BlockRole::inrush_limiter);
    block.values["resistance_ohm"] = ohm;
    block.values["relay_after_s"] = after;
    block.values["hot_ohm"] = 0;
  };
  return f;
}

Maybe limiter_takes_too_much(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const FeedBlock* limiter = find_block(d.feed, BlockRole::inrush_limiter);
  if (!b.mains || !limiter) return {};
  const double holds = block_value(*limiter, "pulse_j");
  if (!(holds > 0) || b.mains->limiter_j <= holds) return {};
  const Say say{units};
  return Finding{.id = "limiter-overloaded",
                 .severity = Severity::warning,
                 .stage = "feed",
                 .field = feed_field(d, *limiter, "pulse_j"),
                 .title = fmt::format("The limiter takes {} at once, it stands {}", say(b.mains->limiter_j, energy),
                                      say(holds, energy)),
                 .text = "Charging a reservoir from nothing costs its limiter as much as it stores.",
                 .remedy = "A limiter that stands more, or a smaller reservoir",
                 .value = b.mains->limiter_j,
                 .limit = holds,
                 .dimension = energy};
}

// A plain resistor that nothing bridges.
Maybe limiter_stays(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  const FeedBlock* limiter = find_block(d.feed, BlockRole::inrush_limiter);
  if (!b.mains) return {};
  const double tolerable_w = std::min(10.0, 0.03 * b.mains->input_power_w);
  if (!limiter || block_value(*limiter, "relay_after_s") > 0 || thermistor_of(*limiter)) return {};
  if (b.mains->limiter_w <= tolerable_w) return {};
  const Say say{units};
  const double after = relay_after_s(d, b, b.mains->limiter_ohm);
  return Finding{.id = "limiter-stays-in",
                 .severity = Severity::warning,
                 .stage = "feed",
                 .field = feed_field(d, *limiter, "relay_after_s"),
                 .title = fmt::format("The limiter burns {} in running", say(b.mains->limiter_w, power)),
                 .text = "Nothing bridges it once the reservoir is charged.",
                 .remedy = fmt::format("A relay across it after {}", say(after, time, 2)),
                 .value = b.mains->limiter_w,
                 .limit = tolerable_w,
                 .dimension = power,
                 .apply = set_block(BlockRole::inrush_limiter, "relay_after_s", after)};
}

Maybe fuse_melts(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.mains) return {};
  for (std::size_t i = 0; i < d.feed.size(); ++i) {
    const FeedBlock& block = d.feed[i];
    if (block_kind(block.kind)->reservoir) return {}; // what comes behind sees bursts, not the inrush
    if (role_of(block) != BlockRole::fuse) continue;
    const double melts = block_value(block, "melting_a2s");
    if (!(melts > 0) || b.mains->inrush_a2s <= 0.5 * melts) continue; // half of it ages a fuse
    return Finding{.id = "fuse-melts-at-switching-on",
                   .severity = b.mains->inrush_a2s > melts ? Severity::stop : Severity::warning,
                   .stage = "feed",
                   .field = feed_field(d, block, "melting_a2s"),
                   .title = fmt::format("Switching on takes {:.0f} % of the fuse's melting integral",
                                        100 * b.mains->inrush_a2s / melts),
                   .text = fmt::format("{:.3g} A²s of its {:.3g} A²s (peak {}); above half of it a fuse ages with "
                                       "every start.",
                                       b.mains->inrush_a2s, melts, Say{units}(b.mains->inrush_a, current)),
                   .remedy = "A slower fuse, or more inrush limit",
                   .value = b.mains->inrush_a2s,
                   .limit = 0.5 * melts};
  }
  return {};
}

Maybe bus_ripple(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.mains || !(b.mains->bus_v > 0)) return {};
  constexpr double tolerable = 0.1;
  const double share = b.mains->ripple_v / b.mains->bus_v;
  if (share <= tolerable || b.burst.droop_v > 0.15 * b.circuit.bus_v) return {}; // then it sags, which is said
  const Say say{units};
  const double wanted = round_significant(1.15 * b.circuit.reservoir_f * share / tolerable, 2);
  return Finding{
      .id = "bus-ripple",
      .severity = Severity::warning,
      .stage = "feed",
      .field = store_field(d, &StoreKeys::capacitance),
      .title = fmt::format("The bus ripples by {}", say(b.mains->ripple_v, voltage)),
      .text = fmt::format("{:.0f} % of {}: bursts begin anywhere between, {} apart, and arcs differ as much.",
                          100 * share, say(b.mains->bus_v, voltage), say(b.mains->start_spread_v, voltage)),
      .remedy = fmt::format("Reservoir of {}", say(wanted, capacitance, 2)),
      .value = share,
      .limit = tolerable,
      .dimension = fraction,
      .apply = [wanted](Design& x) { set_reservoir(x, wanted); }};
}

Maybe bus_never_full(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.mains || b.mains->charged) return {};
  const Say say{units};
  const FeedBlock* limiter = find_block(d.feed, BlockRole::inrush_limiter);
  const double ohm = limiter ? round_significant(block_value(*limiter, "resistance_ohm") / 4, 2) : 0;
  return Finding{
      .id = "bus-charges-slowly",
      .severity = Severity::warning,
      .stage = "feed",
      .field = limiter ? feed_field(d, *limiter, "resistance_ohm") : "feed strip",
      .title = fmt::format("After {} the bus is at {} of {}", say(b.mains->charged_s, time, 2),
                           say(b.mains->crest_v, voltage), say(b.mains->unloaded_v, voltage)),
      .text = "The limiter and the bleeder divide the mains, or charging takes longer than anyone waits.",
      .remedy = limiter ? fmt::format("A limiter of {}", say(ohm, resistance, 2)) : "Less in its way",
      .value = b.mains->crest_v,
      .limit = b.mains->unloaded_v,
      .dimension = voltage,
      .apply = limiter && ohm > 0.01 ? set_block(BlockRole::inrush_limiter, "resistance_ohm", ohm) : nullptr};
}

// A choke and an empty reservoir ring: up to twice the crest.
Maybe bus_overshoots(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.mains || b.mains->crest_v <= 1.1 * b.mains->unloaded_v) return {};
  const double rated = reservoir_of(d.feed).limit_v;
  const double holds = std::min(rated > 0 ? rated : 1e9, d.bridge.device.voltage_rating_v);
  if (b.mains->crest_v <= 0.95 * holds) return {};
  const Say say{units};
  return Finding{
      .id = "bus-overshoots",
      .severity = b.mains->crest_v > holds ? Severity::stop : Severity::warning,
      .stage = "feed",
      .field = store_field(d, &StoreKeys::voltage),
      .title = fmt::format("Switching on lifts the bus to {}", say(b.mains->crest_v, voltage)),
      .text = fmt::format("What is inductive before it rings with the empty reservoir; reservoir and switches "
                          "hold {}. Above the crest only the bleeder brings it down.",
                          say(holds, voltage)),
      .remedy = "A limiter in the line while it charges, or the variac from zero",
      .value = b.mains->crest_v,
      .limit = holds,
      .dimension = voltage,
      .apply =
          find_block(d.feed, BlockRole::inrush_limiter) ? nullptr : std::function<void(Design&)>([](Design& x) {
            FeedBlock block = make_block(BlockRole::inrush_limiter);
            block.values["relay_after_s"] = 1;
            add_block(x.feed, block);
          })};
}

Maybe reservoir_warm(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  if (!b.mains) return {};
  const Reservoir r = reservoir_of(d.feed);
  if (!(r.ripple_a > 0) || b.mains->reservoir_a <= r.ripple_a) return {};
  const FeedBlock& block = d.feed[*last_store(d.feed)];
  const Say say{units};
  const double more = std::ceil(b.mains->reservoir_a / r.ripple_a);
  Finding f{.id = "reservoir-ripple-current",
            .severity = b.mains->reservoir_a > 1.5 * r.ripple_a ? Severity::stop : Severity::warning,
            .stage = "feed",
            .field = store_field(d, &StoreKeys::ripple),
            .title = fmt::format("{} in a reservoir for {}", say(b.mains->reservoir_a, current),
                                 say(r.ripple_a, current)),
            .text = "Charging pulses and bursts heat its ESR; electrolytics dry out and burst.",
            .remedy = "More units in parallel, or film capacitors beside them",
            .value = b.mains->reservoir_a,
            .limit = r.ripple_a,
            .dimension = current};
  if (!block_kind(block.kind)->store_keys.ripple.empty()) {
    f.remedy = fmt::format("{} in parallel", format_number(block_value(block, "units_in_parallel") * more));
    f.apply = [more](Design& x) {
      if (const auto at = last_store(x.feed)) x.feed[*at].values["units_in_parallel"] *= more;
    };
  }
  return f;
}

Maybe bus_breaker_trips(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  return b.mains ? breaker_trips(d, *b.mains, 0, units) : Maybe{};
}

Maybe bus_block_overloaded(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  return b.mains ? block_overloaded(d, *b.mains, units) : Maybe{};
}

Maybe bus_diodes_overloaded(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  return b.mains ? diodes_overloaded(d, *b.mains, units) : Maybe{};
}

Maybe bus_capacitor_overloaded(const Design& d, const Analysis&, const BridgeAnalysis& b, UnitSystem units) {
  return b.mains ? capacitor_overloaded(d, *b.mains, units) : Maybe{};
}

constexpr std::array<BridgeRule, 15> bus_burst_table{bus_feed_broken,
                                                     bus_feed_missing,
                                                     bus_sags,
                                                     bus_ripple,
                                                     inrush,
                                                     limiter_takes_too_much,
                                                     limiter_stays,
                                                     bus_never_full,
                                                     bus_overshoots,
                                                     fuse_melts,
                                                     reservoir_warm,
                                                     bus_breaker_trips,
                                                     bus_block_overloaded,
                                                     bus_diodes_overloaded,
                                                     bus_capacitor_overloaded};

} // namespace

std::span<const FindingRule> bus_rules() {
  return bus_rest_table;
}

std::span<const BridgeRule> bus_burst_rules() {
  return bus_burst_table;
}

} // namespace arc
