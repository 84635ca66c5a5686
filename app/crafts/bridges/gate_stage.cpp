// Gate: the interrupter of a bridge. Bursts drawn and dragged, limits that say what they did, what comes of it in
// watts and degrees, how the arcs look, and timer circuits that make it.
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/pulse_view.h"
#include "crafts/bridges/window.h"
#include "model/fields.h"
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
#include <cmath>
#include <map>

namespace {

using enum arc::Dimension;

// How arcs look at a rate and on-time (common practice of builders, no source).
QString look_of(const arc::PulsePlan& plan) {
  QString out = plan.rate_hz < 30    ? "Single bursts, each a straight, thick stroke"
                : plan.rate_hz < 150 ? "A growl; straight, bright strokes that wander little"
                : plan.rate_hz < 400 ? "A buzz; branched, fuller arcs"
                                     : "A whine; bushy, flame-like arcs that rise";
  out += plan.on_s < 100e-6 ? ", sword-like and short for the volts." : plan.on_s < 250e-6 ? "." : ", fat and hot.";
  if (arc::is_seen_flashing(plan.beat_hz))
    out += QString(" They flash %1 times a second against the mains.").arg(plan.beat_hz, 0, 'f', 1);
  return out;
}

class GateStage : public SimulatedStage {
 public:
  GateStage(Workspace& workspace, QWidget* parent) : SimulatedStage(workspace, "gate", parent) {
    upper_->addLayout(make_tools());
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    view_ = new PulseView(workspace_, this);
    connect(view_, &PulseView::said, this, [this](const QString& words) { said_->setText(words); });
    middle->addWidget(view_, 1);
    middle->addWidget(make_side());
    upper_->addLayout(middle, 1);
    column_->addWidget(make_panel());
    connect(&workspace_.document, &Document::design_changed, this, &GateStage::refresh);
  }

 private:
  std::shared_ptr<const arc::BridgeAnalysis> bridge() const {
    return workspace_.document.power_of<arc::BridgeAnalysis>();
  }

  QLayout* make_tools() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    auto* cycles = new QComboBox(this);
    cycles->setObjectName("gate cycles");
    cycles->setAccessibleName("Mains cycles shown");
    for (const int n : {2, 4, 10, 20}) cycles->addItem(QString("%1 mains cycles").arg(n), n);
    cycles->setCurrentIndex(1);
    connect(cycles, &QComboBox::activated, this,
            [this, cycles] { view_->set_cycles(cycles->currentData().toInt()); });
    row->addWidget(cycles);
    auto* timers = new QPushButton("Timer circuits…", this);
    timers->setObjectName("timer circuits");
    timers->setToolTip("Circuits that make these bursts, with parts from the E24 series");
    connect(timers, &QPushButton::clicked, this, [this] { show_timer_sheet(workspace_, this); });
    row->addWidget(timers);
    said_ = caption_label({}, this);
    said_->setObjectName("gate said");
    said_->setWordWrap(true);
    row->addWidget(said_, 1);
    return row;
  }

  QWidget* make_side() {
    set_side(new QWidget(this));
    auto* column = new QVBoxLayout(side_);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    figures_ = new FigureList(workspace_, "gate", "gate figures", side_);
    column->addWidget(figures_, 5);
    heat_ = new CursorPlot(workspace_, "junction plot", "Junction over the first minutes", this);
    heat_->setMinimumHeight(96);
    heat_->axisRect()->setAutoMargins(QCP::msTop | QCP::msBottom);
    heat_->axisRect()->setMargins({62, 0, 12, 0});
    connect(heat_, &CursorPlot::cursor_moved, this, &GateStage::read_heat);
    connect(heat_, &CursorPlot::whole_wanted, this, &GateStage::refresh);
    column->addWidget(heat_, 2);
    return side_;
  }

  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    FieldGrid fields(workspace_, panel, 5);
    fields.put("Bursts", new ChoiceBox(workspace_, "interrupter.mode", panel));
    for (const char* key :
         {"interrupter.on_time_s", "interrupter.rate_hz", "interrupter.phase_deg", "interrupter.every_cycle",
          "interrupter.longest_on_s", "interrupter.largest_duty", "interrupter.highest_rate_hz",
          "interrupter.least_off_s", "interrupter.largest_energy_j"})
      fields_[key] = fields.number(key);
    return panel;
  }

  // A locked train has its rate from the mains, a free one no phase.
  void show_what_counts() {
    const bool locked = workspace_.document.design().interrupter.locked;
    const auto set = [&](const char* key, bool counts, const char* why) {
      fields_[key]->setEnabled(counts);
      fields_[key]->setToolTip(counts ? QString() : QString(why));
    };
    set("interrupter.rate_hz", !locked, "Locked to the mains: its rate comes from there");
    for (const char* key : {"interrupter.phase_deg", "interrupter.every_cycle"})
      set(key, locked, "Free-running: only a locked train has a place on the mains' wave");
  }

  void refresh() override {
    if (!isVisible()) return;
    const auto b = bridge();
    view_->show(b);
    show_what_counts();
    if (!b || !b->problem.empty()) {
      head_.verdict->setText(b ? "Nothing to interrupt yet" : "Being simulated…");
      head_.reason->setText(b ? QString::fromStdString(b->problem) : QString());
      figures_->setRowCount(0);
      return;
    }
    if (!b->plan_problem.empty()) {
      head_.verdict->setText("Nothing is left of a burst");
      head_.reason->setText(QString::fromStdString(b->plan_problem));
      figures_->setRowCount(0);
      return;
    }
    const arc::PulsePlan& plan = b->plan;
    head_.verdict->setText(QString("%1 on, %2 times a second: %3 on average")
                               .arg(print(plan.on_s, time))
                               .arg(arc::round_significant(plan.rate_hz, 3))
                               .arg(print(b->average_w, power)));
    head_.reason->setText(look_of(plan));
    QStringList hits;
    for (const arc::LimitHit& hit : plan.hits) hits << QString::fromStdString(hit.text);
    said_->setText(hits.isEmpty() ? QString("Within all limits.") : hits.join(". ") + ".");
    figures_->refresh();
    draw_heat(*b);
    show_age({figures_, head_.verdict});
  }

  static constexpr double shown_s = 600;

  void draw_heat(const arc::BridgeAnalysis& b) {
    const Theme& t = workspace_.theme();
    const arc::Design& d = workspace_.document.design();
    heat_->clearGraphs();
    style_plot(*heat_, t);
    heat_->legend->setVisible(false);
    std::vector<std::pair<double, double>> points;
    constexpr int steps = 120;
    for (int i = 0; i <= steps; ++i) {
      const double s = shown_s * i / steps;
      points.emplace_back(s / 60, arc::junction_after_c(d, b.heat, b.plan, std::max(s, 1e-3)));
    }
    add_curve(
        *heat_, points, [](const auto& p) { return p.first; }, [](const auto& p) { return p.second; },
        QPen(t.arc, 1.6), "junction");
    const double limit = d.bridge.device.junction_limit_c;
    const std::vector<double> ends{0, shown_s / 60};
    add_curve(
        *heat_, ends, [](double x) { return x; }, [limit](double) { return limit; },
        QPen(t.stop, 1.2, Qt::DashLine), "limit");
    heat_->xAxis->setLabel("Running, minutes");
    heat_->yAxis->setLabel("Junction, °C");
    heat_->xAxis->setRange(0, shown_s / 60);
    double high = limit;
    for (const auto& p : points) high = std::max(high, p.second);
    heat_->yAxis->setRange(d.site.air_temperature_c - 5, std::min(high * 1.1, 4 * limit));
    heat_->replot(QCustomPlot::rpQueuedReplot);
  }

  void read_heat(double minutes) {
    const auto b = bridge();
    if (!b || !b->problem.empty() || !b->plan_problem.empty()) return;
    const double s = std::clamp(minutes * 60, 1e-3, shown_s);
    heat_->set_cursor(s / 60);
    said_->setText(
        QString("After %1: junction %2 at the end of a burst")
            .arg(print(s, time),
                 print(arc::junction_after_c(workspace_.document.design(), b->heat, b->plan, s), temperature)));
  }

  QLabel* said_ = nullptr;
  PulseView* view_ = nullptr;
  std::map<std::string, QuantityField*> fields_;
  FigureList* figures_ = nullptr;
  CursorPlot* heat_ = nullptr;
};

} // namespace

QWidget* make_gate_stage(Workspace& workspace, QWidget* parent) {
  return new GateStage(workspace, parent);
}
