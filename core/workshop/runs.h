// Logged runs: which numbers a run records, copying them from the design when it is fired, comparing two runs, and
// CSV (RFC 4180) out and in.
#pragma once

#include "coil/analysis.h"
#include "quantity/quantity.h"

#include <optional>
#include <span>
#include <stdexcept>
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
  /// Conditions are taken from the design; empty for observations, which are typed.
  std::optional<double> (*from_design)(const Design&, const Analysis&);
  std::string_view group = {}; // group of the file that a kind must have for the field to mean something
};

/// Conditions first, then observations. To record another number, add one row in runs.cpp.
std::span<const RunField> run_fields();
bool is_condition(const RunField& field);
/// Whether runs of this kind of coil have the field.
bool belongs_to(const RunField& field, const struct CoilKind& kind);

/// A new run with the design's conditions at this moment; `when` is local time, ISO 8601.
Run begin_run(const Design& design, const Analysis& analysis, std::string when);

/// The recorded value of a field, if there is one.
std::optional<double> run_value(const Run& run, const RunField& field);

struct RunDifference {
  std::string label;
  std::string first;
  std::string second;
  bool differs;
};
/// Every field that either run records, side by side, differing ones marked (relative 1e-6).
std::vector<RunDifference> compare_runs(const Run& first, const Run& second, UnitSystem units);

/// Those of `read` that are not in `known` yet, in order: a run is recognised by its time, its numbers as CSV keeps
/// them, and its words. A run that stands twice in `read` counts twice only if it does so there beyond those known.
std::vector<Run> new_runs(const std::vector<Run>& known, const std::vector<Run>& read);

/// CSV with a header row: when, every run field by key in SI units, failed, notes.
std::string runs_to_csv(const std::vector<Run>& runs);

/// What is wrong with a CSV file: row, column and what would be right.
class RunFileError : public std::runtime_error {
  using std::runtime_error::runtime_error;
};

/// Reads what runs_to_csv wrote; columns may stand in any order and be missing, "when" must be there. Unknown
/// columns are refused by name. Throws RunFileError and changes nothing.
std::vector<Run> runs_from_csv(std::string_view text);

} // namespace arc
