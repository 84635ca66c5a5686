// Switch: the gap, static or rotary, and the simulated shot: waveforms with a cursor, an earlier shot kept for
// comparison, figures with their bands, and what a single change would bring. Shows the document's simulation;
// computes nothing.
#include "craft/design_fields.h"
#include "crafts/spark_gap/spark_gap.h"
#include "crafts/spark_gap/window.h"
#include "model/fields.h"
#include "parts/gap.h"
#include "stages/run_stage.h"
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

constexpr RunWords shot_words{.stage = "switch",
                              .head = "shot",
                              .run = "shot",
                              .one = "this break",
                              .file = "shot",
                              .cursor = "shot cursor",
                              .figures = "shot figures",
                              .merit = "the same watts",
                              .changes = "single changes",
                              .make = "make change",
                              .cannot = "No break can be simulated"};

class SwitchStage : public RunStage<arc::SparkGapPower> {
 public:
  SwitchStage(Workspace& workspace, QWidget* parent) : RunStage(workspace, shot_words, parent) {
    upper_->addLayout(make_tools());
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    auto* plots = new QVBoxLayout;
    plots->setSpacing(0);
    top_ = add_plot("top voltage plot", "Top voltage after the gap fires", 68, 68);
    bottom_ = add_plot("primary current plot", "Primary current and energies after the gap fires", 68, 68);
    for (CursorPlot* plot : plots_)
      connect(plot, &CursorPlot::cursor_moved, this, [this](double us) { read_at(us * 1e-6); });
    plots->addWidget(top_, 1);
    plots->addWidget(bottom_, 1);
    middle->addLayout(plots, 1);
    middle->addWidget(make_run_side(226, 244));
    qobject_cast<QVBoxLayout*>(side_->layout())->insertWidget(0, cursor_);
    upper_->addLayout(middle, 1);
    column_->addWidget(make_panel());
    bottom_->setToolTip("Copper: current. Dashes: energy in the tank circuit. Dash-dot: energy in the resonator. " +
                        top_->toolTip());
    follow(top_, bottom_);
    follow(bottom_, top_);
    connect(&workspace_.document, &Document::analysis_changed, this, &SwitchStage::refresh_gap);
    connect(&workspace_.document, &Document::opened, this, [this] { with_rotor_ = false; });
  }

 protected:
  void showEvent(QShowEvent* event) override {
    refresh_gap();
    RunStage::showEvent(event);
  }

 private:
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
    quench_ = make_choice(
        row, "quench notch", "When the gap opens",
        {"Natural quench", "Quench at the first notch", "Quench at the second notch", "Quench at the third notch"});
    quench_->setCurrentIndex(workspace_.document.power_options().quench_notch);
    lumped_ = make_choice(row, "resonator model", "How the resonator is simulated",
                          {"Three modes of the winding", "One lumped circuit"});
    add_tools(row);
    row->addStretch();
    return row;
  }

  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    FieldGrid fields(workspace_, panel, 5);
    for (const char* key :
         {"gap.gaps_in_series", "gap.spacing_m", "gap.electrode_diameter_m", "gap.firing_voltage_v",
          "gap.break_rate_hz", "gap.arc_drop_v", "gap.arc_resistance_ohm"}) {
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
    fields.put("Electrode shape", shape_);
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
    auto* first = new QHBoxLayout;
    first->addWidget(rotor_, 1);
    fold_ = new QPushButton("Rotary gap", panel);
    fold_->setObjectName("rotary gap");
    fold_->setProperty("link", true);
    fold_->setFont(type::font(type::caption, QFont::Medium));
    fold_->setToolTip("Shows the numbers of a rotor");
    connect(fold_, &QPushButton::clicked, this, [this] {
      with_rotor_ = true;
      refresh_gap();
      rotor_fields_.front()->setFocus();
    });
    first->addWidget(fold_);
    words->addLayout(first);
    words->addWidget(adopt_, 0, Qt::AlignLeft);
    fields.put_wide(words, 2);
    for (const char* key : {"gap.rotary_electrodes", "gap.rotor_speed_hz", "gap.rotor_radius_m",
                            "gap.rotor_clearance_m", "gap.rotor_phase_deg"})
      rotor_fields_.push_back(fields.number(key));
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
    // A row of numbers that a static gap has no use for; the plots have the room.
    const bool rotor = with_rotor_ || design.gap.rotary_electrodes || design.gap.rotor_speed_hz;
    for (QuantityField* field : rotor_fields_) field->parentWidget()->setVisible(rotor);
    fold_->setVisible(!rotor);
    const auto computed = arc::computed_firing_v(design.gap, design.site);
    adopt_->setEnabled(computed.has_value());
    adopt_->setText(computed ? QString("Fires at %1: take it").arg(print(*computed, arc::Dimension::voltage))
                             : "Needs spacing and electrode");
    const arc::GapModel model = arc::gap_model(design.gap, design.site);
    adopt_->setVisible(computed || !model.rotary()); // a rotor alone has no static gap to compute
    rotor_->setText(!model.rotary() ? QString("Static gap")
                                    : QString("%1 presentations a second, %2; fires from %3 up")
                                          .arg(model.rate_hz, 0, 'f', 0)
                                          .arg(design.gap.rotor_phase_deg ? "locked to the mains" : "free-running",
                                               print(model.threshold_v(model.first_s), arc::Dimension::voltage)));
  }

  std::string problem_of(const arc::SparkGapPower& power) const override {
    if (!power.shot_problem.empty()) return power.shot_problem;
    return power.shot.samples.empty() ? "There are no waveforms yet." : "";
  }

  void show_words(const arc::SparkGapPower& power) override {
    const arc::ShotResult& shot = power.shot;
    const auto couplings = arc::complete_transfer_couplings();
    const double k = workspace_.document.analysis()->circuit.coupling;
    const double nearest = *std::ranges::min_element(couplings, {}, [k](double c) { return std::abs(c - k); });
    head_.verdict->setText(QString("%1 at the top after %2, %3 of the energy across")
                               .arg(print(shot.top_peak_v, arc::Dimension::voltage),
                                    print(shot.top_peak_s, arc::Dimension::time),
                                    figures_->percent("shot", "secondary_peak_j")));
    head_.reason->setText(
        QString("First notch at %1%2. k %3; the nearest coupling of complete transfer is %4 (%5 the "
                "primary). %6%7")
            .arg(print(shot.first_notch_s, arc::Dimension::time),
                 shot.quench_s ? ", gap opens at " + print(*shot.quench_s, arc::Dimension::time) : QString())
            .arg(k, 0, 'f', 3)
            .arg(nearest, 0, 'f', 3)
            .arg(nearest > k ? "raise" : "lower")
            .arg(QString::fromStdString(arc::quench_advice(power, workspace_.document.design())),
                 QString(shot.breakout_s ? "" : " Nothing breaks out in this break.") +
                     (shot.cut_s ? " Only " + print(*shot.cut_s, arc::Dimension::time) +
                                       " were followed: the current reverses too often."
                                 : QString())));
  }

  void draw() override {
    const auto power = solved();
    if (!power || !isVisible()) return;
    const arc::ShotResult& shot = power->shot;
    const Theme& t = workspace_.theme();
    const double end_us = std::min(shot.samples.back().time_s, std::max(6 * shot.first_notch_s, 40e-6)) * 1e6;
    const auto fill = [](QCustomPlot* plot, const arc::ShotResult& from, double arc::ShotSample::*member,
                         double unit, const QPen& pen, const QString& name, QCPAxis* axis = nullptr) {
      add_curve(
          *plot, from.samples, [](const arc::ShotSample& s) { return s.time_s * 1e6; },
          [=](const arc::ShotSample& s) { return s.*member / unit; }, pen, name, axis);
    };
    begin_plots(120);
    for (CursorPlot* plot : plots_) // both time axes under each other
      plot->axisRect()->setMinimumMargins(QMargins(62, 6, 56, 0));
    top_->yAxis2->setVisible(false);
    top_->legend->setVisible(kept_ != nullptr);
    top_->yAxis->setLabel("Top, kV");
    bottom_->yAxis->setLabel("Primary, A");
    bottom_->yAxis2->setLabel("Energy, J");
    bottom_->xAxis->setLabel("Time after firing, µs");
    const QPen grey(t.second, 1, Qt::DotLine);
    if (kept_) fill(top_, kept_->shot, &arc::ShotSample::top_v, 1e3, grey, "kept");
    fill(top_, shot, &arc::ShotSample::top_v, 1e3, QPen(t.arc, 1.4), "now");
    if (kept_) fill(bottom_, kept_->shot, &arc::ShotSample::primary_a, 1, grey, "kept");
    fill(bottom_, shot, &arc::ShotSample::primary_a, 1, QPen(t.copper, 1.2), "current");
    fill(bottom_, shot, &arc::ShotSample::primary_j, 1, QPen(t.ink, 1.4, Qt::DashLine), "tank, J", bottom_->yAxis2);
    fill(bottom_, shot, &arc::ShotSample::secondary_j, 1, QPen(t.settled, 1.4, Qt::DashDotLine), "resonator, J",
         bottom_->yAxis2);
    for (QCustomPlot* plot : plots_) {
      frame_curves(*plot);
      plot->xAxis->setRange(0, end_us);
      plot->replot(QCustomPlot::rpQueuedReplot);
    }
    read_at(shot.top_peak_s);
  }

  // All values at one instant, in words beside the plots.
  void read_at(double time_s) {
    const auto power = part();
    if (!power || power->shot.samples.size() < 2) return;
    const arc::ShotSample& s = sample_at(power->shot.samples, time_s);
    for (CursorPlot* plot : {top_, bottom_}) plot->set_cursor(s.time_s * 1e6);
    cursor_->setText(QString("At %1: top %2, primary %3, tank %4, coil base %5")
                         .arg(print(s.time_s, arc::Dimension::time), print(s.top_v, arc::Dimension::voltage),
                              print(s.primary_a, arc::Dimension::current), print(s.tank_v, arc::Dimension::voltage),
                              print(s.base_a, arc::Dimension::current)));
  }

  std::string csv(const arc::SparkGapPower& power) const override { return arc::shot_csv(power.shot); }
  std::string deck(const arc::SparkGapPower& power) const override {
    arc::ShotOptions options;
    options.quench_notch = workspace_.document.power_options().quench_notch;
    return arc::shot_netlist(power.circuit, options, power.shot.quench_s, workspace_.document.design().name);
  }

  QComboBox* quench_ = nullptr;
  QComboBox* lumped_ = nullptr;
  QComboBox* shape_ = nullptr;
  QPushButton* adopt_ = nullptr;
  QPushButton* fold_ = nullptr;
  std::vector<QuantityField*> rotor_fields_;
  bool with_rotor_ = false; // asked for, before there is one
  QLabel* rotor_ = nullptr;
  CursorPlot* top_ = nullptr;
  CursorPlot* bottom_ = nullptr;
};

} // namespace

QWidget* make_switch_stage(Workspace& workspace, QWidget* parent) {
  return new SwitchStage(workspace, parent);
}
