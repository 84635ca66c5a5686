// The sheet: what a data sheet prints above, the law that is simulated below.
#include "crafts/bridges/switch_sheet.h"

#include "parts/bridge_switch.h"
#include "toolkit/choice_box.h"
#include "toolkit/common.h"
#include "toolkit/number_sheet.h"

#include <QGridLayout>
#include <QVBoxLayout>
#include <stdexcept>

namespace {

using enum arc::Dimension;

class SwitchSheet : public NumberSheet {
 public:
  SwitchSheet(Workspace& workspace, QWidget* parent) : NumberSheet(workspace, "switch", "Switches", 5, parent) {
    igbt_ = workspace.document.design().bridge.device.type == arc::SwitchType::igbt;
    column_->addWidget(heading(igbt_ ? "From the data sheet of an IGBT" : "From the data sheet of a MOS"));
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(space::medium);
    column_->addLayout(grid);
    if (igbt_)
      add_igbt(grid);
    else
      add_mos(grid);
    problem_ = make_problem();
    column_->addWidget(problem_);
    add_sheet_button(this, column_, "take switch", "Fit model to data sheet", [this] { take(); });
    column_->addWidget(heading("Model parameters"));
    std::vector<const char*> law{"bridge.switch_output_f",        "bridge.switch_diode_knee_v",
                                 "bridge.switch_diode_slope_ohm", "bridge.switch_fall_s",
                                 "bridge.switch_rise_s",          "bridge.switch_recovery_s",
                                 "bridge.switch_leak_s"};
    if (igbt_)
      law.insert(law.begin(), {"bridge.switch_knee_v", "bridge.switch_slope_ohm"});
    else
      law.insert(law.begin(), "bridge.switch_on_ohm");
    column_->addWidget(grid_of(law));
    column_->addWidget(heading("Gate, ratings and heat"));
    column_->addWidget(
        grid_of({"bridge.switch_gate_charge_c", "bridge.switch_gate_threshold_v", "bridge.switch_gate_limit_v",
                 "bridge.switch_voltage_rating_v", "bridge.switch_current_rating_a", "bridge.switch_pulse_rating_a",
                 "bridge.switch_junction_limit_c", "bridge.switch_case_k_per_w", "bridge.switch_pair_1_k_per_w",
                 "bridge.switch_pair_1_s", "bridge.switch_pair_2_k_per_w", "bridge.switch_pair_2_s",
                 "bridge.snubber_rating_w"}));
    column_->addWidget(
        caption_label("Straight lines, a linear output capacitance of the same charge, edges by their "
                      "times; nothing of it changes with temperature.",
                      this));
    auto* row = new QHBoxLayout;
    row->addWidget(captioned("Type", new ChoiceBox(workspace, "bridge.switch_type", this), this));
    row->addStretch();
    add_sheet_button(this, row, "close switch sheet", "Close", [this] { accept(); });
    column_->addLayout(row);
  }

 private:
  void add_mos(QGridLayout* grid) {
    add_number(grid, "on resistance", "On resistance, 25 °C", resistance, 1e-5, 100, mos_.on_ohm_cold);
    add_number(grid, "hot factor", "Hot, times that", number, 1, 5, mos_.hot_factor);
    add_number(grid, "output charge", "Output charge, Qoss", charge, 1e-10, 1e-4, mos_.output_charge_c);
    add_number(grid, "charge volts", "… to these volts", voltage, 1, 5000, mos_.output_at_v);
    add_number(grid, "fall", "Fall time", time, 0, 1e-5, mos_.fall_s);
    add_number(grid, "rise", "Rise time", time, 0, 1e-5, mos_.rise_s);
    add_number(grid, "recovery", "Diode recovery, trr", time, 0, 1e-5, mos_.recovery_s);
  }

  void add_igbt(QGridLayout* grid) {
    add_number(grid, "saturation", "Saturation, hot", voltage, 0.1, 20, igbt_sheet_.saturation_v);
    add_number(grid, "saturation amperes", "… at", current, 0.1, 1e4, igbt_sheet_.at_a);
    add_number(grid, "second volts", "A second point", voltage, 0.1, 20, igbt_sheet_.second_v);
    add_number(grid, "second amperes", "… at", current, 0.1, 1e4, igbt_sheet_.second_a);
    add_number(grid, "output capacitance", "Output capacitance", capacitance, 1e-12, 1e-7, igbt_sheet_.output_f);
    add_number(grid, "turn-off energy", "Turn-off energy", energy, 1e-7, 10, igbt_sheet_.turn_off_j);
    add_number(grid, "turn-off volts", "… at volts", voltage, 1, 5000, igbt_sheet_.off_v);
    add_number(grid, "turn-off amperes", "… and amperes", current, 0.1, 1e4, igbt_sheet_.off_a);
    add_number(grid, "turn-on energy", "Turn-on energy", energy, 1e-7, 10, igbt_sheet_.turn_on_j);
    add_number(grid, "turn-on volts", "… at volts", voltage, 1, 5000, igbt_sheet_.on_v);
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

  bool igbt_ = false;
  arc::MosSheet mos_;
  arc::IgbtSheet igbt_sheet_;
  QLabel* problem_ = nullptr;
};

} // namespace

void show_switch_sheet(Workspace& workspace, QWidget* parent) {
  (new SwitchSheet(workspace, parent))->open();
}
