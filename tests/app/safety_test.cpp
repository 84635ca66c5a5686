// Nobody is armed by mistake, nothing is lost on the way out, and text from files stays text: through the real
// window.
#include "support.h"

#include "base/file_io.h"
#include "file/design_file.h"
#include "toolkit/text.h"

#include <QAbstractItemView>
#include <QDir>
#include <QFileInfo>
#include <QHelpEvent>
#include <QMessageBox>
#include <QProcess>
#include <QToolTip>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/un.h>
#include <unistd.h>

using testing::HasSubstr;

namespace {

class Safe : public WindowTest {
 protected:
  std::vector<QCheckBox*> checks() {
    std::vector<QCheckBox*> out;
    for (QCheckBox* box : window().findChildren<QCheckBox*>())
      if (box->objectName().startsWith("check ")) out.push_back(box);
    return out;
  }
  void tick_all() {
    for (QCheckBox* box : checks())
      if (!box->isChecked()) box->click();
  }
  void compute() {
    settle();
    document().wait_for_simulation();
    QApplication::processEvents();
  }
  /// Armed, whatever stops stand.
  void arm() {
    show_stage("fire");
    compute();
    tick_all();
    if (!document().stops().empty())
      in_next([](QWidget& sheet) {
        QTest::keyClicks(sheet.findChild<QLineEdit*>("arm reason"), "on purpose");
        sheet.findChild<QPushButton*>("arm in spite")->click();
      });
    press("arm");
    ASSERT_EQ(window().workspace().firing.state(), arc::ArmState::armed);
  }
  std::string banner() { return get<QWidget>("state").accessibleName().toStdString(); }
  std::string said() { return notice().toStdString(); }
  void write(const QString& file, const QByteArray& bytes) {
    QFile out(file);
    ASSERT_TRUE(out.open(QIODevice::WriteOnly));
    out.write(bytes);
  }
};

TEST_F(Safe, it_does_not_arm_before_the_figures_are_there) {
  show_stage("fire");
  compute();
  document().edit("Supply", [](arc::Design& d) { d.secondary.turns += 5; });
  tick_all();
  EXPECT_FALSE(get<QPushButton>("arm").isEnabled());
  EXPECT_THAT(get<QPushButton>("arm").toolTip().toStdString(), HasSubstr("not computed yet"));
  EXPECT_THAT(banner(), HasSubstr("being computed"));
  compute();
  tick_all();
  EXPECT_TRUE(get<QPushButton>("arm").isEnabled());
}

TEST_F(Safe, a_changed_number_a_new_stop_and_undo_disarm_and_words_units_and_view_do_not) {
  arm();
  document().edit("Name", [](arc::Design& d) { d.name = "Renamed"; });
  compute();
  window().set_units(arc::UnitSystem::inch);
  compute();
  window().set_dark(true);
  show_stage("tank");
  show_stage("fire");
  EXPECT_THAT(banner(), testing::StartsWith("ARMED, ")) << "words, units, view";
  window().set_units(arc::UnitSystem::metric);
  document().edit("Form", [](arc::Design& d) { d.secondary.form_diameter_m = 0.06; });
  EXPECT_THAT(banner(), testing::StartsWith("NOT ARMED")) << "at once, not when the figures come";
  EXPECT_THAT(said(), HasSubstr("Not armed any more"));
  compute();
  EXPECT_FALSE(get<QPushButton>("start run").isEnabled());
  document().history().undo();
  compute();
  EXPECT_THAT(banner(), testing::StartsWith("NOT ARMED")) << "undo does not arm";
}

TEST_F(Safe, a_change_while_it_runs_is_said_and_logged_and_another_kind_too) {
  arm();
  press("start run");
  document().edit("Tap", [](arc::Design& d) { d.primary.tap_turns -= 0.5; });
  EXPECT_THAT(banner(), testing::StartsWith("RUNNING"));
  EXPECT_THAT(said(), HasSubstr("While it ran"));
  press("stop run");
  compute();
  press("disarm");
  press("log run");
  EXPECT_THAT(design().runs.back().notes, HasSubstr("While it ran"));
  arm();
  window().switch_kind("dual-resonant");
  EXPECT_NE(window().workspace().firing.state(), arc::ArmState::armed);
}

TEST_F(Safe, a_cancelled_simulation_is_a_stop_that_wants_a_reason) {
  show_stage("fire");
  compute();
  document().edit("Turns", [](arc::Design& d) { d.secondary.turns += 3; });
  document().wait_for_analysis();
  document().cancel_simulation();
  QApplication::processEvents();
  tick_all();
  ASSERT_TRUE(get<QPushButton>("arm").isEnabled());
  in_next([](QWidget& sheet) {
    EXPECT_THAT(sheet.findChild<QLabel*>("standing stops")->text().toStdString(), HasSubstr("cancelled"));
    sheet.findChild<QPushButton*>("do not arm")->click();
  });
  press("arm");
  EXPECT_FALSE(get<QPushButton>("start run").isEnabled());
}

TEST_F(Safe, what_takes_long_says_so_and_can_be_ended) {
  ASSERT_TRUE(window().open_file(HIGH_ARC_TEST_DATA "/slow-tube.json")); // in range, and half a minute of work
  document().wait_for_analysis();
  auto& said_so = get<QLabel>("simulating");
  ASSERT_TRUE(wait_until([&] { return said_so.isVisible(); }));
  press("cancel any simulation");
  EXPECT_FALSE(said_so.isVisible());
  EXPECT_FALSE(document().simulating());
  ASSERT_FALSE(document().stops().empty());
  EXPECT_THAT(document().stops().front().title, HasSubstr("cancelled"));
}

TEST_F(Safe, one_coil_is_armed_in_one_window_only) {
  QString problem;
  ASSERT_TRUE(document().save_as(path("coil.json"), &problem));
  ASSERT_TRUE(QFile::link(path("coil.json"), path("link.json")));
  arm();
  MainWindow other(path("")); // the same data folder
  other.show();
  ASSERT_TRUE(other.open_file(path("link.json")));
  EXPECT_TRUE(other.document().open_elsewhere()) << "a link is the same file";
  other.document().wait_for_simulation();
  Firing& firing = other.workspace().firing;
  for (const arc::CheckItem& check : firing.arming().checks()) firing.tick(check.key, true);
  ASSERT_EQ(firing.hindrance(), "");
  EXPECT_FALSE(firing.arm("a good reason"));
  EXPECT_THAT(other.findChild<QWidget*>("notice")->findChild<QLabel*>()->text().toStdString(),
              HasSubstr("armed in another window"));
  press("disarm");
  EXPECT_TRUE(firing.arm("a good reason"));
}

TEST_F(Safe, a_run_outlives_the_window_and_comes_back_as_still_charged) {
  arm();
  type_into("observed arc_length_m", "0.4 m");
  press("start run");
  answer_next_box("Cancel");
  EXPECT_FALSE(window().close()) << "asked";
  get<QPlainTextEdit>("observed notes").setPlainText("hissing");
  answer_next_box("Keep it for the next start");
  EXPECT_TRUE(window().close());
  close_window();
  open_window();
  auto& strip = get<QWidget>("recovery");
  ASSERT_TRUE(strip.isVisible());
  EXPECT_THAT(strip.findChild<QLabel*>("recoverable")->text().toStdString(), HasSubstr("not logged"));
  press("recover");
  show_stage("fire");
  compute();
  EXPECT_THAT(banner(), testing::StartsWith("STILL CHARGED"));
  EXPECT_EQ(get<QPlainTextEdit>("observed notes").toPlainText(), "hissing");
  for (const QCheckBox* box : checks()) EXPECT_FALSE(box->isChecked());
  EXPECT_FALSE(get<QPushButton>("arm").isEnabled());
  press("disarm");
  const std::size_t before = design().runs.size();
  press("log run");
  ASSERT_EQ(design().runs.size(), before + 1);
  EXPECT_DOUBLE_EQ(design().runs.back().observations.at("arc_length_m"), 0.4);
  EXPECT_EQ(design().runs.back().conditions.at("tap_turns"), design().primary.tap_turns);
}

// Killed at Fire: whatever was armed is never armed again by itself, what ran is still there as still charged.
class EachKillAtFire : public testing::TestWithParam<int> {};

TEST_P(EachKillAtFire, comes_back_disarmed_or_still_charged_with_its_run) {
  const std::vector<const char*> states{"checking", "armed", "running", "after"};
  const std::string wanted = states[static_cast<std::size_t>(GetParam()) % states.size()];
  QTemporaryDir folder;
  QProcess victim;
  victim.start(QCoreApplication::applicationFilePath(), {"--fire", folder.path(), QString::fromStdString(wanted)});
  ASSERT_TRUE(victim.waitForStarted());
  QByteArray heard;
  const auto lines = static_cast<qsizetype>(1 + GetParam() % 7);
  while (heard.count('\n') < lines) {
    ASSERT_TRUE(victim.waitForReadyRead(60000)) << victim.exitCode();
    heard += victim.readAllStandardOutput();
  }
  victim.kill();
  ASSERT_TRUE(victim.waitForFinished());
  MainWindow again(folder.path());
  again.show();
  EXPECT_NE(again.workspace().firing.state(), arc::ArmState::armed);
  ASSERT_EQ(again.document().recoverable().size(), 1u);
  QTest::mouseClick(again.findChild<QPushButton*>("recover"), Qt::LeftButton);
  const arc::Arming& arming = again.workspace().firing.arming();
  EXPECT_EQ(arming.state(), wanted == "checking" ? arc::ArmState::disarmed : arc::ArmState::after);
  EXPECT_EQ(arming.draft().begun, wanted == "running" || wanted == "after");
  EXPECT_EQ(arming.draft().run.observations.at("arc_length_m"), 0.4);
  EXPECT_THAT(arming.draft().run.notes, testing::StartsWith("note "));
  again.document().wait_for_simulation();
  EXPECT_EQ(arming.open_checks(), static_cast<int>(arming.checks().size())) << "all ticks gone";
}

INSTANTIATE_TEST_SUITE_P(at_fire, EachKillAtFire, testing::Range(0, 50));

TEST_F(Safe, another_coil_is_not_opened_over_a_live_one_and_notes_are_asked_about) {
  arm();
  press("start run");
  window().findChild<QAction*>("action new")->trigger();
  EXPECT_THAT(said(), HasSubstr("running"));
  EXPECT_THAT(banner(), testing::StartsWith("RUNNING"));
  document().start(arc::Design(design())); // by whatever way
  EXPECT_EQ(window().workspace().firing.state(), arc::ArmState::running) << "what is live stays live";
  press("stop run");
  window().findChild<QAction*>("action new")->trigger();
  EXPECT_THAT(said(), HasSubstr("charged"));
  press("disarm");
  const std::size_t before = design().runs.size();
  answer_next_box("Cancel");
  window().findChild<QAction*>("action new")->trigger();
  EXPECT_TRUE(window().workspace().firing.arming().unlogged()) << "asked, and nothing thrown away";
  press("clear run");
  EXPECT_EQ(design().runs.size(), before);
  EXPECT_FALSE(window().workspace().firing.arming().unlogged());
}

TEST_F(Safe, saving_under_a_name_without_its_suffix_asks_about_the_file_that_it_would_replace) {
  QString problem;
  ASSERT_TRUE(document().save_as(path("other.json"), &problem));
  QFile other(path("other.json"));
  ASSERT_TRUE(other.open(QIODevice::ReadOnly));
  const QByteArray before = other.readAll();
  other.close();
  document().edit("Turns", [](arc::Design& d) { d.secondary.turns = 777; });
  bool asked = false;
  in_next<QFileDialog>([&](QFileDialog& dialog) {
    in_next<QMessageBox>([&](QMessageBox& box) {
      asked = true;
      box.button(QMessageBox::No)->click();
      dialog.reject();
    });
    type_path(dialog, path("other"));
  });
  window().findChild<QAction*>("action save as")->trigger();
  EXPECT_TRUE(asked);
  ASSERT_TRUE(other.open(QIODevice::ReadOnly));
  EXPECT_EQ(other.readAll(), before);
}

TEST_F(Safe, recovered_work_knows_that_its_file_is_newer_by_now) {
  QString problem;
  const QString coil = path("coil.json");
  ASSERT_TRUE(document().save_as(coil, &problem));
  document().edit("Turns", [](arc::Design& d) { d.secondary.turns = 777; });
  document().autosave();
  close_window(); // as a kill leaves it
  arc::Design newer = arc::read_design(arc::write_design(arc::Design()));
  newer.name = "Newer";
  write(coil, QByteArray::fromStdString(arc::write_design(newer)));
  open_window();
  press("recover");
  EXPECT_EQ(design().secondary.turns, 777);
  EXPECT_TRUE(document().changed_on_disk());
  answer_next_box("Cancel");
  window().findChild<QAction*>("action save")->trigger();
  QByteArray bytes;
  ASSERT_TRUE(read_whole_file(coil, &bytes, &problem));
  EXPECT_EQ(arc::read_design(bytes.toStdString()).name, "Newer");
}

TEST_F(Safe, discarding_and_then_changing_ones_mind_keeps_the_work_protected) {
  document().edit("Turns", [](arc::Design& d) { d.secondary.turns = 777; });
  document().autosave();
  answer_next_box("Discard");
  QTimer wait;
  QObject::connect(&wait, &QTimer::timeout, [] {
    if (auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget())) dialog->reject();
  });
  wait.start(20);
  window().findChild<QAction*>("action open")->trigger();
  wait.stop();
  EXPECT_TRUE(document().modified());
  EXPECT_EQ(QDir(path("recovery")).entryList({"*.json"}).size(), 1) << "still kept";
}

TEST_F(Safe, what_the_program_keeps_is_for_nobody_else_to_read) {
  document().edit("Turns", [](arc::Design& d) { d.secondary.turns = 777; });
  document().autosave();
  window().workspace().shelf.edit([](arc::Shelf& shelf) { shelf.of("resistors"); });
  const auto others = QFileDevice::ReadGroup | QFileDevice::WriteGroup | QFileDevice::ExeGroup |
                      QFileDevice::ReadOther | QFileDevice::WriteOther | QFileDevice::ExeOther;
  const auto work = QDir(path("recovery")).entryInfoList({"*.json"}, QDir::Files);
  ASSERT_EQ(work.size(), 1);
  for (const QString& file :
       {work[0].filePath(), path("recovery"), path("shelf.json"), path("settings.ini"), path("")})
    EXPECT_FALSE(QFileInfo(file).permissions() & others) << file.toStdString();
}

TEST_F(Safe, only_ordinary_files_are_opened) {
  const std::string pipe = path("pipe.json").toStdString(), plug = path("plug.json").toStdString();
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  const int end = socket(AF_UNIX, SOCK_STREAM, 0);
  sockaddr_un address{};
  address.sun_family = AF_UNIX;
  std::snprintf(address.sun_path, sizeof address.sun_path, "%s", plug.c_str());
  ASSERT_EQ(bind(end, reinterpret_cast<sockaddr*>(&address), sizeof address), 0);
  ASSERT_EQ(symlink("a.json", path("b.json").toStdString().c_str()), 0);
  ASSERT_EQ(symlink("b.json", path("a.json").toStdString().c_str()), 0);
  ASSERT_EQ(symlink("/dev/zero", path("zero.json").toStdString().c_str()), 0);
  const arc::Design before = design();
  for (const auto& [file, why] : std::map<QString, const char*>{{path("pipe.json"), "a pipe"},
                                                                {path("plug.json"), "a socket"},
                                                                {path("a.json"), "symbolic links"},
                                                                {path("zero.json"), "a device"},
                                                                {"/dev/zero", "a device"},
                                                                {path(""), "a folder"}}) {
    EXPECT_FALSE(window().open_file(file));
    EXPECT_THAT(said(), HasSubstr(why)) << file.toStdString();
    EXPECT_EQ(design(), before);
  }
  close(end);
  close_window();
  // In the places that are read at the start.
  ASSERT_TRUE(QDir().mkpath(path("recovery")));
  ASSERT_EQ(symlink("/dev/zero", path("recovery/old.json").toStdString().c_str()), 0);
  ASSERT_EQ(mkfifo(path("recovery/pipe.json").toStdString().c_str(), 0600), 0);
  QFile::remove(path("shelf.json"));
  ASSERT_EQ(symlink("/dev/zero", path("shelf.json").toStdString().c_str()), 0);
  open_window();
  EXPECT_THAT(said(), HasSubstr("shelf could not be read"));
}

const QString hostile = "<h1>Safe to touch</h1><img src=\"file:///dev/zero\">&amp;";

TEST_F(Safe, text_of_files_is_drawn_as_it_is_on_every_stage_and_sheet) {
  const auto look = [&](const QWidget& root, const std::string& where) {
    for (const QLabel* label : root.findChildren<QLabel*>()) {
      EXPECT_NE(label->textFormat(), Qt::AutoText) << label->text().toStdString() << " on " << where;
      if (label->textFormat() != Qt::PlainText) {
        EXPECT_THAT(label->text().toStdString(), Not(HasSubstr("Safe to touch"))) << where;
      }
    }
  };
  for (const std::string& kind : kinds()) {
    ASSERT_TRUE(window().open_demo(kind));
    document().edit("Hostile", [](arc::Design& d) {
      d.name = hostile.toStdString();
      for (arc::Run& run : d.runs) run.notes = run.failed = run.armed_despite = run.when = hostile.toStdString();
      for (arc::Measurement& m : d.measurements) m.note = hostile.toStdString();
      for (arc::BankSection& section : d.tank.sections) section.name = hostile.toStdString();
      arc::ToploadVariant kept;
      kept.name = hostile.toStdString();
      kept.parts = d.topload;
      d.topload_variants = {kept};
    });
    window().workspace().shelf.edit([](arc::Shelf& shelf) {
      for (auto& [group, parts] : shelf.parts)
        for (arc::ShelfPart& part : parts) part.name = hostile.toStdString();
    });
    settle();
    for (const StageSpec& stage : stages()) {
      if (!belongs_to(stage, *arc::coil_kind(kind))) continue;
      show_stage(qPrintable(stage.key));
      const std::string where = kind + " " + stage.key.toStdString();
      look(window(), where);
      for (QPushButton* button : openers())
        if (QDialog* sheet = open_by(button)) {
          look(*sheet, where + " " + button->text().toStdString());
          sheet->close();
          QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        }
    }
  }
}

TEST_F(Safe, boxes_strips_and_tooltips_take_nothing_for_markup) {
  document().edit("Name", [](arc::Design& d) {
    d.name = hostile.toStdString();
    d.runs[0].notes = hostile.toStdString();
  });
  in_next<QMessageBox>([](QMessageBox& box) {
    EXPECT_EQ(box.textFormat(), Qt::PlainText);
    EXPECT_TRUE(box.text().contains("<h1>"));
    box.button(QMessageBox::Cancel)->click();
  });
  EXPECT_FALSE(window().close());
  EXPECT_FALSE(window().open_file("/no/" + hostile));
  EXPECT_EQ(get<QWidget>("notice").findChild<QLabel*>()->textFormat(), Qt::PlainText);
  show_stage("fire");
  press("fire page Record");
  auto& table = get<QTableView>("runs");
  table.scrollTo(table.model()->index(0, 7));
  const auto point = [&](QWidget& widget, const QPoint& where) {
    QHelpEvent help(QEvent::ToolTip, where, widget.mapToGlobal(where));
    QApplication::sendEvent(&widget, &help);
    return QToolTip::text();
  };
  EXPECT_EQ(point(*table.viewport(), table.visualRect(table.model()->index(0, 7)).center()),
            Qt::convertFromPlainText(hostile));
  auto& button = get<QPushButton>("export runs");
  button.setToolTip("<b>" + hostile);
  EXPECT_THAT(point(button, {2, 2}).toStdString(), HasSubstr("&lt;h1&gt;"));
  close_window();
}

TEST_F(Safe, an_unknown_kind_with_markup_is_refused_as_text) {
  QByteArray text = QByteArray::fromStdString(arc::write_design(design()));
  text.replace("\"kind\": \"spark-gap\"", "\"kind\": \"" + QString(hostile).replace('"', '\'').toUtf8() + "\"");
  write(path("kind.json"), text);
  EXPECT_FALSE(window().open_file(path("kind.json")));
  EXPECT_THAT(said(), HasSubstr("<h1>"));
}

TEST_F(Safe, a_number_half_typed_keeps_the_unit_in_which_it_was_begun) {
  auto& field = get<QLineEdit>("secondary.form_diameter_m");
  field.setFocus();
  field.selectAll();
  QTest::keyClicks(&field, "120");
  window().set_units(arc::UnitSystem::inch);
  settle();
  QTest::keyClick(&field, Qt::Key_Return);
  EXPECT_NEAR(design().secondary.form_diameter_m, 0.120, 1e-9);
  EXPECT_THAT(field.text().toStdString(), HasSubstr("in"));
  QTest::keyClicks(&field, "5");
  QTest::keyClick(&field, Qt::Key_Return);
  EXPECT_NEAR(design().secondary.form_diameter_m, 5 * 0.0254, 1e-9) << "the next one is begun in inches";
}

TEST_F(Safe, a_long_name_is_kept_whole) {
  const std::string name(300, 'n');
  document().edit("Name", [&](arc::Design& d) { d.name = name; });
  settle();
  auto& field = get<QLineEdit>("design name");
  field.setFocus();
  QTest::keyClick(&field, Qt::Key_Return);
  EXPECT_EQ(design().name, name);
}

TEST_F(Safe, ten_thousand_runs_are_a_table_of_rows_not_of_widgets) {
  document().edit("Runs", [](arc::Design& d) {
    arc::Run run = d.runs[0];
    for (int i = 0; i < 10000; ++i) {
      run.notes = std::to_string(i);
      d.runs.push_back(run);
    }
  });
  show_stage("fire");
  press("fire page Record");
  auto& table = get<QTableView>("runs");
  EXPECT_EQ(table.model()->rowCount(), static_cast<int>(design().runs.size()));
  EXPECT_EQ(table.findChildren<QWidget*>().size(),
            get<QTableView>("run comparison").findChildren<QWidget*>().size())
      << "no widget for a row or a cell";
  EXPECT_EQ(table.model()->index(table.model()->rowCount() - 1, 7).data().toString(), "9999");
}

} // namespace
