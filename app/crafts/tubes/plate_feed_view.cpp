// The path to a tube's plate: the supply as it swings under load, what the line carries, what each block holds.
#include "crafts/tubes/tube.h"
#include "crafts/tubes/window.h"
#include "feed/feed_view.h"
#include "feed/trip_curve.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/figure_list.h"
#include "toolkit/plot.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace {

using enum arc::Dimension;

class PlateFeedView : public FeedView {
 public:
  PlateFeedView(Workspace& workspace, const StageHead& head, QWidget* parent) : FeedView(workspace, head, parent) {
    auto* tools = new QHBoxLayout;
    tools->setSpacing(space::small);
    shown_ = new QComboBox(this);
    shown_->setObjectName("plate feed plot shows");
    shown_->setAccessibleName("What the plot shows");
    shown_->addItems({"Supply and line", "The breaker's trip curve"});
    connect(shown_, &QComboBox::activated, this, [this] { draw(); });
    tools->addWidget(shown_);
    tools->addStretch();
    cursor_ = caption_label({}, this);
    cursor_->setObjectName("plate feed cursor");
    tools->addWidget(cursor_);
    column_->addLayout(tools);
    auto* lower = new QHBoxLayout;
    lower->setSpacing(space::medium);
    figures_ = new FigureList(workspace_, "feed", "plate feed figures", this);
    figures_->setFixedWidth(290);
    lower->addWidget(figures_);
    plot_ = new CursorPlot(workspace, "plate feed plot", "Supply volts and line current", this);
    plot_->setMinimumSize(200, 96);
    connect(plot_, &CursorPlot::cursor_moved, this, [this](double x) { read_at(x); });
    connect(plot_, &CursorPlot::whole_wanted, this, [this] { draw(); });
    lower->addWidget(plot_, 1);
    column_->addLayout(lower, 1);
  }

  void refresh() override {
    show_age(figures_);
    const auto t = workspace_.document.power_of<arc::TubePower>();
    figures_->setRowCount(0);
    if (!t) {
      say_nothing_yet();
    } else if (!t->problem.empty()) {
      head_.verdict->setText("The supply cannot be computed yet");
      head_.reason->setText(QString::fromStdString(t->problem));
    } else if (!t->mains_problem.empty()) {
      head_.verdict->setText("The path to the plate cannot be computed");
      head_.reason->setText(QString::fromStdString(t->mains_problem));
    } else {
      show_words(*t);
    }
    draw();
  }

 private:
  enum Shows { supply, trip_curve };

  void show_words(const arc::TubePower& t) {
    const arc::TubeResult& r = t.run;
    const arc::Design& d = workspace_.document.design();
    if (arc::direct_supply_v(d)) {
      head_.verdict->setText(QString("Direct current of %1, as entered").arg(print(t.crest_v, voltage)));
      head_.reason->setText("The blocks here do not count while the oscillator is given its own direct current.");
      return;
    }
    head_.verdict->setText(QString("Supply reaches %1, %2 into the plate coil")
                               .arg(print(r.rail_most_v, voltage), print(r.plate_input_w, power)));
    QString words = QString("Its crest without load is %1.").arg(print(t.crest_v, voltage));
    if (r.rail_most_v > 1.1 * t.crest_v)
      words += " Where nothing draws, leakage and capacitors ring it above that.";
    if (t.mains)
      words += QString(" The line carries %1 at power factor %2.")
                   .arg(print(t.mains->line_current_a, current, 2))
                   .arg(t.mains->power_factor, 0, 'f', 2) +
               breaker_words(*t.mains);
    words += " Joints by a resistor that takes the oscillator's power; house wiring taken as 0.15 Ω.";
    head_.reason->setText(words);
    std::vector<std::pair<QString, QString>> rows;
    if (t.mains)
      for (const arc::DiodeLoad& diode : t.mains->diodes)
        rows.push_back({text_of(diode.title),
                        QString("%1 of %2").arg(print(diode.inverse_v, voltage), print(diode.limit_v, voltage))});
    if (!t.meters.empty()) rows.push_back({"Meters", "plate, grid, line"});
    for (const arc::TubeMeters& m : t.meters)
      rows.push_back(
          {QString("… at %1 %").arg(100 * m.setting, 0, 'f', 0),
           QString("%1, %2, %3")
               .arg(print(m.plate_a, current, 2), print(m.grid_a, current, 2), print(m.line_a, current, 2))});
    figures_->refresh(rows);
    for (int row = 0; row < figures_->rowCount(); ++row)
      if (const QString name = figures_->item(row, 0)->text(); name == "Meters" || name.startsWith("… at "))
        figures_->item(row, 1)->setToolTip("While the variac comes up: moving-coil meters in plate and grid lead, "
                                           "a true RMS one in the line. By the "
                                           "balance along the supply's swing, scaled to the run at this setting; "
                                           "within a quarter of full runs between "
                                           "half and full. Much more at the plate than here: stop.");
  }

  void draw() {
    plot_->clearGraphs();
    plot_->hide_cursor();
    style_plot(*plot_, workspace_.theme());
    plot_->legend->setVisible(false);
    make_linear(*plot_);
    plot_->yAxis2->setVisible(false);
    cursor_->clear();
    const auto t = workspace_.document.power_of<arc::TubePower>();
    if (t && t->problem.empty()) {
      if (shown_->currentIndex() == trip_curve && t->mains)
        cursor_->setText(draw_trip_curve(*plot_, workspace_, t->mains->line_current_a));
      else
        draw_supply(*t);
    }
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }

  void draw_supply(const arc::TubePower& t) {
    const Theme& theme = workspace_.theme();
    const double scale = t.on_mains ? 1e3 : 1e6;
    const auto when = [scale](const arc::TubeSample& s) { return s.time_s * scale; };
    add_curve(
        *plot_, t.run.samples, when, [](const arc::TubeSample& s) { return s.line_a; },
        QPen(theme.second, 1.2, Qt::DashLine), "line", plot_->yAxis2);
    add_curve(
        *plot_, t.run.samples, when, [](const arc::TubeSample& s) { return s.rail_v / 1e3; }, QPen(theme.arc, 1.6),
        "supply");
    plot_->xAxis->setLabel(t.on_mains ? "Time, ms" : "Time, µs");
    plot_->yAxis->setLabel("Supply, kV");
    plot_->yAxis2->setLabel("Line, A (dashed)");
    plot_->yAxis2->setVisible(t.on_mains);
    frame_curves(*plot_);
  }

  void read_at(double x) {
    const auto t = workspace_.document.power_of<arc::TubePower>();
    if (!t || !t->problem.empty() || t->run.samples.empty()) return;
    if (shown_->currentIndex() == trip_curve) {
      cursor_->setText(read_trip_curve(workspace_, x));
      return;
    }
    const double scale = t->on_mains ? 1e3 : 1e6;
    const arc::TubeSample& s = nearest_point(t->run.samples, x / scale, &arc::TubeSample::time_s);
    plot_->set_cursor(s.time_s * scale);
    cursor_->setText(QString("at %1: supply %2, line %3")
                         .arg(print(s.time_s, time), print(s.rail_v, voltage), print(s.line_a, current)));
  }

  QComboBox* shown_ = nullptr;
  QLabel* cursor_ = nullptr;
  FigureList* figures_ = nullptr;
  CursorPlot* plot_ = nullptr;
};

} // namespace

FeedView* make_plate_feed_view(Workspace& workspace, const StageHead& head, QWidget* parent) {
  return new PlateFeedView(workspace, head, parent);
}
