// Variants, curves over one number and figures made a value, through the window.
#include "brief/proposals_view.h"
#include "support.h"
#include "toolkit/cursor_plot.h"
#include "workshop/moved_number.h"
#include "workshop/variants.h"

#include <QAction>
#include <QMenu>
#include <nlohmann/json.hpp>

namespace {

using testing::HasSubstr;

class WhatIf : public WindowTest {
 protected:
  QDialog& open(const char* action) {
    get<QAction>(action).trigger();
    QApplication::processEvents();
    sheet_ = open_sheet();
    if (!sheet_) throw std::runtime_error("no sheet");
    return *sheet_;
  }
  template <typename T>
  T& in(const char* name) {
    T* found = sheet_->findChild<T*>(name);
    if (!found) throw std::runtime_error(std::string("nothing called ") + name);
    return *found;
  }
  void choose(const char* box, const QString& data) {
    auto& choice = in<QComboBox>(box);
    choice.setCurrentIndex(choice.findData(data));
    Q_EMIT choice.activated(choice.currentIndex());
  }
  void enter(const char* field, const QString& text) {
    auto& edit = in<QuantityField>(field);
    edit.setFocus();
    edit.selectAll();
    QTest::keyClicks(&edit, text);
  }
  void press_in(const char* button) { QTest::mouseClick(&in<QPushButton>(button), Qt::LeftButton); }
  QString cell(const char* table, int row, int column) { return in<QTableWidget>(table).item(row, column)->text(); }
  bool wait_for(const char* button) {
    return QTest::qWaitFor([&] { return in<QPushButton>(button).isEnabled(); }, 60000);
  }
  bool wait_for_variants() {
    auto& table = in<QTableWidget>("variants");
    return QTest::qWaitFor(
        [&] {
          for (int r = 0; r < table.rowCount(); ++r)
            if (table.item(r, 2)->text() == "…") return false;
          return true;
        },
        60000);
  }
  std::string said(const char* label) { return in<QLabel>(label).text().toStdString(); }

  QDialog* sheet_ = nullptr;
};

TEST_F(WhatIf, the_design_is_kept_changed_compared_and_brought_back) {
  const double turns = design().secondary.turns;
  open("action variants");
  EXPECT_FALSE(in<QPushButton>("promote variant").isEnabled());
  EXPECT_THAT(in<QPushButton>("promote variant").toolTip().toStdString(), HasSubstr("Choose"));
  EXPECT_THAT(said("variants words"), HasSubstr("Nothing is kept yet"));
  press_in("keep variant");
  ASSERT_EQ(design().variants.size(), 1u);
  document().edit("Wind more", [&](arc::Design& d) { d.secondary.turns = turns + 150; });
  ASSERT_TRUE(wait_for_variants());
  EXPECT_EQ(in<QTableWidget>("variants").rowCount(), 2);
  EXPECT_NE(cell("variants", 0, 6), cell("variants", 1, 6)) << "more turns ring lower";
  EXPECT_EQ(cell("compared variants", 0, 0), "Turns (secondary)") << "what was changed stands first";
  EXPECT_THAT(said("variants words"), HasSubstr("1 number entered"));
  const int differing = in<QTableWidget>("compared variants").rowCount();
  in<QCheckBox>("only differences").click();
  EXPECT_GT(in<QTableWidget>("compared variants").rowCount(), differing);
  press_in("promote variant");
  EXPECT_EQ(design().secondary.turns, turns);
  EXPECT_EQ(design().variants[0].design.get()->secondary.turns, turns + 150);
  EXPECT_FALSE(design().runs.empty()) << "the record stays";
  document().history().undo();
  EXPECT_EQ(design().secondary.turns, turns + 150);
}

TEST_F(WhatIf, variants_are_named_duplicated_and_removed_by_keyboard) {
  open("action variants");
  auto& table = in<QTableWidget>("variants");
  auto& keep = in<QPushButton>("keep variant");
  keep.setFocus();
  QTest::keyClick(&keep, Qt::Key_Space);
  ASSERT_EQ(table.rowCount(), 2);
  EXPECT_EQ(table.currentRow(), 1);
  auto& rename = in<QPushButton>("rename variant");
  rename.setFocus();
  QTest::keyClick(&rename, Qt::Key_Space);
  auto* editor = table.findChild<QLineEdit*>();
  ASSERT_TRUE(editor);
  editor->selectAll();
  QTest::keyClicks(editor, "Short top");
  QTest::keyClick(editor, Qt::Key_Return);
  QApplication::processEvents();
  EXPECT_EQ(design().variants[0].name, "Short top");
  auto& duplicate = in<QPushButton>("duplicate variant");
  duplicate.setFocus();
  QTest::keyClick(&duplicate, Qt::Key_Space);
  ASSERT_EQ(design().variants.size(), 2u);
  EXPECT_EQ(design().variants[1].name, "Short top 2");
  auto& remove = in<QPushButton>("remove variant");
  remove.setFocus();
  QTest::keyClick(&remove, Qt::Key_Space);
  EXPECT_EQ(design().variants.size(), 1u);
  document().edit("Many", [](arc::Design& d) {
    const arc::Design one = d;
    while (arc::keep_variant(d, one, "x")) {
    }
  });
  EXPECT_FALSE(keep.isEnabled());
  EXPECT_THAT(keep.toolTip().toStdString(), HasSubstr("remove one first"));
}

TEST_F(WhatIf, a_variant_that_cannot_be_simulated_says_why) {
  document().edit("Odd", [](arc::Design& d) {
    arc::Design odd = d;
    odd.absent.emplace("secondary.turns");
    arc::keep_variant(d, odd, "Unfinished");
  });
  open("action variants");
  ASSERT_TRUE(wait_for_variants());
  EXPECT_EQ(cell("variants", 1, 8), "not simulated");
  EXPECT_FALSE(in<QTableWidget>("variants").item(1, 8)->toolTip().isEmpty());
}

TEST_F(WhatIf, a_sweep_is_read_at_the_line_and_its_value_used) {
  open("action curves");
  EXPECT_FALSE(in<QPushButton>("use swept value").isEnabled());
  choose("curves number", "gap.firing_voltage_v");
  enter("sweep from", "10 kV");
  enter("sweep to", "14 kV");
  press_in("sweep");
  EXPECT_FALSE(in<QPushButton>("sweep").isEnabled());
  ASSERT_TRUE(wait_for("sweep"));
  for (const char* name : {"curve arc", "curve line", "curve weakest"}) {
    EXPECT_TRUE(in<CursorPlot>(name).isVisible());
    EXPECT_GE(in<CursorPlot>(name).graph(0)->dataCount(), 20) << name;
  }
  EXPECT_THAT(said("curves words"), HasSubstr("12.5 kV")) << "the design as it is";
  auto& plot = in<CursorPlot>("curve arc");
  EXPECT_EQ(QApplication::focusWidget(), &plot);
  for (int i = 0; i < 400; ++i) QTest::keyClick(&plot, Qt::Key_Left, Qt::ShiftModifier);
  EXPECT_THAT(said("curves words"), HasSubstr("10 kV"));
  EXPECT_EQ(in<CursorPlot>("curve weakest").cursor(), plot.cursor()) << "one line across all";
  press_in("use swept value");
  EXPECT_DOUBLE_EQ(design().gap.firing_voltage_v, 10e3);
  choose_file(path("curves.csv"));
  press_in("export curves");
  QFile file(path("curves.csv"));
  ASSERT_TRUE(file.open(QIODevice::ReadOnly));
  EXPECT_TRUE(file.readAll().startsWith("gap.firing_voltage_v,arc_low_m"));
}

TEST_F(WhatIf, bad_ends_of_a_sweep_stay_marked_and_a_number_of_no_effect_says_so) {
  open("action curves");
  choose("curves number", "gap.break_rate_hz"); // of a gap that fires by itself
  enter("sweep from", "often");
  press_in("sweep");
  EXPECT_TRUE(in<QPushButton>("sweep").isEnabled());
  EXPECT_EQ(in<QuantityField>("sweep from").text(), "often");
  EXPECT_FALSE(in<QuantityField>("sweep from").problem().isEmpty());
  enter("sweep from", "300 Hz");
  enter("sweep to", "100 Hz");
  press_in("sweep");
  EXPECT_THAT(said("curves words"), HasSubstr("smaller number"));
  enter("sweep from", "100 Hz");
  enter("sweep to", "300 Hz");
  press_in("sweep");
  ASSERT_TRUE(wait_for("sweep"));
  EXPECT_THAT(said("curves words"), HasSubstr("Nothing here depends"));
  press_in("sweep");
  press_in("cancel sweep");
  EXPECT_THAT(said("curves words"), HasSubstr("stopped"));
}

TEST_F(WhatIf, a_figure_is_made_a_value_by_one_number_and_taken) {
  open("action solve");
  choose("solve figure", "mode_1_hz");
  choose("solve number", "topload[0].outer_diameter_m");
  enter("solve value", "220 kHz");
  press_in("solve");
  ASSERT_TRUE(wait_for("take solved"));
  EXPECT_THAT(said("solve words"), HasSubstr("is 220 kHz with Topload 1: outer diameter"));
  EXPECT_THAT(said("solve words"), HasSubstr("it reaches"));
  EXPECT_GT(in<QTableWidget>("also changed").rowCount(), 3);
  EXPECT_TRUE(in<CursorPlot>("reach").isVisible());
  press_in("take solved");
  settle();
  EXPECT_NEAR(analysis().resonator->mode_1_hz, 220e3, 30);
  document().history().undo();
}

TEST_F(WhatIf, what_is_out_of_reach_is_said_and_not_taken) {
  open("action solve");
  choose("solve figure", "mode_1_hz");
  choose("solve number", "topload[0].outer_diameter_m");
  enter("solve value", "9 MHz");
  press_in("solve");
  ASSERT_TRUE(wait_for("solve"));
  EXPECT_THAT(said("solve words"), HasSubstr("Out of reach"));
  EXPECT_FALSE(in<QPushButton>("take solved").isEnabled());
  EXPECT_THAT(in<QPushButton>("take solved").toolTip().toStdString(), HasSubstr("out of reach"));
  enter("solve value", "high");
  press_in("solve");
  EXPECT_FALSE(in<QuantityField>("solve value").problem().isEmpty());
}

TEST_F(WhatIf, every_reading_leads_to_what_makes_it_another_value) {
  show_stage("resonator");
  press("reading mode_1_hz");
  auto* why = window().findChild<QDialog*>("why");
  ASSERT_TRUE(why);
  why->findChild<QPushButton*>("solve for it")->click();
  QApplication::processEvents();
  sheet_ = window().findChild<QDialog*>("solve sheet");
  ASSERT_TRUE(sheet_);
  EXPECT_EQ(in<QComboBox>("solve figure").currentData(), "mode_1_hz");
}

TEST_F(WhatIf, of_every_kind_a_simulated_figure_can_be_asked_for_in_both_unit_systems) {
  for (const std::string& kind : kinds()) {
    ASSERT_TRUE(window().open_demo(kind));
    settle();
    document().wait_for_simulation();
    window().set_units(arc::UnitSystem::inch);
    for (const char* action : {"action variants", "action curves", "action solve"}) {
      QDialog& sheet = open(action);
      expect_whole_words(sheet, kind + " " + action);
      if (QString(action) == "action solve") {
        const arc::PowerView now{design(), analysis(), *document().power()};
        int asked = 0;
        for (const arc::Figure& figure : arc::figures_of(design()))
          asked += figure.needs == arc::Needs::power && arc::figure_value(figure, now).has_value();
        EXPECT_GT(in<QComboBox>("solve figure").count(), asked) << "those at rest too";
      }
      sheet.close();
      QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    }
    window().set_units(arc::UnitSystem::metric);
  }
}

TEST_F(WhatIf, a_design_that_leaves_its_brief_says_so_until_the_brief_is_forgotten) {
  document().edit("From a brief", [](arc::Design& d) {
    d.unknown.set("brief", arc::Json{{"name", "Low shed"}, {"limits", {{"height_m", 0.5}}}});
  });
  settle();
  const auto left = [&] { return std::ranges::count(document().findings(), "left-brief", &arc::Finding::id); };
  EXPECT_EQ(left(), 1);
  press("remedy left-brief");
  EXPECT_EQ(left(), 0);
}

} // namespace
