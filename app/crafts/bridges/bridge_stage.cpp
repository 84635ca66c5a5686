// Bridge: the path of power at a glance, the simulated burst, the map of turns against height, single changes, and
// the fields of whatever part is chosen. Shows the document's simulation; computes nothing.
#include "base/latest_job.h"
#include "craft/design_fields.h"
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/bridge_path.h"
#include "crafts/bridges/switch_sheet.h"
#include "crafts/bridges/transformer_sheet.h"
#include "crafts/bridges/window.h"
#include "model/fields.h"
#include "parts/bridge_switch.h"
#include "stages/run_stage.h"
#include "stages/stage.h"
#include "toolkit/choice_box.h"
#include "toolkit/class_box.h"
#include "toolkit/common.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/field_grid.h"
#include "toolkit/figure_list.h"
#include "toolkit/map_panel.h"
#include "toolkit/plot.h"
#include "toolkit/quantity_field.h"
#include "toolkit/single_changes.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QProgressBar>
#include <QPushButton>
#include <QStackedWidget>
#include <QTimer>
#include <QVBoxLayout>
#include <cmath>

namespace {

using enum arc::Dimension;

constexpr RunWords burst_words{.stage = "bridge",
                               .head = "bridge",
                               .run = "burst",
                               .one = "this burst",
                               .file = "burst",
                               .cursor = "bridge cursor",
                               .figures = "burst figures",
                               .merit = "the same loss",
                               .changes = "bridge changes",
                               .make = "make bridge change",
                               .cannot = "The bridge cannot be simulated yet"};

class BridgeStage : public RunStage<arc::BridgeAnalysis> {
 public:
  BridgeStage(Workspace& workspace, QWidget* parent)
      : RunStage(workspace, burst_words, parent), map_job_([this](const Mapped& done) { take_map(done); },
                                                           [this](const QString& problem) { end_map(problem); }) {
    path_ = new BridgePath(workspace_, this);
    upper_->addWidget(path_);
    upper_->addLayout(make_tools());
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    views_ = new QStackedWidget(this);
    auto* plots = new QWidget(views_);
    auto* stack = new QVBoxLayout(plots);
    stack->setContentsMargins(0, 0, 0, 0);
    stack->setSpacing(0);
    primary_ = add_plot("burst plot", "Primary current and bridge voltage through the burst", 66, 76, 72);
    top_ = add_plot("top plot", "Top and bus voltage through the burst", 66, 76, 72);
    stack->addWidget(primary_, 1);
    stack->addWidget(top_, 1);
    views_->addWidget(plots);
    views_->addWidget(make_map());
    for (CursorPlot* plot : plots_)
      connect(plot, &CursorPlot::cursor_moved, this, [this](double us) { read_wave(us * 1e-6); });
    middle->addWidget(views_, 1);
    middle->addWidget(make_run_side(226, 272, 5, 3));
    upper_->addLayout(middle, 1);
    column_->addWidget(make_panel());
    connect(path_, &BridgePath::chosen, this, &BridgeStage::show_page);
    connect(&workspace_, &Workspace::go_to_requested, this, &BridgeStage::show_page_of);
    connect(&workspace_.document, &Document::analysis_changed, this, &BridgeStage::refresh_path);
    connect(&workspace_.document, &Document::opened, this, [this] {
      map_panel_->show(nullptr, false);
      map_.reset();
    });
  }

 protected:
  void resizeEvent(QResizeEvent* event) override {
    RunStage::resizeEvent(event);
    path_->setFixedHeight(compact() ? 164 : 172);
    top_->setVisible(!compact());
    head_.reason->setMaximumHeight(height() < 540 ? 0 : QWIDGETSIZE_MAX); // the heading says it when pointed at
    draw();
  }

 private:
  // In a low window one plot shows both curves.
  bool compact() const { return height() < 600; }

  struct Mapped {
    arc::Design of;
    arc::TriedMap map;
  };

  QLayout* make_tools() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    add_tools(row);
    map_button_ = new QPushButton("Turns and height", this);
    map_button_->setObjectName("bridge map");
    map_button_->setToolTip("What primary turns and height do, 400 bursts in one picture");
    row->addWidget(map_button_);
    map_button_->setCheckable(true);
    map_button_->setMinimumWidth(map_button_->sizeHint().width() + 14); // it is bold while it is down
    connect(map_button_, &QPushButton::toggled, this, [this](bool on) {
      views_->setCurrentIndex(on ? 1 : 0);
      if (on) ask_map();
    });
    row->addWidget(cursor_, 1);
    return row;
  }

  QWidget* make_map() {
    static constexpr MapPanel::Names names{.plot = "map plot",
                                           .plot_words = "Map of primary turns against height",
                                           .shows = "map shows",
                                           .take = "take map point",
                                           .take_words = "Take these turns and height",
                                           .step = "Turns and height from the map"};
    map_panel_ = new MapPanel(
        workspace_, names, [this](const QString& words) { cursor_->setText(words); }, views_);
    map_progress_ = new QProgressBar(map_panel_);
    map_progress_->setObjectName("map progress");
    map_progress_->setRange(0, 100);
    map_progress_->setTextVisible(false);
    map_progress_->hide();
    map_timer_.setInterval(80);
    connect(&map_timer_, &QTimer::timeout, this,
            [this] { map_progress_->setValue(static_cast<int>(100 * *map_share_)); });
    map_panel_->tools()->addWidget(map_progress_, 1);
    map_cancel_ = new QPushButton("Cancel", map_panel_);
    map_cancel_->setObjectName("cancel map");
    connect(map_cancel_, &QPushButton::clicked, this, [this] {
      map_job_.cancel();
      end_map("The map was stopped.");
    });
    map_cancel_->hide();
    map_panel_->tools()->addWidget(map_cancel_);
    return map_panel_;
  }

  struct Page {
    QString key;
    std::vector<std::string_view> fields, choices;
  };
  inline static const std::vector<Page> pages{
      {"bus",
       {"bridge.bus_voltage_v", "bridge.reservoir_f", "bridge.bleed_resistance_ohm", "bridge.split_capacitance_f",
        "bridge.blocking_capacitance_f", "bridge.capacitor_rating_a", "bridge.stray_h"},
       {"bridge.rectifier", "bridge.legs"}},
      {"switches",
       {"bridge.dead_time_s", "bridge.switch_voltage_rating_v", "bridge.switch_pulse_rating_a",
        "bridge.sink_k_per_w", "bridge.sink_capacity_j_per_k", "bridge.snubber_f", "bridge.snubber_ohm"},
       {"bridge.legs"}},
      {"limit",
       {"bridge.current_limit_a", "bridge.limit_delay_s", "primary.turns", "primary.base_height_m"},
       {"bridge.limit_action"}},
      {"feedback",
       {"bridge.antenna_length_m", "bridge.antenna_distance_m", "bridge.transformer_turns", "bridge.burden_ohm",
        "bridge.input_threshold_v", "bridge.input_limit_v", "bridge.fixed_frequency_hz"},
       {"bridge.feedback", "bridge.start"}},
      {"drive",
       {"bridge.squarer_delay_s", "bridge.logic_delay_s", "bridge.driver_delay_s", "bridge.gate_delay_s",
        "bridge.lead_s", "bridge.kick_s", "bridge.noise_a", "bridge.hysteresis_a", "bridge.blanking_s",
        "bridge.driver_slowest_s"},
       {}},
      {"gate",
       {"bridge.driver_supply_v", "bridge.gate_primary_turns", "bridge.gate_secondary_turns",
        "bridge.gate_core_area_mm2", "bridge.gate_core_limit_t", "bridge.gate_core_al_h",
        "bridge.gate_resistance_ohm", "bridge.gate_leakage_h", "bridge.driver_resistance_ohm"},
       {"bridge.drive_direction"}}};

  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    auto* column = new QVBoxLayout(panel);
    column->setContentsMargins(space::large, 8, space::large, 8);
    fields_ = new QStackedWidget(panel);
    fields_->setObjectName("bridge fields");
    for (const Page& page : pages) {
      auto* box = new QWidget(fields_);
      FieldGrid fields(workspace_, box, 5);
      fields.set_margins(0, 0);
      if (page.key == "switches") add_switch_class(fields);
      if (page.key == "limit") add_transformer(fields, "limit transformer");
      if (page.key == "feedback") add_transformer(fields, "feedback transformer");
      for (const std::string_view key : page.choices) {
        ChoiceBox* choice = fields.choice(text_of(arc::design_choice(key).label), key);
        if (box->parentWidget()->findChildren<QWidget*>(text_of(key)).size() > 1)
          choice->setObjectName(page.key + " " + text_of(key));
      }
      for (const std::string_view key : page.fields) {
        QuantityField* field = fields.number(key);
        if (key.starts_with("primary.")) field->setObjectName("bridge " + text_of(key)); // Primary has its own
      }
      fields_->addWidget(box);
    }
    column->addWidget(fields_);
    return panel;
  }

  void add_transformer(FieldGrid& fields, const char* name) {
    auto* sheet = new QPushButton("Turns, burden, core…", fields.panel());
    sheet->setObjectName(name);
    sheet->setToolTip("The current transformer: volts, watts and flux, and the comparator's volts for the limit");
    connect(sheet, &QPushButton::clicked, this, [this] { show_transformer_sheet(workspace_, this); });
    fields.put("Current transformer", sheet);
  }

  void add_switch_class(FieldGrid& fields) {
    fields.put("Switches",
               new ClassBox(
                   workspace_, {"switch class", "Switches, by class", "Switches", 10}, arc::switch_classes(),
                   &arc::SwitchClass::part, [](auto& design) -> auto& { return design.bridge.device; },
                   [this] { show_switch_sheet(workspace_, this); }, fields.panel()));
    auto* sheet = new QPushButton("Values…", fields.panel());
    sheet->setObjectName("switch numbers");
    sheet->setToolTip("Law, ratings and heat of the switches, and entry from a data sheet");
    connect(sheet, &QPushButton::clicked, this, [this] { show_switch_sheet(workspace_, this); });
    fields.put("Data sheet", sheet);
  }

  void show_page(const QString& key) {
    const auto it = std::ranges::find(pages, key, &Page::key);
    if (it != pages.end()) fields_->setCurrentIndex(static_cast<int>(it - pages.begin()));
  }

  // A finding leads to a field: its page comes to the front first.
  void show_page_of(const QString& stage, const QString& field) {
    if (stage != "bridge") return;
    for (int i = 0; i < fields_->count(); ++i)
      if (auto* widget = fields_->widget(i)->findChild<QWidget*>(field)) {
        fields_->setCurrentIndex(i);
        path_->choose(pages[static_cast<std::size_t>(i)].key);
        widget->setFocus();
        return;
      }
  }

  // What the path from the wall says is not asked again here.
  void refresh_bus_fields() {
    const bool from_feed = arc::bus_of(workspace_.document.design()).from_feed;
    for (const char* name : {"bridge.reservoir_f", "bridge.bleed_resistance_ohm", "bridge.rectifier"})
      if (auto* field = fields_->findChild<QWidget*>(name)) {
        field->setEnabled(!from_feed);
        field->setToolTip(from_feed ? "The blocks of the feed say it" : QString());
      }
  }

  void refresh_path() {
    if (isVisible()) path_->show(part().get());
  }

  void refresh_more(const arc::BridgeAnalysis* there) override {
    refresh_path();
    refresh_bus_fields();
    if (there && map_button_->isChecked()) ask_map();
  }

  void show_words(const arc::BridgeAnalysis& b) override {
    const arc::BurstResult& r = b.burst;
    const bool fixed = b.circuit.signal == arc::BurstSignal::fixed;
    head_.verdict->setText(!r.locked && !fixed ? QString("The drive does not lock")
                                               : QString("%1 at the top, at %2")
                                                     .arg(figures_->banded("burst", "top_peak_v"),
                                                          figures_->banded("burst", "frequency_hz")));
    QString words = QString("%1 from the bus in %2").arg(print(r.bus_j, energy), print(r.end_s, time));
    if (r.breakout_s) words += QString(", breakout after %1").arg(print(*r.breakout_s, time));
    if (r.trip_s) words += QString(", the limit trips after %1").arg(print(*r.trip_s, time));
    words += QString(". %1 edges hard, %2 soft; %3 broken at the middle one.")
                 .arg(r.hard)
                 .arg(r.soft)
                 .arg(print(std::abs(r.turn_off_a), current));
    QStringList courses = other_pole_course(b.other_pole_hz, workspace_.units());
    if (b.longer_burst)
      courses << QString("burst for %1: %2 at the top, %3 from the bus")
                     .arg(print(b.longer_burst->end_s, time), print(b.longer_burst->top_peak_v, voltage),
                          print(b.longer_burst->bus_j, energy));
    const QString beside = within_tolerances(courses);
    words += beside;
    words += measured_words();
    // In a low window the path needs the lines: what no band says is said, the rest by pointing.
    head_.reason->setText(compact() && !beside.isEmpty() ? beside.trimmed() : words);
    head_.reason->setToolTip(words);
    head_.verdict->setToolTip(words);
  }

  void draw() override {
    const auto b = solved();
    if (!b || !isVisible()) return;
    begin_plots(110);
    const Theme& t = workspace_.theme();
    const auto us = [](const arc::BurstSample& s) { return s.time_s * 1e6; };
    const auto& samples = b->burst.samples;
    const std::vector<arc::BurstSample> driven(
        samples.begin(), std::ranges::upper_bound(samples, b->burst.end_s, {}, &arc::BurstSample::time_s));
    const double kilo = b->burst.top_peak_v > 2000 ? 1e3 : 1;
    if (kept_) {
      add_curve(
          *primary_, kept_->burst.samples, us, [](const arc::BurstSample& s) { return s.primary_a; },
          QPen(t.second, 1, Qt::DotLine), "kept");
      add_curve(
          *top_, kept_->burst.samples, us, [=](const arc::BurstSample& s) { return s.top_v / kilo; },
          QPen(t.second, 1, Qt::DotLine), "kept");
    }
    if (compact())
      add_curve(
          *primary_, samples, us, [=](const arc::BurstSample& s) { return s.top_v / kilo; }, QPen(t.arc, 1.2),
          "top", primary_->yAxis2);
    else
      add_curve(
          *primary_, driven, us, [](const arc::BurstSample& s) { return s.bridge_v; }, QPen(t.hairline, 1),
          "bridge", primary_->yAxis2);
    add_curve(
        *primary_, samples, us, [](const arc::BurstSample& s) { return s.primary_a; }, QPen(t.copper, 1.3),
        "primary");
    add_curve(
        *top_, samples, us, [=](const arc::BurstSample& s) { return s.top_v / kilo; }, QPen(t.arc, 1.2), "top");
    add_curve(
        *top_, samples, us, [](const arc::BurstSample& s) { return s.bus_v; }, QPen(t.settled, 1.4, Qt::DashLine),
        "bus", top_->yAxis2);
    primary_->yAxis->setLabel("Primary, A");
    primary_->yAxis2->setLabel(!compact() ? "Bridge, V" : kilo > 1 ? "Top, kV" : "Top, V");
    top_->yAxis->setLabel(kilo > 1 ? "Top, kV" : "Top, V");
    top_->yAxis2->setLabel("Bus, V");
    top_->xAxis->setLabel("Time, µs");
    primary_->xAxis->setLabel(compact() ? "Time, µs" : "");
    frame_curves(*primary_);
    frame_curves(*top_);
    const double low = b->burst.bus_least_v, high = b->circuit.bus_v, room = std::max(0.02 * high, high - low);
    top_->yAxis2->setRange(low - room, high + room);
    for (CursorPlot* plot : plots_) {
      if (!samples.empty()) plot->xAxis->setRange(0, samples.back().time_s * 1e6);
      plot->replot(QCustomPlot::rpQueuedReplot);
    }
    read_wave(b->burst.end_s / 2);
  }

  void read_wave(double time_s) {
    const auto b = part();
    if (!b || b->burst.samples.size() < 2) return;
    const arc::BurstSample& s = sample_at(b->burst.samples, time_s);
    for (CursorPlot* plot : {primary_, top_}) plot->set_cursor(s.time_s * 1e6);
    cursor_->setText(QString("%1: primary %2, bridge %3, top %4, coil base %5, bus %6")
                         .arg(print(s.time_s, time), print(s.primary_a, current), print(s.bridge_v, voltage),
                              print(s.top_v, voltage), print(s.foot_a, current), print(s.bus_v, voltage, 4)));
  }

  void ask_map() {
    const auto analysis = workspace_.document.analysis();
    const auto b = solved();
    if (!analysis || !b || !workspace_.document.power_is_current()) return;
    if (workspace_.document.design().equivalent.primary_inductance_h || !analysis->has_primary) {
      cursor_->setText("The map needs the primary's measures: its inductance is given as measured.");
      return;
    }
    if (map_ && map_->of == workspace_.document.design()) return draw_map();
    map_progress_->show();
    map_cancel_->show();
    *map_share_ = 0;
    map_timer_.start();
    map_job_.start([design = workspace_.document.design(), analysis, bus_share = b->bus_share,
                    share = map_share_](const std::atomic<bool>& cancelled) {
      arc::Kept kept;
      const std::function<void(double)> tell = [&](double part) { *share = part; };
      const arc::Work work{cancelled, tell, kept};
      constexpr int across = 20;
      return Mapped{design, arc::bridge_map(design, *analysis, bus_share, across, work)};
    });
  }

  void take_map(const Mapped& done) {
    map_panel_->show(nullptr, false);
    map_ = std::make_unique<Mapped>(done);
    end_map({});
    draw_map();
  }

  void end_map(const QString& words) {
    map_timer_.stop();
    map_progress_->hide();
    map_cancel_->hide();
    if (!words.isEmpty()) cursor_->setText(words);
  }

  void draw_map() {
    if (map_) map_panel_->show(&map_->map, map_->of == workspace_.document.design());
  }

  std::string csv(const arc::BridgeAnalysis& b) const override { return arc::burst_csv(b.burst); }
  std::string deck(const arc::BridgeAnalysis& b) const override {
    return arc::burst_netlist(b.circuit, b.burst, workspace_.document.design().name);
  }

  BridgePath* path_ = nullptr;
  QPushButton *map_button_ = nullptr, *map_cancel_ = nullptr;
  QProgressBar* map_progress_ = nullptr;
  QStackedWidget *views_ = nullptr, *fields_ = nullptr;
  CursorPlot *primary_ = nullptr, *top_ = nullptr;
  MapPanel* map_panel_ = nullptr;
  std::unique_ptr<Mapped> map_;
  std::shared_ptr<std::atomic<double>> map_share_ = std::make_shared<std::atomic<double>>(0);
  QTimer map_timer_;
  LatestJob<Mapped> map_job_; // last: it works with the rest
};

} // namespace

QWidget* make_bridge_stage(Workspace& workspace, QWidget* parent) {
  return new BridgeStage(workspace, parent);
}
