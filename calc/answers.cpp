#include "answers.h"

#include "analysis/analyse.h"
#include "analysis/findings.h"
#include "circuit/feed_loads.h"
#include "craft/design_fields.h"
#include "craft/dismissed.h"
#include "craft/kind.h"
#include "file/design_file.h"
#include "file/examples.h"
#include "file/validity.h"
#include "model/fields.h"
#include "quantity/json_text.h"
#include "quantity/listed.h"
#include "quantity/text_file.h"
#include "simulation/figures.h"
#include "simulation/power.h"
#include "simulation/stores.h"
#include "workshop/bank_search.h"
#include "workshop/checklist.h"
#include "workshop/curves.h"
#include "workshop/run_table.h"
#include "workshop/runs.h"
#include "workshop/shelf.h"
#include "workshop/solve.h"
#include "workshop/start.h"
#include <algorithm>
#include <array>
#include <atomic>
#include <cerrno>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <fmt/format.h>
#include <iostream>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>
#include <system_error>
#include <thread>

namespace {

struct FileProblem : std::runtime_error {
  using std::runtime_error::runtime_error;
};

std::string read_file(const std::string& path) {
  return arc::read_text_file(path, arc::largest_design_file_bytes);
}

arc::Json findings_json(std::vector<arc::Finding> findings, const arc::Design& design) {
  arc::mark_dismissed(findings, design);
  arc::Json out = arc::Json::array();
  for (const arc::Finding& finding : findings) {
    arc::Json one = {{"id", finding.id},       {"severity", arc::severity_name(finding.severity)},
                     {"stage", finding.stage}, {"title", finding.title},
                     {"text", finding.text},   {"remedy", finding.remedy},
                     {"value", finding.value}, {"limit", finding.limit}};
    if (!finding.dismissed.empty()) one["dismissed"] = finding.dismissed;
    out.push_back(std::move(one));
  }
  return out;
}

arc::Json analysis_json(const arc::Design& design, const arc::Analysis& analysis) {
  arc::Json out{{"format", "high-arc-analysis"}, {"version", 1}, {"name", design.name}};
  arc::Json results = arc::Json::object();
  arc::Json bands = arc::Json::object();
  for (const arc::Figure* figure : arc::figures_at_rest(arc::kind_of(design)))
    if (const auto value = arc::figure_value(*figure, arc::at_rest(design, analysis)))
      results[std::string(figure->key)] = *value;
  for (const auto& [key, band] : analysis.band)
    if (std::isfinite(band) && results.contains(key)) bands[key] = band;
  out["results"] = results;
  out["bands"] = bands;
  out["method"] = analysis.resonator ? analysis.resonator->method : "none";
  if (!analysis.problem.empty()) out["problem"] = analysis.problem;
  std::vector<arc::Finding> findings = analysis.findings;
  if (auto examples = arc::examples_finding(design)) {
    out["examples"] = arc::counting_examples(design);
    findings.push_back(std::move(*examples));
  }
  if (auto left = arc::left_brief(design, analysis, nullptr, arc::UnitSystem::metric))
    findings.push_back(std::move(*left));
  out["findings"] = findings_json(std::move(findings), design);
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
  try {
    arc::write_text_file(path, text);
  } catch (const arc::TextFileError& error) {
    throw FileProblem("“" + path + "” " + error.what());
  }
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

// A design with the text that it was read from, so that complaints can name a line.
struct ReadDesign {
  std::string text;
  arc::Design design;
};

ReadDesign read_design_file(const std::string& path) {
  ReadDesign out{read_file(path), {}};
  out.design = arc::read_design(out.text);
  return out;
}

} // namespace

void print_analysis(const Request& request) {
  const arc::Design design = read_design_file(request.file).design;
  print(analysis_json(design, arc::analyse(design)));
}

namespace {

arc::Json both_json(const std::vector<arc::Run>& record, const arc::RunImport& read) {
  arc::Json out = arc::Json::array();
  for (const arc::RunUpdate& update : read.both) {
    const arc::Run& ours = record[update.index];
    arc::Json differences = arc::Json::array();
    for (const arc::RunDifference& d : arc::compare_runs(ours, update.run, arc::UnitSystem::metric))
      if (d.differs) differences.push_back({{"what", d.label}, {"record", d.first}, {"table", d.second}});
    out.push_back({{"id", ours.id}, {"when", ours.when}, {"differences", differences}});
  }
  return out;
}

} // namespace

void print_runs(const Request& request) {
  arc::Design design = read_design_file(request.file).design;
  if (request.import_path.empty()) {
    std::cout << arc::runs_to_csv(design.runs);
    return;
  }
  const std::string text = read_file(request.import_path);
  arc::RunImport read;
  try {
    read = arc::read_runs(text, design.runs);
  } catch (const arc::RunFileError& error) {
    throw FileProblem("“" + request.import_path + "”: " + error.what());
  }
  if (!read.both.empty() && request.take.empty()) {
    print({{"changed_on_both_sides", both_json(design.runs, read)},
           {"then", "say --take record or --take table; nothing was changed"}});
    throw NotPossible{};
  }
  std::vector<arc::Run> runs =
      arc::merged(design.runs, read, std::vector<bool>(read.both.size(), request.take == "table"));
  const std::atomic<bool> never{false};
  arc::Kept kept;
  arc::simulate_runs(runs, {never, {}, kept});
  design.runs = std::move(runs);
  std::cerr << fmt::format("{} new, {} changed, {} changed on both sides, {} as they were\n", read.added.size(),
                           read.updated.size(), read.both.size(), read.same);
  std::cout << arc::write_design(design);
}

void print_current_version(const Request& request) {
  std::cout << arc::write_design(read_design_file(request.file).design);
}

void print_new(const Request& request) {
  const auto within = [](const std::string& text, const char* field) {
    const arc::FieldSpec& spec = arc::design_field(field);
    const double value = quantity(text, spec.dimension);
    if (!(value >= spec.minimum && value <= spec.maximum)) throw FileProblem(arc::range_problem(spec, value));
    return value;
  };
  const double volts = within(request.mains.value_or("230"), "site.mains_voltage_v"),
               hertz = within(request.frequency.value_or("50"), "site.mains_frequency_hz");
  arc::Design design = arc::new_design(*arc::coil_kind(request.file), volts, hertz);
  if (!request.feed.empty()) {
    const arc::FeedArrangement& feed = arc::feed_arrangement(request.feed);
    const std::string reason =
        feed.end != arc::kind_of(design).feed_end ? "it does not feed this kind of coil" : feed.unfit_for(design);
    if (!reason.empty()) throw FileProblem(fmt::format("--feed {}: {}", request.feed, reason));
    design = arc::fed_by(std::move(design), feed);
  }
  if (request.mains) arc::take_example(design, "site.mains_voltage_v");
  if (request.frequency) arc::take_example(design, "site.mains_frequency_hz");
  std::cout << arc::write_design(design);
}

void print_figures(const Request& request) {
  print({{"format", "high-arc-figures"},
         {"version", 1},
         {"kind", request.file},
         {"figures", arc::table_json(*arc::coil_kind(request.file))}});
}

void print_power(const Request& request) {
  const arc::Design design = read_design_file(request.file).design;
  const std::atomic<bool> never{false};
  arc::PowerOptions options;
  options.advice = !request.no_trials;
  const arc::Analysis analysis = arc::analyse(design);
  const auto power = arc::analyse_power(design, analysis, options, arc::UnitSystem::metric, never);
  arc::Json out{{"format", "high-arc-power"}, {"version", 1}, {"name", design.name}};
  out["drive"] = {{"frequency_hz", power.drive.frequency_hz},
                  {"input_w", power.drive.input_w},
                  {"primary_peak_v", power.drive.primary_peak_v},
                  {"primary_peak_a", power.drive.primary_peak_a},
                  {"top_peak_v", power.drive.top_peak_v}};
  if (const arc::FeedLoads* feed = power.part ? power.part->feed() : nullptr; feed && feed->line_current_a > 0)
    out["drive"]["line_current_a"] = feed->line_current_a;
  if (power.arc && power.arc->breaks_out)
    out["drive"]["expected_arc_m"] = {power.arc->length_m.low, power.arc->length_m.high};
  if (power.arc) {
    const arc::ArcForecast& f = *power.arc;
    out["arc"] = {{"breaks_out", f.breaks_out},
                  {"length_m", {f.length_m.low, f.length_m.high}},
                  {"top_v", f.top_v},
                  {"breakout_v", f.breakout_v},
                  {"reason", f.reason}};
  }
  out.update(arc::kind_of(design).power_json({design, analysis, power}));
  std::vector<arc::Finding> findings = power.findings;
  if (auto left = arc::left_brief(design, analysis, &power, arc::UnitSystem::metric))
    findings.push_back(std::move(*left));
  out["findings"] = findings_json(std::move(findings), design);
  print(out);
}

namespace {

// What a refusal of the core speaks of, by its words, as the key of the file where it is mended.
struct Subject {
  std::string_view words, path;
};

constexpr std::array subjects{Subject{"clip", "primary.tap_turns"},
                              Subject{"dead time", "bridge.dead_time_s"},
                              Subject{"current transformer", "bridge.transformer_turns"},
                              Subject{"burst", "interrupter.on_time_s"},
                              Subject{"of the interrupter", "interrupter"},
                              Subject{"limits leave nothing", "interrupter.largest_duty"},
                              Subject{"plate coil", "primary"},
                              Subject{"coupling", "primary"},
                              Subject{"primary", "primary"},
                              Subject{"transistor", "exciter"},
                              Subject{"oscillator", "tube"},
                              Subject{"tube", "tube"},
                              Subject{"feed", "feed"},
                              Subject{"supply", "feed"},
                              Subject{"transformer", "feed"},
                              Subject{"topload", "topload"},
                              Subject{"resonator", "secondary"},
                              Subject{"winding", "secondary"},
                              Subject{"secondary", "secondary"},
                              Subject{"tank", "tank"},
                              Subject{"shot", "tank"},
                              Subject{"conductor", "primary"},
                              Subject{"circuit", "tank"}};

// Words with the key's path and line in front.
std::string at(const ReadDesign& read, const std::string& path, const std::string& words) {
  return arc::with_place(path, arc::json_line_of(read.text, path), words);
}

// A message of the core with the key's path and line in front, where it has none yet.
std::string placed(const ReadDesign& read, const std::string& message) {
  const auto with = [&](const std::string& path, const std::string& words) { return at(read, path, words); };
  if (unsigned block = 0; std::sscanf(message.c_str(), "block %u", &block) == 1 && block > 0)
    return with(fmt::format("feed[{}]", block - 1), message);
  if (message.starts_with("feed: ")) {
    const std::string rest = message.substr(6);
    return rest.starts_with("block ") ? placed(read, rest) : with("feed", rest);
  }
  const std::size_t colon = message.find(": ");
  const std::string start = message.substr(0, colon);
  for (const arc::FieldSpec& field : arc::design_fields())
    if (start == field.key) {
      if (arc::json_line_of(read.text, start) > 0) return with(start, message.substr(colon + 2));
      const std::string group = start.substr(0, start.find('.'));
      return arc::json_line_of(read.text, group) > 0 ? with(group, message) : with("kind", message);
    }
  if (message.find(" (line ") != std::string::npos) return message;
  for (const Subject& subject : subjects)
    if (message.find(subject.words) != std::string::npos) {
      std::string path(subject.path);
      if (arc::json_line_of(read.text, path) == 0) path = path.substr(0, path.find('.'));
      if (arc::json_line_of(read.text, path) == 0) path = "kind"; // what is missing stands nowhere
      return with(path, message);
    }
  return with("kind", message); // of this kind of coil
}

// Does with a design what may refuse it.
template <typename Work>
auto refusing(const ReadDesign& read, Work work) {
  try {
    return work();
  } catch (const std::invalid_argument& refusal) {
    throw FileProblem(placed(read, refusal.what()));
  }
}

// What only needs computing within its ranges is not run outside of them.
void refuse_out_of_range(const ReadDesign& read) {
  const auto wrong = arc::numbers_out_of_range(read.design);
  if (wrong.empty()) return;
  const std::string& path = wrong.front().path;
  throw FileProblem(at(read, path, wrong.front().text(arc::UnitSystem::metric).substr(path.size() + 2)));
}

} // namespace

void print_interrupter(const Request& request) {
  const ReadDesign read = read_design_file(request.file);
  refuse_out_of_range(read);
  const arc::Design& design = read.design;
  const arc::CoilKind& kind = arc::kind_of(design);
  if (!kind.interrupter) throw FileProblem(at(read, "kind", fmt::format("a {} coil has no interrupter", kind.key)));
  const double seconds = quantity(request.duration, arc::Dimension::time);
  if (!(seconds > 0 && seconds <= 100)) throw FileProblem("“" + request.duration + "”: above 0 s, up to 100 s");
  const arc::Json out = refusing(read, [&] { return kind.interrupter(design, seconds); });
  if (!request.csv_path.empty()) {
    std::string text = "start_s,end_s\r\n";
    for (const arc::Json& pulse : out.at("pulses"))
      text += fmt::format("{},{}\r\n", pulse.at("start_s").get<double>(), pulse.at("end_s").get<double>());
    write_text(request.csv_path, text);
  }
  print(out);
}

void print_banks(const Request& request) {
  arc::BankWish wish = request.wish;
  wish.capacitance_f = quantity(request.capacitance, arc::Dimension::capacitance);
  wish.voltage_v = quantity(request.voltage, arc::Dimension::voltage);
  wish.order = request.order;
  print(banks_json(arc::read_shelf(read_file(request.file)), wish, request.tolerance));
}

namespace {

std::atomic<bool> interrupted{false};

// What `work` gives, which Ctrl+C ends early: then nothing is answered.
template <typename Work>
auto interruptible(const Work& work) {
  std::signal(SIGINT, [](int) { interrupted = true; });
  auto out = work();
  std::signal(SIGINT, SIG_DFL);
  if (interrupted) throw Cancelled{};
  return out;
}

// "garage spark gap, Longest arc" as a file name: letters, digits and hyphens.
std::string file_name_of(const std::string& name) {
  std::string out;
  for (const char c : name) {
    const bool plain = (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9');
    const bool capital = c >= 'A' && c <= 'Z';
    if (plain || capital)
      out += static_cast<char>(capital ? c - 'A' + 'a' : c);
    else if (!out.empty() && out.back() != '-')
      out += '-';
  }
  while (!out.empty() && out.back() == '-') out.pop_back();
  return out.empty() ? "proposal" : out;
}

// "height_m: the nearest has 0.47, 0.48 lets one through".
std::string refusal_text(const arc::Proposals& found) {
  std::string out = "nothing keeps the brief";
  for (const arc::BriefRefusal& r : found.refused) {
    out += "; " + r.limit;
    if (r.nearest) out += fmt::format(": the nearest comes to {:.4g}", *r.nearest);
    if (r.relax_to) out += fmt::format("{} {:.4g} lets one through", r.nearest ? "," : ":", *r.relax_to);
  }
  return out;
}

} // namespace

void print_solved(const Request& request) {
  const arc::Design design = read_design_file(request.file).design;
  const std::size_t equals = request.make.find('=');
  if (equals == std::string::npos) throw FileProblem("--make takes a figure and its value: best_mode_1_hz=200k");
  const std::string result = request.make.substr(0, equals);
  const double wanted = quantity(request.make.substr(equals + 1), arc::dimension_of_figure(design, result));
  const arc::Solved found =
      interruptible([&] { return arc::solve(design, result, wanted, request.by, interrupted); });
  arc::Json out{{"field", found.field}, {"value", found.value}, {"reached", found.reached},
                {"low", found.low},     {"high", found.high},   {"also", arc::Json::array()}};
  for (const arc::AlsoChanged& also : found.also)
    out["also"].push_back({{"key", also.key}, {"before", also.before}, {"after", also.after}});
  print(out);
  if (!found.possible) {
    std::cerr << fmt::format("{}: {} = {:.6g} is out of reach by {}: from {:.6g} to {:.6g}, nearest at {:.6g}\n",
                             request.file, result, wanted, found.field, found.low, found.high, found.value);
    throw NotPossible{};
  }
  if (!request.write_path.empty()) write_text(request.write_path, arc::write_design(found.design));
}

void print_curves(const Request& request) {
  const arc::Design design = read_design_file(request.file).design;
  const arc::NumberPlace place = arc::number_at(design, request.by);
  arc::SweptRange range = arc::usual_range(place);
  if (!request.from.empty()) range.low = quantity(request.from, place.dimension);
  if (!request.to.empty()) range.high = quantity(request.to, place.dimension);
  const arc::Curves found = interruptible(
      [&] { return arc::curves(design, place.path, range.low, range.high, request.count, interrupted); });
  std::cout << arc::curves_csv(found);
}

void print_proposals(const Request& request) {
  arc::Brief brief = arc::read_brief(read_file(request.file));
  if (!request.shelf_path.empty()) brief.shelf = arc::read_shelf(read_file(request.shelf_path));
  const auto begun = std::chrono::steady_clock::now();
  const arc::Proposals found = interruptible([&] { return arc::propose(brief, request.propose, interrupted); });
  const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
  if (!request.folder.empty()) {
    std::error_code problem;
    std::filesystem::create_directories(request.folder, problem);
    if (problem) throw FileProblem("“" + request.folder + "” cannot be made: " + problem.message());
    for (std::size_t i = 0; i < found.proposals.size(); ++i)
      write_text(fmt::format("{}/{}-{}.json", request.folder, i + 1, file_name_of(found.proposals[i].name)),
                 arc::write_design(found.proposals[i].design));
  }
  print(arc::proposals_json(found, request.propose, seconds));
  if (!found.few.empty()) std::cerr << request.file << ": " << found.few << '\n';
  if (!found.proposals.empty()) return;
  std::cerr << request.file << ": " << refusal_text(found) << '\n';
  throw NotPossible{};
}

namespace {

arc::SimulationValues values_for(const arc::SimulationMode& mode, const Request& request) {
  arc::SimulationValues out;
  for (const arc::SimulationOption& option : mode.options) {
    const auto typed = request.options.find(std::string(option.flag));
    if (typed == request.options.end()) {
      if (option.standard) out.emplace(option.flag, *option.standard);
      continue;
    }
    const double value = option.is_switch ? 1 : quantity(typed->second, option.dimension);
    if (!option.is_switch && !(value >= option.minimum && value <= option.maximum))
      throw FileProblem(
          fmt::format("{}: from {} to {}, not {}", option.flag, option.minimum, option.maximum, value));
    out.emplace(option.flag, value);
  }
  return out;
}

const arc::SimulationMode& mode_for(const ReadDesign& read, const Request& request) {
  const arc::Design& design = read.design;
  const auto& modes = arc::kind_of(design).modes;
  const std::string known = arc::listed(modes, &arc::SimulationMode::flag, " or ");
  if (request.ways.empty()) throw FileProblem("say what to simulate: " + known);
  const std::string& asked = *request.ways.begin();
  const auto mode = std::ranges::find(modes, asked, &arc::SimulationMode::flag);
  if (mode == modes.end())
    throw FileProblem(
        at(read, "kind", fmt::format("this coil is “{}”, which has no {}; it has {}", design.kind, asked, known)));
  return *mode;
}

} // namespace

void simulate(const Request& request) {
  const ReadDesign read = read_design_file(request.file);
  refuse_out_of_range(read);
  const arc::SimulationMode& mode = mode_for(read, request);
  const arc::SimulationValues values = values_for(mode, request);
  refusing(read, [&] {
    const arc::Simulated done = mode.run(read.design, values);
    if (request.deck)
      std::cout << done.deck();
    else
      print(done.results());
    if (!request.csv_path.empty()) write_text(request.csv_path, done.csv());
  });
}

void print_steps(const Request& request) {
  const arc::Design design = read_design_file(request.file).design;
  const arc::Analysis analysis = arc::analyse(design);
  const std::atomic<bool> never{false};
  arc::PowerOptions options;
  options.advice = false;
  const auto power = arc::analyse_power(design, analysis, options, arc::UnitSystem::metric, never);
  arc::Json before = arc::Json::array(), stores = arc::Json::array();
  for (const arc::CheckItem& item : arc::checks_before_power(design, analysis, &power, arc::UnitSystem::metric))
    before.push_back({{"key", item.key}, {"text", item.text}});
  const auto charged = arc::stores_of(design, analysis, &power);
  for (const arc::Store& s : charged) {
    stores.push_back(
        {{"title", s.title}, {"capacitance_f", s.farad}, {"voltage_v", s.volts}, {"energy_j", s.joule()}});
    if (std::isfinite(s.bleed_ohm)) {
      stores.back()["bleeder_ohm"] = s.bleed_ohm;
      stores.back()["bleed_time_s"] = s.bleeds_s();
    }
  }
  const arc::Distances away = arc::distances_of(design, analysis, &power);
  arc::Json out{{"format", "high-arc-steps"},
                {"version", 1},
                {"name", design.name},
                {"before", before},
                {"after", arc::steps_after_power(design, analysis, &power, arc::UnitSystem::metric)},
                {"stores", stores},
                {"people_m", away.people_m},
                {"strike_m", away.strike_m}};
  if (const auto wait = arc::discharge_wait_s(charged)) out["wait_s"] = *wait;
  print(out);
}
