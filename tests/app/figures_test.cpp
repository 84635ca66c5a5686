// Figures of a simulation on the stages: each that has a value stands on a list, and says why by keyboard.
#include "support.h"

#include "analysis/analyse.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "model/fields.h"
#include "simulation/figures.h"
#include "toolkit/figure_list.h"

#include <set>

namespace {

using testing::HasSubstr;

class FiguresSeen : public WindowTest {
 protected:
  std::vector<FigureList*> lists() {
    std::vector<FigureList*> out;
    for (auto* list : get<QStackedWidget>("canvas").currentWidget()->findChildren<FigureList*>())
      if (list->isVisible()) out.push_back(list);
    return out;
  }
};

TEST_F(FiguresSeen, every_one_with_a_value_stands_on_its_stage_as_the_table_says_it) {
  for (const std::string& kind : kinds()) {
    open_kind(kind);
    std::set<std::string> shown;
    for (const StageSpec& stage : stages()) {
      if (!belongs_to(stage, *arc::coil_kind(kind))) continue;
      show_stage(qPrintable(stage.key));
      const arc::PowerView view{document().design(), *document().analysis(), *document().power()};
      const std::vector<FigureList*> on_stage = lists();
      for (const arc::Figure& figure : arc::figures_of(document().design())) {
        if (figure.needs != arc::Needs::power || !arc::listed_on(figure, stage.key.toStdString())) continue;
        const std::string text = arc::figure_text(figure, view, document().units());
        if (text.empty()) continue;
        ASSERT_EQ(on_stage.size(), 1u) << kind << " " << stage.key.toStdString();
        const QString name = QString::fromUtf8(figure.row.empty() ? figure.title.data() : figure.row.data());
        const auto rows = on_stage.front()->findItems(name, Qt::MatchExactly);
        ASSERT_FALSE(rows.empty()) << kind << " " << name.toStdString();
        EXPECT_TRUE(std::ranges::any_of(rows,
                                        [&](const QTableWidgetItem* item) {
                                          return on_stage.front()->item(item->row(), 1)->text().toStdString() ==
                                                 text;
                                        }))
            << kind << " " << name.toStdString() << " " << text;
        shown.insert(std::string(figure.group) + std::string(figure.key));
      }
    }
    const arc::PowerView view{document().design(), *document().analysis(), *document().power()};
    for (const arc::Figure& figure : arc::figures_of(document().design()))
      EXPECT_TRUE(figure.needs != arc::Needs::power || arc::figure_text(figure, view, document().units()).empty() ||
                  shown.contains(std::string(figure.group) + std::string(figure.key)))
          << kind << " " << figure.key << " is on no stage";
    EXPECT_GE(shown.size(), 20u) << kind;
  }
}

TEST_F(FiguresSeen, every_one_at_rest_stands_in_the_sheet_of_all_and_says_why) {
  for (const std::string& kind : kinds()) {
    open_kind(kind);
    show_stage("resonator");
    press("all figures");
    auto& list = get<FigureList>("figures at rest");
    const arc::PowerView view = arc::at_rest(document().design(), analysis());
    int row = 0;
    for (const arc::Figure* figure : arc::figures_at_rest(arc::kind_of(document().design()))) {
      if (!arc::figure_value(*figure, view)) continue;
      ASSERT_LT(row, list.rowCount()) << kind << " " << figure->key;
      EXPECT_EQ(list.item(row, 0)->text().toStdString(), figure->title);
      EXPECT_EQ(list.item(row++, 1)->text().toStdString(), arc::figure_text(*figure, view, document().units()));
    }
    EXPECT_EQ(list.rowCount(), row) << kind;
    list.setCurrentCell(0, 0);
    list.setFocus();
    QTest::keyClick(&list, Qt::Key_Return);
    auto* why = window().findChild<QDialog*>("why");
    ASSERT_NE(why, nullptr) << kind;
    why->close();
    press("close figures");
    QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }
}

TEST_F(FiguresSeen, enter_says_why_with_inputs_and_source) {
  window().open_demo("bridge");
  document().wait_for_simulation();
  show_stage("bridge");
  FigureList& list = *lists().front();
  const auto row = list.findItems("Primary peak", Qt::MatchExactly).front()->row();
  list.setCurrentCell(row, 0);
  list.setFocus();
  QTest::keyClick(&list, Qt::Key_Return);
  QDialog* sheet = open_sheet();
  ASSERT_NE(sheet, nullptr);
  EXPECT_EQ(sheet->objectName(), "why");
  QString all;
  for (const QLabel* label : sheet->findChildren<QLabel*>()) all += label->text() + "\n";
  for (const char* part :
       {"Primary's peak current", "Largest in the burst", "Coupling", "±", "Q by 20 %", "independent program"})
    EXPECT_THAT(all.toStdString(), HasSubstr(part));
  sheet->close();
}

// Findings lead to a stage that their kind has, whatever is wrong: each number of each demo at an end of its range,
// at rest, and some of them simulated.
TEST_F(FiguresSeen, each_finding_leads_to_a_stage_of_its_kind) {
  const std::atomic<bool> never{false};
  arc::PowerOptions plain;
  plain.advice = plain.variac = plain.waveforms = false;
  std::set<std::string> seen;
  for (const arc::CoilKind* kind : arc::coil_kinds()) {
    const auto expect_stages = [&](const std::vector<arc::Finding>& findings) {
      for (const arc::Finding& finding : findings) {
        const auto stage = std::ranges::find(stages(), QString::fromStdString(finding.stage), &StageSpec::key);
        ASSERT_NE(stage, stages().end()) << finding.id << " " << finding.stage;
        EXPECT_TRUE(belongs_to(*stage, *kind)) << kind->key << " " << finding.id << " " << finding.stage;
        seen.insert(finding.id);
      }
    };
    ASSERT_TRUE(window().open_demo(std::string(kind->key)));
    const arc::Design demo = document().design();
    int i = 0;
    for (const arc::FieldSpec& field : arc::design_fields()) {
      const std::string_view group = field.key.substr(0, field.key.find('.'));
      if (group != "site" && !std::ranges::count(kind->groups, group)) continue;
      arc::Design design = demo;
      field.set(design, ++i % 2 ? field.minimum : field.maximum);
      const arc::Analysis analysis = arc::analyse(design);
      expect_stages(analysis.findings);
      if (i % 24 == 0)
        expect_stages(arc::analyse_power(design, analysis, plain, arc::UnitSystem::metric, never).findings);
    }
    EXPECT_GT(i, 20) << kind->key;
  }
  EXPECT_GT(seen.size(), 45u);
}

} // namespace
