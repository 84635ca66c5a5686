// high-arc-calc: the core from the command line, for scripts. Results as JSON on standard output; a file that
// cannot be used ends with exit code 2 and one message on standard error.
#include "circuit/feed_loads.h"
#include "coil/design_file.h"
#include "coil/figures.h"
#include "coil/kind.h"
#include "coil/power.h"
#include "coil/readings.h"
#include "coil/start.h"
#include "coil/stores.h"
#include "coil/validity.h"
#include "model/fields.h"
#include "quantity/json_text.h"
#include "quantity/listed.h"
#include "quantity/text_file.h"
#include "workshop/bank_search.h"
#include "workshop/checklist.h"
#include "workshop/run_table.h"
#include "workshop/runs.h"
#include "workshop/shelf.h"

#include <CLI/CLI.hpp>
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

// Read, but nothing can be done; the answer on standard output says why. Exit code 3.
struct NotPossible {};

std::string read_file(const std::string& path) {
  return arc::read_text_file(path, arc::largest_design_file_bytes);
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

// Says on standard error, every few seconds, that work goes on and how it is ended: some designs take half a
// minute.
class Patience {
 public:
  explicit Patience(std::string what) : what_(std::move(what)) {
    try {
      thread_ = std::thread([this] { wait(); });
    } catch (const std::system_error&) { // the work goes on in silence
    }
  }
  ~Patience() {
    if (!thread_.joinable()) return;
    {
      const std::lock_guard lock(mutex_);
      done_ = true;
    }
    changed_.notify_all();
    thread_.join();
  }
  Patience(const Patience&) = delete;
  Patience& operator=(const Patience&) = delete;

 private:
  void wait() {
    std::unique_lock lock(mutex_);
    for (int seconds = 5; !changed_.wait_for(lock, std::chrono::seconds(5), [this] { return done_; }); seconds += 5)
      std::cerr << fmt::format("{}: still computing after {} s; Ctrl+C ends it\n", what_, seconds) << std::flush;
  }

  std::string what_;
  std::mutex mutex_;
  std::condition_variable changed_;
  bool done_ = false;
  std::thread thread_;
};

// What the command line said.
struct Request {
  std::string file;
  bool no_trials = false;
  std::string capacitance, voltage, order;
  arc::BankWish wish;
  double tolerance = 0;                       // of parts that state none
  std::set<std::string> ways;                 // flags of the kinds' ways to simulate
  std::map<std::string, std::string> options; // theirs, as typed; a switch that is set holds something
  std::string csv_path;
  std::string import_path, take;  // a table of runs; whose word counts where a run changed on both sides
  std::string duration = "100ms"; // of pulses to print
  bool deck = false;              // print the circuit, not the results
  std::string mains = "230", frequency = "50", feed; // of a new design; the feed by its key
};

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

void print_analysis(const Request& request) {
  const arc::Design design = read_design_file(request.file).design;
  print(analysis_json(design, arc::analyse(design)));
}

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
  design.runs = arc::merged(design.runs, read, std::vector<bool>(read.both.size(), request.take == "table"));
  const std::atomic<bool> never{false};
  arc::Kept kept;
  for (arc::Run& run : design.runs)
    if (arc::lacks_simulation(run)) run.conditions.merge(arc::simulate_run(run, {never, {}, kept}));
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
  const double volts = within(request.mains, "site.mains_voltage_v"),
               hertz = within(request.frequency, "site.mains_frequency_hz");
  arc::Design design = arc::new_design(*arc::coil_kind(request.file), volts, hertz);
  if (!request.feed.empty()) {
    const arc::FeedArrangement& feed = arc::feed_arrangement(request.feed);
    const std::string reason =
        feed.end != arc::kind_of(design).feed_end ? "it does not feed this kind of coil" : feed.unfit_for(design);
    if (!reason.empty()) throw FileProblem(fmt::format("--feed {}: {}", request.feed, reason));
    design = arc::fed_by(std::move(design), feed);
  }
  std::cout << arc::write_design(design);
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
  out["findings"] = findings_json(power.findings);
  print(out);
}

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

void add_file(CLI::App& to, Request& request) {
  to.add_option("FILE", request.file, "design file (JSON)")->required();
}

void add_runs_options(CLI::App& to, Request& request) {
  add_file(to, request);
  CLI::Option* table = to.add_option("--import", request.import_path,
                                     "a table of runs (CSV): prints the design with what changed in it");
  to.add_option("--take", request.take, "whose word counts for runs that changed on both sides")
      ->needs(table)
      ->check(CLI::IsMember(std::vector<std::string>{"record", "table"}));
}

void add_power_options(CLI::App& to, Request& request) {
  add_file(to, request);
  to.add_flag("--no-trials", request.no_trials, "leave out quench cases, bands and single changes: faster");
}

void add_interrupter_options(CLI::App& to, Request& request) {
  add_file(to, request);
  to.add_option("--duration", request.duration, "how long a stretch of pulses to print, e.g. 200ms")
      ->capture_default_str();
  to.add_option("--csv", request.csv_path, "write the pulses to this file too");
}

void add_new_options(CLI::App& to, Request& request) {
  std::vector<std::string> kinds, feeds;
  for (const arc::CoilKind* kind : arc::coil_kinds()) kinds.emplace_back(kind->key);
  for (const arc::FeedArrangement& feed : arc::feed_arrangements()) feeds.emplace_back(feed.key);
  to.add_option("kind", request.file, "of coil")->required()->check(CLI::IsMember(kinds));
  to.add_option("--mains", request.mains, "volts of the mains")->capture_default_str();
  to.add_option("--frequency", request.frequency, "of the mains")->capture_default_str();
  to.add_option("--feed", request.feed, "another usual feed than the first")->check(CLI::IsMember(feeds));
}

void add_bank_options(CLI::App& to, Request& request) {
  arc::BankWish& wish = request.wish;
  wish.margin = 1; // the wanted voltage is what the bank must be good for, unless a margin is stated
  request.order = wish.order;
  std::vector<std::string> orders;
  for (const arc::BankOrder& o : arc::bank_orders()) orders.emplace_back(o.key);
  to.add_option("--shelf", request.file, "shelf file (JSON)")->required();
  to.add_option("--capacitance", request.capacitance, "wanted, e.g. 12n")->required();
  to.add_option("--voltage", request.voltage, "peak across the bank, e.g. 30k")->required();
  to.add_option("--limit", wish.limit, "most proposals, 1 to 1000")
      ->check(CLI::Range(1, 1000))
      ->capture_default_str();
  to.add_option("--margin", wish.margin, "largest share of a unit's rating, 0 to 1; 0.8 is usual")
      ->capture_default_str();
  to.add_option("--tolerance", request.tolerance, "of parts that state none, 0 to 0.9: uneven sharing in series")
      ->check(CLI::Range(0.0, 0.9))
      ->capture_default_str();
  to.add_option("--order", request.order, "what the best is judged by")
      ->check(CLI::IsMember(orders))
      ->capture_default_str();
  to.add_option("--within", wish.largest_miss, "largest miss of the capacitance, relative")
      ->check(CLI::Range(0.0, 0.9))
      ->capture_default_str();
}

// The ways to simulate of all kinds, and what they take; a flag that two kinds share is offered once.
void add_simulation_options(CLI::App& to, Request& request) {
  add_file(to, request);
  std::set<std::string_view> known;
  std::vector<CLI::Option*> ways;
  for (const arc::CoilKind* kind : arc::coil_kinds())
    for (const arc::SimulationMode& mode : kind->modes) {
      if (known.insert(mode.flag).second) {
        const std::string flag(mode.flag);
        ways.push_back(to.add_flag_callback(
            flag, [&request, flag] { request.ways.insert(flag); }, fmt::format("{} ({})", mode.text, kind->key)));
      }
      for (const arc::SimulationOption& option : mode.options) {
        if (!known.insert(option.flag).second) continue;
        const std::string flag(option.flag), text(option.text);
        if (option.is_switch)
          to.add_flag_callback(
              flag, [&request, flag] { request.options[flag] = "1"; }, text);
        else
          to.add_option_function<std::string>(
              flag, [&request, flag](const std::string& typed) { request.options[flag] = typed; },
              option.standard ? fmt::format("{} [{}]", text, *option.standard) : text);
      }
    }
  for (CLI::Option* one : ways)
    for (CLI::Option* other : ways)
      if (one != other) one->excludes(other);
}

void add_simulate_options(CLI::App& to, Request& request) {
  add_simulation_options(to, request);
  to.add_option("--csv", request.csv_path, "write the waveforms to this file");
}

void add_netlist_options(CLI::App& to, Request& request) {
  request.deck = true;
  add_simulation_options(to, request);
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

struct Command {
  const char* name;
  const char* help; // with an example that a test runs
  void (*add_options)(CLI::App&, Request&);
  void (*run)(const Request&);
};

constexpr std::array<Command, 10> commands{
    {{"analyse",
      "Print all results, bands and findings of a design as JSON.\n"
      "example: high-arc-calc analyse examples/quiet-lantern.json",
      add_file, print_analysis},
     {"runs",
      "Print the logged runs of a design as CSV in SI units, or take such a table in.\n"
      "example: high-arc-calc runs examples/quiet-lantern.json > runs.csv",
      add_runs_options, print_runs},
     {"check",
      "Read a design and print it in the current file version.\n"
      "example: high-arc-calc check examples/quiet-lantern.json",
      add_file, print_current_version},
     {"new",
      "Print a new design of a kind, its feed sized for the mains.\n"
      "example: high-arc-calc new spark-gap --mains 120 --frequency 60",
      add_new_options, print_new},
     {"power",
      "Simulate the whole power path and judge every part: units, quench, changes, findings.\n"
      "example: high-arc-calc power examples/quiet-lantern.json",
      add_power_options, print_power},
     {"steps",
      "Print what to check before power, what is still charged after it and how it is emptied, and how far to "
      "stay.\n"
      "example: high-arc-calc steps examples/quiet-lantern.json",
      add_file, print_steps},
     {"bank",
      "Find banks of shelf capacitors, best first, as JSON.\n"
      "example: high-arc-calc bank --shelf examples/shelf.json --capacitance 12n --voltage 30k --limit 10",
      add_bank_options, print_banks},
     {"interrupter",
      "Print the pulses of an interrupted coil, the limits they hit, averages, and timer parts that make them.\n"
      "example: high-arc-calc interrupter examples/copper-heron.json --duration 60ms",
      add_interrupter_options, print_interrupter},
     {"simulate",
      "Simulate what drives the coil, in one of the ways of its kind; results as JSON.\n"
      "example: high-arc-calc simulate examples/quiet-lantern.json --shot --tank-voltage 10k --ideal\n"
      "example: high-arc-calc simulate examples/quiet-lantern.json --charging --cycles 10\n"
      "example: high-arc-calc simulate examples/paper-moth.json --oscillation\n"
      "example: high-arc-calc simulate examples/copper-heron.json --burst",
      add_simulate_options, simulate},
     {"netlist",
      "Print the simulated circuit as a SPICE deck that measures the same names.\n"
      "example: high-arc-calc netlist examples/quiet-lantern.json --shot > shot.cir",
      add_netlist_options, simulate}}};

} // namespace

int main(int argc, char** argv) {
  std::signal(SIGXFSZ, SIG_IGN); // a limit on the size of files is an error to be said, like a full disk
  CLI::App app{
      "Computes Tesla coil designs from files. Exit code 0: done; 2: the file cannot be used (the reason is on "
      "standard error); other codes: wrong command line."};
  app.set_version_flag("--version", "high-arc-calc " HIGH_ARC_VERSION);
  app.require_subcommand(1);
  std::array<Request, commands.size()> requests;
  std::array<CLI::App*, commands.size()> made{};
  for (std::size_t i = 0; i < commands.size(); ++i) {
    made[i] = app.add_subcommand(commands[i].name, commands[i].help);
    commands[i].add_options(*made[i], requests[i]);
  }
  CLI11_PARSE(app, argc, argv);
  for (std::size_t i = 0; i < commands.size(); ++i) {
    if (!*made[i]) continue;
    try {
      const Patience patience(requests[i].file + ", " + commands[i].name);
      commands[i].run(requests[i]);
    } catch (const NotPossible&) {
      std::cout.flush();
      return 3;
    } catch (const std::exception& error) {
      std::cerr << requests[i].file << ": " << error.what() << '\n';
      return 2;
    }
  }
  if (std::cout.flush()) return 0;
  std::cerr << "the results cannot be written: " << std::strerror(errno) << '\n';
  return 1;
}
