// The tuning curve: tank frequency over the clip, the coil's resonance with its band and with arcs, both poles, and
// what was measured. Shows an analysis; computes nothing.
#pragma once

#include "base/workspace.h"

class QCustomPlot;

void draw_tuning_plot(QCustomPlot& plot, const Workspace& workspace, const arc::Analysis& analysis);
