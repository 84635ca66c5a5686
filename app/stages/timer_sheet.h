// Timer circuits for the interrupter: parts, ranges, bands, and the parts list to take along.
#pragma once

class QWidget;
class Workspace;

void show_timer_sheet(Workspace& workspace, QWidget* parent);
