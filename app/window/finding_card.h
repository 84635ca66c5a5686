// One finding on the panel: stops stand open; warnings and notes are one line that unfolds to the reason, the
// remedy, the way to the cause, and to putting it away.
#pragma once

#include "base/workspace.h"

#include <QAbstractButton>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QWidget>

class LinkButton;
class Veil;

/// A line of words that opens and closes what stands below it; wrapped while it is open.
class FoldLine : public QAbstractButton {
 public:
  FoldLine(Workspace& workspace, QWidget* parent);
  void set_fold(bool can, bool open);
  /// "+2": others of the same cause.
  void set_more(int others);
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override { return {60, line_height()}; }
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override;

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  int line_height() const;
  int text_width(int width) const;
  Workspace& workspace_;
  bool can_ = true;
  bool open_ = false;
  int others_ = 0;
};

class FindingCard : public QWidget {
  Q_OBJECT
 public:
  FindingCard(Workspace& workspace, const arc::Finding& finding, QWidget* parent);

  /// Whether it can tell this finding without being made anew.
  bool fits(const arc::Finding& finding) const;
  void tell(const arc::Finding& finding);
  /// Words of an earlier design are greyed, and their remedy cannot be pressed.
  void show_age();
  void set_open(bool open);
  bool is_open() const { return open_; }
  void set_others(int others) { line_->set_more(others); }
  const arc::Finding& finding() const { return finding_; }
  void take_focus() { line_->setFocus(); }

 Q_SIGNALS:
  void folded(bool open); // by the builder

 private:
  void add_remedy(QLayout* column);
  void add_links(QLayout* column);
  void add_reason(QLayout* column);
  QString shelf_words(const arc::Finding& finding) const;

  Workspace& workspace_;
  arc::Finding finding_;
  bool open_ = false;
  Veil* veil_ = nullptr;
  FoldLine* line_ = nullptr;
  QWidget* body_ = nullptr;
  QLabel* text_ = nullptr;
  QLabel* dismissed_ = nullptr;
  LinkButton* remedy_button_ = nullptr;
  QLabel* remedy_label_ = nullptr;
  QLineEdit* reason_ = nullptr;
};
