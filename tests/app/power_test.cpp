// Feed, Switch and the bank finder through the window.
#include "support.h"

#include "circuit/feed.h"

#include <qcustomplot.h>

using testing::HasSubstr;

namespace {

class Power : public WindowTest {
 protected:
  QString text(const char* label) { return get<QLabel>(label).text(); }
  void add_block(const char* kind) {
    window().findChild<QAction*>(QString("add ") + kind)->trigger();
    settle();
  }
};

TEST_F(Power, the_demo_feed_charges_the_tank_and_every_joint_says_what_it_carries) {
  show_stage("feed");
  ASSERT_TRUE(wait_until([&] { return text("feed verdict").contains("breaks each second"); }));
  EXPECT_THAT(text("feed reason").toStdString(), HasSubstr("The breaker holds"));
  for (std::size_t i = 1; i <= design().feed.size(); ++i)
    EXPECT_FALSE(get<QLabel>(QString("joint %1").arg(i)).text().isEmpty()) << i;
  auto& table = get<QTableWidget>("variac table");
  ASSERT_EQ(table.rowCount(), 7);
  EXPECT_LT(table.item(0, 2)->text().section(' ', 0, 0).toDouble(),
            table.item(6, 2)->text().section(' ', 0, 0).toDouble())
      << "a higher setting takes more power";
  EXPECT_GT(get<QCustomPlot>("charging plot").graphCount(), 1);
}

TEST_F(Power, blocks_are_added_where_they_belong_moved_and_removed) {
  show_stage("feed");
  const std::size_t before = design().feed.size();
  add_block("ballast-inductor");
  ASSERT_EQ(design().feed.size(), before + 1);
  EXPECT_TRUE(arc::feed_problem(design().feed).empty()) << "a ballast goes before the transformer";
  add_block("bridge");
  EXPECT_EQ(design().feed.back().kind, "bridge");
  press(QString("remove block %1").arg(design().feed.size()));
  press("undo");
  press("undo");
  press("undo");
  EXPECT_EQ(design().feed.size(), before);
  const std::string first = design().feed[0].kind;
  press("later block 1");
  EXPECT_EQ(design().feed[1].kind, first);
  EXPECT_FALSE(get<QPushButton>("earlier block 1").isEnabled());
}

TEST_F(Power, a_feed_that_cannot_work_says_why_and_keeps_every_number) {
  show_stage("feed");
  const auto feed = design().feed;
  press("later block 4"); // the transformer behind the protection filter
  ASSERT_TRUE(wait_until([&] { return text("feed verdict").contains("cannot"); }));
  EXPECT_THAT(text("feed reason").toStdString(), HasSubstr("needs a transformer before it"));
  EXPECT_EQ(design().feed.size(), feed.size());
  press("undo");
  EXPECT_EQ(design().feed, feed);
}

TEST_F(Power, a_block_number_takes_any_notation_and_refuses_nonsense) {
  show_stage("feed");
  type_into("block 4 output_v", "9k5");
  EXPECT_DOUBLE_EQ(design().feed[3].values.at("output_v"), 9500);
  type_into("block 4 output_v", "-3 kV");
  EXPECT_DOUBLE_EQ(design().feed[3].values.at("output_v"), 9500);
  EXPECT_FALSE(get<QuantityField>("block 4 output_v").problem().isEmpty());
}

TEST_F(Power, the_shot_is_drawn_read_kept_and_exported) {
  show_stage("switch");
  ASSERT_TRUE(wait_until([&] { return text("shot verdict").contains("at the top"); }));
  EXPECT_THAT(text("shot reason").toStdString(), HasSubstr("nearest coupling of complete transfer"));
  EXPECT_THAT(text("shot cursor").toStdString(), HasSubstr("top"));
  auto& plot = get<QCustomPlot>("top voltage plot");
  const int graphs = plot.graphCount();
  press("keep shot");
  EXPECT_EQ(plot.graphCount(), graphs + 1) << "the kept shot lies behind";
  for (const char* name : {"shot.csv", "shot.svg", "shot.png"}) {
    choose_file(path(name));
    press("export shot");
    EXPECT_GT(QFileInfo(path(name)).size(), 1000) << name;
  }
}

TEST_F(Power, a_later_quench_lets_the_gap_burn_longer) {
  show_stage("switch");
  ASSERT_TRUE(wait_until([&] { return text("shot reason").contains("gap opens at"); }));
  const QString first = text("shot reason");
  auto& notch = get<QComboBox>("quench notch");
  notch.setCurrentIndex(3);
  Q_EMIT notch.activated(3);
  EXPECT_TRUE(wait_until([&] { return text("shot reason") != first; }));
}

TEST_F(Power, the_gap_computes_where_it_fires_and_the_design_takes_it) {
  show_stage("switch");
  type_into("gap.spacing_m", "0.7 mm");
  EXPECT_THAT(get<QPushButton>("adopt firing voltage").text().toStdString(), HasSubstr("Fires at"));
  press("adopt firing voltage");
  EXPECT_GT(design().gap.firing_voltage_v, 8e3);
  EXPECT_LT(design().gap.firing_voltage_v, 14e3);
  type_into("gap.electrode_diameter_m", "");
  EXPECT_FALSE(get<QPushButton>("adopt firing voltage").isEnabled());
  type_into("gap.spacing_m", "0");
  EXPECT_FALSE(get<QuantityField>("gap.spacing_m").problem().isEmpty()) << "zero spacing is no gap";
}

TEST_F(Power, banks_from_the_shelf_are_offered_and_taken) {
  show_stage("tank");
  press("from shelf");
  auto& offers = get<QTableWidget>("bank offers");
  ASSERT_TRUE(wait_until([&] { return offers.rowCount() > 0; }));
  EXPECT_LE(offers.rowCount(), 10);
  type_into("wanted capacitance", "12n");
  type_into("wanted voltage", "15 kV");
  int single = -1;
  ASSERT_TRUE(wait_until([&] {
    for (int r = 0; r < offers.rowCount(); ++r)
      if (!offers.item(r, 0)->text().contains('+')) single = r;
    return single >= 0;
  }));
  offers.selectRow(single);
  press("take bank");
  EXPECT_TRUE(design().tank.unit_capacitance_f);
  EXPECT_LE(analysis().unit_voltage_v, 0.8 * *design().tank.unit_voltage_v);
  EXPECT_NEAR(analysis().tank_capacitance_f, 12e-9, 3e-9);
  QFile bad(path("bad.json"));
  ASSERT_TRUE(bad.open(QIODevice::WriteOnly));
  bad.write("{\"format\":\"high-arc-shelf\"");
  bad.close();
  choose_file(bad.fileName());
  press("open shelf");
  EXPECT_THAT(text("bank verdict").toStdString(), HasSubstr("was not opened"));
  choose_file(path("shelf.csv"));
  press("save shelf");
  choose_file(path("shelf.csv"));
  press("open shelf");
  EXPECT_THAT(text("shelf name").toStdString(), HasSubstr("shelf.csv"));
  type_into("wanted voltage", "900 kV");
  EXPECT_TRUE(wait_until([&] { return text("bank verdict").contains("cannot make"); }));
  EXPECT_FALSE(get<QPushButton>("take bank").isEnabled());
  window().findChild<QDialog*>("bank finder")->close();
}

} // namespace
