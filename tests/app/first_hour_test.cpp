// What a new user meets in the first hour: the first steps, what a stage is, the keys, the size of text, tables and
// labels that can be read; and one whole job, from an empty start to a logged run, without a pointer.
#include "support.h"

#include "coil_views/resonance_ruler.h"
#include "craft/design_fields.h"
#include "file/design_file.h"
#include "model/fields.h"
#include "parts/tube.h"
#include "stages/stage.h"
#include "toolkit/class_box.h"
#include "toolkit/number_columns.h"

#include <QFileInfo>
#include <QHeaderView>
#include <QRegularExpression>
#include <QTableWidget>
#include <random>

namespace {

class FirstHour : public WindowTest {
 protected:
  /// Presses Tab until the control has the cursor; how often it took, or -1.
  int tab_to(const QString& name, int most = 60) {
    for (int k = 0; k <= most; ++k) {
      if (QApplication::focusWidget() && QApplication::focusWidget()->objectName() == name) return k;
      QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : &window(), Qt::Key_Tab);
    }
    return -1;
  }
  void key(Qt::Key k, Qt::KeyboardModifiers with = {}) {
    QWidget* target = QApplication::activeModalWidget() ? QApplication::activeModalWidget() : &window();
    QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : target, k, with);
    QApplication::processEvents();
  }
  void keys(const QString& text) { QTest::keyClicks(QApplication::focusWidget(), text); }
  /// To the stage with this key by Alt and its digit.
  void go(const char* stage) {
    const auto* action = window().findChild<QAction*>(QString("action stage ") + stage);
    const QString shortcut = action->shortcut().toString();
    key(static_cast<Qt::Key>(Qt::Key_0 + shortcut.back().digitValue()), Qt::AltModifier);
    settle();
  }
  /// By Tab from where the cursor is, then typed and taken by Enter.
  void enter(const QString& field, const QString& text) {
    ASSERT_GE(tab_to(field), 0) << field.toStdString();
    keys(text);
    key(Qt::Key_Return);
    settle();
  }
};

TEST_F(FirstHour, three_steps_lead_from_an_empty_design_to_its_tuning) {
  close_window();
  open_window();
  auto& strip = get<QWidget>("first steps");
  EXPECT_TRUE(strip.isVisible());
  EXPECT_THAT(get<QLabel>("first step").text().toStdString(), testing::HasSubstr("Step 1 of 3"));
  press("next first step");
  EXPECT_EQ(stages()[static_cast<std::size_t>(window().stage())].key, "primary");
  EXPECT_EQ(QApplication::focusWidget()->objectName(), "primary.turns");
  window().switch_kind("bridge"); // the step is that of the kind
  settle();
  EXPECT_THAT(get<QLabel>("first step").text().toStdString(), testing::HasSubstr("parts on Bridge"));
  press("next first step");
  EXPECT_EQ(stages()[static_cast<std::size_t>(window().stage())].key, "tune");
  EXPECT_EQ(get<QPushButton>("next first step").text(), "Done");
  press("next first step");
  EXPECT_FALSE(strip.isVisible());
  close_window();
  open_window();
  EXPECT_FALSE(get<QWidget>("first steps").isVisible()) << "seen once is enough";
  window().findChild<QAction*>("action first steps")->trigger();
  EXPECT_TRUE(get<QWidget>("first steps").isVisible());
}

TEST_F(FirstHour, what_nobody_has_typed_stands_as_an_example_until_it_is_typed_or_taken) {
  window().new_design();
  settle();
  show_stage("resonator");
  auto& turns = get<QuantityField>("secondary.turns");
  const QString example = turns.text();
  EXPECT_FALSE(example.isEmpty()) << "it computes as a preview";
  EXPECT_TRUE(turns.is_example());
  EXPECT_TRUE(turns.font().italic());
  EXPECT_THAT(turns.accessibleDescription().toStdString(), testing::HasSubstr("nobody has typed it"));
  EXPECT_TRUE(analysis().resonator);
  EXPECT_THAT(document().findings(), testing::Contains(testing::Field(&arc::Finding::id, "examples")));
  type_into("secondary.turns", "1234");
  EXPECT_FALSE(turns.is_example());
  EXPECT_FALSE(turns.font().italic());
  document().history().undo();
  settle();
  EXPECT_TRUE(turns.is_example());
  EXPECT_EQ(turns.text(), example);
  turns.setFocus();
  key(Qt::Key_Return);
  EXPECT_FALSE(turns.is_example()) << "Enter takes what stands there";
  EXPECT_EQ(turns.text(), example);
  EXPECT_TRUE(document().analysis_is_current()) << "nothing is to be computed for it";
  show_stage("feed");
  for (const QuantityField* field : get<QStackedWidget>("canvas").currentWidget()->findChildren<QuantityField*>())
    if (field->isVisible() && field->objectName().startsWith("block ")) {
      EXPECT_TRUE(field->is_example()) << field->objectName().toStdString();
    }
}

TEST_F(FirstHour, a_coil_of_examples_is_not_armed_until_they_are_taken) {
  window().new_design();
  settle();
  document().wait_for_simulation();
  show_stage("fire");
  auto& arm = get<QPushButton>("arm");
  auto& take = get<QPushButton>("take examples");
  EXPECT_TRUE(take.isVisible());
  EXPECT_FALSE(arm.isEnabled());
  EXPECT_THAT(arm.toolTip().toStdString(), testing::HasSubstr("nobody has typed"));
  for (QCheckBox* box : window().findChildren<QCheckBox*>(QRegularExpression("^check ")))
    if (box->isVisible()) box->click();
  EXPECT_FALSE(arm.isEnabled());
  key(Qt::Key_E, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_FALSE(take.isVisible());
  EXPECT_TRUE(arm.isEnabled()) << arm.toolTip().toStdString();
  document().history().undo();
  EXPECT_FALSE(arm.isEnabled());
  press("take examples");
  EXPECT_TRUE(arm.isEnabled());
}

TEST_F(FirstHour, first_steps_can_be_skipped_and_a_design_that_is_opened_needs_none) {
  close_window();
  open_window();
  EXPECT_TRUE(get<QWidget>("first steps").isVisible());
  window().open_demo("bridge");
  EXPECT_FALSE(get<QWidget>("first steps").isVisible());
  close_window();
  open_window();
  EXPECT_TRUE(get<QWidget>("first steps").isVisible()) << "looking at a demo is not walking them";
  press("skip first steps");
  close_window();
  open_window();
  EXPECT_FALSE(get<QWidget>("first steps").isVisible());
}

TEST_F(FirstHour, every_stage_says_what_it_is_for_in_its_own_words) {
  std::set<QString> said;
  for (const StageSpec& stage : stages()) {
    EXPECT_GT(stage.about.size(), 80) << stage.key.toStdString();
    EXPECT_TRUE(said.insert(stage.about).second) << stage.key.toStdString();
  }
  show_stage("tank");
  press("about stage");
  auto* sheet = window().findChild<QDialog*>("sheet");
  ASSERT_TRUE(sheet);
  EXPECT_THAT(sheet->windowTitle().toStdString(), testing::HasSubstr("Tank"));
  EXPECT_THAT(sheet->findChild<QLabel*>()->text().toStdString(), testing::HasSubstr("The capacitors across"));
}

TEST_F(FirstHour, tab_goes_in_the_order_of_reading_whenever_a_control_was_made) {
  const auto place = [&](const QString& name) {
    const auto stops = window().tab_stops();
    return std::ranges::find(stops, name, [](const QWidget* w) { return w->objectName(); }) - stops.begin();
  };
  show_stage("fire");
  EXPECT_LE(place("check people") - place("fire page Run"), 5);
  press("fire page Notes");
  EXPECT_LT(place("observed arc_length_m"), place("log run"));
  show_stage("feed");
  EXPECT_LE(place("block 1") - place("add block"), 1);
  EXPECT_LT(place("block 1"), place("charging plot"));
  show_stage("resonator");
  press("add topload part");
  EXPECT_LT(place("topload 1 outer_diameter_m"), place("topload shape 2"));
  EXPECT_LT(place("topload shape 2"), place("add topload part")) << "though it was made later";
}

// On every stage of two kinds: what has the cursor looks otherwise than without it.
TEST_F(FirstHour, whatever_has_the_cursor_shows_it) {
  for (const char* kind : {"spark-gap", "tube"}) {
    window().open_demo(kind);
    settle();
    document().wait_for_simulation();
    for (const StageSpec& stage : stages()) {
      if (!belongs_to(stage, arc::kind_of(design()))) continue;
      show_stage(qPrintable(stage.key));
      QApplication::processEvents();
      for (QWidget* stop : window().tab_stops()) {
        if (!stop->visibleRegion().boundingRect().isValid()) continue; // scrolled away
        const QRect place = QRect(stop->mapTo(&window(), QPoint()), stop->size()).adjusted(-3, -3, 3, 3);
        get<QWidget>("canvas").setFocus();
        const QImage without = window().grab(place).toImage();
        stop->setFocus(Qt::TabFocusReason);
        if (QApplication::focusWidget() != stop) continue;
        EXPECT_NE(window().grab(place).toImage(), without)
            << stop->objectName().toStdString() << " on " << kind << " " << stage.key.toStdString();
      }
    }
  }
}

TEST_F(FirstHour, enter_presses_the_button_that_has_the_cursor_and_adds_what_was_typed) {
  get<QPushButton>("units inch").setFocus();
  key(Qt::Key_Return);
  EXPECT_TRUE(get<QPushButton>("units inch").isChecked());
  window().set_units(arc::UnitSystem::metric);
  show_stage("tune");
  const std::size_t before = design().measurements.size();
  auto& note = get<QLineEdit>("measured note");
  note.setFocus();
  keys("nothing to add yet");
  key(Qt::Key_Return);
  EXPECT_EQ(design().measurements.size(), before);
  get<QLineEdit>("measured frequency_hz").setFocus();
  keys("225");
  key(Qt::Key_Return);
  EXPECT_EQ(get<QLineEdit>("measured frequency_hz").text(), "225 kHz") << "first what it is taken for";
  EXPECT_EQ(design().measurements.size(), before);
  key(Qt::Key_Return);
  EXPECT_EQ(design().measurements.size(), before + 1);
  EXPECT_EQ(design().measurements.back().note, "nothing to add yet");
  show_stage("fire");
  press("first fault");
  settle();
}

TEST_F(FirstHour, undo_is_of_the_letters_while_they_are_typed_and_of_the_design_once_they_are_taken) {
  show_stage("primary");
  auto& field = get<QuantityField>("primary.turns");
  const double before = design().primary.turns;
  const QString shown = field.text();
  field.setFocus(Qt::TabFocusReason);
  keys("9");
  key(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(field.text(), shown);
  EXPECT_EQ(design().primary.turns, before);
  keys("9");
  key(Qt::Key_Return);
  settle();
  ASSERT_EQ(design().primary.turns, 9);
  key(Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_EQ(design().primary.turns, before);
  EXPECT_EQ(field.text(), shown);
  key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  settle();
  EXPECT_EQ(design().primary.turns, 9);
  EXPECT_EQ(field.text(), "9");
}

TEST_F(FirstHour, a_walk_through_faults_goes_on_by_enter) {
  window().findChild<QAction*>("action first fault")->trigger();
  auto* sheet = QApplication::activeModalWidget();
  ASSERT_TRUE(sheet);
  const auto place = [&] {
    for (const QLabel* label : sheet->findChildren<QLabel*>())
      if (label->text().startsWith("Question")) return label->text();
    return QString("ended");
  };
  const QString first = place();
  QApplication::setActiveWindow(sheet);
  QApplication::processEvents();
  ASSERT_TRUE(sheet->isAncestorOf(QApplication::focusWidget()));
  const QWidget* at = QApplication::focusWidget();
  key(Qt::Key_Return);
  EXPECT_NE(place(), first) << at->objectName().toStdString();
  sheet->close();
}

TEST_F(FirstHour, a_new_size_can_be_had_at_once_with_the_same_design) {
  QStringList asked{"nobody"};
  window().set_size(125);
  EXPECT_FALSE(get<QPushButton>("start again").isVisible()) << "nobody could start it";
  window().set_restart([&](const QStringList& arguments) { asked = arguments; });
  QString problem;
  ASSERT_TRUE(document().save_as(path("kept.json"), &problem)) << problem.toStdString();
  window().set_size(150);
  EXPECT_TRUE(get<QPushButton>("start again").isVisible());
  press("start again");
  EXPECT_EQ(asked, QStringList{path("kept.json")});
  EXPECT_FALSE(window().isVisible());
}

TEST_F(FirstHour, a_fine_screen_begins_enlarged_and_an_ordinary_one_does_not) {
  EXPECT_EQ(MainWindow::size_for({1024, 768}), 100);
  EXPECT_EQ(MainWindow::size_for({1920, 1080}), 100);
  EXPECT_EQ(MainWindow::size_for({2560, 1440}), 100);
  EXPECT_EQ(MainWindow::size_for({3840, 2160}), 200);
  EXPECT_EQ(MainWindow::size_for({2160, 3840}), 100) << "upright there is no room for the window at twice the size";
  for (int height = 700; height < 6000; height += 37) {
    const QSize screen(height * 16 / 9, height);
    const int size = MainWindow::size_for(screen);
    EXPECT_GE(screen.width() * 100 / size, 1024 * (height >= 700)) << height;
    EXPECT_GE(size, 100);
    EXPECT_LE(size, 200);
  }
}

TEST(number_cells, are_numbers_with_units_and_bands_and_nothing_else) {
  for (const char* yes :
       {"6.5", "13.45 µH", "+0.4 %", "-17.1 %", "226 kHz", "12", "1.2e-9", "225.3 kHz ± 1.1", "40 °C", "2.1 kV/µs"})
    EXPECT_TRUE(is_number_cell(yes)) << yes;
  for (const char* no : {"", "–", "Tank at a tap 10.5", "2026-11-26 21:00", "leads and gap add 493 nH",
                         "6 in series, 2 beside", "10:30"})
    EXPECT_FALSE(is_number_cell(no)) << no;
}

TEST_F(FirstHour, numbers_stand_to_the_right_under_their_heads_and_words_to_the_left) {
  show_stage("tune");
  const auto side = [&](const char* name, int column) {
    return get<QTableWidget>(name).horizontalHeaderItem(column)->textAlignment() & Qt::AlignHorizontal_Mask;
  };
  for (int c = 0; c < 4; ++c) EXPECT_EQ(side("tap table", c), Qt::AlignRight) << c;
  EXPECT_EQ(side("measurements", 0), Qt::AlignLeft);
  EXPECT_EQ(side("measurements", 1), Qt::AlignRight);
  EXPECT_EQ(side("measurements", 4), Qt::AlignLeft);
  // Those with the same digits behind the point end in one line, however many stand before it.
  auto& table = get<QTableWidget>("tap table");
  const auto right_edge = [&](int row, int column) {
    const QRect cell = table.visualItemRect(table.item(row, column));
    const QImage image = table.viewport()->grab(cell.adjusted(0, 4, 0, -4)).toImage();
    const QColor ground = image.pixelColor(0, 0);
    for (int x = image.width() - 1; x > 0; --x)
      for (int y = 0; y < image.height(); ++y)
        if (std::abs(image.pixelColor(x, y).lightness() - ground.lightness()) > 60) return x;
    return 0;
  };
  table.scrollToTop();
  QApplication::processEvents();
  for (int r = 2; r < 8; r += 2) { // 0.5, 1.5, 2.5, …
    ASSERT_EQ(table.item(r, 0)->text().section('.', 1), table.item(0, 0)->text().section('.', 1));
    EXPECT_NEAR(right_edge(r, 0), right_edge(0, 0), 1) << r;
  }
}

TEST(class_words, keep_the_number_that_tells_classes_apart) {
  const QFontMetrics metrics(QApplication::font());
  for (const arc::TubeClass& row : arc::tube_classes()) {
    const QString name = QString::fromUtf8(row.title.data(), static_cast<qsizetype>(row.title.size()));
    EXPECT_EQ(class_words(name, metrics, 2000), name);
    const QString number = name.mid(name.indexOf(QRegularExpression("\\d")));
    EXPECT_TRUE(name.endsWith(class_words(name, metrics, metrics.horizontalAdvance(number) + 2)))
        << qPrintable(name);
    const QString little = class_words(name, metrics, metrics.horizontalAdvance(number.left(6)) + 12);
    EXPECT_TRUE(little.startsWith(number.left(4))) << qPrintable(name) << ": " << qPrintable(little);
  }
}

TEST(ruler_labels, lie_on_nothing_and_stay_in_the_room) {
  std::mt19937 random(20261128);
  std::uniform_real_distribution<double> place(150, 1200);
  int placed = 0;
  for (int i = 0; i < 500; ++i) {
    const double mark = place(random), width = 60 + i % 5 * 60;
    std::vector<ResonanceRuler::Span> taken;
    for (int k = 0; k < i % 6; ++k) {
      const double low = place(random);
      taken.push_back({low, low + 4 + k * 10});
    }
    const double x = ResonanceRuler::beside(mark, width, {146, 1272}, taken);
    EXPECT_GE(x, 146);
    EXPECT_LE(x + width, 1272);
    taken.push_back({mark - 7, mark + 7});
    const auto free = [&](double at) {
      return std::ranges::all_of(taken, [&](const auto& s) { return at + width <= s.low - 3 || at >= s.high + 3; });
    };
    bool any = false; // with some air
    for (double at = 146; at + width <= 1272; at += 0.5) any = any || free(at);
    EXPECT_TRUE(free(x) || !any) << i;
    placed += free(x);
  }
  EXPECT_GT(placed, 400);
}

TEST_F(FirstHour, the_ruler_speaks_what_it_draws) {
  const QString said = get<ResonanceRuler>("ruler").readings();
  for (const char* part : {"coil 22", "with arcs", "tank 235.6 kHz", "4.2 % above 226.1 kHz", "measured"})
    EXPECT_THAT(said.toStdString(), testing::HasSubstr(part));
}

// The guide's jobs in their order, by keyboard only: an empty design becomes a coil of its kind with its feed, is
// measured and tuned, checked, fired and logged, and saved.
struct Job {
  const char* kind;
  struct Entry {
    const char *stage, *field, *text;
  };
  std::vector<Entry> entries;
  bool feed; // whether it has a path to the tank, bus or plate
};

class WholeJob : public FirstHour, public testing::WithParamInterface<Job> {
 protected:
  /// From the kind at the start to this one, through the menu beside the name.
  void choose_kind(const std::string& kind) {
    int rows = 0;
    for (const arc::CoilKind* each : arc::coil_kinds()) {
      ++rows;
      if (each->key == kind) break;
    }
    ASSERT_GE(tab_to("coil kind"), 0);
    in_next<QMenu>([rows](QMenu& menu) {
      for (int i = 0; i < rows; ++i) QTest::keyClick(&menu, Qt::Key_Down);
      QTest::keyClick(&menu, Qt::Key_Return);
    });
    key(Qt::Key_Return);
    settle();
    QApplication::setActiveWindow(&window()); // as a desktop does when a menu goes
  }
  void start_feed() {
    go("feed");
    QString first;
    for (const auto* button : get<QWidget>("canvas").findChildren<QPushButton*>())
      if (first.isEmpty() && button->isVisible() && button->objectName().startsWith("start "))
        first = button->objectName();
    if (first.isEmpty()) return; // its kind begins with one
    ASSERT_GE(tab_to(first), 0) << first.toStdString();
    key(Qt::Key_Return);
    settle();
  }
  /// What forbids to arm is carried out on the findings, as far as the program can.
  void mend() {
    for (int i = 0; i < 10; ++i) {
      document().wait_for_simulation();
      QApplication::processEvents();
      const auto stops = document().stops();
      const auto mendable = std::ranges::find_if(stops, [](const arc::Finding& f) { return bool(f.apply); });
      if (mendable == stops.end()) return;
      ASSERT_GE(tab_to("remedy " + QString::fromStdString(mendable->id), 150), 0) << mendable->id;
      key(Qt::Key_Return);
      settle();
    }
  }
  /// With a reason where something stands that only hands can mend.
  void arm() {
    key(Qt::Key_E, Qt::ControlModifier | Qt::ShiftModifier); // the examples that are left stand for what is there
    const bool asked = !document().stops().empty();
    if (asked)
      in_next<QDialog>([this](QDialog& sheet) {
        QApplication::setActiveWindow(&sheet);
        ASSERT_GE(tab_to("arm reason"), 0);
        keys("a bench test behind a screen");
        ASSERT_GE(tab_to("arm in spite"), 0);
        key(Qt::Key_Return);
      });
    ASSERT_GE(tab_to("arm"), 0);
    key(Qt::Key_Return);
    QApplication::setActiveWindow(&window());
  }
};

TEST_P(WholeJob, goes_from_an_empty_start_to_a_logged_run_without_a_pointer) {
  const Job& job = GetParam();
  close_window();
  open_window();
  settle();
  ASSERT_GE(tab_to("skip first steps"), 0);
  key(Qt::Key_Return);
  ASSERT_FALSE(get<QWidget>("first steps").isVisible());
  if (std::string(job.kind) != design().kind) choose_kind(job.kind);
  ASSERT_EQ(design().kind, job.kind);
  for (const Job::Entry& e : job.entries) {
    go(e.stage);
    enter(e.field, e.text);
    EXPECT_TRUE(arc::design_field(e.field).get(design())) << e.field;
    EXPECT_FALSE(get<QLineEdit>(e.field).property("bad").toBool()) << e.field;
  }
  EXPECT_GT(design().secondary.turns, 0);
  if (job.feed) {
    start_feed();
    EXPECT_FALSE(design().feed.empty());
  }
  go("tune");
  enter("measured frequency_hz", QString("%1 kHz").arg(analysis().circuit.resonance_hz / 1000, 0, 'f', 1));
  key(Qt::Key_Return); // once more: adds it
  settle();
  EXPECT_EQ(design().measurements.size(), 1U);
  if (arc::kind_of(design()).clip && analysis().tuned_tap_turns) {
    get<QWidget>("canvas").setFocus();
    ASSERT_GE(tab_to("apply tap"), 0);
    key(Qt::Key_Return);
    settle();
    EXPECT_NEAR(design().primary.tap_turns, *analysis().tuned_tap_turns, 0.02);
  }
  mend();
  go("fire");
  int ticked = 0;
  for (const auto* box : get<QWidget>("fire").findChildren<QCheckBox*>())
    if (box->isVisible() && box->objectName().startsWith("check ")) {
      ASSERT_GE(tab_to(box->objectName()), 0);
      key(Qt::Key_Space);
      ++ticked;
    }
  EXPECT_GE(ticked, 5);
  go("fire");
  arm();
  ASSERT_GE(tab_to("start run"), 0);
  key(Qt::Key_Return);
  ASSERT_GE(tab_to("stop run"), 0);
  key(Qt::Key_Return);
  ASSERT_GE(tab_to("fire page After"), 0);
  key(Qt::Key_Right); // on to the notes
  ASSERT_GE(tab_to("observed notes"), 0);
  keys("first light");
  ASSERT_GE(tab_to("log run"), 0);
  key(Qt::Key_Return);
  settle();
  ASSERT_EQ(design().runs.size(), 1U);
  EXPECT_EQ(design().runs.front().notes.substr(0, 11), "first light");
  choose_file(path("by-keys.json"));
  key(Qt::Key_S, Qt::ControlModifier);
  EXPECT_TRUE(QFileInfo::exists(path("by-keys.json")));
  EXPECT_FALSE(document().modified());
  QFile kept(path("by-keys.json"));
  ASSERT_TRUE(kept.open(QIODevice::ReadOnly));
  EXPECT_EQ(arc::read_design(kept.readAll().toStdString()), design());
}

// A small coil for the exciter, whose simulation of a large one is long.
const Job::Entry small_form{"resonator", "secondary.form_diameter_m", "40 mm"};
const Job::Entry form{"resonator", "secondary.form_diameter_m", "160 mm"},
    wound{"resonator", "secondary.turns", "900"};

INSTANTIATE_TEST_SUITE_P(
    each_kind, WholeJob,
    testing::Values(
        Job{"spark-gap",
            {form,
             wound,
             {"primary", "primary.turns", "12"},
             {"primary", "primary.tap_turns", "8.5"},
             {"tank", "tank.capacitance_f", "15n"}},
            true},
        Job{"exciter", {small_form, wound, {"driver", "exciter.supply_voltage_v", "12 V"}}, false},
        Job{"bridge",
            {form, wound, {"primary", "primary.turns", "6"}, {"gate", "interrupter.rate_hz", "100"}},
            true},
        Job{"tube",
            {form, wound, {"oscillator", "tube.grid_leak_ohm", "4k7"}, {"oscillator", "feedback.turns", "25"}},
            true},
        Job{"dual-resonant",
            {form,
             wound,
             {"primary", "primary.turns", "9"},
             {"tank", "tank.unit_capacitance_f", "220n"},
             {"gate", "interrupter.rate_hz", "100"}},
            true},
        Job{"flame",
            {{"resonator", "secondary.form_diameter_m", "45 mm"},
             {"resonator", "secondary.turns", "34"},
             {"resonator", "secondary.winding_length_m", "170 mm"},
             {"resonator", "secondary.wire_bare_diameter_m", "2 mm"},
             {"resonator", "secondary.wire_overall_diameter_m", "2.1 mm"},
             {"oscillator", "flame.grid_resistor_ohm", "12k"}},
            true}),
    [](const auto& of) { return QString(of.param.kind).remove('-').toStdString(); });

} // namespace
