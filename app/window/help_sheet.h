// The guide inside the program: every page that ships, its headings, and a search through all of them. It stays
// open beside the work.
#pragma once

#include "base/workspace.h"

#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTextBrowser>

class HelpSheet : public QDialog {
  Q_OBJECT
 public:
  explicit HelpSheet(Workspace& workspace, QWidget* parent = nullptr);

  /// The guide, at the heading that begins so; at its top when there is none.
  void show_at(const QString& heading);
  /// The next place of these words after the present one, on this page or the ones after it; false when there is
  /// none on any page.
  bool find(const QString& words, bool backwards = false);

 private:
  void page_changed();
  void go_to_heading(int row);

  Workspace& workspace_;
  QLineEdit* search_;
  QLabel* found_;
  QPushButton* back_;
  QListWidget* headings_;
  QTextBrowser* text_;
};
