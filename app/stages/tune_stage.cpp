// Tune: the tank's frequency at every clip against the resonator, measured frequencies beside computed ones, and
// the clip that follows from them.
#include "bench/tuning.h"
#include "stages/stage.h"
#include "widgets/plot.h"
#include "widgets/quantity_field.h"
#include "widgets/reading_button.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>

namespace {

QString print(double si, arc::Dimension dimension, int digits = 4,
              arc::UnitSystem units = arc::UnitSystem::metric) {
  return QString::fromStdString(arc::format_quantity(si, dimension, units, digits));
}

class TuneStage : public QWidget {
 public:
  TuneStage(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("tune");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addLayout(make_head());
    reason_->setContentsMargins(space::large, 0, space::medium, space::small);
    column->addWidget(reason_);
    auto* middle = new QHBoxLayout;
    middle->setContentsMargins(space::large, 0, space::medium, space::small);
    middle->setSpacing(space::medium);
    taps_ = make_table({"Clip", "Primary", "Tank", "Off"}, "tap table");
    taps_->setFixedWidth(300);
    taps_->setToolTip("Press Enter or double-click to move the clip there");
    connect(taps_, &QTableWidget::cellActivated, this, [this](int row) {
      const double turns = taps_->item(row, 0)->data(Qt::UserRole).toDouble();
      workspace_.document.edit("Move the clip", [turns](arc::Design& design) { design.primary.tap_turns = turns; });
    });
    middle->addWidget(taps_);
    plot_ = new QCustomPlot(this);
    plot_->setMinimumSize(200, 140);
    plot_->setObjectName("tune plot");
    plot_->setAccessibleName("Tank frequency against clip position");
    middle->addWidget(plot_, 1);
    column->addLayout(middle, 1);
    column->addWidget(make_measurements());
    connect(&workspace_.document, &Document::analysis_changed, this, &TuneStage::refresh);
    connect(&workspace_, &Workspace::theme_changed, this, &TuneStage::refresh);
    refresh();
  }

 protected:
  void showEvent(QShowEvent* event) override {
    QWidget::showEvent(event);
    refresh();
  }

 private:
  QTableWidget* make_table(const QStringList& heads, const QString& name) {
    auto* table = new QTableWidget(0, static_cast<int>(heads.size()), this);
    table->setObjectName(name);
    table->setAccessibleName(name);
    table->setHorizontalHeaderLabels(heads);
    table->verticalHeader()->hide();
    table->verticalHeader()->setDefaultSectionSize(24);
    table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    table->horizontalHeader()->setHighlightSections(false);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setSelectionMode(QAbstractItemView::SingleSelection);
    table->setShowGrid(false);
    table->setTabKeyNavigation(false);
    return table;
  }

  QLayout* make_head() {
    auto* row = new QHBoxLayout;
    row->setContentsMargins(space::large, 12, space::medium, 0);
    row->setSpacing(space::medium);
    verdict_ = new QLabel(this);
    verdict_->setObjectName("tune verdict");
    verdict_->setFont(type::font(type::heading, QFont::DemiBold));
    reason_ = new QLabel(this);
    reason_->setProperty("caption", true);
    row->addWidget(verdict_, 1);
    target_ = new QComboBox(this);
    target_->setObjectName("tune target");
    target_->setAccessibleName("Match the tank to");
    target_->addItems({"Match the silent coil", "Match the coil with arcs"});
    target_->setToolTip("The silent coil is the default because it can be measured. Builders who chase the longest "
                        "arcs tune lower,\n"
                        "for the coil as streamers load it.");
    connect(target_, &QComboBox::activated, this, [this](int index) {
      workspace_.document.edit("Tuning target", [index](arc::Design& design) {
        design.tune_target = index == 0 ? arc::TuneTarget::silent_coil : arc::TuneTarget::loaded_coil;
      });
    });
    row->addWidget(target_);
    apply_ = new QPushButton("Move the clip there", this);
    apply_->setObjectName("apply tap");
    connect(apply_, &QPushButton::clicked, this, [this] {
      const auto analysis = workspace_.document.analysis();
      if (!analysis || !analysis->tuned_tap_turns) return;
      workspace_.document.edit("Move the clip in tune", [tap = *analysis->tuned_tap_turns](arc::Design& design) {
        design.primary.tap_turns = std::round(tap * 100) / 100;
      });
    });
    row->addWidget(apply_);
    return row;
  }

  QWidget* make_measurements() {
    auto* panel = new StagePanel(workspace_, this);
    auto* column = new QVBoxLayout(panel);
    column->setContentsMargins(space::large, 10, space::medium, 10);
    column->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    auto* title = new QLabel("Measured", panel);
    title->setFont(type::font(type::body, QFont::DemiBold));
    row->addWidget(title);
    kind_ = new QComboBox(panel);
    kind_->setObjectName("measured kind");
    kind_->setAccessibleName("What was measured");
    for (const arc::MeasurementKind& kind : arc::measurement_kinds())
      kind_->addItem(QString::fromUtf8(kind.title.data(), static_cast<qsizetype>(kind.title.size())),
                     QString::fromUtf8(kind.key.data(), static_cast<qsizetype>(kind.key.size())));
    row->addWidget(kind_);
    const auto local = [&](const QString& name, const QString& label, arc::Dimension dimension, double low,
                           double high, std::optional<double>& value) {
      QuantityRole role;
      role.name = name;
      role.label = label;
      role.dimension = dimension;
      role.minimum = low;
      role.maximum = high;
      role.nullable = true;
      role.get = [&value] { return value; };
      role.set = [this, &value](std::optional<double> v, const QString&) {
        value = v;
        update_add();
      };
      auto* field = new QuantityField(workspace_, std::move(role), panel);
      connect(field, &QuantityField::problem_changed, this,
              [this](const QString& problem) { problem_->setText(problem); });
      return field;
    };
    frequency_ = local("measured frequency", "Frequency", arc::Dimension::frequency, 100, 1e9, frequency_value_);
    frequency_->setPlaceholderText("e.g. 108 kHz");
    tap_ = local("measured tap", "at clip", arc::Dimension::number, 0.05, 200, tap_value_);
    tap_->setPlaceholderText("at clip");
    note_ = new QLineEdit(panel);
    note_->setObjectName("measured note");
    note_->setAccessibleName("Note");
    note_->setPlaceholderText("how it was measured");
    row->addWidget(frequency_);
    row->addWidget(tap_);
    row->addWidget(note_, 1);
    add_ = new QPushButton("Add", panel);
    add_->setObjectName("add measurement");
    connect(add_, &QPushButton::clicked, this, &TuneStage::add_measurement);
    connect(kind_, &QComboBox::currentIndexChanged, this, &TuneStage::update_add);
    row->addWidget(add_);
    column->addLayout(row);
    problem_ = new QLabel(panel);
    problem_->setProperty("problem", true);
    problem_->setFont(type::font(type::caption));
    column->addWidget(problem_);
    measured_ = make_table({"What", "Measured", "Computed", "Off", "Means", "Note"}, "measurements");
    measured_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    measured_->horizontalHeader()->setSectionResizeMode(4, QHeaderView::Stretch);
    measured_->horizontalHeader()->setSectionResizeMode(5, QHeaderView::Fixed);
    measured_->setColumnWidth(5, 150);
    measured_->setFixedHeight(102);
    column->addWidget(measured_);
    remove_ = new QPushButton("Remove the selected measurement", panel);
    remove_->setObjectName("remove measurement");
    remove_->setProperty("link", true);
    connect(remove_, &QPushButton::clicked, this, [this] {
      const int row_index = measured_->currentRow();
      workspace_.document.edit("Remove measurement", [row_index](arc::Design& design) {
        if (row_index >= 0 && row_index < static_cast<int>(design.measurements.size()))
          design.measurements.erase(design.measurements.begin() + row_index);
      });
    });
    connect(measured_, &QTableWidget::itemSelectionChanged, this,
            [this] { remove_->setEnabled(measured_->currentRow() >= 0); });
    column->addWidget(remove_, 0, Qt::AlignLeft);
    update_add();
    return panel;
  }

  bool needs_tap() const {
    return arc::measurement_kinds()[static_cast<std::size_t>(kind_->currentIndex())].needs_tap;
  }

  void update_add() {
    tap_->setVisible(needs_tap());
    const bool ready = frequency_value_ && (!needs_tap() || tap_value_);
    add_->setEnabled(ready);
    add_->setToolTip(ready         ? "Keep this measurement with the design"
                     : needs_tap() ? "Enter the frequency and the clip's turn first"
                                   : "Enter the frequency first");
    if (ready) problem_->clear();
  }

  void add_measurement() {
    if (!frequency_->commit() || (needs_tap() && !tap_->commit())) return;
    arc::Measurement m;
    m.kind = kind_->currentData().toString().toStdString();
    m.frequency_hz = *frequency_value_;
    if (needs_tap()) m.tap_turns = *tap_value_;
    m.note = note_->text().toStdString();
    frequency_value_.reset();
    tap_value_.reset();
    note_->clear();
    workspace_.document.edit("Add measurement", [&](arc::Design& design) { design.measurements.push_back(m); });
    update_add();
  }

  void refresh() {
    const auto analysis = workspace_.document.analysis();
    if (!analysis || !isVisible()) return; // a hidden stage is brought up to date when it is shown
    const arc::Design& design = workspace_.document.design();
    target_->setCurrentIndex(design.tune_target == arc::TuneTarget::silent_coil ? 0 : 1);
    show_verdict(*analysis);
    fill_taps(*analysis);
    fill_measurements(*analysis);
    draw(*analysis);
  }

  void show_verdict(const arc::Analysis& analysis) {
    const double tap = workspace_.document.design().primary.tap_turns;
    apply_->setEnabled(analysis.tuned_tap_turns.has_value() && std::abs(*analysis.tuned_tap_turns - tap) > 0.005);
    apply_->setToolTip(apply_->isEnabled()        ? "Undo brings the clip back"
                       : analysis.tuned_tap_turns ? "The clip is there already"
                                                  : "No clip reaches this frequency");
    if (analysis.tuned_tap_turns) {
      const double move = *analysis.tuned_tap_turns - tap;
      verdict_->setText(std::abs(move) < 0.015 ? QString("In tune at turn %1").arg(tap, 0, 'f', 2)
                                               : QString("Clip to %1: %2 %3 turn")
                                                     .arg(*analysis.tuned_tap_turns, 0, 'f', 2)
                                                     .arg(move > 0 ? "out" : "in")
                                                     .arg(std::abs(move), 0, 'f', 2));
      reason_->setText(QString("for %1, %2; the tank is at %3 with the clip at %4")
                           .arg(print(analysis.target_hz, arc::Dimension::frequency),
                                QString::fromStdString(analysis.target_source),
                                print(analysis.tank_hz, arc::Dimension::frequency))
                           .arg(tap, 0, 'f', 2));
    } else {
      verdict_->setText("No clip is in tune");
      reason_->setText(analysis.problem.empty() ? QString("the tank would have to reach %1; see the findings")
                                                      .arg(print(analysis.target_hz, arc::Dimension::frequency))
                                                : QString::fromStdString(analysis.problem));
    }
  }

  void fill_taps(const arc::Analysis& analysis) {
    const auto rows = arc::tap_table(analysis);
    taps_->setRowCount(static_cast<int>(rows.size()));
    int nearest = -1;
    for (int r = 0; r < static_cast<int>(rows.size()); ++r) {
      const arc::TapRow& row = rows[static_cast<std::size_t>(r)];
      const QStringList cells{
          QString::number(row.turns, 'f', 1), print(row.inductance_h, arc::Dimension::inductance),
          print(row.tank_hz, arc::Dimension::frequency),
          QString("%1%2 %").arg(row.off_percent > 0 ? "+" : "").arg(row.off_percent, 0, 'f', 1)};
      for (int c = 0; c < cells.size(); ++c) {
        auto* item = new QTableWidgetItem(cells[c]);
        item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        if (c == 0) item->setData(Qt::UserRole, row.turns);
        taps_->setItem(r, c, item);
      }
      if (nearest < 0 || std::abs(row.off_percent) < std::abs(rows[static_cast<std::size_t>(nearest)].off_percent))
        nearest = r;
    }
    for (int c = 0; nearest >= 0 && c < taps_->columnCount(); ++c)
      taps_->item(nearest, c)->setFont(type::font(type::body, QFont::DemiBold));
    if (nearest >= 0 && !taps_->hasFocus())
      QTimer::singleShot(30, taps_, [table = taps_, nearest] {
        if (auto* item = table->item(nearest, 0)) table->scrollToItem(item, QAbstractItemView::PositionAtCenter);
      });
  }

  void fill_measurements(const arc::Analysis& analysis) {
    const arc::Design& design = workspace_.document.design();
    const int selected = measured_->currentRow();
    measured_->setRowCount(static_cast<int>(design.measurements.size()));
    for (int r = 0; r < static_cast<int>(design.measurements.size()); ++r) {
      const arc::Measurement& m = design.measurements[static_cast<std::size_t>(r)];
      const auto report = arc::report_measurement(design, analysis, m, workspace_.units());
      QString what = QString::fromStdString(m.kind);
      for (const arc::MeasurementKind& kind : arc::measurement_kinds())
        if (kind.key == m.kind)
          what = QString::fromUtf8(kind.title.data(), static_cast<qsizetype>(kind.title.size()));
      if (m.kind == "tank") what += QString(" %1").arg(m.tap_turns, 0, 'f', 2);
      const QStringList cells{
          what,
          print(m.frequency_hz, arc::Dimension::frequency),
          report.computed_hz ? print(*report.computed_hz, arc::Dimension::frequency) : "–",
          QString("%1%2 %").arg(report.offset_percent > 0 ? "+" : "").arg(report.offset_percent, 0, 'f', 1),
          QString::fromStdString(report.meaning),
          QString::fromStdString(m.note)};
      for (int c = 0; c < cells.size(); ++c) {
        measured_->setItem(r, c, new QTableWidgetItem(cells[c]));
        measured_->item(r, c)->setToolTip(cells[c]);
      }
    }
    if (selected >= 0 && selected < measured_->rowCount()) measured_->selectRow(selected);
    remove_->setEnabled(measured_->currentRow() >= 0);
  }

  void draw(const arc::Analysis& analysis) {
    const Theme& t = workspace_.theme();
    plot_->clearPlottables();
    plot_->clearItems();
    plot_->clearGraphs();
    style_plot(*plot_, t);
    const AxisUnit unit = axis_unit(analysis.target_hz > 0 ? analysis.target_hz : analysis.tank_hz,
                                    arc::Dimension::frequency, workspace_.units());
    plot_->xAxis->setLabel("Clip at turn");
    plot_->yAxis->setLabel(QString("Tank frequency, %1").arg(unit.symbol));
    QVector<double> x, y;
    for (const arc::TapPoint& point : analysis.tap_curve) {
      x << point.turns;
      y << point.tank_hz / unit.factor;
    }
    if (x.isEmpty()) return;
    const double middle = analysis.target_hz > 0 ? analysis.target_hz : analysis.tank_hz;
    plot_->xAxis->setRange(0, x.last() + 0.5);
    plot_->yAxis->setRange(middle * 0.6 / unit.factor, middle * 1.9 / unit.factor);
    const auto band = [&](double low, double high, const QColor& colour, const QString& text) {
      auto* rect = new QCPItemRect(plot_);
      rect->topLeft->setCoords(0, high / unit.factor);
      rect->bottomRight->setCoords(x.last() + 0.5, low / unit.factor);
      rect->setPen(Qt::NoPen);
      rect->setBrush(colour);
      auto* label = new QCPItemText(plot_);
      label->position->setCoords(x.last() * 0.02, low / unit.factor);
      label->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
      label->setText(text);
      label->setFont(type::font(type::caption));
      label->setColor(t.second);
    };
    if (analysis.resonator) {
      const auto half = analysis.band.find("best_mode_1_hz");
      const double f = analysis.best_mode_1_hz > 0 ? analysis.best_mode_1_hz : analysis.resonator->mode_1_hz;
      const double h = half == analysis.band.end() ? 0 : half->second;
      band(f - h, f + h, t.copper_fill, {});
      band(analysis.loaded_hz.low, analysis.loaded_hz.high, t.arc_fill,
           QString("coil %1 ± %2")
               .arg(print(f, arc::Dimension::frequency),
                    QString::fromStdString(arc::format_like(h, f, arc::Dimension::frequency, workspace_.units()))));
    }
    auto* curve = plot_->addGraph();
    curve->setData(x, y, true);
    curve->setPen(QPen(t.copper, 2));
    auto* now = plot_->addGraph();
    now->setLineStyle(QCPGraph::lsNone);
    now->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssTriangleInverted, t.ink, t.ink, 11));
    now->addData(
        std::min(workspace_.document.design().primary.tap_turns, workspace_.document.design().primary.turns),
        analysis.tank_hz / unit.factor);
    auto* measured = plot_->addGraph();
    measured->setLineStyle(QCPGraph::lsNone);
    measured->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, t.settled, t.settled, 8));
    for (const arc::Measurement& m : workspace_.document.design().measurements) {
      if (m.kind == "tank") {
        measured->addData(m.tap_turns, m.frequency_hz / unit.factor);
        continue;
      }
      auto* line = new QCPItemStraightLine(plot_);
      line->point1->setCoords(0, m.frequency_hz / unit.factor);
      line->point2->setCoords(1, m.frequency_hz / unit.factor);
      line->setPen(QPen(t.settled, 1.4, m.kind == "coil-bare" ? Qt::DotLine : Qt::DashLine));
    }
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }

  Workspace& workspace_;
  QLabel* verdict_ = nullptr;
  QLabel* reason_ = nullptr;
  QComboBox* target_ = nullptr;
  QPushButton* apply_ = nullptr;
  QTableWidget* taps_ = nullptr;
  QCustomPlot* plot_ = nullptr;
  QComboBox* kind_ = nullptr;
  QuantityField* frequency_ = nullptr;
  QuantityField* tap_ = nullptr;
  QLineEdit* note_ = nullptr;
  QLabel* problem_ = nullptr;
  QPushButton* add_ = nullptr;
  QPushButton* remove_ = nullptr;
  QTableWidget* measured_ = nullptr;
  std::optional<double> frequency_value_;
  std::optional<double> tap_value_;
};

} // namespace

QWidget* make_tune_stage(Workspace& workspace, QWidget* parent) {
  return new TuneStage(workspace, parent);
}
