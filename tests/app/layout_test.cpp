// What holds on every stage, at every size and in both themes: nothing leaves the window, everything is reachable
// by keyboard, colours keep their contrast, and no step is ever called safe.
#include "support.h"

#include "stages/stage.h"

#include <QScrollArea>
#include <set>

using testing::HasSubstr;

namespace {

class Layout : public WindowTest {
 protected:
  static bool inside_scroll_area(const QWidget* widget) {
    for (const QWidget* w = widget->parentWidget(); w; w = w->parentWidget())
      if (qobject_cast<const QScrollArea*>(w)) return true;
    return false;
  }
  static bool is_control(const QWidget* w) {
    return qobject_cast<const QLineEdit*>(w) || qobject_cast<const QAbstractButton*>(w) ||
           qobject_cast<const QComboBox*>(w);
  }
  /// Every text that a person can read or a screen reader can speak.
  QStringList texts() {
    QStringList out;
    for (const QWidget* widget : window().findChildren<QWidget*>()) {
      out << widget->toolTip() << widget->accessibleName() << widget->accessibleDescription();
      if (const auto* label = qobject_cast<const QLabel*>(widget)) out << label->text();
      if (const auto* button = qobject_cast<const QAbstractButton*>(widget)) out << button->text();
    }
    for (const StageSpec& stage : stages()) out << stage.cautions;
    return out;
  }
};

TEST_F(Layout, controls_stay_inside_the_window_at_every_size) {
  for (const QSize size : {QSize(1024, 700), QSize(1280, 800), QSize(1920, 1080), QSize(3840, 2160)}) {
    window().resize(size);
    for (std::size_t i = 0; i < stages().size(); ++i) {
      window().show_stage(static_cast<int>(i));
      settle();
      int seen = 0;
      for (const QWidget* control : window().findChildren<QWidget*>()) {
        if (!is_control(control) || !control->isVisible() || control->window() != &window() ||
            inside_scroll_area(control))
          continue;
        const QRect place(control->mapTo(&window(), QPoint(0, 0)), control->size());
        EXPECT_TRUE(window().rect().contains(place)) << control->objectName().toStdString() << " on "
                                                     << stages()[i].key.toStdString() << " at " << size.width();
        ++seen;
      }
      EXPECT_GT(seen, 10);
    }
  }
}

TEST_F(Layout, fields_on_a_stage_do_not_lie_on_each_other) {
  for (const QSize size : {QSize(1024, 700), QSize(1280, 800)}) {
    window().resize(size);
    for (std::size_t i = 0; i < stages().size(); ++i) {
      window().show_stage(static_cast<int>(i));
      settle();
      std::vector<std::pair<QString, QRect>> places;
      for (const QLineEdit* field : window().findChildren<QLineEdit*>()) {
        if (!field->isVisible() || field->window() != &window() || inside_scroll_area(field)) continue;
        places.emplace_back(field->objectName(), QRect(field->mapTo(&window(), QPoint(0, 0)), field->size()));
      }
      for (std::size_t a = 0; a < places.size(); ++a)
        for (std::size_t b = 0; b < a; ++b)
          EXPECT_FALSE(places[a].second.intersects(places[b].second))
              << places[a].first.toStdString() << " and " << places[b].first.toStdString() << " at "
              << size.width();
    }
  }
}

TEST_F(Layout, tab_reaches_every_field_of_every_stage) {
  for (std::size_t i = 0; i < stages().size(); ++i) {
    window().show_stage(static_cast<int>(i));
    settle();
    std::set<const QWidget*> wanted, reached;
    for (const QuantityField* field : window().findChildren<QuantityField*>())
      if (field->isVisible() && field->isEnabled() && field->window() == &window()) wanted.insert(field);
    get<QLineEdit>("design name").setFocus();
    for (int k = 0; k < 400 && QApplication::focusWidget(); ++k) {
      reached.insert(QApplication::focusWidget());
      QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    }
    for (const QWidget* field : wanted)
      EXPECT_TRUE(reached.contains(field))
          << field->objectName().toStdString() << " on " << stages()[i].key.toStdString();
  }
}

TEST_F(Layout, no_buttons_words_are_cut_in_the_smallest_window) {
  window().resize(1024, 700);
  each_stage([&](const StageSpec&, const std::string& where) {
    expect_whole_words(window(), where);
    if (where != "tube oscillator") return;
    press("circuit seen"); // its tools change with what is shown
    auto& shown = get<QComboBox>("tube plot shows");
    for (int i = 0; i < shown.count(); ++i) {
      shown.setCurrentIndex(i);
      Q_EMIT shown.activated(i);
      QApplication::processEvents();
      expect_whole_words(window(), where + ", " + shown.itemText(i).toStdString());
      EXPECT_GE(shown.width(), 110) << i;
    }
  });
}

// From the largest screens to old laptops, with a panel of the desktop above or below.
TEST_F(Layout, nothing_is_cut_on_any_screen_in_either_unit_system) {
  each_stage([&](const StageSpec&, const std::string& where) {
    for (const QSize size :
         {QSize(3840, 2160), QSize(1920, 1080), QSize(1366, 768), QSize(1280, 720), QSize(1024, 700)})
      for (const arc::UnitSystem units : {arc::UnitSystem::inch, arc::UnitSystem::metric}) {
        window().resize(size);
        window().set_units(units);
        QApplication::processEvents();
        const std::string here =
            where + " at " + std::to_string(size.width()) + (units == arc::UnitSystem::inch ? " in inches" : "");
        for (const QWidget* control : window().findChildren<QWidget*>())
          if (is_control(control) && control->isVisible() && control->window() == &window() &&
              !inside_scroll_area(control)) {
            EXPECT_EQ(control->visibleRegion().boundingRect(), control->rect())
                << control->objectName().toStdString() << " on " << here;
          }
        expect_whole_words(window(), here);
        expect_whole_values(window(), here);
      }
  });
}

TEST_F(Layout, in_a_wide_window_fields_stay_together) {
  for (const QSize size : {QSize(1920, 1080), QSize(3840, 2160)}) {
    window().resize(size);
    for (const char* stage : {"tank", "switch", "fire"}) {
      show_stage(stage);
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

TEST_F(Layout, alt_and_a_digit_enter_the_stage_and_f6_goes_from_group_to_group) {
  for (const arc::CoilKind* kind : arc::coil_kinds()) {
    const std::string key(kind->key);
    window().open_demo(key);
    settle();
    document().wait_for_simulation();
    QApplication::processEvents();
    int digit = 0;
    for (const StageSpec& stage : stages()) {
      if (!belongs_to(stage, *kind)) continue;
      const std::string where = key + " " + stage.key.toStdString();
      get<QPushButton>("menu").setFocus();
      QTest::keyClick(&window(), static_cast<Qt::Key>(Qt::Key_1 + digit++), Qt::AltModifier);
      settle();
      document().wait_for_simulation();
      QApplication::processEvents();
      const QWidget* page = get<QStackedWidget>("canvas").currentWidget();
      QWidget* first = QApplication::focusWidget();
      ASSERT_TRUE(first && page->isAncestorOf(first)) << where;
      // From its first control every other is some F6 and at most five Tabs away.
      const auto stops = window().tab_stops();
      const auto starts = window().group_starts(stops);
      EXPECT_TRUE(std::ranges::any_of(starts, [&](std::size_t i) { return stops[i] == first; })) << where;
      const auto inside =
          std::ranges::count_if(starts, [&](std::size_t i) { return page->isAncestorOf(stops[i]); });
      EXPECT_LE(inside, 14) << where;
      for (std::size_t i = 0; i + 1 < starts.size(); ++i) EXPECT_LE(starts[i + 1] - starts[i], 6U) << where;
      // The keys go there, round and back.
      for (std::size_t i = 0; i < starts.size(); ++i) QTest::keyClick(QApplication::focusWidget(), Qt::Key_F6);
      EXPECT_EQ(QApplication::focusWidget(), first) << where;
      QTest::keyClick(QApplication::focusWidget(), Qt::Key_F6);
      QTest::keyClick(QApplication::focusWidget(), Qt::Key_F6, Qt::ShiftModifier);
      EXPECT_EQ(QApplication::focusWidget(), first) << where;
    }
  }
}

TEST_F(Layout, both_themes_keep_their_contrast) { // WCAG 2.1: 4.5:1 for text
  for (const Theme& theme : {Theme::daylight(), Theme::dark_room()})
    for (const QColor& ground : {theme.paper, theme.card, theme.shade})
      for (const QColor& text : {theme.ink, theme.second, theme.arc, theme.settled, theme.warn, theme.stop})
        EXPECT_GE(contrast_ratio(text, ground), 4.5)
            << theme.name.toStdString() << ": " << text.name().toStdString() << " on "
            << ground.name().toStdString();
}

TEST_F(Layout, every_stage_is_drawn_anew_in_the_dark_room_and_in_inches) {
  for (std::size_t i = 0; i < stages().size(); ++i) {
    window().show_stage(static_cast<int>(i));
    settle();
    const QImage before = window().grab().toImage();
    window().set_dark(true);
    settle();
    EXPECT_NE(window().grab().toImage(), before) << stages()[i].key.toStdString();
    window().set_dark(false);
    window().set_units(arc::UnitSystem::inch);
    settle();
    for (const QuantityField* field : window().findChildren<QuantityField*>())
      if (field->isVisible() && field->role().dimension == arc::Dimension::length && !field->text().isEmpty()) {
        EXPECT_FALSE(field->text().contains("mm")) << field->objectName().toStdString();
      }
    window().set_units(arc::UnitSystem::metric);
    settle();
  }
}

TEST_F(Layout, nothing_is_ever_called_safe) {
  for (std::size_t i = 0; i < stages().size(); ++i) {
    window().show_stage(static_cast<int>(i));
    settle();
  }
  for (const QString& text : texts())
    for (const char* claim : {"is safe", "are safe", "safe to ", "perfectly safe", "completely safe"})
      EXPECT_FALSE(text.contains(claim, Qt::CaseInsensitive)) << text.toStdString();
}

TEST_F(Layout, every_stage_defers_to_codes_and_licensed_practice) {
  for (const StageSpec& stage : stages()) {
    ASSERT_FALSE(stage.cautions.isEmpty()) << stage.key.toStdString();
    EXPECT_THAT(stage.cautions.join(" ").toStdString(), HasSubstr("licensed practice")) << stage.key.toStdString();
    EXPECT_GE(stage.cautions.size(), 3) << stage.key.toStdString();
  }
}

TEST_F(Layout, a_disabled_button_says_why) {
  document().edit("bare", [](arc::Design& d) {
    d.feed.clear();
    d.gap.electrode_diameter_m.reset();
    d.measurements.clear();
  });
  settle();
  for (std::size_t i = 0; i < stages().size(); ++i) {
    window().show_stage(static_cast<int>(i));
    settle();
    for (const QAbstractButton* button : window().findChildren<QAbstractButton*>())
      if (button->isVisible() && !button->isEnabled()) {
        EXPECT_FALSE(button->toolTip().isEmpty()) << button->objectName().toStdString();
      }
  }
}

} // namespace
