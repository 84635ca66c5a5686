// The shelf as a sheet: groups of parts on the left, the parts of one group as a table that takes any notation;
// import, export, and each part put to its use in the coil.
#pragma once

#include "base/workspace.h"

void show_shelf_sheet(Workspace& workspace, const QString& group, QWidget* parent);

/// A tick whether invented examples of the shelf count as owned; hidden when there are none.
QWidget* make_invented_switch(Workspace& workspace, QWidget* parent);
