// Bridge and Gate through the window: the path, the burst, the map, dragged bursts, sheets.
#include "crafts/bridges/bridge.h"
#include "crafts/bridges/bridge_path.h"
#include "crafts/bridges/pulse_view.h"
#include "support.h"

#include <QComboBox>
#include <QDialog>
#include <QMenu>
#include <QStackedWidget>
#include <QTableWidget>
#include <qcustomplot.h>

using testing::HasSubstr;

namespace {

class BridgeWindow : public WindowTest {
 protected:
  void open(const char* kind, const char* stage) {
    window().open_demo(kind);
    show(stage);
  }
  void show(const char* stage) {
    show_stage(stage);
    settle();
  }
  void settle() {
    document().wait_for_analysis();
    document().wait_for_simulation();
    QApplication::processEvents();
  }
  std::string text(const char* label) { return get<QLabel>(label).text().toStdString(); }
  std::shared_ptr<const arc::BridgeAnalysis> bridge() { return document().power_of<arc::BridgeAnalysis>(); }
  void drag(QWidget& widget, QPointF from, QPointF to) {
    const auto send = [&](QEvent::Type type, QPointF at, Qt::MouseButton button, Qt::MouseButtons buttons) {
      QMouseEvent event(type, at, widget.mapToGlobal(at), button, buttons, Qt::NoModifier);
      QApplication::sendEvent(&widget, &event);
    };
    send(QEvent::MouseButtonPress, from, Qt::LeftButton, Qt::LeftButton);
    for (int i = 1; i <= 6; ++i) send(QEvent::MouseMove, from + (to - from) * i / 6, Qt::NoButton, Qt::LeftButton);
    send(QEvent::MouseButtonRelease, to, Qt::LeftButton, Qt::NoButton);
  }
};

TEST_F(BridgeWindow, shows_the_whole_path_and_what_stands_at_each_part) {
  open("bridge", "bridge");
  auto& path = get<BridgePath>("bridge path");
  QStringList titles;
  for (const BridgePath::Part& part : path.parts()) {
    titles << part.title;
    EXPECT_FALSE(part.value.isEmpty()) << part.title.toStdString();
    EXPECT_FALSE(part.hot) << part.title.toStdString();
  }
  EXPECT_EQ(titles, QStringList({"Mains", "Rectifier", "Reservoir", "Half bridge", "Primary", "Resonator",
                                 "Antenna", "Driver", "Gate transformer", "Gates"}));
  EXPECT_THAT(text("bridge verdict"), HasSubstr("at the top"));
  EXPECT_GT(get<QTableWidget>("burst figures").rowCount(), 12);
  open("dual-resonant", "bridge");
  EXPECT_EQ(path.parts()[4].title, "Tank");
  EXPECT_THAT(path.parts()[3].title.toStdString(), HasSubstr("Full"));
  // What is no band is said: tolerances may take it to its other pole or let the limit trip later.
  EXPECT_THAT(text("bridge reason"), HasSubstr("Within tolerances it may take its other pole, near 12"));
  EXPECT_THAT(text("bridge reason"), HasSubstr(", or burst for 1"));
}

TEST_F(BridgeWindow, a_part_of_the_path_brings_its_fields_by_key_and_by_finding) {
  open("bridge", "bridge");
  auto& path = get<BridgePath>("bridge path");
  auto& pages = get<QStackedWidget>("bridge fields");
  EXPECT_EQ(pages.currentIndex(), 0);
  path.setFocus();
  for (int i = 0; i < 3; ++i) QTest::keyClick(&path, Qt::Key_Right);
  EXPECT_TRUE(get<QComboBox>("switch class").isVisible());
  window().workspace().go_to("bridge", "bridge.antenna_length_m");
  QApplication::processEvents();
  EXPECT_TRUE(get<QLineEdit>("bridge.antenna_length_m").isVisible());
}

TEST_F(BridgeWindow, a_swapped_end_is_found_and_put_right_by_one_press) {
  open("bridge", "bridge");
  const double before = bridge()->burst.top_peak_v;
  document().edit("Ends", [](arc::Design& d) { d.bridge.reversed = true; });
  settle();
  EXPECT_THAT(text("bridge verdict"), HasSubstr("does not lock"));
  const auto& all = document().findings();
  const auto it = std::ranges::find(all, "does-not-lock", &arc::Finding::id);
  ASSERT_NE(it, all.end());
  EXPECT_TRUE(document().remedy(*it));
  settle();
  EXPECT_NEAR(bridge()->burst.top_peak_v, before, 1e-6 * before);
  document().history().undo();
  document().history().undo();
  EXPECT_FALSE(design().bridge.reversed);
}

TEST_F(BridgeWindow, a_change_that_would_stop_stands_below_and_cannot_be_made) {
  open("bridge", "bridge");
  document().edit("no feed, a dead time at its limit", [](arc::Design& d) {
    d.feed.clear(); // then the list offers a doubler, for a bus that these switches do not stand
    d.bridge.device.voltage_rating_v = 450;
  });
  document().wait_for_simulation();
  QApplication::processEvents();
  auto& changes = get<QTableWidget>("bridge changes");
  const auto& make = get<QPushButton>("make bridge change");
  int stopped = 0;
  for (int i = 0; i < changes.rowCount(); ++i) {
    const bool stops = changes.item(i, 0)->text().contains("Stop: ");
    stopped += stops;
    EXPECT_TRUE(stops || stopped == 0) << "what stops stands below";
    changes.selectRow(i);
    if (stops) {
      EXPECT_FALSE(make.isEnabled());
      EXPECT_THAT(make.toolTip().toStdString(), HasSubstr("stop"));
    }
  }
  EXPECT_GT(stopped, 0);
}

TEST_F(BridgeWindow, fewer_turns_draw_more_and_the_change_is_made_by_a_button) {
  open("bridge", "bridge");
  const double before = bridge()->burst.bus_j;
  document().edit("Turns", [](arc::Design& d) { d.primary.turns = d.primary.tap_turns = 8; });
  settle();
  EXPECT_GT(bridge()->burst.bus_j, before);
  auto& changes = get<QTableWidget>("bridge changes");
  ASSERT_GT(changes.rowCount(), 3);
  changes.selectRow(0);
  const arc::Design now = design();
  get<QPushButton>("make bridge change").click();
  EXPECT_NE(design(), now);
}

TEST_F(BridgeWindow, the_map_is_drawn_and_a_place_on_it_taken) {
  open("bridge", "bridge");
  get<QPushButton>("bridge map").click();
  auto& take = get<QPushButton>("take map point");
  ASSERT_TRUE(QTest::qWaitFor([&] { return take.isEnabled(); }, 60000));
  EXPECT_THAT(text("bridge cursor"), HasSubstr("power in the burst"));
  const double height = design().primary.base_height_m;
  take.click();
  EXPECT_NEAR(design().primary.base_height_m, height, 0.02);
  document().history().undo();
  EXPECT_EQ(design().primary.base_height_m, height);
}

TEST_F(BridgeWindow, a_class_of_switch_and_a_data_sheet_change_the_law) {
  open("bridge", "bridge");
  auto& box = get<QComboBox>("switch class");
  box.setCurrentIndex(3);
  Q_EMIT box.activated(3);
  EXPECT_EQ(design().bridge.device.type, arc::SwitchType::igbt);
  window().workspace().go_to("bridge", "bridge.dead_time_s");
  get<QPushButton>("switch numbers").click();
  auto* sheet = window().findChild<QDialog*>("switch sheet");
  ASSERT_TRUE(sheet);
  sheet->findChild<QPushButton*>("take switch")->click();
  EXPECT_NEAR(design().bridge.device.slope_ohm, 0.5 / 25, 1e-9);
  sheet->findChild<QPushButton*>("close switch sheet")->click();
}

TEST_F(BridgeWindow, an_on_time_dragged_into_its_limit_says_why_it_stops) {
  open("bridge", "gate");
  auto& view = get<PulseView>("pulse view");
  EXPECT_THAT(text("gate said"), HasSubstr("Within all limits"));
  const QPointF edge = view.edge_place();
  drag(view, edge, {view.width() - 34.0, edge.y()});
  EXPECT_GT(design().interrupter.on_time_s, 300e-6);
  EXPECT_THAT(text("gate said"), HasSubstr("is held at 300 µs"));
  settle();
  EXPECT_NEAR(bridge()->plan.on_s, 300e-6, 1e-12);
  document().history().undo(); // one drag is one step
  EXPECT_NEAR(design().interrupter.on_time_s, 150e-6, 1e-12);
}

TEST_F(BridgeWindow, rate_and_phase_are_dragged_and_stepped_by_keys) {
  open("bridge", "gate");
  auto& view = get<PulseView>("pulse view");
  const QPointF burst = view.burst_place();
  drag(view, burst, burst + QPointF(20, 0));
  EXPECT_LT(design().interrupter.rate_hz, 150);
  auto& mode = get<QComboBox>("interrupter.mode");
  mode.setCurrentIndex(1);
  Q_EMIT mode.activated(1);
  settle();
  EXPECT_TRUE(design().interrupter.locked);
  drag(view, view.burst_place(), view.burst_place() + QPointF(15, 0));
  EXPECT_GT(design().interrupter.phase_deg, 0);
  view.setFocus();
  const double on = design().interrupter.on_time_s;
  QTest::keyClick(&view, Qt::Key_Right);
  EXPECT_GT(design().interrupter.on_time_s, on);
  const double phase = design().interrupter.phase_deg;
  QTest::keyClick(&view, Qt::Key_Up);
  EXPECT_GT(design().interrupter.phase_deg, phase);
}

TEST_F(BridgeWindow, timers_have_parts_and_say_what_they_cover) {
  open("bridge", "gate");
  get<QPushButton>("timer circuits").click();
  auto* sheet = window().findChild<QDialog*>("timer sheet");
  ASSERT_TRUE(sheet);
  auto* parts = sheet->findChild<QTableWidget*>("timer parts");
  EXPECT_GT(parts->rowCount(), 8);
  EXPECT_THAT(sheet->findChild<QLabel*>("timer words")->text().toStdString(), HasSubstr("On-time"));
  auto* which = sheet->findChild<QComboBox*>("timer circuit");
  which->setCurrentIndex(1);
  Q_EMIT which->activated(1);
  EXPECT_THAT(sheet->findChild<QLabel*>("timer wires")->text().toStdString(), HasSubstr("D1"));
  auto* drawing = sheet->findChild<QWidget*>("timer drawing");
  EXPECT_TRUE(drawing->isVisible());
  const QImage picture = drawing->grab().toImage();
  int inked = 0;
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x) inked += picture.pixel(x, y) != picture.pixel(0, 0);
  EXPECT_GT(inked, 2000) << "something is drawn";
  sheet->findChild<QPushButton*>("close timer sheet")->click();
}

TEST_F(BridgeWindow, the_mains_path_says_bus_ripple_inrush_and_what_the_line_gives) {
  open("bridge", "feed");
  EXPECT_THAT(text("feed verdict"), HasSubstr("Bus of 31"));
  EXPECT_THAT(text("feed reason"), HasSubstr("Switched on at the crest it draws"));
  EXPECT_THAT(text("feed reason"), HasSubstr("The breaker holds"));
  auto& figures = get<QTableWidget>("bus figures");
  QStringList names;
  for (int r = 0; r < figures.rowCount(); ++r) names << figures.item(r, 0)->text();
  for (const char* name : {"Ripple, peak to peak", "Power factor", "Inrush at the crest", "Limiter takes",
                           "Droop over a burst", "… carries, effective"})
    EXPECT_TRUE(names.contains(name)) << name;
  EXPECT_THAT(get<QLabel>("tank joint").accessibleName().toStdString(), HasSubstr("A"));
  for (std::size_t i = 1; i <= design().feed.size(); ++i)
    EXPECT_THAT(get<QLabel>(QString("joint %1").arg(i)).text().toStdString(), HasSubstr("A\n")) << i;
  auto& shows = get<QComboBox>("bus plot shows");
  for (int i = 0; i < shows.count(); ++i) {
    shows.setCurrentIndex(i);
    Q_EMIT shows.activated(i);
    EXPECT_GE(get<QCustomPlot>("bus plot").graphCount(), 2) << i;
  }
}

TEST_F(BridgeWindow, a_lower_variac_lowers_bus_and_burst_and_a_missing_limiter_is_put_right) {
  open("bridge", "feed");
  const double bus = bridge()->circuit.bus_v, top = bridge()->burst.top_peak_v;
  document().edit("Variac", [](arc::Design& d) { d.feed[2].values["setting"] = 0.5; });
  settle();
  EXPECT_NEAR(bridge()->circuit.bus_v, bus / 2, 0.02 * bus);
  EXPECT_LT(bridge()->burst.top_peak_v, 0.7 * top);
  press("undo");
  settle();
  press("block 5");
  press("remove block");
  settle();
  ASSERT_EQ(design().feed.size(), 7u);
  EXPECT_GT(bridge()->mains->inrush_a, 150);
  press("remedy no-inrush-limit");
  settle();
  EXPECT_LT(bridge()->mains->inrush_a, 40);
  EXPECT_EQ(design().feed.size(), 8u);
  press("undo");
  press("undo");
  settle();
  EXPECT_NEAR(bridge()->circuit.bus_v, bus, 1e-6);
}

TEST_F(BridgeWindow, an_empty_path_to_the_bus_offers_its_own_arrangements) {
  open("bridge", "feed");
  document().edit("Empty", [](arc::Design& d) { d.feed.clear(); });
  settle();
  const auto& doubler = get<QPushButton>("start doubled");
  EXPECT_FALSE(doubler.isEnabled());
  EXPECT_THAT(doubler.toolTip().toStdString(), HasSubstr("651 V of bus on switches for 500 V"));
  const auto* again = window().findChild<QAction*>("restart doubled");
  ASSERT_TRUE(again);
  EXPECT_FALSE(again->isEnabled());
  EXPECT_THAT(again->text().toStdString(), HasSubstr("651 V")) << "a menu says why";
  document().edit("Switches", [](arc::Design& d) { d.bridge.device.voltage_rating_v = 1200; });
  settle();
  EXPECT_TRUE(doubler.isEnabled());
  EXPECT_THAT(text("feed verdict"), HasSubstr("Nothing feeds the bus"));
  EXPECT_EQ(window().findChild<QPushButton*>("start sign"), nullptr) << "what a tank is fed by is not offered";
  for (const char* key : {"rectified", "doubled", "plain"}) {
    get<QPushButton>(QString("start ") + key).click();
    settle();
    EXPECT_THAT(text("feed verdict"), HasSubstr("Bus of")) << key;
    document().history().undo();
    settle();
  }
  EXPECT_TRUE(bridge()->problem.empty()) << "the bus is then as entered";
  open("spark-gap", "feed");
  document().edit("Empty", [](arc::Design& d) { d.feed.clear(); });
  settle();
  EXPECT_TRUE(get<QPushButton>("start sign").isVisible());
}

TEST_F(BridgeWindow, a_reservoir_is_taken_from_the_shelf) {
  open("dual-resonant", "feed");
  window().workspace().shelf.edit([](arc::Shelf& shelf) {
    shelf.of("capacitors") = {
        {"electrolytic", {{"capacitance_f", 470e-6}, {"voltage_v", 400}, {"count", 5}, {"polarised", 1}}, {}}};
  });
  press("block 7");
  auto& button = get<QPushButton>("block 7 from shelf");
  Q_EMIT button.menu()->aboutToShow();
  ASSERT_EQ(button.menu()->actions().size(), 1);
  EXPECT_THAT(button.menu()->actions()[0]->text().toStdString(), HasSubstr("5 of electrolytic"));
  button.menu()->actions()[0]->trigger();
  settle();
  EXPECT_NEAR(arc::bus_of(design()).reservoir.capacitance_f, 5 * 470e-6, 1e-9);
  press("undo");
  settle();
  EXPECT_FALSE(get<QLineEdit>("block 7 unit_capacitance_f").text().isEmpty());
}

TEST_F(BridgeWindow, the_bridge_does_not_ask_again_for_what_the_feed_says) {
  open("bridge", "bridge");
  EXPECT_FALSE(get<QLineEdit>("bridge.reservoir_f").isEnabled());
  EXPECT_FALSE(get<QLineEdit>("bridge.reservoir_f").toolTip().isEmpty());
  document().edit("Empty", [](arc::Design& d) { d.feed.clear(); });
  settle();
  EXPECT_TRUE(get<QLineEdit>("bridge.reservoir_f").isEnabled());
}

TEST_F(BridgeWindow, the_tank_of_a_dual_resonant_bridge_is_judged_by_its_limit) {
  open("dual-resonant", "tank");
  EXPECT_TRUE(get<QLineEdit>("tank bridge.current_limit_a").isVisible());
  EXPECT_FALSE(get<QLineEdit>("gap.firing_voltage_v").isVisible());
  EXPECT_EQ(get<QTableWidget>("unit stress").rowCount(), 1);
  open("spark-gap", "tank");
  EXPECT_TRUE(get<QLineEdit>("gap.firing_voltage_v").isVisible());
  open("tube", "tank"); // which has neither limit nor gap
  EXPECT_FALSE(get<QLineEdit>("tank bridge.current_limit_a").isVisible());
  EXPECT_FALSE(get<QLineEdit>("tank interrupter.rate_hz").isVisible());
  EXPECT_FALSE(get<QLineEdit>("gap.firing_voltage_v").isVisible());
}

TEST_F(BridgeWindow, runs_are_logged_with_on_time_and_rate) {
  open("bridge", "fire");
  ASSERT_GE(design().runs.size(), 5u);
  EXPECT_NEAR(design().runs.back().conditions.at("on_time_s"), 150e-6, 1e-12);
  EXPECT_EQ(arc::kind_of(design()).after_run, "STILL CHARGED") << "the reservoir is";
}

} // namespace
