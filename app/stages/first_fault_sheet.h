// The first-fault walk: one question at a time, with this coil's own numbers.
#pragma once

#include "base/workspace.h"

/// Opens the sheet over `parent`; it deletes itself when closed.
/// `symptom`: the key of the one to begin with; the first when there is none of that name.
void show_first_fault_sheet(Workspace& workspace, QWidget* parent, const QString& symptom = {});
