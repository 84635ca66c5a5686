// The sheet: what a data sheet prints above, the law that is simulated below.
#include "kinds/bridges/switch_sheet.h"

#include "parts/bridge_switch.h"
#include "widgets/choice_box.h"
#include "widgets/common.h"
#include "widgets/quantity_field.h"

#include <QDialog>
#include <QGridLayout>
#include <QVBoxLayout>
#include <stdexcept>

namespace {

using enum arc::Dimension;

class SwitchSheet : public QDialog {
 public:
  SwitchSheet(Workspace& workspace, QWidget* parent) : QDialog(parent), workspace_(workspace) {
    setObjectName("switch sheet");
    setWindowTitle("Switches");
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    igbt_ = workspace.document.design().bridge.device.type == arc::SwitchType::igbt;
    column->addWidget(heading(igbt_ ? "From the data sheet of an IGBT" : "From the data sheet of a MOS"));
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(space::medium);
    column->addLayout(grid);
    if (igbt_)
      add_igbt(grid);
    else
      add_mos(grid);
    problem_ = new QLabel(this);
    problem_->setProperty("problem", true);
    problem_->setObjectName("switch problem");
    problem_->setWordWrap(true);
    column->addWidget(problem_);
    add_sheet_button(this, column, "take switch", "Fit the law to this", [this] { take(); });
    column->addWidget(heading("The law that is simulated"));
    std::vector<const char*> law{"bridge.switch_output_f",        "bridge.switch_diode_knee_v",
                                 "bridge.switch_diode_slope_ohm", "bridge.switch_fall_s",
                                 "bridge.switch_rise_s",          "bridge.switch_recovery_s",
                                 "bridge.switch_leak_s"};
    if (igbt_)
      law.insert(law.begin(), {"bridge.switch_knee_v", "bridge.switch_slope_ohm"});
    else
      law.insert(law.begin(), "bridge.switch_on_ohm");
    column->addWidget(grid_of(law));
    column->addWidget(heading("Gate, ratings and heat"));
    column->addWidget(
        grid_of({"bridge.switch_gate_charge_c", "bridge.switch_gate_threshold_v", "bridge.switch_gate_limit_v",
                 "bridge.switch_voltage_rating_v", "bridge.switch_current_rating_a", "bridge.switch_pulse_rating_a",
                 "bridge.switch_junction_limit_c", "bridge.switch_case_k_per_w", "bridge.switch_pair_1_k_per_w",
                 "bridge.switch_pair_1_s", "bridge.switch_pair_2_k_per_w", "bridge.switch_pair_2_s"}));
    column->addWidget(
        caption_label("Straight lines, a linear output capacitance of the same charge, edges by their "
                      "times; nothing of it changes with temperature.",
                      this));
    auto* row = new QHBoxLayout;
    row->addWidget(captioned("Type", new ChoiceBox(workspace, "bridge.switch_type", this), this));
    row->addStretch();
    add_sheet_button(this, row, "close switch sheet", "Close", [this] { accept(); });
    column->addLayout(row);
  }

 private:
  QLabel* heading(const char* text) {
    auto* label = new QLabel(text, this);
    label->setFont(type::font(type::strong, QFont::DemiBold));
    return label;
  }

  QWidget* grid_of(const std::vector<const char*>& keys) {
    auto* box = new QWidget(this);
    auto* grid = new QGridLayout(box);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(space::medium);
    for (std::size_t i = 0; i < keys.size(); ++i)
      grid->addWidget(labelled(make_design_field(workspace_, keys[i], box), box), static_cast<int>(i) / 5,
                      static_cast<int>(i) % 5, Qt::AlignTop);
    return box;
  }

  void add(QGridLayout* grid, const char* name, const char* label, arc::Dimension dimension, double low,
           double high, double& value) {
    QuantityRole role;
    role.name = QString("switch ") + name;
    role.label = label;
    role.dimension = dimension;
    role.minimum = low;
    role.maximum = high;
    role.get = [&value] { return std::optional(value); };
    role.set = [&value](std::optional<double> v, const QString&) {
      if (v) value = *v;
    };
    const int place = grid->count();
    grid->addWidget(labelled(new QuantityField(workspace_, std::move(role), this), this), place / 5, place % 5,
                    Qt::AlignTop);
  }

  void add_mos(QGridLayout* grid) {
    add(grid, "on resistance", "On resistance, 25 °C", resistance, 1e-5, 100, mos_.on_ohm_cold);
    add(grid, "hot factor", "Hot, times that", number, 1, 5, mos_.hot_factor);
    add(grid, "output charge", "Output charge, Qoss", charge, 1e-10, 1e-4, mos_.output_charge_c);
    add(grid, "charge volts", "… to these volts", voltage, 1, 5000, mos_.output_at_v);
    add(grid, "fall", "Fall time", time, 0, 1e-5, mos_.fall_s);
    add(grid, "rise", "Rise time", time, 0, 1e-5, mos_.rise_s);
    add(grid, "recovery", "Diode recovery, trr", time, 0, 1e-5, mos_.recovery_s);
  }

  void add_igbt(QGridLayout* grid) {
    add(grid, "saturation", "Saturation, hot", voltage, 0.1, 20, igbt_sheet_.saturation_v);
    add(grid, "saturation amperes", "… at", current, 0.1, 1e4, igbt_sheet_.at_a);
    add(grid, "second volts", "A second point", voltage, 0.1, 20, igbt_sheet_.second_v);
    add(grid, "second amperes", "… at", current, 0.1, 1e4, igbt_sheet_.second_a);
    add(grid, "output capacitance", "Output capacitance", capacitance, 1e-12, 1e-7, igbt_sheet_.output_f);
    add(grid, "turn-off energy", "Turn-off energy", energy, 1e-7, 10, igbt_sheet_.turn_off_j);
    add(grid, "turn-off volts", "… at volts", voltage, 1, 5000, igbt_sheet_.off_v);
    add(grid, "turn-off amperes", "… and amperes", current, 0.1, 1e4, igbt_sheet_.off_a);
    add(grid, "turn-on energy", "Turn-on energy", energy, 1e-7, 10, igbt_sheet_.turn_on_j);
    add(grid, "turn-on volts", "… at volts", voltage, 1, 5000, igbt_sheet_.on_v);
  }

  void take() {
    problem_->clear();
    const arc::BridgeSwitch& now = workspace_.document.design().bridge.device;
    igbt_sheet_.on_a = igbt_sheet_.off_a;
    try {
      const arc::BridgeSwitch fitted =
          igbt_ ? arc::switch_from_sheet(now, igbt_sheet_) : arc::switch_from_sheet(now, mos_);
      workspace_.document.edit("Switches from their data sheet",
                               [&](arc::Design& design) { design.bridge.device = fitted; });
    } catch (const std::invalid_argument& refusal) {
      problem_->setText(QString::fromUtf8(refusal.what()));
    }
  }

  Workspace& workspace_;
  bool igbt_ = false;
  arc::MosSheet mos_;
  arc::IgbtSheet igbt_sheet_;
  QLabel* problem_ = nullptr;
};

} // namespace

void show_switch_sheet(Workspace& workspace, QWidget* parent) {
  (new SwitchSheet(workspace, parent))->open();
}
