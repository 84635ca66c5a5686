// From what is wanted and what is on the shelf to whole designs: the brief is filled in, the search runs behind the
// window, and what it proposes stands side by side, drawn and in figures.
#pragma once

class QWidget;
class Workspace;

void show_brief_sheet(Workspace& workspace, QWidget* parent);
