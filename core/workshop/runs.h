// Logged runs: which numbers a run records, copying them from the design when it is fired, what was simulated at
// its variac setting, and comparing two of them. As a table of a spreadsheet: workshop/run_table.h.
#pragma once

#include "coil/analysis.h"
#include "quantity/quantity.h"
#include "simulation/power.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct RunField {
  std::string_view key; // CSV column and file key
  std::string_view label;
  Dimension dimension;
  double minimum; // plausible range of what is typed, SI
  double maximum;
  /// Conditions are taken from the design: by the key of one of its numbers or figures at rest, or by a function;
  /// or from what was simulated of it. None for observations, which are typed.
  std::string_view of = {};
  std::string_view group = {}; // of the file that a kind must have for the field to mean something; "feed": a path
                               // from the wall
  std::optional<double> (*from_design)(const Design&, const Analysis&) = nullptr;
  std::optional<double> (*from_power)(const PowerAnalysis&) = nullptr;
  std::optional<double> (*usual)(const Design&) = nullptr; // of an observation that nobody typed
};

/// Conditions first, then observations. To record another number, add one row: in runs.cpp where every coil has it,
/// in the folder of its craft otherwise.
std::span<const RunField> run_fields();
/// nullptr when no run has it.
const RunField* find_run_field(std::string_view key);
/// Whether the design or its simulation gives it, instead of the builder.
bool is_condition(const RunField& field);
/// Whether runs of this kind of coil have the field.
bool belongs_to(const RunField& field, const struct CoilKind& kind);

/// Twelve random hexadecimal digits, the first a letter so that no spreadsheet takes it for a number.
std::string new_run_id();

/// A new run with the design's conditions at this moment; `when` is local time, ISO 8601. `power`, when it is
/// there: the simulation of this very design.
Run begin_run(const Design& design, const Analysis& analysis, const PowerAnalysis* power, std::string when);

/// Makes a run whole that is about to be kept: what nobody typed is as usual, and where the variac stood elsewhere
/// than in the design it was fired with, that design gets the run's setting and what was simulated for another
/// goes.
void settle_run(Run& run);
/// Takes the design that it was fired with from another of `runs` that has the same, to be kept once.
void share_design(Run& run, const std::vector<Run>& runs);

/// Whether the run knows the design that it was fired with, but nothing was simulated of it.
bool lacks_simulation(const Run& run);
/// What a simulation of the design that it was fired with says, by field; empty when it cannot be had.
std::map<std::string, double> simulate_run(const Run& run, const Work& work);
/// Gives the figures to every run that lacks them; a design that several were fired with is simulated once.
void simulate_runs(std::vector<Run>& runs, const Work& work);

/// The recorded value of a field, if there is one.
std::optional<double> run_value(const Run& run, const RunField& field);

/// The design as it was when the run was fired, with the record and what is kept of `present`.
Design design_of(const Run& run, const Design& present);

struct RunDifference {
  std::string label;
  std::string first;
  std::string second;
  bool differs;
};
/// Every field that either run records, side by side, differing ones marked (relative 1e-6); then what else differs
/// in the designs that they were fired with.
std::vector<RunDifference> compare_runs(const Run& first, const Run& second, UnitSystem units);
/// What is computed of the two designs at rest, where it differs (relative 1e-6): figures that both kinds of coil
/// have, with their bands. Empty where a run does not know its design, or both were fired with the same.
std::vector<RunDifference> compare_figures(const Run& first, const Run& second, UnitSystem units, Kept& kept);

/// The condition that varied most among the runs that also record `achieved`, by its standard deviation over its
/// mean, less where only some record it. Empty when none varied.
std::string_view varied_most(const std::vector<Run>& runs, const RunField& achieved, const struct CoilKind& kind);

} // namespace arc
