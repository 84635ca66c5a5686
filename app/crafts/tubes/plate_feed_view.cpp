// The path to a tube's plate: the supply as it swings under load, what the line carries, what each block holds.
#include "crafts/tubes/tube.h"
#include "crafts/tubes/window.h"
#include "feed/line_feed_view.h"
#include "toolkit/plot.h"

#include <algorithm>
#include <cmath>
#include <memory>

namespace {

using enum arc::Dimension;

class PlateFeedView : public LineFeedView {
 public:
  PlateFeedView(Workspace& workspace, const StageHead& head, QWidget* parent)
      : LineFeedView(workspace, head,
                     {"plate feed figures", "plate feed plot", "Supply volts and line current",
                      "plate feed plot shows", "plate feed cursor"},
                     {"Supply and line", "The breaker's trip curve"}, parent) {}

  void refresh() override {
    show_age(figures_);
    const auto t = workspace_.document.power_of<arc::TubePower>();
    figures_->setRowCount(0);
    if (!t) {
      say_nothing_yet();
    } else if (!t->problem.empty()) {
      say_problem("The supply cannot be computed yet", t->problem);
    } else if (!t->mains_problem.empty()) {
      say_problem("The path to the plate cannot be computed", t->mains_problem);
    } else {
      show_words(*t);
    }
    draw();
  }

 private:
  std::shared_ptr<const arc::TubePower> solved() const {
    auto t = workspace_.document.power_of<arc::TubePower>();
    return t && t->problem.empty() ? t : nullptr;
  }

  const arc::FeedLoads* loads() const override {
    const auto t = solved();
    return t && t->mains ? &*t->mains : nullptr;
  }

  void show_words(const arc::TubePower& t) {
    const arc::TubeResult& r = t.run;
    const arc::Design& d = workspace_.document.design();
    if (arc::direct_supply_v(d)) {
      head_.verdict->setText(QString("Direct current of %1, as entered").arg(print(t.crest_v, voltage)));
      head_.reason->setText("The blocks here do not count while the oscillator is given its own direct current.");
      return;
    }
    head_.verdict->setText(QString("Supply reaches %1, %2 into the plate coil")
                               .arg(print(r.rail_most_v, voltage), print(r.plate_input_w, power)));
    QString words = QString("Its crest without load is %1.").arg(print(t.crest_v, voltage));
    if (r.rail_most_v > 1.1 * t.crest_v)
      words += " Where nothing draws, leakage and capacitors ring it above that.";
    if (t.mains)
      words += QString(" The line carries %1 at power factor %2.")
                   .arg(print(t.mains->line_current_a, current, 2))
                   .arg(t.mains->power_factor, 0, 'f', 2) +
               breaker_words(*t.mains);
    words += " Joints by a resistor that takes the oscillator's power; house wiring taken as 0.15 Ω.";
    head_.reason->setText(words);
    std::vector<std::pair<QString, QString>> rows;
    if (t.mains)
      for (const arc::DiodeLoad& diode : t.mains->diodes)
        rows.push_back({text_of(diode.title),
                        QString("%1 of %2").arg(print(diode.inverse_v, voltage), print(diode.limit_v, voltage))});
    if (!t.meters.empty()) rows.push_back({"Meters", "plate, grid, line"});
    for (const arc::TubeMeters& m : t.meters)
      rows.push_back(
          {QString("… at %1 %").arg(100 * m.setting, 0, 'f', 0),
           QString("%1, %2, %3")
               .arg(print(m.plate_a, current, 2), print(m.grid_a, current, 2), print(m.line_a, current, 2))});
    figures_->refresh(rows);
    for (int row = 0; row < figures_->rowCount(); ++row)
      if (const QString name = figures_->item(row, 0)->text(); name == "Meters" || name.startsWith("… at "))
        figures_->item(row, 1)->setToolTip("While the variac comes up: moving-coil meters in plate and grid lead, "
                                           "a true RMS one in the line. By the "
                                           "balance along the supply's swing, scaled to the run at this setting; "
                                           "within a quarter of full runs between "
                                           "half and full. Much more at the plate than here: stop.");
  }

  void draw_run() override {
    if (const auto t = solved()) draw_supply(*t);
  }

  void draw_supply(const arc::TubePower& t) {
    const Theme& theme = workspace_.theme();
    const double scale = t.on_mains ? 1e3 : 1e6;
    const auto when = [scale](const arc::TubeSample& s) { return s.time_s * scale; };
    add_curve(
        *plot_, t.run.samples, when, [](const arc::TubeSample& s) { return s.line_a; },
        QPen(theme.second, 1.2, Qt::DashLine), "line", plot_->yAxis2);
    add_curve(
        *plot_, t.run.samples, when, [](const arc::TubeSample& s) { return s.rail_v / 1e3; }, QPen(theme.arc, 1.6),
        "supply");
    plot_->xAxis->setLabel(t.on_mains ? "Time, ms" : "Time, µs");
    if (t.on_mains) plot_->set_cycle(scale / workspace_.document.design().site.mains_frequency_hz);
    plot_->yAxis->setLabel("Supply, kV");
    plot_->yAxis2->setLabel("Line, A (dashed)");
    plot_->yAxis2->setVisible(t.on_mains);
    frame_curves(*plot_);
  }

  void read_run(double x) override {
    const auto t = solved();
    if (!t || t->run.samples.empty()) return;
    const double scale = t->on_mains ? 1e3 : 1e6;
    const arc::TubeSample& s = nearest_point(t->run.samples, x / scale, &arc::TubeSample::time_s);
    plot_->set_cursor(s.time_s * scale);
    cursor_->setText(QString("at %1: supply %2, line %3")
                         .arg(print(s.time_s, time), print(s.rail_v, voltage), print(s.line_a, current)));
  }
};

} // namespace

FeedView* make_plate_feed_view(Workspace& workspace, const StageHead& head, QWidget* parent) {
  return new PlateFeedView(workspace, head, parent);
}
