// Feed: the power path from the wall to the tank, what charging does at every joint, and what the breaker sees at
// each variac setting. Shows the document's simulation; computes nothing.
#include "circuit/feed_arrangements.h"
#include "kinds/spark_gap/spark_gap.h"
#include "stages/stage.h"
#include "widgets/charging_plot.h"
#include "widgets/common.h"
#include "widgets/feed_strip.h"
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
    column->addWidget(make_start(), 1);
    work_ = new QWidget(this);
    auto* work = new QVBoxLayout(work_);
    work->setContentsMargins(0, 0, 0, 0);
    work->setSpacing(space::small);
    column->addWidget(work_, 1);
    strip_ = new FeedStrip(workspace, this);
    strip_->setMinimumHeight(210);
    work->addWidget(strip_, 5);
    work->addLayout(make_tools());
    auto* lower = new QHBoxLayout;
    lower->setSpacing(space::medium);
    table_ = make_table(this, "variac table", {"Variac", "Line", "Power", "Factor", "Breaks", "Breaker"});
    table_->setFixedWidth(372);
    table_->horizontalHeader()->setSectionResizeMode(table_->columnCount() - 1, QHeaderView::ResizeToContents);
    table_->verticalHeader()->setDefaultSectionSize(20);
    lower->addWidget(table_);
    plot_ = new ChargingPlot(workspace_, this);
    connect(plot_, &ChargingPlot::said, cursor_, &QLabel::setText);
    lower->addWidget(plot_, 1);
    work->addLayout(lower, 4);
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
  void make_room() { table_->setVisible(plot_->shown() != ChargingPlot::waveforms || width() >= 700); }

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
    menu->addSeparator();
    auto* usual = menu->addMenu("Start again from");
    for (const arc::FeedArrangement& arrangement : arc::feed_arrangements()) {
      auto* action = usual->addAction(text_of(arrangement.title));
      action->setObjectName("restart " + text_of(arrangement.key));
      connect(action, &QAction::triggered, this, [this, &arrangement] { start_from(arrangement); });
    }
    button->setMenu(menu);
    return button;
  }

  void start_from(const arc::FeedArrangement& arrangement) {
    workspace_.document.edit(text_of(arrangement.title), [&](arc::Design& design) {
      design.feed = arrangement.blocks(design.site.mains_voltage_v, design.gap.firing_voltage_v);
    });
  }

  // What stands here while the path is empty.
  QWidget* make_start() {
    start_ = new QWidget(this);
    start_->setObjectName("feed start");
    auto* column = new QVBoxLayout(start_);
    column->setContentsMargins(0, space::large, 0, 0);
    column->setSpacing(space::medium);
    for (const arc::FeedArrangement& arrangement : arc::feed_arrangements()) {
      auto* row = new QHBoxLayout;
      auto* button = new QPushButton(text_of(arrangement.title), start_);
      button->setObjectName("start " + text_of(arrangement.key));
      button->setMinimumWidth(330);
      connect(button, &QPushButton::clicked, this, [this, &arrangement] { start_from(arrangement); });
      row->addWidget(button);
      auto* words = caption_label(text_of(arrangement.words), start_);
      words->setWordWrap(true);
      row->addWidget(words, 1);
      column->addLayout(row);
    }
    column->addWidget(
        caption_label("Sized for this gap and these mains; every block can be changed, moved and taken "
                      "out. Or add blocks one by one.",
                      start_));
    column->addStretch();
    return start_;
  }

  QLayout* make_tools() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    auto* what = new QComboBox(this);
    what->setObjectName("feed plot");
    what->setAccessibleName("What the plot shows");
    what->addItems({"Waveforms", "Against the variac", "The breaker's trip curve"});
    connect(what, &QComboBox::activated, this, [this](int index) {
      plot_->choose(static_cast<ChargingPlot::Shows>(index));
      make_room();
    });
    row->addWidget(what);
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
    auto* keep = new QPushButton("Keep", this);
    keep->setObjectName("keep charging");
    keep->setToolTip("Draws this run in grey behind the next ones, for comparison");
    connect(keep, &QPushButton::clicked, this, [this] { plot_->keep(); });
    row->addWidget(keep);
    auto* save = new QPushButton("Export…", this);
    save->setObjectName("export charging");
    save->setToolTip("Waveforms as CSV, a picture as SVG or PNG, or the circuit as a SPICE deck");
    connect(save, &QPushButton::clicked, this, [this] { plot_->export_run(); });
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
    for (std::size_t i = 0; i < feed.size(); ++i) {
      const auto& numbers = arc::block_kind(feed[i].kind)->numbers;
      if (std::ranges::count(numbers, "in_series", &arc::BlockNumber::key) > 0 &&
          arc::block_value(feed[i], "in_series") > 1)
        return i;
    }
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
    const bool empty = workspace_.document.design().feed.empty();
    start_->setVisible(empty);
    work_->setVisible(!empty);
    if (empty) {
      head_.verdict->setText("Nothing feeds the tank yet");
      head_.reason->setText("The usual arrangements to start from:");
      show_progress(false);
      return;
    }
    strip_->refresh();
    show_age();
    if (!workspace_.document.simulating())
      late_.stop(), show_progress(false);
    else if (!late_.isActive() && !progress_->isVisible())
      late_.start();
    const auto power = workspace_.document.power_of<arc::SparkGapPower>();
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
      if (!point.problem.empty()) {
        set_row(table_, r, {QString("%1 %").arg(point.setting * 100, 0, 'f', 0), "–", "–", "–", "–", "–"});
        for (int column = 0; column < table_->columnCount(); ++column)
          table_->item(r, column)->setToolTip(QString::fromStdString(point.problem));
        continue;
      }
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
    plot_->refresh();
  }

  // What belongs to the design as it was before the last edits is greyed.
  void show_age() {
    const bool current = workspace_.document.power_is_current();
    for (QWidget* part :
         {static_cast<QWidget*>(table_), static_cast<QWidget*>(head_.verdict), static_cast<QWidget*>(head_.reason)})
      part->setEnabled(current);
  }

  void show_words(const arc::SparkGapPower& power) {
    const arc::ChargingResult& now = power.charging;
    const auto banded = [&](const char* key, double value, arc::Dimension dimension) {
      return banded_text(value, dimension, workspace_.units(), power.band, key);
    };
    if (!power.charging_problem.empty()) {
      head_.verdict->setText("Charging cannot be computed");
      head_.reason->setText(QString::fromStdString(power.charging_problem));
      return;
    }
    head_.verdict->setText(now.break_times_s.empty()
                               ? QString("The tank reaches %1 and the gap never fires")
                                     .arg(print(now.tank_peak_v, arc::Dimension::voltage))
                               : QString("%1 breaks each second, %2 to the tank")
                                     .arg(banded("break_rate_hz", now.break_rate_hz, arc::Dimension::count),
                                          banded("tank_power_w", now.tank_power_w, arc::Dimension::power)));
    QString text = QString("From the line %1 at power factor %2, %3.")
                       .arg(banded("line_current_a", now.line_current_a, arc::Dimension::current))
                       .arg(now.power_factor, 0, 'f', 2)
                       .arg(banded("input_power_w", now.input_power_w, arc::Dimension::power));
    if (now.breaker_used > 0)
      text += std::isinf(now.breaker_trip_s)
                  ? QString(" The breaker holds, at %1 % of its rating.").arg(100 * now.breaker_used, 0, 'f', 0)
                  : QString(" The breaker trips after %1.").arg(print(now.breaker_trip_s, arc::Dimension::time, 2));
    if (const arc::FeedBlock* b =
            arc::find_block(workspace_.document.design().feed, arc::BlockRole::push_pull_driver))
      text += QString(" The driver runs at %1; each switch sees %2.")
                  .arg(print(arc::driver_hz(arc::block_value(*b, "inductance_h"),
                                            arc::block_value(*b, "capacitance_f")),
                             arc::Dimension::frequency),
                       print(arc::driver_switch_peak_v(arc::block_value(*b, "supply_v")), arc::Dimension::voltage));
    if (std::abs(now.reactive_va) > 0.05 * std::abs(now.input_power_w))
      text += QString(" The current %1.").arg(now.reactive_va > 0 ? "lags" : "leads");
    for (const arc::JointLoad& joint : now.joints)
      if (joint.insulation_v > 0)
        text +=
            QString(
                " The winding's ends stand up to %1 above the tank's other rail: its core's insulation sees that.")
                .arg(print(joint.insulation_v, arc::Dimension::voltage));
    text += QString(" Bands: mains ± 5 %, gap ± 10 %, the tank's tolerance. RMS "
                    "over the later half of %1 cycles.")
                .arg(workspace_.document.power_options().cycles);
    head_.reason->setText(text);
  }

  Workspace& workspace_;
  StageHead head_{};
  QPushButton* polarity_ = nullptr;
  QWidget *start_ = nullptr, *work_ = nullptr; // one of the two is seen
  FeedStrip* strip_ = nullptr;
  QComboBox* cycles_ = nullptr;
  QProgressBar* progress_ = nullptr;
  QPushButton* cancel_ = nullptr;
  QLabel* cursor_ = nullptr;
  QTableWidget* table_ = nullptr;
  ChargingPlot* plot_ = nullptr;
  QTimer late_, tick_;
};

} // namespace

QWidget* make_feed_stage(Workspace& workspace, QWidget* parent) {
  return new FeedStage(workspace, parent);
}
