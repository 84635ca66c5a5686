// The first-fault walk: one question at a time, with this coil's own numbers.
#pragma once

#include "workspace.h"

/// Opens the sheet over `parent`; it deletes itself when closed.
void show_first_fault_sheet(Workspace& workspace, QWidget* parent);
