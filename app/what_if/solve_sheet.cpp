// What was solved is shown beside what is, and taken by one press.
#include "what_if/solve_sheet.h"

#include "base/latest_job.h"
#include "toolkit/common.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/plot.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"
#include "what_if/number_choice.h"
#include "workshop/compared_designs.h"
#include "workshop/solve.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>
#include <memory>

namespace {

struct SolvedAndCompared {
  arc::Solved solved;
  std::vector<arc::ComparedRow> rows;
  int stops_before = 0, stops_after = 0;
};

int stops_of(const arc::ComputedDesign& now) {
  int out = 0;
  for (const arc::Finding& finding : arc::all_findings(now.analysis, &now.power))
    out += finding.severity == arc::Severity::stop;
  return out;
}

SolvedAndCompared solve_and_compare(const arc::Design& design, const std::string& figure, double wanted,
                                    const std::string& by, arc::UnitSystem units,
                                    const std::atomic<bool>& cancelled) {
  SolvedAndCompared out{arc::solve(design, figure, wanted, by, cancelled), {}, 0, 0};
  if (cancelled) return out;
  const auto computed = [&](const arc::Design& of) {
    return arc::compute(of, arc::Computing::simulation, cancelled, units);
  };
  const arc::ComputedDesign before = computed(design), after = computed(out.solved.design);
  if (cancelled) return out;
  out.rows = arc::compare_figures(before.view(), after.view(), units);
  arc::differences_first(out.rows);
  std::erase_if(out.rows, [](const arc::ComparedRow& row) { return !row.differs; });
  out.stops_before = stops_of(before);
  out.stops_after = stops_of(after);
  return out;
}

class SolveSheet : public QDialog {
 public:
  SolveSheet(Workspace& workspace, const QString& figure, QWidget* parent)
      : QDialog(parent), workspace_(workspace),
        job_([this](const SolvedAndCompared& found) { take_result(found); },
             [this](const QString& problem) { end("It cannot be solved: " + problem); }) {
    setObjectName("solve sheet");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle("Make a figure a value");
    open_large(*this, {900, 600});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::medium, space::large, space::medium);
    column->setSpacing(space::small);
    column->addLayout(make_question());
    words_ = make_text({}, this);
    words_->setObjectName("solve words");
    words_->setWordWrap(true);
    words_->setMinimumHeight(2 * words_->fontMetrics().lineSpacing());
    words_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    column->addWidget(words_);
    auto* shown = new QHBoxLayout;
    shown->setSpacing(space::medium);
    plot_ = new CursorPlot(workspace_, "reach", "The figure over the number", this);
    plot_->setMinimumHeight(200);
    connect(plot_, &CursorPlot::whole_wanted, this, [this] { draw(); });
    connect(plot_, &CursorPlot::cursor_moved, this, [this](double x) { read_at(x); });
    shown->addWidget(plot_, 4);
    also_ = make_table(this, "also changed", {"What else changes", "Now", "Then"});
    also_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    also_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    also_->horizontalHeader()->setMaximumSectionSize(220);
    shown->addWidget(also_, 5);
    column->addLayout(shown, 1);
    column->addStretch();
    auto* ends = new QHBoxLayout;
    take_ = add_sheet_button(this, ends, "take solved", "Take this value", [this] { take(); });
    ends->addStretch();
    add_sheet_button(this, ends, "close solve", "Close", [this] { accept(); });
    column->addLayout(ends);
    fill_figures(figure);
    connect(&workspace_.document, &Document::design_changed, this, [this] { refresh(); });
    connect(&workspace_.document, &Document::analysis_changed, this, [this] { refresh(); });
    refresh();
    end({});
  }

 private:
  QLayout* make_question() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::medium);
    figure_ = new QComboBox(this);
    figure_->setObjectName("solve figure");
    figure_->setAccessibleName("Figure that is wanted");
    connect(figure_, &QComboBox::activated, this, [this] { choose_figure(); });
    row->addWidget(captioned("Make", figure_, this));
    wanted_row_ = new QHBoxLayout;
    row->addLayout(wanted_row_);
    number_ = new QComboBox(this);
    number_->setObjectName("solve number");
    number_->setAccessibleName("Number that is changed for it");
    row->addWidget(captioned("by", number_, this));
    run_ = add_sheet_button(this, row, "solve", "Solve", [this] { run(); });
    run_->setProperty("primary", true);
    cancel_ = add_sheet_button(this, row, "cancel solve", "Cancel", [this] {
      job_.cancel();
      end("It was stopped.");
    });
    row->addStretch();
    return row;
  }

  arc::PowerView view() const {
    const arc::PowerAnalysis* power = workspace_.document.power_of_kind();
    const arc::Design& design = workspace_.document.design();
    const arc::Analysis& analysis = *workspace_.document.analysis();
    return power ? arc::PowerView{design, analysis, *power} : arc::at_rest(design, analysis);
  }

  void fill_figures(const QString& wanted) {
    const arc::Design& design = workspace_.document.design();
    if (!workspace_.document.analysis()) workspace_.document.wait_for_analysis();
    const arc::PowerView now = view();
    const auto add = [&](const arc::Figure& figure) {
      const QString name = QString::fromStdString(arc::name_of(figure));
      if (arc::figure_value(figure, now) && figure_->findData(name) < 0)
        figure_->addItem(text_of(figure.title), name);
    };
    for (const arc::Figure* figure : arc::figures_at_rest(arc::kind_of(design))) add(*figure);
    for (const arc::Figure& figure : arc::figures_of(design))
      if (figure.needs == arc::Needs::power) add(figure);
    int chosen = figure_->findData(wanted);
    for (const char* usual : {"mode_1_hz", "best_mode_1_hz"})
      if (chosen < 0) chosen = figure_->findData(QString(usual));
    figure_->setCurrentIndex(std::max(0, chosen));
    figure_->setMaximumWidth(280);
    choose_figure();
  }

  const arc::Figure* figure() const {
    if (figure_->currentIndex() < 0) return nullptr;
    try {
      return &arc::figure_named(workspace_.document.design(), figure_->currentData().toString().toStdString());
    } catch (const std::invalid_argument&) { // of another kind by now
      return nullptr;
    }
  }

  // Another figure is wanted in another unit.
  void choose_figure() {
    while (QLayoutItem* item = wanted_row_->takeAt(0)) {
      delete item->widget();
      delete item;
    }
    value_ = nullptr;
    const arc::Figure* chosen = figure();
    if (!chosen) return;
    wanted_ = arc::figure_value(*chosen, view());
    QuantityRole role;
    role.name = "solve value";
    role.label = "become";
    role.dimension = chosen->dimension;
    role.minimum = -1e15;
    role.maximum = 1e15;
    role.get = [this] { return wanted_; };
    role.set = [this](std::optional<double> typed, const QString&) { wanted_ = typed; };
    value_ = new QuantityField(workspace_, std::move(role), this);
    wanted_row_->addWidget(labelled(value_, this));
  }

  void refresh() {
    fill_numbers(*number_, workspace_.document.design(), {"topload[0].outer_diameter_m", "secondary.turns"});
    number_->setMaximumWidth(300);
    const arc::Figure* chosen = figure();
    run_->setEnabled(chosen && !job_.running());
    run_->setToolTip(chosen ? QString() : QString("This kind of coil has no such figure"));
  }

  void run() {
    const auto number = chosen_number(*number_, workspace_.document.design());
    if (!value_ || !number) return;
    if (!value_->commit() || !wanted_) return value_->setFocus();
    cancel_->show();
    run_->setEnabled(false);
    words_->setText("The number is moved through its range …");
    job_.start([design = workspace_.document.shared_design(), units = workspace_.units(), wanted = *wanted_,
                name = figure_->currentData().toString().toStdString(),
                by = number->path](const std::atomic<bool>& cancelled) {
      return solve_and_compare(*design, name, wanted, by, units, cancelled);
    });
    asked_ = number;
    asked_figure_ = figure();
    of_ = workspace_.document.shared_design();
  }

  void end(const QString& words) {
    cancel_->hide();
    run_->setEnabled(figure());
    const bool there = !found_.solved.tried.empty();
    plot_->setVisible(there);
    also_->setVisible(there);
    take_->setEnabled(there && found_.solved.possible);
    take_->setToolTip(!there                    ? QString("Solve first")
                      : !found_.solved.possible ? QString("It is out of reach: the number shown comes nearest")
                                                : QString());
    words_->setText(
        !words.isEmpty()
            ? words
            : QString("Choose a figure, the value that it should have, and the one number that may change "
                      "for it. Everything else stays; nothing is retuned."));
  }

  QString printed(double value) const {
    QString out = Print{workspace_}(value, asked_figure_->dimension, 4);
    if (!asked_figure_->unit.empty()) out += " " + text_of(asked_figure_->unit);
    return out;
  }
  QString printed_number(double value) const { return Print{workspace_}(value, asked_->dimension, 4); }

  void take_result(const SolvedAndCompared& found) {
    found_ = found;
    if (!asked_figure_ || !asked_) return;
    const arc::Solved& s = found_.solved;
    const QString title = text_of(asked_figure_->title), by = QString::fromStdString(asked_->title);
    QString words =
        s.possible ? QString("%1 is %2 with %3 %4 (%5 now).")
                         .arg(title, printed(s.reached), by, printed_number(s.value), printed_number(asked_->value))
                   : QString("Out of reach: %1 comes nearest with %2, at %3 %4.")
                         .arg(title, printed(s.reached), by, printed_number(s.value));
    words += QString(" By this number it reaches %1 to %2.").arg(printed(s.low), printed(s.high));
    if (found_.stops_after > found_.stops_before)
      words += QString(" Beware: findings that forbid to fire would be %1, %2 now.")
                   .arg(found_.stops_after)
                   .arg(found_.stops_before);
    end(words);
    also_->setRowCount(static_cast<int>(found_.rows.size()));
    for (std::size_t i = 0; i < found_.rows.size(); ++i) {
      const arc::ComparedRow& row = found_.rows[i];
      const int r = static_cast<int>(i);
      set_row(also_, r,
              {QString::fromStdString(row.title), QString::fromStdString(row.first),
               QString::fromStdString(row.second)});
      for (int c = 0; c < 3; ++c) also_->item(r, c)->setToolTip(also_->item(r, c)->text());
    }
    draw();
    if (take_->isEnabled()) take_->setFocus();
  }

  void draw() {
    const arc::Solved& s = found_.solved;
    if (s.tried.empty() || !asked_ || !asked_figure_) return;
    const Theme& t = workspace_.theme();
    plot_->clearPlottables();
    style_plot(*plot_, t);
    across_ = axis_unit(s.value, asked_->dimension, workspace_.units());
    const AxisUnit up = axis_unit(s.reached, asked_figure_->dimension, workspace_.units());
    const auto titled = [](const QString& title, const QString& unit) {
      return unit.isEmpty() ? title : title + ", " + unit;
    };
    plot_->xAxis->setLabel(titled(QString::fromStdString(asked_->title), across_.symbol));
    plot_->yAxis->setLabel(titled(text_of(asked_figure_->title), up.symbol));
    add_curve(
        *plot_, s.tried, [&](const auto& p) { return p.first / across_.factor; },
        [&](const auto& p) { return p.second / up.factor; }, QPen(t.copper, 2), text_of(asked_figure_->title));
    const auto mark = [&](double x, double y, const QColor& colour, QCPScatterStyle::ScatterShape shape,
                          const char* name) {
      auto* graph = plot_->addGraph();
      graph->setName(name);
      graph->setLineStyle(QCPGraph::lsNone);
      graph->setScatterStyle(QCPScatterStyle(shape, colour, colour, 9));
      graph->addData(x / across_.factor, y / up.factor);
    };
    const auto now = std::ranges::find(s.tried, asked_->value, &std::pair<double, double>::first);
    if (now != s.tried.end()) mark(now->first, now->second, t.second, QCPScatterStyle::ssTriangleInverted, "now");
    mark(s.value, s.reached, s.possible ? t.settled : t.stop, QCPScatterStyle::ssDisc, "solved");
    frame_curves(*plot_);
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }

  void read_at(double x) {
    if (found_.solved.tried.empty() || !asked_ || !asked_figure_) return;
    const auto& p = nearest_point(found_.solved.tried, x * across_.factor, &std::pair<double, double>::first);
    plot_->setToolTip(QString("%1: %2").arg(printed_number(p.first), printed(p.second)));
  }

  void take() {
    if (!asked_) return;
    if (of_ != workspace_.document.shared_design()) {
      words_->setText("The design has changed since; solve it again.");
      return;
    }
    const auto number = *asked_;
    if (workspace_.document.edit("Take a solved value", [&](arc::Design& design) {
          design = arc::with_number(std::move(design), number, found_.solved.value);
        }))
      accept();
  }

  Workspace& workspace_;
  QComboBox *figure_ = nullptr, *number_ = nullptr;
  QHBoxLayout* wanted_row_ = nullptr;
  QuantityField* value_ = nullptr;
  std::optional<double> wanted_;
  QPushButton *run_ = nullptr, *cancel_ = nullptr, *take_ = nullptr;
  QLabel* words_ = nullptr;
  CursorPlot* plot_ = nullptr;
  QTableWidget* also_ = nullptr;
  SolvedAndCompared found_;
  std::optional<arc::NumberPlace> asked_; // what found_ is the answer to
  const arc::Figure* asked_figure_ = nullptr;
  std::shared_ptr<const arc::Design> of_;
  AxisUnit across_{1, {}};
  LatestJob<SolvedAndCompared> job_; // last: it works with the rest
};

} // namespace

void show_solve_sheet(Workspace& workspace, const QString& figure, QWidget* parent) {
  (new SolveSheet(workspace, figure, parent->window()))->open();
}
