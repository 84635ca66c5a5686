// How well each input is known, and what that does to the results: linear bands, checked by sampling on demand.
#pragma once

#include "base/workspace.h"

#include <QWidget>

/// Opens the sheet over `parent`.
void show_tolerance_sheet(Workspace& workspace, QWidget* parent);
