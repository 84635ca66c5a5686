// Renders every main view of the demo into PNG files, for the README and for looking at.
#pragma once

#include "window/main_window.h"

/// One picture of each stage that the design's kind of coil has, named after the stage.
bool capture_stages(MainWindow& window, const QString& folder, QString* problem);

/// Writes one PNG of `size` for each main view into `folder`. False with the reason when a file cannot be written.
bool capture_views(MainWindow& window, QSize size, const QString& folder, QString* problem);
