// The window's frame and actions.
#include "window/main_window.h"
#include "coil_views/tolerance_sheet.h"
#include "craft/kind.h"
#include "file/design_file.h"
#include "stages/first_fault_sheet.h"
#include "stages/stage.h"
#include "toolkit/common.h"
#include "toolkit/file_dialogs.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/spoken.h"
#include "toolkit/text.h"
#include "window/recovery_strip.h"
#include "window/words.h"
#include "workshop/start.h"
#include <QAbstractItemView>
#include <QAction>
#include <QApplication>
#include <QButtonGroup>
#include <QCheckBox>
#include <QClipboard>
#include <QCloseEvent>
#include <QComboBox>
#include <QDateTime>
#include <QDialog>
#include <QFile>
#include <QFileInfo>
#include <QFrame>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLayoutItem>
#include <QMenu>
#include <QMimeData>
#include <QScreen>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <functional>

namespace {

// The path of the settings file. One that cannot be read is set aside first, so that nothing keeps the window from
// opening.
QString usable_settings(const QString& data_folder) {
  const QString path = data_folder + "/settings.ini";
  make_private_folder(data_folder);
  if (QFile file(path); !file.exists()) file.open(QIODevice::WriteOnly); // what replaces it takes its rights
  make_private(path);
  const auto unreadable = [&] {
    const QSettings settings(path, QSettings::IniFormat);
    settings.allKeys(); // sections are read only when asked for
    return settings.status() == QSettings::FormatError;
  };
  if (QFileInfo::exists(path) && unreadable()) {
    QFile::remove(path + ".unreadable");
    QFile::rename(path, path + ".unreadable");
  }
  return path;
}

QFrame* horizontal_rule(QWidget* parent) {
  auto* line = new QFrame(parent);
  line->setProperty("rule", true);
  line->setFixedHeight(1);
  return line;
}

} // namespace

MainWindow::MainWindow(const QString& data_folder, QWidget* parent)
    : QMainWindow(parent), workspace_(data_folder), settings_(usable_settings(data_folder), QSettings::IniFormat) {
  setObjectName("main window");
  install_spoken_drawings();
  install_plain_tooltips(meanings_of);
  setCentralWidget(make_centre());
  make_follows();
  make_actions();
  listen();
  take_settings();
  setAcceptDrops(true);
  qApp->installEventFilter(this);
  show_stage(0);
  canvas_->setFocus();
  refresh_title();
  refresh_kind();
  say_what_was_unreadable(data_folder);
  if (document().recoverable().empty()) offer_first_steps();
}

// Everything below the title: bars, the rail, the stage, findings, the ruler.
QWidget* MainWindow::make_centre() {
  auto* centre = new QWidget(this);
  auto* column = new QVBoxLayout(centre);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(make_top_bar());
  column->addWidget(horizontal_rule(centre));
  auto* recovery = new RecoveryStrip(
      workspace_, [this] { return may_leave(); }, centre);
  connect(recovery, &RecoveryStrip::failed, this, &MainWindow::notify);
  column->addWidget(recovery);
  column->addWidget(make_notice());
  first_steps_ = new FirstSteps(workspace_, centre);
  connect(first_steps_, &FirstSteps::ended, this, [this] { settings_.setValue("first steps", "seen"); });
  column->addWidget(first_steps_);
  strip_ = new CoilStrip(workspace_, centre);
  column->addWidget(strip_);
  column->addWidget(horizontal_rule(centre));
  auto* middle = new QHBoxLayout;
  middle->setSpacing(0);
  rail_ = new StageRail(workspace_, centre);
  middle->addWidget(rail_);
  canvas_ = new QStackedWidget(centre);
  canvas_->setObjectName("canvas");
  canvas_->setFocusPolicy(Qt::ClickFocus); // so that no entry field takes the cursor at the start
  for (std::size_t i = 0; i < stages().size(); ++i) canvas_->addWidget(new QWidget); // each stage when first shown
  middle->addWidget(canvas_, 1);
  middle->addWidget(vertical_rule(centre));
  findings_ = new FindingsPanel(workspace_, centre);
  middle->addWidget(findings_);
  column->addLayout(middle, 1);
  column->addWidget(horizontal_rule(centre));
  ruler_ = new ResonanceRuler(workspace_, centre);
  column->addWidget(ruler_);
  return centre;
}

// The button on the ruler that says what the tank mark moves.
void MainWindow::make_follows() {
  follows_ = new QPushButton("moves the tap", ruler_);
  auto* follows = follows_;
  follows->setObjectName("ruler follows");
  follows->setProperty("link", true);
  follows->setToolTip("Choose what follows the tank mark: the tap or the capacitance");
  follows->move(20, 54);
  connect(follows, &QPushButton::clicked, ruler_, [this] {
    ruler_->set_follows(ruler_->follows() == ResonanceRuler::Follows::clip ? ResonanceRuler::Follows::capacitance
                                                                           : ResonanceRuler::Follows::clip);
  });
  connect(ruler_, &ResonanceRuler::follows_changed, follows, [this, follows] {
    follows->setText(ruler_->follows() == ResonanceRuler::Follows::clip ? "moves the tap" : "changes capacitance");
    follows->adjustSize();
  });
}

void MainWindow::listen() {
  connect(rail_, &StageRail::chosen, this, &MainWindow::show_stage);
  connect(strip_, &CoilStrip::findings_requested, findings_, &FindingsPanel::enter);
  connect(findings_, &FindingsPanel::cautions_requested, this, &MainWindow::show_cautions);
  connect(findings_, &FindingsPanel::about_requested, this, &MainWindow::show_about_stage);
  connect(&workspace_, &Workspace::go_to_requested, this, &MainWindow::go_to);
  connect(&workspace_, &Workspace::design_wanted, this, &MainWindow::take_wanted);
  connect(&workspace_, &Workspace::design_offered, this, &MainWindow::take_offered);
  connect(&workspace_, &Workspace::solve_wanted, this, &MainWindow::show_solve);
  connect(&document(), &Document::design_changed, this, &MainWindow::refresh_title);
  connect(&document(), &Document::design_changed, this, &MainWindow::refresh_kind);
  connect(&document(), &Document::file_changed, this, &MainWindow::refresh_title);
  connect(&document(), &Document::autosave_failed, this, [this](const QString& problem) {
    notify("Autosave does not work: " + problem + ". It is tried again; save by hand meanwhile.");
  });
  connect(&document(), &Document::autosave_works_again, this, [this] { notify("Autosave works again."); });
  connect(&document(), &Document::refused, this, &MainWindow::notify);
  connect(&workspace_.firing, &Firing::notice, this, [this](const QString& text) {
    notify(text);
    notice_->set_loud(true);
  });
  connect(&document(), &Document::work_failed, this, [this](const QString& problem) {
    notify("A computation ended with an error: " + problem +
           ". What is shown is of before; the design is untouched.");
  });
  connect(&workspace_.shelf, &ShelfStore::trouble, this, &MainWindow::notify);
  connect(&document().history(), &QUndoStack::indexChanged, this, &MainWindow::refresh_title);
}

void MainWindow::take_settings() {
  workspace_.set_recent_files(settings_.value("recent").toStringList());
  file_dialogs::set_folder(settings_.value("folder").toString());
  set_dark(settings_.value("dark", false).toBool());
  set_units(settings_.value("units", "metric").toString() == "inch" ? arc::UnitSystem::inch
                                                                    : arc::UnitSystem::metric);
  resize(1280, 800);
  restoreGeometry(settings_.value("geometry").toByteArray());
  fit_to_screen();
}

void MainWindow::say_what_was_unreadable(const QString& data_folder) {
  if (!workspace_.shelf.problem().isEmpty())
    notify("The kept shelf could not be read: " + workspace_.shelf.problem() +
           ". It lies beside the new one as “unreadable”; the starter shelf stands in.");
  else if (QFileInfo::exists(data_folder + "/settings.ini.unreadable") &&
           !settings_.contains("geometry")) // said until a window has closed with the new ones
    notify("The settings could not be read and are set aside; defaults are used.");
}

MainWindow::~MainWindow() {
  // A field commits when it loses the cursor: let it, and let the views go, while the document is still there.
  if (QWidget* focused = QApplication::focusWidget()) focused->clearFocus();
  document().disconnect(this);
  document().history().disconnect(this);
  qDeleteAll(findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
}

QWidget* MainWindow::make_top_bar() {
  auto* bar = new QWidget(this);
  bar->setFixedHeight(40);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(space::large - 8, 0, space::large, 0);
  row->setSpacing(space::small);
  name_ = new QLineEdit(bar);
  name_->setObjectName("design name");
  name_->setAccessibleName("Name of the design");
  name_->setFont(type::font(type::strong, QFont::DemiBold));
  name_->setStyleSheet("QLineEdit:!hover:!focus { border-color: transparent; background: transparent; }");
  connect(name_, &QLineEdit::editingFinished, this, [this] {
    const std::string name = name_->text().trimmed().toStdString();
    if (!name.empty()) document().edit("Name", [&](arc::Design& design) { design.name = name; });
    refresh_title();
  });
  row->addWidget(name_);
  kind_button_ = new QPushButton(bar);
  kind_button_->setObjectName("coil kind");
  kind_button_->setProperty("link", true);
  kind_button_->setToolTip("Another kind of coil; everything typed for this one is kept");
  connect(kind_button_, &QPushButton::clicked, this, &MainWindow::choose_kind);
  row->addWidget(kind_button_);
  row->addStretch();
  saved_ = make_text(bar);
  saved_->setObjectName("saved state");
  saved_->setProperty("caption", true);
  row->addWidget(saved_);
  row->addStretch();
  const auto button = [&](const char* name, const QString& text, void (MainWindow::*action)()) {
    auto* made = new QPushButton(text, bar);
    made->setObjectName(name);
    connect(made, &QPushButton::clicked, this, action);
    row->addWidget(made);
    return made;
  };
  undo_button_ = button("undo", "Undo", &MainWindow::undo);
  redo_button_ = button("redo", "Redo", &MainWindow::redo);
  row->addSpacing(space::small);
  auto* units = new QButtonGroup(bar);
  metric_ = button("units metric", "mm", &MainWindow::refresh_title);
  inch_ = button("units inch", "in", &MainWindow::refresh_title);
  for (QPushButton* unit : {metric_, inch_}) {
    unit->setCheckable(true);
    unit->setFixedWidth(44);
    unit->setProperty("narrow", true);
    units->addButton(unit);
  }
  metric_->setToolTip("Millimetres (Ctrl+U)");
  inch_->setToolTip("Inches and wire gauge (Ctrl+U)");
  connect(metric_, &QPushButton::clicked, this, [this] { set_units(arc::UnitSystem::metric); });
  connect(inch_, &QPushButton::clicked, this, [this] { set_units(arc::UnitSystem::inch); });
  row->addSpacing(space::small);
  theme_button_ = button("theme", "Dark room", &MainWindow::toggle_theme);
  menu_button_ = button("menu", "Menu", &MainWindow::show_menu);
  return bar;
}

QWidget* MainWindow::make_notice() {
  notice_ = new Strip("notice", "notice text", this);
  start_again_ =
      notice_->add_button("start again", "Start again now",
                          "Closes the window and opens the same design at the new size", [this] { start_again(); });
  notice_->add_button("close notice", "Close", "Hides this", [this] { notice_->hide(); });
  notice_->hide();
  return notice_;
}

void MainWindow::notify(const QString& text) {
  start_again_->hide();
  notice_->words().setText(text);
  notice_->set_loud(false);
  notice_->show();
}

// Inside whatever screen there is, whole.
void MainWindow::fit_to_screen() {
  // What the desktop puts around the window is known once it is shown: a title bar and a border till then.
  QRect room = screen()->availableGeometry();
  const QRect frame = frameGeometry();
  const int usual_title = style()->pixelMetric(QStyle::PM_TitleBarHeight) + 8;
  const int above = isVisible() ? geometry().top() - frame.top() : isWindow() && !isFullScreen() ? usual_title : 0;
  const int around = isVisible() ? frame.height() - height() - above : 0;
  room.adjust(0, above, 0, -around);
  setMinimumSize(QSize(1024, 700).boundedTo(room.size()));
  resize(size().boundedTo(room.size()));
  fitted_ = size();
  if (!room.contains(geometry())) move(room.topLeft() - QPoint(0, above));
}

void MainWindow::showEvent(QShowEvent* event) {
  QMainWindow::showEvent(event);
  QTimer::singleShot(0, this, [this] {
    if (size() == fitted_ && !isMaximized() && !isFullScreen()) fit_to_screen(); // with the frame that it has
  });
}

QAction* MainWindow::add_action(const QString& name, const QString& text, const QKeySequence& shortcut,
                                void (MainWindow::*action)()) {
  auto* made = new QAction(text, this);
  made->setObjectName(name);
  made->setShortcut(shortcut);
  if (action) connect(made, &QAction::triggered, this, action);
  addAction(made);
  actions_.push_back(made);
  return made;
}

void MainWindow::make_actions() {
  add_action("action new", "New design", QKeySequence("Ctrl+N"), &MainWindow::new_design);
  add_action("action open", "Open…", QKeySequence("Ctrl+O"), &MainWindow::choose_file);
  for (const arc::CoilKind* row : arc::coil_kinds()) {
    const arc::CoilKind& kind = *row;
    const std::string key(kind.key);
    if (kind.demo.empty()) continue;
    const bool first = row == arc::coil_kinds().front();
    connect(add_action(first ? "action demo" : "action demo " + QString::fromStdString(key),
                       "Open the demo: " + text_of(kind.title).toLower(), {}, nullptr),
            &QAction::triggered, this, [this, key] {
              if (may_leave()) open_demo(key);
            });
  }
  add_action("action save", "Save", QKeySequence("Ctrl+S"), nullptr);
  connect(actions_.back(), &QAction::triggered, this, [this] { save(); });
  add_action("action save as", "Save as…", QKeySequence("Ctrl+Shift+S"), nullptr);
  connect(actions_.back(), &QAction::triggered, this, [this] { save_as(); });
  add_action("action undo", "Undo", QKeySequence("Ctrl+Z"), &MainWindow::undo);
  add_action("action redo", "Redo", QKeySequence("Ctrl+Shift+Z"), &MainWindow::redo);
  add_action("action units", "Metric or inch", QKeySequence("Ctrl+U"), &MainWindow::toggle_units);
  add_action("action theme", "Daylight or dark room", QKeySequence("Ctrl+D"), &MainWindow::toggle_theme);
  connect(add_action("action larger", "Larger text", QKeySequence("Ctrl++"), nullptr), &QAction::triggered, this,
          [this] { step_size(1); });
  connect(add_action("action smaller", "Smaller text", QKeySequence("Ctrl+-"), nullptr), &QAction::triggered, this,
          [this] { step_size(-1); });
  for (std::size_t i = 0; i < stages().size(); ++i) {
    const StageSpec& stage = stages()[i];
    connect(add_action("action stage " + stage.key, stage.title, QKeySequence(stage.shortcut), nullptr),
            &QAction::triggered, this, [this, i] {
              show_stage(static_cast<int>(i));
              enter_stage();
            });
  }
  connect(add_action("action next group", "Next group of controls", QKeySequence("F6"), nullptr),
          &QAction::triggered, this, [this] { jump_group(true); });
  connect(add_action("action previous group", "Previous group of controls", QKeySequence("Shift+F6"), nullptr),
          &QAction::triggered, this, [this] { jump_group(false); });
  add_action("action fill", "A plot in the whole of the stage, and back", QKeySequence("F11"),
             &MainWindow::fill_with_plot);
  add_action("action all figures", "All figures of this stage, and back", QKeySequence("Ctrl+E"),
             &MainWindow::show_all_figures);
  connect(add_action("action confirm stage", "Confirm this stage", QKeySequence("Ctrl+Shift+Return"), nullptr),
          &QAction::triggered, rail_, &StageRail::confirm);
  connect(add_action("action take examples", "Take all examples as given", QKeySequence("Ctrl+Shift+E"), nullptr),
          &QAction::triggered, this, [this] { take_all_examples(workspace_); });
  add_action("action tolerances", "Input tolerances", QKeySequence("Ctrl+T"), &MainWindow::show_tolerances);
  add_action("action variants", "Variants of this design", QKeySequence("Ctrl+L"), &MainWindow::show_variants);
  add_action("action curves", "Curves over one number", QKeySequence("Ctrl+R"), &MainWindow::show_curves);
  connect(add_action("action solve", "Make a figure a value", QKeySequence("Ctrl+M"), nullptr), &QAction::triggered,
          this, [this] { show_solve(); });
  add_action("action first fault", "Troubleshooting: where to look", QKeySequence("Ctrl+F"),
             &MainWindow::show_first_fault);
  add_action("action cautions", "Cautions for this stage", QKeySequence("Ctrl+K"), &MainWindow::show_cautions);
  add_action("action about stage", "What this stage is for", QKeySequence("Ctrl+F1"),
             &MainWindow::show_about_stage);
  connect(add_action("action first steps", "First coil, in three steps", {}, nullptr), &QAction::triggered,
          first_steps_, &FirstSteps::begin);
  add_action("action help", "Guide: this stage", QKeySequence("F1"), &MainWindow::show_help);
  add_action("action words", "What the words here mean", QKeySequence("Alt+F1"), &MainWindow::show_words);
  add_action("action shortcuts", "Keyboard shortcuts", QKeySequence("Shift+F1"), &MainWindow::show_shortcuts);
  add_action("action about", "About High Arc", {}, &MainWindow::show_about);
  connect(add_action("action quit", "Quit", QKeySequence("Ctrl+Q"), nullptr), &QAction::triggered, this,
          &QWidget::close);
}

void MainWindow::show_menu() {
  QMenu menu(this);
  for (QAction* action : actions_) {
    const QString name = action->objectName();
    if (name.startsWith("action stage")) continue;
    if (name == "action undo" || name == "action units" || name == "action cautions" || name == "action quit")
      menu.addSeparator();
    menu.addAction(action);
    if (name == "action new") {
      auto* kinds = menu.addMenu("New of another kind");
      for (const arc::CoilKind* kind : arc::coil_kinds())
        connect(add_kind(*kinds, *kind), &QAction::triggered, this,
                [this, key = std::string(kind->key)] { new_of_kind(key); });
    }
    if (name != "action open") continue;
    auto* recent = menu.addMenu("Open recent");
    const QStringList paths = settings_.value("recent").toStringList();
    recent->setEnabled(!paths.isEmpty());
    for (const QString& path : paths)
      connect(recent->addAction(unmarked(QFileInfo(path).fileName() + "   " + QFileInfo(path).path())),
              &QAction::triggered, this, [this, path] {
                if (may_leave()) open_file(path);
              });
  }
  menu.exec(menu_button_->mapToGlobal(QPoint(0, menu_button_->height())));
}

QWidget* MainWindow::page(int index) {
  const auto i = static_cast<std::size_t>(index);
  if (pages_.size() <= i) pages_.resize(stages().size());
  if (!pages_[i]) {
    delete canvas_->widget(index); // what keeps its place
    pages_[i] = stages()[i].make(workspace_, canvas_);
    canvas_->insertWidget(index, pages_[i]);
  }
  return pages_[i];
}

void MainWindow::show_stage(int index) {
  if (index < 0 || index >= canvas_->count()) return;
  if (!belongs_to(stages()[static_cast<std::size_t>(index)], arc::kind_of(document().design()))) return;
  canvas_->setCurrentWidget(page(index));
  rail_->set_current(index);
  const StageSpec& shown = stages()[static_cast<std::size_t>(index)];
  findings_->show_stage(shown.key, shown.key == "fire" || shown.place != RailPlace::work);
}

void MainWindow::undo() {
  document().history().undo();
}

void MainWindow::redo() {
  document().history().redo();
}

void MainWindow::toggle_units() {
  set_units(workspace_.units() == arc::UnitSystem::metric ? arc::UnitSystem::inch : arc::UnitSystem::metric);
}

void MainWindow::set_units(arc::UnitSystem units) {
  document().set_units(units);
  metric_->setChecked(units == arc::UnitSystem::metric);
  inch_->setChecked(units == arc::UnitSystem::inch);
  settings_.setValue("units", units == arc::UnitSystem::inch ? "inch" : "metric");
}

void MainWindow::toggle_theme() {
  set_dark(workspace_.theme().name == Theme::daylight().name);
}

void MainWindow::set_dark(bool dark) {
  const Theme theme = dark ? Theme::dark_room() : Theme::daylight();
  setPalette(palette_of(theme));
  QApplication::setPalette(palette_of(theme));
  setStyleSheet(style_sheet(theme));
  workspace_.set_theme(theme);
  theme_button_->setText(dark ? "Daylight" : "Dark room");
  theme_button_->setToolTip("Ctrl+D");
  settings_.setValue("dark", dark);
}

int MainWindow::size_in(const QSettings& settings) {
  return std::clamp(settings.value("size", 100).toInt(), 100, 200);
}

void MainWindow::set_size(int per_cent) {
  settings_.setValue("size", std::clamp(per_cent, 100, 200));
  settings_.remove("size by screen"); // chosen from now on
  settings_.sync();
  notify(QString("From the next start text and everything with it is at %1 %. A window of at least 1024 by 700 at "
                 "that size wants a screen of %2 by %3.")
             .arg(size_per_cent())
             .arg(1024 * size_per_cent() / 100)
             .arg(700 * size_per_cent() / 100));
  start_again_->setVisible(restart_ != nullptr);
}

int MainWindow::size_for(const QSize& screen) {
  constexpr int usual = 1080, step = 25; // lines of a screen that is readable as it is
  const int least = std::min(screen.height(), screen.width() * 9 / 16);
  return least < 1800 ? 100 : std::clamp(least * 100 / usual / step * step, 100, 200);
}

// To a builder who has not seen them, above a design that nobody has touched.
void MainWindow::offer_first_steps() {
  if (!settings_.contains("first steps")) first_steps_->begin();
}

void MainWindow::step_size(int by) {
  constexpr int step = 25;
  set_size(size_per_cent() + by * step);
}

void MainWindow::refresh_title() {
  if (!name_->hasFocus()) name_->setText(document().title());
  name_->setFixedWidth(std::clamp(name_->fontMetrics().horizontalAdvance(name_->text()) + 28, 120, 300));
  const QString file = document().path().isEmpty() ? "not saved yet" : QFileInfo(document().path()).fileName();
  QString state = file;
  if (document().modified())
    state = document().path().isEmpty() ? "unsaved changes" : file + ", unsaved changes";
  else if (!document().saved_at().isEmpty())
    state = QString("%1, saved %2").arg(file, document().saved_at());
  saved_->setText(state);
  setWindowTitle(QString("%1%2 – High Arc").arg(document().title(), document().modified() ? " *" : ""));
  const QUndoStack& history = document().history();
  undo_button_->setEnabled(history.canUndo());
  redo_button_->setEnabled(history.canRedo());
  undo_button_->setToolTip(history.canUndo() ? QString("Undo: %1 (Ctrl+Z)").arg(history.undoText())
                                             : "Nothing to undo");
  redo_button_->setToolTip(history.canRedo() ? QString("Redo: %1 (Ctrl+Shift+Z)").arg(history.redoText())
                                             : "Nothing to redo");
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  const bool narrow = width() < 1180;
  rail_->setFixedWidth(narrow ? 132 : 150);
  findings_->fit(width());
}
