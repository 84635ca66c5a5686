// Entry from a data sheet with the curves drawn over the points; the filament's plan.
#include "crafts/tubes/tube_sheets.h"

#include "crafts/tubes/tube.h"
#include "parts/tube.h"
#include "timing/gate_drive.h"
#include "toolkit/choice_box.h"
#include "toolkit/common.h"
#include "toolkit/number_sheet.h"
#include "toolkit/plot.h"
#include "toolkit/text.h"

#include <QGridLayout>
#include <QHeaderView>
#include <QVBoxLayout>
#include <array>
#include <cmath>
#include <optional>
#include <set>
#include <stdexcept>

namespace {

using enum arc::Dimension;

class TubeSheet : public NumberSheet {
 public:
  TubeSheet(Workspace& workspace, QWidget* parent) : NumberSheet(workspace, "tube", "Tube", 4, parent) {
    column_->addWidget(heading("Three points of the data sheet's plate curves: two beyond the knee, one in it"));
    auto* beside = new QHBoxLayout;
    beside->setSpacing(space::medium);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(space::medium);
    static constexpr std::array<const char*, 3> plates{"1: plate volts", "2: plate volts", "3: plate volts"};
    static constexpr std::array<const char*, 3> grids{"1: grid volts", "2: grid volts", "3: grid volts"};
    static constexpr std::array<const char*, 3> amps{"1: plate current", "2: plate current", "3: plate current"};
    seed_points();
    for (std::size_t i = 0; i < points_.size(); ++i) {
      add_number(grid, plates[i], plates[i], voltage, 1, 1e5, points_[i].plate_v);
      add_number(grid, grids[i], grids[i], voltage, -1e4, 1e4, points_[i].grid_v);
      add_number(grid, amps[i], amps[i], current, 1e-5, 1000, points_[i].plate_a);
      if (i == 0)
        add_number(grid, "grid share", "Grid's share, equal volts", fraction, 0.001, 0.9, share_);
      else
        grid->addWidget(new QWidget(this), static_cast<int>(i), 3); // one point in a row
    }
    beside->addLayout(grid, 3);
    plot_ = new QCustomPlot(this);
    plot_->setObjectName("tube curves");
    plot_->setAccessibleName("Plate current over plate volts, fitted, with the points");
    plot_->setMinimumSize(220, 150);
    beside->addWidget(plot_, 2);
    column_->addLayout(beside);
    problem_ = make_problem();
    column_->addWidget(problem_);
    add_sheet_button(this, column_, "take tube", "Fit model to these points", [this] { take(); });
    column_->addWidget(heading("Model parameters"));
    std::vector<const char*> law{"tube.perveance_a_per_v15", "tube.grid_perveance_a_per_v15", "tube.mu",
                                 "tube.knee_v"};
    const bool triode = workspace.document.design().tube.tube.tie == arc::GridTie::triode;
    if (!triode) law.insert(law.end(), {"tube.screen_mu", "tube.screen_perveance_a_per_v15", "tube.screen_v"});
    column_->addWidget(grid_of(law));
    equivalent_ = caption_label({}, this);
    equivalent_->setObjectName("equivalent triode");
    column_->addWidget(equivalent_);
    column_->addWidget(heading("Capacitances as wired, ratings"));
    column_->addWidget(
        grid_of({"tube.grid_cathode_f", "tube.grid_plate_f", "tube.plate_cathode_f", "tube.plate_dissipation_w",
                 "tube.grid_dissipation_w", "tube.plate_heat_s", "tube.grid_heat_s", "tube.plate_voltage_v",
                 "tube.cathode_peak_a", "tube.sharing"}));
    column_->addWidget(
        caption_label("Three-halves law with a knee; capacitances constant, no secondary emission from "
                      "the grid. Tubes of one type differ by 15 % and more.",
                      this));
    auto* row = new QHBoxLayout;
    row->addWidget(captioned("Grids", whole_choice(workspace, "tube.grids", this), this));
    row->addStretch();
    add_sheet_button(this, row, "close tube sheet", "Close", [this] { accept(); });
    column_->addLayout(row);
    connect(&workspace.document, &Document::design_changed, this, [this] { refresh(); });
    refresh();
  }

 private:
  void number_changed() override { refresh(); } // the points in the drawing

  // Points that today's law gives, so that the sheet starts from what is there.
  void seed_points() {
    const arc::Tube& tube = workspace_.document.design().tube.tube;
    const arc::TubeLaw law = arc::tube_law(tube);
    const double v = arc::round_significant(tube.plate_voltage_v / 2, 2);
    const double drive = arc::round_significant(std::max(5.0, v / law.mu), 2);
    points_ = {{{v, 0, 0}, {v, drive, 0}, {arc::round_significant(2 * law.knee_v, 2), drive, 0}}};
    for (arc::CurvePoint& p : points_)
      p.plate_a = arc::round_significant(std::max(1e-4, arc::tube_currents(law, p.plate_v, p.grid_v).plate_a), 3);
    share_ = std::clamp(law.grid_perveance / law.perveance / std::pow(1 + 1 / law.mu, 1.5), 0.01, 0.8);
  }

  void take() {
    problem_->clear();
    try {
      const arc::TubeLaw law = arc::fit_tube(points_, share_);
      workspace_.document.edit("Tube from its data sheet", [&](arc::Design& design) {
        arc::Tube& tube = design.tube.tube;
        tube.tie = arc::GridTie::triode; // the curves are those of the tube as it is tied
        tube.perveance_a_per_v15 = law.perveance;
        tube.grid_perveance_a_per_v15 = law.grid_perveance;
        tube.mu = law.mu;
        tube.knee_v = law.knee_v;
      });
    } catch (const std::invalid_argument& refusal) {
      problem_->setText(QString::fromUtf8(refusal.what()));
    }
  }

  void refresh() {
    const arc::Tube& tube = workspace_.document.design().tube.tube;
    const arc::TubeLaw law = arc::tube_law(tube);
    equivalent_->setText(
        tube.tie == arc::GridTie::triode
            ? QString()
            : QString("As its grids are tied it is a triode with µ %1, G %2, grid's %3 A per V^1.5.")
                  .arg(law.mu, 0, 'g', 3)
                  .arg(law.perveance, 0, 'g', 3)
                  .arg(law.grid_perveance, 0, 'g', 3));
    const Theme& t = workspace_.theme();
    plot_->clearGraphs();
    style_plot(*plot_, t);
    plot_->legend->setVisible(false);
    plot_->xAxis->setLabel("Plate, V");
    plot_->yAxis->setLabel("Plate, A");
    double most_v = 1, most_a = 1e-3;
    for (const arc::CurvePoint& p : points_) {
      most_v = std::max(most_v, 1.3 * p.plate_v);
      most_a = std::max(most_a, 1.3 * p.plate_a);
    }
    std::vector<double> volts;
    for (int i = 0; i <= 120; ++i) volts.push_back(most_v * i / 120);
    std::set<double> grids;
    for (const arc::CurvePoint& p : points_) grids.insert(p.grid_v);
    for (const double grid_v : grids)
      add_curve(
          *plot_, volts, [](double v) { return v; },
          [&](double v) { return arc::tube_currents(law, v, grid_v).plate_a; }, QPen(t.copper, 1.4), "fitted");
    QCPGraph* dots = plot_->addGraph();
    for (const arc::CurvePoint& p : points_) dots->addData(p.plate_v, p.plate_a);
    dots->setLineStyle(QCPGraph::lsNone);
    dots->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, t.arc, 7));
    plot_->xAxis->setRange(0, most_v);
    plot_->yAxis->setRange(0, most_a);
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }

  std::array<arc::CurvePoint, 3> points_{};
  double share_ = 0.2;
  QCustomPlot* plot_ = nullptr;
  QLabel* problem_ = nullptr;
  QLabel* equivalent_ = nullptr;
};

class FilamentSheet : public NumberSheet {
 public:
  FilamentSheet(Workspace& workspace, QWidget* parent) : NumberSheet(workspace, "filament", "Filament", 4, parent) {
    column_->addWidget(heading("Tube, winding and wiring"));
    column_->addWidget(
        grid_of({"tube.filament_v", "tube.filament_a", "tube.filament_supply_v", "tube.filament_wiring_ohm",
                 "tube.filament_series_h", "tube.filament_decoupling_f"}));
    column_->addWidget(heading("A trial winding on the core, soft start"));
    column_->addWidget(grid_of({"tube.filament_trial_turns", "tube.filament_trial_v", "tube.filament_soft_ohm",
                                "tube.filament_soft_s", "tube.filament_cold_ratio"}));
    words_ = make_text(this);
    words_->setObjectName("filament plan");
    words_->setWordWrap(true);
    words_->setMinimumHeight(96);
    column_->addWidget(words_);
    auto* row = new QHBoxLayout;
    row->addStretch();
    add_sheet_button(this, row, "close filament sheet", "Close", [this] { accept(); });
    column_->addLayout(row);
    connect(&workspace.document, &Document::design_changed, this, [this] { refresh(); });
    refresh();
  }

 private:
  void refresh() {
    const arc::Design& d = workspace_.document.design();
    const arc::FilamentPlan plan = arc::filament_plan(d);
    const Print print{workspace_};
    QStringList lines;
    if (plan.assumed)
      lines << QString("No winding entered: it must give %1 through this wiring; %2 when hot.")
                   .arg(print(plan.wanted_v, voltage), print(plan.amps, current));
    else
      lines << QString("%1 at the filament, %2 % %3 its rating%4; %5 when hot.")
                   .arg(print(plan.volts, voltage))
                   .arg(100 * std::abs(plan.off), 0, 'f', 1)
                   .arg(plan.off < 0 ? "below" : "above",
                        std::abs(plan.off) <= arc::filament_band ? " (within 5 %)"
                                                                 : " (5 % is allowed, either way)",
                        print(plan.amps, current));
    if (plan.turns) {
      const double turns = std::round(*plan.turns), more = turns - *d.tube.filament.trial_turns;
      lines << QString("The trial gave %1 a turn: %2 turns give %3, %4 %5 than the trial.")
                   .arg(print(*plan.volts_per_turn, voltage))
                   .arg(turns, 0, 'f', 0)
                   .arg(print(turns * *plan.volts_per_turn, voltage))
                   .arg(std::abs(more), 0, 'f', 0)
                   .arg(more < 0 ? "fewer" : "more");
    } else {
      lines << "Wind a trial of a few turns on the core and enter what it gives: the turns wanted follow.";
    }
    if (plan.series_h)
      lines
          << QString("Today's winding comes down to it with %1 in series.").arg(print(*plan.series_h, inductance));
    else if (!plan.assumed)
      lines << "Today's winding is too low for it: an inductor only takes away.";
    lines << QString("Switched on cold it takes %1; %2 in series keeps that within twice the running current.")
                 .arg(print(plan.cold_a, current), print(plan.soft_ohm, resistance));
    words_->setText(lines.join("\n"));
  }

  QLabel* words_ = nullptr;
};

// What is seldom changed: lamp, trap coil, stopper, winding, and what stands in for feed and arcs.
class PartsSheet : public NumberSheet {
 public:
  PartsSheet(Workspace& workspace, QWidget* parent)
      : NumberSheet(workspace, "parts", "Parts of the oscillator", 4, parent) {
    column_->addWidget(heading("Feedback winding and grid"));
    column_->addWidget(grid_of({"feedback.radius_m", "feedback.pitch_m", "feedback.conductor_diameter_m",
                                "tube.grid_leak_rating_w", "tube.grid_stopper_ohm", "tube.lamp_cold_ohm",
                                "tube.lamp_hot_ohm", "tube.lamp_a"}));
    column_->addWidget(heading("Plate, supply and arcs"));
    column_->addWidget(grid_of({"tube.trap_h", "tube.supply_voltage_v", "tube.noise_a", "tube.noise_hz"}));
    column_->addWidget(
        caption_label("A lamp of 0 Ω is none. Direct current stands in for the feed. Noise is what a swinging "
                      "supply starts the oscillator from: the moment varies from cycle to cycle.",
                      this));
    auto* row = new QHBoxLayout;
    row->addWidget(captioned("Arcs load it", whole_choice(workspace, "tube.arc", this), this));
    row->addStretch();
    add_sheet_button(this, row, "close parts sheet", "Close", [this] { accept(); });
    column_->addLayout(row);
  }
};

// From an instrument to the thyristor's gate: numbers of the sheet's own, the circuit's parts as they follow.
class GateDriveSheet : public NumberSheet {
 public:
  GateDriveSheet(Workspace& workspace, QWidget* parent)
      : NumberSheet(workspace, "gate drive", "Gate drive of the thyristor", 4, parent) {
    column_->addWidget(heading("Instrument or timer, opto-coupler, and the gate's own supply"));
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(space::medium);
    add_number(grid, "source volts", "Gives", voltage, 1, 50, task_.source_v);
    add_number(grid, "source ohms", "… behind", resistance, 0.1, 10e3, task_.source_ohm);
    add_number(grid, "diode", "Coupler's diode wants", current, 1e-4, 0.1, task_.diode_a);
    add_number(grid, "transfer", "… and passes on", fraction, 0.01, 10, task_.transfer);
    add_number(grid, "battery", "Gate's battery", voltage, 1, 30, task_.gate_supply_v);
    add_number(grid, "trigger volts", "Gate triggers at", voltage, 0.2, 5, task_.trigger_v);
    add_number(grid, "trigger current", "… and", current, 1e-4, 1, task_.trigger_a);
    column_->addLayout(grid);
    problem_ = make_problem();
    column_->addWidget(problem_);
    words_ = make_text(this);
    words_->setObjectName("gate drive words");
    words_->setWordWrap(true);
    words_->setMinimumSize(560, 64);
    column_->addWidget(words_);
    table_ = make_table(this, "gate drive parts", {"Part", "What", "Value"});
    wrap_column(table_, 1);
    table_->setMinimumHeight(200);
    column_->addWidget(table_);
    wires_ = caption_label({}, this);
    wires_->setObjectName("gate drive wires");
    wires_->setWordWrap(true);
    column_->addWidget(wires_);
    auto* row = new QHBoxLayout;
    row->addStretch();
    add_sheet_button(this, row, "close gate drive", "Close", [this] { accept(); });
    column_->addLayout(row);
    refresh();
  }

 private:
  void number_changed() override { refresh(); }

  void refresh() {
    problem_->clear();
    table_->setRowCount(0);
    words_->clear();
    wires_->clear();
    task_.stands_off_v = arc::gate_stands_off_v(workspace_.document.design(),
                                                arc::part_of<arc::TubePower>(workspace_.document.power().get()));
    const Print print{workspace_};
    try {
      const arc::GateDrive drive = arc::gate_drive(task_);
      words_->setText(QString("%1 through the diode, %2 into the gate: twice what triggers it.%3 Between the two "
                              "sides %4 can stand: %5.")
                          .arg(print(drive.diode_a, current), print(drive.gate_a, current),
                               drive.amplified ? QString(" The coupler passes %1, so a transistor follows it.")
                                                     .arg(print(drive.coupler_a, current))
                                               : QString(),
                               print(task_.stands_off_v, voltage),
                               drive.fibre
                                   ? QString("no usual coupler is made for twice that, take fibre")
                                   : QString("a coupler for %1 or more").arg(print(drive.isolation_v, voltage))));
      table_->setRowCount(static_cast<int>(drive.parts.size()));
      int row = 0;
      for (const arc::TimerPart& part : drive.parts)
        set_row(table_, row++,
                {QString::fromStdString(part.name), QString::fromStdString(part.what),
                 part.value > 0 ? print(part.value, part.dimension) : QString()});
      QStringList wires;
      for (const std::string& wire : drive.connections) wires << QString::fromStdString(wire);
      wires_->setText(wires.join(". ") + ".");
    } catch (const std::invalid_argument& refusal) {
      problem_->setText(QString::fromUtf8(refusal.what()));
    }
  }

  arc::GateDriveTask task_;
  QLabel *problem_ = nullptr, *words_ = nullptr, *wires_ = nullptr;
  QTableWidget* table_ = nullptr;
};

} // namespace

void show_gate_drive_sheet(Workspace& workspace, QWidget* parent) {
  (new GateDriveSheet(workspace, parent))->open();
}

void show_parts_sheet(Workspace& workspace, QWidget* parent) {
  (new PartsSheet(workspace, parent))->open();
}

void show_tube_sheet(Workspace& workspace, QWidget* parent) {
  (new TubeSheet(workspace, parent))->open();
}

void show_filament_sheet(Workspace& workspace, QWidget* parent) {
  (new FilamentSheet(workspace, parent))->open();
}
