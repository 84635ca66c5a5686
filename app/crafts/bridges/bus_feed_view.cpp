// The path to the bus: what switching on, ripple and bursts do to it and to the line.
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/window.h"
#include "feed/line_feed_view.h"
#include "toolkit/plot.h"

#include <algorithm>
#include <cmath>

namespace {

using enum arc::Dimension;

class BusFeedView : public LineFeedView {
 public:
  BusFeedView(Workspace& workspace, const StageHead& head, QWidget* parent)
      : LineFeedView(workspace, head, {"bus figures", "bus plot", "Bus", "bus plot shows", "bus cursor"},
                     {"Running", "Switching on", "The breaker's trip curve"}, parent) {
    keep_ = add_tool("keep bus", "Hold", "Draws this run in grey behind the next ones, for comparison");
    connect(keep_, &QPushButton::clicked, this, [this] {
      kept_ = workspace_.document.power_of<arc::BridgeAnalysis>();
      draw();
    });
    QPushButton* save = add_tool("export bus", "Export…",
                                 "Waveforms as CSV, a picture as SVG or PNG, or the circuit as a SPICE deck");
    connect(save, &QPushButton::clicked, this, [this] { export_run(); });
    connect(&workspace.document, &Document::opened, this, [this] { kept_.reset(); });
  }

  void refresh() override {
    show_age(figures_);
    const auto b = workspace_.document.power_of<arc::BridgeAnalysis>();
    if (!b) {
      say_nothing_yet();
    } else if (!b->mains_problem.empty()) {
      say_problem("The path to the bus cannot be computed", b->mains_problem);
    } else if (!b->problem.empty()) {
      say_problem("The bridge cannot be simulated yet", b->problem);
    } else if (b->mains) {
      show_words(*b);
      figures_->refresh();
    }
    keep_->setEnabled(b && b->mains);
    if (!b || !b->mains) figures_->setRowCount(0);
    draw();
  }

 private:
  enum Shows { running, switching_on };

  std::shared_ptr<const arc::BridgeAnalysis> with_path() const {
    auto b = workspace_.document.power_of<arc::BridgeAnalysis>();
    return b && b->mains ? b : nullptr;
  }

  const arc::FeedLoads* loads() const override {
    const auto b = with_path();
    return b ? &*b->mains : nullptr;
  }

  void show_words(const arc::BridgeAnalysis& b) {
    const arc::MainsResult& m = *b.mains;
    head_.verdict->setText(
        QString("Bus of %1, %2 from the line")
            .arg(figures_->banded("mains", "bus_v"), figures_->banded("mains", "input_power_w")));
    QString text = QString("%1 at power factor %2. Switched on at the crest it draws %3 for a moment%4.")
                       .arg(figures_->banded("mains", "line_current_a"))
                       .arg(m.power_factor, 0, 'f', 2)
                       .arg(figures_->banded("mains", "inrush_peak_a"),
                            m.surge_2_a > 0 ? QString(", %1 as the relay closes").arg(print(m.surge_2_a, current))
                                            : QString());
    text += breaker_words(m);
    if (b.mains_load.rate_hz > 0)
      text += QString(" A burst begins at %1 and takes %2; at worst %3 % of it is back before the next.")
                  .arg(print(m.start_v, voltage), print(m.droop_v, voltage, 2))
                  .arg(100 * std::min(1.0, m.recovered), 0, 'f', 0);
    else
      text += " No bursts: the gate gives none.";
    if (workspace_.document.design().bridge.bus_voltage_v)
      text += " The bridge is simulated with the bus as measured.";
    text += " Bands: mains ± 5 %, reservoir ± 20 %, a burst by its own. House wiring taken as 0.15 Ω, diodes "
            "without their knee.";
    head_.reason->setText(text);
  }

  void draw_run() override {
    plot_->xAxis->ticker()->setTickCount(4);
    if (const auto b = with_path()) draw_waves(*b->mains);
  }

  void draw_waves(const arc::MainsResult& m) {
    const Theme& t = workspace_.theme();
    plot_->setAccessibleName("Bus voltage and line current");
    plot_->xAxis->setLabel("Time, ms");
    plot_->set_cycle(1e3 / workspace_.document.design().site.mains_frequency_hz);
    plot_->yAxis->setLabel("Bus, V");
    plot_->yAxis2->setLabel("Line, A (dashed)");
    plot_->yAxis2->setVisible(true);
    const auto ms = [](const arc::MainsSample& s) { return s.time_s * 1e3; };
    const auto volts = [](const arc::MainsSample& s) { return s.bus_v; };
    if (kept_ && kept_->mains)
      add_curve(*plot_, kept_->mains->samples, ms, volts, QPen(t.second, 1, Qt::DotLine), "kept");
    add_curve(
        *plot_, m.samples, ms, [](const arc::MainsSample& s) { return s.line_a; },
        QPen(t.second, 1.2, Qt::DashLine), "line", plot_->yAxis2);
    add_curve(*plot_, m.samples, ms, volts, QPen(t.arc, 1.6), "bus");
    if (m.samples.empty()) return;
    const double cycle_ms = 1e3 / workspace_.document.design().site.mains_frequency_hz,
                 last_ms = m.samples.back().time_s * 1e3, from_ms = m.bursts_from_s * 1e3;
    const bool start = shown_->currentIndex() == switching_on;
    const double low = start ? 0 : std::max(from_ms, last_ms - 4 * cycle_ms),
                 high = start ? std::min(from_ms, std::max(4 * cycle_ms, 1.6e3 * m.charged_s)) : last_ms;
    plot_->xAxis->setRange(low, high);
    double bus_low = 1e30, bus_high = 0, line_most = 0;
    for (const arc::MainsSample& s : m.samples) {
      if (s.time_s * 1e3 < low || s.time_s * 1e3 > high) continue;
      bus_low = std::min(bus_low, s.bus_v);
      bus_high = std::max(bus_high, s.bus_v);
      line_most = std::max(line_most, std::abs(s.line_a));
    }
    const double room = 0.08 * std::max(bus_high - bus_low, 1e-3 * bus_high + 1e-9);
    plot_->yAxis->setRange(bus_low - room, bus_high + room);
    plot_->yAxis2->setRange(-1.1 * line_most - 1e-6, 1.1 * line_most + 1e-6);
    cursor_->setText(start ? "switched on at the crest of the mains" : "drag for earlier cycles");
  }

  void read_run(double x) override {
    const auto b = with_path();
    if (!b || b->mains->samples.size() < 2) return;
    const arc::MainsSample& s = sample_at(b->mains->samples, x * 1e-3);
    cursor_->setText(QString("at %1: bus %2, line %3")
                         .arg(print(s.time_s, time, 4), print(s.bus_v, voltage, 4), print(s.line_a, current)));
  }

  void export_run() {
    const auto b = with_path();
    if (!b) return;
    const QString words = export_plot(
        *plot_, "bus", [&] { return arc::mains_csv(*b->mains); },
        [&] { return arc::mains_netlist(workspace_.document.design(), b->mains_load, *b->mains); });
    if (!words.isEmpty()) cursor_->setText(words);
  }

  QPushButton* keep_ = nullptr;
  std::shared_ptr<const arc::BridgeAnalysis> kept_;
};

} // namespace

FeedView* make_bus_feed_view(Workspace& workspace, const StageHead& head, QWidget* parent) {
  return new BusFeedView(workspace, head, parent);
}
