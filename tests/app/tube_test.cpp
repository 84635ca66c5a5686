// Tube coils through the window: the circuit, plots, sheets, feed, gate, first-fault help.
#include "crafts/tubes/staccato_view.h"
#include "crafts/tubes/tube.h"
#include "parts/bank.h"
#include "support.h"
#include "toolkit/circuit_view.h"
#include "toolkit/map_plot.h"

#include <QComboBox>
#include <QDialog>
#include <QTableWidget>
#include <qcustomplot.h>

using testing::HasSubstr;
using testing::Not;

namespace {

class TubeWindow : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    window().open_demo("tube");
    // A short firing period: the stages show the same.
    document().edit("Every cycle", [](arc::Design& d) { d.interrupter.every_cycle = 1; });
    show("oscillator");
  }
  void show(const char* stage) {
    show_stage(stage);
    done();
  }
  void done() {
    document().wait_for_analysis();
    document().wait_for_simulation();
    QApplication::processEvents();
  }
  std::string text(const char* label) { return get<QLabel>(label).text().toStdString(); }
  std::shared_ptr<const arc::TubePower> tube() { return document().power_of<arc::TubePower>(); }
  QString cell(const char* table, const QString& row) {
    auto& t = get<QTableWidget>(table);
    for (int i = 0; i < t.rowCount(); ++i)
      if (t.item(i, 0)->text() == row) return t.item(i, 1)->text();
    return {};
  }
  QDialog& sheet(const char* name) { return get<QDialog>(name); }
};

QRectF box_of(const arc::SchematicBox& b) {
  return {b.left, b.top, b.width, b.height};
}

TEST_F(TubeWindow, the_circuit_shows_every_part_with_what_stands_at_it) {
  QStringList keys;
  for (const arc::SchematicPart& part : get<CircuitView>("oscillator circuit").parts()) {
    keys << QString::fromStdString(part.key);
    EXPECT_FALSE(part.value.empty()) << part.key;
    EXPECT_FALSE(part.hot) << part.key;
    EXPECT_TRUE(part.box.width > 0 && part.words.height > 0) << part.key;
  }
  EXPECT_EQ(keys, QStringList({"supply", "bypass", "tank", "plate coil", "trap", "tube", "feedback", "leak",
                               "thyristor", "resonator"}));
  EXPECT_THAT(text("oscillator verdict"), HasSubstr("at the top"));
  EXPECT_THAT(text("oscillator reason"), HasSubstr("margin"));
  EXPECT_THAT(text("oscillator reason"),
              HasSubstr("lower of its two poles. Within tolerances it may take its other"));
  EXPECT_GT(get<QTableWidget>("tube figures").rowCount(), 11);
  EXPECT_GT(get<QTableWidget>("tube changes").rowCount(), 8);
}

TEST_F(TubeWindow, a_push_pull_pair_is_drawn_as_one_and_says_what_it_wants) {
  type_into("tube.in_parallel", "1");
  auto& pair = get<QComboBox>("tube.pair");
  pair.setCurrentIndex(1);
  Q_EMIT pair.activated(1);
  done();
  ASSERT_TRUE(tube()->circuit.push_pull);
  EXPECT_TRUE(tube()->run.oscillates);
  EXPECT_DOUBLE_EQ(tube()->filament.amps, 2 * design().tube.tube.filament_a);
  const auto& parts = get<CircuitView>("oscillator circuit").parts();
  const auto tubes = std::ranges::find(parts, "tube", &arc::SchematicPart::key);
  ASSERT_NE(tubes, parts.end());
  EXPECT_EQ(tubes->title, "2 tubes");
  for (std::size_t i = 0; i < parts.size(); ++i)
    for (std::size_t k = 0; k < i; ++k)
      EXPECT_FALSE(box_of(parts[i].words).intersects(box_of(parts[k].words)))
          << parts[i].key << " over " << parts[k].key;
  const auto finding = [&](const char* id) {
    const auto all = document().findings();
    return std::ranges::any_of(all, [&](const arc::Finding& f) { return f.id == id; });
  };
  EXPECT_TRUE(finding("tank-without-middle")) << "four capacitors in parallel";
  auto& circuit = get<QComboBox>("tube.circuit");
  circuit.setCurrentIndex(1);
  Q_EMIT circuit.activated(1);
  done();
  EXPECT_TRUE(finding("pair-needs-armstrong"));
  EXPECT_THAT(text("oscillator reason"), HasSubstr("Armstrong"));
}

TEST_F(TubeWindow, a_map_is_read_by_keys_and_a_place_of_it_taken) {
  auto& box = get<QComboBox>("tube plot shows");
  const int leak = box.findText("Map: grid leak, feedback turns");
  ASSERT_GT(leak, 0);
  box.setCurrentIndex(leak);
  Q_EMIT box.activated(leak);
  auto& map = get<MapPlot>("tube map");
  ASSERT_TRUE(map.isVisible());
  EXPECT_FALSE(get<QCustomPlot>("tube plot").isVisible());
  const std::string here = text("tube cursor");
  EXPECT_THAT(here, HasSubstr("output"));
  map.setFocus();
  QTest::keyClick(&map, Qt::Key_Right);
  QTest::keyClick(&map, Qt::Key_Up);
  EXPECT_NE(text("tube cursor"), here);
  const arc::Design before = design();
  press("take from tube map");
  EXPECT_GT(design().tube.grid_leak_ohm, before.tube.grid_leak_ohm);
  EXPECT_GT(design().feedback.turns, before.feedback.turns);
  document().history().undo();
  EXPECT_EQ(design(), before) << "both in one step";
  done();
  EXPECT_EQ(box.currentIndex(), leak) << "the map stays on";
  const int coupling = box.findText("Map: tank capacitance, coupling");
  box.setCurrentIndex(coupling);
  Q_EMIT box.activated(coupling);
  EXPECT_FALSE(get<QPushButton>("take from tube map").isEnabled());
  EXPECT_THAT(get<QPushButton>("take from tube map").toolTip().toStdString(), HasSubstr("move the coil"));
}

TEST_F(TubeWindow, the_circuit_is_saved_as_a_drawing_with_its_words) {
  const QString file = path("circuit.svg");
  choose_file(file);
  get<CircuitView>("oscillator circuit").save();
  QFile written(file);
  ASSERT_TRUE(written.open(QIODevice::ReadOnly));
  const std::string svg = written.readAll().toStdString();
  EXPECT_THAT(svg, HasSubstr("<svg"));
  for (const char* words : {"Grid leak", "Thyristor", "Resonator"}) EXPECT_THAT(svg, HasSubstr(words));
}

TEST_F(TubeWindow, parts_lead_to_their_fields_by_click_and_by_keyboard) {
  auto& view = get<CircuitView>("oscillator circuit");
  const auto& parts = view.parts();
  const auto leak = std::ranges::find(parts, "leak", &arc::SchematicPart::key);
  view.setFocus();
  for (auto i = parts.begin(); i != leak; ++i) QTest::keyClick(&view, Qt::Key_Right);
  QTest::keyClick(&view, Qt::Key_Return);
  QApplication::processEvents();
  EXPECT_EQ(QApplication::focusWidget()->objectName(), "tube.grid_leak_ohm");
  const auto resonator = std::ranges::find(parts, "resonator", &arc::SchematicPart::key);
  const QPointF middle = box_of(resonator->box).center(),
                at(middle.x() * view.width() / 620, middle.y() * view.height() / 268);
  QTest::mouseClick(&view, Qt::LeftButton, {}, at.toPoint());
  QApplication::processEvents();
  EXPECT_TRUE(get<QLineEdit>("secondary.turns").isVisible());
}

TEST_F(TubeWindow, a_larger_grid_leak_cools_the_plate_and_a_single_change_can_be_made) {
  const double before = tube()->run.plate_dissipation_w;
  type_into("tube.grid_leak_ohm", "4k");
  done();
  EXPECT_LT(tube()->run.plate_dissipation_w, before);
  const std::string was = arc::write_design(design());
  auto& changes = get<QTableWidget>("tube changes");
  const auto& make = get<QPushButton>("make tube change");
  int offered = -1;
  for (int i = changes.rowCount() - 1; i >= 0; --i) {
    changes.selectRow(i);
    if (make.isEnabled()) offered = i; // what helps nothing, and what stops, is not offered
  }
  ASSERT_GE(offered, 0);
  changes.selectRow(offered);
  press("make tube change");
  done();
  EXPECT_NE(arc::write_design(design()), was);
}

TEST_F(TubeWindow, reversed_feedback_says_so_and_its_remedy_mends_it) {
  auto& ends = get<QComboBox>("tube.feedback_direction");
  ends.setCurrentIndex(1);
  Q_EMIT ends.activated(1);
  done();
  EXPECT_TRUE(design().tube.reversed);
  EXPECT_THAT(text("oscillator verdict"), HasSubstr("does not oscillate"));
  EXPECT_EQ(get<QTableWidget>("tube changes").item(0, 1)->text(), "starts");
  get<QTableWidget>("tube changes").selectRow(0);
  press("make tube change");
  done();
  EXPECT_FALSE(design().tube.reversed);
  EXPECT_THAT(text("oscillator verdict"), HasSubstr("at the top"));
}

TEST_F(TubeWindow, every_plot_is_drawn_and_read_by_its_cursor) {
  auto& box = get<QComboBox>("tube plot shows");
  auto& plot = get<QCustomPlot>("tube plot");
  for (int i = 0; i < box.count(); ++i) {
    box.setCurrentIndex(i);
    Q_EMIT box.activated(i);
    if (box.itemText(i).startsWith("Map")) continue; // has a test of its own
    ASSERT_GE(plot.graphCount(), 2) << i;
    EXPECT_GT(plot.graph(0)->dataCount(), 10) << i;
    QTest::keyClick(&plot, Qt::Key_Right);
    EXPECT_FALSE(get<QLabel>("tube cursor").text().isEmpty()) << i;
  }
  box.setCurrentIndex(0);
  Q_EMIT box.activated(0);
  press("keep tube run");
  EXPECT_EQ(plot.graphCount(), 3);
}

TEST_F(TubeWindow, a_tube_is_chosen_by_class_or_fitted_to_a_data_sheet) {
  auto& classes = get<QComboBox>("tube class");
  classes.setCurrentIndex(0);
  Q_EMIT classes.activated(0);
  done();
  EXPECT_EQ(design().tube.tube.plate_dissipation_w, 65);
  press("tube numbers");
  auto& fit = sheet("tube sheet");
  EXPECT_EQ(fit.findChild<QCustomPlot*>("tube curves")->graphCount(), 3) << "two grid volts and the points";
  const arc::Tube before = design().tube.tube;
  press("take tube");
  EXPECT_NEAR(design().tube.tube.mu, before.mu, 0.05 * before.mu) << "its own points give the tube back";
  type_into("tube 3: plate current", "5 A");
  press("take tube");
  EXPECT_THAT(text("tube problem"), HasSubstr("point 3"));
  auto& grids = get<QComboBox>("tube.grids");
  grids.setCurrentIndex(1);
  Q_EMIT grids.activated(1);
  QApplication::processEvents();
  EXPECT_THAT(text("equivalent triode"), HasSubstr("triode"));
  press("close tube sheet");
}

TEST_F(TubeWindow, seldom_changed_parts_have_a_sheet_of_their_own) {
  press("tube parts");
  type_into("tube.supply_voltage_v", "3.5 kV");
  type_into("tube.lamp_hot_ohm", "40");
  press("close parts sheet");
  done();
  EXPECT_EQ(design().tube.supply_voltage_v, 3500);
  EXPECT_GT(tube()->circuit.feedback_ohm, 0.1);
  EXPECT_FALSE(tube()->on_mains && !design().tube.staccato);
}

TEST_F(TubeWindow, a_low_window_shows_the_circuit_or_the_plot) {
  window().resize(1024, 700);
  QApplication::processEvents();
  auto& seen = get<QPushButton>("circuit seen");
  ASSERT_TRUE(seen.isVisible());
  EXPECT_TRUE(get<CircuitView>("oscillator circuit").isVisible());
  EXPECT_FALSE(get<QCustomPlot>("tube plot").isVisible());
  press("circuit seen");
  EXPECT_FALSE(get<CircuitView>("oscillator circuit").isVisible());
  EXPECT_TRUE(get<QCustomPlot>("tube plot").isVisible());
  window().resize(1280, 800);
  QApplication::processEvents();
  EXPECT_TRUE(get<CircuitView>("oscillator circuit").isVisible());
}

TEST_F(TubeWindow, a_flame_coil_has_its_own_circuit_fields_and_warning) {
  window().open_demo("flame");
  show("oscillator");
  QStringList keys;
  for (const arc::SchematicPart& part : get<CircuitView>("oscillator circuit").parts())
    keys << QString::fromStdString(part.key);
  EXPECT_EQ(keys, QStringList({"supply", "plate coil", "tube", "grid resistor", "feedback", "resonator", "flame"}));
  const auto& flame = get<CircuitView>("oscillator circuit").parts().back();
  EXPECT_THAT(flame.title, HasSubstr("not isolated"));
  EXPECT_THAT(text("oscillator verdict"), HasSubstr("MHz"));
  EXPECT_FALSE(get<QLineEdit>("feedback.turns").isVisible());
  const double before = tube()->run.grid_bias_v;
  type_into("flame.grid_resistor_ohm", "20k");
  done();
  EXPECT_LT(tube()->run.grid_bias_v, before);
  type_into("flame.plate_self_f", "6"); // an empty field means what it shows: picofarads
  EXPECT_NEAR(design().flame.plate_self_f.value_or(0), 6e-12, 1e-20);
  done();
  EXPECT_NEAR(tube()->circuit.tank_f, 6e-12, 1e-20);
  type_into("flame bypass", "2.2n");
  EXPECT_NEAR(design().tube.bypass_f, 2.2e-9, 1e-18);
  auto& box = get<QComboBox>("tube plot shows");
  EXPECT_EQ(box.itemText(2), "Over the feedback plate");
  for (int i = 0; i < box.count(); ++i) {
    box.setCurrentIndex(i);
    Q_EMIT box.activated(i);
    if (box.itemText(i).startsWith("Map"))
      EXPECT_GT(get<MapPlot>("tube map").shown_range().upper, 10) << "watts, though some places do not swing";
    else
      EXPECT_GE(get<QCustomPlot>("tube plot").graphCount(), 2) << i;
  }
  show("feed");
  EXPECT_THAT(text("feed verdict"), HasSubstr("into the plate coil"));
}

TEST_F(TubeWindow, the_filament_is_planned) {
  press("filament");
  EXPECT_THAT(text("filament plan"), HasSubstr("within 5 %"));
  type_into("tube.filament_supply_v", "12 V");
  EXPECT_THAT(text("filament plan"), HasSubstr("in series"));
  EXPECT_THAT(text("filament plan"), Not(HasSubstr("within 5 %")));
  type_into("tube.filament_supply_v", "9 V");
  EXPECT_THAT(text("filament plan"), HasSubstr("too low"));
  press("close filament sheet");
}

TEST_F(TubeWindow, the_gate_shows_what_is_asked_and_what_happens) {
  show("staccato");
  EXPECT_THAT(text("staccato verdict"), HasSubstr("% of the time"));
  EXPECT_THAT(text("staccato reason"), HasSubstr("until its current passes zero"));
  EXPECT_GT(get<QTableWidget>("staccato figures").rowCount(), 8);
  auto& view = get<StaccatoView>("staccato view");
  view.setFocus();
  QTest::keyClick(&view, Qt::Key_Right);
  EXPECT_EQ(design().interrupter.phase_deg, 65);
  QTest::keyClick(&view, Qt::Key_Left, Qt::ShiftModifier);
  EXPECT_EQ(design().interrupter.phase_deg, 50);
  EXPECT_FALSE(get<QLineEdit>("interrupter.rate_hz").isEnabled());
  auto& mode = get<QComboBox>("interrupter.mode");
  mode.setCurrentIndex(0);
  Q_EMIT mode.activated(0);
  done();
  EXPECT_TRUE(get<QLineEdit>("interrupter.rate_hz").isEnabled());
  EXPECT_FALSE(get<QLineEdit>("interrupter.phase_deg").isEnabled());
  auto& on = get<QComboBox>("tube.staccato");
  on.setCurrentIndex(0);
  Q_EMIT on.activated(0);
  done();
  EXPECT_THAT(text("staccato verdict"), HasSubstr("runs through"));
  EXPECT_FALSE(get<QLineEdit>("tube.thyristor_hold_a").isEnabled());
  EXPECT_THAT(get<QLineEdit>("tube.thyristor_hold_a").toolTip().toStdString(), HasSubstr("thyristor"));
  press("staccato timers");
  get<QDialog>("timer sheet").close();
}

TEST_F(TubeWindow, quick_figures_follow_an_edit_before_the_full_run_does) {
  EXPECT_THAT(text("tube quick"), HasSubstr("by balance"));
  const std::string before = text("tube quick");
  auto& leak = get<QLineEdit>("tube.grid_leak_ohm");
  leak.setFocus();
  leak.selectAll();
  QTest::keyClicks(&leak, "3k");
  QTest::keyClick(&leak, Qt::Key_Return);
  document().wait_for_analysis();
  QApplication::processEvents();
  EXPECT_NE(text("tube quick"), before);
  done();
}

TEST_F(TubeWindow, the_gates_drive_is_worked_out_from_the_instrument_at_hand) {
  show("staccato");
  press("gate drive sheet button");
  EXPECT_THAT(text("gate drive words"), HasSubstr("10 mA"));
  EXPECT_THAT(text("gate drive words"), HasSubstr("fibre")) << "more than five kilovolts lie between";
  EXPECT_GE(get<QTableWidget>("gate drive parts").rowCount(), 5);
  type_into("gate drive source volts", "12 V");
  EXPECT_GE(get<QTableWidget>("gate drive parts").rowCount(), 5);
  type_into("gate drive source volts", "1 V");
  EXPECT_THAT(text("gate drive problem"), HasSubstr("diode"));
  EXPECT_EQ(get<QTableWidget>("gate drive parts").rowCount(), 0);
  press("close gate drive");
}

TEST_F(TubeWindow, an_empty_feed_offers_the_supplies_of_tubes_and_direct_current_stands_in_for_it) {
  document().edit("No feed", [](arc::Design& d) { d.feed.clear(); });
  show("feed");
  EXPECT_THAT(text("feed verdict"), HasSubstr("Nothing feeds the plate"));
  press("start shifted");
  done();
  EXPECT_EQ(design().feed.back().kind, "level-shifter");
  EXPECT_THAT(text("feed verdict"), HasSubstr("into the plate coil"));
  EXPECT_GT(get<QTableWidget>("plate feed figures").rowCount(), 6);
  auto& box = get<QComboBox>("plate feed plot shows");
  for (int i = 0; i < box.count(); ++i) {
    box.setCurrentIndex(i);
    Q_EMIT box.activated(i);
    EXPECT_GE(get<QCustomPlot>("plate feed plot").graphCount(), 1);
  }
  document().edit("Direct current", [](arc::Design& d) { d.tube.supply_voltage_v = 3000; });
  done();
  EXPECT_THAT(text("feed verdict"), HasSubstr("Direct current of 3 kV"));
}

TEST_F(TubeWindow, what_cannot_be_simulated_says_why_on_every_stage) {
  document().edit("No feed", [](arc::Design& d) { d.feed.clear(); });
  done();
  for (const char* stage : {"oscillator", "staccato"}) {
    show(stage);
    EXPECT_THAT(text((std::string(stage) + " reason").c_str()), HasSubstr("no feed yet")) << stage;
  }
}

// Tube builders add and take away tank capacitors until the output peaks.
TEST_F(TubeWindow, a_tank_capacitor_is_added_and_taken_away_where_it_is_drawn) {
  show("tank");
  const double before = design().tank.units_in_parallel;
  ASSERT_GT(before, 1);
  const double hz = analysis().tank_hz;
  press("string more");
  EXPECT_EQ(design().tank.units_in_parallel, before + 1);
  EXPECT_LT(analysis().tank_hz, hz);
  EXPECT_THAT(get<QPushButton>("string more").toolTip().toStdString(), HasSubstr("nF"));
  auto& bank = get<QWidget>("bank");
  bank.setFocus();
  QTest::keyClick(&bank, Qt::Key_Minus);
  settle();
  EXPECT_EQ(design().tank.units_in_parallel, before);
  QTest::keyClick(&bank, Qt::Key_Plus);
  settle();
  EXPECT_EQ(design().tank.units_in_parallel, before + 1);
  type_into("tank.units_in_parallel", "1");
  EXPECT_FALSE(get<QPushButton>("string fewer").isEnabled());
  EXPECT_THAT(get<QPushButton>("string fewer").toolTip().toStdString(), HasSubstr("last string"));
  QTest::keyClick(&bank, Qt::Key_Minus);
  settle();
  EXPECT_EQ(design().tank.units_in_parallel, 1);
  document().edit("One value", [](arc::Design& d) { arc::give_tank(d.tank, arc::TankGiven::one_value); });
  settle();
  EXPECT_FALSE(get<QPushButton>("string more").isVisible());
}

} // namespace
