// Oscillator: the tube's circuit with live volts, amperes and watts at its parts; whole cycles, radio frequency and
// what a number's change does as plots; single changes ranked. Shows the document's simulation; computes nothing.
#include "crafts/tubes/tube.h"
#include "crafts/tubes/tube_schematic.h"
#include "crafts/tubes/tube_sheets.h"
#include "crafts/tubes/window.h"
#include "feed/trip_curve.h"
#include "model/fields.h"
#include "parts/tube.h"
#include "stages/run_stage.h"
#include "stages/stage.h"
#include "toolkit/choice_box.h"
#include "toolkit/circuit_view.h"
#include "toolkit/class_box.h"
#include "toolkit/common.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/field_grid.h"
#include "toolkit/figure_list.h"
#include "toolkit/map_panel.h"
#include "toolkit/plot.h"
#include "toolkit/quantity_field.h"
#include "toolkit/single_changes.h"

#include <QAbstractItemView>
#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <vector>

namespace {

using enum arc::Dimension;

constexpr RunWords tube_words{.stage = "oscillator",
                              .head = "oscillator",
                              .run = "tube run",
                              .one = "this run",
                              .file = "tube",
                              .cursor = "tube cursor",
                              .figures = "tube figures",
                              .merit = "the same plate heat",
                              .changes = "tube changes",
                              .make = "make tube change",
                              .cannot = "The oscillator cannot be simulated yet"};

class OscillatorStage : public RunStage<arc::TubePower> {
 public:
  OscillatorStage(Workspace& workspace, QWidget* parent) : RunStage(workspace, tube_words, parent) {
    quick_ = caption_label({}, this);
    quick_->setObjectName("tube quick");
    quick_->setToolTip("By the first-harmonic balance, at once; the full run follows");
    upper_->addWidget(quick_);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    auto* left = new QVBoxLayout;
    left->setSpacing(space::hair);
    circuit_ = new CircuitView(workspace_, "oscillator circuit",
                               "The oscillator's circuit; arrow keys go from part to part, Enter to its field",
                               "oscillator.svg", this);
    left->addWidget(circuit_, 5);
    left->addLayout(make_tools());
    left->addWidget(cursor_);
    // In a low window one of the two is seen.
    circuit_seen_ = new QPushButton("Circuit", this);
    circuit_seen_->setObjectName("circuit seen");
    circuit_seen_->setCheckable(true);
    circuit_seen_->setChecked(true);
    circuit_seen_->setToolTip("The circuit, or plot and figures in its place");
    connect(circuit_seen_, &QPushButton::toggled, this, [this] { make_room(); });
    tools_->insertWidget(0, circuit_seen_);
    plot_ = add_plot("tube plot", "Supply and top over whole cycles", 0, 0, 96);
    plot_->axisRect()->setAutoMargins(QCP::msAll); // it stands alone
    connect(plot_, &CursorPlot::cursor_moved, this, [this](double x) { read_at(x); });
    views_ = new QStackedWidget(this);
    views_->addWidget(plot_);
    static constexpr MapPanel::Names map_names{.plot = "tube map",
                                               .plot_words = "Output over two numbers of the oscillator",
                                               .shows = "tube map shows",
                                               .take = "take from tube map",
                                               .take_words = "Take these",
                                               .step = "Both from the map"};
    map_ = new MapPanel(
        workspace_, map_names, [this](const QString& words) { cursor_->setText(words); }, views_);
    views_->addWidget(map_);
    left->addWidget(views_, 4);
    middle->addLayout(left, 1);
    middle->addWidget(make_run_side(234, 256));
    upper_->addLayout(middle, 1);
    column_->addWidget(tube_panel_ = make_panel());
    column_->addWidget(flame_panel_ = make_flame_panel());
    connect(&workspace_.document, &Document::design_changed, this, &OscillatorStage::refresh_parts);
    connect(&workspace_.document, &Document::analysis_changed, this, &OscillatorStage::show_quick);
  }

 protected:
  void resizeEvent(QResizeEvent* event) override {
    RunStage::resizeEvent(event);
    make_room();
  }

 private:
  enum Shows { cycles, radio, first_sweep };

  bool low() const { return height() < 600; }

  void make_room() {
    const bool low = this->low(), circuit = circuit_seen_->isChecked();
    circuit_seen_->setVisible(low);
    circuit_->setVisible(!low || circuit);
    views_->setVisible(!low || !circuit);
    cursor_->setVisible(!low || !circuit);
    shown_->setVisible(!low || !circuit);
    side_->setVisible(!low || !circuit || width() >= 700);
    shown_->setMinimumContentsLength(low ? 13 : 25);
    head_.reason->setVisible(!low && !quick_->isVisible());
    head_.verdict->setToolTip(head_.reason->text());
  }

  QLayout* make_tools() {
    auto* row = tools_ = new QHBoxLayout;
    row->setSpacing(space::small);
    shown_ = new QComboBox(this);
    shown_->setObjectName("tube plot shows");
    shown_->setAccessibleName("What the plot shows");
    shown_->addItems({"The whole run", "Radio frequency"});
    shown_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    connect(shown_, &QComboBox::activated, this, [this] { draw(); });
    row->addWidget(shown_);
    add_tools(row);
    row->addStretch(1);
    return row;
  }

  void add_class(FieldGrid& fields, const char* name) {
    fields.put("Tube", new ClassBox(
                           workspace_, {name, "Tube, by class", "Tube", 9}, arc::tube_classes(),
                           &arc::TubeClass::tube, [](auto& design) -> auto& { return design.tube.tube; },
                           [this] { show_tube_sheet(workspace_, this); }, fields.panel()));
  }

  void add_sheet(FieldGrid& fields, const char* name, const char* text, const char* tip,
                 void (*open)(Workspace&, QWidget*)) {
    auto* button = new QPushButton(text, fields.panel());
    button->setObjectName(name);
    button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, [this, open] { open(workspace_, this); });
    fields.put(QString(), button);
  }
  void add_tube_sheet(FieldGrid& fields) {
    add_sheet(fields, "tube numbers", "Tube…",
              "Law, capacitances and ratings of the tube, and entry from a data sheet", show_tube_sheet);
  }
  void add_filament_sheet(FieldGrid& fields) {
    add_sheet(fields, "filament", "Filament…", "Volts at the filament, turns to add, series inductor, soft start",
              show_filament_sheet);
  }

  QWidget* make_flame_panel() {
    auto* panel = new StagePanel(workspace_, this);
    FieldGrid fields(workspace_, panel, 5);
    fields.set_margins(space::large, 6);
    fields.set_spacing(2);
    add_class(fields, "flame tube class");
    fields.number("flame.supply_voltage_v");
    fields.number("flame.feedback_f");
    fields.number("flame.grid_resistor_ohm");
    fields.number("flame.grid_resistor_rating_w");
    fields.choice("Form", "flame.form");
    fields.number("flame.flame_ohm");
    fields.number("flame.flame_f");
    fields.number("flame.plate_self_f");
    fields.number("tube.bypass_f")->setObjectName("flame bypass"); // the other panel has its own
    add_tube_sheet(fields);
    add_filament_sheet(fields);
    return panel;
  }

  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    FieldGrid fields(workspace_, panel, 5);
    fields.set_margins(space::large, 6);
    fields.set_spacing(2);
    const auto number = [&](const char* key) { fields.number(key); };
    const auto choice = [&](const char* caption, const char* key) { fields.choice(caption, key); };
    add_class(fields, "tube class");
    number("tube.in_parallel");
    choice("Oscillator", "tube.circuit");
    number("tube.grid_leak_ohm");
    number("tube.grid_leak_f");
    number("feedback.turns");
    choice("Feedback polarity", "tube.feedback_direction");
    choice("Feedback stands", "feedback.side");
    number("feedback.gap_m");
    add_tube_sheet(fields);
    choice("Tubes work", "tube.pair");
    number("tube.trap_ohm");
    number("tube.bypass_f");
    add_filament_sheet(fields);
    add_sheet(fields, "tube parts", "Parts…",
              "Winding, lamp, trap, stopper, direct current instead of the feed, arcs", show_parts_sheet);
    return panel;
  }

  void refresh_parts() {
    const bool flame = arc::is_flame(workspace_.document.design());
    tube_panel_->setVisible(!flame);
    flame_panel_->setVisible(flame);
    refresh_age();
    if (isVisible())
      circuit_->show(arc::tube_schematic(workspace_.document.design(), workspace_.document.analysis().get(),
                                         part().get(), workspace_.units()));
  }

  void refresh_more(const arc::TubePower* there) override {
    if (there) list_views(*there);
    refresh_parts();
    show_quick();
    if (!there) draw();
  }

  // While a handle is dragged: the coil's analysis is there many times before the full run is.
  void show_quick() {
    const auto analysis = workspace_.document.analysis();
    if (!isVisible() || !analysis) return;
    // In the place of the reason, which is of the design before.
    const bool current = workspace_.document.power_is_current();
    if (!current && head_.reason->isVisible()) quick_->setFixedHeight(head_.reason->height());
    quick_->setVisible(!current);
    head_.reason->setVisible(current && !low());
    quick_->setText(analysis->quick
                        ? QString("At the supply's crest, by balance: output %1, plate %2, %3.")
                              .arg(print(analysis->quick->output_w, power), print(analysis->quick->device_w, power),
                                   print(analysis->quick->frequency_hz, frequency, 4))
                        : QString("No balance at the supply's crest: it does not swing there, or is not "
                                  "complete."));
  }

  void show_words(const arc::TubePower& t) override {
    const arc::TubeResult& r = t.run;
    if (!r.oscillates) {
      head_.verdict->setText(
          QString("It does not oscillate: the plate takes %1").arg(print(r.plate_dissipation_w, power)));
      head_.reason->setText("A tube that only conducts turns its whole input into heat: switch off at once.");
      return;
    }
    head_.verdict->setText(
        QString("%1 at the top, at %2")
            .arg(figures_->banded("run", "top_peak_v"), figures_->banded("run", "frequency_hz")));
    QString words = QString("Starts with a margin of %1.").arg(t.start.margin, 0, 'g', 3);
    if (t.plate_time_s)
      words += QString(" The plate passes its rating after %1.").arg(print(*t.plate_time_s, time, 2));
    else
      words += QString(" The plate settles at %1 of its rating.").arg(figures_->percent("", "worst_plate_w"));
    if (t.start.modes.size() > 1) {
      const double best = t.start.modes.front().frequency_hz;
      const double other = t.start.modes[1].frequency_hz;
      words += best < other ? " It takes the lower of its two poles." : " It takes the upper of its two poles.";
    }
    words += within_tolerances(other_pole_course(t.other_pole_hz, workspace_.units()));
    if (r.intermittent) words += " It stops and starts by itself.";
    if (t.circuit.staccato) words += QString(" Fired %1 % of the time.").arg(100 * t.duty, 0, 'f', 0);
    head_.reason->setText(words + measured_words());
  }

  // What there is to look at follows from what was swept; the same view stays on.
  void list_views(const arc::TubePower& t) {
    QStringList wanted{shown_->itemText(cycles), shown_->itemText(radio)};
    for (const arc::TubeSweep& s : t.sweeps) wanted << "Over the " + QString::fromStdString(s.title).toLower();
    for (const arc::TriedMap& m : t.maps)
      wanted << QString("Map: %1, %2")
                    .arg(QString::fromStdString(m.across.title).toLower(),
                         QString::fromStdString(m.up.title).toLower());
    QStringList present;
    for (int i = 0; i < shown_->count(); ++i) present << shown_->itemText(i);
    if (wanted == present) return;
    const QString now = shown_->currentText();
    shown_->clear();
    shown_->addItems(wanted);
    shown_->setCurrentIndex(std::max(0, static_cast<int>(wanted.indexOf(now))));
    shown_->view()->setMinimumWidth(shown_->view()->sizeHintForColumn(0) + 2 * space::large);
  }

  const arc::TubeSweep* sweep(const arc::TubePower& t) const {
    const int i = shown_->currentIndex() - first_sweep;
    return i >= 0 && i < static_cast<int>(t.sweeps.size()) ? &t.sweeps[static_cast<std::size_t>(i)] : nullptr;
  }
  const arc::TriedMap* map_of(const arc::TubePower& t) const {
    const int i = shown_->currentIndex() - first_sweep - static_cast<int>(t.sweeps.size());
    return i >= 0 && i < static_cast<int>(t.maps.size()) ? &t.maps[static_cast<std::size_t>(i)] : nullptr;
  }

  void draw() override {
    const auto t = part();
    begin_plots(130, 380);
    plot_->hide_cursor();
    make_linear(*plot_);
    cursor_->clear();
    const arc::TriedMap* map = t && t->problem.empty() ? map_of(*t) : nullptr;
    views_->setCurrentWidget(map ? static_cast<QWidget*>(map_) : plot_);
    for (QWidget* of_a_run : {keep_, export_}) of_a_run->setVisible(!map);
    mapped_ = map ? t : nullptr;
    map_->show(map, workspace_.document.power_is_current());
    if (map) return;
    if (t && t->problem.empty() && isVisible()) {
      if (shown_->currentIndex() == cycles)
        draw_cycles(*t);
      else if (shown_->currentIndex() == radio)
        draw_radio(*t);
      else if (const arc::TubeSweep* s = sweep(*t))
        draw_sweep(*t, *s);
    }
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }

  void draw_cycles(const arc::TubePower& t) {
    const Theme& theme = workspace_.theme();
    const double scale = t.on_mains ? 1e3 : 1e6;
    const auto when = [scale](const arc::TubeSample& s) { return s.time_s * scale; };
    if (kept_ && kept_->on_mains == t.on_mains)
      add_curve(
          *plot_, kept_->run.samples, when, [](const arc::TubeSample& s) { return s.top_v / 1e3; },
          QPen(theme.second, 1, Qt::DotLine), "kept");
    add_curve(
        *plot_, t.run.samples, when, [](const arc::TubeSample& s) { return s.top_v / 1e3; }, QPen(theme.arc, 1.5),
        "top");
    add_curve(
        *plot_, t.run.samples, when, [](const arc::TubeSample& s) { return s.rail_v / 1e3; },
        QPen(theme.copper, 1.4, Qt::DashLine), "supply", plot_->yAxis2);
    plot_->xAxis->setLabel(t.on_mains ? "Time, ms" : "Time, µs");
    plot_->yAxis->setLabel("Top, kV");
    plot_->yAxis2->setLabel("Supply, kV");
    plot_->setAccessibleName("Top volts over the run, with the supply behind");
    if (t.on_mains) plot_->set_cycle(scale / workspace_.document.design().site.mains_frequency_hz);
    frame_curves(*plot_);
    for (QCPAxis* axis : {plot_->yAxis, plot_->yAxis2}) axis->setRangeLower(std::min(0.0, axis->range().lower));
    if (t.run.samples.empty()) return;
    const double last = t.run.samples.back().time_s * scale;
    plot_->xAxis->setRange(t.on_mains && !t.circuit.staccato ? t.run.from_s * scale : 0, last);
  }

  void draw_radio(const arc::TubePower& t) {
    const Theme& theme = workspace_.theme();
    if (t.run.wave.empty()) {
      cursor_->setText("No radio frequency to show.");
      return;
    }
    const double from = t.run.wave.front().time_s;
    const auto when = [from](const arc::TubeWave& w) { return (w.time_s - from) * 1e6; };
    add_curve(
        *plot_, t.run.wave, when, [](const arc::TubeWave& w) { return w.plate_v / 1e3; }, QPen(theme.copper, 1.5),
        "plate");
    add_curve(
        *plot_, t.run.wave, when, [](const arc::TubeWave& w) { return w.grid_v / 1e3; },
        QPen(theme.second, 1.4, Qt::DotLine), "grid");
    add_curve(
        *plot_, t.run.wave, when, [](const arc::TubeWave& w) { return w.plate_a; },
        QPen(theme.arc, 1.4, Qt::DashLine), "plate, A", plot_->yAxis2);
    plot_->xAxis->setLabel("Time, µs");
    plot_->yAxis->setLabel("Volts, kV");
    plot_->yAxis2->setLabel("Plate, A");
    plot_->setAccessibleName("Plate and grid volts and plate current over three periods");
    frame_curves(*plot_);
    plot_->xAxis->setRange(0, when(t.run.wave.back()));
  }

  void draw_sweep(const arc::TubePower& t, const arc::TubeSweep& s) {
    const Theme& theme = workspace_.theme();
    const AxisUnit unit = axis_unit(s.now, s.dimension, workspace_.units());
    std::vector<arc::TubePoint> swings;
    std::ranges::copy_if(s.points, std::back_inserter(swings), &arc::TubePoint::oscillates);
    const auto x = [&](const arc::TubePoint& p) { return p.value / unit.factor; };
    add_curve(
        *plot_, swings, x, [](const arc::TubePoint& p) { return p.output_w; }, QPen(theme.arc, 1.6), "output");
    add_curve(
        *plot_, swings, x, [](const arc::TubePoint& p) { return p.plate_w; }, QPen(theme.copper, 1.5, Qt::DashLine),
        "plate heat", plot_->yAxis2);
    plot_->xAxis->setLabel(QString("%1, %2").arg(QString::fromStdString(s.title), unit.symbol));
    plot_->yAxis->setLabel("Output, W");
    plot_->yAxis2->setLabel("Plate, W");
    plot_->setAccessibleName("Output and plate heat at the supply's crest over " +
                             QString::fromStdString(s.title).toLower());
    frame_curves(*plot_);
    plot_->xAxis->setRange(s.points.front().value / unit.factor, s.points.back().value / unit.factor);
    double most_w = 1, most_plate_w = 1;
    for (const arc::TubePoint& p : swings) {
      most_w = std::max(most_w, p.output_w);
      most_plate_w = std::max(most_plate_w, p.plate_w);
    }
    plot_->yAxis->setRange(0, 1.1 * most_w);
    plot_->yAxis2->setRange(0, 1.1 * most_plate_w);
    plot_->set_cursor(s.now / unit.factor);
    cursor_->setText(t.circuit.staccato || t.on_mains ? "At the crest, by balance" : "By balance");
  }

  void read_at(double x) {
    const auto t = part();
    if (!t || !t->problem.empty()) return;
    if (shown_->currentIndex() == cycles) {
      if (t->run.samples.size() < 2) return;
      const double time_s = x / (t->on_mains ? 1e3 : 1e6);
      const arc::TubeSample& s = nearest_point(t->run.samples, time_s, &arc::TubeSample::time_s);
      plot_->set_cursor(s.time_s * (t->on_mains ? 1e3 : 1e6));
      cursor_->setText(QString("At %1: supply %2, top %3, plate %4, bias %5")
                           .arg(print(s.time_s, time), print(s.rail_v, voltage), print(s.top_v, voltage),
                                print(s.plate_w, power), print(s.bias_v, voltage)));
    } else if (shown_->currentIndex() == radio) {
      if (t->run.wave.empty()) return;
      const double time_s = t->run.wave.front().time_s + x * 1e-6;
      const arc::TubeWave& w = nearest_point(t->run.wave, time_s, &arc::TubeWave::time_s);
      plot_->set_cursor((w.time_s - t->run.wave.front().time_s) * 1e6);
      cursor_->setText(QString("Plate %1, %2; grid %3, %4; top %5")
                           .arg(print(w.plate_v, voltage), print(w.plate_a, current), print(w.grid_v, voltage),
                                print(w.grid_a, current), print(w.top_v, voltage)));
    } else if (const arc::TubeSweep* s = sweep(*t)) {
      const AxisUnit unit = axis_unit(s->now, s->dimension, workspace_.units());
      const arc::TubePoint& p = nearest_point(s->points, x * unit.factor, &arc::TubePoint::value);
      plot_->set_cursor(p.value / unit.factor);
      cursor_->setText(p.oscillates ? QString("%1: output %2, plate %3, %4")
                                          .arg(print(p.value, s->dimension), print(p.output_w, power),
                                               print(p.plate_w, power), print(p.frequency_hz, frequency))
                                    : QString("%1: does not swing").arg(print(p.value, s->dimension)));
    }
  }

  std::string csv(const arc::TubePower& t) const override { return arc::tube_csv(t.run); }
  std::string deck(const arc::TubePower& t) const override {
    return arc::tube_netlist(t.circuit, {.mains = t.on_mains}, t.run, workspace_.document.design().name);
  }

  CircuitView* circuit_ = nullptr;
  QHBoxLayout* tools_ = nullptr;
  QPushButton* circuit_seen_ = nullptr;
  QComboBox* shown_ = nullptr;
  QWidget *tube_panel_ = nullptr, *flame_panel_ = nullptr; // one of them is seen
  QLabel* quick_ = nullptr;
  CursorPlot* plot_ = nullptr;
  MapPanel* map_ = nullptr;
  std::shared_ptr<const arc::TubePower> mapped_; // whose map is shown
  QStackedWidget* views_ = nullptr;
};

} // namespace

QWidget* make_oscillator_stage(Workspace& workspace, QWidget* parent) {
  return new OscillatorStage(workspace, parent);
}
