// The simulation behind the views: it follows the last edit, can be waited for, and never shows another coil's
// numbers.
#include "crafts/spark_gap/spark_gap.h"
#include "support.h"

#include "circuit/feed.h"
#include "simulation/power.h"

#include <QListWidget>
#include <qcustomplot.h>

using testing::HasSubstr;

namespace {

class Simulation : public WindowTest {
 protected:
  void simulate() {
    document().wait_for_simulation();
    QApplication::processEvents();
  }
  QString text(const char* label) { return get<QLabel>(label).text(); }
  double top_peak_afresh_v() {
    const std::atomic<bool> never{false};
    return arc::analyse_power(design(), analysis(), document().power_options(), document().units(), never)
        .drive.top_peak_v;
  }
};

TEST_F(Simulation, the_last_of_many_edits_is_the_one_that_is_simulated) {
  for (int i = 0; i < 25; ++i) {
    document().edit("Gap", [i](arc::Design& d) { d.gap.firing_voltage_v = 9000 + 100 * i; });
    QApplication::processEvents();
  }
  simulate();
  EXPECT_EQ(document().power_of<arc::SparkGapPower>()->circuit.tank_v, 9000 + 2400);
  EXPECT_DOUBLE_EQ(document().power_of<arc::SparkGapPower>()->shot.top_peak_v, top_peak_afresh_v());
  EXPECT_FALSE(document().simulating());
}

TEST_F(Simulation, another_design_forgets_the_old_numbers_at_once) {
  simulate();
  ASSERT_NE(document().power(), nullptr);
  arc::Design other = design();
  other.name = "Another";
  other.feed.clear();
  document().start(other);
  EXPECT_EQ(document().power(), nullptr);
  show_stage("feed");
  simulate();
  EXPECT_THAT(text("feed verdict").toStdString(), HasSubstr("Nothing feeds the tank"));
  EXPECT_THAT(text("feed reason").toStdString(), HasSubstr("usual arrangements"));
}

TEST_F(Simulation, blocks_without_their_own_numbers_yet_show_a_dash) {
  show_stage("feed");
  simulate();
  press(QString("block %1").arg(design().feed.size()));
  press("remove block");
  EXPECT_THAT(get<QLabel>("joint 1").text().toStdString(), HasSubstr("–"));
  simulate();
  EXPECT_THAT(get<QLabel>("joint 1").text().toStdString(), HasSubstr("230 V"));
}

TEST_F(Simulation, quench_and_model_belong_to_the_view_not_to_the_file) {
  show_stage("switch");
  simulate();
  const bool modified = document().modified();
  auto& notch = get<QComboBox>("quench notch");
  notch.setCurrentIndex(2);
  Q_EMIT notch.activated(2);
  simulate();
  EXPECT_EQ(document().modified(), modified);
  EXPECT_EQ(document().power_options().quench_notch, 2);
}

TEST_F(Simulation, an_impossible_coil_still_shows_its_feed) {
  document().edit("Sink", [](arc::Design& d) { d.topload[0].centre_above_winding_m = -1; });
  show_stage("switch");
  simulate();
  EXPECT_EQ(text("shot verdict"), "No break can be simulated");
  EXPECT_FALSE(text("shot reason").isEmpty());
  EXPECT_EQ(get<QTableWidget>("shot figures").rowCount(), 0);
  EXPECT_FALSE(get<QPushButton>("keep shot").isEnabled());
  EXPECT_FALSE(get<QPushButton>("keep shot").toolTip().isEmpty());
  show_stage("feed");
  simulate();
  EXPECT_THAT(text("feed verdict").toStdString(), HasSubstr("bps"));
}

TEST_F(Simulation, both_unit_systems_and_both_themes_redraw_the_figures) {
  show_stage("switch");
  simulate();
  auto& changes = get<QTableWidget>("single changes");
  const auto has = [&](const char* unit) {
    for (int r = 0; r < changes.rowCount(); ++r)
      if (changes.item(r, 0)->text().contains(unit)) return true;
    return false;
  };
  EXPECT_TRUE(has("mm"));
  window().set_units(arc::UnitSystem::inch);
  simulate();
  EXPECT_TRUE(has(" in"));
  window().set_dark(true);
  EXPECT_EQ(get<QCustomPlot>("top voltage plot").xAxis->labelColor(), window().workspace().theme().ink);
  window().set_dark(false);
  window().set_units(arc::UnitSystem::metric);
}

TEST_F(Simulation, marks_on_the_rail_count_what_the_simulation_found) {
  document().edit("Small breaker", [](arc::Design& d) { d.feed[0].values["rated_current_a"] = 0.3; });
  simulate();
  EXPECT_THAT(get<QAbstractButton>("stage feed").accessibleName().toStdString(), HasSubstr("1 finding"));
  press("undo");
  simulate();
  EXPECT_THAT(get<QAbstractButton>("stage feed").accessibleName().toStdString(), HasSubstr("in work"));
  document().edit("No feed", [](arc::Design& d) { d.feed.clear(); });
  simulate();
  EXPECT_THAT(get<QAbstractButton>("stage feed").accessibleName().toStdString(), HasSubstr("untouched"));
}

TEST_F(Simulation, show_where_leads_to_the_field_of_a_block) {
  document().edit("Small breaker", [](arc::Design& d) { d.feed[0].values["rated_current_a"] = 0.3; });
  simulate();
  press("show breaker-trips");
  EXPECT_EQ(window().stage(), 3);
  EXPECT_TRUE(get<QLineEdit>("block 1 rated_current_a").hasFocus());
}

TEST_F(Simulation, the_tray_is_worked_by_keyboard_alone) {
  window().workspace().shelf.edit([](arc::Shelf& shelf) { shelf.invented_count = true; });
  show_stage("tank");
  simulate();
  auto& tray = get<QListWidget>("part tray");
  tray.setFocus();
  QTest::keyClick(&tray, Qt::Key_Down);
  QTest::keyClick(&tray, Qt::Key_Down);
  EXPECT_TRUE(get<QPushButton>("lay across").isEnabled());
  QTest::keyClick(&tray, Qt::Key_Return);
  settle();
  EXPECT_EQ(design().tank.sections.size(), 2u);
  press("undo");
  EXPECT_TRUE(design().tank.sections.empty());
}

} // namespace
