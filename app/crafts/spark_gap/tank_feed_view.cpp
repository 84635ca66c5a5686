// Charging of a tank: what each setting of the variac does, waveforms, the breaker's trip curve.
#include "circuit/feed.h"
#include "crafts/spark_gap/charging_plot.h"
#include "crafts/spark_gap/spark_gap.h"
#include "crafts/spark_gap/window.h"
#include "feed/feed_view.h"
#include "toolkit/figure_list.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QProgressBar>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <cmath>

QString FeedView::breaker_words(const arc::FeedLoads& loads) const {
  if (!(loads.breaker_used > 0)) return {};
  return std::isinf(loads.breaker_trip_s)
             ? QString(" The breaker holds, at %1 % of its rating.").arg(100 * loads.breaker_used, 0, 'f', 0)
             : QString(" The breaker trips after %1.").arg(print(loads.breaker_trip_s, arc::Dimension::time, 2));
}

namespace {

constexpr int cycle_choices[] = {10, 60, 300};

class TankFeedView : public FeedView {
 public:
  TankFeedView(Workspace& workspace, const StageHead& head, QWidget* parent) : FeedView(workspace, head, parent) {
    column_->addLayout(make_tools());
    auto* lower = new QHBoxLayout;
    lower->setSpacing(space::medium);
    table_ = make_table(this, "variac table", {"Variac", "Line", "Power", "Factor", "Breaks", "Breaker"});
    table_->setFixedWidth(372);
    table_->horizontalHeader()->setSectionResizeMode(table_->columnCount() - 1, QHeaderView::ResizeToContents);
    table_->verticalHeader()->setDefaultSectionSize(20);
    figures_ = new FigureList(workspace, "feed", "charging figures", this);
    figures_->setFixedWidth(290);
    lower->addWidget(figures_, 0, Qt::AlignTop); // else its height would be that of the plot
    plot_ = new ChargingPlot(workspace_, this);
    connect(plot_, &ChargingPlot::said, cursor_, &QLabel::setText);
    lower->addWidget(plot_, 1);
    column_->addLayout(lower, 1);
    late_.setSingleShot(true);
    late_.setInterval(300);
    connect(&late_, &QTimer::timeout, this, [this] { show_progress(workspace_.document.simulating()); });
    tick_.setInterval(100);
    connect(&tick_, &QTimer::timeout, this,
            [this] { progress_->setValue(static_cast<int>(1000 * workspace_.document.simulation_progress())); });
  }

  void refresh() override {
    if (!workspace_.document.simulating())
      late_.stop(), show_progress(false);
    else if (!late_.isActive() && !progress_->isVisible())
      late_.start();
    show_age(table_);
    grey_while_stale(workspace_, figures_);
    figures_->refresh();
    const auto power = workspace_.document.power_of<arc::SparkGapPower>();
    if (!power) return say_nothing_yet();
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

 protected:
  void resizeEvent(QResizeEvent* event) override {
    FeedView::resizeEvent(event);
    make_room();
  }

 private:
  // Beside the waveforms the figures of now, beside other plots those of every setting; in a narrow window
  // waveforms stand alone.
  void make_room() {
    const bool waves = plot_->shown() == ChargingPlot::waveforms;
    table_->setVisible(!waves);
    figures_->setVisible(waves);
    if (!figures_->shows_all()) figures_->setFixedWidth(width() >= 700 ? 290 : 250);
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
    keep_words(what);
    row->addWidget(what);
    cycles_ = new QComboBox(this);
    cycles_->setObjectName("cycles");
    cycles_->setAccessibleName("Mains cycles that are simulated");
    for (const int cycles : cycle_choices) cycles_->addItem(QString("%1 cycles").arg(cycles));
    connect(cycles_, &QComboBox::activated, this, [this](int index) {
      arc::PowerOptions options = workspace_.document.power_options();
      options.cycles = cycle_choices[index];
      workspace_.document.set_power_options(options);
    });
    keep_words(cycles_);
    row->addWidget(cycles_);
    auto* keep = new QPushButton("Hold", this);
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

  void show_progress(bool on) {
    progress_->setVisible(on);
    cancel_->setVisible(on);
    if (on)
      tick_.start();
    else
      tick_.stop();
  }

  void show_words(const arc::SparkGapPower& power) {
    const arc::ChargingResult& now = power.charging;
    if (!power.charging_problem.empty()) {
      head_.verdict->setText("Charging cannot be computed");
      head_.reason->setText(QString::fromStdString(power.charging_problem));
      return;
    }
    head_.verdict->setText(now.break_times_s.empty() ? QString("The tank reaches %1 and the gap never fires")
                                                           .arg(print(now.tank_peak_v, arc::Dimension::voltage))
                                                     : QString("%1 bps, %2 to the tank")
                                                           .arg(figures_->banded("charging", "break_rate_hz"),
                                                                figures_->banded("charging", "tank_power_w")));
    QString text = QString("From the line %1 at power factor %2, %3.")
                       .arg(figures_->banded("charging", "line_current_a"))
                       .arg(now.power_factor, 0, 'f', 2)
                       .arg(figures_->banded("charging", "input_power_w"));
    text += breaker_words(now);
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

  QComboBox* cycles_ = nullptr;
  QProgressBar* progress_ = nullptr;
  QPushButton* cancel_ = nullptr;
  QLabel* cursor_ = nullptr;
  QTableWidget* table_ = nullptr;
  FigureList* figures_ = nullptr;
  ChargingPlot* plot_ = nullptr;
  QTimer late_, tick_;
};

} // namespace

FeedView* make_tank_feed_view(Workspace& workspace, const StageHead& head, QWidget* parent) {
  return new TankFeedView(workspace, head, parent);
}
