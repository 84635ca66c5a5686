// The record by hand: runs put right, brought back as designs, read in again from a spreadsheet; and what is
// simulated saying that it is old.
#include "support.h"
#include "toolkit/aged.h"
#include "workshop/run_table.h"
#include "workshop/runs.h"

#include <QListWidget>
#include <qcustomplot.h>

namespace {

class Record : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    document().wait_for_simulation();
    show_stage("fire");
  }
  Firing& firing() { return window().workspace().firing; }
  void log(double variac_percent, double arc_m) {
    firing().observe("variac_percent", variac_percent);
    firing().observe("arc_length_m", arc_m);
    ASSERT_TRUE(firing().log());
    ASSERT_TRUE(wait_until([this] { return !firing().simulating(); }));
    settle();
  }
  void choose(int row) {
    press("fire page Record");
    get<QTableView>("runs").selectRow(row);
    settle();
  }
  int last() { return static_cast<int>(design().runs.size()) - 1; }
  template <typename T>
  T& in_sheet(QDialog& sheet, const QString& name) {
    T* found = sheet.findChild<T*>(name);
    if (!found) throw std::runtime_error("no control called " + name.toStdString());
    return *found;
  }
  static void write(const QString& file, const std::string& text) {
    QFile out(file);
    ASSERT_TRUE(out.open(QIODevice::WriteOnly));
    out.write(text.c_str(), static_cast<qint64>(text.size()));
  }
};

TEST_F(Record, a_run_keeps_its_design_and_what_was_simulated_at_its_own_variac_setting) {
  const std::size_t before = design().runs.size();
  log(100, 0.45);
  log(60, 0.3);
  ASSERT_EQ(design().runs.size(), before + 2);
  const arc::Run &full = design().runs[before], &lower = design().runs[before + 1];
  EXPECT_FALSE(arc::lacks_simulation(full));
  EXPECT_FALSE(arc::lacks_simulation(lower));
  EXPECT_LT(lower.conditions.at("simulated_power_w"), full.conditions.at("simulated_power_w"));
  EXPECT_LT(lower.conditions.at("simulated_line_a"), full.conditions.at("simulated_line_a"));
  press("undo");
  EXPECT_EQ(design().runs.size(), before + 1) << "run and figures are one step";
}

TEST_F(Record, a_logged_run_is_put_right_in_the_window) {
  log(90, 0.4);
  choose(last());
  const std::string id = design().runs.back().id;
  const double watts = design().runs.back().conditions.at("simulated_power_w");
  press("edit run");
  QDialog* sheet = open_sheet();
  ASSERT_TRUE(sheet);
  auto& variac = in_sheet<QuantityField>(*sheet, "run variac_percent");
  variac.setText("lots");
  in_sheet<QPushButton>(*sheet, "keep run").click();
  EXPECT_TRUE(sheet->isVisible()) << "an entry that cannot be read stays, marked";
  variac.setText("50");
  in_sheet<QPlainTextEdit>(*sheet, "run notes").setPlainText("half, not ninety");
  in_sheet<QPushButton>(*sheet, "keep run").click();
  ASSERT_TRUE(wait_until([this] { return !firing().simulating(); }));
  const arc::Run& run = design().runs.back();
  EXPECT_EQ(run.id, id);
  EXPECT_EQ(run.notes, "half, not ninety");
  EXPECT_DOUBLE_EQ(run.observations.at("variac_percent"), 50);
  EXPECT_LT(run.conditions.at("simulated_power_w"), watts) << "of the setting it has now";
  press("undo");
  EXPECT_DOUBLE_EQ(design().runs.back().observations.at("variac_percent"), 90);
}

TEST_F(Record, a_run_brings_its_design_back_and_the_record_stays) {
  log(80, 0.4);
  const double clip = design().primary.tap_turns;
  document().edit("Tap", [](arc::Design& d) { d.primary.tap_turns = 5; });
  settle();
  const auto runs = design().runs;
  choose(0);
  EXPECT_FALSE(get<QPushButton>("back to design").isEnabled());
  EXPECT_THAT(get<QPushButton>("back to design").toolTip().toStdString(), testing::HasSubstr("before runs kept"));
  choose(last());
  press("back to design");
  EXPECT_DOUBLE_EQ(design().primary.tap_turns, clip);
  EXPECT_TRUE(design().runs == runs);
  press("undo");
  EXPECT_DOUBLE_EQ(design().primary.tap_turns, 5);
}

TEST_F(Record, runs_that_changed_here_and_in_the_table_are_asked_about) {
  log(80, 0.4);
  const std::string csv = arc::runs_to_csv(design().runs);
  const int row = last();
  document().edit("x", [&](arc::Design& d) { d.runs[static_cast<std::size_t>(row)].notes = "changed here"; });
  std::string theirs = csv;
  const auto at = theirs.rfind(",0.4,");
  ASSERT_NE(at, std::string::npos);
  theirs.replace(at, 5, ",0.41,");
  write(path("theirs.csv"), theirs);
  press("fire page Record");
  for (const bool take : {false, true}) {
    choose_file(path("theirs.csv"));
    bool asked = false;
    in_next<QDialog>([&](QDialog& sheet) {
      if (sheet.objectName() != "both changed") return;
      asked = true;
      auto& list = in_sheet<QListWidget>(sheet, "both changed runs");
      EXPECT_EQ(list.count(), 1);
      EXPECT_THAT(list.item(0)->text().toStdString(), testing::HasSubstr("changed here"));
      list.item(0)->setCheckState(take ? Qt::Checked : Qt::Unchecked);
      in_sheet<QPushButton>(sheet, "import as ticked").click();
    });
    press("import runs");
    EXPECT_TRUE(asked);
    EXPECT_NEAR(design().runs.back().observations.at("arc_length_m"), take ? 0.41 : 0.4, 1e-12);
  }
  EXPECT_EQ(design().runs.size(), static_cast<std::size_t>(row) + 1) << "nothing doubled";
}

TEST_F(Record, the_chart_opens_on_what_varied_most_and_offers_the_root_of_the_watts) {
  document().edit("x", [](arc::Design& d) { d.runs = {}; });
  for (const double variac : {50.0, 70.0, 100.0}) log(variac, 0.1 + 0.003 * variac);
  press("fire page Record");
  auto& condition = get<QComboBox>("chart condition");
  const std::set<QString> varied{"variac_percent", "simulated_power_w", "simulated_line_a"};
  EXPECT_TRUE(varied.contains(condition.currentData().toString())) << condition.currentText().toStdString();
  const int root = condition.findData("root of simulated_power_w");
  ASSERT_GE(root, 0);
  condition.setCurrentIndex(root);
  settle();
  auto& plot = get<QCustomPlot>("run chart");
  ASSERT_EQ(plot.graphCount(), 2) << "runs, and the rule through them";
  const auto& dots = *plot.graph(0)->data();
  EXPECT_NEAR(dots.at(2)->key, std::sqrt(design().runs.back().conditions.at("simulated_power_w")), 1e-6);
  EXPECT_THAT(plot.xAxis->label().toStdString(), testing::HasSubstr("for each √W"));
}

class Stale : public WindowTest {};

// Every drawing, table and sentence of the simulation, on every stage of every kind, right after an edit and before
// anything was computed; none when it is there again.
TEST_F(Stale, whatever_is_simulated_lies_behind_paper_from_the_edit_on) {
  int seen = 0;
  each_stage([&](const StageSpec&, const std::string& where) {
    QWidget* stage = get<QStackedWidget>("canvas").currentWidget();
    const auto covered = [&](bool stale) {
      int n = 0;
      for (QWidget* veil : stage->findChildren<QWidget*>("stale"))
        n += veil->isHidden() != stale && veil->parentWidget()->isVisibleTo(stage);
      return n;
    };
    if (!stage->findChild<QWidget*>("stale")) return;
    ASSERT_TRUE(document().power_is_current()) << where;
    document().edit("Turns", [](arc::Design& d) { d.secondary.turns += 1; });
    const int shown = covered(true);
    seen += shown;
    const auto plots = stage->findChildren<QCustomPlot*>();
    if (where.find("switch") != std::string::npos || where.find("bridge bridge") != std::string::npos ||
        where.find("oscillator") != std::string::npos || where.find("driver") != std::string::npos) {
      EXPECT_GE(shown, 3) << where << ", " << plots.size() << " plots";
    }
    document().history().undo(); // what was computed before is taken over
    document().wait_for_simulation();
    QApplication::processEvents();
    for (QWidget* veil : stage->findChildren<QWidget*>("stale")) {
      const bool map = veil->parentWidget()->objectName().contains("map");
      EXPECT_TRUE(veil->isHidden() || map) << veil->parentWidget()->objectName().toStdString() << " on " << where;
    }
  });
  EXPECT_GT(seen, 30);
}

TEST_F(WindowTest, the_ruler_says_what_it_compares_with_and_which_pole_is_ridden) {
  open_kind("dual-resonant");
  const std::string ruler = dynamic_cast<SpokenDrawing&>(get<QWidget>("ruler")).readings().toStdString();
  EXPECT_THAT(ruler, testing::HasSubstr("rides the lower pole"));
  EXPECT_THAT(ruler, testing::ContainsRegex("above [0-9.]+ kHz|in tune: [0-9.]+ kHz is 5 % below"));
  show_stage("tune");
  const std::string words = get<QLabel>("tune reason").text().toStdString();
  EXPECT_THAT(words, testing::HasSubstr("on the lower pole"));
  EXPECT_THAT(words, testing::ContainsRegex("To the other pole|None of the single changes"));
}

TEST_F(WindowTest, the_current_transformer_has_a_sheet_with_the_comparators_volts) {
  open_kind("dual-resonant");
  show_stage("bridge");
  QDialog* sheet = open_by(&get<QPushButton>("limit transformer"));
  ASSERT_TRUE(sheet);
  const auto* figures = sheet->findChild<QTableWidget*>("current transformer figures");
  ASSERT_TRUE(figures);
  QStringList rows;
  for (int r = 0; r < figures->rowCount(); ++r)
    rows << figures->item(r, 0)->text() + " " + figures->item(r, 1)->text();
  EXPECT_THAT(rows.join("; ").toStdString(), testing::HasSubstr("Comparator, for 250 A 12.5 V"));
  sheet->close();
}

} // namespace
