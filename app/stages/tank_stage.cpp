// Tank: one value or a bank of identical units, drawn as it would be wired, with stress, energy and bleeding.
#include "parts/bank.h"
#include "stages/stage.h"
#include "widgets/bank_finder.h"
#include "widgets/bank_view.h"
#include "widgets/common.h"
#include "widgets/quantity_field.h"
#include "widgets/reading_button.h"

#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

namespace {

class TankStage : public QWidget {
 public:
  TankStage(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("tank");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* upper = new QHBoxLayout;
    upper->setContentsMargins(0, 0, space::medium, 0);
    upper->addWidget(new BankView(workspace, this), 1);
    auto* readings = new QVBoxLayout;
    readings->setContentsMargins(0, 48, 0, 0);
    readings->setSpacing(2);
    for (const char* key : {"tank_capacitance_f", "tank_hz", "tuned_capacitance_f", "unit_voltage_v",
                            "peak_current_a", "stored_energy_j", "stored_charge_c", "bleed_time_s", "power_w"})
      readings->addWidget(new ReadingButton(workspace, key, this));
    readings->addStretch();
    upper->addLayout(readings);
    column->addLayout(upper, 1);
    column->addWidget(make_panel());
    connect(&workspace_.document, &Document::design_changed, this, &TankStage::refresh);
    refresh();
  }

 private:
  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    auto* grid = new QGridLayout(panel);
    grid->setContentsMargins(space::large, 10, space::large, 10);
    grid->setHorizontalSpacing(space::large);
    grid->setVerticalSpacing(6);
    auto* mode_box = new QWidget(panel);
    auto* mode_column = new QVBoxLayout(mode_box);
    mode_column->setContentsMargins(0, 0, 0, 0);
    mode_column->setSpacing(2);
    mode_ = new QComboBox(mode_box);
    mode_->setObjectName("tank mode");
    mode_->setAccessibleName("Tank is one value or a bank of units");
    mode_->addItems({"One value", "A bank of equal units"});
    connect(mode_, &QComboBox::activated, this, &TankStage::choose_mode);
    mode_column->addWidget(caption_label("Tank is", mode_box));
    mode_column->addWidget(mode_);
    grid->addWidget(mode_box, 0, 0, Qt::AlignTop);
    const auto add = [&](const char* key, int row, int place) {
      QWidget* box = labelled(make_design_field(workspace_, key, panel), panel);
      grid->addWidget(box, row, place, Qt::AlignTop);
      return box;
    };
    single_ = add("tank.capacitance_f", 0, 1);
    bank_ = {add("tank.unit_capacitance_f", 0, 1), add("tank.units_in_series", 0, 2),
             add("tank.units_in_parallel", 0, 3)};
    add("tank.unit_voltage_v", 1, 1);
    add("tank.bleed_resistance_ohm", 1, 2);
    add("gap.firing_voltage_v", 0, 4);
    add("gap.break_rate_hz", 1, 4);
    auto* shelf = new QPushButton("From the shelf…", panel);
    shelf->setObjectName("from shelf");
    shelf->setToolTip("Finds banks of the parts on your shelf for this coil");
    connect(shelf, &QPushButton::clicked, this, [this] { show_bank_finder(workspace_, window()); });
    grid->addWidget(shelf, 1, 0, Qt::AlignBottom);
    grid->setColumnStretch(5, 1);
    return panel;
  }

  void choose_mode(int index) {
    workspace_.document.edit(index == 1 ? "Tank as a bank" : "Tank as one value", [index](arc::Design& design) {
      arc::Tank& tank = design.tank;
      if (index == 1 && !tank.unit_capacitance_f) {
        tank.unit_capacitance_f = tank.capacitance_f * tank.units_in_series / tank.units_in_parallel;
      } else if (index == 0) {
        tank.capacitance_f = arc::tank_capacitance_f(tank);
        tank.unit_capacitance_f.reset();
        tank.units_in_series = tank.units_in_parallel = 1;
      }
    });
  }

  void refresh() {
    const bool bank = workspace_.document.design().tank.unit_capacitance_f.has_value();
    mode_->setCurrentIndex(bank ? 1 : 0);
    single_->setVisible(!bank);
    for (QWidget* box : bank_) box->setVisible(bank);
  }

  Workspace& workspace_;
  QComboBox* mode_ = nullptr;
  QWidget* single_ = nullptr;
  std::vector<QWidget*> bank_;
};

} // namespace

QWidget* make_tank_stage(Workspace& workspace, QWidget* parent) {
  return new TankStage(workspace, parent);
}
