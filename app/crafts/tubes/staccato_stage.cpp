// Gate of a tube coil: what is asked of the thyristor and what it does, drawn over the supply; power and plate heat
// over the first minutes; timers that make the pulses.
#include "crafts/tubes/staccato_view.h"
#include "crafts/tubes/tube.h"
#include "crafts/tubes/tube_sheets.h"
#include "crafts/tubes/window.h"
#include "stages/simulated_stage.h"
#include "stages/stage.h"
#include "stages/timer_sheet.h"
#include "toolkit/choice_box.h"
#include "toolkit/common.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/field_grid.h"
#include "toolkit/figure_list.h"
#include "toolkit/plot.h"
#include "toolkit/quantity_field.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <map>

namespace {

using enum arc::Dimension;

class StaccatoStage : public SimulatedStage {
 public:
  StaccatoStage(Workspace& workspace, QWidget* parent) : SimulatedStage(workspace, "staccato", parent) {
    auto* tools = new QHBoxLayout;
    auto* timers = new QPushButton("Timer circuits…", this);
    timers->setObjectName("staccato timers");
    timers->setToolTip("Two timers, one of them steered, with parts from the E24 series, for the thyristor's gate");
    connect(timers, &QPushButton::clicked, this, [this] { show_timer_sheet(workspace_, this); });
    tools->addWidget(timers);
    auto* drive = new QPushButton("Gate drive…", this);
    drive->setObjectName("gate drive sheet button");
    drive->setToolTip("Opto-coupler or fibre, resistors and battery from an instrument to the floating gate");
    connect(drive, &QPushButton::clicked, this, [this] { show_gate_drive_sheet(workspace_, this); });
    tools->addWidget(drive);
    said_ = caption_label({}, this);
    said_->setObjectName("staccato said");
    tools->addWidget(said_, 1);
    upper_->addLayout(tools);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    view_ = new StaccatoView(workspace_, this);
    middle->addWidget(view_, 1);
    middle->addWidget(make_side());
    upper_->addLayout(middle, 1);
    column_->addWidget(make_panel());
    connect(&workspace_.document, &Document::design_changed, this, &StaccatoStage::refresh);
  }

 private:
  QWidget* make_side() {
    set_side(new QWidget(this));
    auto* column = new QVBoxLayout(side_);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    figures_ = new FigureList(workspace_, "staccato", "staccato figures", side_);
    column->addWidget(figures_, 5);
    heat_ = new CursorPlot(workspace_, "plate heat plot",
                           "Plate's warmth against its rating over the first seconds", this);
    heat_->setMinimumHeight(96);
    connect(heat_, &CursorPlot::cursor_moved, this, [this](double s) { read_heat(s); });
    connect(heat_, &CursorPlot::whole_wanted, this, &StaccatoStage::refresh);
    column->addWidget(heat_, 3);
    return side_;
  }

  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    FieldGrid fields(workspace_, panel, 5);
    fields.choice("Staccato", "tube.staccato");
    fields.choice("Gate pulses", "interrupter.mode");
    for (const char* key :
         {"interrupter.phase_deg", "interrupter.every_cycle", "interrupter.rate_hz", "interrupter.on_time_s",
          "tube.thyristor_hold_a", "tube.thyristor_off_s", "tube.thyristor_voltage_v", "tube.thyristor_current_a"})
      fields_[key] = fields.number(key);
    return panel;
  }

  void show_what_counts() {
    const arc::Design& d = workspace_.document.design();
    const bool on = d.tube.staccato, locked = d.interrupter.locked;
    const auto set = [&](const char* key, bool counts, const char* why) {
      fields_[key]->setEnabled(on && counts);
      fields_[key]->setToolTip(!on      ? QString("Runs through: choose a thyristor in the cathode first")
                               : counts ? QString()
                                        : QString(why));
    };
    set("interrupter.rate_hz", !locked, "Locked to the mains: its rate comes from there");
    for (const char* key : {"interrupter.phase_deg", "interrupter.every_cycle"})
      set(key, locked, "Free-running: only locked pulses have a place on the wave");
    for (const char* key : {"interrupter.on_time_s", "tube.thyristor_hold_a", "tube.thyristor_off_s",
                            "tube.thyristor_voltage_v", "tube.thyristor_current_a"})
      set(key, true, "");
  }

  void refresh() override {
    if (!isVisible()) return;
    const auto t = workspace_.document.power_of<arc::TubePower>();
    view_->show(t);
    show_what_counts();
    const bool there = t && t->problem.empty();
    if (!there) {
      head_.verdict->setText(t ? "Nothing to interrupt yet" : "Being simulated…");
      head_.reason->setText(t ? QString::fromStdString(t->problem) : QString());
      figures_->setRowCount(0);
      heat_->clearGraphs();
      heat_->replot(QCustomPlot::rpQueuedReplot);
      return;
    }
    const arc::Design& d = workspace_.document.design();
    const bool on = d.tube.staccato;
    head_.verdict->setText(
        !on ? QString("It runs through: %1 into the plate coil").arg(print(t->run.plate_input_w, power))
            : QString("Fired %1 % of the time: %2 on average, %3 while it is on")
                  .arg(100 * t->duty, 0, 'f', 0)
                  .arg(print(t->run.plate_input_w, power), figures_->banded("", "input_while_on_w")));
    head_.reason->setText(words(*t));
    figures_->refresh();
    draw_heat(*t);
    show_age({figures_, head_.verdict});
  }

  QString words(const arc::TubePower& t) const {
    const arc::Design& d = workspace_.document.design();
    if (!d.tube.staccato)
      return "Less duty makes higher peaks for the same heat: near 15 % arcs grow much longer than near 100 % "
             "(common "
             "practice).";
    if (t.run.stays_on || t.circuit.direct_v) return "Once fired it never turns off on this supply.";
    if (t.run.on_s.empty()) return "It is never fired in what is shown.";
    QString out = QString("Asked for %1; it conducts %2, until its current passes zero.")
                      .arg(print(d.interrupter.on_time_s, time),
                           t.run.off_s.empty() ? QString("to the end")
                                               : print(t.run.off_s.front() - t.run.on_s.front(), time));
    const double beat = arc::mains_beat_hz(d.interrupter.rate_hz, d.site.mains_frequency_hz);
    if (!d.interrupter.locked && beat > 0.05)
      out += QString(" Free-running it flashes %1 times a second against the mains.").arg(beat, 0, 'f', 1);
    return out;
  }

  double shown_heat_s() const { return 6 * workspace_.document.design().tube.tube.plate_heat_s; }

  void draw_heat(const arc::TubePower& t) {
    const Theme& theme = workspace_.theme();
    const double rated = workspace_.document.design().tube.tube.plate_dissipation_w;
    heat_->clearGraphs();
    style_plot(*heat_, theme);
    heat_->legend->setVisible(false);
    std::vector<double> seconds;
    constexpr int steps = 100;
    for (int i = 0; i <= steps; ++i) seconds.push_back(shown_heat_s() * i / steps);
    const auto same = [](double s) { return s; };
    add_curve(
        *heat_, seconds, same, [&](double s) { return arc::plate_warmth_w(workspace_.document.design(), t, s); },
        QPen(theme.arc, 1.6), "plate");
    add_curve(
        *heat_, seconds, same, [rated](double) { return rated; }, QPen(theme.stop, 1.2, Qt::DashLine), "rating");
    heat_->xAxis->setLabel("Running, s");
    heat_->yAxis->setLabel("Plate, W");
    heat_->xAxis->setRange(0, shown_heat_s());
    heat_->yAxis->setRange(0, 1.15 * std::max(rated, std::min(t.worst_plate_w, 4 * rated)));
    heat_->replot(QCustomPlot::rpQueuedReplot);
  }

  void read_heat(double seconds) {
    const auto t = workspace_.document.power_of<arc::TubePower>();
    if (!t || !t->problem.empty()) return;
    const double s = std::clamp(seconds, 0.0, shown_heat_s());
    heat_->set_cursor(s);
    said_->setText(
        QString("After %1 the plate is as warm as %2 would make it in the long run")
            .arg(print(s, time), print(arc::plate_warmth_w(workspace_.document.design(), *t, s), power)));
  }

  QLabel* said_ = nullptr;
  StaccatoView* view_ = nullptr;
  std::map<std::string, QuantityField*> fields_;
  FigureList* figures_ = nullptr;
  CursorPlot* heat_ = nullptr;
};

} // namespace

QWidget* make_staccato_stage(Workspace& workspace, QWidget* parent) {
  return new StaccatoStage(workspace, parent);
}
