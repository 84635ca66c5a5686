// Sheets about logged runs: one run's numbers and words to be put right, and runs that changed here as well as in a
// table that is read in.
#pragma once

#include "base/workspace.h"
#include "toolkit/quantity_field.h"
#include "workshop/run_table.h"
#include "workshop/runs.h"

#include <optional>
#include <vector>

/// What the field of a run's number is like, but for where the value lives; `prefix` begins its name.
QuantityRole role_of(const arc::RunField& field, const QString& prefix);

/// Opens the run at this place of the record; what is changed is one undoable edit.
void show_run_sheet(Workspace& workspace, std::size_t index, QWidget* parent);

/// Whose word counts for each run of `read.both`: true for the table's. Empty when the builder thinks better of it.
std::optional<std::vector<bool>> ask_whose_word(Workspace& workspace, const arc::RunImport& read, QWidget* parent);
