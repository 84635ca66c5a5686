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
#include <QTextTable>

class HelpSheet : public QDialog {
  Q_OBJECT
 public:
  explicit HelpSheet(Workspace& workspace, QWidget* parent = nullptr);

  /// The guide, at the heading that begins so; at its top when there is none.
  void show_at(const QString& heading);
  /// What the words of the trade in the text mean: the row of the longest, the others named. The page of words
  /// where there are none.
  void show_words(const QString& text);
  /// What a word of the trade means, where these are one; asked again, and for other words: the next place of them
  /// after the present one, on this page or the ones after it; false when there is none on any page.
  bool find(const QString& words, bool backwards = false);

 private:
  void show_page(const QString& page);
  bool show_term(const QString& term);
  void page_changed();
  void style_table(QTextTable& table) const;
  void go_to_heading(int row);

  Workspace& workspace_;
  QString asked_; // last, in small letters
  QLineEdit* search_;
  QLabel* found_;
  QPushButton* back_;
  QListWidget* headings_;
  QTextBrowser* text_;
};
