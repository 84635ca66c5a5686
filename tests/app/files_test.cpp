// Saving, opening, broken files, autosave and recovery through the real window.
#include "support.h"

#include "file/design_file.h"
#include "stages/stage.h"
#include "toolkit/file_dialogs.h"
#include "toolkit/reading_button.h"
#include "window/help_sheet.h"
#include "window/words.h"

#include <QClipboard>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHelpEvent>
#include <QMimeData>
#include <QProcess>
#include <QTableWidget>
#include <QTextBlock>
#include <QToolTip>
#include <csignal>
#include <nlohmann/json.hpp>
#include <sys/resource.h>

using testing::HasSubstr;

namespace {

class Files : public WindowTest {
 protected:
  void write(const QString& name, const QByteArray& bytes) {
    QFile file(path(name));
    ASSERT_TRUE(file.open(QIODevice::WriteOnly));
    file.write(bytes);
  }
  QByteArray read(const QString& name) {
    QFile file(path(name));
    EXPECT_TRUE(file.open(QIODevice::ReadOnly));
    return file.readAll();
  }
};

TEST_F(Files, saved_changed_and_reopened_is_the_same_design) {
  type_into("secondary.turns", "987");
  QString problem;
  ASSERT_TRUE(document().save_as(path("coil.json"), &problem)) << problem.toStdString();
  const arc::Design saved = design();
  EXPECT_FALSE(document().modified());
  type_into("secondary.turns", "900");
  EXPECT_TRUE(document().modified());
  QTest::keyClick(&window(), Qt::Key_S, Qt::ControlModifier);
  EXPECT_FALSE(document().modified());
  EXPECT_TRUE(get<QLabel>("saved state").text().startsWith("coil.json, saved"));
  type_into("secondary.turns", "800");
  ASSERT_TRUE(window().open_file(path("coil.json")));
  settle();
  EXPECT_EQ(design().secondary.turns, 900);
  arc::Design expected = saved;
  expected.secondary.turns = 900;
  EXPECT_EQ(design(), expected);
}

TEST_F(Files, ten_kinds_of_broken_file_are_refused_and_nothing_is_lost) {
  type_into("secondary.turns", "987");
  const arc::Design before = design();
  const QByteArray good = QByteArray::fromStdString(arc::write_design(before));
  const auto replaced = [&](const char* from, const char* to) { return QByteArray(good).replace(from, to); };
  const std::vector<std::pair<QByteArray, const char*>> broken{
      {"", "empty"},
      {"not json", "not valid JSON"},
      {good.left(good.size() / 2), "cut off"},
      {replaced("\"turns\": 987.0", "\"turns\": \"many\""), "secondary.turns (line"},
      {replaced("\"turns\": 987.0", "\"turns\": -3"), "outside of"},
      {replaced("\"turns\": 987.0", "\"turns\": NaN"), "line"},
      {replaced("\"turns\": 987.0", "\"turns\": 1e999"), "too large"},
      {replaced("high-arc-design", "recipe"), "not a High Arc design"},
      {replaced("\"version\": 1", "\"version\": 7"), "newer High Arc"},
      {replaced("\"toroid\"", "\"teapot\""), "not a topload shape"},
      {QByteArray(100, '\0'), "not valid JSON"},
  };
  for (const auto& [bytes, words] : broken) {
    write("broken.json", bytes);
    EXPECT_FALSE(window().open_file(path("broken.json")));
    EXPECT_THAT(notice().toStdString(), HasSubstr(words));
    EXPECT_EQ(design(), before);
    EXPECT_TRUE(document().modified()) << "the unsaved edit is still there";
  }
  EXPECT_FALSE(window().open_file(path("missing.json")));
  EXPECT_FALSE(window().open_file(QDir::tempPath()));
  EXPECT_THAT(notice().toStdString(), HasSubstr("folder"));
}

TEST_F(Files, a_huge_file_is_refused_before_it_is_read) {
  QFile file(path("huge.json"));
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  ASSERT_TRUE(file.resize(200LL << 20)); // sparse
  file.close();
  EXPECT_FALSE(window().open_file(path("huge.json")));
  EXPECT_THAT(notice().toStdString(), HasSubstr("200 MB; at most 128 MB"));
}

TEST_F(Files, a_save_that_cannot_be_written_leaves_the_old_file_and_the_work) {
  QString problem;
  ASSERT_TRUE(document().save_as(path("coil.json"), &problem));
  const QByteArray before = read("coil.json");
  type_into("secondary.turns", "901");
  EXPECT_FALSE(document().save_as(path("no/such/folder/coil.json"), &problem));
  EXPECT_FALSE(problem.isEmpty());
  EXPECT_TRUE(document().modified());
  // A full disk, as the system reports it: no file of this process may grow beyond 1000 bytes.
  rlimit old{};
  getrlimit(RLIMIT_FSIZE, &old);
  const rlimit small{1000, old.rlim_max};
  signal(SIGXFSZ, SIG_IGN);
  setrlimit(RLIMIT_FSIZE, &small);
  EXPECT_FALSE(document().save_as(path("coil.json"), &problem));
  setrlimit(RLIMIT_FSIZE, &old);
  EXPECT_TRUE(document().modified());
  EXPECT_EQ(read("coil.json"), before);
}

TEST_F(Files, unknown_keys_survive_an_edit_in_the_window) {
  QByteArray bytes = QByteArray::fromStdString(arc::write_design(design()));
  bytes.replace("\"name\":", "\"workshop\": {\"shelf\": 3}, \"name\":");
  write("future.json", bytes);
  ASSERT_TRUE(window().open_file(path("future.json")));
  type_into("secondary.turns", "999");
  QString problem;
  ASSERT_TRUE(document().save_as(path("future.json"), &problem));
  EXPECT_EQ(arc::Json::parse(read("future.json").toStdString())["workshop"]["shelf"], 3);
}

TEST_F(Files, leaving_with_changes_asks_first) {
  type_into("secondary.turns", "999");
  answer_next_box("Cancel");
  EXPECT_FALSE(window().close());
  EXPECT_TRUE(window().isVisible());
  answer_next_box("Discard");
  EXPECT_TRUE(window().close());
}

TEST_F(Files, a_half_typed_entry_is_taken_before_saving_is_asked) {
  auto& field = get<QuantityField>("secondary.turns");
  field.setFocus();
  field.selectAll();
  QTest::keyClicks(&field, "777");
  answer_next_box("Cancel");
  window().close();
  EXPECT_EQ(design().secondary.turns, 777);
}

TEST_F(Files, window_units_and_theme_are_remembered) {
  press("units inch");
  press("theme");
  QString problem;
  ASSERT_TRUE(document().save_as(path("coil.json"), &problem));
  EXPECT_TRUE(window().open_file(path("coil.json")));
  window().close();
  close_window();
  open_window();
  EXPECT_EQ(window().workspace().units(), arc::UnitSystem::inch);
  EXPECT_EQ(window().workspace().theme().name, "dark room");
}

TEST_F(Files, a_design_dropped_on_the_window_is_opened_and_a_broken_one_refused) {
  QString problem;
  type_into("secondary.turns", "987");
  ASSERT_TRUE(document().save_as(path("coil.json"), &problem));
  type_into("secondary.turns", "900");
  ASSERT_TRUE(document().save_as(path("other.json"), &problem));
  write("broken.json", "not json");
  const auto drop = [&](const QList<QUrl>& urls) {
    QMimeData data;
    data.setUrls(urls);
    QDragEnterEvent enter({400, 300}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    enter.setAccepted(false);
    QApplication::sendEvent(&window(), &enter);
    if (!enter.isAccepted()) return false;
    QDropEvent event({400, 300}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&window(), &event);
    return true;
  };
  EXPECT_TRUE(drop({QUrl::fromLocalFile(path("coil.json"))}));
  EXPECT_EQ(design().secondary.turns, 987);
  EXPECT_TRUE(drop({QUrl::fromLocalFile(path("broken.json"))}));
  EXPECT_EQ(design().secondary.turns, 987) << "what was open stays";
  EXPECT_FALSE(drop({QUrl::fromLocalFile(path("coil.json")), QUrl::fromLocalFile(path("other.json"))}));
  EXPECT_FALSE(drop({QUrl("https://example.org/coil.json")})) << "only files of this machine";
}

TEST_F(Files, the_guide_opens_at_the_stage_and_its_search_goes_through_all_pages) {
  const auto top = [&] { // the heading at the cursor
    return get<QTextBrowser>("help text").textCursor().block().text().toStdString();
  };
  window().open_demo("tube");
  show_stage("staccato");
  QTest::keyClick(&window(), Qt::Key_F1);
  auto& sheet = get<HelpSheet>("help sheet");
  EXPECT_TRUE(sheet.isVisible());
  EXPECT_FALSE(sheet.isModal()) << "it stays open beside the work";
  EXPECT_EQ(top(), "Gate (tube coils)");
  for (const StageSpec& stage : stages()) {
    sheet.show_at(stage.help.isEmpty() ? stage.title : stage.help);
    EXPECT_THAT(top(), testing::StartsWith(stage.title.toStdString())) << "a stage without a page";
  }
  auto& search = get<QLineEdit>("help search");
  search.setText("grid leak");
  QTest::keyClick(&search, Qt::Key_Return);
  EXPECT_EQ(get<QTextBrowser>("help text").textCursor().selectedText().toLower(), "grid leak");
  EXPECT_TRUE(sheet.find("Langmuir")) << "on another page";
  EXPECT_THAT(get<QTextBrowser>("help text").source().toString().toStdString(), HasSubstr("methods/tube.md"));
  EXPECT_TRUE(get<QPushButton>("help back").isEnabled());
  press("help back");
  EXPECT_THAT(get<QTextBrowser>("help text").source().toString().toStdString(), HasSubstr("words.md"));
  press("help home");
  EXPECT_THAT(get<QTextBrowser>("help text").source().toString().toStdString(), HasSubstr("guide.md"));
  EXPECT_FALSE(sheet.find("no such words anywhere"));
  EXPECT_EQ(get<QLabel>("help found").text(), "not on any page");
  QTest::keyClick(&search, Qt::Key_Escape);
  EXPECT_FALSE(sheet.isVisible()) << "Escape closes it from any field";
}

TEST_F(Files, dialogs_start_where_the_last_one_ended_and_the_next_start_knows) {
  QDir(path("")).mkdir("coils");
  choose_file(path("coils/mine.json"));
  QTest::keyClick(&window(), Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_EQ(document().path(), path("coils/mine.json"));
  QString started_in;
  in_next<QFileDialog>([&](QFileDialog& dialog) {
    started_in = dialog.directory().absolutePath();
    dialog.reject();
  });
  window().findChild<QAction*>("action open")->trigger();
  EXPECT_EQ(started_in, QDir(path("coils")).absolutePath());
  window().close();
  close_window();
  file_dialogs::set_folder({}); // as in another run of the program
  open_window();
  EXPECT_EQ(file_dialogs::folder(), QDir(path("coils")).absolutePath());
  file_dialogs::set_folder(path("gone"));
  EXPECT_EQ(file_dialogs::folder(), "") << "a folder that is no longer there is forgotten";
}

TEST_F(Files, readings_and_tables_can_be_copied) {
  auto& reading = get<ReadingButton>("reading mode_1_hz");
  reading.setFocus();
  QTest::keyClick(&reading, Qt::Key_C, Qt::ControlModifier);
  EXPECT_EQ(QApplication::clipboard()->text(), reading.value_text());
  EXPECT_THAT(QApplication::clipboard()->text().toStdString(), HasSubstr("kHz"));
  QTest::keyClick(&reading, Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_NEAR(QApplication::clipboard()->text().toDouble(), analysis().resonator->mode_1_hz, 1);
  window().open_demo("tube");
  show_stage("oscillator");
  document().wait_for_simulation();
  QApplication::processEvents();
  auto& table = get<QTableWidget>("tube figures");
  table.setCurrentCell(0, 1);
  QTest::keyClick(&table, Qt::Key_C, Qt::ControlModifier);
  EXPECT_EQ(QApplication::clipboard()->text(), table.item(0, 0)->text() + "\t" + table.item(0, 1)->text());
}

TEST_F(Files, the_size_of_everything_is_a_setting_that_the_next_start_takes) {
  EXPECT_EQ(window().size_per_cent(), 100);
  for (int i = 0; i < 6; ++i) window().findChild<QAction*>("action larger")->trigger();
  EXPECT_EQ(window().size_per_cent(), 200) << "no larger";
  for (int i = 0; i < 2; ++i) window().findChild<QAction*>("action smaller")->trigger();
  EXPECT_EQ(window().size_per_cent(), 150);
  EXPECT_TRUE(get<QWidget>("notice").isVisible());
  close_window();
  open_window();
  EXPECT_EQ(window().size_per_cent(), 150);
}

TEST(program, answers_without_a_display) {
  for (const char* option : {"--help", "--version"}) {
    QProcess process;
    QProcessEnvironment bare;
    bare.insert("QT_QPA_PLATFORM", "xcb");
    process.setProcessEnvironment(bare);
    process.start(HIGH_ARC_PROGRAM, {option});
    EXPECT_TRUE(process.waitForFinished(20000));
    EXPECT_EQ(process.exitCode(), 0) << option;
    EXPECT_THAT(process.readAllStandardOutput().toStdString(), HasSubstr("igh")) << option;
  }
}

// Started for real on screens of the headless platform.
TEST(program, is_as_large_as_the_screen_wants_until_a_size_is_chosen) {
  QTemporaryDir folder;
  const auto start_on = [&](int width, int height) {
    QFile screens(folder.filePath("screens.json"));
    EXPECT_TRUE(screens.open(QIODevice::WriteOnly));
    screens.write(
        QString(R"({"screens":[{"name":"s","x":0,"y":0,"width":%1,"height":%2,"logicalDpi":96,"dpr":1}]})")
            .arg(width)
            .arg(height)
            .toUtf8());
    screens.close();
    QProcess process;
    QProcessEnvironment with = QProcessEnvironment::systemEnvironment();
    with.insert("QT_QPA_PLATFORM", "offscreen:configfile=" + screens.fileName());
    process.setProcessEnvironment(with);
    process.start(HIGH_ARC_PROGRAM, {"--data", folder.filePath("data"), "--exit-after-paint"});
    EXPECT_TRUE(process.waitForFinished(60000));
    EXPECT_EQ(process.exitCode(), 0);
    return MainWindow::size_in(QSettings(folder.filePath("data/settings.ini"), QSettings::IniFormat));
  };
  EXPECT_EQ(start_on(1280, 800), 100);
  EXPECT_EQ(start_on(3840, 2160), 200);
  EXPECT_EQ(start_on(3840, 2160), 200) << "and stays";
  EXPECT_EQ(start_on(1920, 1080), 100) << "another screen";
  MainWindow(folder.filePath("data")).set_size(125);
  EXPECT_EQ(start_on(3840, 2160), 125) << "chosen";
}

TEST(program, answers_help_version_and_capture) {
  const auto run = [](const QStringList& arguments) {
    QProcess process;
    process.start(HIGH_ARC_PROGRAM, arguments);
    EXPECT_TRUE(process.waitForFinished(280000));
    return std::pair{process.exitCode(), QString(process.readAllStandardOutput())};
  };
  EXPECT_TRUE(run({"--help"}).second.contains("--demo"));
  EXPECT_TRUE(run({"--version"}).second.contains(HIGH_ARC_VERSION));
  QTemporaryDir folder, data;
  QSettings(data.filePath("settings.ini"), QSettings::IniFormat).setValue("size", 125);
  EXPECT_EQ(run({"--data", data.path(), "--capture", folder.path()}).first, 0);
  for (const char* view : {"resonator", "primary", "tank", "feed", "switch", "tune", "fire", "record",
                           "exciter-driver", "bridge-feed", "bridge", "gate", "dual-resonant"}) {
    const QImage image(folder.filePath(QString("%1.png").arg(view)));
    ASSERT_FALSE(image.isNull()) << view;
    EXPECT_EQ(image.size(), QSize(1600, 1000)) << view << " at the size that the settings ask for";
  }
  EXPECT_NE(run({"--capture", "/dev/null/x"}).first, 0);
}

// Words as builders of different schools say them, with the one that the program uses. Common practice, no source.
TEST_F(Files, a_search_by_any_word_of_the_trade_comes_to_what_it_means_first) {
  const std::vector<std::pair<const char*, const char*>> asked{{"clip", "tap"},
                                                               {"tapping", "tap"},
                                                               {"foot", "base"},
                                                               {"bottom of the secondary", "base"},
                                                               {"shot", "break"},
                                                               {"bang", "break"},
                                                               {"bps", "break rate"},
                                                               {"repetition rate", "break rate"},
                                                               {"quenching", "quench"},
                                                               {"corona onset", "breakout"},
                                                               {"inception voltage", "breakout voltage"},
                                                               {"bump", "breakout point"},
                                                               {"toroid", "topload"},
                                                               {"capacity hat", "topload"},
                                                               {"k", "coupling coefficient"},
                                                               {"Q", "quality factor"},
                                                               {"Medhurst capacitance", "self-capacitance"},
                                                               {"resonant frequency", "resonance"},
                                                               {"spark", "arc"},
                                                               {"streamer", "arc"},
                                                               {"former", "form"},
                                                               {"packing", "fill factor"},
                                                               {"interturn voltage", "turn-to-turn voltage"},
                                                               {"MMC", "tank"},
                                                               {"condenser", "tank"},
                                                               {"L1", "primary"},
                                                               {"discharge resistor", "bleeder"},
                                                               {"strike rail", "strike ring"},
                                                               {"bang energy", "stored energy"},
                                                               {"mistuning", "detuning"},
                                                               {"notch", "first notch"},
                                                               {"power arcing", "power arc"},
                                                               {"RSG", "rotary gap"},
                                                               {"stationary gap", "static gap"},
                                                               {"protection gap", "safety gap"},
                                                               {"presentation time", "dwell"},
                                                               {"choke", "ballast"},
                                                               {"reservoir", "DC link"},
                                                               {"bus capacitor", "DC link"},
                                                               {"soft start", "inrush limiter"},
                                                               {"voltage doubler of tube coils", "level shifter"},
                                                               {"EMI filter", "line filter"},
                                                               {"no-load current", "magnetising current"},
                                                               {"LTR", "larger than resonant"},
                                                               {"MOT", "oven transformer"},
                                                               {"PFC capacitor", "power-factor capacitor"},
                                                               {"PIV", "reverse voltage"},
                                                               {"autotransformer", "variac"},
                                                               {"deaf time", "blanking time"},
                                                               {"CT", "current transformer"},
                                                               {"GDT", "gate transformer"},
                                                               {"DRSSTC", "dual resonant bridge"},
                                                               {"SSTC", "single resonant bridge"},
                                                               {"ZVS", "zero-voltage switching"},
                                                               {"soft switching", "zero-voltage switching"},
                                                               {"OCD", "over-current detection"},
                                                               {"pulse width", "on-time"},
                                                               {"duty cycle", "duty"},
                                                               {"predictor", "phase lead"},
                                                               {"crowded current", "skin effect"},
                                                               {"mu", "amplification factor"},
                                                               {"tickler", "feedback winding"},
                                                               {"phase angle", "firing angle"},
                                                               {"trap", "parasitic suppressor"},
                                                               {"plate heat", "plate dissipation"},
                                                               {"VTTC", "tube coil"},
                                                               {"HF plasma", "flame coil"},
                                                               {"counterpoise", "RF ground"},
                                                               {"tolerance", "band"}};
  EXPECT_GE(asked.size(), 60u);
  QTest::keyClick(&window(), Qt::Key_F1);
  auto& sheet = get<HelpSheet>("help sheet");
  auto& search = get<QLineEdit>("help search");
  const auto& text = get<QTextBrowser>("help text");
  for (const auto& [word, term] : asked) {
    search.setText(word);
    QTest::keyClick(&search, Qt::Key_Return);
    EXPECT_THAT(text.source().toString().toStdString(), HasSubstr("words.md")) << word;
    EXPECT_EQ(text.textCursor().block().text().toStdString(), term) << word;
  }
  EXPECT_TRUE(sheet.find("tolerance")) << "asked again it goes on to where the word stands";
  EXPECT_NE(text.textCursor().block().text().toStdString(), "band");
}

TEST_F(Files, a_word_in_the_window_leads_to_what_it_means_by_pointer_and_by_key) {
  show_stage("primary");
  auto& field = get<QuantityField>("primary.tap_turns");
  const QList<const Term*> terms = terms_in(field.accessibleName());
  ASSERT_FALSE(terms.isEmpty());
  EXPECT_EQ(terms.front()->term, "tap");
  const auto pointed_at = [](QWidget& widget) {
    QHelpEvent rest(QEvent::ToolTip, {2, 2}, widget.mapToGlobal(QPoint(2, 2)));
    QApplication::sendEvent(&widget, &rest);
    return QToolTip::text().toStdString();
  };
  EXPECT_THAT(pointed_at(field), HasSubstr("tap: " + terms.front()->what.toStdString()));
  for (QLabel* label : get<QStackedWidget>("canvas").currentWidget()->findChildren<QLabel*>())
    if (label->isVisible() && label->window() == &window()) { // not the tip itself
      for (const Term* term : terms_in(label->text()))
        EXPECT_THAT(pointed_at(*label), HasSubstr(term->what.toStdString())) << label->text().toStdString();
    }
  field.setToolTip("<b>words of a file</b>");
  EXPECT_THAT(pointed_at(field), testing::AllOf(HasSubstr("&lt;b&gt;"), HasSubstr("tap:")))
      << "never markup, with its meaning too";
  field.setFocus();
  QTest::keyClick(&field, Qt::Key_F1, Qt::AltModifier);
  const auto& text = get<QTextBrowser>("help text");
  EXPECT_THAT(text.source().toString().toStdString(), HasSubstr("words.md"));
  EXPECT_EQ(text.textCursor().block().text(), "tap");
}

TEST(Vocabulary, names_are_found_as_whole_words_once_and_the_longest_first) {
  const auto found = [](const char* text) {
    QStringList out;
    for (const Term* term : terms_in(text)) out << term->term;
    return out;
  };
  EXPECT_EQ(found("Breakout voltage of the topload"), (QStringList{"breakout voltage", "topload"}));
  EXPECT_EQ(found("Two taps and a tap"), QStringList{"tap"});
  EXPECT_EQ(found("Tapered tape"), QStringList{});
  EXPECT_TRUE(found("bang size").contains("stored energy")) << "by what others call it";
  for (const Term& term : vocabulary()) {
    EXPECT_FALSE(term.what.isEmpty()) << term.term.toStdString();
    EXPECT_EQ(term_called(term.term), &term) << term.term.toStdString();
  }
}

} // namespace
