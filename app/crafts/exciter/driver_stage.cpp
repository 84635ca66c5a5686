// Driver: what drives an exciter. Transistor, bias, clamp, supply and heat sink with their fields; the simulated
// oscillation over its last cycles; how long it runs over supply volts; single changes ranked. Shows the document's
// simulation; computes nothing.
#include "crafts/exciter/exciter.h"

#include "crafts/exciter/window.h"
#include "model/fields.h"
#include "stages/first_fault_sheet.h"
#include "stages/run_stage.h"
#include "stages/stage.h"
#include "toolkit/choice_box.h"
#include "toolkit/class_box.h"
#include "toolkit/common.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/field_grid.h"
#include "toolkit/figure_list.h"
#include "toolkit/number_sheet.h"
#include "toolkit/plot.h"
#include "toolkit/quantity_field.h"
#include "toolkit/single_changes.h"

#include <QComboBox>
#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace {

using enum arc::Dimension;

// The numbers of the transistor's law and ratings, and the way to get them from a data sheet.
class TransistorSheet : public NumberSheet {
 public:
  TransistorSheet(Workspace& workspace, QWidget* parent)
      : NumberSheet(workspace, "transistor", "Transistor", 4, parent) {
    column_->addWidget(heading("From the data sheet"));
    auto* sheet_grid = new QGridLayout;
    sheet_grid->setHorizontalSpacing(space::medium);
    column_->addLayout(sheet_grid);
    mos_ = workspace.document.design().exciter.transistor.type == arc::TransistorType::mos;
    if (mos_)
      add_field_effect(sheet_grid);
    else
      add_junction(sheet_grid);
    problem_ = make_problem();
    column_->addWidget(problem_);
    auto* take = new QPushButton("Fit model to data sheet", this);
    take->setObjectName("take sheet");
    take->setAutoDefault(false);
    connect(take, &QPushButton::clicked, this, &TransistorSheet::take);
    column_->addWidget(take, 0, Qt::AlignLeft);
    column_->addWidget(heading("Model parameters"));
    column_->addWidget(grid_of(mos_ ? field_effect_law : junction_law));
    column_->addWidget(heading("Ratings and heat"));
    column_->addWidget(grid_of(ratings));
    auto* words =
        caption_label("Junctions at 27 °C; gain does not fall with current; breakdown is not simulated.", this);
    column_->addWidget(words);
    auto* close = new QPushButton("Close", this);
    close->setAutoDefault(false);
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    column_->addWidget(close, 0, Qt::AlignRight);
  }

 private:
  using Keys = std::vector<const char*>;
  inline static const Keys junction_law{
      "exciter.transistor_saturation_current_a",   "exciter.transistor_forward_gain",
      "exciter.transistor_reverse_gain",           "exciter.transistor_emitter_junction_f",
      "exciter.transistor_collector_junction_f",   "exciter.transistor_transit_time_s",
      "exciter.transistor_reverse_transit_time_s", "exciter.transistor_base_resistance_ohm"};
  inline static const Keys field_effect_law{
      "exciter.transistor_threshold_v",    "exciter.transistor_transconductance_a_per_v2",
      "exciter.transistor_gate_source_f",  "exciter.transistor_gate_drain_f",
      "exciter.transistor_drain_source_f", "exciter.transistor_base_resistance_ohm"};
  inline static const Keys ratings{
      "exciter.transistor_voltage_rating_v",          "exciter.transistor_reverse_base_rating_v",
      "exciter.transistor_current_rating_a",          "exciter.transistor_junction_limit_c",
      "exciter.transistor_junction_k_per_w",          "exciter.transistor_case_k_per_w",
      "exciter.transistor_junction_capacity_j_per_k", "exciter.transistor_case_capacity_j_per_k"};

  void add_junction(QGridLayout* grid) {
    add_number(grid, "gain", "Current gain", number, 1, 1e5, junction_.gain);
    add_number(grid, "current", "At collector current", current, 1e-4, 100, junction_.current_a);
    add_number(grid, "base volts", "Base to emitter", voltage, 0.2, 2, junction_.base_emitter_v);
    add_number(grid, "transit frequency", "Transit frequency", frequency, 1e4, 1e11,
               junction_.transit_frequency_hz);
    add_number(grid, "output capacitance", "Output capacitance", capacitance, 1e-13, 1e-7, junction_.output_f);
    add_number(grid, "output volts", "At collector volts", voltage, 0.1, 1000, junction_.output_at_v);
    add_number(grid, "input capacitance", "Input capacitance", capacitance, 1e-13, 1e-7, junction_.input_f);
  }

  void add_field_effect(QGridLayout* grid) {
    add_number(grid, "threshold", "Gate threshold", voltage, 0.1, 20, field_effect_.threshold_v);
    add_number(grid, "on resistance", "On resistance", resistance, 1e-4, 1e3, field_effect_.on_resistance_ohm);
    add_number(grid, "gate volts", "At gate volts", voltage, 1, 30, field_effect_.at_gate_v);
    add_number(grid, "input capacitance", "Input, Ciss", capacitance, 1e-12, 1e-7, field_effect_.input_f);
    add_number(grid, "output capacitance", "Output, Coss", capacitance, 1e-12, 1e-7, field_effect_.output_f);
    add_number(grid, "feedback capacitance", "Feedback, Crss", capacitance, 1e-13, 1e-7, field_effect_.feedback_f);
  }

  void take() {
    problem_->clear();
    const arc::Transistor& now = workspace_.document.design().exciter.transistor;
    try {
      const arc::Transistor fitted =
          mos_ ? arc::transistor_from_sheet(now, field_effect_) : arc::transistor_from_sheet(now, junction_);
      workspace_.document.edit("Transistor from its data sheet",
                               [&](arc::Design& design) { design.exciter.transistor = fitted; });
    } catch (const std::invalid_argument& refusal) {
      problem_->setText(QString::fromUtf8(refusal.what()));
    }
  }

  bool mos_ = false;
  arc::JunctionSheet junction_;
  arc::FieldEffectSheet field_effect_;
  QLabel* problem_ = nullptr;
};

constexpr RunWords driver_words{.stage = "driver",
                                .head = "driver",
                                .run = "oscillation",
                                .one = "this oscillation",
                                .file = "oscillation",
                                .cursor = "driver cursor",
                                .figures = "oscillation figures",
                                .merit = "the same heat",
                                .changes = "exciter changes",
                                .make = "make exciter change",
                                .cannot = "The exciter cannot be simulated yet"};

class DriverStage : public RunStage<arc::ExciterAnalysis> {
 public:
  DriverStage(Workspace& workspace, QWidget* parent) : RunStage(workspace, driver_words, parent) {
    auto* tools = new QHBoxLayout;
    tools->setSpacing(space::small);
    add_tools(tools);
    tools->addWidget(cursor_, 1);
    upper_->addLayout(tools);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    auto* plots = new QVBoxLayout;
    plots->setSpacing(0);
    waves_ = add_plot("oscillation plot", "Collector and top over the last cycles", 78, 68);
    heat_ = add_plot("run time plot", "Heat in the transistor and junction over supply volts", 78, 68);
    plots->addWidget(waves_, 1);
    plots->addWidget(heat_, 1);
    connect(waves_, &CursorPlot::cursor_moved, this, [this](double ns) { read_wave(ns * 1e-9); });
    connect(heat_, &CursorPlot::cursor_moved, this, [this](double volts) { read_supply(volts); });
    middle->addLayout(plots, 1);
    middle->addWidget(make_run_side());
    upper_->addLayout(middle, 1);
    column_->addWidget(make_panel());
  }

 private:
  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    FieldGrid fields(workspace_, panel, 5);
    fields.put("Transistor", new ClassBox(
                                 workspace_, {"transistor class", "Transistor, by class", "Transistor", 12},
                                 arc::transistor_classes(), &arc::TransistorClass::part,
                                 [](auto& design) -> auto& { return design.exciter.transistor; },
                                 [this] { (new TransistorSheet(workspace_, this))->open(); }, panel));
    for (const char* key : {"exciter.supply_voltage_v", "exciter.supply_limit_a", "exciter.bias_resistance_ohm"})
      fields.number(key);
    ChoiceBox* clamp = fields.choice("At the base", "exciter.clamp");
    clamp->also([](arc::Design& design) {
      if (const auto usual = arc::usual_clamp(design.exciter.clamp)) design.exciter.clamp_diode = *usual;
    });
    clamp->setMinimumContentsLength(10);
    auto* sheet = new QPushButton("Values…", panel);
    sheet->setObjectName("transistor numbers");
    sheet->setProperty("narrow", true);
    sheet->setToolTip("Law and ratings of the transistor, and entry from a data sheet");
    connect(sheet, &QPushButton::clicked, this, [this] { (new TransistorSheet(workspace_, this))->open(); });
    auto* pins = new QPushButton("Pins…", panel);
    pins->setObjectName("check pins");
    pins->setProperty("narrow", true);
    pins->setToolTip(
        "Check the pins: meter readings that tell base, collector and emitter apart, before the first power");
    connect(pins, &QPushButton::clicked, this, [this] { show_first_fault_sheet(workspace_, window(), "pins"); });
    auto* both = new QWidget(panel);
    auto* beside = new QHBoxLayout(both);
    beside->setContentsMargins(0, 0, 0, 0);
    beside->setSpacing(space::hair);
    beside->addWidget(sheet, 1);
    beside->addWidget(pins, 1);
    fields.put("Data sheet", both);
    fields.put("Primary polarity", new ChoiceBox(workspace_, "exciter.primary_direction", panel));
    fields.number("exciter.sink_k_per_w");
    fields.number("exciter.sink_capacity_j_per_k");
    fields.put("Fan on the sink", new ChoiceBox(workspace_, "exciter.fan", panel));
    return panel;
  }

  void show_words(const arc::ExciterAnalysis& e) override {
    const arc::OscillationResult& r = e.oscillation;
    const arc::Design& design = workspace_.document.design();
    head_.verdict->setText(r.oscillates ? QString("%1 at the top, at %2")
                                              .arg(figures_->banded("oscillation", "top_peak_v"),
                                                   figures_->banded("oscillation", "frequency_hz"))
                                        : QString("It does not oscillate: the transistor just conducts"));
    QString words = QString::fromStdString(arc::run_time_words(e, design, workspace_.units()));
    if (r.oscillates)
      words += QString(" The base pulls the frequency %1 % from the coil's own.").arg(100 * r.pull(), 0, 'f', 1);
    if (r.oscillates && !r.steady)
      words += QString(" It swells and fades between %1 and %2.")
                   .arg(print(r.top_low_v, voltage), print(r.top_high_v, voltage));
    head_.reason->setText(words + measured_words());
  }

  void draw() override {
    const auto e = solved();
    if (!e || !isVisible()) return;
    begin_plots(150); // the legend never over the curves
    draw_waves(*e);
    draw_heat(*e);
    for (QCustomPlot* plot : plots_) plot->replot(QCustomPlot::rpQueuedReplot);
  }

  void draw_waves(const arc::ExciterAnalysis& e) {
    const Theme& t = workspace_.theme();
    const auto& samples = e.oscillation.samples;
    const auto ns = [](const arc::OscillationSample& s) { return s.time_s * 1e9; };
    const double top_unit = e.oscillation.top_peak_v > 2000 ? 1e3 : 1;
    if (kept_)
      add_curve(
          *waves_, kept_->oscillation.samples, ns, [](const arc::OscillationSample& s) { return s.collector_v; },
          QPen(t.second, 1, Qt::DotLine), "kept");
    add_curve(
        *waves_, samples, ns, [](const arc::OscillationSample& s) { return s.collector_v; }, QPen(t.copper, 1.4),
        "collector");
    add_curve(
        *waves_, samples, ns, [=](const arc::OscillationSample& s) { return s.top_v / top_unit; },
        QPen(t.arc, 1.4, Qt::DashLine), "top", waves_->yAxis2);
    waves_->xAxis->setLabel("Time, ns");
    waves_->yAxis->setLabel("Collector, V");
    waves_->yAxis2->setLabel(top_unit > 1 ? "Top, kV" : "Top, V");
    frame_curves(*waves_);
    if (!samples.empty()) waves_->xAxis->setRange(0, samples.back().time_s * 1e9);
    if (samples.size() > 1) read_wave(samples[samples.size() / 2].time_s);
  }

  void draw_heat(const arc::ExciterAnalysis& e) {
    const Theme& t = workspace_.theme();
    constexpr double shown_minutes = 60; // longer is drawn there, and means: goes on
    const auto volts = [](const arc::SupplyPoint& p) { return p.supply_v; };
    const auto seconds = [](const arc::SupplyPoint& p) { return p.run_time_s.value_or(shown_minutes * 60); };
    // Beyond the collector's rating it breaks down, which is not simulated: drawn grey, behind a line.
    const double rating_v = workspace_.document.design().exciter.transistor.voltage_rating_v;
    const auto limit_v = arc::supply_at_rating_v(e, rating_v);
    std::vector<arc::SupplyPoint> within, beyond;
    for (const arc::SupplyPoint& p : e.supply) (limit_v && p.supply_v > *limit_v ? beyond : within).push_back(p);
    if (!within.empty() && !beyond.empty()) beyond.insert(beyond.begin(), within.back());
    const auto shown = [&](const arc::SupplyPoint& p) { return std::clamp(seconds(p), 0.1, shown_minutes * 60); };
    auto* minutes = add_curve(*heat_, within, volts, shown, QPen(t.arc, 1.6), "runs for, 1 h at most");
    minutes->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, 5));
    if (!beyond.empty()) {
      add_curve(*heat_, beyond, volts, shown, QPen(t.second, 1.2, Qt::DotLine),
                "beyond " + print(rating_v, voltage));
      const std::array<double, 2> ends{0.1, shown_minutes * 60};
      auto* line = heat_->addGraph();
      line->setData({*limit_v, *limit_v}, {ends[0], ends[1]}, true);
      line->setPen(QPen(t.stop, 1.4));
      line->removeFromLegend();
    }
    auto* watts = add_curve(
        *heat_, e.supply, volts, [](const arc::SupplyPoint& p) { return p.dissipation_w; },
        QPen(t.copper, 1.4, Qt::DashLine), "heat, W", heat_->yAxis2);
    watts->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssSquare, 5));
    heat_->yAxis->setScaleType(QCPAxis::stLogarithmic);
    heat_->yAxis->setTicker(QSharedPointer<QCPAxisTickerLog>::create());
    heat_->xAxis->setLabel("Supply, V");
    heat_->yAxis->setLabel("Runs for, s");
    heat_->yAxis2->setLabel("Heat, W");
    heat_->yAxis->setRange(0.1, shown_minutes * 60 * 30); // room for the legend above what goes on for an hour
    if (e.supply.empty()) return;
    heat_->xAxis->setRange(0, e.supply.back().supply_v * 1.03);
    double most = 0;
    for (const arc::SupplyPoint& p : e.supply) most = std::max(most, p.dissipation_w);
    heat_->yAxis2->setRange(0, most * 1.1 + 1e-3);
    heat_->yAxis2->setRangeUpper(heat_->yAxis2->range().upper * 1.3);
    heat_->set_cursor(e.circuit.supply_v);
  }

  void read_wave(double time_s) {
    const auto e = part();
    if (!e || e->oscillation.samples.size() < 2) return;
    const arc::OscillationSample& s = sample_at(e->oscillation.samples, time_s);
    waves_->set_cursor(s.time_s * 1e9);
    cursor_->setText(QString("At %1: collector %2, %3; base %4; top %5; coil base %6")
                         .arg(print(s.time_s, time), print(s.collector_v, voltage), print(s.collector_a, current),
                              print(s.base_v, voltage), print(s.top_v, voltage), print(s.foot_a, current)));
  }

  void read_supply(double volts) {
    const auto e = part();
    if (!e || e->supply.empty()) return;
    const arc::SupplyPoint& p = nearest_point(e->supply, volts, &arc::SupplyPoint::supply_v);
    heat_->set_cursor(p.supply_v);
    cursor_->setText(QString("At %1: %2 in the transistor, top %3, collector to %4; %5")
                         .arg(print(p.supply_v, voltage), print(p.dissipation_w, power), print(p.top_v, voltage),
                              print(p.collector_peak_v, voltage),
                              p.collector_peak_v > workspace_.document.design().exciter.transistor.voltage_rating_v
                                  ? QString("beyond its rating: it breaks down")
                              : p.run_time_s ? "runs for " + print(*p.run_time_s, time, 2)
                                             : "junction settles at " + print(p.junction_c, temperature)));
  }

  std::string csv(const arc::ExciterAnalysis& e) const override { return arc::oscillation_csv(e.oscillation); }
  std::string deck(const arc::ExciterAnalysis& e) const override {
    return arc::oscillation_netlist(e.circuit, e.oscillation, workspace_.document.design().name);
  }

  CursorPlot* waves_ = nullptr;
  CursorPlot* heat_ = nullptr;
};

} // namespace

QWidget* make_driver_stage(Workspace& workspace, QWidget* parent) {
  return new DriverStage(workspace, parent);
}
