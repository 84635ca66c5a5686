// Dialogs for files, each in the folder that the last one was left in.
#pragma once

#include <QString>
#include <QWidget>

namespace file_dialogs {
/// The folder that the next dialog starts in; empty: where the system starts.
QString folder();
void set_folder(const QString& folder);

/// A path to write to: `name` alone is suggested in the folder, a whole path where it is. Empty when the builder
/// changed their mind.
QString to_save(QWidget* parent, const QString& title, const QString& name, const QString& filter);
/// A file to read; empty when the builder changed their mind.
QString to_open(QWidget* parent, const QString& title, const QString& filter);
} // namespace file_dialogs
