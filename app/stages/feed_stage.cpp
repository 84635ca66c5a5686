// Feed: the power path from the wall to the tank, what charging does at every joint, and what the breaker sees at
// each variac setting. Shows the document's simulation; computes nothing.
#include "circuit/feed.h"
#include "stages/stage.h"
#include "widgets/common.h"
#include "widgets/cursor_plot.h"
#include "widgets/feed_strip.h"
#include "widgets/plot.h"
#include "widgets/polarity_sheet.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace {

constexpr int cycle_choices[] = {10, 60, 300};

enum Plot { waveforms, against_variac, trip_curve };

class FeedStage : public QWidget {
 public:
  FeedStage(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("feed");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, 12, space::medium, space::small);
    column->setSpacing(space::small);
    auto* top = new QHBoxLayout;
    head_ = make_stage_head("feed", this);
    top->addWidget(head_.verdict, 1);
    polarity_ = new QPushButton("Polarity test…", this);
    polarity_->setObjectName("polarity test");
    polarity_->setToolTip("Which way the windings in series go, read at a low variac setting");
    connect(polarity_, &QPushButton::clicked, this, [this] {
      if (const auto block = series_block()) show_polarity_sheet(workspace_, *block, window());
    });
    top->addWidget(polarity_);
    top->addWidget(make_add_button());
    column->addLayout(top);
    column->addWidget(head_.reason);
    strip_ = new FeedStrip(workspace, this);
    strip_->setMinimumHeight(210);
    column->addWidget(strip_, 5);
    column->addLayout(make_tools());
    auto* lower = new QHBoxLayout;
    lower->setSpacing(space::medium);
    table_ = make_table(this, "variac table", {"Variac", "Line", "Power", "Factor", "Breaks", "Breaker"});
    table_->setFixedWidth(372);
    table_->horizontalHeader()->setSectionResizeMode(table_->columnCount() - 1, QHeaderView::ResizeToContents);
    table_->verticalHeader()->setDefaultSectionSize(20);
    lower->addWidget(table_);
    plot_ = new CursorPlot(workspace_, "charging plot", "Charging", this);
    plot_->setMinimumSize(200, 120);
    connect(plot_, &CursorPlot::cursor_moved, this, &FeedStage::read_at);
    connect(plot_, &CursorPlot::whole_wanted, this, [this] { draw(); });
    lower->addWidget(plot_, 1);
    column->addLayout(lower, 4);
    late_.setSingleShot(true);
    late_.setInterval(300);
    connect(&late_, &QTimer::timeout, this, [this] { show_progress(workspace_.document.simulating()); });
    tick_.setInterval(100);
    connect(&tick_, &QTimer::timeout, this,
            [this] { progress_->setValue(static_cast<int>(1000 * workspace_.document.simulation_progress())); });
    connect(&workspace_.document, &Document::design_changed, this, &FeedStage::refresh);
    connect(&workspace_.document, &Document::power_changed, this, &FeedStage::refresh);
    connect(&workspace_.document, &Document::units_changed, this, &FeedStage::refresh);
    connect(&workspace_, &Workspace::theme_changed, this, &FeedStage::refresh);
  }

 protected:
  void showEvent(QShowEvent* event) override {
    QWidget::showEvent(event);
    refresh();
  }
  void resizeEvent(QResizeEvent* event) override {
    QWidget::resizeEvent(event);
    make_room();
  }

 private:
  QString print(double si, arc::Dimension dimension, int digits = 3) const {
    return quantity_text(si, dimension, workspace_.units(), digits);
  }

  // In a narrow window waveforms take the table's place.
  void make_room() { table_->setVisible(what_->currentIndex() != waveforms || width() >= 700); }

  QWidget* make_add_button() {
    auto* button = new QPushButton("Add a block", this);
    button->setObjectName("add block");
    auto* menu = new QMenu(button);
    auto place = arc::BlockPlace::mains;
    for (const arc::BlockKind& kind : arc::block_kinds()) {
      if (kind.place != place) menu->addSeparator();
      place = kind.place;
      auto* action = menu->addAction(text_of(kind.title));
      action->setObjectName("add " + text_of(kind.key));
      connect(action, &QAction::triggered, this, [this, &kind] {
        workspace_.document.edit("Add " + text_of(kind.title), [&](arc::Design& design) {
          arc::add_block(design.feed, arc::make_block(kind.key));
        });
      });
    }
    button->setMenu(menu);
    return button;
  }

  QLayout* make_tools() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    what_ = new QComboBox(this);
    what_->setObjectName("feed plot");
    what_->setAccessibleName("What the plot shows");
    what_->addItems({"Waveforms", "Against the variac", "The breaker's trip curve"});
    connect(what_, &QComboBox::activated, this, [this] {
      make_room();
      draw();
    });
    row->addWidget(what_);
    cycles_ = new QComboBox(this);
    cycles_->setObjectName("cycles");
    cycles_->setAccessibleName("Mains cycles that are simulated");
    for (const int cycles : cycle_choices) cycles_->addItem(QString("%1 mains cycles").arg(cycles));
    connect(cycles_, &QComboBox::activated, this, [this](int index) {
      arc::PowerOptions options = workspace_.document.power_options();
      options.cycles = cycle_choices[index];
      workspace_.document.set_power_options(options);
    });
    row->addWidget(cycles_);
    keep_ = new QPushButton("Keep", this);
    keep_->setObjectName("keep charging");
    keep_->setToolTip("Draws this run in grey behind the next ones, for comparison");
    connect(keep_, &QPushButton::clicked, this, [this] {
      kept_ = workspace_.document.power();
      draw();
    });
    row->addWidget(keep_);
    auto* save = new QPushButton("Export…", this);
    save->setObjectName("export charging");
    save->setToolTip("Waveforms as CSV, a picture as SVG or PNG, or the circuit as a SPICE deck");
    connect(save, &QPushButton::clicked, this, &FeedStage::export_charging);
    row->addWidget(save);
    progress_ = new QProgressBar(this);
    progress_->setObjectName("simulation progress");
    progress_->setAccessibleName("Simulation done");
    progress_->setMaximum(1000);
    progress_->setTextVisible(false);
    progress_->setFixedSize(120, 8);
    progress_->hide();
    row->addWidget(progress_);
    cancel_ = new QPushButton("Cancel", this);
    cancel_->setObjectName("cancel simulation");
    cancel_->hide();
    connect(cancel_, &QPushButton::clicked, this, [this] { workspace_.document.cancel_simulation(); });
    row->addWidget(cancel_);
    row->addStretch();
    cursor_ = caption_label({}, this);
    cursor_->setObjectName("charging cursor");
    row->addWidget(cursor_);
    return row;
  }

  // The block of transformers in series, which need a polarity test.
  std::optional<std::size_t> series_block() const {
    const auto& feed = workspace_.document.design().feed;
    for (std::size_t i = 0; i < feed.size(); ++i)
      if (feed[i].kind == "oven-transformers" && arc::block_value(feed[i], "in_series") > 1) return i;
    return {};
  }

  void show_progress(bool on) {
    progress_->setVisible(on);
    cancel_->setVisible(on);
    if (on)
      tick_.start();
    else
      tick_.stop();
  }

  void refresh() {
    if (!isVisible()) return; // brought up to date when it is shown
    polarity_->setVisible(series_block().has_value());
    strip_->refresh();
    if (!workspace_.document.simulating())
      late_.stop(), show_progress(false);
    else if (!late_.isActive() && !progress_->isVisible())
      late_.start();
    const auto power = workspace_.document.power();
    if (!power) {
      head_.verdict->setText("Being simulated…");
      head_.reason->clear();
      return;
    }
    show_words(*power);
    table_->setRowCount(static_cast<int>(power->variac.size()));
    for (int r = 0; r < table_->rowCount(); ++r) {
      const arc::VariacPoint& point = power->variac[static_cast<std::size_t>(r)];
      const arc::ChargingResult& c = point.charging;
      set_row(table_, r,
              {QString("%1 %").arg(point.setting * 100, 0, 'f', 0),
               print(c.line_current_a, arc::Dimension::current), print(c.input_power_w, arc::Dimension::power),
               QString::number(c.power_factor, 'f', 2),
               c.break_rate_hz > 0 ? QString("%1/s").arg(c.break_rate_hz, 0, 'f', 0) : QString("none"),
               !(c.breaker_used > 0)          ? QString("–")
               : std::isinf(c.breaker_trip_s) ? QString("%1 %").arg(100 * c.breaker_used, 0, 'f', 0)
                                              : "trips " + print(c.breaker_trip_s, arc::Dimension::time, 2)});
      for (int column = 0; column < table_->columnCount(); ++column)
        table_->item(r, column)->setFont(type::font(type::body, point.present ? QFont::Bold : QFont::Normal));
    }
    draw();
  }

  void show_words(const arc::PowerAnalysis& power) {
    const arc::ChargingResult& now = power.charging;
    if (!power.charging_problem.empty()) {
      head_.verdict->setText("This feed cannot charge the tank");
      head_.reason->setText(QString::fromStdString(power.charging_problem));
      return;
    }
    head_.verdict->setText(now.break_times_s.empty() ? QString("The tank reaches %1 and the gap never fires")
                                                           .arg(print(now.tank_peak_v, arc::Dimension::voltage))
                                                     : QString("%1 breaks each second, %2 to the tank")
                                                           .arg(now.break_rate_hz, 0, 'f', 0)
                                                           .arg(print(now.tank_power_w, arc::Dimension::power)));
    QString text = QString("From the line %1 at power factor %2, %3.")
                       .arg(print(now.line_current_a, arc::Dimension::current))
                       .arg(now.power_factor, 0, 'f', 2)
                       .arg(print(now.input_power_w, arc::Dimension::power));
    if (now.breaker_used > 0)
      text += std::isinf(now.breaker_trip_s)
                  ? QString(" The breaker holds, at %1 % of its rating.").arg(100 * now.breaker_used, 0, 'f', 0)
                  : QString(" The breaker trips after %1.").arg(print(now.breaker_trip_s, arc::Dimension::time, 2));
    for (const arc::FeedBlock& b : workspace_.document.design().feed)
      if (b.kind == "flyback-driver")
        text +=
            QString(" The driver runs at %1; each switch sees %2.")
                .arg(
                    print(arc::driver_hz(arc::block_value(b, "inductance_h"), arc::block_value(b, "capacitance_f")),
                          arc::Dimension::frequency),
                    print(arc::driver_switch_peak_v(arc::block_value(b, "supply_v")), arc::Dimension::voltage));
    text += QString(" Transformers do not saturate here; RMS over the later half of %1 cycles.")
                .arg(workspace_.document.power_options().cycles);
    head_.reason->setText(text);
  }

  void draw() {
    const auto power = workspace_.document.power();
    plot_->clearGraphs();
    plot_->hide_cursor();
    style_plot(*plot_, workspace_.theme());
    plot_->legend->setVisible(false);
    for (QCPAxis* axis : {plot_->xAxis, plot_->yAxis}) {
      axis->setScaleType(QCPAxis::stLinear);
      axis->setTicker(QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
    }
    plot_->xAxis->ticker()->setTickCount(4);
    plot_->yAxis2->setVisible(false);
    cursor_->clear();
    if (power && power->charging_problem.empty()) {
      if (what_->currentIndex() == waveforms) draw_waveforms(power->charging);
      if (what_->currentIndex() == against_variac) draw_variac(*power);
      if (what_->currentIndex() == trip_curve) draw_trip_curve(power->charging);
    }
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }

  QCPGraph* line(const QVector<double>& x, const QVector<double>& y, const QPen& pen, QCPAxis* axis = nullptr) {
    auto* graph = plot_->addGraph(plot_->xAxis, axis ? axis : plot_->yAxis);
    graph->setData(x, y, true);
    graph->setPen(pen);
    return graph;
  }

  void draw_waveforms(const arc::ChargingResult& now) {
    const Theme& t = workspace_.theme();
    plot_->setAccessibleName("Tank voltage and line current while charging");
    plot_->xAxis->setLabel("Time, ms");
    plot_->yAxis->setLabel("Tank, kV");
    plot_->yAxis2->setLabel("Line, A (dashed)");
    plot_->yAxis2->setVisible(true);
    QVector<double> x, tank, current;
    for (const arc::ChargingSample& s : now.samples) {
      x << s.time_s * 1e3;
      tank << s.tank_v / 1e3;
      current << s.line_a;
    }
    if (kept_ && kept_->charging_problem.empty()) {
      QVector<double> then, volts;
      for (const arc::ChargingSample& s : kept_->charging.samples) {
        then << s.time_s * 1e3;
        volts << s.tank_v / 1e3;
      }
      line(then, volts, QPen(t.second, 1, Qt::DotLine));
    }
    line(x, current, QPen(t.second, 1.2, Qt::DashLine), plot_->yAxis2);
    line(x, tank, QPen(t.arc, 1.6));
    frame_curves(*plot_);
    const double last = x.isEmpty() ? 1 : x.last();
    plot_->xAxis->setRange(last - 4e3 / workspace_.document.design().site.mains_frequency_hz, last);
    cursor_->setText("drag for earlier cycles");
  }

  void draw_variac(const arc::PowerAnalysis& power) {
    const Theme& t = workspace_.theme();
    plot_->setAccessibleName("Line current and power against the variac's setting");
    plot_->xAxis->setLabel("Variac, %");
    plot_->yAxis->setLabel("Line current, A");
    plot_->yAxis2->setLabel("Power, W (dashed)");
    plot_->yAxis2->setVisible(true);
    QVector<double> x, amps, watts;
    double rated = 0;
    for (const arc::VariacPoint& point : power.variac) {
      x << 100 * point.setting;
      amps << point.charging.line_current_a;
      watts << point.charging.input_power_w;
      if (point.charging.breaker_used > 0) rated = point.charging.line_current_a / point.charging.breaker_used;
    }
    if (x.isEmpty()) {
      cursor_->setText("there is no variac in this feed");
      return;
    }
    line(x, watts, QPen(t.second, 1.4, Qt::DashLine), plot_->yAxis2);
    line(x, amps, QPen(t.copper, 2))
        ->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, t.copper, t.copper, 6));
    frame_curves(*plot_);
    plot_->yAxis->setRangeLower(0);
    plot_->yAxis2->setRangeLower(0);
    if (rated > 0) {
      line({x.first(), x.last()}, {rated, rated}, QPen(t.stop, 1.4));
      plot_->yAxis->setRangeUpper(std::max(plot_->yAxis->range().upper, 1.1 * rated));
      cursor_->setText(
          QString("the line across is the breaker's rating, %1").arg(print(rated, arc::Dimension::current)));
    }
  }

  const arc::FeedBlock* breaker_block() const {
    const auto& feed = workspace_.document.design().feed;
    const auto it = std::ranges::find(feed, "breaker", &arc::FeedBlock::kind);
    return it == feed.end() ? nullptr : &*it;
  }

  void draw_trip_curve(const arc::ChargingResult& now) {
    const Theme& t = workspace_.theme();
    plot_->setAccessibleName("How long the breaker holds against the line current");
    const arc::FeedBlock* breaker = breaker_block();
    if (!breaker) {
      cursor_->setText("there is no breaker in this feed");
      return;
    }
    const double rated = arc::block_value(*breaker, "rated_current_a");
    const bool type_c = arc::block_value(*breaker, "type_c") > 0.5;
    plot_->xAxis->setLabel("Line current, A");
    plot_->yAxis->setLabel("Trips after, s");
    for (QCPAxis* axis : {plot_->xAxis, plot_->yAxis}) {
      axis->setScaleType(QCPAxis::stLogarithmic);
      axis->setTicker(QSharedPointer<QCPAxisTickerLog>(new QCPAxisTickerLog));
      axis->setNumberFormat("gb");
      axis->setNumberPrecision(0);
    }
    QVector<double> x, y;
    for (double a = 1.13 * rated; a < 20 * rated; a *= 1.02) {
      x << a;
      y << arc::breaker_trip_s(rated, a, type_c);
    }
    line(x, y, QPen(t.ink, 2));
    const double a = std::max(now.line_current_a, 0.01 * rated);
    line({a, a}, {0.01, 1e5}, QPen(t.copper, 2));
    plot_->xAxis->setRange(std::min(0.3 * rated, 0.8 * a), 20 * rated);
    plot_->yAxis->setRange(0.01, 1e5);
    cursor_->setText(QString("the copper line is this feed's current, %1; left of the curve it holds")
                         .arg(print(now.line_current_a, arc::Dimension::current)));
  }

  void export_charging() {
    const auto power = workspace_.document.power();
    if (!power || !power->charging_problem.empty()) return;
    const QString words = export_plot(
        *plot_, "charging", [&] { return arc::charging_csv(power->charging); },
        [&] {
          return arc::charging_netlist(workspace_.document.design(),
                                       {workspace_.document.power_options().cycles, 20e-6});
        });
    if (!words.isEmpty()) cursor_->setText(words);
  }

  // What the plot shows at one place of its horizontal axis, in words.
  void read_at(double x) {
    const auto power = workspace_.document.power();
    if (!power || !power->charging_problem.empty()) return;
    if (what_->currentIndex() == waveforms) read_instant(power->charging, x * 1e-3);
    if (what_->currentIndex() == against_variac) read_setting(*power, x / 100);
    if (what_->currentIndex() == trip_curve) read_trip(x);
  }

  void read_instant(const arc::ChargingResult& charging, double time_s) {
    const auto& samples = charging.samples;
    if (samples.size() < 2) return;
    const double step = samples[1].time_s - samples[0].time_s;
    const auto at = static_cast<std::size_t>(
        std::clamp(std::round(time_s / step), 0.0, static_cast<double>(samples.size() - 1)));
    const arc::ChargingSample& s = samples[at];
    cursor_->setText(QString("at %1: tank %2, line %3")
                         .arg(print(s.time_s, arc::Dimension::time, 4), print(s.tank_v, arc::Dimension::voltage),
                              print(s.line_a, arc::Dimension::current)));
  }

  void read_setting(const arc::PowerAnalysis& power, double setting) {
    const auto nearest = std::ranges::min_element(
        power.variac, {}, [&](const arc::VariacPoint& p) { return std::abs(p.setting - setting); });
    if (nearest == power.variac.end()) return;
    cursor_->setText(QString("at %1 %: line %2, %3")
                         .arg(100 * nearest->setting, 0, 'f', 0)
                         .arg(print(nearest->charging.line_current_a, arc::Dimension::current),
                              print(nearest->charging.input_power_w, arc::Dimension::power)));
  }

  void read_trip(double current_a) {
    const arc::FeedBlock* breaker = breaker_block();
    if (!breaker) return;
    const double seconds = arc::breaker_trip_s(arc::block_value(*breaker, "rated_current_a"), current_a,
                                               arc::block_value(*breaker, "type_c") > 0.5);
    cursor_->setText(QString("at %1: %2")
                         .arg(print(current_a, arc::Dimension::current),
                              std::isinf(seconds) ? QString("it holds")
                                                  : "trips after " + print(seconds, arc::Dimension::time, 2)));
  }

  Workspace& workspace_;
  StageHead head_{};
  QPushButton* polarity_ = nullptr;
  FeedStrip* strip_ = nullptr;
  QComboBox* what_ = nullptr;
  QComboBox* cycles_ = nullptr;
  QProgressBar* progress_ = nullptr;
  QPushButton* cancel_ = nullptr;
  QLabel* cursor_ = nullptr;
  QTableWidget* table_ = nullptr;
  CursorPlot* plot_ = nullptr;
  QPushButton* keep_ = nullptr;
  std::shared_ptr<const arc::PowerAnalysis> kept_;
  QTimer late_, tick_;
};

} // namespace

QWidget* make_feed_stage(Workspace& workspace, QWidget* parent) {
  return new FeedStage(workspace, parent);
}
