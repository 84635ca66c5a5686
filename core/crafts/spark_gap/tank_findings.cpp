// Findings on tank and gap in the running coil. Limits are common practice of coil builders (no source) unless a
// source is named.
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

namespace arc {
namespace {

using Maybe = std::optional<Finding>;
using enum Dimension;

// Silent once the start has died away: what breaks as it is switched on is no coil.
bool silent(const SparkGapPower& p) {
  return charges(p) && p.charging.break_rate_hz <= 0;
}

Maybe gap_never_fires(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  if (!silent(p) || presentations_hz(d.gap)) return {};
  const Say say{units};
  const auto safety =
      std::ranges::find_if(p.charging.safety_gaps, [](const SafetyGapLoad& g) { return g.firings > 0; });
  const double settled = p.charging.settled_peak_v,
               reached = safety != p.charging.safety_gaps.end() ? std::min(0.85 * settled, safety->firing_v / 1.15)
                                                                : 0.85 * settled;
  const double wanted = std::floor(reached / 100) * 100;
  std::string text =
      fmt::format("It is set to {}{}. Too wide a gap over-volts transformer and capacitors instead.{}",
                  say(d.gap.firing_voltage_v, voltage),
                  p.charging.break_times_s.empty() ? "" : ", which only the start reaches",
                  d.gap.rotary_electrodes ? " The rotor has no speed and counts as standing still." : "");
  if (const auto resonant = mains_resonant_capacitance_f(d); resonant && *resonant > 0)
    text += fmt::format(" The tank is {:.2g} times the {} that resonate with the mains.",
                        tank_capacitance_f(d.tank) / *resonant, say(*resonant, capacitance));
  const bool instead = safety != p.charging.safety_gaps.end();
  return Finding{
      .id = "gap-never-fires",
      .severity = Severity::stop,
      .stage = "switch",
      .field = "switch gap.firing_voltage_v",
      .title = instead ? fmt::format("The {} fires instead of the main gap: the tank reaches {}", safety->title,
                                     say(settled, voltage))
                       : fmt::format("The gap never fires: the tank settles at {}", say(settled, voltage)),
      .text = text,
      .remedy = fmt::format("Set it to fire at {}", say(wanted, voltage)),
      .value = settled,
      .limit = d.gap.firing_voltage_v,
      .dimension = voltage,
      .apply = wanted > 10 ? std::function<void(Design&)>([wanted](Design& e) { set_firing_voltage(e, wanted); })
                           : nullptr};
}

// A static gap on alternating current that some cycles do not reach.
Maybe gap_skips(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  if (!skips_cycles(d, p)) return {};
  const Say say{units};
  const double wanted = p.steady_firing_v.value_or(std::floor(0.9 * d.gap.firing_voltage_v / 100) * 100);
  return Finding{.id = "gap-skips-cycles",
                 .severity = Severity::warning,
                 .stage = "switch",
                 .field = "switch gap.firing_voltage_v",
                 .title =
                     fmt::format("The gap fires in some mains cycles only: {:.0f} bps", p.charging.break_rate_hz),
                 .text = "It is set near the most that the feed reaches; with a little less mains voltage, or "
                         "denser air, it does not fire.",
                 .remedy = fmt::format("Set it to fire at {}", say(wanted, voltage)),
                 .value = static_cast<double>(p.charging.idle_cycles),
                 .limit = 0,
                 .dimension = count,
                 .apply = [wanted](Design& e) { set_firing_voltage(e, wanted); }};
}

// A rotor whose electrodes pass too far away for what the feed reaches.
Maybe rotor_never_fires(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  if (!silent(p) || !presentations_hz(d.gap)) return {};
  const Say say{units};
  const GapModel model = gap_model(d.gap, d.site);
  const double needed = model.threshold_v(model.first_s);
  constexpr double least_hz = 2; // of a settled second: slower it may not have come past yet
  if (model.rate_hz < least_hz)
    return Finding{.id = "rotor-too-slow",
                   .severity = Severity::stop,
                   .stage = "switch",
                   .field = "gap.rotor_speed_hz",
                   .title = fmt::format("Rotor: {:.2g} presentations a second", model.rate_hz),
                   .text = "In a second it may not come past once; nothing fires there.",
                   .remedy = "A faster rotor, or more electrodes",
                   .value = model.rate_hz,
                   .limit = least_hz,
                   .dimension = frequency};
  const double reach = 0.8 * p.charging.settled_peak_v - model.static_v;
  double near = 1e-5, far = d.gap.rotor_clearance_m; // the clearance that the tank's peak still crosses
  for (int i = 0; i < 40; ++i) {
    const double middle = (near + far) / 2;
    (gap_breakdown_v(middle, model.electrode_diameter_m, model.air_density) < reach ? near : far) = middle;
  }
  const double clearance = std::floor(near * 1e5) / 1e5;
  return Finding{.id = "rotor-never-fires",
                 .severity = Severity::stop,
                 .stage = "switch",
                 .field = "gap.rotor_clearance_m",
                 .title = fmt::format("The rotor never fires: the tank settles at {}",
                                      say(p.charging.settled_peak_v, voltage)),
                 .text = fmt::format("At its nearest it needs {}{}.", say(needed, voltage),
                                     model.static_v > 0 ? ", the static gap in series included" : ""),
                 .remedy = clearance > 1e-5 ? fmt::format("Set the rotor's clearance to {}", say.length(clearance))
                                            : "More volts, or no static gap in series",
                 .value = p.charging.settled_peak_v,
                 .limit = needed,
                 .dimension = voltage,
                 .apply = clearance > 1e-5 ? std::function<void(Design&)>(
                                                 [clearance](Design& e) { e.gap.rotor_clearance_m = clearance; })
                                           : nullptr};
}

Maybe rate_differs(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  constexpr double plausible_hz = 5000; // more is a feed that makes no sense: other findings say so
  if (!p.rate_from_feed || std::abs(p.break_rate_hz / d.gap.break_rate_hz - 1) < 0.15 ||
      p.break_rate_hz > plausible_hz)
    return {};
  const Say say{units};
  return Finding{
      .id = "rate-differs",
      .severity = Severity::warning,
      .stage = "switch",
      .field = "switch gap.break_rate_hz",
      .title = fmt::format("{:.0f} bps simulated, {:.0f} bps entered", p.break_rate_hz, d.gap.break_rate_hz),
      .text =
          fmt::format("This feed fires the gap that often. Expected arcs go by the entered rate: {} at {} each.",
                      say(p.charging.tank_power_w, power), say(p.charging.break_voltage_v, voltage)),
      .remedy = fmt::format("Take {:.0f}", p.break_rate_hz),
      .value = p.break_rate_hz,
      .limit = d.gap.break_rate_hz,
      .dimension = frequency,
      .apply = [rate = std::round(p.break_rate_hz)](Design& e) { e.gap.break_rate_hz = rate; }};
}

Maybe unit_over_current(const Design&, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  return unit_over_current(p.duty, units);
}

Maybe unit_too_steep(const Design&, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  return unit_too_steep(p.duty, units);
}

Maybe unit_warm(const Design&, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  return unit_warm(p.duty, units);
}

Maybe tank_over_volted(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  const UnitStress* u = worst_unit(p.duty, &UnitStress::voltage_used);
  if (!charges(p) || !u || p.charging.tank_peak_v <= 1.05 * d.gap.firing_voltage_v ||
      u->voltage_used <= usual_rating_share)
    return {};
  const Say say{units};
  const double holds = round_significant(*tank_voltage_limit_v(d.tank), 3);
  return Finding{
      .id = "tank-over-volted",
      .severity = u->voltage_used > 1 ? Severity::stop : Severity::warning,
      .stage = "tank",
      .field = "tank.unit_voltage_v",
      .title = fmt::format("The feed lifts the tank to {}", say(p.charging.tank_peak_v, voltage)),
      .text = fmt::format("Between breaks resonance goes on; a unit then reaches {:.0f} % of its rating. {} is "
                          "what the tank holds with a margin.",
                          100 * u->voltage_used, say(holds, voltage)),
      .remedy = fmt::format("Add a safety gap that fires at {}", say(holds, voltage)),
      .value = p.charging.tank_peak_v,
      .limit = holds,
      .dimension = voltage,
      .apply = [holds](Design& e) { insert_safety_gap(e, holds); }};
}

Maybe voltage_differs(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  const double volts = p.charging.break_voltage_v;
  if (!p.rate_from_feed || !d.gap.rotary_electrodes || std::abs(volts / d.gap.firing_voltage_v - 1) < 0.1)
    return {};
  const Say say{units};
  return Finding{
      .id = "voltage-differs",
      .severity = Severity::note,
      .stage = "switch",
      .field = "switch gap.firing_voltage_v",
      .title = fmt::format("The rotor fires at {} on average, {} entered", say(volts, voltage),
                           say(d.gap.firing_voltage_v, voltage)),
      .text =
          "A rotor fires at what the feed has reached when its electrodes come near. Shot and expected arcs go by "
          "the entered voltage.",
      .remedy = fmt::format("Take {}", say(volts, voltage)),
      .value = volts,
      .limit = d.gap.firing_voltage_v,
      .dimension = voltage,
      .apply = [rounded = round_significant(volts, 3)](Design& e) { e.gap.firing_voltage_v = rounded; }};
}

Maybe gap_takes_much(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  constexpr double much = 0.3;
  if (!p.shot_problem.empty() || !(p.break_rate_hz > 0) || p.shot.gap_loss_j <= much * p.shot.tank_energy_j)
    return {};
  const Say say{units};
  return Finding{
      .id = "gap-takes-much",
      .severity = Severity::note,
      .stage = "switch",
      .field = "gap.gaps_in_series",
      .title = fmt::format("Gap loss: {:.0f} % of each break", 100 * p.shot.gap_loss_j / p.shot.tank_energy_j),
      .text = fmt::format("{} of heat at {:.0f} bps, with {} across the burning gap ({}; within half "
                          "of it either way until a ring-down was measured).",
                          say(p.gap_loss_w, power), p.break_rate_hz, say(p.circuit.arc_drop_v, voltage),
                          d.gap.arc_drop_v ? "as entered" : "Ayrton's form"),
      .remedy = presentations_hz(d.gap)
                    ? "A faster or larger rotor, which opens sooner, or more volts and less capacitance"
                    : "Quench earlier, fewer and wider gaps, or more volts and less capacitance",
      .value = 100 * p.shot.gap_loss_j / p.shot.tank_energy_j,
      .limit = 100 * much,
      .dimension = percent};
}

Maybe gap_hot(const Design& d, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  constexpr double still_air_w = 40; // that the electrodes of one gap lose without a fan
  const double gaps = d.gap.rotary_electrodes ? 2 + *d.gap.rotary_electrodes : d.gap.gaps_in_series;
  if (p.gap_loss_w / gaps <= still_air_w) return {};
  const Say say{units};
  return Finding{.id = "gap-hot",
                 .severity = Severity::note,
                 .stage = "switch",
                 .field = "gap.gaps_in_series",
                 .title = fmt::format("{} of heat in each gap", say(p.gap_loss_w / gaps, power, 2)),
                 .text = fmt::format(
                     "Above some {} hot electrodes fire low and quench late. Clean them of oxide after each run.",
                     say(still_air_w, power, 2)),
                 .remedy = presentations_hz(d.gap)
                               ? "Thicker electrodes of tungsten or copper, more of them, or a faster rotor"
                               : "Blow air through the gaps, or use more of them",
                 .value = p.gap_loss_w / gaps,
                 .limit = still_air_w,
                 .dimension = power};
}

Maybe dwell_long(const Design&, const Analysis&, const SparkGapPower& p, UnitSystem units) {
  constexpr double longest = 1e-3;
  if (p.dwell_s <= longest) return {};
  const Say say{units};
  return Finding{.id = "dwell-long",
                 .severity = Severity::note,
                 .stage = "switch",
                 .field = "gap.rotor_radius_m",
                 .title = fmt::format("Rotor electrodes face each other for {}", say(p.dwell_s, time, 2)),
                 .text = fmt::format(
                     "Longer than {} the supply goes on feeding the arc, and the gap fires again while it is near.",
                     say(longest, time, 2)),
                 .remedy = "A larger or faster rotor, thinner electrodes, or a static gap in series",
                 .value = p.dwell_s,
                 .limit = longest,
                 .dimension = time};
}

constexpr std::array<PowerRule, 12> tank_table{
    gap_never_fires, gap_skips,        rotor_never_fires, rate_differs,   unit_over_current, unit_too_steep,
    unit_warm,       tank_over_volted, voltage_differs,   gap_takes_much, gap_hot,           dwell_long};

} // namespace

bool skips_cycles(const Design& d, const SparkGapPower& p) {
  if (!charges(p) || !(p.charging.break_rate_hz > 0) || p.charging.idle_cycles == 0 || presentations_hz(d.gap))
    return false;
  return std::ranges::none_of(d.feed, [](const FeedBlock& b) { // direct current takes as many cycles as it takes
    const BlockKind* row = block_kind(b.kind);
    return row && (row->rectifies || row->own_supply);
  });
}

void set_firing_voltage(Design& d, double volts) {
  d.gap.firing_voltage_v = volts;
  if (!d.gap.spacing_m) return;
  if (const auto spacing = spacing_for_firing_m(d.gap, d.site, volts)) d.gap.spacing_m = *spacing;
}

std::span<const PowerRule> tank_rules() {
  return tank_table;
}

} // namespace arc
