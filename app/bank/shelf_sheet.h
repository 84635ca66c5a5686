// The shelf as a place of its own, and as a sheet over others: groups of parts on the left, the parts of one group
// as a table that takes any notation; import, export, and each part put to its use in the coil.
#pragma once

#include "base/workspace.h"

QWidget* make_shelf_parts(Workspace& workspace, QWidget* parent);
void show_shelf_sheet(Workspace& workspace, const QString& group, QWidget* parent);

/// A tick whether invented examples of the shelf count as owned; hidden when there are none.
QWidget* make_invented_switch(Workspace& workspace, QWidget* parent);
