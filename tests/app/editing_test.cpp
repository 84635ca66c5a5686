// Typing, dragging, undo, units and themes through the real window.
#include "stages/stage.h"
#include "support.h"

#include "parts/bank.h"

#include "coil_views/resonance_ruler.h"
#include "simulation/figures.h"
#include "toolkit/reading_button.h"

using testing::HasSubstr;

namespace {

class Editing : public WindowTest {};

TEST_F(Editing, the_demo_shows_a_believable_coil) {
  EXPECT_EQ(design().name, "Quiet Lantern");
  EXPECT_EQ(get<ReadingButton>("reading mode_1_hz").value_text(), "225.3 kHz");
  EXPECT_EQ(get<QLineEdit>("design name").text(), "Quiet Lantern");
  EXPECT_FALSE(document().modified());
}

TEST_F(Editing, a_quantity_may_be_typed_in_many_notations) {
  const std::pair<const char*, double> ways[] = {{"450 mm", 0.45}, {"18 in", 0.4572}, {"1' 6\"", 0.4572},
                                                 {"0,46 m", 0.46}, {"455", 0.455},    {"17 1/2\"", 0.4445}};
  for (const auto& [text, metres] : ways) {
    type_into("secondary.winding_length_m", text);
    EXPECT_NEAR(design().secondary.winding_length_m, metres, 1e-12) << text;
  }
  show_stage("tank");
  for (const char* text : {"150n", "0.15 uF", "150", "0.15µ"}) {
    type_into("tank.unit_capacitance_f", "1 nF");
    type_into("tank.unit_capacitance_f", text);
    EXPECT_NEAR(*design().tank.unit_capacitance_f, 150e-9, 1e-15) << text << "; a bare number takes the shown unit";
  }
}

TEST_F(Editing, nonsense_stays_on_the_screen_with_the_reason_and_changes_nothing) {
  const arc::Design before = design();
  type_into("secondary.turns", "many");
  auto& field = get<QuantityField>("secondary.turns");
  EXPECT_EQ(field.text(), "many");
  EXPECT_THAT(field.problem().toStdString(), HasSubstr("“m” at character 1"));
  EXPECT_TRUE(field.property("bad").toBool());
  EXPECT_EQ(design(), before);
  type_into("secondary.turns", "-5");
  EXPECT_THAT(field.problem().toStdString(), HasSubstr("outside of 2 to 20000"));
  EXPECT_EQ(design(), before);
  type_into("secondary.winding_length_m", "12 kV");
  EXPECT_THAT(get<QuantityField>("secondary.winding_length_m").problem().toStdString(),
              HasSubstr("this is a voltage"));
  field.setFocus();
  QTest::keyClick(&field, Qt::Key_Escape);
  EXPECT_EQ(field.text(), "1030");
  EXPECT_TRUE(field.problem().isEmpty());
}

TEST_F(Editing, an_edit_elsewhere_does_not_wipe_a_refused_entry) {
  type_into("secondary.turns", "many");
  type_into("secondary.form_diameter_m", "112 mm");
  EXPECT_EQ(get<QuantityField>("secondary.turns").text(), "many");
}

TEST_F(Editing, arrow_keys_step_a_field_and_undo_as_one) {
  auto& field = get<QuantityField>("secondary.form_diameter_m");
  field.setFocus();
  for (int i = 0; i < 3; ++i) QTest::keyClick(&field, Qt::Key_Up);
  EXPECT_NEAR(design().secondary.form_diameter_m, 0.14, 1e-9);
  QTest::keyClick(&field, Qt::Key_Down, Qt::ShiftModifier);
  EXPECT_NEAR(design().secondary.form_diameter_m, 0.139, 1e-9);
  press("undo");
  EXPECT_NEAR(design().secondary.form_diameter_m, 0.11, 1e-12);
}

TEST_F(Editing, lowering_the_primary_with_the_mouse_lowers_the_coupling) {
  show_stage("primary");
  const double before = analysis().coupling;
  const double height = design().primary.base_height_m;
  drag("primary-inner", {0, 30});
  EXPECT_LT(design().primary.base_height_m, height);
  EXPECT_LT(analysis().coupling, before);
  press("undo");
  EXPECT_EQ(design().primary.base_height_m, height) << "a whole drag is one step";
}

TEST_F(Editing, every_handle_can_be_dragged_and_undone) {
  for (const char* stage : {"resonator", "primary"}) {
    show_stage(stage);
    for (const CoilHandle& handle : coil().handles()) {
      const arc::Design before = design();
      drag(handle.id, handle.id == "topload-height" || handle.id == "topload-tube" ? QPoint(0, -12)
                      : handle.id == "primary-inner"                               ? QPoint(-9, 9)
                                                                                   : QPoint(12, -12));
      EXPECT_NE(design(), before) << handle.id.toStdString();
      EXPECT_TRUE(analysis().problem.empty()) << handle.id.toStdString() << ": " << analysis().problem;
      press("undo");
      EXPECT_EQ(design(), before) << handle.id.toStdString();
    }
  }
}

TEST_F(Editing, a_drag_follows_the_pointer_to_the_millimetre) {
  const double scale = (coil().handle_place("winding-base").y() - coil().handle_place("winding-top").y()) /
                       design().secondary.winding_length_m;
  drag("winding-top", {0, -20});
  EXPECT_NEAR(design().secondary.winding_length_m, 0.47 + 20 / scale, 0.0011);
  EXPECT_NEAR(std::fmod(design().secondary.winding_length_m * 1000 + 1e-6, 1), 0, 1e-5) << "whole millimetres";
}

TEST_F(Editing, handles_move_by_the_keyboard_alone) {
  show_stage("primary");
  coil().setFocus(Qt::TabFocusReason);
  QTest::keyClick(&coil(), Qt::Key_Tab);
  QTest::keyClick(&coil(), Qt::Key_Tab); // inner radius, pitch, clip
  const double tap = design().primary.tap_turns;
  QTest::keyClick(&coil(), Qt::Key_Right);
  EXPECT_NEAR(design().primary.tap_turns, tap + 0.05, 1e-9);
  QTest::keyClick(&coil(), Qt::Key_Left, Qt::ShiftModifier);
  EXPECT_NEAR(design().primary.tap_turns, tap - 0.45, 1e-9);
}

TEST_F(Editing, undo_goes_back_to_the_start_and_redo_to_the_end) {
  const arc::Design start = design();
  for (int i = 0; i < 40; ++i) type_into("secondary.turns", QString::number(900 + i));
  const arc::Design end = design();
  for (int i = 0; i < 40; ++i) QTest::keyClick(&window(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(design(), start);
  EXPECT_FALSE(document().modified());
  EXPECT_FALSE(get<QAbstractButton>("undo").isEnabled());
  for (int i = 0; i < 40; ++i) QTest::keyClick(&window(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_EQ(design(), end);
}

TEST_F(Editing, one_switch_turns_everything_to_inches_and_gauge) {
  press("units inch");
  EXPECT_EQ(get<QuantityField>("secondary.winding_length_m").text(), "18.5 in");
  type_into("secondary.wire_bare_diameter_m", "26 AWG");
  EXPECT_EQ(get<QuantityField>("secondary.wire_bare_diameter_m").text(), "26 AWG");
  type_into("secondary.winding_length_m", "18");
  EXPECT_NEAR(design().secondary.winding_length_m, 0.4572, 1e-12) << "a bare number is inches now";
  QTest::keyClick(&window(), Qt::Key_U, Qt::ControlModifier);
  settle();
  EXPECT_EQ(get<QuantityField>("secondary.winding_length_m").text(), "457.2 mm");
}

TEST_F(Editing, the_ruler_mark_moves_the_clip_or_the_capacitance) {
  auto& ruler = get<ResonanceRuler>("ruler");
  const double hz = analysis().tank_hz;
  const QPoint from = ruler.tank_place().toPoint();
  QTest::mousePress(&ruler, Qt::LeftButton, {}, from);
  QTest::mouseMove(&ruler, from - QPoint(40, 0));
  QTest::mouseRelease(&ruler, Qt::LeftButton, {}, from - QPoint(40, 0));
  settle();
  EXPECT_LT(analysis().tank_hz, hz);
  EXPECT_GT(design().primary.tap_turns, 10.6) << "a lower tank takes more turns";
  const double capacitance = arc::Analysis(analysis()).tank_capacitance_f;
  press("ruler follows");
  ruler.setFocus();
  QTest::keyClick(&ruler, Qt::Key_Left);
  settle();
  EXPECT_GT(analysis().tank_capacitance_f, capacitance);
}

TEST_F(Editing, a_remedy_in_the_findings_is_carried_out_and_can_be_undone) {
  press("remedy tank-off-tune");
  EXPECT_NEAR(design().primary.tap_turns, 10.995, 0.001);
  for (const arc::Finding& finding : analysis().findings) EXPECT_NE(finding.id, "tank-off-tune");
  press("undo");
  EXPECT_EQ(design().primary.tap_turns, 10.6);
}

TEST_F(Editing, a_finding_leads_to_its_cause) {
  type_into("secondary.turns", "1200");
  show_stage("tank");
  press("show winding-does-not-fit");
  EXPECT_EQ(window().stage(), 0);
  EXPECT_EQ(QApplication::focusWidget(), &get<QuantityField>("secondary.turns"));
}

TEST_F(Editing, impossible_geometry_takes_the_number_away_and_says_why) {
  type_into("topload 1 centre_above_winding_m", "-1.2 m");
  EXPECT_EQ(get<ReadingButton>("reading mode_1_hz").value_text(), "–");
  ASSERT_FALSE(analysis().findings.empty());
  EXPECT_EQ(analysis().findings.front().id, "geometry-impossible");
  press("undo");
  EXPECT_EQ(get<ReadingButton>("reading mode_1_hz").value_text(), "225.3 kHz");
}

TEST_F(Editing, topload_parts_come_change_shape_and_go) {
  press("add topload part");
  ASSERT_EQ(design().topload.size(), 2u);
  EXPECT_TRUE(analysis().resonator) << analysis().problem;
  auto& shape = get<QComboBox>("topload shape 2");
  shape.setCurrentIndex(shape.findData("sphere"));
  Q_EMIT shape.activated(shape.currentIndex());
  settle();
  EXPECT_EQ(design().topload[1].shape, "sphere");
  EXPECT_GT(design().topload[1].diameter_m, 0.1);
  type_into("topload 2 diameter_m", "8 in");
  EXPECT_NEAR(design().topload[1].diameter_m, 0.2032, 1e-12);
  press("remove topload 1");
  ASSERT_EQ(design().topload.size(), 1u);
  EXPECT_EQ(design().topload[0].shape, "sphere");
}

TEST_F(Editing, every_reading_has_a_why) {
  show_stage("tank");
  press("reading bleed_time_s");
  auto* sheet = window().findChild<QDialog*>("why");
  ASSERT_NE(sheet, nullptr);
  QString all;
  for (QLabel* label : sheet->findChildren<QLabel*>()) all += label->text() + "\n";
  EXPECT_TRUE(all.contains("6.63 s"));
  EXPECT_TRUE(all.contains("Dielectric absorption"));
  EXPECT_TRUE(all.contains("10 MΩ"));
  sheet->close();
}

TEST_F(Editing, a_bank_can_become_one_value_and_back_without_changing_the_tank) {
  show_stage("tank");
  const double capacitance = analysis().tank_capacitance_f;
  for (const int mode : {0, 1}) {
    auto& box = get<QComboBox>("tank mode");
    box.setCurrentIndex(mode);
    Q_EMIT box.activated(mode);
    settle();
    EXPECT_NEAR(analysis().tank_capacitance_f, capacitance, 1e-18);
    EXPECT_EQ(arc::tank_given(design().tank), static_cast<arc::TankGiven>(mode));
  }
  type_into("tank.unit_capacitance_f", "120 nF");
  type_into("tank.units_in_series", "2.5");
  EXPECT_THAT(get<QuantityField>("tank.units_in_series").problem().toStdString(), HasSubstr("whole number"));
}

TEST_F(Editing, the_rail_counts_what_is_open_for_each_stage) {
  show_stage("tank");
  type_into("tank.bleed_resistance_ohm", "");
  EXPECT_EQ(get<QAbstractButton>("stage tank").accessibleName(), "Tank, 1 finding");
  type_into("tank.bleed_resistance_ohm", "10M");
  settle();
  EXPECT_EQ(get<QAbstractButton>("stage tank").accessibleName(), "Tank, being simulated");
  document().wait_for_simulation();
  EXPECT_EQ(get<QAbstractButton>("stage tank").accessibleName(), "Tank, in work");
}

TEST_F(Editing, number_keys_with_alt_choose_the_stages) {
  int place = 0;
  for (std::size_t i = 0; i < stages().size(); ++i) {
    const StageSpec& stage = stages()[i];
    if (!belongs_to(stage, arc::kind_of(design())) || stage.place != RailPlace::work) continue;
    QTest::keyClick(&window(), static_cast<Qt::Key>(Qt::Key_1 + place++), Qt::AltModifier);
    EXPECT_EQ(window().stage(), static_cast<int>(i));
  }
  EXPECT_EQ(place, 7);
  for (const auto& [key, place_of_its_own] :
       {std::pair{Qt::Key_0, "start"}, {Qt::Key_S, "shelf"}, {Qt::Key_9, "record"}}) {
    QTest::keyClick(&window(), key, Qt::AltModifier);
    EXPECT_EQ(stages()[static_cast<std::size_t>(window().stage())].key, place_of_its_own);
  }
}

TEST_F(Editing, every_entry_and_button_can_be_named_by_a_screen_reader) {
  for (int stage = 0; stage < 7; ++stage) {
    window().show_stage(stage);
    settle();
    for (QWidget* widget : window().findChildren<QWidget*>()) {
      if (!widget->isVisible() || widget->focusPolicy() == Qt::NoFocus || widget->objectName().startsWith("qt_"))
        continue;
      const auto* button = qobject_cast<QAbstractButton*>(widget);
      const bool named = !widget->accessibleName().isEmpty() || (button && !button->text().isEmpty());
      const bool frame =
          widget->objectName() == "canvas" || QString(widget->metaObject()->className()) == "QScrollArea";
      EXPECT_TRUE(named || frame) << widget->metaObject()->className() << " “" << widget->objectName().toStdString()
                                  << "” on stage " << stage;
    }
  }
}

TEST_F(Editing, the_smallest_window_cuts_off_no_control) {
  window().resize(1024, 700);
  for (int stage = 0; stage < 5; ++stage) {
    window().show_stage(stage);
    settle();
    EXPECT_EQ(window().size(), QSize(1024, 700)) << "stage " << stage << " forces the window to grow";
    for (QLineEdit* field : window().findChildren<QLineEdit*>()) {
      if (!field->isVisible()) continue;
      const QRect place(field->mapTo(&window(), QPoint(0, 0)), field->size());
      EXPECT_TRUE(window().rect().contains(place)) << field->objectName().toStdString() << " on stage " << stage;
    }
  }
}

TEST(theme, text_keeps_its_contrast_in_both_themes) { // WCAG 2.1, success criterion 1.4.3
  for (const Theme& t : {Theme::daylight(), Theme::dark_room()})
    for (const QColor& ground : {t.paper, t.card, t.shade})
      for (const auto& [name, ink] : {std::pair{"ink", t.ink},
                                      {"second", t.second},
                                      {"copper", t.copper},
                                      {"arc", t.arc},
                                      {"settled", t.settled},
                                      {"warn", t.warn},
                                      {"stop", t.stop}}) {
        const bool only_on_paper = ground == t.shade && ink != t.ink && ink != t.second && ink != t.arc;
        if (only_on_paper) continue;
        EXPECT_GE(contrast_ratio(ink, ground), 4.5)
            << t.name.toStdString() << " " << name << " on " << ground.name().toStdString();
      }
  EXPECT_NEAR(contrast_ratio(Qt::black, Qt::white), 21, 1e-9);
}

} // namespace
