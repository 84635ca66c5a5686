// One figure by one number: "make the resonance 200 kHz by the topload's diameter", with the reach of the number
// and what else changes.
#pragma once

#include "base/workspace.h"

/// Opens it over the window of `parent`. `figure`: as arc::figure_named() takes it; empty: the resonance.
void show_solve_sheet(Workspace& workspace, const QString& figure, QWidget* parent);
