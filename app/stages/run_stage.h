// What stages that show a simulated run have in common beyond SimulatedStage: an earlier run kept for comparison,
// its export, words at the cursor, plots above each other, the figures and single changes at the side, and what
// stands there while nothing is simulated. A craft gives curves and words. Shows the document's simulation;
// computes nothing.
#pragma once

#include "stages/simulated_stage.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/figure_list.h"
#include "toolkit/plot.h"
#include "toolkit/single_changes.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <memory>
#include <vector>

/// Keys and words of such a stage.
struct RunWords {
  const char* stage;            // key of the rail, and of the figures that it lists
  const char* head;             // start of its heading's name
  const char *run, *one;        // "oscillation": names of Keep and Export; "this oscillation"
  const char* file;             // of what is exported, without its ending
  const char *cursor, *figures; // object names
  const char* merit;            // what the single changes are compared for: "the same heat"
  const char *changes, *make;   // object names of their table and button
  const char* cannot;           // "The exciter cannot be simulated yet"
};

template <class Part>
class RunStage : public SimulatedStage {
 protected:
  RunStage(Workspace& workspace, const RunWords& words, QWidget* parent)
      : SimulatedStage(workspace, words.stage, parent, words.head), words_(words) {
    cursor_ = caption_label({}, this);
    cursor_->setObjectName(words.cursor);
    cursor_->setWordWrap(true);
    connect(&workspace.document, &Document::design_changed, this, [this] { refresh_age(); });
    connect(&workspace.document, &Document::opened, this, [this] { kept_.reset(); });
  }

  std::shared_ptr<const Part> part() const { return workspace_.document.power_of<Part>(); }
  /// The part where there is something to show of it.
  std::shared_ptr<const Part> solved() const {
    auto p = part();
    return p && problem_of(*p).empty() ? p : nullptr;
  }
  /// Why there is nothing to show; empty where there is.
  virtual std::string problem_of(const Part& p) const { return p.problem; }
  /// Verdict and reason above.
  virtual void show_words(const Part& p) = 0;
  /// The curves of what is there; nothing where nothing is.
  virtual void draw() = 0;
  virtual std::string csv(const Part& p) const = 0;
  virtual std::string deck(const Part& p) const = 0;
  /// Whatever else follows from the simulation, or from there being none.
  virtual void refresh_more(const Part*) {}

  /// A plot of the run among those that share its time, with these margins at the sides.
  CursorPlot* add_plot(const char* name, const char* words, int left, int right, int least_height = 84) {
    auto* plot = new CursorPlot(workspace_, name, words, this);
    plot->setMinimumHeight(least_height);
    plot->axisRect()->setAutoMargins(QCP::msTop | QCP::msBottom); // one axis for all, above each other
    plot->axisRect()->setMargins({left, 0, right, 0});
    connect(plot, &CursorPlot::whole_wanted, this, [this] { draw(); });
    plots_.push_back(plot);
    return plot;
  }

  void add_tools(QHBoxLayout* row) {
    keep_ = new QPushButton("Hold", this);
    keep_->setObjectName(QString("keep ") + words_.run);
    connect(keep_, &QPushButton::clicked, this, [this] {
      if (auto p = solved()) kept_ = std::move(p);
      draw();
    });
    row->addWidget(keep_);
    export_ = new QPushButton("Export…", this);
    export_->setObjectName(QString("export ") + words_.run);
    export_->setToolTip("Waveforms as CSV, a picture as SVG or PNG, or the circuit as a SPICE deck");
    connect(export_, &QPushButton::clicked, this, [this] {
      const auto p = solved();
      if (!p) return;
      const QString said = export_plot(
          *plots_.front(), words_.file, [&] { return csv(*p); }, [&] { return deck(*p); });
      if (!said.isEmpty()) cursor_->setText(said);
    });
    row->addWidget(export_);
  }

  /// Figures and single changes; what is added to its layout before stands above them.
  QWidget* make_run_side(int narrow = 226, int wide = 272, int figures = 3, int changes = 2) {
    set_side(new QWidget(this), narrow, wide);
    auto* column = new QVBoxLayout(side_);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    figures_ = new FigureList(workspace_, words_.stage, words_.figures, side_);
    column->addWidget(figures_, figures);
    changes_ = new SingleChanges(workspace_, QString("Single changes, for %1").arg(words_.merit), words_.changes,
                                 words_.make, side_);
    column->addWidget(changes_, changes);
    return side_;
  }

  void refresh() override {
    if (!isVisible()) return;
    const auto p = part();
    const auto there = solved();
    keep_->setEnabled(there != nullptr);
    keep_->setToolTip(there ? QString("Draws %1 in grey behind the next ones, for comparison").arg(words_.one)
                            : "Nothing is simulated yet");
    if (there) {
      show_words(*there);
      figures_->refresh();
      changes_->show(there->changes);
    } else {
      head_.verdict->setText(p ? words_.cannot : "Being simulated…");
      head_.reason->setText(p ? QString::fromStdString(problem_of(*p)) : QString());
      figures_->setRowCount(0);
      changes_->show({});
      clear_plots();
    }
    refresh_more(there.get());
    refresh_age();
    if (there) draw();
  }

  /// All plots empty, in the theme's colours, with a second axis and a legend where there is room for it.
  void begin_plots(int legend_from_height, int legend_from_width = 400) {
    for (CursorPlot* plot : plots_) {
      plot->clearGraphs();
      plot->set_cycle(0);
      style_plot(*plot, workspace_.theme());
      plot->yAxis2->setVisible(true);
      plot->legend->setVisible(plot->height() >= legend_from_height && plot->width() >= legend_from_width);
      lay_legend_flat(*plot);
    }
  }

  /// " Measured, not computed: coupling."; empty where nothing was.
  QString measured_words() const {
    const auto analysis = workspace_.document.analysis();
    if (!analysis || analysis->circuit.measured.empty()) return {};
    QStringList names;
    for (const std::string& name : analysis->circuit.measured) names << QString::fromStdString(name);
    return " Measured, not computed: " + names.join(", ") + ".";
  }

  void refresh_age() {
    changes_->refresh();
    show_age({figures_, head_.verdict, head_.reason});
  }

  const RunWords words_;
  QLabel* cursor_ = nullptr;
  QPushButton *keep_ = nullptr, *export_ = nullptr;
  FigureList* figures_ = nullptr;
  SingleChanges* changes_ = nullptr;
  std::vector<CursorPlot*> plots_; // the first is what is exported as a picture
  std::shared_ptr<const Part> kept_;

 private:
  void clear_plots() {
    for (CursorPlot* plot : plots_) {
      plot->clearGraphs();
      style_plot(*plot, workspace_.theme());
      plot->legend->setVisible(false);
      plot->replot();
    }
  }
};
