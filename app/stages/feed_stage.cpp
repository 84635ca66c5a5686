// Feed: the power path from the wall to what it ends in, the chosen block's numbers, and what the path does.
#include "circuit/feed_arrangements.h"
#include "feed/feed_ends.h"
#include "feed/feed_strip.h"
#include "feed/feed_view.h"
#include "feed/polarity_sheet.h"
#include "file/examples.h"
#include "stages/stage.h"
#include "workshop/start.h"

#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

namespace {

class FeedStage : public QWidget {
 public:
  FeedStage(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("feed");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, 12, space::medium, space::small);
    column->setSpacing(space::small);
    auto* head_row = new QHBoxLayout;
    head_ = make_stage_head("feed", this);
    head_.verdict->setWordWrap(true);
    head_row->addWidget(head_.verdict, 1);
    polarity_ = new QPushButton("Polarity test…", this);
    polarity_->setObjectName("polarity test");
    polarity_->setToolTip("Which way the windings in series go, read at a low variac setting");
    connect(polarity_, &QPushButton::clicked, this, [this] {
      if (const auto block = series_block()) show_polarity_sheet(workspace_, *block, window());
    });
    head_row->addWidget(polarity_);
    add_ = new QPushButton("Add a block", this);
    add_->setObjectName("add block");
    add_->setMenu(new QMenu(add_));
    head_row->addWidget(add_);
    column->addLayout(head_row);
    column->addWidget(head_.reason);
    start_ = new QWidget(this);
    start_->setObjectName("feed start");
    new QVBoxLayout(start_);
    column->addWidget(start_, 1);
    work_ = new QWidget(this);
    auto* work = new QVBoxLayout(work_);
    work->setContentsMargins(0, 0, 0, 0);
    work->setSpacing(0);
    column->addWidget(work_, 1);
    strip_ = new FeedStrip(workspace, work_);
    work->addWidget(strip_);
    work->addWidget(strip_->make_tools(work_));
    work->addWidget(strip_->panel(), 3);
    work->addSpacing(space::small);
    views_ = new QStackedWidget(work_);
    work->addWidget(views_, 7);
    connect(&workspace_.document, &Document::design_changed, this, &FeedStage::refresh);
    connect(&workspace_.document, &Document::power_changed, this, &FeedStage::refresh);
    connect(&workspace_.document, &Document::units_changed, this, &FeedStage::refresh);
    connect(&workspace_, &Workspace::theme_changed, this, &FeedStage::refresh);
    prepare();
  }

 protected:
  void resizeEvent(QResizeEvent* event) override {
    QWidget::resizeEvent(event);
    make_room();
  }
  void showEvent(QShowEvent* event) override {
    QWidget::showEvent(event);
    refresh();
  }

 private:
  // In a low window the path and the numbers go before the words, which the heading then says when pointed at.
  void make_room() {
    const bool low = height() < 600;
    head_.reason->setMaximumHeight(low && !workspace_.document.design().feed.empty() ? 0 : QWIDGETSIZE_MAX);
    strip_->fit_panel(low ? 70 : 104);
  }

  const FeedEndRow& row() const { return feed_end_of(workspace_.document.design()); }

  // What a path to this end may hold, and the usual ones to start from.
  void prepare() {
    if (row().end == prepared_) return;
    prepared_ = row().end;
    QMenu* menu = add_->menu();
    menu->clear();
    auto* usual = menu->addMenu("Start again from"); // what most look for comes first
    menu->addSeparator();
    FeedStrip::fill_with_blocks(menu, prepared_, [this](const arc::BlockKind& kind) {
      workspace_.document.edit("Add " + text_of(kind.title), [&](arc::Design& design) {
        arc::add_block(design.feed, arc::example_block(kind.key));
      });
    });
    auto* column = static_cast<QVBoxLayout*>(start_->layout());
    qDeleteAll(start_->findChildren<QWidget*>(Qt::FindDirectChildrenOnly));
    while (QLayoutItem* item = column->takeAt(0)) delete item;
    column->setContentsMargins(0, space::large, 0, 0);
    column->setSpacing(space::medium);
    for (const arc::FeedArrangement& arrangement : arc::feed_arrangements()) {
      if (arrangement.end != prepared_) continue;
      auto* action = usual->addAction(text_of(arrangement.title));
      action->setObjectName("restart " + text_of(arrangement.key));
      connect(action, &QAction::triggered, this, [this, &arrangement] { start_from(arrangement); });
      auto* row = new QHBoxLayout;
      auto* button = new QPushButton(text_of(arrangement.title), start_);
      button->setObjectName("start " + text_of(arrangement.key));
      button->setMinimumWidth(330);
      connect(button, &QPushButton::clicked, this, [this, &arrangement] { start_from(arrangement); });
      row->addWidget(button);
      auto* words = caption_label(text_of(arrangement.words), start_);
      words->setObjectName("words " + text_of(arrangement.key));
      words->setWordWrap(true);
      row->addWidget(words, 1);
      column->addLayout(row);
    }
    auto* more =
        caption_label(QString(row().sized) + "; every block can be changed, moved and taken out. Or add blocks one "
                                             "by one.",
                      start_);
    more->setWordWrap(true);
    column->addWidget(more);
    column->addStretch();
  }

  void start_from(const arc::FeedArrangement& arrangement) {
    workspace_.document.edit(text_of(arrangement.title),
                             [&](arc::Design& design) { design = arc::fed_by(std::move(design), arrangement); });
  }

  // The block of transformers in series, which need a polarity test.
  std::optional<std::size_t> series_block() const {
    const auto& feed = workspace_.document.design().feed;
    for (std::size_t i = 0; i < feed.size(); ++i) {
      const auto& numbers = arc::block_kind(feed[i].kind)->numbers;
      if (std::ranges::count(numbers, "in_series", &arc::BlockNumber::key) > 0 &&
          arc::block_value(feed[i], "in_series") > 1)
        return i;
    }
    return {};
  }

  // What a usual path cannot do for this design: said where it is offered.
  void say_what_fits() {
    const arc::Design& design = workspace_.document.design();
    for (const arc::FeedArrangement& arrangement : arc::feed_arrangements()) {
      if (arrangement.end != prepared_) continue;
      const QString reason = text_of(arrangement.unfit_for(design)), key = text_of(arrangement.key);
      auto* action = add_->menu()->findChild<QAction*>("restart " + key);
      auto* button = start_->findChild<QPushButton*>("start " + key);
      action->setEnabled(reason.isEmpty());
      action->setText(text_of(arrangement.title) + (reason.isEmpty() ? "" : "  (" + reason + ")"));
      button->setEnabled(reason.isEmpty());
      button->setToolTip(reason);
      start_->findChild<QLabel*>("words " + key)
          ->setText(reason.isEmpty() ? text_of(arrangement.words) : "Not here: " + reason + ".");
    }
  }

  void refresh() {
    if (!isVisible()) return; // brought up to date when it is shown
    prepare();
    say_what_fits();
    polarity_->setVisible(series_block().has_value());
    const bool empty = workspace_.document.design().feed.empty();
    start_->setVisible(empty);
    work_->setVisible(!empty);
    if (!empty) strip_->refresh();
    make_room();
    if (empty) {
      head_.verdict->setText(row().empty);
      head_.reason->setText("The usual arrangements to start from:");
      head_.verdict->setEnabled(true);
      head_.reason->setEnabled(true);
      return;
    }
    FeedView*& view = view_of_[row().end];
    if (!view) views_->addWidget(view = row().make_view(workspace_, head_, views_));
    views_->setCurrentWidget(view);
    view->refresh();
    head_.verdict->setToolTip(head_.reason->text());
  }

  Workspace& workspace_;
  StageHead head_{};
  arc::FeedEnd prepared_ = arc::FeedEnd::none;
  QPushButton *polarity_ = nullptr, *add_ = nullptr;
  QWidget *start_ = nullptr, *work_ = nullptr; // one of the two is seen
  FeedStrip* strip_ = nullptr;
  QStackedWidget* views_ = nullptr;
  std::map<arc::FeedEnd, FeedView*> view_of_;
};

} // namespace

QWidget* make_feed_stage(Workspace& workspace, QWidget* parent) {
  return new FeedStage(workspace, parent);
}
