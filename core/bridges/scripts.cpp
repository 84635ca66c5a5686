// What a bridge prints for scripts, and how it is simulated from the command line.
#include "bridges/bridge.h"

#include <array>
#include <nlohmann/json.hpp>

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

constexpr std::array<SimulationMode, 1> ways{
    {{"--burst", "one burst: bus, switches, primary, resonator, streamer", burst_flags, run_burst_mode}}};

} // namespace

std::span<const SimulationMode> bridge_modes() {
  return ways;
}

Json bridge_json(const Design& design, const PowerAnalysis& power) {
  const auto& b = *power.of<BridgeAnalysis>();
  Json changes = Json::array();
  for (const BridgeChange& c : b.changes)
    changes.push_back({{"title", c.title},
                       {"top_ratio", c.top_ratio},
                       {"energy_ratio", c.energy_ratio},
                       {"loss_ratio", c.loss_ratio}});
  Json out{
      {"format", "high-arc-power"}, {"version", 1}, {"name", design.name}, {"changes", changes}, {"bands", b.band}};
  if (!b.problem.empty()) {
    out["problem"] = b.problem;
    return out;
  }
  out["burst"] = burst_json(b.circuit, b.burst)["results"];
  out["driver_highest_hz"] = b.chain_hz;
  out["gate"] = {
      {"gate_v", b.gate.gate_v}, {"flux_t", b.gate.flux_t}, {"magnetising_a", b.gate.magnetising_a},
      {"droop", b.gate.droop},   {"rise_s", b.gate.rise_s}, {"power_w_per_switch", b.gate.power_w_per_switch}};
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
  out["expected_arc_m"] = {b.arc_m.low, b.arc_m.high};
  out["switch_average_w"] = b.heat.average_w;
  out["junction_c"] = b.heat.junction_c;
  out["junction_peak_c"] = b.heat.junction_peak_c;
  out["sink_c"] = b.heat.sink_c;
  if (b.heat.run_time_s) out["run_time_s"] = *b.heat.run_time_s;
  return out;
}

} // namespace arc
