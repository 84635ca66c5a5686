// Switch: the gap, static or rotary, and the simulated shot: waveforms with a cursor, an earlier shot kept for
// comparison, figures with their bands, and what a single change would bring. Shows the document's simulation;
// computes nothing.
#include "crafts/spark_gap/spark_gap.h"
#include "model/fields.h"
#include "parts/gap.h"
#include "stages/simulated_stage.h"
#include "stages/stage.h"
#include "toolkit/common.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/field_grid.h"
#include "toolkit/figure_list.h"
#include "toolkit/plot.h"
#include "toolkit/quantity_field.h"
#include "toolkit/single_changes.h"

#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QResizeEvent>
#include <QVBoxLayout>
#include <cmath>
#include <map>

namespace {

class SwitchStage : public SimulatedStage {
 public:
  SwitchStage(Workspace& workspace, QWidget* parent) : SimulatedStage(workspace, "switch", parent, "shot") {
    upper_->addLayout(make_tools());
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    auto* plots = new QVBoxLayout;
    plots->setSpacing(0);
    top_ = make_plot("top voltage plot", "Top voltage after the gap fires");
    bottom_ = make_plot("primary current plot", "Primary current and energies after the gap fires");
    plots->addWidget(top_, 1);
    plots->addWidget(bottom_, 1);
    middle->addLayout(plots, 1);
    middle->addWidget(make_side());
    upper_->addLayout(middle, 1);
    column_->addWidget(make_panel());
    bottom_->setToolTip("Copper: current. Dashes: energy in the tank circuit. Dash-dot: energy in the resonator. " +
                        top_->toolTip());
    follow(top_, bottom_);
    follow(bottom_, top_);
    connect(&workspace_.document, &Document::design_changed, this, &SwitchStage::refresh_make);
    connect(&workspace_.document, &Document::opened, this, [this] { kept_.reset(); });
    connect(&workspace_.document, &Document::analysis_changed, this, &SwitchStage::refresh_gap);
  }

 protected:
  void showEvent(QShowEvent* event) override {
    refresh_gap();
    SimulatedStage::showEvent(event);
  }

 private:
  CursorPlot* make_plot(const char* name, const char* words) {
    auto* plot = new CursorPlot(workspace_, name, words, this);
    plot->setMinimumHeight(84);
    plot->axisRect()->setAutoMargins(QCP::msTop | QCP::msBottom); // one time axis for both, above each other
    plot->axisRect()->setMargins({68, 0, 68, 0});
    connect(plot, &CursorPlot::cursor_moved, this, [this](double us) { read_at(us * 1e-6); });
    connect(plot, &CursorPlot::whole_wanted, this, [this] { draw(); });
    return plot;
  }

  // Both plots show the same time.
  void follow(QCustomPlot* leader, QCustomPlot* follower) {
    connect(leader->xAxis, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), follower,
            [follower](const QCPRange& range) {
              if (follower->xAxis->range() == range) return;
              follower->xAxis->setRange(range);
              follower->replot(QCustomPlot::rpQueuedReplot);
            });
  }

  QComboBox* make_choice(QLayout* row, const char* name, const char* words, const QStringList& items) {
    auto* box = new QComboBox(this);
    box->setObjectName(name);
    box->setAccessibleName(words);
    box->addItems(items);
    connect(box, &QComboBox::activated, this, &SwitchStage::choose);
    row->addWidget(box);
    return box;
  }

  QLayout* make_tools() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    quench_ = make_choice(row, "quench notch", "When the gap opens",
                          {"Gap opens by itself", "Quench at the first notch", "Quench at the second notch",
                           "Quench at the third notch"});
    quench_->setCurrentIndex(workspace_.document.power_options().quench_notch);
    lumped_ = make_choice(row, "resonator model", "How the resonator is simulated",
                          {"Three modes of the winding", "One lumped circuit"});
    keep_ = new QPushButton("Keep", this);
    keep_->setObjectName("keep shot");
    keep_->setToolTip("Draws this shot in grey behind the next ones, for comparison");
    connect(keep_, &QPushButton::clicked, this, [this] {
      if (const auto power = workspace_.document.power_of<arc::SparkGapPower>()) kept_ = power;
      draw();
    });
    row->addWidget(keep_);
    auto* save = new QPushButton("Export…", this);
    save->setObjectName("export shot");
    save->setToolTip("Waveforms as CSV, a picture as SVG or PNG, or the circuit as a SPICE deck");
    connect(save, &QPushButton::clicked, this, &SwitchStage::export_shot);
    row->addWidget(save);
    row->addStretch();
    return row;
  }

  QWidget* make_side() {
    set_side(new QWidget(this));
    auto* column = new QVBoxLayout(side_);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    cursor_ = caption_label({}, side_);
    cursor_->setObjectName("shot cursor");
    cursor_->setWordWrap(true);
    column->addWidget(cursor_);
    figures_ = new FigureList(workspace_, "switch", "shot figures", side_);
    column->addWidget(figures_, 3);
    changes_ =
        new SingleChanges(workspace_, "Single changes, for the same watts", "single changes", "make change", side_);
    column->addWidget(changes_, 2);
    return side_;
  }

  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    FieldGrid fields(workspace_, panel, 5);
    for (const char* key :
         {"gap.gaps_in_series", "gap.spacing_m", "gap.electrode_diameter_m", "gap.firing_voltage_v",
          "gap.break_rate_hz", "gap.rotary_electrodes", "gap.rotor_speed_hz", "gap.rotor_radius_m",
          "gap.rotor_clearance_m", "gap.rotor_phase_deg", "gap.arc_drop_v", "gap.arc_resistance_ohm"}) {
      QuantityField* field = fields.number(key);
      // The tank stage has its own fields of these two names; a finding leads there.
      if (QString(key) == "gap.firing_voltage_v" || QString(key) == "gap.break_rate_hz")
        field->setObjectName(QString("switch ") + key);
    }
    shape_ = new QComboBox(panel);
    shape_->setObjectName("electrode shape");
    shape_->setAccessibleName("Shape of the static gap's electrodes");
    for (const arc::Choice& choice : arc::design_choice("gap.electrode_shape").choices)
      shape_->addItem(text_of(choice.title));
    connect(shape_, &QComboBox::activated, this, [this](int index) {
      workspace_.document.edit("Electrode shape", [index](arc::Design& design) {
        design.gap.electrode_shape = static_cast<arc::ElectrodeShape>(index);
      });
    });
    fields.put("Electrodes are", shape_);
    adopt_ = new QPushButton(panel);
    adopt_->setObjectName("adopt firing voltage");
    adopt_->setProperty("link", true);
    adopt_->setFont(type::font(type::caption, QFont::Medium));
    adopt_->setToolTip("What this gap fires at, cold, in clean air, within 3 %; a hot gap fires 10 to 30 % lower. "
                       "Of the static gap.");
    connect(adopt_, &QPushButton::clicked, this, [this] {
      workspace_.document.edit("Firing voltage from the gap", [](arc::Design& design) {
        if (const auto v = arc::computed_firing_v(design.gap, design.site))
          design.gap.firing_voltage_v = std::round(*v);
      });
    });
    rotor_ = caption_label({}, panel);
    rotor_->setObjectName("rotor words");
    rotor_->setWordWrap(true);
    auto* words = new QVBoxLayout;
    words->setSpacing(0);
    words->addStretch();
    words->addWidget(rotor_);
    words->addWidget(adopt_, 0, Qt::AlignLeft);
    fields.put_wide(words, 2);
    return panel;
  }

  void choose() {
    arc::PowerOptions options = workspace_.document.power_options();
    options.quench_notch = quench_->currentIndex();
    options.lumped = lumped_->currentIndex() == 1;
    workspace_.document.set_power_options(options);
  }

  void refresh_gap() {
    if (!isVisible()) return;
    const arc::Design& design = workspace_.document.design();
    shape_->setCurrentIndex(static_cast<int>(design.gap.electrode_shape));
    const auto computed = arc::computed_firing_v(design.gap, design.site);
    adopt_->setEnabled(computed.has_value());
    adopt_->setText(computed ? QString("Fires at %1: take it").arg(print(*computed, arc::Dimension::voltage))
                             : "Needs spacing and electrode");
    const arc::GapModel model = arc::gap_model(design.gap, design.site);
    adopt_->setVisible(computed || !model.rotary()); // a rotor alone has no static gap to compute
    rotor_->setText(!model.rotary() ? QString("Static gap")
                                    : QString("%1 presentations each second, %2; fires from %3 up")
                                          .arg(model.rate_hz, 0, 'f', 0)
                                          .arg(design.gap.rotor_phase_deg ? "locked to the mains" : "free-running",
                                               print(model.threshold_v(model.first_s), arc::Dimension::voltage)));
  }

  void refresh() override {
    if (!isVisible()) return;
    const auto power = workspace_.document.power_of<arc::SparkGapPower>();
    const bool shot = power && power->shot_problem.empty() && !power->shot.samples.empty();
    keep_->setEnabled(shot);
    keep_->setToolTip(shot ? "Draws this shot in grey behind the next ones, for comparison"
                           : "There is no shot yet");
    if (!shot) {
      head_.verdict->setText(power ? "No shot can be simulated" : "Being simulated…");
      head_.reason->setText(power ? QString::fromStdString(power->shot_problem) : QString());
      figures_->setRowCount(0);
      changes_->show_rows({});
      refresh_make();
      for (QCustomPlot* plot : {top_, bottom_}) {
        plot->clearGraphs();
        style_plot(*plot, workspace_.theme());
        plot->legend->setVisible(false);
        plot->replot();
      }
      return;
    }
    show_words(*power);
    figures_->refresh();
    show_changes(*power);
    draw();
  }

  void show_words(const arc::SparkGapPower& power) {
    const arc::ShotResult& shot = power.shot;
    const auto couplings = arc::complete_transfer_couplings();
    const double k = workspace_.document.analysis()->circuit.coupling;
    const double nearest = *std::ranges::min_element(couplings, {}, [k](double c) { return std::abs(c - k); });
    head_.verdict->setText(
        QString("%1 at the top after %2, %3 % of the energy across")
            .arg(print(shot.top_peak_v, arc::Dimension::voltage), print(shot.top_peak_s, arc::Dimension::time))
            .arg(100 * shot.secondary_peak_j / shot.tank_energy_j, 0, 'f', 0));
    head_.reason->setText(
        QString("First notch at %1%2. k %3; the nearest coupling of complete transfer is %4 (%5 the "
                "primary). %6%7")
            .arg(print(shot.first_notch_s, arc::Dimension::time),
                 shot.quench_s ? ", gap opens at " + print(*shot.quench_s, arc::Dimension::time) : QString())
            .arg(k, 0, 'f', 3)
            .arg(nearest, 0, 'f', 3)
            .arg(nearest > k ? "raise" : "lower")
            .arg(QString::fromStdString(arc::quench_advice(power, workspace_.document.design())),
                 QString(shot.breakout_s ? "" : " Nothing breaks out in this shot.") +
                     (shot.cut_s ? " Only " + print(*shot.cut_s, arc::Dimension::time) +
                                       " were followed: the current reverses too often."
                                 : QString())));
  }

  void show_changes(const arc::SparkGapPower& power) {
    std::vector<SingleChanges::Row> rows;
    for (const arc::TrialChange& change : power.changes) {
      const bool arcs = change.arc_ratio > 0;
      rows.push_back(SingleChanges::row_of(
          change, change.arc_ratio, arcs ? gain_text(change.arc_ratio) : "no arc",
          arcs ? QString() : "Nothing crosses to the resonator then, or nothing does now to compare with"));
    }
    changes_->show_rows(std::move(rows));
    refresh_make();
  }

  void refresh_make() {
    changes_->refresh();
    show_age({figures_, head_.verdict, head_.reason});
  }

  void draw() {
    const auto power = workspace_.document.power_of<arc::SparkGapPower>();
    if (!power || power->shot.samples.empty() || !isVisible()) return;
    const arc::ShotResult& shot = power->shot;
    const Theme& t = workspace_.theme();
    const double end_us = std::min(shot.samples.back().time_s, std::max(6 * shot.first_notch_s, 40e-6)) * 1e6;
    const auto fill = [](QCustomPlot* plot, const arc::ShotResult& from, double arc::ShotSample::*member,
                         double unit, const QPen& pen, const QString& name, QCPAxis* axis = nullptr) {
      add_curve(
          *plot, from.samples, [](const arc::ShotSample& s) { return s.time_s * 1e6; },
          [=](const arc::ShotSample& s) { return s.*member / unit; }, pen, name, axis);
    };
    for (QCustomPlot* plot : {top_, bottom_}) {
      plot->clearGraphs();
      style_plot(*plot, t);
      lay_legend_flat(*plot);
      plot->axisRect()->setMinimumMargins(QMargins(62, 6, 56, 0)); // both time axes under each other
    }
    top_->legend->setVisible(kept_ != nullptr);
    bottom_->legend->setVisible(bottom_->height() >= 120 && bottom_->width() >= 400);
    top_->yAxis->setLabel("Top, kV");
    bottom_->yAxis->setLabel("Primary, A");
    bottom_->yAxis2->setLabel("Energy, J");
    bottom_->yAxis2->setVisible(true);
    bottom_->xAxis->setLabel("Time after firing, µs");
    const QPen grey(t.second, 1, Qt::DotLine);
    if (kept_) fill(top_, kept_->shot, &arc::ShotSample::top_v, 1e3, grey, "kept");
    fill(top_, shot, &arc::ShotSample::top_v, 1e3, QPen(t.arc, 1.4), "now");
    if (kept_) fill(bottom_, kept_->shot, &arc::ShotSample::primary_a, 1, grey, "kept");
    fill(bottom_, shot, &arc::ShotSample::primary_a, 1, QPen(t.copper, 1.2), "current");
    fill(bottom_, shot, &arc::ShotSample::primary_j, 1, QPen(t.ink, 1.4, Qt::DashLine), "tank, J", bottom_->yAxis2);
    fill(bottom_, shot, &arc::ShotSample::secondary_j, 1, QPen(t.settled, 1.4, Qt::DashDotLine), "resonator, J",
         bottom_->yAxis2);
    for (QCustomPlot* plot : {top_, bottom_}) {
      frame_curves(*plot);
      plot->xAxis->setRange(0, end_us);
      if (plot->legend->visible()) // room for it above the curves
        for (QCPAxis* axis : {plot->yAxis, plot->yAxis2})
          axis->setRangeUpper(axis->range().upper + 0.3 * axis->range().size());
      plot->replot(QCustomPlot::rpQueuedReplot);
    }
    read_at(shot.top_peak_s);
  }

  // All values at one instant, in words beside the plots.
  void read_at(double time_s) {
    const auto power = workspace_.document.power_of<arc::SparkGapPower>();
    if (!power || power->shot.samples.size() < 2) return;
    const arc::ShotSample& s = sample_at(power->shot.samples, time_s);
    for (CursorPlot* plot : {top_, bottom_}) plot->set_cursor(s.time_s * 1e6);
    cursor_->setText(QString("At %1: top %2, primary %3, tank %4, foot %5")
                         .arg(print(s.time_s, arc::Dimension::time), print(s.top_v, arc::Dimension::voltage),
                              print(s.primary_a, arc::Dimension::current), print(s.tank_v, arc::Dimension::voltage),
                              print(s.base_a, arc::Dimension::current)));
  }

  void export_shot() {
    const auto power = workspace_.document.power_of<arc::SparkGapPower>();
    if (!power || !power->shot_problem.empty()) return;
    const QString words = export_plot(
        *top_, "shot", [&] { return arc::shot_csv(power->shot); },
        [&] {
          arc::ShotOptions options;
          options.quench_notch = workspace_.document.power_options().quench_notch;
          return arc::shot_netlist(power->circuit, options, power->shot.quench_s,
                                   workspace_.document.design().name);
        });
    if (!words.isEmpty()) cursor_->setText(words);
  }

  QLabel* cursor_ = nullptr;
  QComboBox* quench_ = nullptr;
  QComboBox* lumped_ = nullptr;
  QPushButton* keep_ = nullptr;
  QComboBox* shape_ = nullptr;
  QPushButton* adopt_ = nullptr;
  QLabel* rotor_ = nullptr;
  FigureList* figures_ = nullptr;
  SingleChanges* changes_ = nullptr;
  CursorPlot* top_ = nullptr;
  CursorPlot* bottom_ = nullptr;
  std::shared_ptr<const arc::SparkGapPower> kept_;
};

} // namespace

QWidget* make_switch_stage(Workspace& workspace, QWidget* parent) {
  return new SwitchStage(workspace, parent);
}
