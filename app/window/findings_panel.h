// The findings on the right, worst first: a sentence with a number, the reason, the remedy. Pressing the sentence
// goes to the cause; pressing the remedy carries it out (undoable).
#pragma once

#include "base/workspace.h"

#include <QLabel>
#include <QTimer>
#include <QVBoxLayout>
#include <QWidget>

class FindingCard;

class FindingsPanel : public QWidget {
  Q_OBJECT
 public:
  explicit FindingsPanel(Workspace& workspace, QWidget* parent = nullptr);

 Q_SIGNALS:
  void cautions_requested();
  void about_requested();

 private:
  QLayout* make_head();
  QWidget* make_waiting();
  QLayout* make_links();
  void refresh();
  void show_cards(const std::vector<arc::Finding>& findings);

  Workspace& workspace_;
  QLabel* count_;
  QLabel* next_title_;
  QLabel* next_;
  QWidget* list_;
  QVBoxLayout* cards_;
  std::vector<FindingCard*> shown_;
  QWidget* waiting_; // while a simulation takes long
  QLabel* wait_text_;
  QTimer late_;
};
