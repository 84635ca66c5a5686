// high-arc-calc: the core from the command line, for scripts. Results as JSON on standard output; a file that
// cannot be used ends with exit code 2 and one message on standard error.
#include "circuit/charging.h"
#include "circuit/shot.h"
#include "design/analysis.h"
#include "design/design_file.h"
#include "design/readings.h"
#include "parts/bank_search.h"
#include "parts/shelf.h"
#include "workshop/runs.h"

#include <CLI/CLI.hpp>
#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <iostream>
#include <iterator>
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

arc::Json analysis_json(const arc::Design& design, const arc::Analysis& analysis) {
  arc::Json out{{"format", "high-arc-analysis"}, {"version", 1}, {"name", design.name}};
  arc::Json results = arc::Json::object();
  arc::Json bands = arc::Json::object();
  for (const arc::Reading& reading : arc::readings())
    if (const auto value = reading.value(design, analysis); value && std::isfinite(*value))
      results[std::string(reading.key)] = *value;
  for (const auto& [key, band] : analysis.band) bands[key] = band;
  out["results"] = results;
  out["bands"] = bands;
  out["method"] = analysis.resonator ? analysis.resonator->method : "none";
  if (!analysis.problem.empty()) out["problem"] = analysis.problem;
  out["findings"] = arc::Json::array();
  for (const arc::Finding& finding : analysis.findings)
    out["findings"].push_back({{"id", finding.id},
                               {"severity", arc::severity_name(finding.severity)},
                               {"stage", finding.stage},
                               {"title", finding.title},
                               {"text", finding.text},
                               {"remedy", finding.remedy},
                               {"value", finding.value},
                               {"limit", finding.limit}});
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

arc::Json banks_json(const arc::Shelf& shelf, const arc::BankWish& wish) {
  arc::Json banks = arc::Json::array();
  for (const arc::BankProposal& bank : arc::find_banks(shelf, wish)) {
    arc::Json strings = arc::Json::array();
    for (const arc::BankString& s : bank.strings)
      strings.push_back(
          {{"part", shelf.capacitors[s.part].name}, {"in_series", s.in_series}, {"in_parallel", s.in_parallel}});
    banks.push_back({{"capacitance_f", bank.capacitance_f},
                     {"voltage_v", bank.voltage_v},
                     {"layout", bank.layout},
                     {"units", bank.units},
                     {"unit_share", bank.unit_share},
                     {"strings", strings}});
  }
  arc::Json out{{"banks", banks}};
  if (const auto doubtful = arc::doubtful_markings(shelf, wish.capacitance_f); !doubtful.empty())
    out["doubtful_markings"] = doubtful;
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
                    {"tank_slope_v_per_s", shot.tank_slope_v_per_s}};
  if (shot.quench_s) results["quench_s"] = *shot.quench_s;
  if (shot.breakout_s) results["breakout_s"] = *shot.breakout_s;
  return {{"results", results}};
}

std::string charging_csv(const arc::ChargingResult& charging) {
  std::string out = "time_s,mains_v,line_a,tank_v\r\n";
  for (const arc::ChargingSample& s : charging.samples)
    out += fmt::format("{:.9g},{:.7g},{:.7g},{:.7g}\r\n", s.time_s, s.mains_v, s.line_a, s.tank_v);
  return out;
}

arc::Json charging_json(const arc::ChargingResult& charging) {
  arc::Json results{{"break_rate_hz", charging.break_rate_hz}, {"tank_peak_v", charging.tank_peak_v},
                    {"input_power_w", charging.input_power_w}, {"line_current_a", charging.line_current_a},
                    {"power_factor", charging.power_factor},   {"tank_power_w", charging.tank_power_w}};
  if (std::isfinite(charging.breaker_trip_s)) results["breaker_trip_s"] = charging.breaker_trip_s;
  return {{"results", results}, {"break_voltages_v", charging.break_voltages_v}};
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

  std::string capacitance, voltage;
  arc::BankWish wish;
  auto* bank =
      app.add_subcommand("bank", "Find banks of shelf capacitors, best first, as JSON.\n"
                                 "example: high-arc-calc bank --shelf examples/shelf.json --capacitance 12n "
                                 "--voltage 30k --limit 10");
  bank->add_option("--shelf", file, "shelf file (JSON)")->required();
  bank->add_option("--capacitance", capacitance, "wanted, e.g. 12n")->required();
  bank->add_option("--voltage", voltage, "peak across the bank, e.g. 30k")->required();
  bank->add_option("--limit", wish.limit, "most proposals")->capture_default_str();
  bank->add_option("--margin", wish.margin, "largest share of a unit's rating, 0 to 1")->capture_default_str();

  bool shot = false, charging = false;
  arc::ShotOptions shot_options;
  arc::ChargingOptions charging_options;
  std::string tank_voltage, csv_path;
  const auto add_modes = [&](CLI::App* to) {
    auto* one = to->add_flag("--shot", shot, "the single shot: tank, gap, primary, resonator");
    auto* other = to->add_flag("--charging", charging, "charging over mains cycles, the gap firing as it would");
    one->excludes(other);
    to->add_option("--tank-voltage", tank_voltage, "tank at the start of the shot, e.g. 10k");
    to->add_flag("--ideal", shot_options.ideal, "no gap loss, no winding loss, no breakout, lumped resonator");
    to->add_option("--quench", shot_options.quench_notch, "the gap opens at this notch; 0: never")
        ->capture_default_str();
    to->add_option("--cycles", charging_options.cycles, "mains cycles")
        ->check(CLI::Range(1, 1000))
        ->capture_default_str();
  };
  auto* simulate =
      command("simulate", "Simulate a shot or the charging of the tank; results as JSON.\n"
                          "example: high-arc-calc simulate examples/quiet-lantern.json --shot "
                          "--tank-voltage 10k --ideal\n"
                          "example: high-arc-calc simulate examples/quiet-lantern.json --charging --cycles 10");
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
      print(banks_json(arc::read_shelf(read_file(file)), wish));
      return std::cout.flush() ? 0 : 1;
    }
    const arc::Design design = arc::read_design(read_file(file));
    if (*analyse) print(analysis_json(design, arc::analyse(design)));
    if (*runs) std::cout << arc::runs_to_csv(design.runs);
    if (*check) std::cout << arc::write_design(design);
    if (*simulate || *netlist) {
      if (!shot && !charging) throw FileProblem("say what to simulate: --shot or --charging");
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
    if (*netlist && charging) std::cout << arc::charging_netlist(design, charging_options);
    if (*simulate && charging) {
      const arc::ChargingResult result = arc::simulate_charging(design, charging_options, never);
      print(charging_json(result));
      if (!csv_path.empty()) write_text(csv_path, charging_csv(result));
    }
  } catch (const std::exception& error) {
    std::cerr << file << ": " << error.what() << '\n';
    return 2;
  }
  return std::cout.flush() ? 0 : 1;
}
