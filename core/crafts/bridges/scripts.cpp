// What a bridge prints for scripts, and how it is simulated from the command line.
#include "analysis/analyse.h"
#include "crafts/bridges/bridge.h"
#include "simulation/feed_loads_json.h"
#include "simulation/figures.h"
#include "timing/timer_json.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace arc {
namespace {

Json burst_json(const PowerView& view) {
  const auto& b = *view.power.of<BridgeAnalysis>();
  Json results{{"locked", b.burst.locked}, {"poles_hz", burst_poles_hz(b.circuit)}};
  results.update(group_json("burst", view));
  return results;
}

constexpr std::array<SimulationOption, 2> burst_flags{
    {{.flag = "--lumped",
      .text = "the resonator as one circuit instead of its first three modes",
      .is_switch = true},
     {.flag = "--on-time",
      .text = "length of the burst, e.g. 150us; the interrupter's when not given",
      .dimension = Dimension::time,
      .minimum = 1e-7,
      .maximum = 0.1}}};

Simulated run_burst_mode(const Design& design, const SimulationValues& values) {
  const std::atomic<bool> never{false};
  const auto on = values.find("--on-time");
  const Analysis analysis = analyse(design);
  const auto part = std::make_shared<BridgeAnalysis>();
  part->circuit = burst_circuit(design, analysis, on == values.end() ? design.interrupter.on_time_s : on->second,
                                values.contains("--lumped"));
  part->burst = simulate_burst(part->circuit, BurstOptions{}, never);
  const PowerAnalysis power = only(design, part);
  return {[=] {
            return Json{{"results", burst_json({design, analysis, power})}};
          },
          [=, name = design.name] { return burst_netlist(part->circuit, part->burst, name); },
          [part] { return burst_csv(part->burst); }};
}

Json mains_json(const PowerView& view, const MainsResult& m) {
  Json results = group_json("mains", view);
  results["charged"] = m.charged;
  return results;
}

Simulated run_mains_mode(const Design& design, const SimulationValues&) {
  const std::atomic<bool> never{false};
  if (const std::string problem = feed_problem(design.feed, FeedEnd::bus); !problem.empty())
    throw std::invalid_argument("feed: " + problem);
  PowerOptions plain;
  plain.advice = false;
  const Analysis analysis = analyse(design);
  const PowerAnalysis power = analyse_power(design, analysis, plain, UnitSystem::metric, never);
  const auto& b = *power.of<BridgeAnalysis>();
  if (!b.problem.empty()) throw std::invalid_argument(b.problem);
  if (!b.mains) throw std::invalid_argument("feed: " + b.mains_problem);
  const auto result = b.mains;
  return {[=] {
            return Json{{"results", mains_json({design, analysis, power}, *result)},
                        {"joints", joints_json(*result)},
                        {"diodes", diodes_json(*result)}};
          },
          [=, load = b.mains_load] { return mains_netlist(design, load, *result); },
          [result] { return mains_csv(*result); }};
}

constexpr std::array<SimulationMode, 2> ways{
    {{"--burst", "one burst: bus, switches, primary, resonator, streamer", burst_flags, run_burst_mode},
     {"--mains", "from the wall to the bus: inrush, ripple, line current under bursts", {}, run_mains_mode}}};

} // namespace

std::span<const SimulationMode> bridge_modes() {
  return ways;
}

Json interrupter_json(const Design& design, double seconds) {
  const Analysis analysis = analyse(design);
  PowerOptions plain;
  plain.advice = false;
  const std::atomic<bool> never{false};
  const PowerAnalysis power = analyse_power(design, analysis, plain, UnitSystem::metric, never);
  const auto* b = power.of<BridgeAnalysis>();
  const bool simulated = b && b->problem.empty() && b->plan_problem.empty();
  // Without a burst to simulate the pulses are still what they are; only the energy's limit is not known then.
  const PulsePlan plan =
      simulated ? b->plan : plan_pulses(design.interrupter, design.site.mains_frequency_hz, UnitSystem::metric);
  Json pulses = Json::array(), hits = Json::array();
  for (const double start : burst_starts(plan, seconds))
    pulses.push_back({{"start_s", start}, {"end_s", start + plan.on_s}});
  static constexpr std::array<std::string_view, 5> limits{"rate", "on-time", "duty", "energy", "off-time"};
  for (const LimitHit& hit : plan.hits)
    hits.push_back({{"limit", limits[static_cast<std::size_t>(hit.limit)]},
                    {"asked", hit.asked},
                    {"given", hit.given},
                    {"text", hit.text}});
  Json results{{"on_time_s", plan.on_s},
               {"rate_hz", plan.rate_hz},
               {"duty", plan.duty()},
               {"off_time_s", plan.off_s()},
               {"beat_hz", plan.beat_hz}};
  if (simulated) {
    results["burst_energy_j"] = burst_energy_by(b->burst, b->circuit, plan.on_s);
    results["returned_energy_j"] = b->burst.bus_j - b->burst.bus_net_j;
    results["spent_energy_j"] = b->burst.bus_net_j;
    results["average_power_w"] = b->average_w;
    results["burst_power_w"] = b->peak_w;
    results["line_current_a"] = b->line_a;
    results["junction_peak_c"] = b->heat.junction_peak_c;
    if (b->heat.run_time_s) results["run_time_s"] = *b->heat.run_time_s;
  }
  return {{"format", "high-arc-interrupter"},
          {"version", 1},
          {"name", design.name},
          {"results", results},
          {"limits_hit", hits},
          {"pulses", pulses},
          {"timers", timers_json(design.interrupter, plan)}};
}

Json bridge_json(const PowerView& view) {
  const auto& [design, analysis, power] = view;
  const auto& b = *power.of<BridgeAnalysis>();
  Json out{{"format", "high-arc-power"},
           {"version", 1},
           {"name", design.name},
           {"changes", changes_json(b.changes)},
           {"bands", b.band}};
  if (!b.problem.empty()) {
    out["problem"] = b.problem;
    return out;
  }
  out["burst"] = burst_json(view);
  if (b.mains) out["mains"] = mains_json(view, *b.mains);
  if (!b.mains_problem.empty()) out["mains_problem"] = b.mains_problem;
  for (const std::string_view group : {"gate", "turn_off"}) out[std::string(group)] = group_json(group, view);
  out.update(group_json("", view));
  if (const auto t = current_transformer(design, b)) {
    out["current_transformer"] = {{"primary_peak_a", t->primary_peak_a}, {"burden_peak_v", t->burden_peak_v},
                                  {"burden_w", t->burden_average_w},     {"flux_t", t->flux_t},
                                  {"lowest_hz", t->lowest_hz},           {"lead_s", t->lead_s}};
    if (t->comparator_v) out["current_transformer"]["comparator_v"] = *t->comparator_v;
  }
  if (const auto poles = b.poles_hz(); !poles.empty()) out["poles_hz"] = poles;
  if (const auto ridden = ridden_pole(power)) out["ridden_pole"] = *ridden;
  if (!b.plan_problem.empty()) {
    out["plan_problem"] = b.plan_problem;
    return out;
  }
  if (power.arc) {
    const double train = burst_as_train(b);
    out["arc_by_energy_m"] = {train * power.arc->length_m.low, train * power.arc->length_m.high};
  }
  if (b.arc_by_log)
    out["arc_by_log"] = {
        {"arc_m", b.arc_by_log->arc_m}, {"spread", b.arc_by_log->spread}, {"runs", b.arc_by_log->runs}};
  return out;
}

} // namespace arc
