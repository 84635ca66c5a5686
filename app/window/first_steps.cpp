// The strip of first steps.
#include "window/first_steps.h"

#include "craft/kind.h"
#include "stages/stage.h"
#include "toolkit/common.h"

#include <algorithm>

namespace {
constexpr int steps = 3;
} // namespace

FirstSteps::FirstSteps(Workspace& workspace, QWidget* parent)
    : Strip("first steps", "first step", parent), workspace_(workspace) {
  add_button("skip first steps", "Skip", "Not offered again; the menu has them", [this] { end(); });
  next_ = add_button("next first step", "Next", "On to the next step", [this] { go_on(); });
  connect(&workspace.document, &Document::opened, this, &QWidget::hide);
  connect(&workspace.document, &Document::design_changed, this, &FirstSteps::show_step);
  hide();
}

FirstSteps::Step FirstSteps::step() const {
  const arc::CoilKind& kind = arc::kind_of(workspace_.document.design());
  if (at_ == 0)
    return {
        QString(
            "Step 1 of 3: every coil starts with its secondary. Enter the form, the wire and the turns that you "
            "wound, or plan to wind. This is “%1”; another kind is chosen beside the name above.")
            .arg(text_of(kind.title)),
        "resonator", "secondary.form_diameter_m"};
  if (at_ == 1) {
    if (kind.tank)
      return {
          "Step 2 of 3: what rings with it. Enter the primary here, then the capacitors on Tank; the ruler below "
          "shows the tank beside the coil.",
          "primary", "primary.turns"};
    const auto own = std::ranges::find_if(
        stages(), [&](const StageSpec& s) { return !s.group.isEmpty() && s.key != "feed" && belongs_to(s, kind); });
    return {QString("Step 2 of 3: what drives it. Enter its parts on %1; the simulation follows by itself.")
                .arg(title_of(*own, kind)),
            own->key,
            {}};
  }
  return {"Step 3 of 3: on the right are the findings, worst first. Press a coloured remedy to apply it until "
          "nothing stops; then Tune, and Fire with its checks before power. F1 opens the guide at any stage.",
          "tune",
          {}};
}

void FirstSteps::begin() {
  at_ = 0;
  show();
  show_step();
}

void FirstSteps::show_step() {
  if (isHidden()) return;
  words().setText(step().text);
  next_->setText(at_ + 1 < steps ? "Next" : "Done");
  next_->setToolTip(at_ + 1 < steps ? "On to the next step" : "Closes this; the menu has it again");
}

void FirstSteps::go_on() {
  if (++at_ >= steps) return end();
  show_step();
  const Step now = step();
  workspace_.go_to(now.stage, now.field);
}

void FirstSteps::end() {
  hide();
  Q_EMIT ended();
}
