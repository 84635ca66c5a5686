// The stage of the kind that only these tests know, and the window's list of crafts with it.
#include "base/craft_window.h"
#include "crafts/exciter/window.h"
#include "crafts/spark_gap/window.h"
#include "stages/stage.h"
#include "toolkit/figure_list.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"

#include <array>

namespace {

QWidget* make_generator_stage(Workspace& workspace, QWidget* parent) {
  auto* stage = new QWidget(parent);
  auto* column = new QVBoxLayout(stage);
  for (const char* key : {"generator.output_ohm", "generator.level_v"})
    column->addWidget(labelled(make_design_field(workspace, key, stage), stage));
  column->addWidget(new ReadingButton(workspace, "generator_load_ohm", stage));
  auto* figures = new FigureList(workspace, "generator", "generator figures", stage);
  column->addWidget(figures);
  QObject::connect(&workspace.document, &Document::power_changed, figures, [figures] { figures->refresh(); });
  figures->refresh();
  return stage;
}

std::span<const StageSpec> generator_stages() {
  static const std::array table{
      StageSpec{.key = "generator",
                .title = "Generator",
                .make = make_generator_stage,
                .about = "What drives the coil on the bench.",
                .cautions = {"A generator's output is a few volts; the top is not.", defer_to_codes},
                .group = "generator"}};
  return table;
}

} // namespace

std::span<const CraftWindow* const> craft_windows() {
  static const CraftWindow generator{.stages = generator_stages};
  static const std::array crafts{&spark_gap_window(), &exciter_window(), &generator};
  return crafts;
}
