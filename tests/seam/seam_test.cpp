// The seam is real: a kind that is one row in the tests stands in the chooser, the stages, the findings, the
// checks, the record, the first-fault walk and the pictures, and no other code knows of it. In calc: seam_calc.py.
#include "file/design_file.h"
#include "model/inputs.h"
#include "stages/stage.h"
#include "support.h"
#include "toolkit/reading_button.h"
#include "window/capture.h"
#include "workshop/runs.h"

#include <QAction>
#include <QDir>
#include <QMenu>

using testing::HasSubstr;

namespace {

class Seam : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    // Chosen at its name, as anybody would.
    in_next<QMenu>([](QMenu& menu) {
      auto* action = menu.findChild<QAction*>("kind generator");
      ASSERT_NE(action, nullptr);
      action->trigger();
      menu.close();
    });
    get<QPushButton>("coil kind").click();
    settle();
    document().wait_for_simulation();
    QApplication::processEvents();
  }
};

TEST_F(Seam, it_is_chosen_at_its_name_and_its_own_stages_stand_on_the_rail) {
  EXPECT_EQ(design().kind, "generator");
  EXPECT_THAT(get<QPushButton>("coil kind").text().toStdString(), HasSubstr("Generator"));
  for (const char* stage : {"tank", "feed", "switch", "driver"})
    EXPECT_FALSE(get<QAbstractButton>(QString("stage ") + stage).isVisible()) << stage;
  for (const char* stage : {"generator", "resonator", "primary", "tune", "fire"})
    EXPECT_TRUE(get<QAbstractButton>(QString("stage ") + stage).isVisible()) << stage;
}

TEST_F(Seam, its_simulation_findings_checks_and_record_are_the_rows) {
  const auto power = document().power();
  ASSERT_NE(power, nullptr);
  EXPECT_EQ(power->kind, "generator");
  EXPECT_DOUBLE_EQ(power->drive.frequency_hz, analysis().best_mode_1_hz);
  EXPECT_TRUE(
      std::ranges::any_of(document().findings(), [](const arc::Finding& f) { return f.id == "generator-q"; }));
  EXPECT_FALSE(
      std::ranges::any_of(document().findings(), [](const arc::Finding& f) { return f.id == "tank-off-tune"; }));
  show_stage("fire");
  EXPECT_NE(window().findChild<QCheckBox*>("check generator-low"), nullptr);
  press("fire page Record");
  const QAbstractItemModel& runs = *get<QTableView>("runs").model();
  QStringList heads;
  for (int c = 0; c < runs.columnCount(); ++c) heads << runs.headerData(c, Qt::Horizontal).toString();
  EXPECT_THAT(heads.join("|").toStdString(), HasSubstr("Resonance"));
  EXPECT_THAT(heads.join("|").toStdString(), HasSubstr("Lamp at"));
}

TEST_F(Seam, its_own_number_is_typed_judged_kept_and_recorded) {
  show_stage("generator");
  type_into("generator.level_v", "12.5");
  EXPECT_EQ(design().own.at("generator.level_v"), 12.5);
  document().wait_for_simulation();
  settle();
  const double top_v = 12.5 * analysis().quality_factor;
  EXPECT_DOUBLE_EQ(document().power()->drive.top_peak_v, top_v);
  EXPECT_EQ(get<QTableWidget>("generator figures").rowCount(), 1);
  EXPECT_NE(get<ReadingButton>("reading generator_load_ohm").value_text(), "–");
  type_into("generator.level_v", "5 kV");
  EXPECT_EQ(design().own.at("generator.level_v"), 12.5) << "out of its range it is refused";
  const arc::Design back = arc::read_design(arc::write_design(design()));
  EXPECT_EQ(back, design());
  // A run records it, and a tolerance of its own moves the bands.
  const arc::Run run = arc::begin_run(design(), analysis(), nullptr, "2026-01-01T12:00:00");
  EXPECT_EQ(run.conditions.at("generator_level_v"), 12.5);
  const auto& shares = analysis().influences.at("mode_1_hz");
  EXPECT_TRUE(
      std::ranges::any_of(shares, [](const arc::Influence& i) { return i.input == "the generator's stand"; }));
}

TEST_F(Seam, nothing_typed_for_another_kind_is_lost_on_the_way_there_and_back) {
  const arc::Design there = design();
  document().history().undo();
  arc::Design back = design();
  EXPECT_EQ(back.kind, "spark-gap");
  back.kind = "generator";
  EXPECT_EQ(back, arc::without_examples(there)) << "its own numbers are still nobody's";
  const QString file = path("generator.json");
  document().history().redo();
  QString problem;
  ASSERT_TRUE(document().save_as(file, &problem)) << problem.toStdString();
  ASSERT_TRUE(window().open_file(file));
  EXPECT_EQ(design(), there);
}

TEST_F(Seam, its_stages_can_be_pictured) {
  QString problem;
  const QString folder = path("pictures");
  QDir().mkpath(folder);
  ASSERT_TRUE(capture_stages(window(), folder, &problem)) << problem.toStdString();
  const QStringList made = QDir(folder).entryList({"*.png"}, QDir::Files, QDir::Name);
  EXPECT_EQ(made, QStringList({"fire.png", "generator.png", "primary.png", "record.png", "resonator.png",
                               "start.png", "tune.png"}));
}

} // namespace
