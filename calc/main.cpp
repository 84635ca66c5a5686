// high-arc-calc: the core from the command line, for scripts. Results as JSON on standard output; a file that
// cannot be used ends with exit code 2 and one message on standard error.
#include "design/analysis.h"
#include "design/design_file.h"
#include "design/fields.h"
#include "design/power.h"
#include "design/readings.h"
#include "design/validity.h"
#include "kinds/exciter/exciter.h"
#include "kinds/kind.h"
#include "parts/bank_search.h"
#include "parts/shelf.h"
#include "quantity/json_text.h"
#include "quantity/listed.h"
#include "workshop/runs.h"

#include <CLI/CLI.hpp>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <iostream>
#include <iterator>
#include <nlohmann/json.hpp>
#include <sstream>

namespace {

struct FileProblem : std::runtime_error {
  using std::runtime_error::runtime_error;
};

std::string read_file(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  if (!in) throw FileProblem("cannot be opened");
  in.seekg(0, std::ios::end);
  if (in.tellg() > static_cast<std::streamoff>(arc::largest_design_file_bytes))
    throw FileProblem("is too large to be a design");
  in.seekg(0);
  std::string text{std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
  if (in.bad()) throw FileProblem("cannot be read");
  return text;
}

arc::Json findings_json(const std::vector<arc::Finding>& findings) {
  arc::Json out = arc::Json::array();
  for (const arc::Finding& finding : findings)
    out.push_back({{"id", finding.id},
                   {"severity", arc::severity_name(finding.severity)},
                   {"stage", finding.stage},
                   {"title", finding.title},
                   {"text", finding.text},
                   {"remedy", finding.remedy},
                   {"value", finding.value},
                   {"limit", finding.limit}});
  return out;
}

arc::Json analysis_json(const arc::Design& design, const arc::Analysis& analysis) {
  arc::Json out{{"format", "high-arc-analysis"}, {"version", 1}, {"name", design.name}};
  arc::Json results = arc::Json::object();
  arc::Json bands = arc::Json::object();
  for (const arc::Reading& reading : arc::readings())
    if (const auto value = arc::reading_value(reading, design, analysis))
      results[std::string(reading.key)] = *value;
  for (const auto& [key, band] : analysis.band)
    if (std::isfinite(band) && results.contains(key)) bands[key] = band;
  out["results"] = results;
  out["bands"] = bands;
  out["method"] = analysis.resonator ? analysis.resonator->method : "none";
  if (!analysis.problem.empty()) out["problem"] = analysis.problem;
  out["findings"] = findings_json(analysis.findings);
  return out;
}

// A number with a unit as builders write it, "12n" or "30k".
double quantity(const std::string& text, arc::Dimension dimension) {
  const auto result = arc::parse_quantity(text, dimension, arc::UnitSystem::metric);
  if (const auto* error = std::get_if<arc::ParseError>(&result))
    throw FileProblem("“" + text + "”: " + error->message);
  return std::get<double>(result);
}

void write_text(const std::string& path, const std::string& text) {
  std::ofstream out(path, std::ios::binary);
  out << text;
  if (!out.flush()) throw FileProblem("“" + path + "” cannot be written");
}

void print(const arc::Json& json) {
  std::cout << json.dump(2, ' ', false, arc::Json::error_handler_t::replace) << '\n';
}

arc::Json banks_json(const arc::Shelf& shelf, const arc::BankWish& wish, double unstated_tolerance) {
  arc::Json banks = arc::Json::array();
  const auto parts = arc::shelf_capacitors(shelf, unstated_tolerance);
  bool left_out = false;
  for (const arc::BankProposal& bank : arc::find_banks(parts, wish, nullptr, &left_out)) {
    arc::Json strings = arc::Json::array();
    for (const arc::BankString& s : bank.strings)
      strings.push_back({{"part", parts[s.part].name}, {"in_series", s.in_series}, {"in_parallel", s.in_parallel}});
    banks.push_back({{"capacitance_f", bank.capacitance_f},
                     {"voltage_v", bank.voltage_v},
                     {"layout", bank.layout},
                     {"units", bank.units},
                     {"left", bank.left},
                     {"price", bank.price},
                     {"unpriced", bank.unpriced},
                     {"unit_share", bank.unit_share},
                     {"stacked", bank.stacked},
                     {"strings", strings}});
  }
  arc::Json out{{"banks", banks}};
  if (left_out) out["left_out"] = "the shelf is so large that not every mixed bank was looked at";
  if (banks.empty())
    out["reason"] =
        parts.empty()
            ? std::string("there are no capacitors on the shelf")
            : fmt::format("this shelf makes no bank within {:.0f} % of {} that holds {}", 100 * wish.largest_miss,
                          arc::format_quantity(wish.capacitance_f, arc::Dimension::capacitance),
                          arc::format_quantity(wish.voltage_v, arc::Dimension::voltage));
  for (const arc::ShelfCapacitor& part : parts)
    if (arc::doubtful_marking(part, wish.capacitance_f)) out["doubtful_markings"].push_back(part.name);
  return out;
}

arc::Json shot_json(const arc::ShotResult& shot) {
  arc::Json results{{"top_peak_v", shot.top_peak_v},
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

arc::Json charging_json(const arc::ChargingResult& charging) {
  arc::Json results{{"break_rate_hz", charging.break_rate_hz}, {"tank_peak_v", charging.tank_peak_v},
                    {"input_power_w", charging.input_power_w}, {"line_current_a", charging.line_current_a},
                    {"power_factor", charging.power_factor},   {"reactive_va", charging.reactive_va},
                    {"tank_power_w", charging.tank_power_w}};
  if (std::isfinite(charging.breaker_trip_s)) results["breaker_trip_s"] = charging.breaker_trip_s;
  arc::Json joints = arc::Json::array(), diodes = arc::Json::array(), gaps = arc::Json::array();
  for (const arc::JointLoad& j : charging.joints) {
    joints.push_back(
        {{"title", j.title}, {"rms_v", j.rms_v}, {"peak_v", j.peak_v}, {"rms_a", j.rms_a}, {"peak_a", j.peak_a}});
    if (j.insulation_v > 0) joints.back()["insulation_v"] = j.insulation_v;
    if (j.limit_v > 0) joints.back()["limit_v"] = j.limit_v;
    if (j.limit_a > 0) joints.back()["limit_a"] = j.limit_a;
  }
  for (const arc::DiodeLoad& d : charging.diodes)
    diodes.push_back({{"title", d.title},
                      {"inverse_v", d.inverse_v},
                      {"limit_v", d.limit_v},
                      {"average_a", d.average_a},
                      {"limit_a", d.limit_a}});
  for (const arc::SafetyGapLoad& g : charging.safety_gaps)
    gaps.push_back({{"title", g.title}, {"firing_v", g.firing_v}, {"firings", g.firings}});
  return {{"results", results},
          {"break_voltages_v", charging.break_voltages_v},
          {"joints", joints},
          {"diodes", diodes},
          {"safety_gaps", gaps}};
}

arc::Json oscillation_json(const arc::OscillationResult& r) {
  arc::Json results{{"oscillates", r.oscillates},
                    {"steady", r.steady},
                    {"frequency_hz", r.frequency_hz},
                    {"natural_hz", r.natural_hz},
                    {"supply_v", r.supply_v},
                    {"collector_average_a", r.collector_average_a},
                    {"collector_peak_a", r.collector_peak_a},
                    {"collector_peak_v", r.collector_peak_v},
                    {"base_least_v", r.base_least_v},
                    {"top_peak_v", r.top_peak_v},
                    {"foot_peak_a", r.foot_peak_a},
                    {"supply_w", r.supply_w},
                    {"dissipation_w", r.dissipation_w},
                    {"clamp_w", r.clamp_w},
                    {"bias_w", r.bias_w},
                    {"primary_w", r.primary_w},
                    {"secondary_w", r.secondary_w},
                    {"start_s", r.start_s}};
  if (r.other_top_v) results["other_top_v"] = *r.other_top_v;
  return {{"results", results}};
}

arc::Json exciter_json(const arc::Design& design, const arc::PowerAnalysis& power) {
  const arc::ExciterAnalysis& e = *power.exciter;
  arc::Json supply = arc::Json::array(), changes = arc::Json::array();
  for (const arc::SupplyPoint& p : e.supply) {
    supply.push_back({{"supply_v", p.supply_v},
                      {"oscillates", p.oscillates},
                      {"dissipation_w", p.dissipation_w},
                      {"top_v", p.top_v},
                      {"collector_average_a", p.collector_average_a},
                      {"collector_peak_v", p.collector_peak_v},
                      {"junction_c", p.junction_c}});
    if (p.run_time_s) supply.back()["run_time_s"] = *p.run_time_s;
  }
  for (const arc::ExciterChange& c : e.changes)
    changes.push_back({{"title", c.title}, {"top_ratio", c.top_ratio}, {"watt_ratio", c.watt_ratio}});
  arc::Json out{{"format", "high-arc-power"}, {"version", 1},       {"name", design.name},
                {"supply", supply},           {"changes", changes}, {"findings", findings_json(power.findings)}};
  if (!e.problem.empty()) {
    out["problem"] = e.problem;
    return out;
  }
  out["oscillation"] = oscillation_json(e.oscillation)["results"];
  out["junction_c"] = e.junction_c;
  out["case_c"] = e.case_c;
  if (e.sink_c) out["sink_c"] = *e.sink_c;
  if (e.run_time_s) out["run_time_s"] = *e.run_time_s;
  out["run_time"] = arc::run_time_words(e, design, arc::UnitSystem::metric);
  return out;
}

arc::Json power_json(const arc::Design& design, const arc::PowerAnalysis& power) {
  if (power.exciter) return exciter_json(design, power);
  arc::Json units = arc::Json::array(), quench = arc::Json::array(), changes = arc::Json::array();
  for (const arc::UnitStress& u : power.stress) {
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
    if (u.rise_k) units.back()["rise_30_min_k"] = u.rise_after_s(arc::long_run_s);
  }
  for (const arc::QuenchCase& c : power.quench)
    quench.push_back({{"notch", c.notch},
                      {"time_s", c.time_s},
                      {"caught_j", c.caught_j},
                      {"gap_loss_j", c.gap_loss_j},
                      {"left_j", c.left_j}});
  for (const arc::TrialChange& c : power.changes)
    changes.push_back({{"title", c.title}, {"arc_ratio", c.arc_ratio}, {"power_ratio", c.power_ratio}});
  arc::Json out{{"format", "high-arc-power"},
                {"version", 1},
                {"name", design.name},
                {"units", units},
                {"quench", quench},
                {"changes", changes},
                {"bands", power.band},
                {"long_run", arc::long_run_verdict(power, arc::UnitSystem::metric)},
                {"quench_advice", arc::quench_advice(power, design)},
                {"gap_loss_w", power.gap_loss_w},
                {"gap_charge_c_per_s", power.gap_charge_c_per_s},
                {"dwell_s", power.dwell_s},
                {"findings", findings_json(power.findings)}};
  if (power.shot_problem.empty())
    out["shot"] = shot_json(power.shot)["results"];
  else
    out["shot_problem"] = power.shot_problem;
  if (power.charging_problem.empty())
    out["charging"] = charging_json(power.charging)["results"];
  else
    out["charging_problem"] = power.charging_problem;
  if (power.wider_gap)
    out["wider_gap"] = {{"arc_ratio", power.wider_gap->arc_ratio},
                        {"power_ratio", power.wider_gap->power_ratio},
                        {"break_rate_hz", power.wider_gap->break_rate_hz},
                        {"unit_used", power.wider_gap->unit_used}};
  return out;
}

} // namespace

int main(int argc, char** argv) {
  CLI::App app{
      "Computes Tesla coil designs from files. Exit code 0: done; 2: the file cannot be used (the reason is on "
      "standard error); other codes: wrong command line."};
  app.set_version_flag("--version", "high-arc-calc " HIGH_ARC_VERSION);
  app.require_subcommand(1);
  std::string file;
  const auto command = [&](const char* name, const char* text) {
    auto* made = app.add_subcommand(name, text);
    made->add_option("FILE", file, "design file (JSON)")->required();
    return made;
  };
  auto* analyse = command("analyse", "Print all results, bands and findings of a design as JSON.\n"
                                     "example: high-arc-calc analyse examples/quiet-lantern.json");
  auto* runs = command("runs", "Print the logged runs of a design as CSV in SI units.\n"
                               "example: high-arc-calc runs examples/quiet-lantern.json > runs.csv");
  auto* check = command("check", "Read a design and print it in the current file version.\n"
                                 "example: high-arc-calc check examples/quiet-lantern.json");
  auto* power =
      command("power", "Simulate the whole power path and judge every part: units, quench, changes, findings.\n"
                       "example: high-arc-calc power examples/quiet-lantern.json");

  arc::PowerOptions power_options;
  bool no_trials = false;
  power->add_flag("--no-trials", no_trials, "leave out quench cases, bands and single changes: faster");

  std::string capacitance, voltage;
  arc::BankWish wish;
  wish.margin = 1; // the wanted voltage is what the bank must be good for, unless a margin is stated
  double tolerance = 0;
  std::string order{wish.order};
  std::vector<std::string> orders;
  for (const arc::BankOrder& o : arc::bank_orders()) orders.emplace_back(o.key);
  auto* bank =
      app.add_subcommand("bank", "Find banks of shelf capacitors, best first, as JSON.\n"
                                 "example: high-arc-calc bank --shelf examples/shelf.json --capacitance 12n "
                                 "--voltage 30k --limit 10");
  bank->add_option("--shelf", file, "shelf file (JSON)")->required();
  bank->add_option("--capacitance", capacitance, "wanted, e.g. 12n")->required();
  bank->add_option("--voltage", voltage, "peak across the bank, e.g. 30k")->required();
  bank->add_option("--limit", wish.limit, "most proposals")->capture_default_str();
  bank->add_option("--margin", wish.margin, "largest share of a unit's rating, 0 to 1; 0.8 is usual")
      ->capture_default_str();
  bank->add_option("--tolerance", tolerance, "of parts that state none, 0 to 0.9: uneven sharing in series")
      ->check(CLI::Range(0.0, 0.9))
      ->capture_default_str();
  bank->add_option("--order", order, "what the best is judged by")
      ->check(CLI::IsMember(orders))
      ->capture_default_str();
  bank->add_option("--within", wish.largest_miss, "largest miss of the capacitance, relative")
      ->check(CLI::Range(0.0, 0.9))
      ->capture_default_str();

  bool shot = false, charging = false, oscillation = false, both_states = false;
  arc::ShotOptions shot_options;
  arc::ChargingOptions charging_options;
  std::string tank_voltage, csv_path;
  const auto add_modes = [&](CLI::App* to) {
    auto* one = to->add_flag("--shot", shot, "the single shot: tank, gap, primary, resonator");
    auto* other = to->add_flag("--charging", charging, "charging over mains cycles, the gap firing as it would");
    auto* third = to->add_flag("--oscillation", oscillation, "an exciter's steady oscillation");
    one->excludes(other)->excludes(third);
    other->excludes(third);
    to->add_flag("--both-states", both_states, "start the oscillation a second way too, and say where it differs");
    to->add_option("--tank-voltage", tank_voltage, "tank at the start of the shot, e.g. 10k");
    to->add_flag("--lumped", shot_options.lumped, "the resonator as one circuit instead of its first three modes");
    to->add_flag("--ideal", shot_options.ideal, "no gap loss, no winding loss, no breakout, lumped resonator");
    to->add_option("--quench", shot_options.quench_notch, "the gap opens at this notch; 0: never")
        ->capture_default_str();
    to->add_option("--cycles", charging_options.cycles, "mains cycles")
        ->check(CLI::Range(1, 1000))
        ->capture_default_str();
  };
  auto* simulate = command(
      "simulate", "Simulate a shot, the charging of the tank, or an exciter's oscillation; results as JSON.\n"
                  "example: high-arc-calc simulate examples/quiet-lantern.json --shot "
                  "--tank-voltage 10k --ideal\n"
                  "example: high-arc-calc simulate examples/quiet-lantern.json --charging --cycles 10\n"
                  "example: high-arc-calc simulate examples/paper-moth.json --oscillation");
  add_modes(simulate);
  simulate->add_option("--csv", csv_path, "write the waveforms to this file");
  auto* netlist =
      command("netlist", "Print the simulated circuit as a SPICE deck that measures the same names.\n"
                         "example: high-arc-calc netlist examples/quiet-lantern.json --shot > shot.cir");
  add_modes(netlist);
  CLI11_PARSE(app, argc, argv);

  try {
    const std::atomic<bool> never{false};
    if (*bank) {
      wish.capacitance_f = quantity(capacitance, arc::Dimension::capacitance);
      wish.voltage_v = quantity(voltage, arc::Dimension::voltage);
      wish.order = order;
      print(banks_json(arc::read_shelf(read_file(file)), wish, tolerance));
      return std::cout.flush() ? 0 : 1;
    }
    const std::string text = read_file(file);
    const arc::Design design = arc::read_design(text);
    // What only needs computing within its ranges is not run outside of them.
    const auto refuse_out_of_range = [&] {
      const auto wrong = arc::numbers_out_of_range(design);
      if (wrong.empty()) return;
      const std::string& path = wrong.front().path;
      throw FileProblem(arc::with_place(path, arc::json_line_of(text, path),
                                        wrong.front().text(arc::UnitSystem::metric).substr(path.size() + 2)));
    };
    if (*analyse) print(analysis_json(design, arc::analyse(design)));
    power_options.advice = !no_trials;
    if (*power)
      print(power_json(
          design, arc::analyse_power(design, arc::analyse(design), power_options, arc::UnitSystem::metric, never)));
    if (*runs) std::cout << arc::runs_to_csv(design.runs);
    if (*check) std::cout << arc::write_design(design);
    if (*simulate || *netlist) {
      refuse_out_of_range();
      const auto& modes = arc::kind_of(design).modes;
      const std::string asked = shot ? "--shot" : charging ? "--charging" : oscillation ? "--oscillation" : "";
      if (std::ranges::find(modes, asked, &arc::SimulationMode::flag) == modes.end()) {
        const std::string known = arc::listed(modes, &arc::SimulationMode::flag, " or ");
        throw FileProblem(asked.empty() ? fmt::format("say what to simulate: {}", known)
                                        : fmt::format("this coil is “{}”, which has no {}; it has {}", design.kind,
                                                      asked, known));
      }
      if (charging && !arc::given(design, "tank"))
        throw FileProblem("tank.capacitance_f: not given yet; charging needs it");
      if (!tank_voltage.empty()) shot_options.tank_voltage_v = quantity(tank_voltage, arc::Dimension::voltage);
    }
    if ((*simulate || *netlist) && shot) {
      const arc::ShotCircuit circuit = arc::shot_circuit(design, arc::analyse(design), shot_options);
      const arc::ShotResult result = arc::simulate_shot(circuit, shot_options, never);
      if (*netlist)
        std::cout << arc::shot_netlist(circuit, shot_options, result.quench_s, design.name);
      else
        print(shot_json(result));
      if (!csv_path.empty()) write_text(csv_path, arc::shot_csv(result));
    }
    if (oscillation) {
      const arc::ExciterCircuit circuit = arc::exciter_circuit(design, arc::analyse(design));
      const arc::OscillationResult result = arc::simulate_oscillation(circuit, {.both_states = both_states}, never);
      if (*netlist)
        std::cout << arc::oscillation_netlist(circuit, result, design.name);
      else
        print(oscillation_json(result));
      if (!csv_path.empty()) write_text(csv_path, arc::oscillation_csv(result));
    }
    if (*netlist && charging) std::cout << arc::charging_netlist(design, charging_options);
    if (*simulate && charging) {
      const arc::ChargingResult result = arc::simulate_charging(design, charging_options, never);
      print(charging_json(result));
      if (!csv_path.empty()) write_text(csv_path, arc::charging_csv(result));
    }
  } catch (const std::exception& error) {
    std::cerr << file << ": " << error.what() << '\n';
    return 2;
  }
  return std::cout.flush() ? 0 : 1;
}
