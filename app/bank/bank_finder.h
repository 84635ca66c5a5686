// Banks from the parts on the shelf: what is wanted, the best proposals with their tap, and taking one over.
#pragma once

#include "base/workspace.h"

#include <QWidget>

/// Opens the sheet over `parent`, with a starter shelf until one is opened.
void show_bank_finder(Workspace& workspace, QWidget* parent);
