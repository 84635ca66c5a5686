// high-arc-calc: the core from the command line, for scripts. Results as JSON on standard output; a file that
// cannot be used ends with exit code 2 and one message on standard error.
#include "design/analysis.h"
#include "design/design_file.h"
#include "design/readings.h"
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

} // namespace

int main(int argc, char** argv) {
  CLI::App app{
      "Computes Tesla coil designs from files. Exit code 0: done; 2: the file cannot be used (the reason is on "
      "standard error); other codes: wrong command line."};
  app.set_version_flag("--version", "high-arc-calc " HIGH_ARC_VERSION);
  app.require_subcommand(1);
  std::string file;

  auto* analyse = app.add_subcommand("analyse", "Print all results, bands and findings of a design as JSON.\n"
                                                "example: high-arc-calc analyse examples/quiet-lantern.json");
  analyse->add_option("FILE", file, "design file (JSON)")->required();
  auto* runs = app.add_subcommand("runs", "Print the logged runs of a design as CSV in SI units.\n"
                                          "example: high-arc-calc runs examples/quiet-lantern.json > runs.csv");
  runs->add_option("FILE", file, "design file (JSON)")->required();
  auto* check = app.add_subcommand("check", "Read a design and print it in the current file version.\n"
                                            "example: high-arc-calc check examples/quiet-lantern.json");
  check->add_option("FILE", file, "design file (JSON)")->required();
  CLI11_PARSE(app, argc, argv);

  try {
    const arc::Design design = arc::read_design(read_file(file));
    if (*analyse)
      std::cout
          << analysis_json(design, arc::analyse(design)).dump(2, ' ', false, arc::Json::error_handler_t::replace)
          << '\n';
    if (*runs) std::cout << arc::runs_to_csv(design.runs);
    if (*check) std::cout << arc::write_design(design);
  } catch (const std::exception& error) {
    std::cerr << file << ": " << error.what() << '\n';
    return 2;
  }
  return std::cout.flush() ? 0 : 1;
}
