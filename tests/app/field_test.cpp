// Overlays, surroundings, tolerances and evidence through the real window.
#include "support.h"

#include "evidence/tolerance.h"
#include "toolkit/reading_button.h"

#include <QDialog>

using testing::HasSubstr;

namespace {

class Field : public WindowTest {};

TEST_F(Field, the_field_is_drawn_in_bands_and_goes_away_again) {
  press("overlay field");
  coil().field().wait();
  EXPECT_FALSE(coil().field().image().isNull());
  EXPECT_GT(coil().field().width_m(), 0.2);
  const QImage with = coil().grab().toImage();
  press("overlay potential");
  coil().field().wait();
  EXPECT_EQ(coil().field().kind(), FieldOverlay::Kind::potential);
  EXPECT_FALSE(get<QPushButton>("overlay field").isChecked()) << "one picture at a time";
  press("overlay potential");
  EXPECT_TRUE(coil().field().image().isNull());
  EXPECT_NE(coil().grab().toImage(), with);
}

TEST_F(Field, curves_along_the_winding_are_switched_one_by_one) {
  for (const char* name : {"overlay voltage", "overlay current", "overlay modes"}) {
    const QImage before = coil().grab().toImage();
    press(name);
    EXPECT_NE(coil().grab().toImage(), before) << name;
  }
}

TEST_F(Field, the_whole_coil_is_seen_below_the_buttons_at_every_size) {
  for (const arc::CoilKind* kind : arc::coil_kinds()) {
    window().open_demo(std::string(kind->key));
    document().edit("A longer form",
                    [](arc::Design& d) { d.secondary.form_length_m = 1.3 * d.secondary.winding_length_m; });
    settle();
    for (const char* stage : {"resonator", "primary"})
      for (const QSize size : {QSize(1024, 700), QSize(1366, 768), QSize(1920, 1080), QSize(3840, 2160)}) {
        window().resize(size);
        show_stage(stage);
        const std::string where = std::string(kind->key) + " " + stage + " at " + std::to_string(size.width());
        const auto& buttons = get<QAbstractButton>("overlay voltage");
        const double below =
            buttons.mapTo(&window(), QPoint(0, buttons.height())).y() - coil().mapTo(&window(), QPoint()).y();
        for (const QRectF& part : coil().part_places()) {
          EXPECT_GE(part.top(), below) << where;
          EXPECT_LE(part.bottom(), coil().height()) << where;
          EXPECT_GE(part.left(), 0) << where;
          EXPECT_LE(part.right(), coil().width() - 272) << where << ": the readings stand beyond";
        }
      }
  }
}

// Leaders go from the parts to the readings at the right, across the curves along the winding.
TEST_F(Field, words_of_curves_keep_clear_of_leaders_parts_and_each_other) {
  const auto meet = [](const QRectF& place, const QLineF& line) {
    for (int i = 0; i <= 400; ++i)
      if (place.contains(line.pointAt(i / 400.0))) return true;
    return false;
  };
  for (const char* name : {"overlay current", "overlay modes"}) press(name);
  for (const char* kind : {"spark-gap", "tube", "bridge", "exciter"}) {
    window().open_demo(kind);
    settle();
    show_stage("resonator");
    for (const char* name : {"overlay voltage", "overlay current", "overlay modes"})
      if (!get<QPushButton>(name).isChecked()) press(name);
    for (const QSize size : {QSize(1024, 700), QSize(1280, 800), QSize(1920, 1080), QSize(3840, 2160)}) {
      window().resize(size);
      settle();
      coil().grab();
      const auto& words = coil().curve_words();
      const std::string where = std::string(kind) + " at " + std::to_string(size.width());
      ASSERT_EQ(words.size(), 2 + analysis().resonator->modes.size() - 1) << where;
      for (std::size_t a = 0; a < words.size(); ++a) {
        EXPECT_TRUE(QRectF(coil().rect()).contains(words[a])) << where;
        for (std::size_t b = 0; b < a; ++b) EXPECT_FALSE(words[a].intersects(words[b])) << where;
        for (const QLineF& leader : coil().leaders()) EXPECT_FALSE(meet(words[a], leader)) << where << ' ' << a;
      }
    }
  }
}

TEST_F(Field, a_breakout_point_entered_for_the_room_lowers_the_breakout_voltage) {
  const double before = analysis().breakout->voltage_v;
  press("room");
  type_into("breakout.point_length_m", "30 mm");
  type_into("breakout.point_tip_radius_m", "1 mm");
  EXPECT_LT(analysis().breakout->voltage_v, before);
  EXPECT_EQ(analysis().breakout->where, "breakout point");
}

TEST_F(Field, a_strike_ring_settles_the_strike_finding) {
  show_stage("primary");
  press("strike ring");
  for (const arc::Finding& finding : analysis().findings) EXPECT_NE(finding.id, "strike-to-primary");
  press("undo");
  EXPECT_FALSE(get<QCheckBox>("strike ring").isChecked());
}

TEST_F(Field, a_tolerance_is_edited_and_given_back) {
  const double before = analysis().band.at("mode_1_hz");
  QTest::keyClick(&window(), Qt::Key_T, Qt::ControlModifier);
  type_into("tolerance turns", "4 %");
  EXPECT_DOUBLE_EQ(design().tolerances.at("turns"), 0.04);
  EXPECT_GT(analysis().band.at("mode_1_hz"), before);
  type_into("tolerance turns", "");
  EXPECT_TRUE(design().tolerances.empty());
  window().findChild<QDialog*>("tolerances")->close();
}

TEST_F(Field, a_measured_frequency_shrinks_the_band_on_the_screen) {
  document().edit("forget", [](arc::Design& d) { d.measurements.clear(); });
  settle();
  EXPECT_EQ(get<ReadingButton>("reading best_mode_1_hz").value_text(), "–");
  EXPECT_THAT(get<QLabel>("measure next").text().toStdString(), HasSubstr("Count the turns"));
  const double before = analysis().band.at("best_mode_1_hz");
  show_stage("tune");
  type_into("measured frequency_hz", "226.1 kHz");
  press("add measurement");
  EXPECT_LT(analysis().band.at("best_mode_1_hz"), before / 2);
  EXPECT_EQ(get<ReadingButton>("reading best_mode_1_hz").value_text(), "226.0 kHz");
}

TEST_F(Field, wheel_and_keys_zoom_and_zero_fits_again) {
  const QPointF before = coil().handle_place("winding-top");
  coil().setFocus();
  QTest::keyClick(&coil(), Qt::Key_Plus);
  EXPECT_NE(coil().handle_place("winding-top"), before);
  QTest::keyClick(&coil(), Qt::Key_0);
  EXPECT_EQ(coil().handle_place("winding-top"), before);
}

TEST_F(Field, turns_and_enamel_can_be_filled_in) {
  const auto trigger = [&](const char* name) {
    window().findChild<QAction*>(name)->trigger();
    settle();
  };
  trigger("enamel grade 2");
  EXPECT_NEAR(design().secondary.wire_overall_diameter_m, 0.459e-3, 1e-9);
  trigger("turns by hand");
  EXPECT_EQ(design().secondary.turns, std::floor(0.47 / 0.459e-3 * 0.95));
}

} // namespace
