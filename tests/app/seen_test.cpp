// What nobody sees costs nothing: stages and sheets are made when first shown, and brought up to date when seen.
#include "stages/stage.h"
#include "support.h"
#include "toolkit/reading_button.h"
#include "toolkit/when_seen.h"

namespace {

class Seen : public WindowTest {};

TEST(when_seen, what_is_hidden_waits_until_it_is_shown_and_then_catches_up_once) {
  QTemporaryDir folder;
  Workspace workspace(folder.path());
  QWidget parent;
  auto* widget = new QWidget(&parent);
  int refreshed = 0;
  (new WhenSeen(widget, [&] { ++refreshed; }))->on(workspace, &Workspace::theme_changed);
  for (int i = 0; i < 3; ++i) workspace.set_theme(Theme::dark_room());
  EXPECT_EQ(refreshed, 0);
  parent.show();
  EXPECT_EQ(refreshed, 1);
  workspace.set_theme(Theme::daylight());
  EXPECT_EQ(refreshed, 2) << "seen: at once";
  widget->hide();
  widget->show();
  EXPECT_EQ(refreshed, 2) << "nothing had changed meanwhile";
}

TEST_F(Seen, a_stage_is_made_when_it_is_first_shown_and_stays) {
  close_window();
  open_window();
  const auto pages = [&] {
    int made = 0;
    const auto& canvas = get<QStackedWidget>("canvas");
    for (int i = 0; i < canvas.count(); ++i) made += !canvas.widget(i)->findChildren<QWidget*>().isEmpty();
    return made;
  };
  EXPECT_EQ(pages(), 1);
  window().open_demo();
  settle();
  show_stage("tank");
  EXPECT_EQ(pages(), 2);
  const QWidget* tank = get<QStackedWidget>("canvas").currentWidget();
  show_stage("resonator");
  show_stage("tank");
  EXPECT_EQ(get<QStackedWidget>("canvas").currentWidget(), tank);
  EXPECT_EQ(pages(), 2);
}

TEST_F(Seen, a_cause_is_found_on_a_stage_and_in_a_sheet_that_were_never_shown) {
  window().workspace().go_to("tank", "tank.bleed_resistance_ohm");
  EXPECT_EQ(stages()[static_cast<std::size_t>(window().stage())].key, "tank");
  EXPECT_EQ(QApplication::focusWidget()->objectName(), "tank.bleed_resistance_ohm");
  EXPECT_FALSE(window().findChild<QDialog*>("room sheet"));
  window().workspace().go_to("primary", "site.ceiling_height_m");
  auto* sheet = window().findChild<QDialog*>("room sheet");
  ASSERT_TRUE(sheet);
  EXPECT_TRUE(sheet->isVisible());
  EXPECT_TRUE(sheet->findChild<QWidget*>("site.ceiling_height_m"));
  sheet->close();
}

TEST_F(Seen, fields_and_readings_of_a_hidden_stage_are_right_when_they_are_seen_again) {
  auto& turns = get<QuantityField>("secondary.turns");
  const QString before = turns.text();
  show_stage("tank");
  document().edit("Turns", [](arc::Design& d) { d.secondary.turns = 900; });
  settle();
  EXPECT_EQ(turns.text(), before) << "nobody looks";
  show_stage("resonator");
  EXPECT_EQ(turns.text(), "900");
  for (ReadingButton* reading : window().findChildren<ReadingButton*>())
    if (reading->isVisible() && reading->objectName() == "reading secondary_inductance_h") {
      const QString words = reading->accessibleName();
      EXPECT_TRUE(words.contains(reading->value_text())) << words.toStdString();
    }
}

} // namespace
