// Curves over one number of the design: arc, line current or power, and how near the weakest part is to its rating.
#pragma once

#include "base/workspace.h"

/// Opens it over the window of `parent`.
void show_curves_sheet(Workspace& workspace, QWidget* parent);
