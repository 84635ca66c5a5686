// Stacking, drawing, importing and comparing toploads; sampled bands; every kind of measurement, through the
// window.
#include "support.h"

#include "toolkit/reading_button.h"

#include <QMessageBox>
#include <QProgressBar>

using testing::HasSubstr;

namespace {

class Topload : public WindowTest {
 protected:
  void choose(const QString& combo, const QString& text) {
    auto& box = get<QComboBox>(combo);
    const int index = box.findText(text);
    ASSERT_GE(index, 0) << text.toStdString();
    box.setCurrentIndex(index);
    Q_EMIT box.activated(index);
    settle();
  }
  QString write(const QString& name, const QByteArray& text) {
    QFile file(path(name));
    EXPECT_TRUE(file.open(QIODevice::WriteOnly));
    file.write(text);
    return file.fileName();
  }
  const arc::Finding* finding(const std::string& id) {
    for (const arc::Finding& f : analysis().findings)
      if (f.id == id) return &f;
    return nullptr;
  }
};

TEST_F(Topload, a_second_part_is_stacked_and_the_resonance_falls) {
  const double before = analysis().resonator->mode_1_hz;
  press("add topload part");
  ASSERT_EQ(design().topload.size(), 2u);
  EXPECT_EQ(finding("topload-parts-cross"), nullptr) << "a new part comes to stand above the others";
  EXPECT_LT(analysis().resonator->mode_1_hz, before);
  choose("topload shape 2", "Sphere");
  type_into("topload 2 diameter_m", "180 mm");
  type_into("topload 2 centre_above_winding_m", "300 mm");
  press("rest 2");
  const double rested = design().topload[1].centre_above_winding_m;
  EXPECT_LT(rested, 0.3) << "it came down onto the ring";
  EXPECT_EQ(finding("topload-parts-cross"), nullptr);
  drag("topload-height-2", {0, 24});
  EXPECT_LT(design().topload[1].centre_above_winding_m, rested);
}

TEST_F(Topload, parts_that_overlap_are_named_and_parted_by_the_remedy) {
  press("add topload part");
  type_into("topload 2 centre_above_winding_m", "100 mm");
  const arc::Finding* overlap = finding("topload-parts-cross");
  ASSERT_NE(overlap, nullptr);
  EXPECT_THAT(overlap->title, HasSubstr("parts 1 (toroid) and 2 (toroid) overlap"));
  EXPECT_FALSE(window().findChildren<QWidget*>("findings").isEmpty());
  press("remedy topload-parts-cross");
  EXPECT_EQ(finding("topload-parts-cross"), nullptr);
}

TEST_F(Topload, the_same_place_twice_takes_the_number_away_and_says_why) {
  document().edit("twice", [](arc::Design& d) { d.topload.push_back(d.topload[0]); });
  settle();
  EXPECT_EQ(get<ReadingButton>("reading mode_1_hz").value_text(), "–");
  ASSERT_NE(finding("geometry-impossible"), nullptr);
  EXPECT_THAT(finding("geometry-impossible")->title, HasSubstr("are in the same place"));
}

TEST_F(Topload, a_profile_starts_from_the_shape_and_is_drawn_by_its_points) {
  const double before = analysis().resonator->topload_in_place_f;
  choose("topload shape 1", "Free profile");
  ASSERT_EQ(design().topload[0].shape, "profile");
  EXPECT_NEAR(analysis().resonator->topload_in_place_f / before, 1, 0.05) << "the same body in twelve corners";
  const std::size_t points = design().topload[0].points_m.size();
  const auto first = design().topload[0].points_m[0];
  drag("profile-1-1", {30, 0});
  EXPECT_GT(design().topload[0].points_m[0][0], first[0] + 0.01);
  EXPECT_GT(analysis().resonator->topload_in_place_f, before * 0.98);
  const QPointF a = coil().handle_place("profile-1-1"), b = coil().handle_place("profile-1-2");
  QTest::mouseDClick(&coil(), Qt::LeftButton, {}, ((a + b) / 2).toPoint());
  settle();
  EXPECT_EQ(design().topload[0].points_m.size(), points + 1) << "a double click on the outline adds a point";
  coil().setFocus(Qt::TabFocusReason);
  QTest::keyClick(&coil(), Qt::Key_Tab); // from the part's height to its first point
  QTest::keyClick(&coil(), Qt::Key_Delete);
  settle();
  EXPECT_EQ(design().topload[0].points_m.size(), points);
  QTest::keyClick(&coil(), Qt::Key_Insert);
  settle();
  EXPECT_EQ(design().topload[0].points_m.size(), points + 1);
  press("undo");
  EXPECT_EQ(design().topload[0].points_m.size(), points);
}

TEST_F(Topload, a_profile_is_read_from_a_drawing_or_a_table) {
  choose("topload shape 1", "Free profile");
  choose_file(
      write("ball.svg", R"(<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 A90 90 0 0 1 0 180"/></svg>)"));
  press("read profile 1");
  double widest = 0;
  for (const auto& point : design().topload[0].points_m) widest = std::max(widest, point[0]);
  EXPECT_NEAR(widest, 0.09, 1e-3);
  choose_file(write("tin.csv", "radius_in,height_in\n0,0\n4,0\n4,3\n0,3\n"));
  press("read profile 1");
  EXPECT_EQ(design().topload[0].points_m.size(), 4u);
}

TEST_F(Topload, a_bad_profile_file_changes_nothing_and_says_why) {
  choose("topload shape 1", "Free profile");
  const arc::Design before = design();
  choose_file(write("bad.csv", "0,0\nten,20\n"));
  QString said;
  in_next<QMessageBox>([&](QMessageBox& box) {
    said = box.text();
    box.close();
  });
  press("read profile 1");
  EXPECT_THAT(said.toStdString(), HasSubstr("row 2"));
  EXPECT_EQ(design(), before);
}

TEST_F(Topload, toploads_are_kept_compared_and_swapped) {
  press("compare toploads");
  auto* sheet = window().findChild<QDialog*>("topload comparison");
  ASSERT_NE(sheet, nullptr);
  press("keep topload");
  EXPECT_EQ(design().topload_variants.size(), 1u);
  document().edit("smaller", [](arc::Design& d) { d.topload[0].outer_diameter_m = 0.3; });
  settle();
  const auto text = [&](const char* name) {
    auto* label = sheet->findChild<QLabel*>(name);
    return label ? label->text() : QString();
  };
  ASSERT_TRUE(wait_until([&] { return text("candidate 1 mode_1_hz").contains("-"); }))
      << "the larger one kept is lower: " << text("candidate 1 mode_1_hz").toStdString();
  EXPECT_NE(text("candidate 0 mode_1_hz").section(' ', 0, 0), text("candidate 1 mode_1_hz").section(' ', 0, 0));
  press("use topload 1");
  EXPECT_DOUBLE_EQ(design().topload[0].outer_diameter_m, 0.4);
  EXPECT_DOUBLE_EQ(design().topload_variants[0].parts[0].outer_diameter_m, 0.3) << "nothing is lost by swapping";
  press("keep topload");
  press("keep topload");
  EXPECT_EQ(design().topload_variants.size(), 3u);
  EXPECT_FALSE(get<QPushButton>("keep topload").isEnabled());
  EXPECT_FALSE(get<QPushButton>("keep topload").toolTip().isEmpty());
  ASSERT_TRUE(wait_until([&] { return sheet->findChild<QPushButton*>("remove variant 3") != nullptr; }));
  press("remove variant 3");
  EXPECT_EQ(design().topload_variants.size(), 2u);
  sheet->close();
}

TEST_F(Topload, bands_are_checked_by_samples_with_progress_and_cancel) {
  QTest::keyClick(&window(), Qt::Key_T, Qt::ControlModifier);
  auto& run = get<QPushButton>("run samples");
  QTest::mouseClick(&run, Qt::LeftButton);
  EXPECT_EQ(run.text(), "Cancel");
  EXPECT_TRUE(get<QProgressBar>("sampling progress").isVisible());
  QTest::mouseClick(&run, Qt::LeftButton);
  ASSERT_TRUE(wait_until([&] { return run.text() != "Cancel"; }));
  EXPECT_THAT(get<QLabel>("sampling verdict").text().toLower().toStdString(), HasSubstr("cancelled"));
  QTest::mouseClick(&run, Qt::LeftButton);
  ASSERT_TRUE(QTest::qWaitFor([&] { return run.text() != "Cancel"; }, 60000));
  auto& table = get<QTableWidget>("sampled bands");
  EXPECT_GE(table.rowCount(), 8);
  EXPECT_THAT(table.item(0, 2)->text().toStdString(), HasSubstr("±"));
  EXPECT_THAT(get<QLabel>("sampling verdict").text().toStdString(), HasSubstr("1000 samples"));
  window().findChild<QDialog*>("tolerances")->close();
}

TEST_F(Topload, every_kind_of_measurement_can_be_entered_and_removed) {
  show_stage("tune");
  const struct {
    const char* kind;
    const char* field;
    const char* entry;
    const char* given;
    const char* given_entry;
  } ways[] = {
      {"Coil without topload", "measured frequency_hz", "390 kHz", nullptr, nullptr},
      {"Coil with a known capacitor", "measured frequency_hz", "190 kHz", "measured capacitance_f", "10 pF"},
      {"Winding inductance", "measured inductance_h", "24.8 mH", nullptr, nullptr},
      {"Quality factor by ring-down", "measured quality_factor", "210", nullptr, nullptr},
      {"Tank at a tap", "measured frequency_hz", "240 kHz", "measured tap_turns", "10.25"}};
  std::size_t count = design().measurements.size();
  for (const auto& way : ways) {
    auto& kind = get<QComboBox>("measured kind");
    kind.setCurrentIndex(kind.findText(way.kind));
    EXPECT_FALSE(get<QPushButton>("add measurement").isEnabled()) << way.kind;
    EXPECT_THAT(get<QPushButton>("add measurement").toolTip().toStdString(), HasSubstr("Enter the"));
    type_into(way.field, way.entry);
    if (way.given) {
      EXPECT_FALSE(get<QPushButton>("add measurement").isEnabled()) << way.kind;
      type_into(way.given, way.given_entry);
    }
    press("add measurement");
    ASSERT_EQ(design().measurements.size(), ++count) << way.kind;
    EXPECT_EQ(get<QTableWidget>("measurements").rowCount(), static_cast<int>(count));
    EXPECT_FALSE(get<QTableWidget>("measurements").item(static_cast<int>(count) - 1, 4)->text().isEmpty());
  }
  EXPECT_EQ(analysis().quality_factor, 210);
}

} // namespace
