// The power path from the wall to what it ends in, at a glance: each block as its circuit symbol on one line, in
// two where it is long, with volts, amperes and margin at each joint. One block is chosen; its numbers, caution and
// place stand in the panel below. Added, removed, moved by mouse, by keyboard and from context menus.
#pragma once

#include "base/workspace.h"
#include "circuit/feed.h"
#include "circuit/feed_loads.h"

#include <QFrame>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>
#include <functional>
#include <memory>
#include <vector>

class PathBlock;

class FeedStrip : public QWidget {
  Q_OBJECT
 public:
  explicit FeedStrip(Workspace& workspace, QWidget* parent = nullptr);
  /// Brings blocks and joints up to date.
  void refresh();
  /// The chosen block's numbers; stands wherever the stage puts it.
  QWidget* panel() const { return panel_; }
  /// Makes the panel as high as the chosen block's numbers and words, and no less than this, pixels: the plots have
  /// the rest.
  void fit_panel(int least);
  /// What the joints mean, and the buttons that move or take out the chosen block.
  QWidget* make_tools(QWidget* parent);
  std::size_t chosen() const { return chosen_; }
  void choose(std::size_t index);
  /// Fills a menu with the blocks that a path to this end may hold; `add` takes one of them.
  static void fill_with_blocks(QMenu* menu, arc::FeedEnd end,
                               const std::function<void(const arc::BlockKind&)>& add);
  QSize sizeHint() const override;
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override;

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  friend class PathBlock;
  struct Grid {
    int rows = 1, across = 1;
    double cell = 60;
  };
  Grid grid(int width) const;
  QRect cell_of(std::size_t index) const;
  void lay_out();
  bool narrow() const { return width() < 660; }
  void rebuild(const QStringList& kinds);
  QLabel* joint_label(const QString& name);
  QWidget* page(std::size_t index);
  void add_fields(QWidget* box, std::size_t index);
  QWidget* make_switch(QWidget* box, std::size_t index, const arc::BlockNumber& number);
  QWidget* make_shelf_button(QWidget* box, std::size_t index);
  struct JointText {
    QString brief, whole; // at the joint, and in words
    bool over = false;
  };
  std::shared_ptr<const arc::FeedLoads> loads() const;
  JointText joint_text(std::size_t index) const;
  void set_joint(QLabel* label, const QString& name, const JointText& text);
  /// Place in the feed for something let go here.
  std::size_t place_at(QPoint where) const;
  void show_place(QPoint where);
  void move_block(std::size_t from, std::size_t to);
  void remove_block(std::size_t index);
  void insert_block(std::size_t place, const arc::BlockKind& kind);
  void show_menu(std::size_t index, QPoint global);
  void go_to(const QString& stage, const QString& field);
  void focus_block(std::size_t index);
  void edit_numbers();

  Workspace& workspace_;
  QFrame* insertion_ = nullptr;
  QLabel* wall_ = nullptr;
  QLabel* end_ = nullptr;
  QLabel* legend_ = nullptr;
  bool built_narrow_ = false;
  QWidget* panel_ = nullptr;
  QPushButton *earlier_ = nullptr, *later_ = nullptr;
  QVBoxLayout* page_column_ = nullptr;
  QStringList shown_;
  std::size_t chosen_ = 0;
  int least_ = 0;           // of the panel's height, pixels
  bool focus_next_ = false; // the chosen block takes the focus once it is rebuilt
  std::vector<PathBlock*> blocks_;
  std::vector<QLabel*> joints_;
  std::vector<QWidget*> pages_;                 // of each block; the chosen one's is seen
  std::vector<std::function<void()>> switches_; // bring a check box up to date
};
