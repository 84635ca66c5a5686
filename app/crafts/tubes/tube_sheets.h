// Sheets of a tube coil: the tube's numbers with its fitted curves, and its filament.
#pragma once

#include "base/workspace.h"

void show_tube_sheet(Workspace& workspace, QWidget* parent);
void show_parts_sheet(Workspace& workspace, QWidget* parent);
void show_gate_drive_sheet(Workspace& workspace, QWidget* parent);
void show_filament_sheet(Workspace& workspace, QWidget* parent);
