// Tune: the tank's frequency at every clip against the resonator, measured frequencies beside computed ones, and
// the clip that follows from them.
#include "evidence/tuning.h"
#include "model/fields.h"
#include "stages/stage.h"
#include "stages/tuning_plot.h"
#include "toolkit/common.h"
#include "toolkit/plot.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/text.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QListView>
#include <QPushButton>
#include <QScrollBar>
#include <QTableWidget>
#include <QTimer>

namespace {

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
    taps_ = make_table(this, "tap table", {"Tap", "Primary", "Tank", "Detuning"});
    taps_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    connect(taps_->horizontalHeader(), &QHeaderView::geometriesChanged, this, &TuneStage::fit_taps);
    connect(taps_->horizontalHeader(), &QHeaderView::sectionResized, this, &TuneStage::fit_taps);
    taps_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    fit_taps();
    taps_->setToolTip("Press Enter or double-click to move the tap there");
    connect(taps_, &QTableWidget::cellActivated, this, [this](int row) {
      const double turns = taps_->item(row, 0)->data(Qt::UserRole).toDouble();
      workspace_.document.edit("Move the tap", [turns](arc::Design& design) { design.primary.tap_turns = turns; });
    });
    middle->addWidget(taps_);
    plot_ = new QCustomPlot(this);
    plot_->setMinimumSize(200, 140);
    plot_->setObjectName("tune plot");
    plot_->setAccessibleName("Tank frequency against tap");
    middle->addWidget(plot_, 1);
    empty_ =
        make_text("This coil has no tank: the driver follows the resonator, and nothing is tuned.\n"
                  "What is measured below narrows the band of the resonance and stands in for what is computed:\n"
                  "the quality factor decides how far the top swings.",
                  this);
    empty_->setObjectName("nothing to tune");
    empty_->setAlignment(Qt::AlignCenter);
    empty_->setProperty("caption", true);
    middle->addWidget(empty_, 1);
    column->addLayout(middle, 1);
    column->addWidget(make_measurements());
    connect(&workspace_.document, &Document::analysis_changed, this, &TuneStage::refresh);
    connect(&workspace_.document, &Document::power_changed, this, &TuneStage::refresh); // the poles
    connect(&workspace_, &Workspace::theme_changed, this, &TuneStage::refresh);
    refresh();
  }

 protected:
  void resizeEvent(QResizeEvent* event) override {
    QWidget::resizeEvent(event);
    measured_->setColumnHidden(5, width() < 720); // what it means comes first; the note is in its tip
  }
  void showEvent(QShowEvent* event) override {
    QWidget::showEvent(event);
    refresh();
  }

 private:
  QLayout* make_head() {
    auto* row = new QHBoxLayout;
    row->setContentsMargins(space::large, 12, space::medium, 0);
    row->setSpacing(space::medium);
    verdict_ = make_text(this);
    verdict_->setObjectName("tune verdict");
    verdict_->setFont(type::font(type::heading, QFont::DemiBold));
    reason_ = make_text(this);
    reason_->setObjectName("tune reason");
    reason_->setProperty("caption", true);
    reason_->setWordWrap(true);
    row->addWidget(verdict_, 1);
    target_ = new QComboBox(this);
    target_->setObjectName("tune target");
    target_->setAccessibleName("Tune the tank to");
    target_->addItems({"Tune to the unloaded coil", "Tune to the streamer-loaded coil"});
    target_->setToolTip(
        "The unloaded coil is the default because it can be measured. Builders who chase the longest "
        "arcs tune lower,\n"
        "for the coil as streamers load it.");
    connect(target_, &QComboBox::activated, this, [this](int index) {
      workspace_.document.edit("Tuning target", [index](arc::Design& design) {
        design.tune_target = index == 0 ? arc::TuneTarget::silent_coil : arc::TuneTarget::loaded_coil;
      });
    });
    row->addWidget(target_);
    apply_ = new QPushButton("Move the tap there", this);
    apply_->setObjectName("apply tap");
    connect(apply_, &QPushButton::clicked, this, [this] {
      const auto analysis = workspace_.document.analysis();
      if (!analysis || !analysis->tuned_tap_turns) return;
      workspace_.document.edit("Move the tap to resonance",
                               [tap = *analysis->tuned_tap_turns](arc::Design& design) {
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
    column->addLayout(make_entry(panel));
    problem_ = make_text(panel);
    problem_->setProperty("problem", true);
    problem_->setFont(type::font(type::caption));
    column->addWidget(problem_);
    meant_ = new QPushButton(panel);
    meant_->setObjectName("meant measured");
    meant_->setProperty("link", true);
    meant_->hide();
    connect(meant_, &QPushButton::clicked, this, [this] {
      if (asked_) asked_->take_meant();
    });
    column->addWidget(meant_, 0, Qt::AlignLeft);
    measured_ =
        make_table(panel, "measurements", {"What", "Measured", "Computed", "Deviation", "Interpretation", "Note"});
    wrap_column(measured_, 4);                                                    // long meanings take two lines
    measured_->horizontalHeader()->setSectionResizeMode(5, QHeaderView::Stretch); // and notes as much as they
    measured_->setFixedHeight(102);
    column->addWidget(measured_);
    column->addLayout(make_below(panel));
    update_add();
    return panel;
  }

  // What was measured, its numbers, a note.
  QLayout* make_entry(QWidget* panel) {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    auto* title = make_text("Measured", panel);
    title->setFont(type::font(type::body, QFont::DemiBold));
    row->addWidget(title);
    kind_ = new QComboBox(panel);
    kind_->setObjectName("measured kind");
    kind_->setAccessibleName("What was measured");
    for (const arc::MeasurementKind& kind : arc::measurement_kinds())
      kind_->addItem(text_of(kind.title), text_of(kind.key));
    row->addWidget(kind_);
    for (const arc::MeasurementKind& kind : arc::measurement_kinds()) {
      add_number(kind.value, panel, row);
      if (kind.given) add_number(*kind.given, panel, row);
    }
    note_ = new QLineEdit(panel);
    note_->setObjectName("measured note");
    note_->setAccessibleName("Note");
    note_->setPlaceholderText("how it was measured");
    row->addWidget(note_, 1);
    add_ = new QPushButton("Add", panel);
    add_->setObjectName("add measurement");
    connect(add_, &QPushButton::clicked, this, &TuneStage::add_measurement);
    connect(kind_, &QComboBox::currentIndexChanged, this, &TuneStage::update_add);
    connect(note_, &QLineEdit::returnPressed, add_, &QAbstractButton::click);
    row->addWidget(add_);
    return row;
  }

  // What can be done with those that are there.
  QLayout* make_below(QWidget* panel) {
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
    connect(measured_, &QTableWidget::itemSelectionChanged, this, &TuneStage::update_remove);
    auto* below = new QHBoxLayout;
    below->addWidget(remove_);
    leads_ = new QPushButton(panel);
    leads_->setObjectName("take as leads");
    leads_->setProperty("link", true);
    leads_->setToolTip(
        "The tank's loop then resonates as it was measured, and the tap at resonance follows; can be undone");
    connect(leads_, &QPushButton::clicked, this, [this] {
      const auto leads = implied_leads();
      if (!leads) return;
      workspace_.document.edit("Take the measured leads", [henry = *leads](arc::Design& design) {
        design.primary.lead_length_m.reset();
        design.primary.lead_spacing_m.reset();
        design.primary.lead_inductance_h = henry;
      });
    });
    below->addWidget(leads_);
    below->addStretch();
    return below;
  }

  // One entry field for each number that some kind of measurement needs; those of the chosen kind are shown.
  struct Entry {
    const arc::MeasuredNumber number;
    QuantityField* field;
    std::optional<double> value;
  };

  void add_number(const arc::MeasuredNumber& number, QWidget* parent, QHBoxLayout* row) {
    if (entry(number)) return;
    auto made = std::make_unique<Entry>(Entry{number, nullptr, {}});
    QuantityRole role;
    role.name = "measured " + text_of(number.key);
    role.label = text_of(number.label);
    role.dimension = number.dimension;
    role.minimum = number.minimum;
    role.maximum = number.maximum;
    role.nullable = true;
    role.empty = text_of(number.label);
    role.usual = [this, key = number.key,
                  usual = number.usual] { // of the size to expect, so that a bare number takes its unit
      const auto analysis = workspace_.document.analysis();
      const auto expected = analysis && chosen_kind().value.key == key
                                ? arc::expected_value("measured " + std::string(chosen_kind().key),
                                                      workspace_.document.design(), *analysis)
                                : std::nullopt;
      return expected.value_or(usual);
    };
    role.doubt = [this, key = number.key, dimension = number.dimension](double value) -> std::optional<arc::Doubt> {
      const auto analysis = workspace_.document.analysis();
      if (!analysis || chosen_kind().value.key != key) return {};
      return arc::doubt_about("measured " + std::string(chosen_kind().key), dimension, value,
                              workspace_.document.design(), *analysis, workspace_.units());
    };
    role.get = [e = made.get()] { return e->value; };
    role.set = [this, e = made.get()](std::optional<double> v, const QString&) {
      e->value = v;
      update_add();
    };
    made->field = new QuantityField(workspace_, std::move(role), parent);
    made->field->setFixedHeight(made->field->sizeHint().height());
    connect(made->field, &QuantityField::entered, this, [this] { add_->click(); });
    connect(made->field, &QuantityField::problem_changed, this,
            [this](const QString& problem) { problem_->setText(problem); });
    connect(made->field, &QuantityField::doubt_changed, this, [this, field = made->field] {
      const auto& doubt = field->doubt();
      meant_->setVisible(doubt.has_value());
      asked_ = field;
      if (doubt)
        meant_->setText(QString("%1 Meant %2?")
                            .arg(QString::fromStdString(doubt->text),
                                 quantity_text(doubt->meant, field->role().dimension, workspace_.units())));
    });
    row->addWidget(made->field);
    entries_.push_back(std::move(made));
  }

  Entry* entry(const arc::MeasuredNumber& number) {
    for (const auto& e : entries_)
      if (e->number.key == number.key) return e.get();
    return nullptr;
  }

  const arc::MeasurementKind& chosen_kind() const {
    return arc::measurement_kinds()[static_cast<std::size_t>(kind_->currentIndex())];
  }

  /// The numbers of the chosen kind, the measured one first.
  std::vector<Entry*> needed() {
    std::vector<Entry*> out{entry(chosen_kind().value)};
    if (chosen_kind().given) out.push_back(entry(*chosen_kind().given));
    return out;
  }

  void update_add() {
    const auto wanted = needed();
    for (const auto& e : entries_) {
      e->field->setVisible(std::ranges::count(wanted, e.get()) > 0);
      e->field->refresh();
    }
    kind_->setToolTip(text_of(chosen_kind().how));
    QStringList missing;
    for (const Entry* e : wanted)
      if (!e->value) missing << text_of(e->number.label).toLower();
    add_->setEnabled(missing.isEmpty());
    add_->setToolTip(missing.isEmpty() ? "Keep this measurement with the design"
                                       : QString("Enter the %1 first").arg(missing.join(" and the ")));
    if (missing.isEmpty()) problem_->clear();
  }

  // Inductance of the leads that the chosen measurement of the tank tells of, if it does.
  std::optional<double> implied_leads() const {
    const arc::Design& design = workspace_.document.design();
    const int row = measured_->currentRow();
    if (row < 0 || row >= static_cast<int>(design.measurements.size())) return {};
    return arc::leads_told_by(design, design.measurements[static_cast<std::size_t>(row)]);
  }

  void update_remove() {
    const auto leads = implied_leads();
    leads_->setVisible(leads.has_value());
    if (leads) leads_->setText("Take " + print(*leads, arc::Dimension::inductance, 3) + " as its leads");
    const bool chosen = measured_->currentRow() >= 0;
    remove_->setEnabled(chosen);
    remove_->setToolTip(chosen ? "Undo brings it back" : "Select a measurement first");
  }

  void add_measurement() {
    const auto wanted = needed();
    for (Entry* e : wanted)
      if (!e->field->commit() || !e->value) return;
    arc::Measurement m;
    m.kind = std::string(chosen_kind().key);
    for (Entry* e : wanted) {
      m.*(e->number.member) = *e->value;
      e->value.reset();
    }
    m.note = note_->text().toStdString();
    note_->clear();
    workspace_.document.edit("Add measurement", [&](arc::Design& design) { design.measurements.push_back(m); });
    update_add();
  }

  QString print(double si, arc::Dimension dimension, int digits = 4) const {
    return quantity_text(si, dimension, workspace_.units(), digits);
  }

  void refresh() {
    const auto analysis = workspace_.document.analysis();
    if (!analysis || !isVisible()) return; // a hidden stage is brought up to date when it is shown
    const arc::Design& design = workspace_.document.design();
    target_->setCurrentIndex(design.tune_target == arc::TuneTarget::silent_coil ? 0 : 1);
    show_kind(arc::kind_of(design));
    fill_measurements(*analysis);
    if (!analysis->has_tank) {
      show_untuned(*analysis);
      return;
    }
    show_verdict(*analysis);
    fill_taps(*analysis);
    draw_tuning_plot(*plot_, workspace_, *analysis);
  }

  // Without a tank there is nothing to tune: what is left is to measure the coil.
  void show_kind(const arc::CoilKind& kind) {
    for (QWidget* part : std::initializer_list<QWidget*>{taps_, plot_, target_, apply_, empty_})
      part->setVisible((part != empty_) == kind.tank);
    for (int i = 0; i < kind_->count(); ++i) {
      const auto& group = arc::measurement_kinds()[static_cast<std::size_t>(i)].group;
      const bool here = group.empty() || std::ranges::count(kind.groups, group) > 0;
      if (auto* list = qobject_cast<QListView*>(kind_->view())) list->setRowHidden(i, !here);
    }
  }

  void show_untuned(const arc::Analysis& analysis) {
    const double hz = analysis.best_mode_1_hz > 0 ? analysis.best_mode_1_hz : analysis.circuit.resonance_hz;
    if (!(hz > 0)) {
      verdict_->setText("The resonance is not known yet");
      reason_->setText(QString::fromStdString(analysis.problem));
      return;
    }
    verdict_->setText("Resonates at " + banded_text(hz, arc::Dimension::frequency, workspace_.units(),
                                                    analysis.band, "best_mode_1_hz"));
    reason_->setText(analysis.next_measurement ? QString("The %1 counts most in this band: %2")
                                                     .arg(QString::fromStdString(analysis.next_measurement->input),
                                                          QString::fromStdString(analysis.next_measurement->advice))
                                               : QString());
  }

  void show_verdict(const arc::Analysis& analysis) {
    const double tap = workspace_.document.design().primary.tap_turns;
    apply_->setEnabled(analysis.tuned_tap_turns.has_value() && std::abs(*analysis.tuned_tap_turns - tap) > 0.005);
    apply_->setToolTip(apply_->isEnabled()        ? "Undo brings the tap back"
                       : analysis.tuned_tap_turns ? "The tap is there already"
                                                  : "No tap gives this frequency");
    if (analysis.tuned_tap_turns) {
      const double move = *analysis.tuned_tap_turns - tap;
      verdict_->setText(std::abs(move) < 0.015 ? QString("In tune at turn %1").arg(tap, 0, 'f', 2)
                                               : QString("Tap to %1: %2 %3 turn")
                                                     .arg(*analysis.tuned_tap_turns, 0, 'f', 2)
                                                     .arg(move > 0 ? "out" : "in")
                                                     .arg(std::abs(move), 0, 'f', 2));
      reason_->setText(QString("for %1, %2; the tank is at %3 with the tap at %4")
                           .arg(print(analysis.target_hz, arc::Dimension::frequency),
                                QString::fromStdString(analysis.target_source),
                                print(analysis.tank_hz, arc::Dimension::frequency))
                           .arg(tap, 0, 'f', 2) +
                       pole_words(analysis));
    } else {
      verdict_->setText("No tap tunes it");
      reason_->setText(analysis.problem.empty() ? QString("the tank would have to reach %1; see the findings")
                                                      .arg(print(analysis.target_hz, arc::Dimension::frequency))
                                                : QString::fromStdString(analysis.problem));
    }
  }

  QString pole_words(const arc::Analysis& analysis) const {
    const arc::PowerAnalysis* power = workspace_.document.power_of_kind();
    if (!power) return {};
    return QString::fromStdString(
        arc::poles_words(workspace_.document.design(), analysis, *power, workspace_.units()));
  }

  // As wide as its numbers and the bar beside them.
  void fit_taps() {
    const int wanted = taps_->horizontalHeader()->length() + taps_->verticalScrollBar()->sizeHint().width() + 4;
    taps_->setFixedWidth(std::clamp(wanted, 240, 400));
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
      const auto report =
          arc::report_measurement(design, analysis, static_cast<std::size_t>(r), workspace_.units());
      const arc::MeasurementKind& kind = *arc::measurement_kind(m.kind);
      QString what = text_of(kind.title);
      if (kind.given) what += " " + print(m.*(kind.given->member), kind.given->dimension);
      const auto offset =
          QString("%1%2 %").arg(report.offset_percent > 0 ? "+" : "").arg(report.offset_percent, 0, 'f', 1);
      const QStringList cells{what,
                              print(report.measured, kind.value.dimension),
                              report.computed ? print(*report.computed, kind.value.dimension) : "–",
                              report.computed ? offset : "–",
                              QString::fromStdString(report.meaning),
                              QString::fromStdString(m.note)};
      for (int c = 0; c < cells.size(); ++c) {
        measured_->setItem(r, c, new QTableWidgetItem(cells[c]));
        measured_->item(r, c)->setToolTip(c == 4 && !m.note.empty() ? cells[c] + "\n" + cells[5] : cells[c]);
      }
    }
    if (selected >= 0 && selected < measured_->rowCount()) measured_->selectRow(selected);
    update_remove();
  }

  Workspace& workspace_;
  QLabel* verdict_ = nullptr;
  QLabel* reason_ = nullptr;
  QLabel* empty_ = nullptr;
  QComboBox* target_ = nullptr;
  QPushButton* apply_ = nullptr;
  QTableWidget* taps_ = nullptr;
  QCustomPlot* plot_ = nullptr;
  QComboBox* kind_ = nullptr;
  QLineEdit* note_ = nullptr;
  QLabel* problem_ = nullptr;
  QPushButton* add_ = nullptr;
  QPushButton* remove_ = nullptr;
  QPushButton* leads_ = nullptr;
  QPushButton* meant_ = nullptr;
  QuantityField* asked_ = nullptr;
  QTableWidget* measured_ = nullptr;
  std::vector<std::unique_ptr<Entry>> entries_;
};

} // namespace

QWidget* make_tune_stage(Workspace& workspace, QWidget* parent) {
  return new TuneStage(workspace, parent);
}
