// Settings of the drive chain, tried on the burst: what gives a clean signal, what lets the switches turn on
// softly.
#include "analysis/analyse.h"
#include "crafts/bridges/bridge.h"
#include "file/validity.h"
#include "quantity/parallel.h"
#include "quantity/quantity.h"
#include "simulation/one_at_a_time.h"

#include <algorithm>
#include <cmath>

namespace arc {
namespace {

struct Tried {
  ChainSetting chain;
  BurstResult burst;
};

// In the order of the settings, those that could be run.
std::vector<Tried> tried_settings(const Design& design, const Analysis& analysis, const BridgeAnalysis& bridge,
                                  const std::vector<ChainSetting>& settings, const Work& work) {
  // Where it trips, what is asked beyond changes nothing; a setting that trips later is seen to.
  const double on_s = std::min(bridge.circuit.on_s, 1.3 * bridge.burst.end_s);
  std::vector<std::optional<Tried>> runs(settings.size());
  parallel_for(settings.size(), [&](std::size_t i) {
    if (work.cancelled) return;
    Design changed = design;
    settings[i].set(changed.bridge);
    try {
      const BurstCircuit circuit = burst_circuit(changed, analysis, on_s, false, bridge.bus_share);
      runs[i] = Tried{settings[i], *burst_figures(work.kept, circuit, work.cancelled)};
    } catch (const std::invalid_argument&) { // a setting that cannot be
    }
  });
  std::vector<Tried> out;
  for (auto& run : runs)
    if (run && !work.cancelled) out.push_back(std::move(*run));
  return out;
}

// No cure that burns the switches or leaves the coil.
bool harms(const BridgeAnalysis& now, const Design& design, const BurstResult& then) {
  const double most_a = std::max(design.bridge.device.pulse_rating_a, now.burst.primary_peak_a);
  return !then.locked || switch_peak_a(then) > most_a || then.frequency_hz > 1.4 * now.poles.back() ||
         then.frequency_hz < 0.7 * now.poles.front();
}

} // namespace

std::optional<ChainSetting> cleaner_signal(const Design& design, const Analysis& analysis,
                                           const BridgeAnalysis& bridge, const Work& work) {
  const Bridge& b = design.bridge;
  const double chain_s = chain_delay_s(b), period_s = 1 / bridge.poles.back();
  std::vector<double> leads{b.lead_s, 0}, deaf{b.blanking_s};
  for (const double share : {0.25, 0.5, 0.75, 1.0}) leads.push_back(round_significant(share * chain_s, 2));
  for (const double share : {0.25, 0.35, 0.42}) deaf.push_back(round_significant(share * period_s, 2));
  std::vector<ChainSetting> settings;
  for (const double blanking : deaf)
    settings.push_back({b.lead_s, blanking, b.dead_time_s}); // one change before two
  for (const double lead : leads)
    for (const double blanking : deaf)
      if (lead != b.lead_s) settings.push_back({lead, blanking, b.dead_time_s});
  const std::vector<Tried> tried = tried_settings(design, analysis, bridge, settings, work);
  const auto clean = std::ranges::find_if(
      tried, [&](const Tried& t) { return !harms(bridge, design, t.burst) && t.burst.glitches == 0; });
  if (clean != tried.end()) return clean->chain;
  if (bridge.burst.locked) return {};
  const auto holds = std::ranges::find_if(tried, [&](const Tried& t) { return !harms(bridge, design, t.burst); });
  return holds != tried.end() ? std::optional(holds->chain) : std::nullopt;
}

std::optional<ChainSetting> softer_edges(const Design& design, const Analysis& analysis,
                                         const BridgeAnalysis& bridge, const Work& work) {
  const Bridge& b = design.bridge;
  const double hz = bridge.burst.frequency_hz, least_dead = 1.3 * (b.device.fall_s + bridge.gate.rise_s);
  const auto soft = soft_lead_s(b, hz);
  std::vector<double> leads{b.lead_s}, deads{b.dead_time_s};
  if (soft)
    for (const double share : {1.0, 0.5, 1.3}) leads.push_back(round_significant(share * *soft, 2));
  for (const double factor : {0.6, 1.6}) {
    const double dead = round_significant(factor * b.dead_time_s, 2);
    if (dead > least_dead && dead < 0.2 / hz) deads.push_back(dead);
  }
  std::vector<ChainSetting> settings;
  for (const double lead : leads)
    for (const double dead : deads)
      if (lead != b.lead_s || dead != b.dead_time_s) settings.push_back({lead, b.blanking_s, dead});
  const std::vector<Tried> tried = tried_settings(design, analysis, bridge, settings, work);
  const auto good = std::ranges::find_if(tried, [&](const Tried& t) {
    return !harms(bridge, design, t.burst) && hard_share(t.burst) <= tolerable_hard_share &&
           t.burst.glitches <= bridge.burst.glitches && !is_other_pole(t.burst.frequency_hz, hz);
  });
  return good != tried.end() ? std::optional(good->chain) : std::nullopt;
}

std::optional<double> turns_within_rating(const Design& design, const BridgeAnalysis& bridge, UnitSystem units,
                                          const Work& work) {
  const double rated = design.bridge.device.pulse_rating_a;
  double amps = switch_peak_a(bridge.burst), turns = design.primary.turns;
  for (int i = 0; i < 8; ++i) {
    turns = std::ceil(turns * std::clamp(std::sqrt(1.05 * amps / rated), 1.05, 1.5));
    Design changed = design;
    changed.primary.turns = changed.primary.tap_turns = turns;
    if (work.cancelled || !edit_problem(design, changed, units).empty()) return {};
    try {
      const Analysis analysis = analyse_untried(changed, units, false, work.kept);
      const auto run =
          burst_figures(work.kept, burst_circuit(changed, analysis, bridge.circuit.on_s, false, bridge.bus_share),
                        work.cancelled);
      amps = switch_peak_a(*run);
      if (amps <= rated && (run->locked || !bridge.burst.locked)) return turns;
    } catch (const std::invalid_argument&) { // a primary that cannot be
      return {};
    }
  }
  return {};
}

void wind_longer(Design& x, double turns) {
  x.secondary.winding_length_m *= turns / x.secondary.turns;
  if (x.secondary.form_length_m)
    x.secondary.form_length_m = std::max(*x.secondary.form_length_m, 1.06 * x.secondary.winding_length_m);
  x.secondary.turns = turns;
}

double wanted_hz(const Analysis& analysis, const BridgeAnalysis& bridge) {
  return std::max(!bridge.burst.locked ? 0.0 : bridge.burst.frequency_hz, analysis.circuit.resonance_hz);
}

std::optional<double> turns_within_chain(const Design& design, const Analysis& analysis,
                                         const BridgeAnalysis& bridge, UnitSystem units, const Work& work) {
  if (!analysis.has_winding || design.equivalent.secondary_inductance_h) return {};
  constexpr double margin = 0.95;
  const double hz = wanted_hz(analysis, bridge);
  double turns = design.secondary.turns, at_hz = hz;
  for (int i = 0; i < 6 && at_hz > margin * bridge.chain_hz && !work.cancelled; ++i) {
    // Its own capacitance grows too, so not in proportion.
    turns = std::ceil(turns * std::max(1.02, at_hz / (margin * bridge.chain_hz)));
    Design changed = design;
    wind_longer(changed, turns);
    at_hz =
        analyse_untried(changed, units, false, work.kept).circuit.resonance_hz * hz / analysis.circuit.resonance_hz;
  }
  return at_hz <= margin * bridge.chain_hz ? std::optional(turns) : std::nullopt;
}

double hard_share(const BurstResult& burst) {
  const int all = burst.hard + burst.soft;
  return all > 0 ? static_cast<double>(burst.hard) / all : 0;
}

std::optional<double> last_zero_s(const BurstResult& burst, double before_s) {
  for (std::size_t i = burst.samples.size(); i-- > 1;) {
    const BurstSample &from = burst.samples[i - 1], &to = burst.samples[i];
    if (to.time_s > before_s || (from.primary_a < 0) == (to.primary_a < 0)) continue;
    return std::lerp(from.time_s, to.time_s, from.primary_a / (from.primary_a - to.primary_a));
  }
  return {};
}

} // namespace arc
