// What tube coils print for scripts, and their modes.
#include "analysis/analyse.h"
#include "crafts/tubes/tube.h"
#include "simulation/feed_loads_json.h"
#include "simulation/figures.h"
#include "timing/gate_drive.h"
#include "timing/timer_json.h"

#include <array>
#include <nlohmann/json.hpp>

namespace arc {
namespace {

Json tube_run_json(const PowerView& view) {
  const TubeResult& r = view.power.of<TubePower>()->run;
  Json results{{"oscillates", r.oscillates},
               {"steady", r.steady},
               {"intermittent", r.intermittent},
               {"from_s", r.from_s},
               {"to_s", r.to_s}};
  results.update(group_json("run", view));
  if (r.thyristor_peak_a > 0) {
    results["thyristor_on_s"] = r.on_s;
    results["thyristor_off_s"] = r.off_s;
    results["thyristor_stays_on"] = r.stays_on;
  }
  return results;
}

Json sweeps_json(const std::vector<TubeSweep>& sweeps) {
  Json out = Json::array();
  for (const TubeSweep& s : sweeps) {
    Json points = Json::array();
    for (const TubePoint& p : s.points)
      points.push_back({{"value", p.value},
                        {"oscillates", p.oscillates},
                        {"frequency_hz", p.frequency_hz},
                        {"secondary_power_w", p.output_w},
                        {"plate_dissipation_w", p.plate_w},
                        {"top_peak_v", p.top_v}});
    out.push_back({{"of", s.key}, {"points", std::move(points)}});
  }
  return out;
}

Json filament_json(const FilamentPlan& f) {
  Json out{{"current_a", f.amps}, {"voltage_v", f.volts},         {"off", f.off},
           {"cold_a", f.cold_a},  {"soft_start_ohm", f.soft_ohm}, {"wanted_v", f.wanted_v}};
  if (f.turns) out["turns"] = *f.turns;
  if (f.volts_per_turn) out["volts_per_turn"] = *f.volts_per_turn;
  if (f.series_h) out["series_h"] = *f.series_h;
  return out;
}

} // namespace

Json tube_json(const PowerView& view) {
  const auto& [design, analysis, power] = view;
  const auto& t = *power.of<TubePower>();
  Json maps = Json::array();
  for (const TriedMap& m : t.maps) maps.push_back(map_json(m));
  Json meters = Json::array();
  for (const TubeMeters& m : t.meters)
    meters.push_back({{"setting", m.setting},
                      {"oscillates", m.oscillates},
                      {"crest_v", m.crest_v},
                      {"plate_a", m.plate_a},
                      {"grid_a", m.grid_a},
                      {"line_a", m.line_a},
                      {"input_w", m.input_w}});
  Json out{{"format", "high-arc-power"},
           {"version", 1},
           {"name", design.name},
           {"changes", changes_json(t.changes)},
           {"sweeps", sweeps_json(t.sweeps)},
           {"maps", maps},
           {"bands", t.band},
           {"filament", filament_json(t.filament)}};
  if (!meters.empty()) out["meters"] = meters;
  out.update(group_json("", view));
  if (!t.problem.empty()) {
    out["problem"] = t.problem;
    return out;
  }
  out["run"] = tube_run_json(view);
  Json modes = Json::array();
  for (const TubeMode& m : t.start.modes)
    modes.push_back({{"frequency_hz", m.frequency_hz}, {"growth_per_s", m.growth_per_s}});
  out["start_modes"] = modes;
  if (t.balance)
    out["balance"] = {{"frequency_hz", t.balance->frequency_hz},
                      {"plate_input_w", t.balance->plate_input_w},
                      {"plate_dissipation_w", t.balance->plate_dissipation_w},
                      {"secondary_power_w", t.balance->secondary_power_w},
                      {"grid_bias_v", t.balance->grid_bias_v},
                      {"top_peak_v", t.balance->top_peak_v}};
  if (t.circuit.staccato)
    out["firings"] = {
        {"fired", t.firings.fired}, {"let_go", t.firings.let_go}, {"all_phases", !design.interrupter.locked}};
  if (t.mains) {
    out["mains"] = group_json("mains", view);
    out["joints"] = joints_json(*t.mains);
    out["diodes"] = diodes_json(*t.mains);
  }
  if (!t.mains_problem.empty()) out["mains_problem"] = t.mains_problem;
  return out;
}

namespace {

constexpr SimulationOption lumped{
    .flag = "--lumped", .text = "the resonator as one circuit instead of its first three modes", .is_switch = true};
constexpr std::array<SimulationOption, 1> oscillation_flags{lumped};
constexpr std::array<SimulationOption, 2> mains_flags{
    {lumped,
     {.flag = "--cycles",
      .text = "of the mains; the figures are of the last, in staccato of a whole firing period. Not given: two, or "
              "one firing period from switching on",
      .minimum = 1,
      .maximum = 50}}};

Simulated simulated(const Design& design, const SimulationValues& values, bool mains) {
  const std::atomic<bool> never{false};
  const Analysis analysis = analyse(design);
  const auto part = std::make_shared<TubePower>();
  part->circuit = circuit_of(design, analysis, values.contains("--lumped"));
  TubeOptions options{.mains = mains};
  if (const auto cycles = values.find("--cycles"); cycles != values.end())
    options.cycles = static_cast<int>(cycles->second);
  part->run = simulate_tube(part->circuit, options, never);
  const PowerAnalysis power = only(design, part);
  return {[=] {
            return Json{{"results", tube_run_json({design, analysis, power})}};
          },
          [=, name = design.name] { return tube_netlist(part->circuit, options, part->run, name); },
          [part] { return tube_csv(part->run); }};
}

constexpr std::array<SimulationMode, 2> ways{
    {{"--oscillation", "on direct current: the supply's own, or at the crest of one that swings", oscillation_flags,
      [](const Design& d, const SimulationValues& v) { return simulated(d, v, false); }},
     {"--mains", "whole cycles of the supply as it swings, staccato where it is set", mains_flags,
      [](const Design& d, const SimulationValues& v) { return simulated(d, v, true); }}}};

// A flame coil's envelope settles by itself.
constexpr std::array<SimulationMode, 2> flame_ways{
    {ways[0],
     {"--mains", "whole cycles of the supply as it swings, by the oscillator's envelope", oscillation_flags,
      [](const Design& d, const SimulationValues& v) { return simulated(d, v, true); }}}};

// From a bench generator to the gate, the crest of the supply between them.
Json gate_drive_json(const Design& design, const TubePower& run) {
  GateDriveTask task;
  task.stands_off_v = gate_stands_off_v(design, &run);
  const GateDrive drive = gate_drive(task);
  Json parts = Json::array();
  for (const TimerPart& part : drive.parts) {
    parts.push_back({{"part", part.name}, {"what", part.what}});
    if (part.value > 0) parts.back()["value"] = part.value;
  }
  return {{"diode_ohm", drive.diode_ohm},
          {"diode_a", drive.diode_a},
          {"gate_ohm", drive.gate_ohm},
          {"gate_a", drive.gate_a},
          {"isolation_v", drive.isolation_v},
          {"fibre", drive.fibre},
          {"parts", parts},
          {"connections", drive.connections}};
}

} // namespace

// What is asked of the thyristor, what it does over some seconds (a firing period repeated), and timers for it.
Json tube_interrupter_json(const Design& design, double seconds) {
  const double mains_hz = design.site.mains_frequency_hz;
  Interrupter asked = design.interrupter;
  const PulsePlan plan = plan_pulses(asked, mains_hz, UnitSystem::metric);
  Json pulses = Json::array();
  TubePower ran;
  Json results{
      {"on_time_s", plan.on_s}, {"rate_hz", plan.rate_hz}, {"duty", plan.duty()}, {"beat_hz", plan.beat_hz}};
  if (design.tube.staccato) {
    const std::atomic<bool> never{false};
    const std::function<void(double)> nobody;
    Kept kept;
    const TubeCircuit circuit = tube_circuit(design, analyse(design));
    ran.crest_v = crest_supply_v(circuit);
    ran.run =
        run_fired(circuit, design.interrupter.locked, {.mains = true, .waveforms = false}, {never, nobody, kept})
            .run;
    const TubeResult& run = ran.run;
    for (std::size_t i = 0; i < run.on_s.size(); ++i)
      for (double at = run.on_s[i]; at < seconds && design.interrupter.locked; at += circuit.staccato->period_s) {
        const double lasts = (i < run.off_s.size() ? run.off_s[i] : run.to_s) - run.on_s[i];
        pulses.push_back({{"start_s", at}, {"end_s", at + lasts}});
      }
    results["thyristor_stays_on"] = run.stays_on;
    results["plate_dissipation_w"] = run.plate_dissipation_w;
    results["plate_input_w"] = run.plate_input_w;
  }
  return {{"format", "high-arc-interrupter"},
          {"version", 1},
          {"name", design.name},
          {"results", results},
          {"pulses", pulses},
          {"gate_drive", gate_drive_json(design, ran)},
          {"timers", timers_json(design.interrupter, plan)}};
}

std::span<const SimulationMode> tube_modes() {
  return ways;
}

std::span<const SimulationMode> flame_modes() {
  return flame_ways;
}

} // namespace arc
