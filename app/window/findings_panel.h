// The findings on the right, worst first: stops open, warnings one line each, notes folded. Those of one cause
// stand under its first. On Fire, and beside Start, Shelf and Record, only stops are told.
#pragma once

#include "base/workspace.h"

#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <QWidget>
#include <set>
#include <string>
#include <vector>

class FindingCard;
class FoldLine;

class FindingsPanel : public QWidget {
  Q_OBJECT
 public:
  explicit FindingsPanel(Workspace& workspace, QWidget* parent = nullptr);

  /// Puts the cursor onto the first finding.
  void enter();
  /// Key of the stage that is seen; `stops_only`: beside it only stops are told.
  void show_stage(const QString& key, bool stops_only);
  /// Takes the width that it needs in a window of this width.
  void fit(int window_width);

 Q_SIGNALS:
  void cautions_requested();
  void about_requested();

 private:
  QLayout* make_head();
  QWidget* make_waiting();
  QLayout* make_links();
  void refresh();
  bool is_told(const arc::Finding& finding) const;
  void show_count();
  void show_cards();
  void add_card(const arc::Finding& finding);
  FoldLine* add_fold(const QString& name, const QString& words, bool* open);
  void show_folds();

  Workspace& workspace_;
  QLabel* title_ = nullptr;
  QLabel* count_;
  QBoxLayout* links_ = nullptr;
  QLabel* next_title_;
  QLabel* next_;
  QWidget* list_;
  QVBoxLayout* cards_;
  std::vector<FindingCard*> shown_;
  std::vector<std::size_t> lead_; // of each card: the one whose cause it shares, or itself
  std::size_t first_note_ = 0;
  std::set<std::string> unfolded_; // ids
  bool notes_open_ = false;
  bool dismissed_open_ = false;
  std::string stage_;
  bool stops_only_ = false; // on Fire, and beside what is no step of the work
  int window_width_ = 1280;
  QPushButton* all_ = nullptr;
  QPushButton* here_ = nullptr;
  QWidget* waiting_; // while a simulation takes long
  QLabel* wait_text_;
  QTimer late_;
};
