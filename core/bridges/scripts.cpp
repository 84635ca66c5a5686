// What a bridge prints for scripts, and how it is simulated from the command line.
#include "bridges/bridge.h"
#include "coil/feed_loads_json.h"
#include "timing/timer_json.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace arc {
namespace {

Json burst_json(const BurstCircuit& c, const BurstResult& r) {
  Json results{{"locked", r.locked},
               {"frequency_hz", r.frequency_hz},
               {"mean_frequency_hz", r.mean_hz},
               {"poles_hz", burst_poles_hz(c)},
               {"cycles", r.cycles},
               {"primary_peak_a", r.primary_peak_a},
               {"return_peak_a", r.return_peak_a},
               {"foot_peak_a", r.foot_peak_a},
               {"top_peak_v", r.top_peak_v},
               {"top_peak_s", r.top_peak_s},
               {"primary_rms_a", r.primary_rms_a},
               {"bus_v", c.bus_v},
               {"bus_droop_v", r.droop_v},
               {"bus_energy_j", r.bus_j},
               {"bus_net_energy_j", r.bus_net_j},
               {"primary_loss_j", r.primary_j},
               {"secondary_loss_j", r.secondary_j},
               {"streamer_j", r.streamer_j},
               {"device_loss_j", r.device_j()},
               {"conduction_loss_j", r.conduction_j},
               {"output_capacitance_loss_j", r.dumped_j},
               {"turn_off_loss_j", r.off_j},
               {"turn_on_loss_j", r.on_j},
               {"recovery_loss_j", r.recovery_j},
               {"stored_j", r.stored_j},
               {"hard_edges", r.hard},
               {"soft_edges", r.soft},
               {"turn_off_a", r.turn_off_a},
               {"end_s", r.end_s}};
  if (c.series_f) {
    results["tank_peak_v"] = r.series_peak_v;
    results["tank_rms_a"] = r.primary_rms_a;
  }
  if (r.trip_s) {
    results["trip_s"] = *r.trip_s;
    results["trips"] = r.trips;
  }
  if (r.breakout_s) results["breakout_s"] = *r.breakout_s;
  if (r.cut_s) results["cut_s"] = *r.cut_s;
  return {{"results", results}};
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
  const BurstCircuit circuit =
      burst_circuit(design, analyse(design), on == values.end() ? design.interrupter.on_time_s : on->second,
                    values.contains("--lumped"));
  const auto result = std::make_shared<const BurstResult>(simulate_burst(circuit, BurstOptions{}, never));
  return {[=] { return burst_json(circuit, *result); },
          [=, name = design.name] { return burst_netlist(circuit, *result, name); },
          [result] { return burst_csv(*result); }};
}

Json mains_results(const MainsResult& m) {
  Json results{{"unloaded_v", m.unloaded_v},
               {"bus_v", m.bus_v},
               {"bus_least_v", m.bus_least_v},
               {"ripple_v", m.ripple_v},
               {"burst_start_v", m.start_v},
               {"burst_start_spread_v", m.start_spread_v},
               {"droop_v", m.droop_v},
               {"recovered", m.recovered},
               {"line_current_a", m.line_current_a},
               {"input_power_w", m.input_power_w},
               {"power_factor", m.power_factor},
               {"inrush_peak_a", m.inrush_a},
               {"crest_v", m.crest_v},
               {"inrush_a2s", m.inrush_a2s},
               {"limiter_j", m.limiter_j},
               {"charged_s", m.charged_s},
               {"charged", m.charged},
               {"reservoir_rms_a", m.reservoir_a}};
  if (m.surge_2_a > 0) results["relay_surge_a"] = m.surge_2_a;
  if (m.limiter_w > 0) results["limiter_w"] = m.limiter_w;
  if (std::isfinite(m.breaker_trip_s)) results["breaker_trip_s"] = m.breaker_trip_s;
  return results;
}

Simulated run_mains_mode(const Design& design, const SimulationValues&) {
  const std::atomic<bool> never{false};
  if (const std::string problem = feed_problem(design.feed, FeedEnd::bus); !problem.empty())
    throw std::invalid_argument("feed: " + problem);
  PowerOptions plain;
  plain.advice = false;
  const PowerAnalysis power = analyse_power(design, analyse(design), plain, UnitSystem::metric, never);
  const auto& b = *power.of<BridgeAnalysis>();
  if (!b.problem.empty()) throw std::invalid_argument(b.problem);
  if (!b.mains) throw std::invalid_argument("feed: " + b.mains_problem);
  const auto result = b.mains;
  return {[=] {
            return Json{{"results", mains_results(*result)},
                        {"joints", joints_json(*result)},
                        {"diodes", diodes_json(*result)}};
          },
          [=] { return mains_netlist(design, b.mains_load, *result); }, [result] { return mains_csv(*result); }};
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

Json bridge_json(const Design& design, const PowerAnalysis& power) {
  const auto& b = *power.of<BridgeAnalysis>();
  Json changes = Json::array();
  for (const BridgeChange& c : b.changes)
    changes.push_back({{"title", c.title},
                       {"top_ratio", c.top_ratio},
                       {"energy_ratio", c.energy_ratio},
                       {"loss_ratio", c.loss_ratio},
                       {"stop", c.stop}});
  Json out{
      {"format", "high-arc-power"}, {"version", 1}, {"name", design.name}, {"changes", changes}, {"bands", b.band}};
  if (!b.problem.empty()) {
    out["problem"] = b.problem;
    return out;
  }
  out["burst"] = burst_json(b.circuit, b.burst)["results"];
  if (b.mains) out["mains"] = mains_results(*b.mains);
  if (!b.mains_problem.empty()) out["mains_problem"] = b.mains_problem;
  out["driver_highest_hz"] = b.chain_hz;
  out["gate"] = {
      {"gate_v", b.gate.gate_v}, {"flux_t", b.gate.flux_t}, {"magnetising_a", b.gate.magnetising_a},
      {"droop", b.gate.droop},   {"rise_s", b.gate.rise_s}, {"power_w_per_switch", b.gate.power_w_per_switch}};
  out["turn_off"] = {{"first_a", b.turn_offs.first_a},
                     {"worst_a", b.turn_offs.worst_a},
                     {"last_a", b.turn_offs.last_a},
                     {"peak_v", b.turn_offs.peak_v}};
  if (const auto t = current_transformer(design, b)) {
    out["current_transformer"] = {{"primary_peak_a", t->primary_peak_a}, {"burden_peak_v", t->burden_peak_v},
                                  {"burden_w", t->burden_average_w},     {"flux_t", t->flux_t},
                                  {"lowest_hz", t->lowest_hz},           {"lead_s", t->lead_s}};
    if (t->comparator_v) out["current_transformer"]["comparator_v"] = *t->comparator_v;
  }
  if (const auto poles = b.poles_hz(); !poles.empty()) out["poles_hz"] = poles;
  if (const auto ridden = ridden_pole(power)) out["ridden_pole"] = *ridden;
  if (b.signal_v) out["input_signal_v"] = *b.signal_v;
  if (!b.plan_problem.empty()) {
    out["plan_problem"] = b.plan_problem;
    return out;
  }
  out["on_time_s"] = b.plan.on_s;
  out["rate_hz"] = b.plan.rate_hz;
  out["average_power_w"] = b.average_w;
  out["burst_power_w"] = b.peak_w;
  out["line_current_a"] = b.line_a;
  if (power.arc) {
    const double train = burst_as_train(b);
    out["arc_by_energy_m"] = {train * power.arc->length_m.low, train * power.arc->length_m.high};
  }
  if (b.arc_by_log)
    out["arc_by_log"] = {
        {"arc_m", b.arc_by_log->arc_m}, {"spread", b.arc_by_log->spread}, {"runs", b.arc_by_log->runs}};
  out["switch_average_w"] = b.heat.average_w;
  out["junction_c"] = b.heat.junction_c;
  out["junction_peak_c"] = b.heat.junction_peak_c;
  out["sink_c"] = b.heat.sink_c;
  if (b.heat.run_time_s) out["run_time_s"] = *b.heat.run_time_s;
  return out;
}

} // namespace arc
