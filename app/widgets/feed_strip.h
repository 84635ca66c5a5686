// The power path from the wall to the tank as a strip of blocks: each with its numbers, what its output carries,
// its danger; added, removed, moved by drag or by buttons.
#pragma once

#include "circuit/feed.h"
#include "workspace.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QScrollArea>
#include <functional>
#include <vector>

class FeedStrip : public QScrollArea {
  Q_OBJECT
 public:
  explicit FeedStrip(Workspace& workspace, QWidget* parent = nullptr);
  /// Brings blocks and joints up to date.
  void refresh();

 private:
  friend class PathBlock;
  void rebuild(const QStringList& kinds);
  void fit_height();
  QLabel* end_label();
  QWidget* card(std::size_t index);
  void add_fields(QWidget* box, QLayout* column, std::size_t index);
  QWidget* make_switch(QWidget* box, std::size_t index, const arc::BlockNumber& number);
  QString joint_text(std::size_t index, bool* over) const;
  /// Place in the feed for something let go at this x of the strip.
  std::size_t place_at(int x) const;
  void show_place(int x);
  void move_block(std::size_t from, std::size_t to);

  Workspace& workspace_;
  QWidget* strip_ = nullptr;
  QHBoxLayout* blocks_ = nullptr;
  QFrame* insertion_ = nullptr;
  QLabel* wall_ = nullptr;
  QLabel* tank_ = nullptr;
  QStringList shown_;
  std::vector<QWidget*> cards_;
  std::vector<QLabel*> joints_;
  std::vector<std::function<void()>> switches_; // bring a check box up to date
};
