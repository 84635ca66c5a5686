// The polarity test of transformers in series, one step at a time: what to read at a low variac setting, and what
// the readings say.
#pragma once

#include "base/workspace.h"

/// `block` is the index of the transformers' block in the feed.
void show_polarity_sheet(Workspace& workspace, std::size_t block, QWidget* parent);
