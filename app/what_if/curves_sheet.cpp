// Three plots over one axis; the line across them is one, and what it stands at can be taken into the design.
#include "what_if/curves_sheet.h"

#include "base/latest_job.h"
#include "toolkit/common.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/plot.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"
#include "what_if/number_choice.h"
#include "workshop/curves.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QProgressBar>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <array>
#include <cmath>
#include <memory>

namespace {

constexpr int swept_places = 25;

class CurvesSheet : public QDialog {
 public:
  CurvesSheet(Workspace& workspace, QWidget* parent)
      : QDialog(parent), workspace_(workspace),
        job_([this](const arc::Curves& found) { take(found); }, [this](const QString& problem) { end(problem); }) {
    setObjectName("curves sheet");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle("Curves over one number");
    open_large(*this, {920, 640});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::medium, space::large, space::medium);
    column->setSpacing(space::small);
    column->addLayout(make_choice());
    words_ = caption_label({}, this);
    words_->setObjectName("curves words");
    words_->setWordWrap(true);
    words_->setMinimumHeight(2 * words_->fontMetrics().lineSpacing());
    words_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    column->addWidget(words_);
    constexpr std::array<const char*, 3> names{"curve arc", "curve line", "curve weakest"};
    constexpr std::array<const char*, 3> said{"Arc over the number", "Line current or power over the number",
                                              "Share of the weakest part's rating over the number"};
    for (std::size_t i = 0; i < plots_.size(); ++i) {
      plots_[i] = new CursorPlot(workspace_, names[i], said[i], this);
      plots_[i]->setMinimumHeight(110);
      connect(plots_[i], &CursorPlot::cursor_moved, this, [this](double x) { read_at(x); });
      connect(plots_[i], &CursorPlot::whole_wanted, this, [this] { draw(); });
      column->addWidget(plots_[i], 1);
    }
    column->addLayout(make_ends());
    progress_timer_.setInterval(80);
    connect(&progress_timer_, &QTimer::timeout, this,
            [this] { progress_->setValue(static_cast<int>(100 * *share_)); });
    connect(&workspace_.document, &Document::design_changed, this, [this] { refresh_numbers(); });
    connect(&workspace_.document, &Document::units_changed, this, [this] { draw(); });
    connect(&workspace_, &Workspace::theme_changed, this, [this] { draw(); });
    refresh_numbers();
    end({});
  }

 private:
  QuantityField* add_end(const char* name, const char* label, std::optional<double>& value) {
    QuantityRole role;
    role.name = name;
    role.label = label;
    role.dimension = place_ ? place_->dimension : arc::Dimension::number;
    role.minimum = place_ ? place_->minimum : 0;
    role.maximum = place_ ? place_->maximum : 1;
    role.get = [&value] { return value; };
    role.set = [&value](std::optional<double> typed, const QString&) { value = typed; };
    return new QuantityField(workspace_, std::move(role), this);
  }

  QLayout* make_choice() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::medium);
    number_ = new QComboBox(this);
    number_->setObjectName("curves number");
    number_->setAccessibleName("Number that is swept");
    connect(number_, &QComboBox::activated, this, [this] { choose(); });
    row->addWidget(captioned("Sweep", number_, this));
    ends_row_ = new QHBoxLayout;
    ends_row_->setSpacing(space::medium);
    row->addLayout(ends_row_);
    run_ = add_sheet_button(this, row, "sweep", "Simulate", [this] { run(); });
    run_->setProperty("primary", true);
    cancel_ = add_sheet_button(this, row, "cancel sweep", "Cancel", [this] {
      job_.cancel();
      end("The sweep was stopped.");
    });
    progress_ = new QProgressBar(this);
    progress_->setObjectName("sweep progress");
    progress_->setTextVisible(false);
    progress_->setFixedWidth(140);
    row->addWidget(progress_);
    row->addStretch();
    return row;
  }

  QLayout* make_ends() {
    auto* row = new QHBoxLayout;
    use_ = add_sheet_button(this, row, "use swept value", "Use the value at the line", [this] { use(); });
    export_ = add_sheet_button(this, row, "export curves", "Export…", [this] {
      const QString words = export_plot(
          *plots_[0], "curves", [this] { return arc::curves_csv(found_); },
          []() -> std::string { throw std::invalid_argument("A sweep is many circuits; a stage exports one."); });
      if (!words.isEmpty()) words_->setText(words);
    });
    row->addStretch();
    add_sheet_button(this, row, "close curves", "Close", [this] { accept(); });
    return row;
  }

  void refresh_numbers() {
    const QString before = number_->currentData().toString();
    fill_numbers(*number_, workspace_.document.design(),
                 {"gap.firing_voltage_v", "interrupter.rate_hz", "exciter.supply_voltage_v", "secondary.turns"});
    if (number_->currentData().toString() != before) choose();
  }

  // Another number has other ends.
  void choose() {
    place_ = chosen_number(*number_, workspace_.document.design());
    while (QLayoutItem* item = ends_row_->takeAt(0)) {
      delete item->widget();
      delete item;
    }
    if (!place_) return;
    const arc::SweptRange range = arc::usual_range(*place_);
    from_ = range.low;
    to_ = range.high;
    low_ = add_end("sweep from", "From", from_);
    high_ = add_end("sweep to", "To", to_);
    for (QuantityField* field : {low_, high_}) ends_row_->addWidget(labelled(field, this));
  }

  void run() {
    for (QuantityField* field : {low_, high_})
      if (!field->commit()) return field->setFocus();
    if (!place_ || !from_ || !to_ || !(*from_ < *to_)) {
      words_->setText("A sweep goes from a smaller number to a larger one.");
      return low_->setFocus();
    }
    *share_ = 0;
    progress_timer_.start();
    for (QWidget* w : std::initializer_list<QWidget*>{cancel_, progress_}) w->show();
    run_->setEnabled(false);
    run_->setToolTip("The sweep goes on");
    words_->setText("The coil is simulated at each place …");
    job_.start([design = workspace_.document.shared_design(), path = place_->path, low = *from_, high = *to_,
                share = share_](const std::atomic<bool>& cancelled) {
      return arc::curves(*design, path, low, high, swept_places, cancelled, [&](double done) { *share = done; });
    });
  }

  void end(const QString& words) {
    progress_timer_.stop();
    for (QWidget* w : std::initializer_list<QWidget*>{cancel_, progress_}) w->hide();
    run_->setEnabled(true);
    run_->setToolTip({});
    const bool there = !found_.points.empty();
    for (QPushButton* button : {use_, export_}) {
      button->setEnabled(there);
      button->setToolTip(there ? QString() : QString("Simulate first"));
    }
    words_->setText(!words.isEmpty() ? words
                    : there          ? words_->text()
                            : QString("Choose a number and its range: the coil is simulated at %1 places, with "
                                      "everything else as it is. Nothing is retuned.")
                                  .arg(swept_places));
    for (CursorPlot* plot : plots_) plot->setVisible(there);
    draw();
  }

  void take(const arc::Curves& found) {
    found_ = found;
    end({});
    if (found_.points.empty()) return;
    read_at(found_.of.value / unit_.factor);
    plots_[0]->setFocus();
  }

  struct Line {
    std::optional<double> arc::SweptPoint::*value;
    QString title;
    arc::Dimension dimension;
    double times = 1; // of the value, in the plot
  };

  // The curves of one plot, stops as marks on it.
  void draw_one(CursorPlot& plot, const std::vector<Line>& lines, double limit) {
    const Theme& t = workspace_.theme();
    plot.clearPlottables();
    style_plot(plot, t);
    double typical = 0;
    for (const arc::SweptPoint& p : found_.points)
      for (const Line& line : lines)
        typical = std::max(typical, line.times * std::abs((p.*line.value).value_or(0)));
    const AxisUnit unit = axis_unit(typical, lines.front().dimension, workspace_.units());
    plot.yAxis->setLabel(unit.symbol.isEmpty() ? lines.front().title
                                               : QString("%1, %2").arg(lines.front().title, unit.symbol));
    for (const Line& line : lines) {
      QCPGraph* graph = add_curve(
          plot, found_.points, [&](const arc::SweptPoint& p) { return p.at / unit_.factor; },
          [&](const arc::SweptPoint& p) {
            const auto value = p.*line.value;
            return value ? line.times * *value / unit.factor : std::nan("");
          },
          QPen(t.copper, 2), line.title);
      graph->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, 4));
    }
    if (lines.size() == 2) { // from here to there
      plot.graph(0)->setBrush(t.copper_fill);
      plot.graph(0)->setChannelFillGraph(plot.graph(1));
    }
    auto* stops = plot.addGraph();
    stops->setName("a stop");
    stops->setLineStyle(QCPGraph::lsNone);
    stops->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCross, t.stop, 9));
    for (const arc::SweptPoint& p : found_.points)
      if (const auto value = p.*lines.back().value; value && p.stops > 0)
        stops->addData(p.at / unit_.factor, lines.back().times * *value / unit.factor);
    if (limit > 0) {
      auto* line = plot.addGraph();
      line->setName("its rating");
      line->setPen(QPen(t.stop, 1.2, Qt::DashLine));
      for (const arc::SweptPoint& p : found_.points) line->addData(p.at / unit_.factor, limit / unit.factor);
    }
    const double low = found_.points.front().at / unit_.factor, high = found_.points.back().at / unit_.factor;
    frame_curves(plot);
    constexpr int left = 68; // the same for all three, so that places stand above each other
    plot.axisRect()->setAutoMargins(QCP::msRight | QCP::msTop | QCP::msBottom);
    plot.axisRect()->setMargins(QMargins(left, 0, 0, 0));
    plot.xAxis->setRange(low - 0.02 * (high - low), high + 0.02 * (high - low));
    plot.replot(QCustomPlot::rpQueuedReplot);
  }

  void draw() {
    if (found_.points.empty()) return;
    using Point = arc::SweptPoint;
    unit_ = axis_unit(found_.points.back().at, found_.of.dimension, workspace_.units());
    const auto known = [&](std::optional<double> Point::*value) {
      return std::ranges::any_of(found_.points, [&](const Point& p) { return (p.*value).has_value(); });
    };
    const bool arcs = known(&Point::arc_high_m), line = known(&Point::line_current_a);
    if (arcs)
      draw_one(
          *plots_[0],
          {{&Point::arc_low_m, "Arc", arc::Dimension::length}, {&Point::arc_high_m, "Arc", arc::Dimension::length}},
          0);
    else
      draw_one(*plots_[0], {{&Point::top_peak_v, "Top, peak", arc::Dimension::voltage}}, 0);
    if (line)
      draw_one(*plots_[1], {{&Point::line_current_a, "Line", arc::Dimension::current}}, 0);
    else
      draw_one(*plots_[1], {{&Point::input_w, "Power", arc::Dimension::power}}, 0);
    draw_one(*plots_[2], {{&Point::weakest_used, "Weakest part", arc::Dimension::percent, 100}}, 100);
    plots_[2]->xAxis->setLabel(unit_.symbol.isEmpty()
                                   ? QString::fromStdString(found_.of.title)
                                   : QString("%1, %2").arg(QString::fromStdString(found_.of.title), unit_.symbol));
    for (CursorPlot* plot : plots_) plot->setVisible(true);
  }

  const arc::SweptPoint& point_at(double x) const {
    return nearest_point(found_.points, x * unit_.factor, &arc::SweptPoint::at);
  }

  // What stands at the line, in words.
  void read_at(double x) {
    if (found_.points.empty()) return;
    const arc::SweptPoint& p = point_at(x);
    at_ = p.at;
    for (CursorPlot* plot : plots_) plot->set_cursor(p.at / unit_.factor);
    using enum arc::Dimension;
    const Print print{workspace_};
    QStringList out{
        QString("%1 %2").arg(QString::fromStdString(found_.of.title), print(p.at, found_.of.dimension, 4))};
    if (!p.problem.empty()) out << "not simulated, " + QString::fromStdString(p.problem);
    if (p.arc_high_m)
      out << (*p.arc_high_m > 0
                  ? QString("arc %1 to %2").arg(print(*p.arc_low_m, length, 2), print(*p.arc_high_m, length, 2))
                  : QString("nothing breaks out"));
    if (p.input_w) out << print(*p.input_w, power);
    if (p.line_current_a) out << "line " + print(*p.line_current_a, current);
    if (p.weakest_used)
      out << QString("weakest: %1 %2 %")
                 .arg(QString::fromStdString(p.weakest), QString::number(100 * *p.weakest_used, 'f', 0));
    if (p.stops > 0) out << (p.stops == 1 ? QString("one stop") : QString("%1 stops").arg(p.stops));
    QString words = out.join(" · ");
    if (std::ranges::any_of(found_.points, [](const arc::SweptPoint& point) { return point.stops > 0; }))
      words += "\nA cross marks where a finding forbids to fire.";
    if (nothing_moves()) words += "\nNothing here depends on this number.";
    words_->setText(words);
  }

  bool nothing_moves() const {
    constexpr double rounding = 1e-9;
    return std::ranges::all_of(arc::curve_columns(), [&](const arc::CurveColumn& column) {
      const auto first = found_.points.front().*column.value;
      return std::ranges::all_of(found_.points, [&](const arc::SweptPoint& point) {
        const auto value = point.*column.value;
        return value.has_value() == first.has_value() &&
               (!value || std::abs(*value - *first) <= rounding * std::abs(*first));
      });
    });
  }

  void use() {
    if (!place_ || found_.points.empty() || place_->path != found_.of.path) return;
    workspace_.document.edit("Use a swept value", [&](arc::Design& design) {
      design = arc::with_number(std::move(design), found_.of, at_);
    });
  }

  Workspace& workspace_;
  std::optional<arc::NumberPlace> place_;
  std::optional<double> from_, to_;
  QuantityField *low_ = nullptr, *high_ = nullptr;
  QComboBox* number_ = nullptr;
  QHBoxLayout* ends_row_ = nullptr;
  QPushButton *run_ = nullptr, *cancel_ = nullptr, *use_ = nullptr, *export_ = nullptr;
  QProgressBar* progress_ = nullptr;
  QLabel* words_ = nullptr;
  std::array<CursorPlot*, 3> plots_{};
  arc::Curves found_;
  AxisUnit unit_{1, {}};
  double at_ = 0;
  std::shared_ptr<std::atomic<double>> share_ = std::make_shared<std::atomic<double>>(0);
  QTimer progress_timer_;
  LatestJob<arc::Curves> job_; // last: it works with the rest
};

} // namespace

void show_curves_sheet(Workspace& workspace, QWidget* parent) {
  (new CurvesSheet(workspace, parent->window()))->open();
}
