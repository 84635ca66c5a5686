// What the views of one window share: the document, the workshop's shelf, the theme, and how to go to the cause of
// a finding. Views know the workspace, never each other.
#pragma once

#include "base/document.h"
#include "base/firing.h"
#include "base/shelf_store.h"
#include "base/theme.h"

class Workspace : public QObject {
  Q_OBJECT
 public:
  explicit Workspace(const QString& data_folder, QObject* parent = nullptr)
      : QObject(parent), document(data_folder + "/recovery"), shelf(data_folder + "/shelf.json"),
        theme_(Theme::daylight()) {}

  Document document;
  Firing firing{document};
  ShelfStore shelf;

  const Theme& theme() const { return theme_; }
  void set_theme(const Theme& theme) {
    theme_ = theme;
    Q_EMIT theme_changed();
  }
  arc::UnitSystem units() const { return document.units(); }

  /// Asks the window to show a stage and put the cursor into one of its fields (key may be empty).
  void go_to(const QString& stage, const QString& field) { Q_EMIT go_to_requested(stage, field); }

 Q_SIGNALS:
  void theme_changed();
  void go_to_requested(const QString& stage, const QString& field);

 private:
  Theme theme_;
};
