// The log of one window's data folder: what went wrong without anybody's doing. One place knows who keeps it.
#pragma once

#include <QString>

/// Keeps the log in `folder` from now on, two old files of a megabyte beside it. Where that cannot be written,
/// nothing is kept: no log is no reason not to run.
void start_log(const QString& folder);

/// From any thread.
void log_warning(const QString& what);
void log_error(const QString& what);
