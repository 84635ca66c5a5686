// What the views of one window share: the document, the workshop's shelf, the theme, and how to go to the cause of
// a finding. Views know the workspace, never each other.
#pragma once

#include "base/document.h"
#include "base/firing.h"
#include "base/shelf_store.h"
#include "base/theme.h"

#include <QStringList>

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

  /// Files that were open lately, the latest first.
  const QStringList& recent_files() const { return recent_; }
  void set_recent_files(const QStringList& paths) {
    recent_ = paths;
    Q_EMIT recent_changed();
  }

  /// Asks the window for another design: a new one or the demo of a kind of coil by its key, or a file by its path,
  /// one that is chosen where that is empty.
  enum class Want { fresh, demo, file };
  void want(Want what, const QString& which) { Q_EMIT design_wanted(what, which); }

  /// Asks the window to begin anew with this design.
  void offer(const arc::Design& design) { Q_EMIT design_offered(design); }

  /// Asks the window how a figure can be made a value, as arc::figure_named() takes it.
  void solve_for(const QString& figure) { Q_EMIT solve_wanted(figure); }

  /// Asks the window to show a stage and put the cursor into one of its fields (key may be empty).
  void go_to(const QString& stage, const QString& field) { Q_EMIT go_to_requested(stage, field); }

 Q_SIGNALS:
  void theme_changed();
  void recent_changed();
  void design_wanted(Workspace::Want what, const QString& which);
  void design_offered(const arc::Design& design);
  void solve_wanted(const QString& figure);
  void go_to_requested(const QString& stage, const QString& field);

 private:
  Theme theme_;
  QStringList recent_;
};
