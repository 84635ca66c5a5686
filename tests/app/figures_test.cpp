// Figures of a simulation on the stages: each that has a value stands on a list, and says why by keyboard.
#include "support.h"

#include "coil/figures.h"
#include "coil/kind.h"
#include "widgets/figure_list.h"

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
        if (!arc::listed_on(figure, stage.key.toStdString())) continue;
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
      EXPECT_TRUE(arc::figure_text(figure, view, document().units()).empty() ||
                  shown.contains(std::string(figure.group) + std::string(figure.key)))
          << kind << " " << figure.key << " is on no stage";
    EXPECT_GE(shown.size(), 20u) << kind;
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
  for (const char* part : {"Primary's peak current", "Largest current of the primary", "Coupling", "±", "Q by 20 %",
                           "independent program"})
    EXPECT_THAT(all.toStdString(), HasSubstr(part));
  sheet->close();
}

} // namespace
