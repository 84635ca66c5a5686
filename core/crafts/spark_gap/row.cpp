// The spark gap's row, and what it prints for scripts.
#include "analysis/analyse.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "crafts/spark_gap/power_rules.h"
#include "crafts/spark_gap/spark_gap.h"
#include "crafts/spark_gap/start.h"
#include "model/fields.h"
#include "simulation/feed_loads_json.h"
#include "simulation/figures.h"

#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace arc {
namespace {

Json charging_json(const PowerView& view, const ChargingResult& charging) {
  Json gaps = Json::array();
  for (const SafetyGapLoad& g : charging.safety_gaps)
    gaps.push_back({{"title", g.title}, {"firing_v", g.firing_v}, {"firings", g.firings}});
  return {{"results", group_json("charging", view)},
          {"break_voltages_v", charging.break_voltages_v},
          {"joints", joints_json(charging)},
          {"diodes", diodes_json(charging)},
          {"safety_gaps", gaps}};
}

Json spark_gap_json(const PowerView& view) {
  const auto& p = *view.power.of<SparkGapPower>();
  Json units = Json::array(), quench = Json::array();
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
  Json out{{"units", units},
           {"quench", quench},
           {"changes", changes_json(p.changes)},
           {"bands", p.band},
           {"long_run", long_run_verdict(p.duty, UnitSystem::metric)},
           {"quench_advice", quench_advice(p, view.design)}};
  out.update(group_json("", view));
  if (p.shot_problem.empty())
    out["shot"] = group_json("shot", view);
  else
    out["shot_problem"] = p.shot_problem;
  if (p.charging_problem.empty())
    out["charging"] = group_json("charging", view);
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
    {{.flag = "--tank-voltage",
      .text = "tank at the start of the break, e.g. 10k",
      .dimension = Dimension::voltage},
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
  const Analysis analysis = analyse(design);
  const auto part = std::make_shared<SparkGapPower>();
  part->circuit = shot_circuit(design, analysis, options);
  part->shot = simulate_shot(part->circuit, options, never);
  const PowerAnalysis power = only(design, part);
  return {[=] {
            return Json{{"results", group_json("shot", {design, analysis, power})}};
          },
          [=, name = design.name] { return shot_netlist(part->circuit, options, part->shot.quench_s, name); },
          [part] { return shot_csv(part->shot); }};
}

Simulated run_charging_mode(const Design& design, const SimulationValues& values) {
  if (!given(design, "tank")) throw std::invalid_argument("tank.capacitance_f: not given yet; charging needs it");
  ChargingOptions options;
  options.cycles = static_cast<int>(values.at("--cycles"));
  const auto part = std::make_shared<SparkGapPower>();
  part->charging = simulate_charging(design, options, never);
  const PowerAnalysis power = only(design, part);
  return {[=] {
            return charging_json({design, {}, power}, part->charging);
          },
          [=] { return charging_netlist(design, options); }, [part] { return charging_csv(part->charging); }};
}

constexpr std::array<std::string_view, 5> needed{"secondary", "primary", "tank", "feed", "gap"};
constexpr std::array<std::string_view, 2> tank_numbers{"gap.firing_voltage_v", "gap.break_rate_hz"};
constexpr std::array<GroupPlace, 1> places{{{"gap", "switch"}}};
constexpr std::array<SimulationMode, 2> ways{
    {{"--shot", "one break: tank, gap, primary, resonator", shot_flags, run_shot_mode},
     {"--charging", "charging over mains cycles, the gap firing as it would", charging_flags, run_charging_mode}}};
constexpr std::array<RunColumn, 5> columns{{{"tap_turns", "Tap"},
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
      .tank_fields = tank_numbers,
      .feed_end = FeedEnd::tank,
      .clip = true,
      .groups = needed,
      .modes = ways,
      .run_columns = columns,
      .achieved = "arc_length_m",
      .strip = {{{"Expected arc", "arc_shortest_m"},
                 {"Power and line current", "charging.input_power_w charging.line_current_a"},
                 {"Break rate", "charging.break_rate_hz"},
                 {"Top voltage", "shot.top_peak_v"}}},
      .analyse = analyse_spark_gap,
      .figures = spark_gap_figures,
      .power_json = spark_gap_json,
      .rules = spark_gap_rules,
      .part = []() -> std::shared_ptr<KindPart> { return std::make_shared<SparkGapPower>(); },
      .checks_before_power = spark_gap_checks,
      .steps_after_power = spark_gap_steps_after,
      .symptoms = spark_gap_symptoms,
      .least_people_m = 2,
      .arc_of_winding = 0,
      .start = spark_gap_begins,
      .first_feed = "sign",
      .suit_feed = suit_gap_to_feed,
      .vary = vary_spark_gap,
      .stores = spark_gap_stores,
      .fields = spark_gap_fields,
      .choices = spark_gap_choices,
      .run_fields = spark_gap_run_fields,
      .places = places,
      .demo = "quiet-lantern"};
  return kind;
}

} // namespace arc
