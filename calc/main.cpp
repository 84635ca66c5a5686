// high-arc-calc: the core from the command line, for scripts. Results as JSON on standard output; a file that
// cannot be used ends with exit code 2 and one message on standard error.
#include "analysis/analyse.h"
#include "analysis/findings.h"
#include "answers.h"
#include "circuit/feed_loads.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "file/design_file.h"
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
#include "workshop/start.h"
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

void add_kind(CLI::App& to, Request& request) {
  std::vector<std::string> kinds;
  for (const arc::CoilKind* kind : arc::coil_kinds()) kinds.emplace_back(kind->key);
  to.add_option("kind", request.file, "of coil")->required()->check(CLI::IsMember(kinds));
}

void add_new_options(CLI::App& to, Request& request) {
  add_kind(to, request);
  std::vector<std::string> feeds;
  for (const arc::FeedArrangement& feed : arc::feed_arrangements()) feeds.emplace_back(feed.key);
  to.add_option("--mains", request.mains, "volts of the mains [230]");
  to.add_option("--frequency", request.frequency, "of the mains [50]");
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

void add_propose_options(CLI::App& to, Request& request) {
  to.add_option("BRIEF", request.file, "brief (JSON)")->required();
  to.add_option("--shelf", request.shelf_path, "shelf file (JSON) in place of the brief's own");
  to.add_option("--seed", request.propose.seed, "of the search; the same gives the same")->capture_default_str();
  to.add_option("--count", request.propose.count, "most proposals")->check(CLI::Range(1, 6))->capture_default_str();
  to.add_option("--effort", request.propose.effort, "share of the usual search, 0.05 to 20")
      ->check(CLI::Range(0.05, 20.0))
      ->capture_default_str();
  to.add_option("--folder", request.folder, "write each proposed design into this folder");
}

void add_solve_options(CLI::App& to, Request& request) {
  add_file(to, request);
  to.add_option("--make", request.make, "a figure (see the command figures) and its value: best_mode_1_hz=200k")
      ->required();
  to.add_option("--by", request.by, "the number that does it: secondary.turns, feed.2.output_v")->required();
  to.add_option("--write", request.write_path, "write the design with that number here");
}

void add_curves_options(CLI::App& to, Request& request) {
  add_file(to, request);
  to.add_option("--over", request.by, "the number that is swept: topload.0.outer_diameter_m")->required();
  to.add_option("--from", request.from, "where it begins, with a unit or in SI; half of what it is if left out");
  to.add_option("--to", request.to, "where it ends; twice what it is if left out");
  to.add_option("--count", request.count, "places")
      ->check(CLI::Range(2, arc::most_curve_points))
      ->capture_default_str();
}

struct Command {
  const char* name;
  const char* help; // with an example that a test runs
  void (*add_options)(CLI::App&, Request&);
  void (*run)(const Request&);
};

constexpr std::array<Command, 14> commands{
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
     {"figures",
      "Print what the results of a kind of coil are called: key, title, unit, formula, what is taken for granted.\n"
      "example: high-arc-calc figures tube",
      add_kind, print_figures},
     {"steps",
      "Print what to check before power, what is still charged after it and how it is emptied, and how far to "
      "stay.\n"
      "example: high-arc-calc steps examples/quiet-lantern.json",
      add_file, print_steps},
     {"bank",
      "Find banks of shelf capacitors, best first, as JSON.\n"
      "example: high-arc-calc bank --shelf examples/shelf.json --capacitance 12n --voltage 30k --limit 10",
      add_bank_options, print_banks},
     {"propose",
      "Propose whole designs from a brief: what is wanted, the limits and the parts on the shelf.\n"
      "example: high-arc-calc propose examples/brief.json --seed 1 --effort 0.25",
      add_propose_options, print_proposals},
     {"solve",
      "Find the number that gives a figure a value: the coil's resonance by the topload, the coupling by the "
      "height.\n"
      "example: high-arc-calc solve examples/quiet-lantern.json --make mode_1_hz=220k --by "
      "topload.0.outer_diameter_m",
      add_solve_options, print_solved},
     {"curves",
      "Sweep one number and print what becomes of arc, power, line current and the weakest part, as CSV in SI "
      "units.\n"
      "example: high-arc-calc curves examples/quiet-lantern.json --over gap.break_rate_hz --from 100 --to 300 "
      "--count 3",
      add_curves_options, print_curves},
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
      "standard error); 3: nothing possible, the answer says why; 4: ended before it was done; other codes: wrong "
      "command line."};
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
    } catch (const Cancelled&) {
      std::cerr << requests[i].file << ": ended before it was done\n";
      return 4;
    } catch (const std::exception& error) {
      std::cerr << requests[i].file << ": " << error.what() << '\n';
      return 2;
    }
  }
  if (std::cout.flush()) return 0;
  std::cerr << "the results cannot be written: " << std::strerror(errno) << '\n';
  return 1;
}
