// What assistive technology reads: roles, names and values of controls and tables, and drawings in words and
// numbers.
#include "crafts/bridges/pulse_view.h"
#include "support.h"
#include "toolkit/cursor_plot.h"
#include "toolkit/map_plot.h"
#include "toolkit/reading_button.h"
#include "toolkit/spoken.h"

#include <QAccessible>
#include <QRegularExpression>
#include <QSet>
#include <QStackedWidget>

using testing::HasSubstr;
using testing::Not;

namespace {

class Spoken : public WindowTest {
 protected:
  void open(const char* kind, const char* stage) {
    window().open_demo(kind);
    settle();
    document().wait_for_simulation();
    show_stage(stage);
    QApplication::processEvents();
  }
  void done() {
    settle();
    document().wait_for_simulation();
    QApplication::processEvents();
  }
};

QString spoken(QWidget& widget, QAccessible::Text kind) {
  return QAccessible::queryAccessibleInterface(&widget)->text(kind);
}

TEST_F(Spoken, what_a_drawing_says_is_what_its_fields_and_readings_say) {
  window().open_demo("tube");
  settle();
  document().wait_for_simulation();
  show_stage("oscillator");
  auto& circuit = get<QWidget>("oscillator circuit");
  const QString leak = get<QLineEdit>("tube.grid_leak_ohm").text();
  EXPECT_TRUE(spoken(circuit, QAccessible::Description).contains("Grid leak: " + leak)) << leak.toStdString();
  circuit.setFocus();
  QSet<QString> walked;
  for (int i = 0; i < 12; ++i) {
    walked << spoken(circuit, QAccessible::Value).section(':', 0, 0);
    QTest::keyClick(&circuit, Qt::Key_Right);
  }
  for (const char* part : {"Supply", "Tank", "Grid leak", "Feedback", "Thyristor", "Resonator"})
    EXPECT_TRUE(walked.contains(part)) << part;

  show_stage("resonator");
  EXPECT_TRUE(
      spoken(coil(), QAccessible::Description).contains(get<QLineEdit>("secondary.winding_length_m").text()));
  coil().setFocus(Qt::TabFocusReason);
  const QString before = spoken(coil(), QAccessible::Value);
  QTest::keyClick(&coil(), Qt::Key_Up);
  settle();
  EXPECT_NE(spoken(coil(), QAccessible::Value), before);
  EXPECT_EQ(spoken(coil(), QAccessible::Value).section(',', 0, 0), before.section(',', 0, 0)) << "the same handle";
}

TEST_F(Spoken, the_place_of_a_plots_cursor_is_read_with_every_curve_there) {
  show_stage("switch");
  document().wait_for_simulation();
  QApplication::processEvents();
  auto* plot = get<QStackedWidget>("canvas").currentWidget()->findChild<CursorPlot*>();
  ASSERT_TRUE(plot);
  plot->setFocus();
  QTest::keyClick(plot, Qt::Key_Right);
  const QString first = plot->at_cursor();
  for (int i = 0; i < plot->graphCount(); ++i) EXPECT_TRUE(first.contains(plot->graph(i)->name())) << i;
  // The number behind the first curve's name is the curve's own there.
  const QCPGraph& graph = *plot->graph(0);
  double nearest = 1e300, value = 0;
  for (const QCPGraphData& point : *graph.data())
    if (std::abs(point.key - plot->cursor()) < nearest) {
      nearest = std::abs(point.key - plot->cursor());
      value = point.value;
    }
  EXPECT_TRUE(first.contains(QString::number(value, 'g', 4))) << first.toStdString() << " without " << value;
  QTest::keyClick(plot, Qt::Key_Right, Qt::ShiftModifier);
  EXPECT_NE(plot->at_cursor(), first);
}

TEST_F(Spoken, bursts_are_read_with_what_the_limits_left_of_them) {
  open("bridge", "gate");
  auto& pulses = get<PulseView>("pulse view");
  const QString before = spoken(pulses, QAccessible::Description);
  EXPECT_THAT(before.toStdString(), HasSubstr("bursts of 150 µs"));
  EXPECT_THAT(before.toStdString(), HasSubstr("primary to "));
  pulses.setFocus();
  QTest::keyClick(&pulses, Qt::Key_Right);
  done();
  EXPECT_THAT(spoken(pulses, QAccessible::Description).toStdString(), HasSubstr("bursts of 153 µs"));
  type_into("interrupter.on_time_s", "900 µs");
  done();
  const std::string limited = spoken(pulses, QAccessible::Description).toStdString();
  EXPECT_THAT(limited, HasSubstr("longest allowed 300 µs"));
  EXPECT_THAT(limited, Not(HasSubstr("bursts of 900 µs"))) << "what happens, not what is asked";
}

TEST_F(Spoken, staccato_is_read_as_asked_and_as_it_happens) {
  open("tube", "staccato");
  auto& view = get<QWidget>("staccato view");
  const std::string said = spoken(view, QAccessible::Description).toStdString();
  EXPECT_THAT(said, HasSubstr("asked: a pulse of 200 µs every 3 mains cycles, 60° after"));
  EXPECT_THAT(said, HasSubstr("conducts from 3.3"));
  EXPECT_THAT(said, HasSubstr("top to "));
  document().edit("Free", [](arc::Design& d) { d.interrupter.locked = false; });
  done();
  EXPECT_THAT(spoken(view, QAccessible::Description).toStdString(), HasSubstr("every "));
  document().edit("None", [](arc::Design& d) { d.tube.staccato = false; });
  done();
  EXPECT_THAT(spoken(view, QAccessible::Description).toStdString(), Not(HasSubstr("asked")));
}

TEST_F(Spoken, a_bank_is_read_string_by_string) {
  show_stage("tank");
  auto& bank = get<QWidget>("bank");
  EXPECT_THAT(spoken(bank, QAccessible::Description).toStdString(),
              HasSubstr("10 in series, 1 strings in parallel"));
  EXPECT_THAT(spoken(bank, QAccessible::Description).toStdString(), HasSubstr("68% of their rated volts"));
  EXPECT_TRUE(spoken(bank, QAccessible::Value).isEmpty()) << "none is chosen";
  document().edit("Mixed", [](arc::Design& d) {
    arc::BankSection one;
    one.name = "ceramic";
    one.capacitance_f = 2e-9;
    arc::BankSection two = one;
    two.name = "film";
    two.in_series = 4;
    d.tank.sections = {one, two};
    d.tank.given_as = arc::TankGiven::mixed_bank;
  });
  settle();
  bank.setFocus();
  QTest::keyClick(&bank, Qt::Key_Right);
  EXPECT_TRUE(spoken(bank, QAccessible::Value).startsWith("ceramic"));
  QTest::keyClick(&bank, Qt::Key_Right);
  EXPECT_TRUE(spoken(bank, QAccessible::Name).endsWith("film: 4 in series, 1 strings in parallel"))
      << spoken(bank, QAccessible::Name).toStdString();
  EXPECT_THAT(spoken(bank, QAccessible::Description).toStdString(), HasSubstr("beside"));
}

TEST_F(Spoken, a_map_is_read_at_the_picked_place) {
  open("tube", "oscillator");
  auto& box = get<QComboBox>("tube plot shows");
  box.setCurrentIndex(box.findText("Map: grid leak, feedback turns"));
  Q_EMIT box.activated(box.currentIndex());
  auto& map = get<MapPlot>("tube map");
  ASSERT_TRUE(map.picked());
  const QString before = spoken(map, QAccessible::Value);
  EXPECT_TRUE(before.contains(map.xAxis->label()) && before.contains(map.yAxis->label())) << before.toStdString();
  map.setFocus();
  QTest::keyClick(&map, Qt::Key_Left);
  EXPECT_NE(spoken(map, QAccessible::Value), before);
  EXPECT_TRUE(spoken(map, QAccessible::Description).contains(" from "));
}

TEST_F(Spoken, the_path_of_a_bridge_is_walked_part_by_part) {
  open("bridge", "bridge");
  auto& path = get<QWidget>("bridge path");
  path.setFocus();
  QStringList walked;
  for (int i = 0; i < 10; ++i) {
    walked << spoken(path, QAccessible::Value).section(':', 0, 0);
    QTest::keyClick(&path, Qt::Key_Right);
  }
  EXPECT_EQ(walked.mid(0, 6),
            QStringList({"Mains", "Rectifier", "Reservoir", "Half bridge", "Primary", "Resonator"}));
  // What is beyond a limit is said, not only red.
  document().edit("Weak", [](arc::Design& d) { d.bridge.device.pulse_rating_a = 5; });
  done();
  EXPECT_THAT(spoken(path, QAccessible::Description).toStdString(), HasSubstr("beyond its limit"));
}

TEST(part_words, say_only_what_there_is) {
  EXPECT_EQ(part_words("Suppressor", {"50 Ω", ""}, false), "Suppressor: 50 Ω");
  EXPECT_EQ(part_words("Suppressor", {"", ""}, false), "Suppressor");
  EXPECT_EQ(part_words("Tube", {"500 W of 450 W", "peak 2 A"}, true),
            "Tube: 500 W of 450 W, peak 2 A, beyond its limit");
}

TEST(plot_words, give_ranges_and_the_nearest_point_of_each_curve) {
  QCustomPlot plot;
  EXPECT_EQ(plot_readings(plot), "nothing is drawn");
  plot.xAxis->setLabel("Time, ms");
  plot.yAxis->setLabel("Top, kV");
  auto* top = plot.addGraph();
  top->setName("top");
  top->setData({0, 1, 2}, {0, 5, -3}, true);
  EXPECT_EQ(plot_readings(plot), "top (Top, kV), -3 to 5, over Time, ms, 0 to 2");
  EXPECT_EQ(plot_readings_at(plot, 0.4), "Time, ms 0.4, top Top, kV 0");
  EXPECT_EQ(plot_readings_at(plot, 0.6), "Time, ms 0.6, top Top, kV 5");
  EXPECT_EQ(plot_readings_at(plot, 99), "Time, ms 99, top Top, kV -3") << "beyond the last point: the last";
  EXPECT_EQ(plot_readings_at(plot, -99), "Time, ms -99, top Top, kV 0");
  auto* hidden = plot.addGraph();
  hidden->setName("kept");
  hidden->setData({0}, {7}, true);
  hidden->setVisible(false);
  plot.addGraph()->setName("empty");
  EXPECT_EQ(plot_readings_at(plot, 1), "Time, ms 1, top Top, kV 5") << "what is not drawn is not read";
}

} // namespace
