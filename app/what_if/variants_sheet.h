// Whole designs kept with the present one, by name: told apart in a table, compared figure by figure, renamed,
// removed, and made the design.
#pragma once

#include "base/workspace.h"

/// Opens it over the window of `parent`.
void show_variants_sheet(Workspace& workspace, QWidget* parent);
