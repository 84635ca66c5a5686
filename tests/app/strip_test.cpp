// What stands on every stage: the strip of the whole coil, findings that fold and are dismissed, stages that the
// builder confirms, headlines and plots that fill the stage, and Fire for the bench.
#include "simulation/strip.h"
#include "stages/bench_list.h"
#include "stages/stage.h"
#include "support.h"
#include "toolkit/figure_list.h"

#include <QCheckBox>
#include <QDialog>
#include <QStackedWidget>
#include <QTemporaryDir>
#include <qcustomplot.h>

namespace {

using testing::HasSubstr;

class WholeCoil : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    window().open_demo("spark-gap");
    document().wait_for_simulation();
    settle();
  }
  std::string strip(const char* place) {
    return get<QAbstractButton>(QString("strip ") + place).text().toStdString();
  }
  bool seen(const QString& name) {
    for (const QWidget* w : window().findChildren<QWidget*>(name))
      if (w->isVisible()) return true;
    return false;
  }
  const arc::Finding& first(arc::Severity severity) {
    const auto& findings = document().findings();
    return *std::ranges::find(findings, severity, &arc::Finding::severity);
  }
  std::string mark(const char* stage) {
    return get<QAbstractButton>(QString("stage ") + stage).accessibleName().toStdString();
  }
};

TEST_F(WholeCoil, the_expected_arc_is_found_in_one_look_on_every_stage) {
  const arc::ArcForecast& arc = *document().power()->arc;
  ASSERT_TRUE(arc.breaks_out);
  const std::string longest =
      arc::format_quantity(arc.length_m.high, arc::Dimension::length, document().units(), 2);
  for (const char* stage : {"resonator", "feed", "fire"}) {
    show_stage(stage);
    EXPECT_TRUE(get<QAbstractButton>("strip arc").isVisible()) << stage;
    EXPECT_THAT(strip("arc"), HasSubstr(longest)) << stage;
  }
  EXPECT_THAT(strip("power"), HasSubstr(" W, "));
  EXPECT_THAT(strip("rate"), HasSubstr("bps"));
  EXPECT_THAT(strip("open"), HasSubstr("warning"));
}

TEST_F(WholeCoil, each_place_of_the_strip_says_why_and_leads_to_its_stage) {
  for (const char* place : {"arc", "power", "rate", "craft", "weakest"}) {
    show_stage("resonator");
    auto& button = get<QAbstractButton>(QString("strip ") + place);
    QApplication::setActiveWindow(&window());
    button.setFocus();
    QTest::keyClick(&button, Qt::Key_Return);
    QDialog* sheet = open_sheet();
    ASSERT_NE(sheet, nullptr) << place;
    EXPECT_EQ(sheet->objectName(), "why");
    EXPECT_GE(sheet->findChildren<QLabel*>().size(), 5) << place;
    auto* go = sheet->findChild<QPushButton*>("go to it");
    ASSERT_NE(go, nullptr) << place;
    go->click();
    QApplication::processEvents();
    EXPECT_NE(window().stage(), 0) << place;
  }
  press("strip open");
  EXPECT_TRUE(QApplication::focusWidget() && get<QWidget>("findings").isAncestorOf(QApplication::focusWidget()));
}

TEST_F(WholeCoil, the_strip_is_greyed_from_the_edit_on_and_follows_it) {
  auto& power = get<QAbstractButton>("strip power");
  const auto* veil = power.findChild<QWidget*>("stale");
  ASSERT_NE(veil, nullptr);
  EXPECT_TRUE(veil->isHidden());
  const std::string before = strip("rate");
  document().edit("Gap", [](arc::Design& d) { d.gap.firing_voltage_v = 9000; });
  EXPECT_FALSE(veil->isHidden());
  document().wait_for_simulation();
  EXPECT_TRUE(veil->isHidden());
  EXPECT_NE(strip("rate"), before);
}

TEST_F(WholeCoil, warnings_are_one_line_that_unfolds_and_notes_are_counted) {
  const QString id = QString::fromStdString(first(arc::Severity::warning).id);
  EXPECT_TRUE(seen("fold " + id));
  EXPECT_FALSE(seen("show " + id));
  press("fold " + id);
  EXPECT_TRUE(seen("show " + id));
  const QString note = QString::fromStdString(first(arc::Severity::note).id);
  EXPECT_FALSE(seen("fold " + note));
  EXPECT_THAT(get<QAbstractButton>("fold notes").text().toStdString(), HasSubstr("note"));
  press("fold notes");
  EXPECT_TRUE(seen("fold " + note));
}

TEST_F(WholeCoil, a_finding_is_dismissed_with_a_reason_and_comes_back_when_its_value_moves) {
  const arc::Finding finding = first(arc::Severity::warning);
  const QString id = QString::fromStdString(finding.id);
  const std::string counted = strip("open");
  press("fold " + id);
  press("dismiss " + id);
  auto& reason = get<QLineEdit>("dismiss reason " + id);
  ASSERT_TRUE(reason.isVisible());
  QTest::keyClicks(&reason, "no");
  QTest::keyClick(&reason, Qt::Key_Return);
  EXPECT_TRUE(design().dismissed.empty()) << "two letters are no reason";
  QTest::keyClick(&reason, Qt::Key_Escape);
  EXPECT_FALSE(reason.isVisible()) << "Escape leaves it";
  press("dismiss " + id);
  QTest::keyClicks(&reason, "thing is near it");
  QTest::keyClick(&reason, Qt::Key_Return);
  QApplication::processEvents();
  ASSERT_EQ(design().dismissed.size(), 1u);
  EXPECT_EQ(design().dismissed[0].reason, "nothing is near it");
  EXPECT_TRUE(document().power_is_current()) << "nothing is computed for a mark";
  EXPECT_NE(strip("open"), counted);
  EXPECT_FALSE(seen("fold " + id));
  press("fold dismissed");
  EXPECT_TRUE(seen("fold " + id));
  press("undo");
  EXPECT_TRUE(design().dismissed.empty());
  EXPECT_EQ(strip("open"), counted);
  press("redo");
  EXPECT_NE(strip("open"), counted);
  press("fold " + id);
  press("bring back " + id);
  EXPECT_TRUE(design().dismissed.empty());
  EXPECT_EQ(strip("open"), counted);
}

TEST_F(WholeCoil, findings_of_this_stage_never_hide_a_stop) {
  document().edit("Too low a rating", [](arc::Design& d) { d.tank.unit_voltage_v = 400; });
  document().wait_for_simulation();
  settle();
  const QString stop = QString::fromStdString(first(arc::Severity::stop).id);
  show_stage("resonator");
  press("findings of this stage");
  EXPECT_TRUE(seen("finding " + stop));
  EXPECT_FALSE(seen("finding " + QString::fromStdString(first(arc::Severity::warning).id)));
  press("findings of all stages");
  show_stage("fire");
  EXPECT_TRUE(seen("finding " + stop));
  EXPECT_FALSE(seen("finding " + QString::fromStdString(first(arc::Severity::warning).id)))
      << "Fire has the stops and nothing else";
  EXPECT_EQ(mark("tank").substr(0, 10), "Tank, stop");
}

TEST_F(WholeCoil, a_stage_without_findings_says_so_and_the_way_back_to_all_stays) {
  show_stage("resonator"); // the demo has none there
  press("findings of this stage");
  EXPECT_TRUE(get<QPushButton>("findings of all stages").isVisible());
  EXPECT_FALSE(seen("finding " + QString::fromStdString(first(arc::Severity::warning).id)));
  press("findings of all stages");
  EXPECT_TRUE(seen("finding " + QString::fromStdString(first(arc::Severity::warning).id)));
  show_stage("fire"); // stops only: the strip leads to the others at their stage
  press("strip open");
  EXPECT_TRUE(seen("finding " + QString::fromStdString(first(arc::Severity::warning).id)));
  EXPECT_NE(window().stage(), 6);
}

TEST_F(WholeCoil, the_panel_gives_its_width_back_where_there_is_nothing) {
  const int wide = get<QWidget>("findings").width();
  show_stage("fire"); // the demo has no stop
  EXPECT_LT(get<QWidget>("findings").width(), wide / 2);
  show_stage("feed");
  EXPECT_EQ(get<QWidget>("findings").width(), wide);
}

TEST_F(WholeCoil, no_stage_is_confirmed_before_the_builder_does_and_it_falls_with_its_inputs) {
  for (const StageSpec& stage : stages())
    EXPECT_THAT(mark(qPrintable(stage.key)), testing::Not(HasSubstr("confirmed"))) << stage.key.toStdString();
  show_stage("tank");
  QTest::keyClick(&window(), Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  QApplication::processEvents();
  EXPECT_EQ(mark("tank"), "Tank, confirmed");
  EXPECT_TRUE(document().power_is_current());
  show_stage("primary");
  type_into("primary.base_height_m", "405 mm");
  EXPECT_NE(mark("tank"), "Tank, confirmed") << "no green while it computes";
  document().wait_for_simulation();
  EXPECT_EQ(mark("tank"), "Tank, confirmed");
  show_stage("tank");
  type_into("tank.unit_voltage_v", "2.1 kV");
  document().wait_for_simulation();
  EXPECT_EQ(mark("tank"), "Tank, in work");
  press("undo");
  document().wait_for_simulation();
  EXPECT_EQ(mark("tank"), "Tank, confirmed");
  press("confirm stage");
  EXPECT_TRUE(design().confirmed.empty());
  show_stage("fire");
  EXPECT_FALSE(get<QPushButton>("confirm stage").isVisible()) << "its runs are its record";
}

TEST_F(WholeCoil, stages_of_a_new_design_are_untouched_until_something_on_them_changes) {
  QTest::keyClick(&window(), Qt::Key_N, Qt::ControlModifier);
  settle();
  document().wait_for_simulation();
  EXPECT_EQ(mark("resonator"), "Resonator, untouched");
  show_stage("resonator");
  type_into("secondary.turns", "1234");
  document().wait_for_simulation();
  EXPECT_THAT(mark("resonator"), testing::Not(HasSubstr("untouched")));
}

// A newcomer's way in: from Start to a design of every kind, a demo, and a file that was open lately.
TEST_F(WholeCoil, start_opens_new_coils_demos_and_files) {
  for (const arc::CoilKind* kind : arc::coil_kinds()) {
    QTest::keyClick(&window(), Qt::Key_0, Qt::AltModifier);
    press("new " + QString::fromUtf8(kind->key.data()));
    EXPECT_EQ(design().kind, kind->key);
    EXPECT_EQ(stages()[static_cast<std::size_t>(window().stage())].key, "resonator");
    const std::string fresh = design().name;
    QTest::keyClick(&window(), Qt::Key_0, Qt::AltModifier);
    press("demo " + QString::fromUtf8(kind->key.data()));
    EXPECT_EQ(design().kind, kind->key);
    EXPECT_NE(design().name, fresh);
  }
  QString problem;
  QTemporaryDir folder;
  ASSERT_TRUE(document().save_as(folder.filePath("attic.json"), &problem)) << problem.toStdString();
  ASSERT_TRUE(window().open_file(folder.filePath("attic.json")));
  QTest::keyClick(&window(), Qt::Key_N, Qt::ControlModifier);
  QTest::keyClick(&window(), Qt::Key_0, Qt::AltModifier);
  press("recent attic.json");
  EXPECT_TRUE(document().path().endsWith("attic.json"));
}

// Every list of figures, at every size: whole rows, the rest by one key, and back.
TEST_F(WholeCoil, figures_are_headlines_in_whole_rows_and_the_rest_comes_by_one_key) {
  for (const QSize size : {QSize(1280, 800), QSize(1024, 700), QSize(1920, 1080)}) {
    window().resize(size);
    for (const char* stage : {"feed", "switch"}) {
      show_stage(stage);
      FigureList* list = nullptr;
      for (auto* each : get<QStackedWidget>("canvas").currentWidget()->findChildren<FigureList*>())
        if (each->isVisible()) list = each;
      ASSERT_NE(list, nullptr) << stage << " " << size.width();
      const auto rows = [&] {
        int seen = 0, bottom = 0;
        for (int row = 0; row < list->rowCount(); ++row)
          if (!list->isRowHidden(row)) ++seen, bottom += list->rowHeight(row);
        EXPECT_TRUE(list->shows_all() || bottom <= list->viewport()->height() + 2) << stage << " " << size.height();
        return seen;
      };
      const int headlines = rows();
      EXPECT_GE(headlines, 2) << stage;
      EXPECT_LT(headlines, list->rowCount()) << stage;
      QTest::keyClick(&window(), Qt::Key_E, Qt::ControlModifier);
      QApplication::processEvents();
      EXPECT_EQ(rows(), list->rowCount()) << stage;
      EXPECT_GT(list->height(), get<QStackedWidget>("canvas").height() / 2) << stage;
      EXPECT_GE(list->width(), 550) << stage;
      QTest::keyClick(&window(), Qt::Key_E, Qt::ControlModifier);
      QApplication::processEvents();
      EXPECT_EQ(rows(), headlines) << stage;
    }
  }
}

TEST_F(WholeCoil, a_plot_fills_its_stage_by_one_key_and_goes_back) {
  show_stage("switch");
  auto& plot = get<QCustomPlot>("top voltage plot");
  const QSize before = plot.size();
  plot.setFocus();
  QTest::keyClick(&plot, Qt::Key_F11);
  QApplication::processEvents();
  const QSize stage = get<QStackedWidget>("canvas").size();
  EXPECT_GT(plot.width() * plot.height(), 0.8 * stage.width() * stage.height());
  EXPECT_FALSE(get<QWidget>("shot figures").isVisible());
  QTest::keyClick(&plot, Qt::Key_F11);
  QApplication::processEvents();
  EXPECT_EQ(plot.size(), before);
  EXPECT_TRUE(get<QWidget>("shot figures").isVisible());
}

TEST_F(WholeCoil, no_legend_lies_on_the_curves) {
  show_stage("switch");
  for (const auto* plot : get<QStackedWidget>("canvas").currentWidget()->findChildren<QCustomPlot*>())
    if (plot->isVisible() && plot->legend->visible()) {
      EXPECT_FALSE(plot->legend->outerRect().intersects(plot->axisRect()->rect()))
          << plot->objectName().toStdString();
    }
}

// At the size that most screens have; every kind without a stop.
TEST_F(WholeCoil, checks_are_whole_and_twenty_pixels_high_at_the_bench) {
  for (const arc::CoilKind* kind : arc::coil_kinds()) {
    window().open_demo(std::string(kind->key));
    document().wait_for_simulation();
    window().resize(1280, 800);
    settle();
    show_stage("fire");
    QApplication::processEvents();
    const auto& checks = get<BenchList>("checks");
    EXPECT_GE(checks.letters(), 20) << kind->key;
    EXPECT_LE(checks.widget()->height(), checks.height()) << kind->key;
    press("fire page After");
    const auto& steps = get<BenchList>("after power");
    EXPECT_GE(steps.letters(), 20) << kind->key;
    EXPECT_LE(steps.widget()->height(), steps.height()) << kind->key;
    press("fire page Run");
  }
}

TEST_F(WholeCoil, fire_is_worked_with_one_key_and_the_wait_counts_down) {
  show_stage("fire");
  std::vector<QCheckBox*> boxes;
  for (auto* box : get<QWidget>("fire").findChildren<QCheckBox*>())
    if (box->objectName().startsWith("check ")) boxes.push_back(box);
  ASSERT_GE(boxes.size(), 5u);
  boxes.front()->setFocus();
  QKeyEvent held(QEvent::KeyPress, Qt::Key_Space, Qt::NoModifier, " ", true);
  QApplication::sendEvent(boxes.front(), &held);
  EXPECT_FALSE(boxes.front()->isChecked()) << "a key that is held down ticks nothing";
  for (std::size_t i = 0; i < boxes.size(); ++i) {
    ASSERT_EQ(QApplication::focusWidget(), boxes[i]);
    QTest::keyClick(boxes[i], Qt::Key_Space);
  }
  ASSERT_EQ(QApplication::focusWidget(), &get<QPushButton>("arm"));
  QTest::keyClick(&get<QPushButton>("arm"), Qt::Key_Space);
  QTest::keyClick(&get<QPushButton>("start run"), Qt::Key_Space);
  QTest::keyClick(&get<QPushButton>("stop run"), Qt::Key_Space);
  EXPECT_TRUE(get<BenchList>("after power").isVisible());
  const std::string waits = get<QLabel>("countdown").text().toStdString();
  EXPECT_TRUE(waits.starts_with("Wait ") || waits.starts_with("Never empty")) << waits;
  EXPECT_FALSE(get<QLabel>("countdown of").text().isEmpty());
  press("disarm");
  EXPECT_TRUE(get<QWidget>("observed notes").isVisible()) << "what was seen is asked next";
}

} // namespace
