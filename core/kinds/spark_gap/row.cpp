// The spark gap's row, and what it prints for scripts.
#include "coil/feed_loads_json.h"
#include "coil/kind.h"
#include "kinds/spark_gap/power_rules.h"
#include "kinds/spark_gap/spark_gap.h"
#include "kinds/spark_gap/start.h"
#include "model/fields.h"

#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace arc {
namespace {

Json shot_json(const ShotResult& shot) {
  Json results{{"top_peak_v", shot.top_peak_v},
               {"top_peak_s", shot.top_peak_s},
               {"primary_peak_a", shot.primary_peak_a},
               {"first_notch_s", shot.first_notch_s},
               {"tank_energy_j", shot.tank_energy_j},
               {"secondary_peak_j", shot.secondary_peak_j},
               {"gap_loss_j", shot.gap_loss_j},
               {"tank_rms_a", shot.tank_rms_a},
               {"tank_slope_v_per_s", shot.tank_slope_v_per_s},
               {"base_peak_a", shot.base_peak_a},
               {"gap_charge_c", shot.gap_charge_c}};
  if (shot.quench_s) results["quench_s"] = *shot.quench_s;
  if (shot.breakout_s) results["breakout_s"] = *shot.breakout_s;
  if (shot.cut_s) results["cut_s"] = *shot.cut_s;
  return {{"results", results}};
}

Json charging_json(const ChargingResult& charging) {
  Json results{{"break_rate_hz", charging.break_rate_hz}, {"tank_peak_v", charging.tank_peak_v},
               {"input_power_w", charging.input_power_w}, {"line_current_a", charging.line_current_a},
               {"power_factor", charging.power_factor},   {"reactive_va", charging.reactive_va},
               {"tank_power_w", charging.tank_power_w}};
  if (std::isfinite(charging.breaker_trip_s)) results["breaker_trip_s"] = charging.breaker_trip_s;
  Json gaps = Json::array();
  for (const SafetyGapLoad& g : charging.safety_gaps)
    gaps.push_back({{"title", g.title}, {"firing_v", g.firing_v}, {"firings", g.firings}});
  return {{"results", results},
          {"break_voltages_v", charging.break_voltages_v},
          {"joints", joints_json(charging)},
          {"diodes", diodes_json(charging)},
          {"safety_gaps", gaps}};
}

Json spark_gap_json(const Design& design, const PowerAnalysis& power) {
  const auto& p = *power.of<SparkGapPower>();
  Json units = Json::array(), quench = Json::array(), changes = Json::array();
  for (const UnitStress& u : p.duty.stress) {
    units.push_back({{"name", u.name},
                     {"units", u.count},
                     {"peak_v", u.peak_v},
                     {"worst_v", u.worst_v},
                     {"rms_a", u.rms_a},
                     {"slope_v_per_s", u.slope_v_per_s},
                     {"bleeder_ohm", u.bleeder_ohm},
                     {"bleeder_w", u.bleeder_w},
                     {"bleeder_elements", u.bleeder_elements},
                     {"within_ratings", u.within_ratings},
                     {"not_stated", u.missing}});
    if (u.dissipation_w) units.back()["dissipation_w"] = *u.dissipation_w;
    if (u.rise_k) units.back()["rise_30_min_k"] = u.rise_after_s(long_run_s);
  }
  for (const QuenchCase& c : p.quench)
    quench.push_back({{"notch", c.notch},
                      {"time_s", c.time_s},
                      {"caught_j", c.caught_j},
                      {"gap_loss_j", c.gap_loss_j},
                      {"left_j", c.left_j}});
  for (const TrialChange& c : p.changes)
    changes.push_back(
        {{"title", c.title}, {"arc_ratio", c.arc_ratio}, {"power_ratio", c.power_ratio}, {"stop", c.stop}});
  Json out{{"units", units},
           {"quench", quench},
           {"changes", changes},
           {"bands", p.band},
           {"long_run", long_run_verdict(p.duty, UnitSystem::metric)},
           {"quench_advice", quench_advice(p, design)},
           {"gap_loss_w", p.gap_loss_w},
           {"gap_charge_c_per_s", p.gap_charge_c_per_s},
           {"dwell_s", p.dwell_s}};
  if (p.shot_problem.empty())
    out["shot"] = shot_json(p.shot)["results"];
  else
    out["shot_problem"] = p.shot_problem;
  if (p.charging_problem.empty())
    out["charging"] = charging_json(p.charging)["results"];
  else
    out["charging_problem"] = p.charging_problem;
  if (p.wider_gap)
    out["wider_gap"] = {{"arc_ratio", p.wider_gap->arc_ratio},
                        {"power_ratio", p.wider_gap->power_ratio},
                        {"break_rate_hz", p.wider_gap->break_rate_hz},
                        {"unit_used", p.wider_gap->unit_used}};
  return out;
}

const std::atomic<bool> never{false};

constexpr std::array<SimulationOption, 4> shot_flags{
    {{.flag = "--tank-voltage", .text = "tank at the start of the shot, e.g. 10k", .dimension = Dimension::voltage},
     {.flag = "--lumped",
      .text = "the resonator as one circuit instead of its first three modes",
      .is_switch = true},
     {.flag = "--ideal", .text = "no gap loss, no winding loss, no breakout, lumped resonator", .is_switch = true},
     {.flag = "--quench",
      .text = "the gap opens at this notch; 0: never",
      .minimum = 0,
      .maximum = 1000,
      .standard = 1}}};
constexpr std::array<SimulationOption, 1> charging_flags{
    {{.flag = "--cycles", .text = "mains cycles", .minimum = 1, .maximum = 1000, .standard = 10}}};

Simulated run_shot_mode(const Design& design, const SimulationValues& values) {
  ShotOptions options;
  if (const auto it = values.find("--tank-voltage"); it != values.end()) options.tank_voltage_v = it->second;
  options.lumped = values.contains("--lumped");
  options.ideal = values.contains("--ideal");
  options.quench_notch = static_cast<int>(values.at("--quench"));
  const ShotCircuit circuit = shot_circuit(design, analyse(design), options);
  const auto shot = std::make_shared<const ShotResult>(simulate_shot(circuit, options, never));
  return {[shot] { return shot_json(*shot); },
          [=, name = design.name] { return shot_netlist(circuit, options, shot->quench_s, name); },
          [shot] { return shot_csv(*shot); }};
}

Simulated run_charging_mode(const Design& design, const SimulationValues& values) {
  if (!given(design, "tank")) throw std::invalid_argument("tank.capacitance_f: not given yet; charging needs it");
  ChargingOptions options;
  options.cycles = static_cast<int>(values.at("--cycles"));
  const auto charging = std::make_shared<const ChargingResult>(simulate_charging(design, options, never));
  return {[charging] { return charging_json(*charging); }, [=] { return charging_netlist(design, options); },
          [charging] { return charging_csv(*charging); }};
}

constexpr std::array<std::string_view, 5> needed{"secondary", "primary", "tank", "feed", "gap"};
constexpr std::array<SimulationMode, 2> ways{
    {{"--shot", "the single shot: tank, gap, primary, resonator", shot_flags, run_shot_mode},
     {"--charging", "charging over mains cycles, the gap firing as it would", charging_flags, run_charging_mode}}};
constexpr std::array<RunColumn, 5> columns{{{"tap_turns", "Clip"},
                                            {"tank_capacitance_f", "Tank"},
                                            {"coupling", "Coupling"},
                                            {"variac_percent", "Variac"},
                                            {"arc_length_m", "Arc"}}};
} // namespace

const CoilKind& spark_gap_kind() {
  static constexpr CoilKind kind{
      .key = "spark-gap",
      .title = "Spark gap",
      .purpose = "Long arcs from a tank capacitor that a gap discharges into the primary",
      .needs = "High-voltage transformer, tank capacitors, gap; dangerous voltages throughout",
      .coupling_low = 0.10,
      .coupling_high = 0.15,
      .tank = true,
      .tank_end = "to the gap, %1 when it fires",
      .feed_end = FeedEnd::tank,
      .clip = true,
      .groups = needed,
      .modes = ways,
      .run_columns = columns,
      .achieved = "arc_length_m",
      .analyse = analyse_spark_gap,
      .power_json = spark_gap_json,
      .rules = spark_gap_rules,
      .simulate = simulate_spark_gap,
      .checks_before_power = spark_gap_checks,
      .steps_after_power = spark_gap_steps_after,
      .symptoms = spark_gap_symptoms,
      .least_people_m = 2,
      .arc_of_winding = 0,
      .start = spark_gap_begins,
      .first_feed = "sign",
      .suit_feed = suit_gap_to_feed,
      .stores = spark_gap_stores};
  return kind;
}

} // namespace arc
