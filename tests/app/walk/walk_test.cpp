// What holds on every stage of every kind of coil, and of every sheet: nothing leaves the window or is cut,
// everything is reached by keyboard and read by assistive technology, nothing is called safe. A kind's demo is
// simulated once and walked through by all checks; the kinds are the shards of this program
// (tests/app/CMakeLists.txt).
#include "../../given_up.h"
#include "stages/stage.h"
#include "support.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/spoken.h"

#include <QAccessible>
#include <QRegularExpression>
#include <QScrollArea>
#include <QStackedWidget>
#include <map>
#include <qcustomplot.h>
#include <set>

namespace {

class Walk : public WindowTest, public testing::WithParamInterface<const arc::CoilKind*> {
 protected:
  static void TearDownTestSuite() { open().clear(); }
  void SetUp() override {
    std::shared_ptr<MainWindow>& kept = open()[GetParam()];
    const bool is_new = !kept;
    if (is_new) {
      static QTemporaryDir folder;
      kept = std::make_shared<MainWindow>(folder.path() + "/" + GetParam()->key.data());
    }
    borrow_window(kept);
    kept->resize(1280, 800);
    kept->show();
    QApplication::setActiveWindow(kept.get());
    if (!is_new && !document().modified()) return;
    window().open_demo(std::string(GetParam()->key));
    document().wait_for_simulation();
    settle();
  }
  void TearDown() override {
    window().set_units(arc::UnitSystem::metric);
    window().set_dark(false);
    window().hide();
  }
  std::vector<std::string> kinds() const override { return {std::string(GetParam()->key)}; }
  void open_kind(const std::string&) override {}

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

 private:
  static std::map<const arc::CoilKind*, std::shared_ptr<MainWindow>>& open() {
    static std::map<const arc::CoilKind*, std::shared_ptr<MainWindow>> windows;
    return windows;
  }
};

QString spoken(QWidget& widget, QAccessible::Text kind) {
  return QAccessible::queryAccessibleInterface(&widget)->text(kind);
}

TEST_P(Walk, controls_stay_inside_the_window_at_every_size) {
  for (const QSize size : {QSize(1024, 700), QSize(1280, 800), QSize(1920, 1080), QSize(3840, 2160)}) {
    window().resize(size);
    each_stage([&](const StageSpec&, const std::string& where) {
      int seen = 0;
      for (const QWidget* control : window().findChildren<QWidget*>()) {
        if (!is_control(control) || !control->isVisible() || control->window() != &window() ||
            inside_scroll_area(control))
          continue;
        const QRect place(control->mapTo(&window(), QPoint(0, 0)), control->size());
        EXPECT_TRUE(window().rect().contains(place))
            << control->objectName().toStdString() << " on " << where << " at " << size.width();
        ++seen;
      }
      EXPECT_GT(seen, 10);
    });
  }
}

TEST_P(Walk, fields_on_a_stage_do_not_lie_on_each_other) {
  for (const QSize size : {QSize(1024, 700), QSize(1280, 800)}) {
    window().resize(size);
    each_stage([&](const StageSpec&, const std::string& where) {
      std::vector<std::pair<QString, QRect>> places;
      for (const QLineEdit* field : window().findChildren<QLineEdit*>()) {
        if (!field->isVisible() || field->window() != &window() || inside_scroll_area(field)) continue;
        places.emplace_back(field->objectName(), QRect(field->mapTo(&window(), QPoint(0, 0)), field->size()));
      }
      for (std::size_t a = 0; a < places.size(); ++a)
        for (std::size_t b = 0; b < a; ++b)
          EXPECT_FALSE(places[a].second.intersects(places[b].second))
              << places[a].first.toStdString() << " and " << places[b].first.toStdString() << " on " << where
              << " at " << size.width();
    });
  }
}

TEST_P(Walk, tab_reaches_every_field_of_every_stage) {
  each_stage([&](const StageSpec&, const std::string& where) {
    std::set<const QWidget*> wanted, reached;
    for (const QuantityField* field : window().findChildren<QuantityField*>())
      if (field->isVisible() && field->isEnabled() && field->window() == &window()) wanted.insert(field);
    get<QLineEdit>("design name").setFocus();
    for (int k = 0; k < 400 && QApplication::focusWidget(); ++k) {
      reached.insert(QApplication::focusWidget());
      QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    }
    for (const QWidget* field : wanted)
      EXPECT_TRUE(reached.contains(field)) << field->objectName().toStdString() << " on " << where;
  });
}

TEST_P(Walk, no_buttons_words_are_cut_in_the_smallest_window) {
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
    shown.setCurrentIndex(0); // as it was
    Q_EMIT shown.activated(0);
  });
}

// From the largest screens to old laptops, with a panel of the desktop above or below.
TEST_P(Walk, nothing_is_cut_on_any_screen_in_either_unit_system) {
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
        expect_whole_rows(window(), here);
      }
  });
}

TEST_P(Walk, alt_and_a_digit_enter_the_stage_and_f6_goes_from_group_to_group) {
  int digit = 0;
  each_stage([&](const StageSpec& stage, const std::string& where) {
    get<QPushButton>("menu").setFocus();
    const int key = stage.place == RailPlace::work ? Qt::Key_1 + digit++ : QKeySequence(stage.shortcut)[0].key();
    QTest::keyClick(&window(), static_cast<Qt::Key>(key), Qt::AltModifier);
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
    const auto inside = std::ranges::count_if(starts, [&](std::size_t i) { return page->isAncestorOf(stops[i]); });
    EXPECT_LE(inside, 14) << where;
    for (std::size_t i = 0; i + 1 < starts.size(); ++i) EXPECT_LE(starts[i + 1] - starts[i], 6U) << where;
    // The keys go there, round and back.
    for (std::size_t i = 0; i < starts.size(); ++i) QTest::keyClick(QApplication::focusWidget(), Qt::Key_F6);
    EXPECT_EQ(QApplication::focusWidget(), first) << where;
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_F6);
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_F6, Qt::ShiftModifier);
    EXPECT_EQ(QApplication::focusWidget(), first) << where;
  });
}

TEST_P(Walk, every_stage_is_drawn_anew_in_the_dark_room_and_in_inches) {
  each_stage([&](const StageSpec&, const std::string& where) {
    const QImage before = window().grab().toImage();
    window().set_dark(true);
    settle();
    EXPECT_NE(window().grab().toImage(), before) << where;
    window().set_dark(false);
    window().set_units(arc::UnitSystem::inch);
    settle();
    for (const QuantityField* field : window().findChildren<QuantityField*>())
      if (field->isVisible() && field->role().dimension == arc::Dimension::length && !field->text().isEmpty()) {
        EXPECT_FALSE(field->text().contains("mm")) << field->objectName().toStdString() << " on " << where;
      }
    window().set_units(arc::UnitSystem::metric);
    settle();
  });
}

TEST_P(Walk, nothing_is_ever_called_safe) {
  each_stage([](const StageSpec&, const std::string&) {});
  for (const QString& text : texts())
    for (const char* claim : {"is safe", "are safe", "safe to ", "perfectly safe", "completely safe"})
      EXPECT_FALSE(text.contains(claim, Qt::CaseInsensitive)) << text.toStdString();
}

TEST_P(Walk, says_nothing_in_words_that_were_given_up) {
  each_stage([](const StageSpec&, const std::string&) {});
  for (const QString& text : texts()) EXPECT_EQ(given_up::found_in(text.toStdString(), given_up::label), "");
}

TEST_P(Walk, a_disabled_button_says_why) {
  document().edit("bare", [](arc::Design& d) {
    d.feed.clear();
    d.gap.electrode_diameter_m.reset();
    d.measurements.clear();
  });
  settle();
  each_stage([&](const StageSpec&, const std::string& where) {
    for (const QAbstractButton* button : window().findChildren<QAbstractButton*>())
      if (button->isVisible() && !button->isEnabled()) {
        EXPECT_FALSE(button->toolTip().isEmpty()) << button->objectName().toStdString() << " on " << where;
      }
  });
}

TEST_P(Walk, fit_the_smallest_window_in_both_unit_systems_and_cut_no_words) {
  window().resize(1024, 700);
  for (const arc::UnitSystem units : {arc::UnitSystem::metric, arc::UnitSystem::inch}) {
    window().set_units(units);
    const int seen = each_sheet([](QPushButton*, QDialog& sheet, const std::string& name) {
      EXPECT_LE(sheet.width(), 1024) << name;
      EXPECT_LE(sheet.height(), 700) << name;
      expect_whole_words(sheet, name);
      expect_whole_values(sheet, name);
      for (const QWidget* widget : sheet.findChildren<QWidget*>()) {
        if (!widget->isVisible() || widget->parentWidget() != &sheet) continue;
        const QRect place = widget->geometry();
        EXPECT_TRUE(sheet.rect().contains(place)) << widget->objectName().toStdString() << " leaves " << name;
      }
    });
    EXPECT_GE(seen, 2);
  }
}

TEST_P(Walk, escape_closes_each_from_any_field) {
  int fields = 0;
  each_sheet([&](QPushButton* button, QDialog& first, const std::string& name) {
    QStringList names;
    for (const QLineEdit* field : first.findChildren<QLineEdit*>())
      if (field->isVisible() && field->isEnabled() && !field->objectName().startsWith("qt_"))
        names << field->objectName();
    QDialog* sheet = &first;
    for (const QString& field_name : names.mid(0, 6)) {
      auto* field = sheet->findChild<QLineEdit*>(field_name);
      if (!field) continue;
      field->setFocus();
      QTest::keyClick(field, Qt::Key_Escape);
      EXPECT_FALSE(sheet->isVisible()) << field_name.toStdString() << " in " << name;
      ++fields;
      sheet = open_by(button);
      if (!sheet) return;
    }
  });
  EXPECT_GT(fields, 3);
}

TEST_P(Walk, every_control_has_a_name_and_a_role_for_assistive_technology) {
  const auto look = [](const QWidget& root, const std::string& where) {
    for (QWidget* widget : root.findChildren<QWidget*>()) {
      if (!widget->isVisible() || !(widget->focusPolicy() & Qt::TabFocus)) continue;
      QAccessibleInterface* spoken = QAccessible::queryAccessibleInterface(widget);
      ASSERT_TRUE(spoken) << where;
      EXPECT_NE(spoken->role(), QAccessible::NoRole) << widget->objectName().toStdString() << " on " << where;
      QString name = spoken->text(QAccessible::Name);
      if (name.isEmpty() && qobject_cast<QCheckBox*>(widget)) name = widget->accessibleName();
      EXPECT_FALSE(name.isEmpty()) << widget->metaObject()->className() << " " << widget->objectName().toStdString()
                                   << " on " << where;
      if (const auto* field = qobject_cast<QuantityField*>(widget)) {
        EXPECT_EQ(spoken->text(QAccessible::Value), field->text()) << where;
      }
    }
  };
  each_stage([&](const StageSpec&, const std::string& where) { look(window(), where); });
  each_sheet([&](QPushButton*, QDialog& sheet, const std::string& name) { look(sheet, name); });
}

TEST_P(Walk, every_drawing_is_a_graphic_that_says_what_it_shows) {
  int drawings = 0, cursors = 0;
  const auto look = [&](const QWidget& root, const std::string& where) {
    for (QWidget* widget : root.findChildren<QWidget*>()) {
      const auto* drawing = dynamic_cast<const SpokenDrawing*>(widget);
      if (!widget->isVisible() || widget->window() != root.window()) continue;
      if (!drawing && !qobject_cast<QCustomPlot*>(widget)) continue;
      const std::string what = widget->objectName().toStdString() + " on " + where;
      EXPECT_EQ(QAccessible::queryAccessibleInterface(widget)->role(), QAccessible::Graphic) << what;
      const QString name = spoken(*widget, QAccessible::Name), all = spoken(*widget, QAccessible::Description);
      EXPECT_TRUE(name.startsWith(widget->accessibleName()) && !widget->accessibleName().isEmpty()) << what;
      static const QRegularExpression digits("[0-9]");
      EXPECT_TRUE(all.contains(digits)) << what << ": " << all.toStdString();
      static const QRegularExpression broken("\\b(nan|inf)\\b");
      EXPECT_FALSE(all.contains(broken)) << what << ": " << all.toStdString();
      ++drawings;
      if (drawing && !drawing->at_cursor().isEmpty()) {
        EXPECT_TRUE(name.endsWith(drawing->at_cursor())) << what;
        EXPECT_EQ(spoken(*widget, QAccessible::Value), drawing->at_cursor()) << what;
        ++cursors;
      }
    }
  };
  each_stage([&](const StageSpec&, const std::string& where) { look(window(), where); });
  EXPECT_GT(drawings, 6);
  EXPECT_GT(cursors, 0);
}

TEST_P(Walk, choices_boxes_and_tables_are_read_as_they_stand) {
  int boxes = 0, ticks = 0, cells = 0;
  each_stage([&](const StageSpec&, const std::string& where) {
    for (QComboBox* box : window().findChildren<QComboBox*>()) {
      if (!box->isVisible()) continue;
      EXPECT_EQ(QAccessible::queryAccessibleInterface(box)->role(), QAccessible::ComboBox) << where;
      EXPECT_EQ(spoken(*box, QAccessible::Value), box->currentText()) << box->objectName().toStdString() << where;
      ++boxes;
    }
    for (QCheckBox* box : window().findChildren<QCheckBox*>()) {
      if (!box->isVisible()) continue;
      const QAccessibleInterface& read = *QAccessible::queryAccessibleInterface(box);
      EXPECT_EQ(read.role(), QAccessible::CheckBox) << where;
      EXPECT_EQ(read.state().checked, box->isChecked()) << box->objectName().toStdString() << where;
      ++ticks;
    }
    for (QTableWidget* table : window().findChildren<QTableWidget*>()) {
      if (!table->isVisible()) continue;
      EXPECT_FALSE(table->accessibleName().isEmpty()) << where;
      QAccessibleTableInterface* read = QAccessible::queryAccessibleInterface(table)->tableInterface();
      ASSERT_TRUE(read) << where;
      QAccessibleTableModelChangeEvent anew(table, QAccessibleTableModelChangeEvent::ModelReset);
      read->modelChange(&anew); // tables say so themselves while a screen reader runs
      ASSERT_EQ(read->rowCount(), table->rowCount()) << where;
      for (int r = 0; r < std::min(3, table->rowCount()); ++r)
        for (int c = 0; c < table->columnCount(); ++c) {
          if (!table->item(r, c)) continue;
          EXPECT_EQ(read->cellAt(r, c)->text(QAccessible::Name), table->item(r, c)->text()) << where;
          ++cells;
        }
    }
  });
  EXPECT_GT(boxes, 3);
  EXPECT_GT(ticks, 4);
  EXPECT_GT(cells, 10);
}

TEST_P(Walk, every_reading_is_named_with_its_value_and_unit) {
  int seen = 0;
  each_stage([&](const StageSpec&, const std::string& where) {
    for (ReadingButton* reading : window().findChildren<ReadingButton*>()) {
      if (!reading->isVisible()) continue;
      EXPECT_EQ(QAccessible::queryAccessibleInterface(reading)->role(), QAccessible::Button) << where;
      EXPECT_TRUE(spoken(*reading, QAccessible::Name).contains(reading->value_text().section(' ', 0, 0)))
          << reading->value_text().toStdString() << " in " << spoken(*reading, QAccessible::Name).toStdString()
          << " on " << where;
      ++seen;
    }
  });
  EXPECT_GT(seen, 8);
}

INSTANTIATE_TEST_SUITE_P(kinds, Walk, testing::ValuesIn(arc::coil_kinds().begin(), arc::coil_kinds().end()),
                         [](const auto& item) {
                           std::string name(item.param->key);
                           std::ranges::replace(name, '-', '_');
                           return name;
                         });

} // namespace
