// Tank: one value, a bank of equal units, or a mixed bank of what the shelf holds, drawn as it would be bolted
// together; the shelf's capacitors in a tray beside it; what every unit sees in a running coil; energy and
// bleeding.
#include "bank/bank_finder.h"
#include "bank/bank_view.h"
#include "bank/shelf_sheet.h"
#include "parts/bank.h"
#include "simulation/tank_duty.h"
#include "stages/stage.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/text.h"
#include "toolkit/when_seen.h"
#include "toolkit/whole_rows.h"
#include "workshop/bank_search.h"

#include <QComboBox>
#include <QDrag>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QResizeEvent>

namespace {

// The shelf's capacitors; each can be dragged onto the bank.
class PartTray : public QListWidget {
 public:
  using QListWidget::QListWidget;

 protected:
  void startDrag(Qt::DropActions) override {
    if (!currentItem()) return;
    auto* part = new QMimeData;
    part->setData(shelf_part_mime, QByteArray::number(currentItem()->data(Qt::UserRole).toInt()));
    auto* drag = new QDrag(this);
    drag->setMimeData(part);
    drag->exec(Qt::CopyAction);
  }
};

using enum arc::TankGiven; // in the order of the choice

class TankStage : public QWidget {
 public:
  TankStage(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("tank");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* upper = new QHBoxLayout;
    upper->setContentsMargins(0, 0, space::medium, 0);
    upper->setSpacing(0);
    tray_box_ = make_tray();
    upper->addWidget(tray_box_);
    bank_view_ = new BankView(workspace, this);
    upper->addWidget(bank_view_, 1);
    auto* readings = new QVBoxLayout;
    readings->setContentsMargins(0, 12, 0, 0);
    readings->setSpacing(0);
    std::vector<std::string_view> keys{"tank_capacitance_f", "tank_hz",        "tuned_capacitance_f",
                                       "unit_voltage_v",     "peak_current_a", "stored_energy_j",
                                       "stored_charge_c",    "bleed_time_s"};
    std::ranges::copy(arc::craft_figures_at_rest("tank"), std::back_inserter(keys));
    for (const std::string_view key : keys)
      readings->addWidget(readings_.emplace_back(new ReadingButton(workspace, key, this)));
    readings->addStretch();
    upper->addLayout(readings);
    column->addLayout(upper, 1);
    column->addLayout(make_stress());
    column->addWidget(make_panel());
    connect(bank_view_, &BankView::chosen_changed, this, &TankStage::refresh_buttons);
    connect(bank_view_, &BankView::remove_requested, this, &TankStage::take_off);
    connect(bank_view_, &BankView::strings_wanted, this, &TankStage::change_strings);
    connect(bank_view_, &BankView::part_dropped, this, &TankStage::lay_across);
    (new WhenSeen(this, [this] { refresh(); }))->on(workspace_.document, &Document::design_changed);
    connect(&workspace_.document, &Document::analysis_changed, this, &TankStage::refresh_tray);
    connect(&workspace_.document, &Document::power_changed, this, &TankStage::refresh_stress);
    connect(&workspace_.document, &Document::units_changed, this, &TankStage::refresh_tray);
    connect(&workspace_.shelf, &ShelfStore::changed, this, &TankStage::refresh_tray);
    refresh();
  }

 protected:
  void showEvent(QShowEvent* event) override {
    QWidget::showEvent(event);
    refresh_tray();
    refresh_stress();
  }
  void resizeEvent(QResizeEvent* event) override {
    QWidget::resizeEvent(event);
    stress_->setColumnHidden(5, width() < 700); // the verdict below says how warm the warmest gets
    tray_box_->setFixedWidth(width() < 700 ? 150 : 196);
  }

 private:
  QWidget* make_tray() {
    auto* box = new QWidget(this);
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(space::large, 12, 0, space::small);
    column->setSpacing(4);
    auto* title = make_text("On the shelf", box);
    title->setFont(type::font(type::body, QFont::DemiBold));
    column->addWidget(title);
    tray_ = new PartTray(box);
    tray_->setObjectName("part tray");
    tray_->setAccessibleName("Capacitors on the shelf that can be laid across the tank");
    tray_->setDragEnabled(true);
    show_whole_rows(tray_);
    tray_->setWordWrap(true);
    tray_->setFont(type::font(type::caption));
    tray_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    connect(tray_, &QListWidget::currentRowChanged, this, [this] { try_part(); });
    connect(tray_, &QListWidget::itemActivated, this,
            [this](QListWidgetItem* item) { lay_across(item->data(Qt::UserRole).toInt()); });
    column->addWidget(tray_, 1);
    trial_ = caption_label({}, box);
    trial_->setObjectName("laid across");
    trial_->setWordWrap(true);
    trial_->setMinimumHeight(64);
    trial_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    column->addWidget(trial_);
    lay_ = new QPushButton("Add in parallel", box);
    lay_->setObjectName("lay across");
    connect(lay_, &QPushButton::clicked, this, [this] {
      if (tray_->currentItem()) lay_across(tray_->currentItem()->data(Qt::UserRole).toInt());
    });
    column->addWidget(lay_);
    column->addLayout(make_strings(box));
    return box;
  }

  // One string more or fewer, like those that are there.
  QLayout* make_strings(QWidget* box) {
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    for (const int by : {-1, 1}) {
      auto* button = new QPushButton(by > 0 ? "+ string" : "− string", box);
      button->setProperty("narrow", true);
      button->setObjectName(by > 0 ? "string more" : "string fewer");
      connect(button, &QPushButton::clicked, this, [this, by] { change_strings(by); });
      row->addWidget(button);
      (by > 0 ? more_ : fewer_) = button;
    }
    return row;
  }

  // The section that is meant: the chosen one, or the only one there is.
  std::optional<std::size_t> section_meant() const {
    const auto count = arc::bank_sections(workspace_.document.design().tank).size();
    return count == 1 ? std::optional<std::size_t>(0) : bank_view_->chosen();
  }

  void change_strings(int by) {
    const auto section = section_meant();
    const auto changed =
        section ? arc::with_strings(workspace_.document.design().tank, *section, by) : std::nullopt;
    if (!changed) return;
    workspace_.document.edit(by > 0 ? "One string more" : "Take a string off",
                             [&](arc::Design& design) { design.tank = *changed; });
  }

  void refresh_strings() {
    const arc::Tank& tank = workspace_.document.design().tank;
    const auto section = section_meant();
    for (const int by : {-1, 1}) {
      QPushButton* button = by > 0 ? more_ : fewer_;
      button->setVisible(arc::tank_given(tank) != one_value);
      const auto changed = section ? arc::with_strings(tank, *section, by) : std::nullopt;
      button->setEnabled(changed.has_value());
      const QString name = by > 0 ? "One string more" : "One string fewer";
      button->setAccessibleName(name);
      button->setToolTip(
          !section   ? QString("Choose a string in the drawing first")
          : !changed ? QString("It is the last string of the tank")
                     : QString("%1: %2 (%3)")
                           .arg(name, print(arc::tank_capacitance_f(*changed), arc::Dimension::capacitance, 4),
                                by > 0 ? "+ key" : "− key"));
    }
  }

  QLayout* make_stress() {
    auto* column = new QVBoxLayout;
    column->setContentsMargins(space::large, 0, space::medium, space::small);
    column->setSpacing(4);
    stress_ =
        make_table(this, "unit stress", {"Units", "Worst-case peak", "RMS", "dV/dt", "Heat", "30 min", "Bleeder"});
    stress_->setFixedHeight(80);
    stress_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    stress_->horizontalHeader()->setMinimumSectionSize(60);
    for (int c = 1; c < stress_->columnCount(); ++c)
      stress_->horizontalHeader()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    column->addWidget(stress_);
    verdict_ = caption_label({}, this);
    verdict_->setObjectName("tank verdict");
    verdict_->setWordWrap(true);
    column->addWidget(verdict_);
    grey_while_stale(workspace_, stress_);
    grey_while_stale(workspace_, verdict_);
    return column;
  }

  void add_buttons(QGridLayout& grid, QWidget* panel) {
    auto* shelf = new QPushButton("Find a bank…", panel);
    shelf->setObjectName("from shelf");
    shelf->setToolTip("Finds banks of the parts on your shelf for this coil");
    connect(shelf, &QPushButton::clicked, this, [this] { show_bank_finder(workspace_, window()); });
    grid.addWidget(shelf, 1, 0, Qt::AlignBottom);
    auto* edit = new QPushButton("The shelf…", panel);
    edit->setObjectName("edit shelf");
    edit->setToolTip("Capacitors, wire, pipe, transformers, diodes, resistors, chokes and gap hardware on hand");
    connect(edit, &QPushButton::clicked, this, [this] { show_shelf_sheet(workspace_, "capacitors", window()); });
    grid.addWidget(edit, 2, 0, Qt::AlignBottom);
    remove_ = new QPushButton("Take a string off", panel);
    remove_->setObjectName("take off");
    connect(remove_, &QPushButton::clicked, this, &TankStage::take_off);
    grid.addWidget(remove_, 1, 1, Qt::AlignBottom);
  }

  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    auto* grid = new QGridLayout(panel);
    grid->setContentsMargins(space::large, 8, space::large, 8);
    grid->setHorizontalSpacing(space::medium);
    grid->setVerticalSpacing(4);
    mode_ = new QComboBox(panel);
    mode_->setObjectName("tank mode");
    mode_->setAccessibleName("Tank is one value, a bank of equal units, or a mixed bank");
    mode_->addItems({"One value", "Equal units", "A mixed bank"});
    connect(mode_, &QComboBox::activated, this, &TankStage::choose_mode);
    QWidget* mode = captioned("Enter tank as", mode_, panel);
    keep_together(mode);
    grid->addWidget(mode, 0, 0, Qt::AlignTop);
    const auto add = [&](std::string_view key, int row, int place) {
      QWidget* box = labelled(make_design_field(workspace_, key, panel), panel);
      keep_together(box);
      grid->addWidget(box, row, place, Qt::AlignTop);
      return box;
    };
    single_ = add("tank.capacitance_f", 0, 1);
    units_ = {add("tank.unit_capacitance_f", 0, 1), add("tank.units_in_series", 0, 2),
              add("tank.units_in_parallel", 0, 3)};
    ratings_ = {add("tank.unit_voltage_v", 1, 1),          add("tank.unit_tolerance", 1, 2),
                add("tank.unit_rms_current_a", 1, 3),      add("tank.unit_slope_v_per_s", 1, 4),
                add("tank.unit_dissipation_factor", 2, 1), add("tank.unit_thermal_k_per_w", 2, 2)};
    mixed_note_ =
        caption_label("Drag a part onto the bank, or choose one and lay it across. Click a string and take "
                      "it off. Ratings are those of the shelf.",
                      panel);
    mixed_note_->setWordWrap(true);
    grid->addWidget(mixed_note_, 0, 1, 1, 3);
    for (const arc::CoilKind* kind : arc::coil_kinds()) { // what charges the tank, and how often
      int row = 0;
      for (const std::string_view key : kind->tank_fields) {
        QWidget* box = add(key, row, 4);
        of_kind_.emplace_back(kind, box);
        row = 2;
        if (kind->feed_end == arc::FeedEnd::tank) continue; // a gap's stage gives way to these
        for (QuantityField* field : box->findChildren<QuantityField*>())
          field->setObjectName("tank " + field->objectName());
      }
    }
    add("tank.bleed_resistance_ohm", 2, 3);
    add_buttons(*grid, panel);
    stop_columns(grid, 5);
    return panel;
  }

  void choose_mode(int index) {
    static const char* const words[] = {"Tank as one value", "Tank of equal units", "Tank as a mixed bank"};
    workspace_.document.edit(words[index], [index](arc::Design& design) {
      arc::give_tank(design.tank, static_cast<arc::TankGiven>(index));
    });
  }

  void refresh() {
    const arc::TankGiven mode = arc::tank_given(workspace_.document.design().tank);
    mode_->setCurrentIndex(static_cast<int>(mode));
    single_->setVisible(mode == one_value);
    for (QWidget* box : units_) box->setVisible(mode == equal_units);
    for (QWidget* box : ratings_) box->setVisible(mode != mixed_bank);
    mixed_note_->setVisible(mode == mixed_bank);
    remove_->setVisible(mode == mixed_bank);
    const arc::CoilKind& kind = arc::kind_of(workspace_.document.design());
    for (const auto& [of, box] : of_kind_) box->setVisible(of == &kind);
    for (ReadingButton* reading : readings_) reading->setVisible(reading->says_of(kind));
    refresh_buttons();
  }

  void refresh_buttons() {
    const auto sections = arc::bank_sections(workspace_.document.design().tank);
    const bool last = sections.size() == 1 && sections.front().in_parallel <= 1;
    remove_->setEnabled(bank_view_->chosen() && !sections.empty() && !last);
    remove_->setToolTip(last                    ? "It is the last string of the tank"
                        : !bank_view_->chosen() ? "Choose a string in the drawing first"
                                                : QString());
    refresh_strings();
  }

  void take_off() {
    const auto chosen = bank_view_->chosen();
    if (chosen && remove_->isEnabled()) change_strings(-1);
  }

  void refresh_tray() {
    if (!isVisible() || !workspace_.document.analysis()) return;
    const arc::Design& design = workspace_.document.design();
    const auto parts = arc::shelf_capacitors(workspace_.shelf.shelf());
    laid_ = arc::lay_across(parts, design.tank, workspace_.document.analysis()->tank_peak_v);
    const int chosen = tray_->currentItem() ? tray_->currentItem()->data(Qt::UserRole).toInt() : -1;
    const QSignalBlocker quiet(tray_);
    tray_->clear();
    for (const arc::LaidAcross& l : laid_) {
      const arc::ShelfCapacitor& part = parts[l.part];
      auto* item = new QListWidgetItem(
          QString("%1\n%2 of %3 a string").arg(QString::fromStdString(part.name)).arg(l.units).arg(part.count),
          tray_);
      item->setData(Qt::UserRole, static_cast<int>(l.part));
      if (static_cast<int>(l.part) == chosen) tray_->setCurrentItem(item);
    }
    try_part();
  }

  const arc::LaidAcross* laid(int part) const {
    const auto it = std::ranges::find(laid_, static_cast<std::size_t>(part), &arc::LaidAcross::part);
    return it == laid_.end() ? nullptr : &*it;
  }

  // What the chosen part would make of the tank.
  void try_part() {
    const arc::LaidAcross* l =
        tray_->currentItem() ? laid(tray_->currentItem()->data(Qt::UserRole).toInt()) : nullptr;
    lay_->setEnabled(l != nullptr);
    lay_->setToolTip(l ? "Becomes part of the tank; Undo takes it back" : "Choose a part first");
    bank_view_->preview(l ? std::optional(l->tank) : std::nullopt, l ? std::optional(l->section) : std::nullopt);
    const auto analysis = workspace_.document.analysis();
    if (!analysis) return;
    if (laid_.empty()) {
      const bool examples =
          std::ranges::any_of(workspace_.shelf.shelf().of("capacitors"),
                              [&](const arc::ShelfPart& p) { return !workspace_.shelf.shelf().owned(p); });
      trial_->setText(QString("Nothing on the shelf holds %1 across the rails.%2")
                          .arg(print(analysis->tank_peak_v, arc::Dimension::voltage),
                               examples ? " Its invented examples do not count as yours." : ""));
      return;
    }
    if (!l) {
      trial_->setText("Choose a part to see what one more across the rails makes of the tank.");
      return;
    }
    const auto tap = analysis->target_hz > 0 ? arc::tap_for_frequency(workspace_.document.design(),
                                                                      l->capacitance_f, analysis->target_hz)
                                             : std::nullopt;
    trial_->setText(QString("Laid across: %1. %2")
                        .arg(print(l->capacitance_f, arc::Dimension::capacitance, 4),
                             tap ? QString("Tuned with the tap at turn %1.").arg(*tap, 0, 'f', 2)
                                 : QString("No tap tunes it.")));
  }

  void lay_across(int part) {
    const arc::LaidAcross* l = laid(part);
    if (!l) return;
    workspace_.document.edit("Lay a part across", [tank = l->tank](arc::Design& design) { design.tank = tank; });
    tray_->setCurrentItem(nullptr);
    try_part();
  }

  QString bleeder_text(const arc::UnitStress& u) const {
    if (u.bleeder_elements <= 0) return "none";
    return QString("%1%2, %3")
        .arg(u.bleeder_elements > 1 ? QString("%1 × ").arg(u.bleeder_elements) : QString(),
             print(u.element_ohm(), arc::Dimension::resistance, 2), print(u.element_w(), arc::Dimension::power, 2));
  }

  void refresh_stress() {
    if (!isVisible()) return;
    const auto power = workspace_.document.power();
    const arc::TankDuty* duty = power && power->part ? power->part->tank() : nullptr;
    if (!duty) {
      stress_->setRowCount(0);
      verdict_->setText(power && !workspace_.document.simulating() ? "The running coil cannot be simulated yet."
                                                                   : "The running coil is being simulated…");
      return;
    }
    stress_->setRowCount(static_cast<int>(duty->stress.size()));
    const auto share = [](double used) {
      return used > 0 ? QString(", %1 %").arg(100 * used, 0, 'f', 0) : QString();
    };
    for (int r = 0; r < stress_->rowCount(); ++r) {
      const arc::UnitStress& u = duty->stress[static_cast<std::size_t>(r)];
      set_row(stress_, r,
              {QString("%1 × %2").arg(u.count).arg(u.name.empty() ? "unit" : QString::fromStdString(u.name)),
               print(u.worst_v, arc::Dimension::voltage) + share(u.voltage_used),
               print(u.rms_a, arc::Dimension::current) + share(u.rms_used),
               print(u.slope_v_per_s, arc::Dimension::slope, 2) + share(u.slope_used),
               u.dissipation_w ? print(*u.dissipation_w, arc::Dimension::power, 2) : QString("–"),
               u.rise_k ? QString("+%1 K").arg(u.rise_after_s(arc::long_run_s), 0, 'f', 1) : QString("–"),
               bleeder_text(u)});
      for (int c = 0; c < stress_->columnCount(); ++c)
        stress_->item(r, c)->setForeground(u.within_ratings ? workspace_.theme().ink : workspace_.theme().stop);
    }
    verdict_->setText(QString("%1 %2 a second%3%4. %5")
                          .arg(duty->rate_hz, 0, 'f', 0)
                          .arg(text_of(duty->what), QString(duty->rate_from.empty() ? "" : " "),
                               text_of(duty->rate_from),
                               QString::fromStdString(arc::long_run_verdict(*duty, workspace_.units()))) +
                      (workspace_.document.simulating() ? " Simulating…" : ""));
  }

  Workspace& workspace_;
  const Print print{workspace_};
  QWidget* tray_box_ = nullptr;
  std::vector<ReadingButton*> readings_;
  std::vector<std::pair<const arc::CoilKind*, QWidget*>> of_kind_; // fields of what drives the tank
  PartTray* tray_ = nullptr;
  QLabel* trial_ = nullptr;
  QPushButton* lay_ = nullptr;
  BankView* bank_view_ = nullptr;
  QTableWidget* stress_ = nullptr;
  QLabel* verdict_ = nullptr;
  QComboBox* mode_ = nullptr;
  QWidget* single_ = nullptr;
  std::vector<QWidget*> units_;
  std::vector<QWidget*> ratings_;
  QLabel* mixed_note_ = nullptr;
  QPushButton* remove_ = nullptr;
  QPushButton *more_ = nullptr, *fewer_ = nullptr;
  std::vector<arc::LaidAcross> laid_;
};

} // namespace

QWidget* make_tank_stage(Workspace& workspace, QWidget* parent) {
  return new TankStage(workspace, parent);
}
