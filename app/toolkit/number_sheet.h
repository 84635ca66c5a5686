// A sheet of numbers: fields of the design under headings, and numbers of its own that a law is fitted to.
#pragma once

#include "base/workspace.h"
#include "toolkit/quantity_field.h"

#include <QDialog>
#include <QGridLayout>
#include <QLabel>
#include <QVBoxLayout>
#include <vector>

class NumberSheet : public QDialog {
 public:
  /// `name` is its object name and the start of those of its own numbers: "switch" makes "switch sheet" and
  /// "switch fall". `across`: fields in a row.
  NumberSheet(Workspace& workspace, const QString& name, const QString& title, int across, QWidget* parent);

 protected:
  QLabel* heading(const QString& text);
  /// Fields of the design.
  QWidget* grid_of(const std::vector<const char*>& keys);
  /// A number of the sheet's own, after those that the grid holds; `value` lives as long as the sheet.
  void add_number(QGridLayout* grid, const QString& name, const char* label, arc::Dimension dimension, double low,
                  double high, double& value);
  /// One of its own numbers is another.
  virtual void number_changed() {}
  /// Where a refusal is said.
  QLabel* make_problem();

  Workspace& workspace_;
  QVBoxLayout* column_;

 private:
  QString name_;
  int across_;
};
