// Renders every main view of the demo into PNG files, for the README and for looking at.
#pragma once

#include "main_window.h"

/// Writes one 1280 x 800 PNG for each main view into `folder`. False with the reason when a file cannot be written.
bool capture_views(MainWindow& window, const QString& folder, QString* problem);
