// Law, ratings and heat of a bridge's switches, and entry from a data sheet.
#pragma once

class QWidget;
class Workspace;

void show_switch_sheet(Workspace& workspace, QWidget* parent);
