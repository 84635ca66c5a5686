// Single changes, tried by simulation and ranked: a table, and a button that makes the chosen one.
#pragma once

#include "base/workspace.h"
#include "simulation/changes.h"

#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QWidget>
#include <vector>

class SingleChanges : public QWidget {
 public:
  /// `table` and `button` are the object names of its two parts.
  SingleChanges(Workspace& workspace, const QString& title, const QString& table, const QString& button,
                QWidget* parent);

  /// Those of the document's latest simulation, best first.
  void show(const std::vector<arc::TriedChange>& changes);
  /// The button, as what is chosen and the document's simulation allow it.
  void refresh();

 private:
  void make();

  Workspace& workspace_;
  std::vector<arc::TriedChange> changes_;
  QTableWidget* table_;
  QPushButton* make_;
};
