// What the drive or its limit hears by: turns, burden and core of the current transformer, and what they give.
#pragma once

#include "base/workspace.h"

#include <QWidget>

void show_transformer_sheet(Workspace& workspace, QWidget* parent);
