// Every sheet of every stage of every kind: it fits the smallest window in both unit systems, cuts no words, is
// named for a screen reader, and Escape closes it from any of its fields.
#include "support.h"

#include "stages/stage.h"
#include "widgets/quantity_field.h"

#include <QAccessible>
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QFile>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QRegularExpression>
#include <QSet>
#include <QStackedWidget>
#include <QTableWidget>
#include <set>

namespace {

class Sheets : public WindowTest {
 protected:
  QDialog* open_sheet() {
    for (QDialog* dialog : window().findChildren<QDialog*>())
      if (dialog->isVisible()) return dialog;
    return nullptr;
  }
  /// The buttons of the present stage that open a sheet of the program's own.
  std::vector<QPushButton*> openers() {
    std::vector<QPushButton*> out;
    static const std::set<QString> files{"Export…", "Import…", "File…"}; // the system's dialogs
    for (QPushButton* button : get<QStackedWidget>("canvas").currentWidget()->findChildren<QPushButton*>())
      if (button->isVisible() && button->isEnabled() && button->text().endsWith("…") &&
          !files.contains(button->text()))
        out.push_back(button);
    return out;
  }
  QDialog* open_by(QPushButton* button) {
    button->click();
    QApplication::processEvents();
    return open_sheet();
  }
  /// Calls `look` with each sheet, open, and its name for messages; closes it.
  template <typename Look>
  int each_sheet(Look look) {
    int seen = 0;
    each_stage([&](const StageSpec&, const std::string& where) {
      for (QPushButton* button : openers()) {
        QDialog* sheet = open_by(button);
        const std::string name = button->text().toStdString() + " on " + where;
        if (!sheet) {
          ADD_FAILURE() << name << " opens nothing";
          continue;
        }
        look(button, *sheet, name);
        ++seen;
        if (QDialog* still = open_sheet()) still->close();
        QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
      }
    });
    return seen;
  }
};

TEST_F(Sheets, fit_the_smallest_window_in_both_unit_systems_and_cut_no_words) {
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
    EXPECT_GE(seen, 12);
  }
}

TEST_F(Sheets, those_with_more_to_show_grow_with_the_window_and_never_leave_it) {
  show_stage("tank");
  QSize before;
  for (const QSize size : {QSize(1024, 700), QSize(1366, 768), QSize(1920, 1080), QSize(3840, 2160)}) {
    window().resize(size);
    QApplication::processEvents();
    press("edit shelf");
    QDialog* sheet = open_sheet();
    ASSERT_TRUE(sheet);
    EXPECT_LE(sheet->width(), size.width());
    EXPECT_LE(sheet->height(), size.height());
    EXPECT_GE(sheet->width(), before.width());
    EXPECT_GE(sheet->height(), before.height());
    before = sheet->size();
    if (size.width() >= 1920) { // then all columns are seen
      const auto* table = sheet->findChild<QTableWidget*>("shelf parts");
      ASSERT_TRUE(table);
      EXPECT_LE(table->horizontalHeader()->length(), table->viewport()->width());
    }
    sheet->close();
    QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }
  EXPECT_GT(before.width(), 1400);
}

TEST_F(Sheets, escape_closes_each_from_any_field) {
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
  EXPECT_GT(fields, 30);
}

TEST_F(Sheets, escape_first_takes_back_what_was_typed) {
  window().open_demo("tube");
  settle();
  show_stage("oscillator");
  press("tube parts");
  QDialog* sheet = open_sheet();
  ASSERT_TRUE(sheet);
  auto* pitch = sheet->findChild<QLineEdit*>("feedback.pitch_m");
  ASSERT_TRUE(pitch);
  const QString before = pitch->text();
  pitch->setFocus();
  pitch->setText("nonsense");
  QTest::keyClick(pitch, Qt::Key_Escape);
  EXPECT_TRUE(sheet->isVisible());
  EXPECT_EQ(pitch->text(), before);
  QTest::keyClick(pitch, Qt::Key_Escape);
  EXPECT_FALSE(sheet->isVisible());
}

TEST_F(Sheets, every_control_has_a_name_and_a_role_for_assistive_technology) {
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

// The guide's words in italics are those that stand on a stage, in a menu or in a sheet.
TEST_F(Sheets, every_word_that_the_guide_names_is_on_the_screen) {
  QSet<QString> seen;
  const auto read = [&](const QWidget& root) {
    for (const QWidget* w : root.findChildren<QWidget*>()) {
      seen << w->accessibleName(); // of readings: their caption and value
      if (const auto* table = qobject_cast<const QTableWidget*>(w))
        for (int r = 0; r < table->rowCount(); ++r)
          if (const auto* item = table->item(r, 0)) seen << item->text();
      if (const auto* button = qobject_cast<const QAbstractButton*>(w)) seen << button->text();
      if (const auto* label = qobject_cast<const QLabel*>(w)) seen << label->text();
      if (const auto* box = qobject_cast<const QComboBox*>(w))
        for (int i = 0; i < box->count(); ++i) seen << box->itemText(i);
      if (const auto* menu = qobject_cast<const QMenu*>(w)) seen << menu->title();
      for (const QAction* action : w->actions()) seen << action->text();
    }
  };
  each_stage([&](const StageSpec&, const std::string&) { read(window()); });
  each_sheet([&](QPushButton*, QDialog& sheet, const std::string&) { read(sheet); });
  for (const QAction* action : window().all_actions()) seen << action->text();
  window().open_demo(); // what a second part and a free profile add
  document().edit("Parts", [](arc::Design& d) {
    d.primary.conductor_diameter_m = 0.01;
    d.topload.push_back(d.topload.front());
    d.topload.back().shape = "profile";
  });
  settle();
  for (const char* stage : {"resonator", "primary"}) {
    show_stage(stage);
    read(window());
  }
  seen << "Menu"
       << "New of another kind";
  QFile file(":/help/guide.md");
  ASSERT_TRUE(file.open(QIODevice::ReadOnly));
  const QString guide = QString::fromUtf8(file.readAll()).replace('\n', ' ');
  static const QRegularExpression italics(R"((?<![*\w])\*(?![*\s])([^*]+)\*(?!\*))");
  int named = 0;
  for (auto it = italics.globalMatch(guide); it.hasNext();) {
    QString words = it.next().captured(1).simplified();
    if (words.startsWith("Menu, ")) words = words.mid(6);
    ++named;
    EXPECT_TRUE(std::ranges::any_of(seen, [&](const QString& s) {
      return s.startsWith(words, Qt::CaseInsensitive);
    })) << words.toStdString();
  }
  EXPECT_GT(named, 40);
}

} // namespace
