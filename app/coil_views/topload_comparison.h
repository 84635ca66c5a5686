// Up to four toploads on the same coil, side by side: the present one and those kept with the design.
#pragma once

#include "base/workspace.h"

#include <QWidget>

/// Opens the comparison as a sheet over `parent`.
void show_topload_comparison(Workspace& workspace, QWidget* parent);
