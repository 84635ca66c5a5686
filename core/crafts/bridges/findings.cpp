// Findings on bridges. Limits are common practice of builders (no source) unless a rating or a law is named.
#include "analysis/findings.h"
#include "analysis/tank_at_rest.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/bus_findings.h"
#include "crafts/bridges/rules.h"
#include "laws/circuit.h"
#include "parts/bank.h"
#include "quantity/say.h"
#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

using namespace bridge_rule;

// At rest.
Maybe gate_volts(const Design& d, const Analysis&, UnitSystem units) {
  const Bridge& b = d.bridge;
  const double volts = gate_voltage_v(b);
  constexpr double low = 12, high = 20;
  const double most = std::min(high, b.device.gate_limit_v);
  if (volts >= low && volts <= most) return {};
  const double turns = std::max(1.0, std::round(15 / b.driver_supply_v * b.gate_primary_turns));
  const Say say{units};
  return Finding{.id = "gate-volts",
                 .severity = volts > most ? Severity::stop : Severity::warning,
                 .stage = "bridge",
                 .field = "bridge.gate_secondary_turns",
                 .title = fmt::format("{} at the gates", say(volts, voltage)),
                 .text = fmt::format("Below {} a switch is not fully on, above {} its gate breaks through.",
                                     say(low, voltage), say(most, voltage)),
                 .remedy = fmt::format("Wind {} turns for each gate", format_number(turns)),
                 .value = volts,
                 .limit = volts > most ? most : low,
                 .dimension = voltage,
                 .apply = [turns](Design& x) { x.bridge.gate_secondary_turns = turns; }};
}

Maybe limit_above_pulse_rating(const Design& d, const Analysis&, UnitSystem units) {
  const auto& limit = d.bridge.current_limit_a;
  const double rated = d.bridge.device.pulse_rating_a;
  if (!limit || *limit <= rated) return {};
  const Say say{units};
  return Finding{
      .id = "limit-above-pulse-rating",
      .severity = Severity::stop,
      .stage = "bridge",
      .field = "bridge.current_limit_a",
      .title = fmt::format("Limit of {} on switches for pulses of {}", say(*limit, current), say(rated, current)),
      .text = "The limit is what keeps them whole when arcs strike ground.",
      .remedy = fmt::format("Set the limit to {}", say(rated, current)),
      .value = *limit,
      .limit = rated,
      .dimension = current,
      .apply = [rated](Design& x) { x.bridge.current_limit_a = rated; }};
}

Maybe no_limit(const Design& d, const Analysis&, UnitSystem units) {
  if (!is_dual_resonant(d) || d.bridge.current_limit_a) return {};
  const double amps = round_significant(0.8 * d.bridge.device.pulse_rating_a, 2);
  return Finding{
      .id = "no-current-limit",
      .severity = Severity::warning,
      .stage = "bridge",
      .field = "bridge.current_limit_a",
      .title = "No over-current limit",
      .text = "The current grows with every cycle; a ground strike or a long burst has no end but the switches'.",
      .remedy = fmt::format("Set a limit of {}", Say{units}(amps, current)),
      .value = 0,
      .limit = 1,
      .apply = [amps](Design& x) { x.bridge.current_limit_a = amps; }};
}

Maybe tank_over_rating(const Design& d, const Analysis& a, UnitSystem units) {
  Maybe f = tank_beyond_rating(a, "at the limit");
  const auto holds = tank_voltage_limit_v(d.tank, 1);
  if (!f || !holds) return {};
  const double loop_h = tank_loop_h(a);
  const double amps = round_significant(0.95 * *holds / std::sqrt(loop_h / a.tank_capacitance_f), 2);
  const Say say{units};
  f->text = fmt::format("The current limit puts {} on a bank that holds {}.", say(*a.unit_used * *holds, voltage),
                        say(*holds, voltage));
  f->remedy = fmt::format("Set the limit to {}, or more units in series", say(amps, current));
  f->apply = [amps](Design& x) { x.bridge.current_limit_a = amps; };
  return f;
}

Maybe poles_hop(const Design& d, const Analysis& a, UnitSystem units) {
  if (!is_dual_resonant(d) || !a.resonator || !(a.tank_hz > 0)) return {};
  const double coil_hz = silent_coil(d, a).hz;
  const double ratio = a.tank_hz / coil_hz;
  constexpr double low = 0.98, high = 1.06; // between them it may take either pole (solved reference cases)
  if (ratio < low || ratio > high) return {};
  const Say say{units};
  Finding f{.id = "poles-may-hop",
            .severity = Severity::warning,
            .stage = "tank",
            .field = "primary.tap_turns",
            .title = fmt::format("Tank and resonator are {:.1f} % apart", 100 * std::abs(ratio - 1)),
            .text = fmt::format("The drive may take either pole, and change over as arcs load the coil. Tank {}, "
                                "resonator {}; a tank some per cent low lets arcs pull the pair into tune.",
                                say(a.tank_hz, frequency, 4), say(coil_hz, frequency, 4)),
            .remedy = "Place the tank 5 % below",
            .value = ratio,
            .limit = low};
  if (a.tuned_tap_turns) {
    const double clip = std::round(*a.tuned_tap_turns * 100) / 100;
    f.remedy = fmt::format("Put the tap at turn {:.2f}", clip);
    f.apply = [clip](Design& x) { x.primary.tap_turns = clip; };
  }
  return f;
}

// Some per cent low lets arcs pull it into tune; far away it only heats the primary (common practice, no source).
Maybe tank_far_off(const Design& d, const Analysis& a, UnitSystem units) {
  if (!is_dual_resonant(d)) return {};
  constexpr TuneLimits limits{.warn = 0.1, .stop = 0.3};
  if (Maybe slip = capacitance_slipped(d, a, units)) return slip;
  return a.tuned_tap_turns ? tank_off_tune(d, a, limits, units) : tank_cannot_tune(d, a, limits, units);
}

constexpr std::array<FindingRule, 6> rest_table{tank_far_off, gate_volts,       limit_above_pulse_rating,
                                                no_limit,     tank_over_rating, poles_hop};

constexpr std::array<BridgeRule, 32> burst_table{fixed_off_pole,
                                                 listens_elsewhere,
                                                 gate_magnetising,
                                                 gate_droops,
                                                 turn_off_volts,
                                                 transformer_saturates,
                                                 burden_hot,
                                                 switch_over_current,
                                                 arcs_reach_the_antenna,
                                                 bus_differs,
                                                 unit_over_current,
                                                 unit_too_steep,
                                                 unit_warm,
                                                 does_not_lock,
                                                 glitches,
                                                 takes_a_higher_mode,
                                                 locks_to_the_primary,
                                                 chain_too_slow,
                                                 hard_switching,
                                                 dead_time_long,
                                                 dead_time_short,
                                                 core_saturates,
                                                 snubber_hot,
                                                 snubber_slow,
                                                 capacitor_over_current,
                                                 over_pulse_rating,
                                                 junction_too_hot,
                                                 signal_strength,
                                                 ends_mid_wave,
                                                 limits_hold,
                                                 tripped,
                                                 rate_beats};

} // namespace

std::span<const FindingRule> bridge_rules() {
  static const std::vector<FindingRule> all = [] {
    std::vector<FindingRule> out(rest_table.begin(), rest_table.end());
    out.insert(out.end(), bus_rules().begin(), bus_rules().end());
    return out;
  }();
  return all;
}

std::vector<Finding> BridgeAnalysis::findings(const Design& design, const Analysis& analysis,
                                              UnitSystem units) const {
  std::vector<Finding> out;
  if (!problem.empty()) return out;
  for (const std::span<const BridgeRule> rules : {bus_burst_rules(), std::span<const BridgeRule>(burst_table)})
    for (const BridgeRule rule : rules)
      if (auto finding = rule(design, analysis, *this, units)) out.push_back(std::move(*finding));
  return out;
}

} // namespace arc
