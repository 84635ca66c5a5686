// Single changes, tried by simulation and ranked: a table, and a button that makes the chosen one.
#pragma once

#include "base/workspace.h"
#include "coil/ideas.h"

#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QWidget>
#include <functional>
#include <vector>

class SingleChanges : public QWidget {
 public:
  struct Row {
    QString title;
    QString gain; // "+3.1 %"
    QString more; // tool tip of the gain; may be empty
    bool better;
    std::function<void(arc::Design&)> apply; // empty: it would bring `stop`, or helps nothing
    QString stop = {};
  };

  /// Of a change that weigh_changes() has judged, ranked by `merit`.
  template <typename Change>
  static Row row_of(const Change& change, double merit, const QString& gain, const QString& more) {
    return {QString::fromStdString(change.title),
            gain,
            more,
            merit >= arc::least_gain,
            change.offered ? change.apply : nullptr,
            QString::fromStdString(change.stop)};
  }

  /// `table` and `button` are the object names of its two parts.
  SingleChanges(Workspace& workspace, const QString& title, const QString& table, const QString& button,
                QWidget* parent);

  /// Rows of the document's latest simulation, best first.
  void show_rows(std::vector<Row> rows);
  /// The button, as what is chosen and the document's simulation allow it.
  void refresh();

 private:
  void make();

  Workspace& workspace_;
  std::vector<Row> rows_;
  QTableWidget* table_;
  QPushButton* make_;
};

/// "+3.1 %" of a ratio to now.
QString gain_text(double ratio);
