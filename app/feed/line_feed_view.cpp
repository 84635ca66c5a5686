// Layout, empty states and the trip curve of paths whose figures stand beside one plot.
#include "feed/line_feed_view.h"

#include "feed/trip_curve.h"
#include "toolkit/plot.h"

LineFeedView::LineFeedView(Workspace& workspace, const StageHead& head, const Names& names,
                           const QStringList& shows, QWidget* parent)
    : FeedView(workspace, head, parent), tools_(new QHBoxLayout), shown_(new QComboBox(this)),
      cursor_(caption_label({}, this)), figures_(new FigureList(workspace, "feed", names.figures, this)),
      plot_(new CursorPlot(workspace, names.plot, names.plot_title, this)) {
  tools_->setSpacing(space::small);
  shown_->setObjectName(names.shown);
  shown_->setAccessibleName("What the plot shows");
  shown_->addItems(shows);
  connect(shown_, &QComboBox::activated, this, [this] { draw(); });
  tools_->addWidget(shown_);
  tools_->addStretch();
  cursor_->setObjectName(names.cursor);
  tools_->addWidget(cursor_);
  column_->addLayout(tools_);
  auto* lower = new QHBoxLayout;
  lower->setSpacing(space::medium);
  figures_->setFixedWidth(290);
  lower->addWidget(figures_, 0, Qt::AlignTop); // else its height would be that of the plot
  plot_->setMinimumSize(200, 96);
  connect(plot_, &CursorPlot::cursor_moved, this, [this](double x) { read_at(x); });
  connect(plot_, &CursorPlot::whole_wanted, this, [this] { draw(); });
  lower->addWidget(plot_, 1);
  column_->addLayout(lower, 1);
}

QPushButton* LineFeedView::add_tool(const char* name, const char* text, const char* tip) {
  auto* button = new QPushButton(text, this);
  button->setObjectName(name);
  button->setToolTip(tip);
  tools_->insertWidget(tools_->count() - 2, button); // before the stretch and the cursor's words
  return button;
}

void LineFeedView::say_problem(const QString& verdict, const std::string& problem) {
  head_.verdict->setText(verdict);
  head_.reason->setText(QString::fromStdString(problem));
}

void LineFeedView::draw() {
  plot_->clearGraphs();
  plot_->set_cycle(0);
  plot_->hide_cursor();
  style_plot(*plot_, workspace_.theme());
  plot_->legend->setVisible(false);
  make_linear(*plot_);
  plot_->yAxis2->setVisible(false);
  cursor_->clear();
  const arc::FeedLoads* line = loads();
  if (line && shows_trip_curve())
    cursor_->setText(draw_trip_curve(*plot_, workspace_, line->line_current_a));
  else
    draw_run();
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void LineFeedView::read_at(double x) {
  if (loads() && shows_trip_curve())
    cursor_->setText(read_trip_curve(workspace_, x));
  else
    read_run(x);
}
