// A path from the wall with its figures beside one plot: waveforms of the run, or the breaker's trip curve.
#pragma once

#include "feed/feed_view.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/figure_list.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QPushButton>
#include <QStringList>

class LineFeedView : public FeedView {
 public:
  /// What its controls are called, for tests and screen readers.
  struct Names {
    const char *figures, *plot, *plot_title, *shown, *cursor;
  };
  /// `shows`: what the plot can show; the last is the trip curve.
  LineFeedView(Workspace& workspace, const StageHead& head, const Names& names, const QStringList& shows,
               QWidget* parent);

 protected:
  /// Waveforms, in an empty plot.
  virtual void draw_run() = 0;
  /// The cursor's words over them.
  virtual void read_run(double x) = 0;
  /// What the line carries; null where there is nothing to draw.
  virtual const arc::FeedLoads* loads() const = 0;

  void draw();
  void say_problem(const QString& verdict, const std::string& problem);
  /// Beside the choice of what is shown.
  QPushButton* add_tool(const char* name, const char* text, const char* tip);

  QHBoxLayout* tools_;
  QComboBox* shown_;
  QLabel* cursor_;
  FigureList* figures_;
  CursorPlot* plot_;

 private:
  bool shows_trip_curve() const { return shown_->currentIndex() == shown_->count() - 1; }
  void read_at(double x);
};
