// What a kind of coil is: one row of data and functions. Everything that asks "which kind is it?" asks this row; to
// add a kind, write its row in the folder of its craft and name it in crafts/list.cpp (docs/architecture.md). What
// a row's functions take and give is declared where it is made, above: simulation/, workshop/.
#pragma once

#include "circuit/feed.h"
#include "craft/finding.h"
#include "craft/variation.h"
#include "model/fields.h"
#include "quantity/json_text.h"

#include <algorithm>
#include <array>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

class TappedPrimary;
struct Analysis;
struct CheckItem;
struct FaultSymptom;
struct Figure;
struct MeasurementKind;
struct KindPart;
struct PowerAnalysis;
struct PowerView;
struct RunField;
struct Store;
struct ToleranceInput;

/// A number or switch that a simulation takes from the command line: "--quench 2".
struct SimulationOption {
  std::string_view flag;
  std::string_view text; // one line of help
  bool is_switch = false;
  Dimension dimension = Dimension::number;
  double minimum = -1e30, maximum = 1e30;
  std::optional<double> standard = {}; // where it is not given; empty: the simulation's own
};
/// Values by flag; a switch that is set is 1. What was not given and has no standard is not there.
using SimulationValues = std::map<std::string, double, std::less<>>;

struct Simulated {
  std::function<Json()> results;     // what is printed
  std::function<std::string()> deck; // for the SPICE program; may throw std::invalid_argument
  std::function<std::string()> csv;  // waveforms
};

/// One way to simulate the kind from the command line: "--shot".
struct SimulationMode {
  std::string_view flag;
  std::string_view text; // one line of help
  std::span<const SimulationOption> options;
  Simulated (*run)(const Design&, const SimulationValues&);
};

/// A column of the record of runs.
struct RunColumn {
  std::string_view key;  // of run_fields()
  std::string_view head; // short
};

/// Where the numbers of a group of the file are entered, for findings on them.
struct GroupPlace {
  std::string_view group;
  std::string_view stage; // rail key
};

/// A place in the strip over every stage: figures of the kind's table, "group.key" (or "key" where it has no group)
/// with blanks between. They are shown together; behind a "|" stand those that are shown where the first has no
/// value.
struct StripRow {
  std::string_view title; // what it says, in short
  std::string_view figures;
  std::string_view otherwise = {}; // where none of them has a value
};

struct CoilKind {
  std::string_view key = {};     // as written in files
  std::string_view title = {};   // as shown
  std::string_view purpose = {}; // one line: what it is for
  std::string_view needs = {};   // one line: what it takes
  double coupling_low = 0;       // usual coupling coefficient band (common practice, no source)
  double coupling_high = 1;
  bool tank = false;                                  // a tank capacitor makes a resonant circuit of the primary
  std::string_view tank_end = {};                     // where its far end goes: "to the gap, %1 when it fires"
  std::span<const std::string_view> tank_fields = {}; // keys of two numbers: its volts, and how often it is charged
  std::string_view after_run = "STILL CHARGED";       // the banner's words until the steps after a run are done
  FeedEnd feed_end = FeedEnd::none;                   // what its path from the wall ends in
  bool topload_usual = true;                          // one without is worth a word
  bool close_wound = true;                            // gaps between turns are worth a word
  bool clip = false;                                  // part of the primary is used, up to a clip
  bool series_tank = false;                           // the tank rings in series with the primary and its switches
  bool flame_at_tip = false;                     // the coil's own end burns: no arcs that reach out, no topload
  std::span<const std::string_view> groups = {}; // of the file that count for this kind and must be given
  std::span<const SimulationMode> modes = {};
  std::span<const RunColumn> run_columns = {}; // what the table of runs shows, all five
  std::string_view achieved = {};              // of run_fields(): what a run is judged by
  /// Arc, power, rate or duty, the craft's own headline: the strip over every stage (simulation/strip.h), which
  /// ends with the weakest part and the open findings of every kind.
  std::array<StripRow, 4> strip = {};
  /// The kind's own figures of the coil at rest; winding, resonator and primary are there. The primary's sums are
  /// null where it is not given.
  void (*analyse)(const Design&, const TappedPrimary*, Analysis&) = nullptr;
  std::span<const struct Figure> (*figures)() = nullptr; // what its simulation says, simulation/figures.h
  Json (*power_json)(const PowerView&) = nullptr;        // its part of a simulation, for scripts
  /// Its own rules on the coil at rest, beside those of every winding and primary.
  std::span<const FindingRule> (*rules)() = nullptr;
  /// An empty part for its simulation of the power path or oscillation, simulation/power.h.
  std::shared_ptr<KindPart> (*part)() = nullptr;
  /// Both with the power path of this design, or null while it is not there.
  std::vector<CheckItem> (*checks_before_power)(const Design&, const Analysis&, const PowerAnalysis*,
                                                UnitSystem) = nullptr;
  std::vector<std::string> (*steps_after_power)(const Design&, const Analysis&, const PowerAnalysis*,
                                                UnitSystem) = nullptr;
  std::span<const FaultSymptom> (*symptoms)() = nullptr; // of the first-fault walk
  /// The bursts of an interrupted kind over some seconds, its limits, averages and timers, for scripts; null where
  /// the kind is not interrupted. Throws std::invalid_argument when nothing is left of a burst.
  Json (*interrupter)(const Design&, double seconds) = nullptr;
  double least_people_m = 0.5;      // that people keep away whatever the arcs (common practice, no source)
  double arc_of_winding = 0;        // arcs that such coils are built for, of the winding's length (common practice)
  std::string_view start = {};      // a new design of it, as a file
  std::string_view first_feed = {}; // the arrangement that a new design begins with; empty where it has none
  /// What goes with the design's feed in its own groups, once an arrangement has been put; null: nothing.
  void (*suit_feed)(Design&) = nullptr;
  /// Sets the numbers of its own groups in a design that is being proposed; false where the parts do not make one.
  bool (*vary)(Design&, CraftGenes, const VaryParts&) = nullptr;
  /// Capacitors of its own that stay charged; null where it has none.
  void (*stores)(const Design&, const Analysis&, const PowerAnalysis*, std::vector<Store>&) = nullptr;

  // What it adds to the tables that all kinds share; kinds of one craft add the same. Null: nothing.
  std::span<const FieldSpec> (*fields)() = nullptr;             // numbers of its own groups
  std::span<const ChoiceSpec> (*choices)() = nullptr;           // members with named values
  std::span<const ToleranceInput> (*tolerances)() = nullptr;    // inputs that move results by their doubt
  std::span<const MeasurementKind> (*measurements)() = nullptr; // what an instrument reads of it alone
  std::span<const RunField> (*run_fields)() = nullptr;          // numbers of a logged run
  std::span<const GroupPlace> places = {};                      // of its groups
  std::string_view demo = {};                                   // a whole coil of it in examples/
};

/// All of them; the first is what a new design is.
std::span<const CoilKind* const> coil_kinds();

/// One table of all kinds: the shared rows, then what each craft adds, once.
template <typename Row>
std::vector<Row> with_rows_of_kinds(std::span<const Row> shared, std::span<const Row> (*CoilKind::*added)()) {
  std::vector<Row> out(shared.begin(), shared.end());
  std::vector<const Row*> taken;
  for (const CoilKind* kind : coil_kinds()) {
    const std::span<const Row> rows = kind->*added ? (kind->*added)() : std::span<const Row>{};
    if (rows.empty() || std::ranges::count(taken, rows.data()) > 0) continue;
    taken.push_back(rows.data());
    out.insert(out.end(), rows.begin(), rows.end());
  }
  return out;
}

/// nullptr when the kind is not known to this version.
const CoilKind* coil_kind(std::string_view key);
/// The row of a design's kind; a design never holds one that is not known.
const CoilKind& kind_of(const Design& design);

} // namespace arc
