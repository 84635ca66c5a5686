// The exciter in the window: the kind chosen at its name, its stages, the driver's fields, plots and changes, its
// checks and record; and partial designs.
#include "coil_views/resonance_ruler.h"
#include "crafts/exciter/exciter.h"
#include "stages/stage.h"
#include "support.h"
#include "toolkit/cursor_plot.h"

#include <QMenu>
#include <algorithm>
#include <qcustomplot.h>

using testing::HasSubstr;
using testing::Not;

namespace {

class Exciter : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    look(false, false);
    ASSERT_TRUE(window().open_demo("exciter"));
    settle();
  }
  /// How much of the simulation a test needs: other supplies, single changes. All of it takes seconds.
  void look(bool supplies, bool advice) {
    arc::PowerOptions options = document().power_options();
    options.variac = supplies;
    options.advice = advice;
    document().set_power_options(options);
  }
  void simulate() {
    document().wait_for_analysis();
    document().wait_for_simulation();
    QApplication::processEvents();
  }
  std::string text(const QString& name) { return get<QLabel>(name).text().toStdString(); }
  std::string figure(const QString& name) {
    auto& table = get<QTableWidget>("oscillation figures");
    for (int r = 0; r < table.rowCount(); ++r)
      if (table.item(r, 0)->text() == name) return table.item(r, 1)->text().toStdString();
    return "no such figure";
  }
  void choose(const QString& name, int index) {
    auto& box = get<QComboBox>(name);
    box.setCurrentIndex(index);
    Q_EMIT box.activated(index);
    settle();
  }
};

TEST_F(Exciter, the_pins_are_checked_step_by_step_before_the_first_power) {
  show_stage("driver");
  press("check pins");
  auto* sheet = window().findChild<QDialog*>("first fault sheet");
  ASSERT_NE(sheet, nullptr);
  EXPECT_THAT(sheet->findChild<QComboBox*>("symptom")->currentText().toStdString(), HasSubstr("pins"));
  const auto question = [&] { return sheet->findChild<QLabel*>("fault question")->text().toStdString(); };
  EXPECT_THAT(question(), HasSubstr("side that faces you"));
  QTest::mouseClick(sheet->findChild<QPushButton*>("fault yes"), Qt::LeftButton);
  EXPECT_THAT(question(), HasSubstr("With red on the base"));
  QTest::mouseClick(sheet->findChild<QPushButton*>("fault no"), Qt::LeftButton);
  EXPECT_THAT(question() + sheet->findChild<QLabel*>("fault how")->text().toStdString(),
              HasSubstr("Wire the pins"));
  sheet->close();
}

TEST_F(Exciter, a_run_is_judged_by_how_far_the_lamp_lights) {
  show_stage("fire");
  press("fire page Record");
  EXPECT_THAT(get<QCustomPlot>("run chart").yAxis->label().toStdString(), HasSubstr("Lamp"));
}

TEST_F(Exciter, figures_carry_bands_and_the_lamps_distance_is_a_range) {
  show_stage("driver");
  look(false, true);
  simulate();
  EXPECT_THAT(figure("Mean current"), HasSubstr("±"));
  EXPECT_THAT(figure("Transistor"), HasSubstr("±"));
  EXPECT_THAT(figure("Lamp lights to"), HasSubstr(" to "));
}

TEST_F(Exciter, the_rail_shows_the_stages_of_the_kind) {
  EXPECT_FALSE(get<QAbstractButton>("stage tank").isVisible());
  EXPECT_TRUE(get<QAbstractButton>("stage driver").isVisible());
  EXPECT_EQ(get<QAbstractButton>("stage tune").text(), "Measure");
  QTest::keyClick(&window(), Qt::Key_3, Qt::AltModifier);
  EXPECT_EQ(stages()[static_cast<std::size_t>(window().stage())].key, "driver");
}

TEST_F(Exciter, the_kind_is_chosen_at_its_name_and_nothing_typed_is_lost) {
  const double tap = design().primary.tap_turns;
  in_next<QMenu>([](QMenu& menu) {
    for (QAction* action : menu.actions())
      if (action->objectName() == "kind spark-gap") {
        EXPECT_THAT(action->text().toStdString(), HasSubstr("gap"));
        action->trigger();
      }
    menu.close();
  });
  press("coil kind");
  EXPECT_EQ(design().kind, "spark-gap");
  EXPECT_TRUE(get<QAbstractButton>("stage tank").isVisible());
  EXPECT_FALSE(get<QAbstractButton>("stage driver").isVisible());
  EXPECT_THAT(get<QPushButton>("coil kind").text().toStdString(), HasSubstr("Spark gap"));
  window().switch_kind("exciter");
  settle();
  EXPECT_EQ(design().exciter.supply_voltage_v, 9);
  EXPECT_EQ(design().primary.tap_turns, tap);
  document().history().undo();
  document().history().undo();
  EXPECT_EQ(design().kind, "exciter");
}

TEST_F(Exciter, the_driver_shows_what_the_simulation_found) {
  look(true, false);
  show_stage("driver");
  simulate();
  const auto power = document().power_of<arc::ExciterAnalysis>();
  ASSERT_TRUE(power);
  EXPECT_THAT(text("driver verdict"), HasSubstr("at the top, at 2.7"));
  EXPECT_THAT(text("driver reason"), HasSubstr("junction settles"));
  EXPECT_THAT(text("driver reason"), Not(HasSubstr("safe")));
  EXPECT_THAT(figure("Collector to"), HasSubstr(" of 160 V"));
  EXPECT_EQ(get<CursorPlot>("oscillation plot").graphCount(), 2);
  const auto& supplies = get<CursorPlot>("run time plot");
  ASSERT_EQ(supplies.graphCount(), 4) << "within the collector's rating, beyond it, the line between, heat";
  const auto limit_v = arc::supply_at_rating_v(*power, design().exciter.transistor.voltage_rating_v);
  ASSERT_TRUE(limit_v);
  EXPECT_NEAR(supplies.graph(2)->data()->at(0)->key, *limit_v, 1e-9);
  EXPECT_LE(supplies.graph(0)->data()->at(supplies.graph(0)->dataCount() - 1)->key, *limit_v);
  get<CursorPlot>("run time plot").setFocus();
  QTest::keyClick(&get<CursorPlot>("run time plot"), Qt::Key_End);
  press("keep oscillation");
  EXPECT_EQ(get<CursorPlot>("oscillation plot").graphCount(), 3);
}

TEST_F(Exciter, swapped_ends_stop_it_and_the_remedy_swaps_them_back) {
  show_stage("driver");
  choose("exciter.primary_direction", 1);
  simulate();
  EXPECT_THAT(text("driver verdict"), HasSubstr("does not oscillate"));
  ASSERT_TRUE(std::ranges::any_of(document().findings(),
                                  [](const arc::Finding& f) { return f.id == "does-not-oscillate" && f.apply; }));
  press("remedy does-not-oscillate");
  simulate();
  EXPECT_FALSE(design().exciter.primary_reversed);
  EXPECT_THAT(text("driver verdict"), HasSubstr("at the top"));
}

TEST_F(Exciter, a_clamp_brings_its_usual_numbers_and_a_class_its_transistor) {
  show_stage("driver");
  choose("exciter.clamp", 1);
  EXPECT_EQ(design().exciter.clamp, arc::Clamp::diode);
  EXPECT_EQ(design().exciter.clamp_diode, *arc::usual_clamp(arc::Clamp::diode));
  choose("transistor class", 1);
  EXPECT_EQ(design().exciter.transistor, arc::transistor_classes()[1].part);
  choose("exciter.fan", 1);
  EXPECT_TRUE(design().exciter.fan);
  type_into("exciter.supply_voltage_v", "7V5");
  EXPECT_EQ(design().exciter.supply_voltage_v, 7.5);
  type_into("exciter.bias_resistance_ohm", "-4");
  EXPECT_FALSE(get<QuantityField>("exciter.bias_resistance_ohm").problem().isEmpty());
  EXPECT_EQ(design().exciter.bias_resistance_ohm, 27e3);
}

TEST_F(Exciter, a_data_sheet_becomes_the_law_or_says_why_not) {
  show_stage("driver");
  press("transistor numbers");
  type_into("transistor gain", "150");
  press("take sheet");
  EXPECT_EQ(design().exciter.transistor.forward_gain, 150);
  EXPECT_TRUE(get<QLabel>("transistor problem").text().isEmpty());
  const arc::Transistor before = design().exciter.transistor;
  type_into("transistor transit frequency", "90G");
  press("take sheet");
  EXPECT_THAT(text("transistor problem"), HasSubstr("cannot be"));
  EXPECT_EQ(design().exciter.transistor, before);
  EXPECT_EQ(get<QComboBox>("transistor class").currentText(), "From a data sheet");
}

TEST_F(Exciter, a_single_change_can_be_made_and_undone) {
  look(false, true);
  show_stage("driver");
  simulate();
  auto& changes = get<QTableWidget>("exciter changes");
  ASSERT_GT(changes.rowCount(), 3);
  EXPECT_FALSE(get<QPushButton>("make exciter change").isEnabled());
  changes.selectRow(0);
  const arc::Design before = design();
  press("make exciter change");
  EXPECT_NE(design(), before);
  EXPECT_FALSE(get<QPushButton>("make exciter change").isEnabled()) << "of an older design";
  document().history().undo();
  EXPECT_EQ(design(), before);
}

TEST_F(Exciter, checks_and_record_are_those_of_the_kind) {
  show_stage("fire");
  EXPECT_NO_THROW(get<QCheckBox>("check pins"));
  EXPECT_THROW(get<QCheckBox>("check bleed"), std::runtime_error);
  press("fire page Notes");
  EXPECT_TRUE(get<QLineEdit>("observed lamp_distance_m").isVisible());
  EXPECT_FALSE(get<QLineEdit>("observed gap_spacing_m").isVisible());
  const std::size_t runs = design().runs.size();
  type_into("observed lamp_distance_m", "14 cm");
  press("log run");
  ASSERT_EQ(design().runs.size(), runs + 1);
  const arc::Run& run = design().runs.back();
  EXPECT_EQ(run.conditions.at("supply_voltage_v"), 9);
  EXPECT_FALSE(run.conditions.contains("firing_voltage_v"));
  press("fire page Record");
  EXPECT_EQ(get<QTableView>("runs").model()->headerData(1, Qt::Horizontal).toString(), "Supply");
  window().switch_kind("spark-gap");
  settle();
  show_stage("fire");
  EXPECT_EQ(get<QTableView>("runs").model()->headerData(1, Qt::Horizontal).toString(), "Tap");
  EXPECT_NO_THROW(get<QCheckBox>("check bleed"));
}

TEST_F(Exciter, a_step_that_needs_power_says_so_in_the_stop_colour) {
  show_stage("driver");
  QTest::keyClick(&window(), Qt::Key_F, Qt::ControlModifier);
  settle();
  auto& live = get<QLabel>("fault live");
  EXPECT_TRUE(live.isVisible());
  EXPECT_THAT(live.text().toStdString(), testing::AllOf(HasSubstr("POWER ON"), HasSubstr("at the switch")));
  EXPECT_EQ(live.palette().color(QPalette::WindowText), window().workspace().theme().stop);
  press("fault no");
  EXPECT_THAT(text("fault question"), HasSubstr("where the data sheet shows"));
  EXPECT_FALSE(live.isVisible()) << "a look needs none";
}

TEST_F(Exciter, the_first_fault_walk_asks_finds_mends_and_is_kept) {
  show_stage("driver");
  choose("exciter.primary_direction", 1);
  QTest::keyClick(&window(), Qt::Key_F, Qt::ControlModifier);
  settle();
  EXPECT_THAT(text("fault question"), HasSubstr("swapped"));
  EXPECT_FALSE(get<QPushButton>("fault back").isEnabled());
  press("fault unknown");
  EXPECT_THAT(text("fault place"), HasSubstr("Question 2 of 8"));
  press("fault back");
  press("fault yes");
  EXPECT_THAT(text("fault place"), HasSubstr("Found"));
  press("fault apply");
  EXPECT_FALSE(design().exciter.primary_reversed);
  const std::size_t runs = design().runs.size();
  press("fault keep");
  ASSERT_EQ(design().runs.size(), runs + 1);
  EXPECT_THAT(design().runs.back().notes, HasSubstr("Found: The ends were the wrong way round"));
  EXPECT_FALSE(get<QPushButton>("fault keep").isEnabled());
  press("fault show");
  EXPECT_EQ(stages()[static_cast<std::size_t>(window().stage())].key, "driver");
}

TEST_F(Exciter, measuring_shows_no_tank_to_tune) {
  show_stage("tune");
  EXPECT_FALSE(get<QTableWidget>("tap table").isVisible());
  EXPECT_TRUE(get<QLabel>("nothing to tune").isVisible());
  EXPECT_THAT(text("tune verdict"), HasSubstr("Resonates at 2.66"));
  EXPECT_FALSE(get<QPushButton>("ruler follows").isVisible());
  const double before = design().primary.tap_turns;
  QTest::keyClick(&get<ResonanceRuler>("ruler"), Qt::Key_Right);
  EXPECT_EQ(design().primary.tap_turns, before) << "there is no tank mark to move";
}

TEST_F(Exciter, a_file_with_a_secondary_alone_opens_and_grows) {
  QFile file(path("alone.json"));
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  file.write(R"({"format":"high-arc-design","version":1,"name":"Alone","kind":"exciter","secondary":{
    "form_diameter_m":0.05,"turns":300,"winding_length_m":0.12,"wire_bare_diameter_m":0.0003,
    "wire_overall_diameter_m":0.00034,"base_height_m":0.05}})");
  file.close();
  ASSERT_TRUE(window().open_file(path("alone.json")));
  simulate();
  show_stage("driver");
  EXPECT_THAT(text("driver verdict"), HasSubstr("cannot be simulated yet"));
  EXPECT_THAT(text("driver reason"), HasSubstr("primary is not known"));
  show_stage("primary");
  EXPECT_TRUE(get<QLineEdit>("primary.turns").text().isEmpty());
  for (const auto& [key, value] : {std::pair{"primary.inner_radius_m", "35 mm"},
                                   {"primary.pitch_m", "5 mm"},
                                   {"primary.turns", "5"},
                                   {"primary.conductor_diameter_m", "1.5 mm"},
                                   {"primary.base_height_m", "50 mm"}})
    type_into(key, value);
  simulate();
  EXPECT_EQ(design().absent, (std::set<std::string, std::less<>>{"primary.tap_turns", "tank.capacitance_f"}));
  show_stage("driver");
  EXPECT_TRUE(document().power_of<arc::ExciterAnalysis>()->problem.empty())
      << document().power_of<arc::ExciterAnalysis>()->problem;
}

} // namespace
