// The exciter's row, and what it prints for scripts.
#include "analysis/analyse.h"
#include "craft/kind.h"
#include "crafts/exciter/exciter.h"
#include "crafts/exciter/start.h"
#include "simulation/figures.h"

#include <array>
#include <nlohmann/json.hpp>

namespace arc {
namespace {

Json oscillation_json(const PowerView& view, const OscillationResult& r) {
  Json results{{"oscillates", r.oscillates}, {"steady", r.steady}};
  results.update(group_json("oscillation", view));
  return results;
}

Json exciter_json(const PowerView& view) {
  const Design& design = view.design;
  const auto& e = *view.power.of<ExciterAnalysis>();
  Json supply = Json::array();
  for (const SupplyPoint& p : e.supply) {
    supply.push_back({{"supply_v", p.supply_v},
                      {"oscillates", p.oscillates},
                      {"dissipation_w", p.dissipation_w},
                      {"top_v", p.top_v},
                      {"collector_average_a", p.collector_average_a},
                      {"collector_peak_v", p.collector_peak_v},
                      {"junction_c", p.junction_c}});
    if (p.run_time_s) supply.back()["run_time_s"] = *p.run_time_s;
  }
  Json out{{"format", "high-arc-power"},         {"version", 1},   {"name", design.name}, {"supply", supply},
           {"changes", changes_json(e.changes)}, {"bands", e.band}};
  if (!e.problem.empty()) {
    out["problem"] = e.problem;
    return out;
  }
  out["oscillation"] = oscillation_json(view, e.oscillation);
  out.update(group_json("", view));
  if (e.lamp_m) out["lamp_distance_m"] = {e.lamp_m->low, e.lamp_m->high};
  out["run_time"] = run_time_words(e, design, UnitSystem::metric);
  return out;
}

constexpr std::array<SimulationOption, 1> flags{
    {{.flag = "--both-states",
      .text = "start the oscillation a second way too, and say where it differs",
      .is_switch = true}}};

Simulated run_oscillation_mode(const Design& design, const SimulationValues& values) {
  const std::atomic<bool> never{false};
  const auto part = std::make_shared<ExciterAnalysis>();
  const Analysis analysis = analyse(design);
  part->circuit = exciter_circuit(design, analysis);
  part->oscillation = simulate_oscillation(part->circuit, {.both_states = values.contains("--both-states")}, never);
  const PowerAnalysis power = only(design, part);
  return {[=] {
            return Json{{"results", oscillation_json({design, analysis, power}, part->oscillation)}};
          },
          [=, name = design.name] { return oscillation_netlist(part->circuit, part->oscillation, name); },
          [part] { return oscillation_csv(part->oscillation); }};
}

constexpr std::array<std::string_view, 3> needed{"secondary", "primary", "exciter"};
constexpr std::array<GroupPlace, 1> places{{{"exciter", "driver"}}};
constexpr std::array<SimulationMode, 1> ways{
    {{"--oscillation", "the steady oscillation of transistor, primary and resonator", flags,
      run_oscillation_mode}}};
constexpr std::array<RunColumn, 5> columns{{{"supply_voltage_v", "Supply"},
                                            {"supply_current_a", "Current"},
                                            {"primary_turns", "Turns"},
                                            {"lamp_distance_m", "Lamp at"},
                                            {"duration_s", "Ran for"}}};

} // namespace

const CoilKind& exciter_kind() {
  static constexpr CoilKind kind{
      .key = "exciter",
      .title = "Exciter",
      .purpose = "A first coil for an evening: lamps light near it, a small brush at the top",
      .needs = "One transistor, a resistor, a diode and a supply of 9 to 40 V",
      .coupling_low = 0.12,
      .coupling_high = 0.45,
      .tank = false,
      .after_run = "STILL HOT",
      .topload_usual = false,
      .clip = false,
      .groups = needed,
      .modes = ways,
      .run_columns = columns,
      .achieved = "lamp_distance_m",
      .strip = {{{"A lamp lights to", "lamp_nearest_m", "does not oscillate"},
                 {"Power and collector current", "oscillation.supply_w oscillation.collector_average_a"},
                 {"Runs for", "run_time_s", "no limit reached"},
                 {"Top voltage", "oscillation.top_peak_v"}}},
      .analyse = analyse_exciter,
      .figures = exciter_figures,
      .power_json = exciter_json,
      .rules = exciter_rules,
      .part = []() -> std::shared_ptr<KindPart> { return std::make_shared<ExciterAnalysis>(); },
      .checks_before_power = exciter_checks,
      .steps_after_power = exciter_steps_after,
      .symptoms = exciter_symptoms,
      .start = exciter_begins,
      .vary = vary_exciter,
      .fields = exciter_fields,
      .choices = exciter_choices,
      .run_fields = exciter_run_fields,
      .places = places,
      .demo = "paper-moth"};
  return kind;
}

} // namespace arc
