// The table of findings on the power path, as findings.cpp for the coil. Limits are common practice of coil
// builders (no source) unless a source is named.
#include "circuit/feed.h"
#include "circuit/feed_network.h"
#include "design/power.h"
#include "design/say.h"
#include "parts/gap.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

using Maybe = std::optional<Finding>;
using enum Dimension;

const FeedBlock* block_of(const Design& d, std::string_view kind) {
  const auto it = std::ranges::find(d.feed, kind, &FeedBlock::kind);
  return it == d.feed.end() ? nullptr : &*it;
}

std::string field_of(const Design& d, const FeedBlock& block, std::string_view key) {
  return fmt::format("block {} {}", &block - d.feed.data() + 1, key);
}

bool charges(const PowerAnalysis& p) {
  return p.charging_problem.empty();
}

Maybe feed_broken(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem) {
  if (charges(p) || d.feed.empty()) return {};
  return Finding{"feed-broken",
                 Severity::stop,
                 "feed",
                 "feed strip",
                 "The feed cannot charge the tank",
                 p.charging_problem + ".",
                 "Move or change that block",
                 0,
                 0,
                 number,
                 {}};
}

Maybe feed_missing(const Design& d, const Analysis&, const PowerAnalysis&, UnitSystem) {
  if (!d.feed.empty()) return {};
  return Finding{"feed-missing",
                 Severity::note,
                 "feed",
                 "add block",
                 "Nothing feeds the tank yet",
                 "Break rate and power are as entered; a feed shows what the line, the breaker and the parts see.",
                 "Add a current-limited transformer",
                 0,
                 0,
                 number,
                 [](Design& e) { add_block(e.feed, make_block("transformer")); }};
}

Maybe gap_never_fires(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  if (!charges(p) || !p.charging.break_times_s.empty() || d.gap.rotary_electrodes) return {};
  const Say say{units};
  const double wanted = std::floor(0.85 * p.charging.tank_peak_v / 100) * 100;
  return Finding{"gap-never-fires",
                 Severity::stop,
                 "switch",
                 "switch gap.firing_voltage_v",
                 fmt::format("The gap never fires: the tank reaches {}", say(p.charging.tank_peak_v, voltage)),
                 fmt::format("It is set to {}. Too wide a gap over-volts transformer and capacitors instead.",
                             say(d.gap.firing_voltage_v, voltage)),
                 fmt::format("Set it to fire at {}", say(wanted, voltage)),
                 p.charging.tank_peak_v,
                 d.gap.firing_voltage_v,
                 voltage,
                 wanted > 10 ? std::function<void(Design&)>([wanted](Design& e) {
                   e.gap.firing_voltage_v = wanted;
                   if (e.gap.spacing_m)
                     if (const auto s = spacing_for_firing_m(e.gap, e.site, wanted)) e.gap.spacing_m = *s;
                 })
                             : nullptr};
}

Maybe breaker_trips(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  const FeedBlock* breaker = block_of(d, "breaker");
  if (!charges(p) || !breaker || std::isinf(p.charging.breaker_trip_s)) return {};
  const Say say{units};
  double holds = 0;
  for (const VariacPoint& point : p.variac)
    if (std::isinf(point.charging.breaker_trip_s)) holds = std::max(holds, point.setting);
  const FeedBlock* variac = block_of(d, "variac");
  return Finding{
      "breaker-trips",
      p.charging.breaker_trip_s < 600 ? Severity::stop : Severity::warning,
      "feed",
      field_of(d, *breaker, "rated_current_a"),
      fmt::format("The breaker trips after {}", say(p.charging.breaker_trip_s, time, 2)),
      fmt::format("{} through a {} breaker; it holds for good below 1.13 times its rating (IEC 60898-1).",
                  say(p.charging.line_current_a, current), say(block_value(*breaker, "rated_current_a"), current)),
      variac && holds > 0 ? fmt::format("Turn the variac to {:.0f} %", 100 * holds)
                          : "Less power, more ballast, or a power-factor capacitor",
      p.charging.line_current_a,
      1.13 * block_value(*breaker, "rated_current_a"),
      current,
      variac && holds > 0 ? std::function<void(Design&)>([holds](Design& e) {
        std::ranges::find(e.feed, "variac", &FeedBlock::kind)->values["setting"] = holds;
      })
                          : nullptr};
}

Maybe block_overloaded(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  if (!charges(p)) return {};
  std::size_t worst = d.feed.size();
  double used = 1;
  for (std::size_t i = 0; i < d.feed.size(); ++i) // the tank, behind them, has its own findings
    if (d.feed[i].kind != "breaker" && p.charging.joints[i].used() > used) {
      used = p.charging.joints[i].used();
      worst = i;
    }
  if (worst == d.feed.size()) return {};
  const JointLoad& joint = p.charging.joints[worst];
  const Say say{units};
  const bool volts = joint.limit_v > 0 && joint.peak_v / joint.limit_v >= used;
  return Finding{
      "block-overloaded",
      used > 1.2 ? Severity::stop : Severity::warning,
      "feed",
      field_of(d, d.feed[worst], block_kind(d.feed[worst].kind)->numbers.front().key),
      fmt::format("{}: {:.0f} % of its limit", joint.title, 100 * used),
      volts ? fmt::format("{} peak, its limit is {}.", say(joint.peak_v, voltage), say(joint.limit_v, voltage))
            : fmt::format("{} RMS, its limit is {}.", say(joint.rms_a, current), say(joint.limit_a, current)),
      volts ? "A narrower gap, a safety gap, or a part with a higher rating"
            : "Less power, or a part with a higher rating",
      volts ? joint.peak_v : joint.rms_a,
      volts ? joint.limit_v : joint.limit_a,
      volts ? voltage : current,
      {}};
}

Maybe diodes_overloaded(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  if (!charges(p) || p.charging.diodes.empty()) return {};
  const auto worst = std::ranges::max_element(p.charging.diodes, {}, [](const DiodeLoad& l) { return l.used(); });
  if (worst->used() <= 1) return {};
  const auto block = std::ranges::find_if(
      d.feed, [](const FeedBlock& b) { return block_kind(b.kind) && block_kind(b.kind)->diode_strings > 0; });
  const DiodeString needed =
      diode_string(worst->inverse_v, worst->average_a, block_value(*block, "inverse_voltage_v"),
                   block_value(*block, "average_current_a"), block_value(*block, "sharing_ohm"));
  const Say say{units};
  return Finding{
      "diodes-overloaded",
      Severity::stop,
      "feed",
      field_of(d, *block, "inverse_voltage_v"),
      fmt::format("{} inverse on a string for {}", say(worst->inverse_v, voltage), say(worst->limit_v, voltage)),
      fmt::format("And {} average on one for {}. Diodes in series count at {:.0f} % without sharing resistors.",
                  say(worst->average_a, current), say(worst->limit_a, current), 100 * diode_voltage_share),
      fmt::format("{} in series, {} side by side", needed.in_series, needed.in_parallel),
      worst->inverse_v,
      worst->limit_v,
      voltage,
      [needed](Design& e) {
        for (FeedBlock& b : e.feed)
          if (const BlockKind* kind = block_kind(b.kind); kind && kind->diode_strings > 0) {
            b.values["diodes_in_series"] = needed.in_series;
            b.values["diodes_in_parallel"] = needed.in_parallel;
          }
      }};
}

Maybe power_factor_low(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  constexpr double low = 0.6;
  if (!charges(p) || p.charging.power_factor >= low || !(p.charging.line_current_a > 0.5) ||
      block_of(d, "power-factor-capacitor") || block_of(d, "flyback-driver"))
    return {};
  const Say say{units};
  // Half of the reactive power taken away: the waveform's distortion stays, and more would over-correct when idle.
  const double apparent = p.charging.line_current_a * d.site.mains_voltage_v;
  const double reactive = std::sqrt(std::max(0.0, apparent * apparent - std::pow(p.charging.input_power_w, 2)));
  const auto source = std::ranges::find_if(d.feed, [](const FeedBlock& b) { return is_source(b.kind); });
  const auto before = source - d.feed.begin(); // a variac there changes what the capacitor sees
  const double volts =
      before > 0 ? p.charging.joints[static_cast<std::size_t>(before - 1)].rms_v : d.site.mains_voltage_v;
  const double farad =
      round_significant(reactive / 2 / (2 * std::numbers::pi * d.site.mains_frequency_hz * volts * volts), 2);
  return Finding{"power-factor-low",
                 Severity::note,
                 "feed",
                 "add block",
                 fmt::format("Power factor {:.2f}", p.charging.power_factor),
                 fmt::format("{} from the line for {} of real power.", say(p.charging.line_current_a, current),
                             say(p.charging.input_power_w, power)),
                 fmt::format("Try {} across the transformer's input", say(farad, capacitance, 2)),
                 p.charging.power_factor,
                 low,
                 number,
                 [farad](Design& e) {
                   FeedBlock block = make_block("power-factor-capacitor");
                   block.values["capacitance_f"] = farad;
                   add_block(e.feed, std::move(block));
                 }};
}

// Right behind the source; an older one there is set anew.
void insert_safety_gap(Design& e, double firing_v) {
  if (const auto old = std::ranges::find(e.feed, "safety-gap", &FeedBlock::kind); old != e.feed.end()) {
    old->values["firing_v"] = firing_v;
    return;
  }
  FeedBlock block = make_block("safety-gap");
  block.values["firing_v"] = firing_v;
  const auto source = std::ranges::find_if(e.feed, [](const FeedBlock& b) { return is_source(b.kind); });
  if (source != e.feed.end()) e.feed.insert(source + 1, std::move(block));
}

bool has_safety_gap(const Design& d) {
  return std::ranges::any_of(d.feed, [](const FeedBlock& b) {
    const auto it = b.values.find("safety_gap_v");
    return b.kind == "safety-gap" || (it != b.values.end() && it->second > 0);
  });
}

Maybe no_safety_gap(const Design& d, const Analysis& a, const PowerAnalysis& p, UnitSystem units) {
  if (!charges(p) || has_safety_gap(d) || block_of(d, "flyback-driver")) return {};
  const Say say{units};
  const double wanted = round_significant(1.15 * std::max(d.gap.firing_voltage_v, p.charging.tank_peak_v), 3);
  const auto resonant = mains_resonant_capacitance_f(d);
  const double ratio = resonant ? a.tank_capacitance_f / *resonant : 0;
  const bool near = ratio > 0.8 && ratio < 1.25; // a Q of some five is left outside of it
  return Finding{
      "no-safety-gap",
      near ? Severity::warning : Severity::note,
      "feed",
      "add block",
      "No safety gap across the source",
      near ? fmt::format("The tank is {:.2f} times the {} that resonate with the source at {}: when the main gap "
                         "fails to fire, the voltage climbs until something breaks.",
                         ratio, say(*resonant, capacitance, 3), say(d.site.mains_frequency_hz, frequency))
           : "When the main gap fails to fire, resonance with the tank lifts the source until something breaks.",
      fmt::format("Add one that fires at {}", say(wanted, voltage)),
      0,
      wanted,
      voltage,
      [wanted](Design& e) { insert_safety_gap(e, wanted); }};
}

Maybe safety_gap_fires(const Design&, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  if (!charges(p)) return {};
  const auto it =
      std::ranges::find_if(p.charging.safety_gaps, [](const SafetyGapLoad& g) { return g.firings > 0; });
  if (it == p.charging.safety_gaps.end()) return {};
  const Say say{units};
  return Finding{"safety-gap-fires",
                 Severity::warning,
                 "feed",
                 "feed strip",
                 fmt::format("The {} fires in normal running", it->title),
                 fmt::format("Set to {}, it takes power from every charge, and hides that something else is amiss.",
                             say(it->firing_v, voltage)),
                 "Widen it a little, or narrow the main gap",
                 static_cast<double>(it->firings),
                 0,
                 number,
                 {}};
}

Maybe choke_slow(const Design& d, const Analysis& a, const PowerAnalysis& p, UnitSystem units) {
  const FeedBlock* choke = block_of(d, "charging-choke");
  const double rate = presentations_hz(d.gap).value_or(d.gap.break_rate_hz);
  if (!choke || !charges(p) || !(rate > 0)) return {};
  const double seconds = resonant_charge_s(block_value(*choke, "inductance_h"), a.tank_capacitance_f);
  if (seconds * rate <= 1) return {};
  const Say say{units};
  const double wanted = round_significant(choke_for_rate_h(rate / 0.9, a.tank_capacitance_f), 2);
  return Finding{"choke-slow",
                 Severity::warning,
                 "feed",
                 field_of(d, *choke, "inductance_h"),
                 fmt::format("The choke takes {} to fill the tank", say(seconds, time)),
                 fmt::format("At {:.0f} breaks each second it has {}: the tank fires before it is full.", rate,
                             say(1 / rate, time)),
                 fmt::format("Use a choke of {}", say(wanted, inductance, 2)),
                 seconds,
                 1 / rate,
                 time,
                 [wanted](Design& e) {
                   std::ranges::find(e.feed, "charging-choke", &FeedBlock::kind)->values["inductance_h"] = wanted;
                 }};
}

Maybe reservoir_bleeds_slowly(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  constexpr double longest = 60;
  const FeedBlock* r = block_of(d, "reservoir");
  if (!r || !charges(p)) return {};
  const double farad = block_value(*r, "capacitance_f"), ohm = block_value(*r, "bleed_resistance_ohm");
  const double volts = p.charging.joints[static_cast<std::size_t>(r - d.feed.data())].peak_v;
  const double seconds = bleed_time_s(ohm, farad, volts);
  if (seconds <= longest) return {};
  const Say say{units};
  const double wanted = round_significant(ohm * 0.8 * longest / seconds, 2);
  return Finding{
      "reservoir-bleeds-slowly",
      Severity::warning,
      "feed",
      field_of(d, *r, "bleed_resistance_ohm"),
      fmt::format("{} until the reservoir is below {}", say(seconds, time, 2), say(bled_target_v, voltage)),
      fmt::format("It stores {}; above {} counts as hazardous (IEC 61010-1). A bleeder of {} takes {}.",
                  say(stored_energy_j(farad, volts), energy), say(hazardous_energy_j, energy),
                  say(wanted, resistance, 2), say(volts * volts / wanted, power, 2)),
      fmt::format("Use a bleeder of {}", say(wanted, resistance, 2)),
      seconds,
      longest,
      time,
      [wanted](Design& e) {
        std::ranges::find(e.feed, "reservoir", &FeedBlock::kind)->values["bleed_resistance_ohm"] = wanted;
      }};
}

Maybe rate_differs(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  if (!p.rate_from_feed || std::abs(p.break_rate_hz / d.gap.break_rate_hz - 1) < 0.15) return {};
  const Say say{units};
  return Finding{
      "rate-differs",
      Severity::note,
      "switch",
      "switch gap.break_rate_hz",
      fmt::format("{:.0f} breaks each second, {:.0f} entered", p.break_rate_hz, d.gap.break_rate_hz),
      fmt::format("This feed fires the gap that often. Expected arcs go by the entered rate: {} at {} each.",
                  say(p.charging.tank_power_w, power), say(p.charging.break_voltage_v, voltage)),
      fmt::format("Take {:.0f}", p.break_rate_hz),
      p.break_rate_hz,
      d.gap.break_rate_hz,
      frequency,
      [rate = std::round(p.break_rate_hz)](Design& e) { e.gap.break_rate_hz = rate; }};
}

// The worst section for one kind of stress.
const UnitStress* worst_of(const PowerAnalysis& p, double UnitStress::*member) {
  const auto it = std::ranges::max_element(p.stress, {}, member);
  return it == p.stress.end() ? nullptr : &*it;
}

std::string unit_name(const UnitStress& u) {
  return u.name.empty() ? "Each unit" : u.name;
}

Maybe unit_over_current(const Design&, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  const UnitStress* u = worst_of(p, &UnitStress::rms_used);
  if (!u || u->rms_used <= 1) return {};
  const Say say{units};
  return Finding{"unit-over-current",
                 Severity::stop,
                 "tank",
                 "tank.units_in_parallel",
                 fmt::format("{}: {:.0f} % of its RMS current", unit_name(*u), 100 * u->rms_used),
                 fmt::format("{} at {:.0f} breaks each second; it heats and fails in minutes.",
                             say(u->rms_a, current), p.break_rate_hz),
                 "More strings side by side, fewer breaks, or units made for the current",
                 100 * u->rms_used,
                 100,
                 percent,
                 {}};
}

Maybe unit_too_steep(const Design&, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  const UnitStress* u = worst_of(p, &UnitStress::slope_used);
  if (!u || u->slope_used <= 1) return {};
  const Say say{units};
  return Finding{"unit-too-steep",
                 Severity::stop,
                 "tank",
                 "tank.unit_slope_v_per_s",
                 fmt::format("{}: {:.0f} % of its dV/dt", unit_name(*u), 100 * u->slope_used),
                 fmt::format("{} on each; the contacts of the film burn off.", say(u->slope_v_per_s, slope)),
                 "More units in series, or pulse-rated ones",
                 100 * u->slope_used,
                 100,
                 percent,
                 {}};
}

Maybe unit_warm(const Design&, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  double rise = 0;
  for (const UnitStress& u : p.stress) rise = std::max(rise, u.rise_after_s(long_run_s));
  if (rise <= largest_capacitor_rise_k) return {};
  const Say say{units};
  return Finding{
      "unit-warm",
      Severity::warning,
      "tank",
      "tank.unit_dissipation_factor",
      fmt::format("A capacitor warms by {:.0f} K in half an hour", rise),
      fmt::format("{:.0f} K is the usual limit. Counted in still air with {:.0f} K per watt unless stated.",
                  largest_capacitor_rise_k, usual_thermal_k_per_w),
      fmt::format("Run shorter than {}, or use units of lower loss",
                  say(-capacitor_thermal_time_s *
                          std::log(1 - largest_capacitor_rise_k /
                                           (rise / (1 - std::exp(-long_run_s / capacitor_thermal_time_s)))),
                      time, 2)),
      rise,
      largest_capacitor_rise_k,
      number,
      {}};
}

Maybe tank_over_volted(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  const UnitStress* u = worst_of(p, &UnitStress::voltage_used);
  if (!charges(p) || !u || p.charging.tank_peak_v <= 1.05 * d.gap.firing_voltage_v ||
      u->voltage_used <= usual_rating_share)
    return {};
  const Say say{units};
  const double holds = round_significant(*tank_voltage_limit_v(d.tank), 3);
  return Finding{"tank-over-volted",
                 u->voltage_used > 1 ? Severity::stop : Severity::warning,
                 "tank",
                 "tank.unit_voltage_v",
                 fmt::format("The feed lifts the tank to {}", say(p.charging.tank_peak_v, voltage)),
                 fmt::format("Between breaks resonance goes on; a unit then reaches {:.0f} % of its rating. {} is "
                             "what the tank holds with a margin.",
                             100 * u->voltage_used, say(holds, voltage)),
                 fmt::format("Add a safety gap that fires at {}", say(holds, voltage)),
                 p.charging.tank_peak_v,
                 holds,
                 voltage,
                 [holds](Design& e) { insert_safety_gap(e, holds); }};
}

Maybe voltage_differs(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  const double volts = p.charging.break_voltage_v;
  if (!p.rate_from_feed || !d.gap.rotary_electrodes || std::abs(volts / d.gap.firing_voltage_v - 1) < 0.1)
    return {};
  const Say say{units};
  return Finding{
      "voltage-differs",
      Severity::note,
      "switch",
      "switch gap.firing_voltage_v",
      fmt::format("The rotor fires at {} on average, {} entered", say(volts, voltage),
                  say(d.gap.firing_voltage_v, voltage)),
      "A rotor fires at what the feed has reached when its electrodes come near. Shot and expected arcs go by "
      "the entered voltage.",
      fmt::format("Take {}", say(volts, voltage)),
      volts,
      d.gap.firing_voltage_v,
      voltage,
      [rounded = round_significant(volts, 3)](Design& e) { e.gap.firing_voltage_v = rounded; }};
}

Maybe gap_takes_much(const Design&, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  constexpr double much = 0.3;
  if (!p.shot_problem.empty() || p.shot.gap_loss_j <= much * p.shot.tank_energy_j) return {};
  const Say say{units};
  return Finding{"gap-takes-much",
                 Severity::note,
                 "switch",
                 "gap.gaps_in_series",
                 fmt::format("The gap takes {:.0f} % of each shot", 100 * p.shot.gap_loss_j / p.shot.tank_energy_j),
                 fmt::format("{} of heat at {:.0f} breaks each second.", say(p.gap_loss_w, power), p.break_rate_hz),
                 "Quench earlier, fewer and wider gaps, or more volts and less capacitance",
                 100 * p.shot.gap_loss_j / p.shot.tank_energy_j,
                 100 * much,
                 percent,
                 {}};
}

Maybe gap_hot(const Design& d, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  constexpr double still_air_w = 40; // that the electrodes of one gap lose without a fan
  const double gaps = d.gap.rotary_electrodes ? 2 + *d.gap.rotary_electrodes : d.gap.gaps_in_series;
  if (p.gap_loss_w / gaps <= still_air_w) return {};
  const Say say{units};
  return Finding{
      "gap-hot",
      Severity::note,
      "switch",
      "gap.gaps_in_series",
      fmt::format("{} of heat in each gap", say(p.gap_loss_w / gaps, power, 2)),
      fmt::format("Above some {} hot electrodes fire low and quench late. Clean them of oxide after each run.",
                  say(still_air_w, power, 2)),
      "Blow air through the gaps, or use more of them",
      p.gap_loss_w / gaps,
      still_air_w,
      power,
      {}};
}

Maybe dwell_long(const Design&, const Analysis&, const PowerAnalysis& p, UnitSystem units) {
  constexpr double longest = 1e-3;
  if (p.dwell_s <= longest) return {};
  const Say say{units};
  return Finding{
      "dwell-long",
      Severity::note,
      "switch",
      "gap.rotor_radius_m",
      fmt::format("Rotor electrodes face each other for {}", say(p.dwell_s, time, 2)),
      fmt::format("Longer than {} the supply goes on feeding the arc, and the gap fires again while it is near.",
                  say(longest, time, 2)),
      "A larger or faster rotor, thinner electrodes, or a static gap in series",
      p.dwell_s,
      longest,
      time,
      {}};
}

constexpr std::array<PowerRule, 20> rules{
    tank_over_volted,  voltage_differs,

    feed_broken,       feed_missing,      gap_never_fires, breaker_trips,    block_overloaded,
    diodes_overloaded, power_factor_low,  no_safety_gap,   safety_gap_fires, reservoir_bleeds_slowly,
    rate_differs,      unit_over_current, unit_too_steep,  unit_warm,        gap_takes_much,
    gap_hot,           dwell_long,        choke_slow};

} // namespace

std::span<const PowerRule> power_rules() {
  return rules;
}

std::vector<Finding> find_in_power(const Design& design, const Analysis& analysis, const PowerAnalysis& power,
                                   UnitSystem units) {
  std::vector<Finding> out;
  for (const PowerRule rule : rules)
    if (auto finding = rule(design, analysis, power, units)) out.push_back(std::move(*finding));
  std::ranges::stable_sort(out, {}, [](const Finding& f) { return static_cast<int>(f.severity); });
  return out;
}

} // namespace arc
