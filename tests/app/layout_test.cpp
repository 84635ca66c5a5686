// The window's layout where it has laws of its own: wide windows, the feed's path, tables; contrast and cautions.
// What holds on every stage is in walk/walk_test.cpp.
#include "support.h"

#include "stages/stage.h"

using testing::HasSubstr;

namespace {

class Layout : public WindowTest {};

TEST_F(Layout, in_a_wide_window_fields_stay_together) {
  for (const QSize size : {QSize(1920, 1080), QSize(3840, 2160)}) {
    window().resize(size);
    for (const char* stage : {"tank", "switch", "fire"}) {
      show_stage(stage);
      if (stage == std::string("fire")) press("fire page Notes");
      std::vector<QRect> places;
      for (const QuantityField* field :
           get<QStackedWidget>("canvas").currentWidget()->findChildren<QuantityField*>())
        if (field->isVisible()) places.emplace_back(field->mapTo(&window(), QPoint(0, 0)), field->size());
      ASSERT_GT(places.size(), 5U);
      int neighbours = 0;
      for (const QRect& a : places) {
        int gap = 1 << 20; // to the next one in its row
        for (const QRect& b : places)
          if (std::abs(a.top() - b.top()) < 4 && b.left() > a.right()) gap = std::min(gap, b.left() - a.right());
        if (gap == 1 << 20) continue;
        EXPECT_LT(gap, 60) << stage << " at " << size.width();
        ++neighbours;
      }
      EXPECT_GE(neighbours, 2) << stage;
    }
  }
}

TEST_F(Layout, the_feeds_path_takes_the_width_and_its_plot_the_height) {
  show_stage("feed");
  for (const QSize size : {QSize(1024, 700), QSize(1280, 800), QSize(1920, 1080), QSize(3840, 2160)}) {
    window().resize(size);
    settle();
    document().wait_for_simulation();
    QApplication::processEvents();
    const auto& strip = get<QWidget>("feed strip");
    const auto& end = get<QLabel>("tank joint");
    if (size.width() < 2000) { // beyond that blocks stand as far apart as they still read as one path
      EXPECT_GT(end.mapTo(&strip, QPoint(end.width(), 0)).x(), 0.7 * strip.width()) << size.width();
    }
    const auto& panel = get<QWidget>("feed block panel");
    const auto& stage = *get<QStackedWidget>("canvas").currentWidget();
    if (size.height() >= 1000) {
      EXPECT_LT(panel.height(), 0.25 * stage.height()) << size.height() << ": it grows no further than its numbers";
    }
    // Every block's numbers are there, scrolled at most in a low window.
    for (int i = 1; i <= static_cast<int>(design().feed.size()); ++i) {
      press(QString("block %1").arg(i));
      for (const QuantityField* field : panel.findChildren<QuantityField*>())
        if (field->isVisible() && size.height() >= 1000) {
          EXPECT_TRUE(panel.rect().contains(QRect(field->mapTo(&panel, QPoint(0, 0)), field->size())))
              << field->objectName().toStdString() << " at " << size.width();
        }
    }
  }
}

TEST_F(Layout, an_empty_tables_heads_stand_to_the_left) {
  show_stage("tank");
  press("from shelf");
  const auto* table = window().findChild<QTableWidget*>("bank offers");
  ASSERT_TRUE(table);
  ASSERT_EQ(table->rowCount(), 0) << "the shelf's examples do not count";
  EXPECT_TRUE(table->horizontalHeader()->defaultAlignment() & Qt::AlignLeft);
}

TEST_F(Layout, both_themes_keep_their_contrast) { // WCAG 2.1: 4.5:1 for text
  for (const Theme& theme : {Theme::daylight(), Theme::dark_room()})
    for (const QColor& ground : {theme.paper, theme.card, theme.shade})
      for (const QColor& text : {theme.ink, theme.second, theme.arc, theme.settled, theme.warn, theme.stop})
        EXPECT_GE(contrast_ratio(text, ground), 4.5)
            << theme.name.toStdString() << ": " << text.name().toStdString() << " on "
            << ground.name().toStdString();
}

TEST_F(Layout, every_stage_defers_to_codes_and_licensed_practice) {
  for (const StageSpec& stage : stages()) {
    ASSERT_FALSE(stage.cautions.isEmpty()) << stage.key.toStdString();
    EXPECT_THAT(stage.cautions.join(" ").toStdString(), HasSubstr("licensed practice")) << stage.key.toStdString();
    EXPECT_GE(stage.cautions.size(), stage.place == RailPlace::work ? 3 : 2) << stage.key.toStdString();
  }
}

} // namespace
