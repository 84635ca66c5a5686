// The record of runs: table, two runs side by side, arc length against any condition, CSV out and in.
#pragma once

#include "base/workspace.h"

#include <QWidget>

QWidget* make_run_record(Workspace& workspace, QWidget* parent);
