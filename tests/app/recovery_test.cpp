// Work that is never lost: recovery files by window, kills at any moment, full disks, files changed by somebody
// else.
#include "support.h"

#include "file/design_file.h"

#include <QDir>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QLockFile>
#include <QProcess>
#include <csignal>
#include <random>
#include <sys/resource.h>

using testing::HasSubstr;

namespace {

// A window that ends as a killed program does: its recovery file stays, its lock goes.
std::unique_ptr<MainWindow> open_in(const QTemporaryDir& folder) {
  auto window = std::make_unique<MainWindow>(folder.path());
  window->resize(1280, 800);
  window->show();
  return window;
}

void set_turns(MainWindow& window, double turns) {
  window.document().edit("Turns", [&](arc::Design& d) { d.secondary.turns = turns; });
}

QPushButton& button(MainWindow& window, const char* name) {
  return *window.findChild<QPushButton*>(name);
}

QString offered(MainWindow& window) {
  auto* strip = window.findChild<QWidget*>("recovery");
  return strip->isVisible() ? strip->findChild<QLabel*>("recoverable")->text() : QString();
}

// Leaves unsaved work of this name behind.
void leave_work(const QTemporaryDir& folder, const char* name, double turns, const QString& saved_as = {}) {
  auto window = open_in(folder);
  window->open_demo();
  window->document().edit("Name", [&](arc::Design& d) { d.name = name; });
  QString problem;
  if (!saved_as.isEmpty()) {
    ASSERT_TRUE(window->document().save_as(saved_as, &problem)) << problem.toStdString();
  }
  set_turns(*window, turns);
  window->document().autosave();
}

// A limit on the size of files that this process writes: what a full disk looks like to a program.
class FullDisk {
 public:
  FullDisk() {
    getrlimit(RLIMIT_FSIZE, &old_);
    signal(SIGXFSZ, SIG_IGN);
    const rlimit small{1000, old_.rlim_max};
    setrlimit(RLIMIT_FSIZE, &small);
  }
  ~FullDisk() { setrlimit(RLIMIT_FSIZE, &old_); }

 private:
  rlimit old_{};
};

TEST(recovery, unsaved_work_is_offered_by_name_and_an_edit_of_the_fresh_design_leaves_it_alone) {
  QTemporaryDir folder;
  leave_work(folder, "Amber Fern", 1011);
  auto again = open_in(folder);
  EXPECT_THAT(offered(*again).toStdString(), HasSubstr("Amber Fern"));
  set_turns(*again, 555); // before pressing anything
  again->document().autosave();
  EXPECT_THAT(offered(*again).toStdString(), HasSubstr("Amber Fern"));
  QString error;
  ASSERT_TRUE(again->document().save_as(folder.filePath("other.json"), &error)) << error.toStdString();
  QTest::mouseClick(&button(*again, "recover"), Qt::LeftButton);
  EXPECT_EQ(again->document().design().secondary.turns, 1011);
  EXPECT_EQ(again->document().title(), "Amber Fern");
  EXPECT_TRUE(again->document().modified());
  EXPECT_TRUE(offered(*again).isEmpty());
}

TEST(recovery, several_pieces_of_work_are_offered_one_after_the_other_and_later_keeps_them) {
  QTemporaryDir folder;
  leave_work(folder, "Amber Fern", 1011);
  leave_work(folder, "Blue Heron", 1022);
  {
    auto again = open_in(folder);
    EXPECT_THAT(offered(*again).toStdString(), HasSubstr("1 of 2"));
    QTest::mouseClick(&button(*again, "later recovery"), Qt::LeftButton);
    EXPECT_TRUE(offered(*again).isEmpty());
  }
  auto third = open_in(folder);
  EXPECT_THAT(offered(*third).toStdString(), HasSubstr("1 of 2"));
  QTest::mouseClick(&button(*third, "next recovery"), Qt::LeftButton);
  EXPECT_THAT(offered(*third).toStdString(), HasSubstr("2 of 2"));
  QTest::mouseClick(&button(*third, "discard recovery"), Qt::LeftButton);
  EXPECT_THAT(offered(*third).toStdString(), Not(HasSubstr(" of 2")));
  EXPECT_EQ(third->document().recoverable().size(), 1u);
}

TEST(recovery, a_running_window_does_not_offer_its_own_work_or_another_running_windows) {
  QTemporaryDir folder;
  auto first = open_in(folder);
  set_turns(*first, 1001);
  first->document().autosave();
  auto second = open_in(folder);
  EXPECT_TRUE(offered(*second).isEmpty());
  set_turns(*second, 1002);
  second->document().autosave();
  QString problem;
  ASSERT_TRUE(second->document().save_as(folder.filePath("second.json"), &problem));
  first.reset(); // ends without saving
  auto third = open_in(folder);
  EXPECT_FALSE(offered(*third).isEmpty()) << "the other window's save has not touched it";
}

TEST(recovery, recovered_work_remembers_its_file_and_a_file_on_the_command_line_does_not_hide_the_offer) {
  QTemporaryDir folder;
  const QString coil = folder.filePath("coil.json");
  leave_work(folder, "Amber Fern", 1011, coil);
  auto again = open_in(folder);
  ASSERT_TRUE(again->open_file(coil));
  EXPECT_THAT(offered(*again).toStdString(), HasSubstr("coil.json"));
  QTest::mouseClick(&button(*again, "recover"), Qt::LeftButton);
  EXPECT_EQ(again->document().path(), coil);
  EXPECT_EQ(again->document().design().secondary.turns, 1011);
  EXPECT_TRUE(again->document().modified()) << "the file holds less";
}

TEST(recovery, undone_back_to_what_is_saved_there_is_nothing_to_recover) {
  QTemporaryDir folder;
  {
    auto window = open_in(folder);
    set_turns(*window, 1011);
    window->document().autosave();
    window->document().history().undo();
    window->document().autosave();
  }
  EXPECT_TRUE(offered(*open_in(folder)).isEmpty());
}

TEST(recovery, a_broken_piece_of_work_is_reported_and_kept) {
  QTemporaryDir folder;
  QDir(folder.path()).mkpath("recovery");
  QFile file(folder.filePath("recovery/torn.json"));
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  file.write("{\"format\":");
  file.close();
  auto again = open_in(folder);
  const arc::Design before = again->document().design();
  QTest::mouseClick(&button(*again, "recover"), Qt::LeftButton);
  EXPECT_EQ(again->document().design(), before);
  EXPECT_THAT(again->findChild<QWidget*>("notice")->findChild<QLabel*>()->text().toStdString(),
              HasSubstr("cut off"));
  EXPECT_TRUE(QFile::exists(file.fileName()));
}

TEST(recovery, what_an_earlier_version_left_is_still_offered) {
  QTemporaryDir folder;
  QDir(folder.path()).mkpath("recovery");
  QFile::copy(HIGH_ARC_EXAMPLES "/quiet-lantern.json", folder.filePath("recovery/recovery.json"));
  auto again = open_in(folder);
  EXPECT_THAT(offered(*again).toStdString(), HasSubstr("Quiet Lantern"));
  QTest::mouseClick(&button(*again, "recover"), Qt::LeftButton);
  EXPECT_EQ(again->document().title(), "Quiet Lantern");
}

TEST(recovery, steady_work_is_saved_while_it_goes_on) {
  QTemporaryDir folder;
  auto window = open_in(folder);
  const auto files = [&] { return QDir(folder.filePath("recovery")).entryList({"*.json"}); };
  // An edit with every turn of the event loop, never a pause: a save that waited for one would not come at all.
  for (int n = 0; files().isEmpty() && n < 60000; ++n) {
    set_turns(*window, 500 + n % 400);
    QTest::qWait(1);
  }
  EXPECT_EQ(files().size(), 1);
}

TEST(recovery, a_full_disk_is_said_and_tried_again) {
  QTemporaryDir folder;
  auto window = open_in(folder);
  window->open_demo();
  QString said;
  int works_again = 0;
  QObject::connect(&window->document(), &Document::autosave_failed,
                   [&](const QString& problem) { said = problem; });
  QObject::connect(&window->document(), &Document::autosave_works_again, [&] { ++works_again; });
  set_turns(*window, 1011);
  {
    const FullDisk full;
    window->document().autosave();
    QString problem;
    EXPECT_FALSE(window->document().save_as(folder.filePath("coil.json"), &problem));
    EXPECT_THAT(problem.toStdString(), HasSubstr("no room"));
    EXPECT_FALSE(QFile::exists(folder.filePath("coil.json")));
  }
  EXPECT_THAT(said.toStdString(), HasSubstr("no room"));
  EXPECT_THAT(said.toStdString(), Not(HasSubstr("Unknown error")));
  window->document().autosave();
  EXPECT_EQ(works_again, 1);
}

TEST(recovery, a_folder_that_cannot_be_written_is_named_as_such) {
  QString problem;
  EXPECT_FALSE(write_whole_file("/proc/coil.json", "x", &problem));
  EXPECT_FALSE(problem.isEmpty());
  EXPECT_THAT(problem.toStdString(), Not(HasSubstr("Unknown error")));
}

TEST(files_of_others, a_file_changed_by_another_program_is_said_before_it_is_overwritten) {
  QTemporaryDir folder;
  const QString coil = folder.filePath("coil.json");
  auto window = open_in(folder);
  window->open_demo();
  QString problem;
  ASSERT_TRUE(window->document().save_as(coil, &problem));
  EXPECT_FALSE(window->document().changed_on_disk());
  QFile file(coil);
  ASSERT_TRUE(file.open(QIODevice::Append));
  file.write("  \n");
  file.close();
  EXPECT_TRUE(window->document().changed_on_disk());
  set_turns(*window, 1011);
  auto* save = window->findChild<QAction*>("action save");
  answer_next_box("Cancel");
  save->trigger();
  EXPECT_TRUE(window->document().modified());
  answer_next_box("Replace it");
  save->trigger();
  EXPECT_FALSE(window->document().modified());
  EXPECT_FALSE(window->document().changed_on_disk());
}

TEST(files_of_others, the_same_file_in_two_windows_is_said) {
  QTemporaryDir folder;
  const QString coil = folder.filePath("coil.json");
  auto first = open_in(folder), second = open_in(folder);
  first->open_demo();
  QString problem;
  ASSERT_TRUE(first->document().save_as(coil, &problem));
  ASSERT_TRUE(second->open_file(coil));
  EXPECT_TRUE(second->document().open_elsewhere());
  EXPECT_THAT(second->findChild<QWidget*>("notice")->findChild<QLabel*>()->text().toStdString(),
              HasSubstr("open in another window"));
  first.reset();
  ASSERT_TRUE(second->open_file(coil));
  EXPECT_FALSE(second->document().open_elsewhere());
}

TEST(files_of_others, two_windows_keep_each_others_parts_on_the_shelf) {
  QTemporaryDir folder;
  ShelfStore one(folder.filePath("shelf.json")), other(folder.filePath("shelf.json"));
  const auto add = [](ShelfStore& store, const char* name) {
    store.edit([&](arc::Shelf& shelf) {
      shelf.of("resistors").push_back({name, {{"resistance_ohm", 1e6}}, {}, false});
    });
  };
  add(one, "from the first window");
  add(other, "from the second window");
  add(one, "from the first again");
  const auto names = [&](const ShelfStore& store) {
    std::vector<std::string> out;
    for (const arc::ShelfPart& part : store.shelf().of("resistors"))
      if (!part.invented) out.push_back(part.name);
    return out;
  };
  EXPECT_THAT(names(one), testing::UnorderedElementsAre("from the first window", "from the second window",
                                                        "from the first again"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return names(other).size() == 3; }, 5000))
      << "the other window sees it by itself";
}

TEST(files_of_others, a_shelf_or_settings_that_cannot_be_read_never_keep_the_window_from_opening) {
  QTemporaryDir folder;
  QFile shelf(folder.filePath("shelf.json"));
  ASSERT_TRUE(shelf.open(QIODevice::WriteOnly));
  shelf.write(R"({"format":"high-arc-shelf","version":1,"capacitors":[{"capacitance_f":1e-320,"voltage_v":10}]})");
  shelf.close();
  auto window = open_in(folder);
  EXPECT_THAT(window->findChild<QWidget*>("notice")->findChild<QLabel*>()->text().toStdString(),
              HasSubstr("shelf could not be read"));
  EXPECT_TRUE(QFile::exists(folder.filePath("shelf.json.unreadable")));
}

TEST(files_of_others, settings_set_aside_are_spoken_of_once) {
  QTemporaryDir folder;
  QFile settings(folder.filePath("settings.ini"));
  ASSERT_TRUE(settings.open(QIODevice::WriteOnly));
  settings.write("neither a section nor a key\n");
  settings.close();
  const auto notice = [](MainWindow& window) { return window.findChild<QWidget*>("notice"); };
  auto first = open_in(folder);
  EXPECT_FALSE(notice(*first)->isHidden());
  EXPECT_THAT(notice(*first)->findChild<QLabel*>()->text().toStdString(), HasSubstr("settings could not be read"));
  first->close();
  first.reset();
  auto second = open_in(folder);
  EXPECT_TRUE(notice(*second)->isHidden());
}

// Kills the program at a random moment of steady work and looks at what is left. No work older than two seconds may
// be lost, and what is left must open. Two seconds of the program's: while the machine stood still, for want of a
// processor or of the disk, it could not write. Such silences, between edits and before the end, do not count.
class EachKill : public testing::TestWithParam<int> {};

TEST_P(EachKill, loses_at_most_two_seconds_of_work) {
  std::mt19937 random(static_cast<unsigned>(7000 + GetParam()));
  QTemporaryDir folder;
  QProcess victim;
  victim.start(QCoreApplication::applicationFilePath(),
               {"--edit-steadily", folder.path(), QString::number(GetParam())});
  ASSERT_TRUE(victim.waitForStarted());
  QElapsedTimer clock;
  clock.start();
  const qint64 lives_ms = 300 + static_cast<qint64>(random() % 2600);
  std::vector<qint64> made; // when each edit was heard of
  QByteArray heard;
  while (made.empty() || clock.elapsed() < made.front() + lives_ms) {
    victim.waitForReadyRead(20);
    heard += victim.readAllStandardOutput();
    for (int end; (end = static_cast<int>(heard.indexOf('\n'))) >= 0; heard.remove(0, end + 1))
      made.push_back(clock.elapsed());
    ASSERT_LT(clock.elapsed(), 60000);
  }
  victim.kill(); // SIGKILL: no destructor, no event loop
  ASSERT_TRUE(victim.waitForFinished());
  const qint64 died = clock.elapsed();

  const auto last_edit = [](const arc::Design& d) { return static_cast<int>(d.secondary.turns) - 1000; };
  int kept = 0;
  QString problem;
  if (QFile::exists(folder.filePath("work.json"))) {
    QByteArray bytes;
    ASSERT_TRUE(read_whole_file(folder.filePath("work.json"), &bytes, &problem));
    kept = last_edit(arc::read_design(bytes.toStdString()));
  }
  auto again = open_in(folder);
  for (const RecoverableWork& work : again->document().recoverable()) {
    arc::Unsaved unsaved;
    ASSERT_TRUE(Recovery::read(work, &unsaved, &problem)) << problem.toStdString();
    const arc::Design& design = unsaved.design;
    EXPECT_EQ(arc::read_design(arc::write_design(design)), design);
    kept = std::max(kept, last_edit(design));
  }
  if (kept == static_cast<int>(made.size())) return;
  constexpr qint64 usual_ms = 250; // between two edits
  qint64 worked_ms = 0;            // since the first edit that was lost
  made.push_back(died);
  for (std::size_t i = static_cast<std::size_t>(kept) + 1; i < made.size(); ++i)
    worked_ms += std::min(made[i] - made[i - 1], usual_ms);
  EXPECT_LT(worked_ms, 2000) << "edit " << kept + 1 << " was lost";
}

INSTANTIATE_TEST_SUITE_P(mid_edit, EachKill, testing::Range(0, 50));

} // namespace
