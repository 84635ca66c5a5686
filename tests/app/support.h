// Shared by the interface tests: a window on a throw-away folder, and hands that type, press and drag.
#pragma once

#include "boxes.h"
#include "coil_views/coil_view.h"
#include "stages/stage.h"
#include "toolkit/quantity_field.h"
#include "window/main_window.h"

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QFile>
#include <QFileDialog>
#include <QHeaderView>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QStackedWidget>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <memory>
#include <set>

class WindowTest : public testing::Test {
 protected:
  void SetUp() override {
    ASSERT_TRUE(folder_.isValid());
    open_window();
    ASSERT_TRUE(window().open_demo());
    settle();
  }
  void TearDown() override { close_window(); }

  void open_window() {
    QApplication::processEvents(); // what earlier windows left
    window_ = std::make_shared<MainWindow>(folder_.path());
    // The demos, which most tests begin with, are simulated once.
    static const auto computed = std::make_shared<arc::Kept>(8);
    document().share(computed);
    window_->resize(1280, 800);
    window_->show();
    QApplication::setActiveWindow(window_.get());
  }
  void close_window() { window_.reset(); }

  /// Of another test, which stays open.
  void borrow_window(std::shared_ptr<MainWindow> window) { window_ = std::move(window); }

  MainWindow& window() { return *window_; }
  Document& document() { return window_->document(); }
  const arc::Design& design() { return document().design(); }
  const arc::Analysis& analysis() { return *document().analysis(); }
  QString path(const QString& name) const { return folder_.filePath(name); }

  void settle() {
    document().wait_for_analysis();
    QApplication::processEvents();
  }

  /// The control with this name on the stage in front, or anywhere in the window.
  template <typename T>
  T& get(const QString& name) {
    T* found = nullptr;
    for (T* candidate : window_->findChildren<T*>(name))
      if (!found || candidate->isVisible()) found = candidate;
    if (!found) throw std::runtime_error("no control called " + name.toStdString());
    return *found;
  }

  void show_stage(const char* key) {
    QTest::mouseClick(&get<QAbstractButton>(QString("stage ") + key), Qt::LeftButton);
    settle();
  }
  /// The kinds of coil that each_stage() walks through, and how one comes on the screen: its demo, simulated.
  virtual std::vector<std::string> kinds() const {
    std::vector<std::string> out;
    for (const arc::CoilKind* kind : arc::coil_kinds()) out.emplace_back(kind->key);
    return out;
  }
  virtual void open_kind(const std::string& key) {
    window().open_demo(key);
    settle();
    document().wait_for_simulation();
  }
  /// Calls `look` on every stage of every kind's demo, computed and simulated, with its name for messages.
  template <typename Look>
  void each_stage(Look look) {
    for (const std::string& kind : kinds()) {
      open_kind(kind);
      for (const StageSpec& stage : stages()) {
        if (!belongs_to(stage, *arc::coil_kind(kind))) continue;
        show_stage(qPrintable(stage.key));
        look(stage, kind + " " + stage.key.toStdString());
      }
    }
  }
  QDialog* open_sheet() {
    for (QDialog* dialog : window().findChildren<QDialog*>())
      if (dialog->isVisible()) return dialog;
    return nullptr;
  }
  /// The buttons of the present stage that open a sheet of the program's own.
  std::vector<QPushButton*> openers() {
    std::vector<QPushButton*> out;
    static const std::set<QString> files{"Export…", "Import…", "File…", "Open a file…"}; // the system's dialogs
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
  /// What stands in fields, choices and cells of tables below `root` has room.
  static void expect_whole_values(const QWidget& root, const std::string& where) {
    const auto shown = [&](const QWidget* w) { return w->isVisible() && w->window() == root.window(); };
    for (const QLineEdit* field : root.findChildren<QLineEdit*>())
      if (shown(field) && field->isEnabled() && !qobject_cast<const QComboBox*>(field->parentWidget())) {
        EXPECT_GE(field->width() - 16, field->fontMetrics().horizontalAdvance(field->text()))
            << field->objectName().toStdString() << ": " << field->text().toStdString() << " on " << where;
      }
    for (const QComboBox* box : root.findChildren<QComboBox*>())
      if (shown(box) && !box->objectName().endsWith("class")) { // a class of part loses its first words only
        EXPECT_GE(box->width() - 30, box->fontMetrics().horizontalAdvance(box->currentText()))
            << box->objectName().toStdString() << ": " << box->currentText().toStdString() << " on " << where;
      }
    for (const QTableView* table : root.findChildren<QTableView*>())
      for (int r = 0; shown(table) && r < table->model()->rowCount(); ++r)
        for (int c = 0; c < table->model()->columnCount(); ++c) {
          const QModelIndex item = table->model()->index(r, c);
          const QString text = item.data().toString();
          if (text.isEmpty() || table->isColumnHidden(c) || table->isRowHidden(r)) continue;
          const QVariant font = item.data(Qt::FontRole);
          const QFontMetrics metrics(font.isValid() ? font.value<QFont>() : table->font());
          const int room = table->columnWidth(c) - 6; // the margins of a cell
          const QRect needs = metrics.boundingRect(QRect(0, 0, room, 1000), Qt::TextWordWrap, text);
          EXPECT_TRUE(metrics.horizontalAdvance(text) <= room ||
                      (needs.width() <= room && needs.height() <= table->rowHeight(r) + 2))
              << table->objectName().toStdString() << " " << c << ": " << text.toStdString() << " on " << where;
        }
  }
  /// No visible button below `root` is narrower than its words.
  /// What an edge of a table or list would cut is not seen.
  static void expect_whole_rows(const QWidget& root, const std::string& where) {
    for (QAbstractItemView* view : root.findChildren<QAbstractItemView*>()) {
      if (!view->isVisible() || view->window() != root.window() || qobject_cast<QHeaderView*>(view)) continue;
      view->viewport()->repaint();
      const int bottom = view->viewport()->height() - 1;
      for (const QPoint edge : {QPoint(2, 0), QPoint(2, bottom)}) {
        const QRect row = view->visualRect(view->indexAt(edge));
        const bool cut = row.isValid() && (row.top() < 0 || row.bottom() > bottom);
        if (cut && !(row.top() <= 0 && row.bottom() >= bottom)) {
          EXPECT_NE(view->viewport()->childAt(edge), nullptr)
              << view->objectName().toStdString() << " on " << where;
        }
      }
    }
  }
  static void expect_whole_words(const QWidget& root, const std::string& where) {
    for (const QPushButton* button : root.findChildren<QPushButton*>())
      if (button->isVisible() && button->window() == root.window()) {
        EXPECT_GE(button->width(), QFontMetrics(button->font()).horizontalAdvance(button->text()))
            << button->text().toStdString() << " on " << where;
      }
  }
  void type_into(const QString& name, const QString& text) {
    auto& field = get<QLineEdit>(name);
    field.setFocus();
    field.selectAll();
    QTest::keyClick(&field, Qt::Key_Delete);
    QTest::keyClicks(&field, text);
    QTest::keyClick(&field, Qt::Key_Return);
    settle();
  }
  /// A finding's whole card, with its remedy and the way to its cause.
  void unfold(const QString& id) {
    const auto opens = [this](const QString& name) {
      for (auto* line : window().findChildren<QAbstractButton*>(name))
        if (line->isVisible()) {
          line->click();
          QApplication::processEvents();
          return true;
        }
      return false;
    };
    if (!opens("fold " + id)) opens("fold notes") && opens("fold " + id);
  }
  void press(const QString& name) {
    if (const bool of_card = name.startsWith("remedy ") || name.startsWith("show ");
        of_card && !get<QWidget>(name).isVisible())
      unfold(name.section(' ', 1));
    QTest::mouseClick(&get<QAbstractButton>(name), Qt::LeftButton);
    settle();
  }
  CoilView& coil() { return get<CoilView>("coil"); }
  void drag(const QString& handle, QPoint by, int steps = 8) {
    CoilView& view = coil();
    const QPointF start = view.handle_place(handle);
    ASSERT_FALSE(start.isNull()) << handle.toStdString();
    const QPoint from = (handle == "clip" ? start - QPointF(0, 14) : start).toPoint();
    QTest::mousePress(&view, Qt::LeftButton, {}, from);
    for (int i = 1; i <= steps; ++i) QTest::mouseMove(&view, from + by * i / steps);
    QTest::mouseRelease(&view, Qt::LeftButton, {}, from + by);
    settle();
  }
  /// Answers the next file dialog with a path; for opening, the file must exist.
  void choose_file(const QString& file) {
    in_next<QFileDialog>([file](QFileDialog& dialog) { type_path(dialog, file); });
  }
  // While the dialog still reads its folder it goes back to the name that was suggested.
  static void type_path(QFileDialog& dialog, const QString& file) {
    auto* name = dialog.findChild<QLineEdit*>("fileNameEdit");
    name->clear();
    name->setText(file);
    if (dialog.selectedFiles().value(0).startsWith(file))
      QMetaObject::invokeMethod(&dialog, "accept");
    else
      QTimer::singleShot(10, &dialog, [&dialog, file] { type_path(dialog, file); });
  }
  /// Waits for work in the background, at most ten seconds.
  template <typename Ready>
  bool wait_until(Ready ready) {
    return QTest::qWaitFor(ready, 10000);
  }
  QString notice() {
    auto& box = get<QWidget>("notice");
    return box.isVisible() ? box.findChild<QLabel*>()->text() : QString();
  }

 private:
  QTemporaryDir folder_;
  std::shared_ptr<MainWindow> window_;
};
