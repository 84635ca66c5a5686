// high-arc: the desktop application.
#include "base/file_io.h"
#include "base/log.h"
#include "window/capture.h"
#include "window/main_window.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QIcon>
#include <QProcess>
#include <QScreen>
#include <QSettings>
#include <QStandardPaths>
#include <QStyleFactory>
#include <QTemporaryDir>
#include <csignal>
#include <cstdio>
#include <unistd.h>

namespace {

QSize window_size(const QString& text) {
  const QSize size(text.section('x', 0, 0).toInt(), text.section('x', 1).toInt());
  return size.isValid() && !size.isEmpty() ? size : QSize(1280, 800);
}

struct Options {
  QCommandLineOption demo{"demo", "Open the demo design."};
  QCommandLineOption capture{"capture", "Render every main view of the demo into PNG files and exit.", "folder"};
  QCommandLineOption data{"data", "Keep settings and recovery files in this folder.", "folder"};
  QCommandLineOption first_paint{"exit-after-paint",
                                 "Exit once the first picture of the window is on the screen (for timing)."};
  QCommandLineOption size{"size", "Size of the captured pictures.", "WIDTHxHEIGHT", "1280x800"};
};

void describe(QCommandLineParser& parser, const Options& options) {
  parser.setApplicationDescription("Designs and tunes Tesla coils and follows the build to the logged run.");
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addOptions({options.demo, options.capture, options.size, options.data, options.first_paint});
  parser.addPositionalArgument("FILE", "Design file to open.", "[FILE]");
}

QString data_folder(const QCommandLineParser& parser, const Options& options) {
  return parser.isSet(options.data) ? parser.value(options.data)
                                    : QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation);
}

// What must be settled before there is a window: --help and --version want no display, they print and exit; and the
// size of everything is read once, when the toolkit starts. True when that is by the setting.
bool prepare(int argc, char** argv, const Options& options) {
  QCoreApplication application(argc, argv);
  QCommandLineParser parser;
  describe(parser, options);
  parser.parse(QCoreApplication::arguments()); // what it does not know may be for the toolkit
  if (parser.isSet("version") || parser.isSet("help")) parser.process(application);
  const QSettings settings(data_folder(parser, options) + "/settings.ini", QSettings::IniFormat);
  const int per_cent = MainWindow::size_in(settings);
  if (per_cent == 100 || !qEnvironmentVariableIsEmpty("QT_SCALE_FACTOR")) return false;
  return qputenv("QT_SCALE_FACTOR", QByteArray::number(per_cent / 100.0));
}

// Nobody has chosen a size: everything is as large as the screen wants it, be it another one than at the last
// start. The toolkit reads the size once, so that a new one wants a new start, before there is a window.
void fit_size_to_screen(const QString& folder, bool by_setting, char** argv) {
  constexpr const char* once = "HIGH_ARC_SIZE_FITTED"; // never twice in a row
  const bool fitted = qEnvironmentVariableIsSet(once);
  qunsetenv(once);
  QSettings settings(folder + "/settings.ini", QSettings::IniFormat);
  const bool chosen = settings.contains("size") && !settings.value("size by screen").toBool();
  const QScreen* screen = QGuiApplication::primaryScreen();
  if (!screen || chosen || fitted) return;
  const int now = by_setting ? MainWindow::size_in(settings) : 100;
  if (screen->devicePixelRatio() > now / 100.0 + 0.01) return; // the desktop enlarges it
  const int wanted = MainWindow::size_for(screen->size() * (now / 100.0));
  if (wanted == now) return;
  settings.setValue("size", wanted);
  settings.setValue("size by screen", true);
  settings.sync();
  if (settings.status() != QSettings::NoError) return;
  qputenv(once, "1");
  execv("/proc/self/exe", argv);
}

} // namespace

int main(int argc, char** argv) {
  std::signal(SIGXFSZ, SIG_IGN); // a limit on the size of files is an error to be said, like a full disk
  QCoreApplication::setApplicationName("high-arc");
  QCoreApplication::setApplicationVersion(HIGH_ARC_VERSION);
  const Options options;
  const bool by_setting = prepare(argc, argv, options);
  QApplication application(argc, argv);
  if (by_setting) qunsetenv("QT_SCALE_FACTOR"); // has been read; what is started from here reads the setting afresh
  QApplication::setApplicationDisplayName("High Arc");
  QApplication::setDesktopFileName("high-arc");
  QApplication::setWindowIcon(QIcon(":/icon.svg"));
  QApplication::setStyle(QStyleFactory::create("Fusion"));
  if (!type::load_fonts()) std::fputs("high-arc: the shipped fonts are missing; the system's are used\n", stderr);
  QApplication::setFont(type::font(type::body));

  QCommandLineParser parser;
  describe(parser, options);
  parser.process(application);

  QTemporaryDir throwaway; // pictures must not depend on, or touch, anybody's settings
  const QString folder = parser.isSet(options.capture) ? throwaway.path() : data_folder(parser, options);
  make_private_folder(folder);
  if (!parser.isSet(options.capture)) fit_size_to_screen(folder, by_setting, argv);
  start_log(folder);

  MainWindow window(folder);
  if (parser.isSet(options.demo) || parser.isSet(options.capture))
    window.open_demo();
  else if (!parser.positionalArguments().isEmpty())
    window.open_file(parser.positionalArguments().first());
  else
    window.new_design();
  if (parser.isSet(options.capture)) {
    QString problem;
    if (capture_views(window, window_size(parser.value(options.size)), parser.value(options.capture), &problem))
      return 0;
    std::fprintf(stderr, "high-arc: %s\n", qPrintable(problem));
    return 1;
  }
  window.set_restart([folder](QStringList arguments) {
    QProcess::startDetached(QCoreApplication::applicationFilePath(), QStringList{"--data", folder} + arguments);
    QCoreApplication::quit();
  });
  window.show();
  if (parser.isSet(options.first_paint)) {
    window.document().wait_for_analysis();
    window.repaint();
    return 0;
  }
  return QApplication::exec();
}
