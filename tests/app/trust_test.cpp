// What the window says can be believed: stale results are marked, refused edits say why, slips are questioned, and
// nothing that was typed is lost by looking at it another way.
#include "support.h"

#include "coil_views/coil_handles.h"
#include "craft/design_fields.h"
#include "file/design_file.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "parts/gap.h"
#include "parts/topload.h"

#include <QScreen>
#include <fstream>
#include <random>

using testing::HasSubstr;

namespace {

class Trust : public WindowTest {
 protected:
  QLabel& label(const QString& name) { return get<QLabel>(name); }
  void simulate() {
    document().wait_for_simulation();
    QApplication::processEvents();
  }
  void choose(const QString& name, int index) {
    auto& box = get<QComboBox>(name);
    box.setCurrentIndex(index);
    Q_EMIT box.activated(index);
    settle();
  }
};

TEST_F(Trust, a_remedy_of_an_older_design_cannot_be_pressed) {
  type_into("secondary.turns", "1070"); // the tank is off tune now
  const auto it = std::ranges::find(document().findings(), "tank-off-tune", &arc::Finding::id);
  ASSERT_NE(it, document().findings().end());
  const arc::Finding finding = *it; // NOLINT: its copy outlives the list
  ASSERT_TRUE(finding.apply);
  press("fold tank-off-tune");
  document().edit("Turns", [](arc::Design& d) { d.secondary.turns = 900; });
  EXPECT_FALSE(document().is_current(finding));
  EXPECT_FALSE(get<QAbstractButton>("remedy tank-off-tune").isEnabled());
  const arc::Design before = design();
  EXPECT_FALSE(document().remedy(finding));
  EXPECT_EQ(design(), before);
  settle();
  EXPECT_TRUE(get<QAbstractButton>("remedy tank-off-tune").isEnabled());
}

TEST_F(Trust, remedies_survive_a_block_a_part_and_a_topload_that_are_gone) {
  // As an impatient hand would: the remedy of a finding whose object has just been removed, called directly.
  const auto apply_all_to = [&](const std::function<void(arc::Design&)>& spoil,
                                const std::function<void(arc::Design&)>& remove) {
    arc::Design spoilt = design();
    spoil(spoilt);
    document().start(spoilt);
    settle();
    simulate();
    int applied = 0;
    for (const arc::Finding& f : document().findings()) {
      if (!f.apply) continue;
      arc::Design gone = design();
      remove(gone);
      f.apply(gone);
      ++applied;
    }
    EXPECT_GT(applied, 0);
  };
  apply_all_to([](arc::Design& d) { d.feed[0].values["rated_current_a"] = 1.2; },
               [](arc::Design& d) { d.feed.clear(); });
  apply_all_to(
      [](arc::Design& d) {
        arc::ToploadPart part = d.topload[0];
        part.centre_above_winding_m += 0.01;
        d.topload.push_back(part);
      },
      [](arc::Design& d) { d.topload.clear(); });
}

TEST_F(Trust, an_edit_that_could_not_be_kept_is_refused_with_its_reason) {
  const arc::Design before = design();
  EXPECT_FALSE(document().edit("Spoil", [](arc::Design& d) { d.gap.gaps_in_series = -1; }));
  EXPECT_EQ(design(), before);
  EXPECT_THAT(notice().toStdString(), HasSubstr("Static gaps in series would be -1"));
  EXPECT_FALSE(document().edit("Fill", [](arc::Design& d) { d.secondary.winding_length_m = 106; }));
  EXPECT_THAT(notice().toStdString(), HasSubstr("20 m at the utmost"));
  EXPECT_FALSE(document().edit("Blocks", [](arc::Design& d) {
    for (int i = 0; i < 60; ++i) d.feed.push_back(d.feed[0]);
  }));
  EXPECT_THAT(notice().toStdString(), HasSubstr("at most"));
  EXPECT_FALSE(document().edit("Poison", [](arc::Design& d) { d.tank.unit_capacitance_f = std::nan(""); }));
  EXPECT_EQ(design(), before);
}

TEST_F(Trust, any_sequence_of_edits_remedies_and_drags_saved_opens_equal) {
  std::mt19937 random(97);
  const auto any = [&](double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
  };
  const auto fields = arc::design_fields();
  int remedies = 0, drags = 0, refused = 0;
  QObject::connect(&document(), &Document::refused, [&] { ++refused; });
  for (int step = 0; step < 120; ++step) {
    switch (random() % 5) {
    case 0: { // typed: anything inside of a field's range, or far outside of it
      const arc::FieldSpec& field = fields[random() % fields.size()];
      const double value =
          random() % 4 == 0 ? any(-1e9, 1e9) : any(field.minimum, std::min(field.maximum, field.minimum + 10));
      document().edit("Type", [&](arc::Design& d) { field.set(d, value); });
      break;
    }
    case 1: { // the remedy that stands first
      settle();
      for (const arc::Finding& f : document().findings())
        if (f.apply) {
          document().remedy(f);
          ++remedies;
          break;
        }
      break;
    }
    case 2: { // a drag of any handle by anything
      settle();
      const auto handles = resonator_handles(design());
      if (handles.empty()) break;
      const CoilHandle& handle = handles[random() % handles.size()];
      document().edit(
          "Drag",
          [&](arc::Design& d) {
            handle.move(d, {any(-2, 2), any(-1, 4)}, 0.001);
          },
          "drag");
      ++drags;
      break;
    }
    case 3:
      document().history().undo();
      break;
    default:
      document().history().redo();
    }
    if (step % 10 != 9) continue;
    QString problem;
    ASSERT_TRUE(document().save_as(path("any.json"), &problem)) << problem.toStdString();
    const arc::Design saved = design();
    std::ifstream in(path("any.json").toStdString());
    const std::string text{std::istreambuf_iterator<char>(in), {}};
    ASSERT_EQ(arc::read_design(text), saved) << "step " << step;
  }
  EXPECT_GT(remedies, 5);
  EXPECT_GT(drags, 5);
  EXPECT_GT(refused, 0);
}

TEST_F(Trust, what_was_typed_for_another_way_of_the_tank_comes_back) {
  show_stage("tank");
  const arc::Tank units = design().tank;
  choose("tank mode", 0);
  type_into("tank.capacitance_f", "33 nF");
  choose("tank mode", 1);
  EXPECT_EQ(design().tank.unit_capacitance_f, units.unit_capacitance_f);
  EXPECT_EQ(design().tank.units_in_series, units.units_in_series);
  choose("tank mode", 2);
  document().edit("Section", [](arc::Design& d) { d.tank.sections[0].in_parallel = 3; });
  choose("tank mode", 0);
  EXPECT_NEAR(design().tank.capacitance_f, 33e-9, 1e-15);
  choose("tank mode", 2);
  EXPECT_EQ(design().tank.sections[0].in_parallel, 3);
  const arc::Design kept = arc::read_design(arc::write_design(design()));
  EXPECT_EQ(kept, design()) << "all three survive the file";
}

TEST_F(Trust, what_was_typed_for_another_shape_comes_back) {
  const arc::ToploadPart ring = design().topload[0];
  choose("topload shape 1", 1);
  EXPECT_EQ(design().topload[0].shape, "sphere");
  type_into("topload 1 diameter_m", "234 mm");
  choose("topload shape 1", 0);
  EXPECT_EQ(design().topload[0].outer_diameter_m, ring.outer_diameter_m);
  EXPECT_EQ(design().topload[0].tube_diameter_m, ring.tube_diameter_m);
  document().start(arc::read_design(arc::write_design(design())));
  settle();
  choose("topload shape 1", 1);
  EXPECT_NEAR(design().topload[0].diameter_m, 0.234, 1e-9) << "through the file too";
}

TEST_F(Trust, a_tube_too_thick_for_its_ring_is_a_finding_and_opens_again) {
  type_into("topload 1 outer_diameter_m", "150 mm");
  type_into("topload 1 tube_diameter_m", "90 mm");
  EXPECT_NE(std::ranges::find(document().findings(), "geometry-impossible", &arc::Finding::id),
            document().findings().end());
  QString problem;
  ASSERT_TRUE(document().save_as(path("thick.json"), &problem));
  EXPECT_TRUE(window().open_file(path("thick.json")));
}

TEST_F(Trust, the_units_key_leaves_a_selected_entry_alone) {
  auto& field = get<QuantityField>("secondary.winding_length_m");
  field.setFocus();
  field.selectAll();
  QTest::keyClick(&field, Qt::Key_U, Qt::ControlModifier);
  settle();
  EXPECT_EQ(window().workspace().units(), arc::UnitSystem::inch);
  EXPECT_EQ(field.text(), "18.5 in");
  auto& name = get<QLineEdit>("design name");
  name.setFocus();
  name.selectAll();
  for (const Qt::Key key : {Qt::Key_U, Qt::Key_D, Qt::Key_U, Qt::Key_D})
    QTest::keyClick(&name, key, Qt::ControlModifier);
  EXPECT_EQ(name.text(), "Quiet Lantern");
}

TEST_F(Trust, a_bare_number_takes_the_unit_that_the_field_shows) {
  show_stage("tune");
  type_into("measured frequency_hz", "110.5");
  EXPECT_EQ(get<QuantityField>("measured frequency_hz").text(), "110.5 kHz");
  show_stage("tank");
  choose("tank mode", 0);
  type_into("tank.capacitance_f", "0.15 uF");
  type_into("tank.capacitance_f", "47"); // shown as 150 nF
  EXPECT_NEAR(design().tank.capacitance_f, 47e-9, 1e-18);
  type_into("secondary.winding_length_m", "1.2 m");
  type_into("secondary.winding_length_m", "1.1");
  EXPECT_NEAR(design().secondary.winding_length_m, 1.1, 1e-12);
}

TEST_F(Trust, a_value_a_thousand_times_off_is_questioned_and_mended_with_one_press) {
  show_stage("tank");
  choose("tank mode", 0);
  type_into("tank.capacitance_f", "12 uF");
  auto& meant = get<QPushButton>("meant tank.capacitance_f");
  ASSERT_TRUE(meant.isVisible());
  EXPECT_EQ(meant.text(), "Meant 12 nF?");
  press("meant tank.capacitance_f");
  EXPECT_NEAR(design().tank.capacitance_f, 12e-9, 1e-18);
  EXPECT_FALSE(meant.isVisible());
  show_stage("tune");
  type_into("measured frequency_hz", "22.6 kHz");
  EXPECT_THAT(get<QPushButton>("meant measured").text().toStdString(), HasSubstr("Meant 226 kHz?"));
}

TEST_F(Trust, arming_asks_for_a_reason_while_a_stop_stands_and_keeps_it) {
  document().edit("Spoil", [](arc::Design& d) { d.tank.unit_voltage_v = 700; });
  settle();
  simulate();
  ASSERT_FALSE(document().stops().empty());
  show_stage("fire");
  for (QCheckBox* box : window().findChildren<QCheckBox*>())
    if (box->objectName().startsWith("check ")) box->setChecked(true);
  in_next([](QWidget& sheet) {
    EXPECT_THAT(sheet.findChild<QLabel*>("standing stops")->text().toStdString(), HasSubstr("of its rating"));
    EXPECT_FALSE(sheet.findChild<QPushButton*>("arm in spite")->isEnabled());
    sheet.findChild<QPushButton*>("do not arm")->click();
  });
  press("arm");
  EXPECT_FALSE(get<QPushButton>("start run").isEnabled());
  in_next([](QWidget& sheet) {
    QTest::keyClicks(sheet.findChild<QLineEdit*>("arm reason"), "tested these units to 2 kV");
    sheet.findChild<QPushButton*>("arm in spite")->click();
  });
  press("arm");
  ASSERT_TRUE(get<QPushButton>("start run").isEnabled());
  press("start run");
  press("stop run");
  type_into("observed arc_length_m", "0.4 m");
  press("log run");
  EXPECT_THAT(design().runs.back().armed_despite, HasSubstr("tested these units to 2 kV"));
  EXPECT_THAT(arc::write_design(design()), HasSubstr("armed_despite"));
}

TEST_F(Trust, a_tank_measurement_can_be_taken_as_the_leads_and_the_clip_follows) {
  document().edit("Measure", [&](arc::Design& d) {
    d.measurements.clear();
    arc::Measurement m;
    m.kind = "tank";
    m.tap_turns = d.primary.tap_turns;
    m.frequency_hz = analysis().tank_hz * 0.97;
    d.measurements.push_back(m);
  });
  show_stage("tune");
  const double clip = *analysis().tuned_tap_turns;
  get<QTableWidget>("measurements").selectRow(0);
  auto& take = get<QPushButton>("take as leads");
  ASSERT_TRUE(take.isVisible());
  press("take as leads");
  EXPECT_NEAR(analysis().tank_hz, design().measurements[0].frequency_hz, 1e-3 * analysis().tank_hz);
  EXPECT_LT(*analysis().tuned_tap_turns, clip) << "more inductance in the leads leaves less for the turns";
  EXPECT_FALSE(take.isVisible()) << "nothing is left to take";
}

TEST_F(Trust, the_same_runs_imported_again_are_recognised) {
  show_stage("fire");
  press("fire page Record");
  const std::size_t runs = design().runs.size();
  choose_file(path("runs.csv"));
  press("export runs");
  choose_file(path("runs.csv"));
  press("import runs");
  EXPECT_EQ(design().runs.size(), runs);
}

TEST_F(Trust, opening_another_file_clears_what_belonged_to_the_last) {
  simulate();
  show_stage("fire");
  type_into("observed arc_length_m", "0.4 m");
  arc::Design other = design();
  other.name = "Other";
  document().start(other);
  settle();
  EXPECT_TRUE(get<QuantityField>("observed arc_length_m").text().isEmpty());
  EXPECT_EQ(document().power(), nullptr);
}

TEST_F(Trust, the_window_stays_inside_its_screen) {
  EXPECT_LE(window().minimumHeight(), 700);
  close_window();
  open_window();
  const QRect room = window().screen()->availableGeometry();
  MainWindow fresh(path("fresh"));
  EXPECT_LE(fresh.width(), room.width());
  EXPECT_LE(fresh.height(), room.height());
}

} // namespace
