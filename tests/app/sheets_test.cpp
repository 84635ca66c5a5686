// Sheets: they grow with the window, Escape takes back first what was typed, and the guide names what stands on the
// screen. What holds of every sheet is in walk/walk_test.cpp.
#include "craft/dismissed.h"
#include "support.h"

#include "stages/stage.h"

#include <QComboBox>
#include <QDialog>
#include <QFile>
#include <QHeaderView>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QRegularExpression>
#include <QSet>
#include <QTableWidget>

namespace {

class Sheets : public WindowTest {};

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
  const arc::Finding warned =
      *std::ranges::find(document().findings(), arc::Severity::warning, &arc::Finding::severity);
  document().edit("Dismiss", [&](arc::Design& d) { arc::dismiss(d, warned, "seen", "2026-12-01T20:00:00"); });
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
