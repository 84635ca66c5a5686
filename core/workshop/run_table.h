// Runs as a table for spreadsheets (CSV), and back: the run of a row is known by its identity, whatever a
// spreadsheet did to dates, commas, digits and the order of columns.
#pragma once

#include "model/design.h"

#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// What is wrong with a table: row, column and what would be right.
class RunFileError : public std::runtime_error {
  using std::runtime_error::runtime_error;
};

/// RFC 4180 with a header row: when, id, every run field by key in SI units (twelve digits), failed, notes,
/// armed_despite, open_stops, exported (what the row said, as eight hexadecimal digits), then the builder's own
/// columns.
std::string runs_to_csv(const std::vector<Run>& runs);

/// A run that stands in the record and in a table and differs.
struct RunUpdate {
  std::size_t index = 0; // in the record
  Run run;               // as it would be
};

/// What a table would do to a record.
struct RunImport {
  std::vector<Run> added;
  std::vector<RunUpdate> updated; // changed in the table only
  std::vector<RunUpdate> both;    // changed in the record as well since it was written out, or nobody can tell
  std::size_t same = 0;           // rows that say nothing new
};

/// Reads what runs_to_csv() wrote, as spreadsheets save it: columns in any order, missing, or the builder's own;
/// semicolons or tabs, decimal commas, other dates, fewer digits. A cell that says the same to the digits that it
/// has (three at least) changes nothing; an emptied one takes the number away. Rows without identity are compared
/// with the record by what they say. Throws RunFileError and changes nothing.
RunImport read_runs(std::string_view text, const std::vector<Run>& record);

/// The record with what was read; of those that changed on both sides the table's when `theirs` says so for each.
std::vector<Run> merged(std::vector<Run> record, const RunImport& read, const std::vector<bool>& theirs);

} // namespace arc
