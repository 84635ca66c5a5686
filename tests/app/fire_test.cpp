// Tune and Fire through the real window: measurements, the armed state by keyboard alone, the record.
#include "stages/bench_list.h"
#include "support.h"

#include "craft/kind.h"
#include "workshop/runs.h"

#include <QFileDialog>
#include <QLabel>
#include <QMessageBox>

using testing::HasSubstr;

namespace {

class Fire : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    show_stage("fire");
    compute();
  }
  // It arms only with all figures there.
  void compute() {
    settle();
    document().wait_for_simulation();
    QApplication::processEvents();
  }
  QString state() { return get<QWidget>("state").accessibleName(); }
  std::vector<QCheckBox*> checks() {
    std::vector<QCheckBox*> out;
    for (QCheckBox* box : window().findChildren<QCheckBox*>())
      if (box->objectName().startsWith("check ")) out.push_back(box);
    return out;
  }
};

TEST_F(Fire, cannot_be_armed_before_every_check_is_ticked) {
  const auto boxes = checks();
  ASSERT_GE(boxes.size(), 8u);
  EXPECT_FALSE(get<QPushButton>("arm").isEnabled());
  EXPECT_THAT(get<QPushButton>("arm").toolTip().toStdString(), HasSubstr("Tick every check"));
  for (std::size_t i = 0; i + 1 < boxes.size(); ++i) boxes[i]->click();
  EXPECT_FALSE(get<QPushButton>("arm").isEnabled());
  boxes.back()->click();
  EXPECT_TRUE(get<QPushButton>("arm").isEnabled());
  press("arm");
  EXPECT_TRUE(state().startsWith("ARMED"));
  boxes.front()->click();
  EXPECT_TRUE(state().startsWith("NOT ARMED")) << "taking a tick back disarms";
}

TEST_F(Fire, a_tick_does_not_outlive_the_numbers_it_was_given_for) {
  for (QCheckBox* box : checks()) box->click();
  document().edit("clip", [](arc::Design& d) { d.primary.tap_turns = 9; });
  settle();
  EXPECT_FALSE(get<QPushButton>("arm").isEnabled());
  EXPECT_FALSE(get<QCheckBox>("check clip").isChecked());
  EXPECT_TRUE(get<QCheckBox>("check people").isChecked()) << "what did not change stays ticked";
}

TEST_F(Fire, a_check_that_an_edit_asks_for_comes_and_goes_and_the_other_ticks_stay) {
  window().open_demo("tube");
  document().edit("Through", [](arc::Design& d) { d.tube.staccato = false; });
  document().wait_for_analysis();
  show_stage("fire");
  const auto boxes = [&] { return checks().size(); };
  const auto before = boxes();
  get<QCheckBox>("check pins").setChecked(true);
  document().edit("Staccato", [](arc::Design& d) { d.tube.staccato = true; });
  document().wait_for_analysis();
  EXPECT_EQ(boxes(), before + 1);
  EXPECT_TRUE(get<QCheckBox>("check pins").isChecked());
  EXPECT_FALSE(get<QCheckBox>("check gate").isChecked());
  EXPECT_FALSE(get<QPushButton>("arm").isEnabled());
  document().edit("Through", [](arc::Design& d) { d.tube.staccato = false; });
  document().wait_for_analysis();
  EXPECT_EQ(boxes(), before);
  EXPECT_TRUE(get<QCheckBox>("check pins").isChecked());
}

TEST_F(Fire, the_whole_stage_works_with_the_keyboard_only) {
  const std::size_t before = design().runs.size();
  get<QPushButton>("fire page Run").setFocus();
  const auto key = [](Qt::Key k) { QTest::keyClick(QApplication::focusWidget(), k); };
  const auto tab_to = [&](const QString& name) {
    for (int i = 0; i < 80 && QApplication::focusWidget()->objectName() != name; ++i) key(Qt::Key_Tab);
    ASSERT_EQ(QApplication::focusWidget()->objectName(), name);
  };
  for (QCheckBox* box : checks()) {
    tab_to(box->objectName());
    key(Qt::Key_Space);
  }
  tab_to("arm");
  key(Qt::Key_Space);
  ASSERT_EQ(QApplication::focusWidget()->objectName(), "start run") << "the next step has the focus";
  key(Qt::Key_Space);
  EXPECT_TRUE(state().startsWith("RUNNING"));
  EXPECT_FALSE(get<QPushButton>("log run").isEnabled());
  ASSERT_EQ(QApplication::focusWidget()->objectName(), "stop run");
  key(Qt::Key_Space);
  EXPECT_TRUE(state().startsWith("STILL CHARGED"));
  ASSERT_EQ(QApplication::focusWidget()->objectName(), "disarm");
  key(Qt::Key_Space);
  EXPECT_TRUE(state().startsWith("NOT ARMED"));
  for (QCheckBox* box : checks()) EXPECT_FALSE(box->isChecked()) << "each run is checked anew";
  tab_to("observed arc_length_m");
  QTest::keyClicks(QApplication::focusWidget(), "17 in");
  tab_to("observed variac_percent");
  QTest::keyClicks(QApplication::focusWidget(), "90");
  tab_to("observed notes");
  QTest::keyClicks(QApplication::focusWidget(), "steady");
  tab_to("log run");
  key(Qt::Key_Space);
  ASSERT_EQ(design().runs.size(), before + 1);
  const arc::Run& run = design().runs.back();
  EXPECT_NEAR(run.observations.at("arc_length_m"), 0.4318, 1e-9);
  EXPECT_EQ(run.observations.at("variac_percent"), 90);
  EXPECT_TRUE(run.observations.contains("duration_s")) << "timed by the program";
  EXPECT_DOUBLE_EQ(run.conditions.at("tap_turns"), 10.6);
  EXPECT_EQ(run.notes, "steady");
  EXPECT_TRUE(get<QuantityField>("observed arc_length_m").text().isEmpty()) << "ready for the next run";
}

TEST_F(Fire, a_bad_observation_is_not_logged) {
  const std::size_t before = design().runs.size();
  type_into("observed arc_length_m", "300 mm");
  type_into("observed variac_percent", "lots");
  press("log run");
  EXPECT_EQ(design().runs.size(), before);
  EXPECT_EQ(get<QuantityField>("observed variac_percent").text(), "lots");
}

TEST_F(Fire, the_record_compares_two_runs_and_charts_the_arc) {
  press("fire page Record");
  auto& runs = get<QTableView>("runs");
  ASSERT_EQ(runs.model()->rowCount(), static_cast<int>(design().runs.size()));
  auto& differences = get<QTableWidget>("run comparison");
  ASSERT_GT(differences.rowCount(), 5);
  EXPECT_TRUE(differences.item(0, 0)->text().startsWith("≠")) << "what differed comes first";
  EXPECT_TRUE(differences.item(0, 0)->text().contains("Tap"));
  auto& condition = get<QComboBox>("chart condition");
  for (int i = 0; i < condition.count(); ++i) condition.setCurrentIndex(i);
  runs.selectRow(0);
  settle();
  EXPECT_EQ(differences.rowCount(), 0) << "one run has nothing to be compared with";
}

TEST_F(Fire, checks_and_steps_are_whole_in_the_smallest_window) {
  window().resize(1024, 700);
  for (const arc::CoilKind* kind : arc::coil_kinds()) {
    window().open_demo(std::string(kind->key));
    settle();
    show_stage("fire");
    for (const auto& [page, list] : {std::pair{"fire page Run", "checks"}, {"fire page After", "after power"}}) {
      press(page);
      QApplication::processEvents();
      const auto& lines = get<BenchList>(list);
      EXPECT_LE(lines.widget()->height(), lines.height()) << kind->key << " " << list;
      EXPECT_GE(lines.letters(), BenchList::smallest) << kind->key;
      for (const QLabel* words : lines.findChildren<QLabel*>()) {
        const QRect needs =
            words->fontMetrics().boundingRect(QRect(0, 0, words->width(), 2000), Qt::TextWordWrap, words->text());
        EXPECT_GE(words->height(), needs.height()) << kind->key << " " << words->text().toStdString();
      }
    }
    EXPECT_TRUE(get<QLabel>("after power 1").text().startsWith("1. ")) << kind->key;
    press("fire page Notes");
    const auto& log = get<QPushButton>("log run");
    EXPECT_TRUE(window().rect().contains(QRect(log.mapTo(&window(), QPoint(0, 0)), log.size()))) << kind->key;
    press("fire page Run");
  }
}

TEST_F(Fire, the_record_cuts_nothing_where_there_is_room) {
  show_stage("fire");
  press("fire page Record");
  for (const QSize size : {QSize(1280, 800), QSize(1366, 768), QSize(1920, 1080)}) {
    window().resize(size);
    settle();
    expect_whole_values(window(), "record at " + std::to_string(size.width()));
  }
}

TEST_F(Fire, runs_go_out_as_csv_and_come_back) {
  press("fire page Record");
  const auto runs = design().runs;
  choose_file(path("runs.csv"));
  press("export runs");
  get<QTableView>("runs").selectAll();
  press("remove run");
  EXPECT_TRUE(design().runs.empty());
  choose_file(path("runs.csv"));
  press("import runs");
  EXPECT_EQ(design().runs, runs);
  press("undo");
  EXPECT_TRUE(design().runs.empty());
}

TEST_F(Fire, a_bad_csv_is_reported_and_changes_nothing) {
  QFile file(path("bad.csv"));
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  file.write("when,arc_length_m\nyesterday,long\n");
  file.close();
  press("fire page Record");
  const auto runs = design().runs;
  choose_file(path("bad.csv"));
  bool found = false;
  in_next<QMessageBox>([&](QMessageBox& box) {
    for (QLabel* label : box.findChildren<QLabel*>()) found |= label->text().contains("row 2, column arc_length_m");
    box.close();
  });
  press("import runs");
  EXPECT_TRUE(found);
  EXPECT_EQ(design().runs, runs);
}

class Tune : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    show_stage("tune");
  }
};

TEST_F(Tune, says_where_the_clip_belongs_and_moves_it_there) {
  EXPECT_THAT(get<QLabel>("tune verdict").text().toStdString(), HasSubstr("Tap to 10.99: out 0.39 turn"));
  press("apply tap");
  EXPECT_NEAR(design().primary.tap_turns, 10.99, 0.011);
  EXPECT_THAT(get<QLabel>("tune verdict").text().toStdString(), HasSubstr("In tune"));
  EXPECT_FALSE(get<QPushButton>("apply tap").isEnabled());
}

TEST_F(Tune, a_measured_frequency_corrects_the_clip) {
  EXPECT_FALSE(get<QPushButton>("add measurement").isEnabled());
  type_into("measured frequency_hz", "231 kHz");
  press("add measurement");
  ASSERT_EQ(design().measurements.size(), 3u);
  EXPECT_DOUBLE_EQ(analysis().target_hz, 231e3);
  EXPECT_LT(*analysis().tuned_tap_turns, 10.9) << "a higher resonance takes fewer turns";
  auto& table = get<QTableWidget>("measurements");
  ASSERT_EQ(table.rowCount(), 3);
  EXPECT_EQ(table.item(2, 1)->text(), "231 kHz");
  EXPECT_EQ(table.item(2, 2)->text(), "225.3 kHz");
  EXPECT_EQ(table.item(2, 3)->text(), "+2.5 %");
  table.selectRow(2);
  press("remove measurement");
  EXPECT_EQ(design().measurements.size(), 2u);
}

TEST_F(Tune, a_tank_measurement_needs_its_clip) {
  get<QComboBox>("measured kind").setCurrentIndex(2);
  type_into("measured frequency_hz", "236k");
  EXPECT_FALSE(get<QPushButton>("add measurement").isEnabled());
  type_into("measured tap_turns", "10.5");
  press("add measurement");
  EXPECT_EQ(design().measurements.back().kind, "tank");
  EXPECT_EQ(design().measurements.back().tap_turns, 10.5);
}

TEST_F(Tune, a_nonsense_frequency_is_kept_and_explained) {
  type_into("measured frequency_hz", "fast");
  EXPECT_EQ(get<QuantityField>("measured frequency_hz").text(), "fast");
  EXPECT_FALSE(get<QuantityField>("measured frequency_hz").problem().isEmpty());
  EXPECT_EQ(design().measurements.size(), 2u);
}

TEST_F(Tune, the_loaded_school_tunes_lower) {
  const double silent = *analysis().tuned_tap_turns;
  auto& target = get<QComboBox>("tune target");
  target.setCurrentIndex(1);
  Q_EMIT target.activated(1);
  settle();
  EXPECT_GT(*analysis().tuned_tap_turns, silent);
  EXPECT_THAT(analysis().target_source, HasSubstr("streamers"));
}

TEST_F(Tune, a_row_of_the_clip_table_moves_the_clip) {
  auto& taps = get<QTableWidget>("tap table");
  Q_EMIT taps.cellActivated(19, 0); // turn 10
  settle();
  EXPECT_DOUBLE_EQ(design().primary.tap_turns, 10);
}

} // namespace
