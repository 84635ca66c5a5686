// From a brief to a taken proposal, through the window.
#include "brief/proposals_view.h"
#include "support.h"

#include <QHeaderView>

namespace {

using testing::HasSubstr;

class BriefSheetSeen : public WindowTest {
 protected:
  QDialog& open_brief() {
    show_stage("start");
    press("start brief");
    sheet_ = open_sheet();
    if (!sheet_) throw std::runtime_error("no sheet");
    choose("brief effort", 0);
    return *sheet_;
  }
  template <typename T>
  T& in(const char* name) {
    T* found = sheet_->findChild<T*>(name);
    if (!found) throw std::runtime_error(std::string("nothing called ") + name);
    return *found;
  }
  void choose(const char* box, int index) {
    in<QComboBox>(box).setCurrentIndex(index);
    Q_EMIT in<QComboBox>(box).activated(index);
  }
  void choose_kind(const char* key) { choose("brief kind", in<QComboBox>("brief kind").findData(key)); }
  void enter(const char* field, const char* text) {
    auto& edit = in<QLineEdit>(field);
    edit.setFocus();
    edit.selectAll();
    QTest::keyClicks(&edit, text);
    QTest::keyClick(&edit, Qt::Key_Tab);
  }
  void wait_for_search() {
    auto& run = in<QPushButton>("propose");
    for (int i = 0; i < 6000 && !run.isEnabled(); ++i) QTest::qWait(20);
    ASSERT_TRUE(run.isEnabled());
  }
  void propose() {
    QTest::mouseClick(&in<QPushButton>("propose"), Qt::LeftButton);
    wait_for_search();
  }
  std::string words() { return in<QLabel>("proposals words").text().toStdString(); }

  QDialog* sheet_ = nullptr;
};

TEST_F(BriefSheetSeen, a_size_becomes_designs_and_one_of_them_is_taken) {
  open_brief();
  choose_kind("bridge");
  choose("brief size", 2);
  EXPECT_EQ(in<QLineEdit>("brief height_m").text(), "1 m");
  EXPECT_FALSE(in<QPushButton>("take proposal").isEnabled());
  EXPECT_THAT(in<QPushButton>("take proposal").toolTip().toStdString(), HasSubstr("Choose"));
  propose();
  auto& table = in<QTableWidget>("proposals");
  auto& view = in<ProposalsView>("proposals view");
  ASSERT_GE(table.rowCount(), 2) << words();
  EXPECT_EQ(view.chosen(), table.currentRow());
  EXPECT_TRUE(view.readings().contains(table.item(1, 0)->text()));
  QTest::mouseClick(&view, Qt::LeftButton, {},
                    QPoint(view.width() * 3 / (2 * table.rowCount()), view.height() / 2));
  EXPECT_EQ(table.currentRow(), 1);
  EXPECT_THAT(in<QLabel>("proposal reason").text().toStdString(), HasSubstr("To buy"));
  const QString character = table.item(1, 0)->text();
  in<QPushButton>("take proposal").click();
  settle();
  document().wait_for_simulation();
  EXPECT_EQ(design().kind, "bridge");
  EXPECT_TRUE(QString::fromStdString(design().name).contains(character));
  EXPECT_TRUE(design().examples.empty());
  EXPECT_LE(design().secondary.base_height_m + design().secondary.winding_length_m, 1.0);
  for (const arc::Finding& f : document().findings()) EXPECT_NE(f.severity, arc::Severity::stop) << f.title;
}

TEST_F(BriefSheetSeen, first_proposals_stand_there_while_the_search_goes_on_and_wait_to_be_judged) {
  open_brief();
  choose_kind("bridge");
  choose("brief effort", 2);
  QTest::mouseClick(&in<QPushButton>("propose"), Qt::LeftButton);
  auto& table = in<QTableWidget>("proposals");
  ASSERT_TRUE(QTest::qWaitFor([&] { return table.rowCount() > 0; }, 60000));
  EXPECT_FALSE(in<QPushButton>("propose").isEnabled()) << "it goes on";
  EXPECT_FALSE(in<QPushButton>("take proposal").isEnabled());
  EXPECT_THAT(in<QPushButton>("take proposal").toolTip().toStdString(), HasSubstr("judged"));
  EXPECT_THAT(words(), HasSubstr("so far"));
  in<QPushButton>("cancel proposals").click();
}

TEST_F(BriefSheetSeen, a_proposal_is_kept_as_a_variant_and_what_differs_is_marked) {
  open_brief();
  choose_kind("bridge");
  propose();
  auto& table = in<QTableWidget>("proposals");
  ASSERT_GE(table.rowCount(), 2) << words();
  auto& view = in<ProposalsView>("proposals view");
  QTest::mouseMove(&view, QPoint(view.width() * 3 / (2 * table.rowCount()), view.height() / 2));
  Q_EMIT view.pointed_at(1);
  int marked = 0;
  for (int c = 0; c < table.columnCount(); ++c) marked += table.item(1, c)->font().bold();
  EXPECT_GT(marked, 0) << "they differ by a tenth at least";
  for (int c = 0; c < table.columnCount(); ++c) EXPECT_FALSE(table.item(0, c)->font().bold());
  const arc::Design before = design();
  in<QPushButton>("keep proposal").click();
  ASSERT_EQ(design().variants.size(), 1u);
  EXPECT_EQ(design().variants[0].name, table.item(0, 0)->text().toStdString());
  EXPECT_EQ(design().variants[0].design.get()->kind, "bridge");
  EXPECT_EQ(design().kind, before.kind) << "the design at hand stays";
}

TEST_F(BriefSheetSeen, a_design_without_a_file_comes_back_by_undo_and_one_with_a_file_is_left_in_it) {
  window().new_design();
  settle();
  const arc::Design fresh = design();
  open_brief();
  choose_kind("bridge");
  propose();
  ASSERT_GT(in<QTableWidget>("proposals").rowCount(), 0) << words();
  in<QPushButton>("take proposal").click();
  settle();
  EXPECT_EQ(design().kind, "bridge");
  press("undo");
  EXPECT_EQ(design(), fresh);
}

TEST_F(BriefSheetSeen, groups_of_devices_are_asked_for_where_the_kind_has_them_and_an_owned_one_is_used) {
  window().workspace().shelf.edit([](arc::Shelf& shelf) {
    arc::ShelfPart part;
    part.name = "Surplus MOS";
    part.values = {{"voltage_rating_v", 650}, {"current_rating_a", 33}, {"on_ohm", 0.12}, {"count", 4}};
    shelf.of("switches").push_back(part);
  });
  open_brief();
  choose_kind("spark-gap");
  EXPECT_FALSE(in<QComboBox>("brief switches").isVisible());
  EXPECT_FALSE(in<QComboBox>("brief tubes").isVisible());
  choose_kind("bridge");
  EXPECT_TRUE(in<QComboBox>("brief switches").isVisible());
  choose("brief switches", in<QComboBox>("brief switches").findData("Surplus MOS"));
  propose();
  ASSERT_GT(in<QTableWidget>("proposals").rowCount(), 0) << words();
  EXPECT_THAT(in<QLabel>("proposal reason").text().toStdString(), HasSubstr("Surplus MOS"));
  in<QPushButton>("keep proposal").click();
  const arc::BridgeSwitch& used = design().variants.back().design.get()->bridge.device;
  EXPECT_EQ(used.type, arc::SwitchType::mos) << "an on resistance makes it one";
  EXPECT_EQ(used.on_ohm, 0.12);
}

TEST_F(BriefSheetSeen, by_keyboard_alone_from_start_to_a_taken_design) {
  const std::string before = design().name;
  QTest::keyClick(&window(), Qt::Key_0, Qt::AltModifier);
  settle();
  auto& start = get<QPushButton>("start brief");
  for (int i = 0; i < 60 && QApplication::focusWidget() != &start; ++i)
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
  ASSERT_EQ(QApplication::focusWidget(), &start);
  QTest::keyClick(&start, Qt::Key_Return);
  sheet_ = open_sheet();
  ASSERT_TRUE(sheet_);
  auto& effort = in<QComboBox>("brief effort");
  effort.setFocus();
  QTest::keyClick(&effort, Qt::Key_Up);
  EXPECT_EQ(effort.currentIndex(), 0);
  auto& run = in<QPushButton>("propose");
  run.setFocus();
  QTest::keyClick(&run, Qt::Key_Space);
  wait_for_search();
  auto& table = in<QTableWidget>("proposals");
  ASSERT_GE(table.rowCount(), 2);
  EXPECT_EQ(QApplication::focusWidget(), &table) << "the arrows choose at once";
  QTest::keyClick(&table, Qt::Key_Down);
  EXPECT_EQ(in<ProposalsView>("proposals view").chosen(), 1);
  QTest::keyClick(&in<ProposalsView>("proposals view"), Qt::Key_Left);
  EXPECT_EQ(table.currentRow(), 0);
  auto& take = in<QPushButton>("take proposal");
  take.setFocus();
  QTest::keyClick(&take, Qt::Key_Space);
  settle();
  EXPECT_NE(design().name, before);
}

TEST_F(BriefSheetSeen, what_cannot_be_is_said_with_what_lets_one_through) {
  open_brief();
  choose_kind("bridge");
  enter("brief height_m", "200 mm");
  propose();
  EXPECT_EQ(in<QTableWidget>("proposals").rowCount(), 0);
  EXPECT_THAT(words(), HasSubstr("Height 200 mm"));
  EXPECT_THAT(words(), HasSubstr("lets one through"));
  enter("brief height_m", "600 mm");
  propose();
  EXPECT_GT(in<QTableWidget>("proposals").rowCount(), 0) << words();
}

TEST_F(BriefSheetSeen, bad_entries_stay_marked_and_nothing_is_searched) {
  open_brief();
  for (const char* field : {"brief height_m", "brief floor_diameter_m", "brief line_current_a",
                            "brief resonance_low_hz", "brief resonance_high_hz", "brief arc_length_m",
                            "brief mains_voltage_v", "brief ceiling_height_m", "brief wall_distance_m"}) {
    for (const char* text : {"tall", "-3", "1e99"}) {
      auto& edit = in<QuantityField>(field);
      edit.setFocus();
      edit.setText(text);
      QTest::mouseClick(&in<QPushButton>("propose"), Qt::LeftButton);
      EXPECT_TRUE(in<QPushButton>("propose").isEnabled()) << field << text;
      EXPECT_FALSE(edit.problem().isEmpty()) << field << text;
      EXPECT_EQ(edit.text(), text);
    }
    QTest::keyClick(&in<QuantityField>(field), Qt::Key_Escape);
  }
}

TEST_F(BriefSheetSeen, one_group_is_taken_and_undo_brings_the_old_back) {
  const arc::Design before = design();
  open_brief();
  propose();
  ASSERT_GT(in<QTableWidget>("proposals").rowCount(), 0) << words();
  EXPECT_TRUE(in<QPushButton>("take group").isEnabled());
  in<QAction>("take Topload").trigger();
  settle();
  EXPECT_NE(design().topload, before.topload);
  EXPECT_EQ(design().secondary, before.secondary);
  EXPECT_EQ(design().runs, before.runs);
  in<QPushButton>("take proposal").window()->close();
  press("undo");
  settle();
  EXPECT_EQ(design(), before);
}

TEST_F(BriefSheetSeen, a_part_of_the_shelf_is_used_and_a_shelf_without_one_is_named) {
  window().workspace().shelf.edit([](arc::Shelf& shelf) {
    arc::ShelfPart pipe;
    pipe.name = "My drain";
    pipe.values = {{"outside_diameter_m", 0.09}, {"length_m", 0.7}};
    shelf.of("pipes").push_back(pipe);
  });
  open_brief();
  choose_kind("bridge");
  auto& pipes = in<QComboBox>("brief pipes");
  choose("brief pipes", pipes.findData("My drain"));
  propose();
  ASSERT_GT(in<QTableWidget>("proposals").rowCount(), 0) << words();
  EXPECT_THAT(in<QLabel>("proposal reason").text().toStdString(), HasSubstr("From the shelf: My drain"));
  choose("brief wires", 1);
  propose();
  EXPECT_EQ(in<QTableWidget>("proposals").rowCount(), 0);
  EXPECT_THAT(words(), HasSubstr("wires"));
}

TEST_F(BriefSheetSeen, a_search_is_stopped_and_a_heading_sorts) {
  open_brief();
  choose_kind("bridge");
  choose("brief effort", 2);
  QTest::mouseClick(&in<QPushButton>("propose"), Qt::LeftButton);
  EXPECT_FALSE(in<QPushButton>("propose").isEnabled());
  EXPECT_TRUE(in<QPushButton>("cancel proposals").isVisible());
  in<QPushButton>("cancel proposals").click();
  EXPECT_TRUE(in<QPushButton>("propose").isEnabled());
  EXPECT_THAT(words(), HasSubstr("stopped"));
  choose("brief effort", 0);
  propose();
  auto& table = in<QTableWidget>("proposals");
  ASSERT_GE(table.rowCount(), 2);
  constexpr int turns = 7;
  Q_EMIT table.horizontalHeader()->sectionClicked(turns);
  for (int r = 1; r < table.rowCount(); ++r)
    EXPECT_LE(table.item(r - 1, turns)->text().toDouble(), table.item(r, turns)->text().toDouble());
  EXPECT_EQ(table.currentRow(), 0);
}

} // namespace
