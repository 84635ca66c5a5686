// The window's frame and actions.
#include "window/main_window.h"

#include "coil/design_file.h"
#include "coil/kind.h"
#include "coil/start.h"
#include "coil_views/tolerance_sheet.h"
#include "stages/first_fault_sheet.h"
#include "stages/stage.h"
#include "toolkit/common.h"
#include "toolkit/file_dialogs.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/spoken.h"
#include "toolkit/text.h"
#include "window/recovery_strip.h"

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
constexpr int most_recent_files = 8;

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

bool copy_cells(const QAbstractItemView& table) {
  QModelIndexList cells = table.selectionModel() ? table.selectionModel()->selectedIndexes() : QModelIndexList();
  if (cells.isEmpty() && table.currentIndex().isValid()) cells << table.currentIndex();
  if (cells.isEmpty()) return false;
  std::sort(cells.begin(), cells.end());
  QString text;
  for (qsizetype i = 0; i < cells.size(); ++i) {
    if (i > 0) text += cells[i].row() == cells[i - 1].row() ? '\t' : '\n';
    text += cells[i].data().toString();
  }
  QApplication::clipboard()->setText(text);
  return true;
}

// The widgets that a layout holds, in the order of reading: a grid by rows.
void read_layout(QLayout& layout, std::vector<QWidget*>& out) {
  std::vector<std::pair<std::pair<int, int>, QLayoutItem*>> items;
  const auto* grid = qobject_cast<const QGridLayout*>(&layout);
  for (int i = 0; i < layout.count(); ++i) {
    int row = 0, column = i, rows = 1, columns = 1;
    if (grid) grid->getItemPosition(i, &row, &column, &rows, &columns);
    items.emplace_back(std::pair{row, column}, layout.itemAt(i));
  }
  std::ranges::stable_sort(items, {}, [](const auto& item) { return item.first; });
  for (const auto& [place, item] : items)
    if (item->widget())
      out.push_back(item->widget());
    else if (item->layout())
      read_layout(*item->layout(), out);
}

// What is seen below `w`, in the order in which it is read: as its layouts hold it, then what is placed by hand in
// the order of making.
void read_in_order(QWidget& w, std::vector<QWidget*>& out) {
  std::vector<QWidget*> below;
  if (w.layout()) read_layout(*w.layout(), below);
  for (QObject* child : w.children())
    if (auto* widget = qobject_cast<QWidget*>(child); widget && std::ranges::count(below, widget) == 0)
      below.push_back(widget);
  for (QWidget* widget : below) {
    if (widget->isHidden() || widget->isWindow()) continue;
    out.push_back(widget);
    read_in_order(*widget, out);
  }
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
  install_plain_tooltips();
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
  follows_ = new QPushButton("moves the clip", ruler_);
  auto* follows = follows_;
  follows->setObjectName("ruler follows");
  follows->setProperty("link", true);
  follows->setToolTip("Choose what follows the tank mark: the clip or the capacitance");
  follows->move(20, 54);
  connect(follows, &QPushButton::clicked, ruler_, [this] {
    ruler_->set_follows(ruler_->follows() == ResonanceRuler::Follows::clip ? ResonanceRuler::Follows::capacitance
                                                                           : ResonanceRuler::Follows::clip);
  });
  connect(ruler_, &ResonanceRuler::follows_changed, follows, [this, follows] {
    follows->setText(ruler_->follows() == ResonanceRuler::Follows::clip ? "moves the clip" : "changes capacitance");
    follows->adjustSize();
  });
  setCentralWidget(centre);
  make_actions();
  connect(rail_, &StageRail::chosen, this, &MainWindow::show_stage);
  connect(findings_, &FindingsPanel::cautions_requested, this, &MainWindow::show_cautions);
  connect(findings_, &FindingsPanel::about_requested, this, &MainWindow::show_about_stage);
  connect(&workspace_, &Workspace::go_to_requested, this, &MainWindow::go_to);
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

  file_dialogs::set_folder(settings_.value("folder").toString());
  set_dark(settings_.value("dark", false).toBool());
  set_units(settings_.value("units", "metric").toString() == "inch" ? arc::UnitSystem::inch
                                                                    : arc::UnitSystem::metric);
  setAcceptDrops(true);
  resize(1280, 800);
  restoreGeometry(settings_.value("geometry").toByteArray());
  fit_to_screen();
  qApp->installEventFilter(this);
  show_stage(0);
  canvas_->setFocus();
  refresh_title();
  refresh_kind();
  if (!workspace_.shelf.problem().isEmpty())
    notify("The kept shelf could not be read: " + workspace_.shelf.problem() +
           ". It lies beside the new one as “unreadable”; the starter shelf stands in.");
  else if (QFileInfo::exists(data_folder + "/settings.ini.unreadable") &&
           !settings_.contains("geometry")) // said until a window has closed with the new ones
    notify("The settings could not be read and are set aside; the usual ones stand in.");
  if (document().recoverable().empty()) offer_first_steps();
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
  bar->setFixedHeight(44);
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
  notice_->add_button("close notice", "Close", "Puts this away", [this] { notice_->hide(); });
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

// Some of the window's shortcuts are also editing keys of an entry line; there they would erase what stands in it.
bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
  // A table's chosen cells as text, wherever there is one.
  if (event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->matches(QKeySequence::Copy))
    if (const auto* table = qobject_cast<const QAbstractItemView*>(watched)) return copy_cells(*table);
  // Enter presses the button that has the cursor, as Space does, in the window and in every sheet.
  if (event->type() == QEvent::KeyPress)
    if (auto* button = qobject_cast<QAbstractButton*>(watched);
        button && button->hasFocus() && !button->property("own enter").toBool()) {
      const auto* key = static_cast<QKeyEvent*>(event);
      if ((key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) &&
          key->modifiers() != Qt::ControlModifier) {
        button->click();
        return true;
      }
    }
  if (event->type() != QEvent::ShortcutOverride) return QMainWindow::eventFilter(watched, event);
  const auto* key = static_cast<QKeyEvent*>(event);
  const bool ours = key->modifiers() == Qt::ControlModifier &&
                    (key->key() == Qt::Key_U || key->key() == Qt::Key_D || key->key() == Qt::Key_K);
  // Undo is of the letters while they are typed, of the design once they are taken.
  const auto* field = qobject_cast<const QuantityField*>(watched);
  const bool of_design =
      field && !field->being_typed() && (key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo));
  if (!ours && !of_design) return QMainWindow::eventFilter(watched, event);
  event->ignore();
  return true;
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
    if (!QFile::exists(QString(":/demo-%1.json").arg(text_of(kind.key)))) continue;
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
    connect(add_action("action stage " + stage.key, stage.title, {}, nullptr), &QAction::triggered, this,
            [this, i] {
              show_stage(static_cast<int>(i));
              enter_stage();
            });
  }
  connect(add_action("action next group", "Next group of controls", QKeySequence("F6"), nullptr),
          &QAction::triggered, this, [this] { jump_group(true); });
  connect(add_action("action previous group", "Group of controls before", QKeySequence("Shift+F6"), nullptr),
          &QAction::triggered, this, [this] { jump_group(false); });
  add_action("action tolerances", "Tolerances of what was measured", QKeySequence("Ctrl+T"),
             &MainWindow::show_tolerances);
  add_action("action first fault", "First fault: where to look", QKeySequence("Ctrl+F"),
             &MainWindow::show_first_fault);
  add_action("action cautions", "Cautions for this stage", QKeySequence("Ctrl+K"), &MainWindow::show_cautions);
  add_action("action about stage", "What this stage is for", QKeySequence("Ctrl+F1"),
             &MainWindow::show_about_stage);
  connect(add_action("action first steps", "First coil, in three steps", {}, nullptr), &QAction::triggered,
          first_steps_, &FirstSteps::begin);
  add_action("action help", "Guide: this stage", QKeySequence("F1"), &MainWindow::show_help);
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
}

// Which part of the window a control stands in, in the order of reading.
int MainWindow::part_of(const QWidget* widget) const {
  const std::array<const QWidget*, 4> parts{rail_, canvas_, findings_, ruler_};
  for (std::size_t i = 0; i < parts.size(); ++i)
    if (parts[i] == widget || parts[i]->isAncestorOf(widget)) return static_cast<int>(i) + 1;
  return 0; // the top bar, and what is said below it
}

std::vector<QWidget*> MainWindow::tab_stops() const {
  const auto is_stop = [](const QWidget* w) {
    if (!(w->focusPolicy() & Qt::TabFocus) || !w->isEnabled()) return false;
    // Of buttons of which one is down, that one; arrow keys go to the others.
    const auto* button = qobject_cast<const QAbstractButton*>(w);
    if (button && button->isCheckable() && button->autoExclusive()) return button->isChecked();
    const QButtonGroup* group = button ? button->group() : nullptr;
    return !group || !group->exclusive() || !group->checkedButton() || group->checkedButton() == button;
  };
  std::vector<QWidget*> out;
  read_in_order(*centralWidget(), out);
  std::erase_if(out, std::not_fn(is_stop));
  return out;
}

bool MainWindow::focusNextPrevChild(bool next) {
  const std::vector<QWidget*> stops = tab_stops();
  if (stops.empty()) return false;
  const auto at = std::ranges::find(stops, QApplication::focusWidget());
  const auto count = static_cast<std::ptrdiff_t>(stops.size());
  // What has the cursor without being a stop (the canvas at the start): from the stage's first on.
  std::ptrdiff_t to =
      std::ranges::find_if(stops, [this](const QWidget* w) { return canvas_->isAncestorOf(w); }) - stops.begin();
  if (at != stops.end()) to = at - stops.begin() + (next ? 1 : count - 1);
  stops[static_cast<std::size_t>(to % count)]->setFocus(next ? Qt::TabFocusReason : Qt::BacktabFocusReason);
  return true;
}

std::vector<std::size_t> MainWindow::group_starts(const std::vector<QWidget*>& stops) const {
  enum class Sort { entry, button, reading, tick, list, drawing };
  const auto sort_of = [](const QWidget* w) {
    if (qobject_cast<const QLineEdit*>(w) || qobject_cast<const QComboBox*>(w)) return Sort::entry;
    if (qobject_cast<const ReadingButton*>(w)) return Sort::reading;
    if (qobject_cast<const QCheckBox*>(w)) return Sort::tick;
    if (qobject_cast<const QAbstractButton*>(w)) return Sort::button;
    if (qobject_cast<const QAbstractItemView*>(w)) return Sort::list;
    return Sort::drawing;
  };
  constexpr std::size_t longest = 6;
  std::vector<std::size_t> out;
  for (std::size_t i = 0; i < stops.size(); ++i)
    if (i == 0 || sort_of(stops[i]) != sort_of(stops[i - 1]) || part_of(stops[i]) != part_of(stops[i - 1]) ||
        i - out.back() >= longest)
      out.push_back(i);
  return out;
}

// To the first control of the stage.
void MainWindow::enter_stage() {
  const QWidget* stage = canvas_->currentWidget();
  for (QWidget* w : tab_stops())
    if (stage->isAncestorOf(w)) return w->setFocus(Qt::TabFocusReason);
  canvas_->setFocus();
}

void MainWindow::jump_group(bool forward) {
  const std::vector<QWidget*> stops = tab_stops();
  const std::vector<std::size_t> starts = group_starts(stops);
  if (starts.empty()) return;
  const auto at = static_cast<std::size_t>(std::ranges::find(stops, QApplication::focusWidget()) - stops.begin());
  std::size_t to = forward ? starts.front() : starts.back();
  if (at < stops.size()) {
    if (const auto next = std::ranges::upper_bound(starts, at); forward && next != starts.end()) to = *next;
    if (const auto here = std::ranges::lower_bound(starts, at); !forward && here != starts.begin())
      to = *std::prev(here);
  }
  stops[to]->setFocus(forward ? Qt::TabFocusReason : Qt::BacktabFocusReason);
}

void MainWindow::go_to(const QString& stage, const QString& field) {
  for (std::size_t i = 0; i < stages().size(); ++i) {
    if (stages()[i].key != stage) continue;
    // A field may stand on another stage than the finding's (the room's on Primary): take the first that has it.
    int target = static_cast<int>(i);
    const auto seek = [&](int index) { // on a stage that this kind of coil has
      const bool here = belongs_to(stages()[static_cast<std::size_t>(index)], arc::kind_of(document().design()));
      if (!here || field.isEmpty()) return static_cast<QWidget*>(nullptr);
      if (auto* stands = page(index)->findChild<QWidget*>(field)) return stands;
      for (QPushButton* button : page(index)->findChildren<QPushButton*>())
        if (button->property(opens_fields).toStringList().contains(field)) {
          button->click();
          return page(index)->findChild<QWidget*>(field);
        }
      return static_cast<QWidget*>(nullptr);
    };
    QWidget* found = seek(target);
    for (int other = 0; !found && other < canvas_->count(); ++other)
      if ((found = seek(other))) target = other;
    show_stage(target);
    if (!found && !field.isEmpty()) found = page(target)->findChild<QWidget*>(field); // made when shown
    if (found) {
      if (found->window() != this) found->window()->show(); // the field stands in a sheet
      found->setFocus(Qt::ShortcutFocusReason);
      for (QWidget* up = found->parentWidget(); up; up = up->parentWidget())
        if (auto* area = qobject_cast<QScrollArea*>(up)) area->ensureWidgetVisible(found);
    } else
      page(target)->setFocus();
  }
}

bool MainWindow::open_file(const QString& path) {
  QString problem;
  if (!document().open(path, &problem)) {
    notify(QString("%1 was not opened: %2").arg(QFileInfo(path).fileName(), problem));
    return false;
  }
  notice_->hide();
  if (document().open_elsewhere())
    notify(
        QString("%1 is open in another window too. What is saved last counts; save one of them under another name.")
            .arg(QFileInfo(path).fileName()));
  remember(path);
  return true;
}

bool MainWindow::open_demo(const std::string& kind) {
  QFile file(QString(":/demo-%1.json").arg(QString::fromStdString(kind)));
  if (!file.open(QIODevice::ReadOnly)) return false;
  document().start(arc::read_design(file.readAll().toStdString()));
  return true;
}

void MainWindow::new_design() {
  new_of_kind(document().design().kind);
}

// A row of a menu for a kind: what it is for, and below it what it takes.
QAction* MainWindow::add_kind(QMenu& menu, const arc::CoilKind& kind) {
  QAction* action = menu.addAction(QString("%1: %2").arg(text_of(kind.title), text_of(kind.purpose)));
  action->setObjectName("kind " + text_of(kind.key));
  QAction* needs = menu.addAction("      " + text_of(kind.needs));
  needs->setEnabled(false);
  return action;
}

void MainWindow::choose_kind() {
  QMenu menu(this);
  menu.setObjectName("kinds");
  for (const arc::CoilKind* row : arc::coil_kinds()) {
    const arc::CoilKind& kind = *row;
    QAction* action = add_kind(menu, kind);
    action->setCheckable(true);
    action->setChecked(kind.key == document().design().kind);
    connect(action, &QAction::triggered, this, [this, key = std::string(kind.key)] { switch_kind(key); });
  }
  menu.exec(kind_button_->mapToGlobal(QPoint(0, kind_button_->height())));
}

void MainWindow::switch_kind(const std::string& key) {
  document().edit("Kind of coil",
                  [&](arc::Design& design) { design = arc::as_kind(design, *arc::coil_kind(key)); });
}

// Stages, shortcuts and names of the design's kind.
void MainWindow::refresh_kind() {
  const arc::CoilKind& kind = arc::kind_of(document().design());
  if (shown_kind_ == kind.key) return;
  shown_kind_ = kind.key;
  kind_button_->setText(text_of(kind.title) + " ▾");
  kind_button_->setAccessibleName("Kind of coil: " + text_of(kind.title));
  rail_->show_kind();
  follows_->setVisible(kind.tank);
  int place = 0;
  for (const StageSpec& stage : stages()) {
    auto* action = findChild<QAction*>("action stage " + stage.key);
    const bool here = belongs_to(stage, kind);
    action->setEnabled(here);
    action->setText(title_of(stage, kind));
    action->setShortcut(here ? QKeySequence(QString("Alt+%1").arg(++place)) : QKeySequence());
  }
  if (!belongs_to(stages()[static_cast<std::size_t>(canvas_->currentIndex())], kind)) show_stage(0);
}

void MainWindow::new_of_kind(const std::string& key) {
  if (!may_leave()) return;
  const arc::Site& here = document().design().site; // the mains at hand
  document().start(arc::new_design(*arc::coil_kind(key), here.mains_voltage_v, here.mains_frequency_hz));
  offer_first_steps();
}

void MainWindow::choose_file() {
  if (!may_leave()) return;
  const QString path = file_dialogs::to_open(this, "Open a design", "High Arc designs (*.json);;All files (*)");
  if (!path.isEmpty()) open_file(path);
}

bool MainWindow::write_to(const QString& path) {
  QString problem;
  if (!document().save_as(path, &problem)) {
    notify(QString("Not saved: %1. Your work is still here; save it somewhere else, or try again.").arg(problem));
    return false;
  }
  notice_->hide();
  remember(path);
  return true;
}

bool MainWindow::save() {
  if (document().path().isEmpty()) return save_as();
  if (document().changed_on_disk()) {
    MessageBox ask(QMessageBox::Warning, "Changed by somebody else",
                   QString("%1 has been changed or removed since it was read here, by another window or program. "
                           "Saving replaces what it holds now.")
                       .arg(QFileInfo(document().path()).fileName()),
                   QMessageBox::Cancel, this);
    ask.setObjectName("changed on disk");
    const auto* replace = ask.addButton("Replace it", QMessageBox::DestructiveRole);
    auto* elsewhere = ask.addButton("Save as…", QMessageBox::AcceptRole);
    ask.setDefaultButton(elsewhere);
    ask.exec();
    if (ask.clickedButton() == elsewhere) return save_as();
    if (ask.clickedButton() != replace) return false;
  }
  return write_to(document().path());
}

bool MainWindow::save_as() {
  QString suggested =
      document().path().isEmpty() ? document().title().toLower().replace(' ', '-') + ".json" : document().path();
  const QString path = file_dialogs::to_save(this, "Save the design", suggested, "High Arc designs (*.json)");
  return !path.isEmpty() && write_to(path);
}

void MainWindow::remember(const QString& path) {
  QStringList recent = settings_.value("recent").toStringList();
  const QString full = QFileInfo(path).absoluteFilePath();
  recent.removeAll(full);
  recent.prepend(full);
  settings_.setValue("recent", recent.mid(0, most_recent_files));
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

void MainWindow::start_again() {
  if (!close()) return;
  restart_(document().path().isEmpty() ? QStringList() : QStringList(document().path()));
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

bool MainWindow::may_leave() {
  if (const QString why = workspace_.firing.holds(); !why.isEmpty()) {
    notify(why);
    return false;
  }
  return settle_run(false) != Leave::stay && settle_changes() != Leave::stay;
}

// A run, notes or observations that are not in the record; `quitting` with a coil that may be live.
MainWindow::Leave MainWindow::settle_run(bool quitting) {
  if (auto* field = qobject_cast<QuantityField*>(QApplication::focusWidget())) field->commit();
  Firing& firing = workspace_.firing;
  const QString live = firing.holds();
  if (!firing.arming().unlogged() && live.isEmpty()) return Leave::go;
  MessageBox ask(QMessageBox::Question, "A run is not logged",
                 live.isEmpty() ? QString("What was timed and noted at the coil is not in the record yet.")
                                : live + " What was timed and noted is not in the record yet.",
                 QMessageBox::Cancel, this);
  ask.setObjectName("unlogged run");
  const QAbstractButton* log = live.isEmpty() ? ask.addButton("Log it", QMessageBox::AcceptRole) : nullptr;
  const QAbstractButton* keep =
      quitting ? ask.addButton("Keep it for the next start", QMessageBox::AcceptRole) : nullptr;
  const QAbstractButton* drop =
      live.isEmpty() ? ask.addButton("Throw it away", QMessageBox::DestructiveRole) : nullptr;
  ask.setDefaultButton(QMessageBox::Cancel);
  ask.exec();
  const QAbstractButton* answer = ask.clickedButton();
  if (log && answer == log) return firing.log() ? Leave::go : Leave::stay;
  if (keep && answer == keep) return Leave::keep;
  return drop && answer == drop ? Leave::go : Leave::stay;
}

MainWindow::Leave MainWindow::settle_changes() {
  if (auto* field = qobject_cast<QuantityField*>(QApplication::focusWidget())) field->commit();
  if (!document().modified()) return Leave::go;
  MessageBox ask(QMessageBox::Question, "Unsaved changes",
                 QString("“%1” has changes that are not saved.").arg(document().title()),
                 QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  ask.setObjectName("unsaved changes");
  ask.setDefaultButton(QMessageBox::Save);
  const int answer = ask.exec();
  if (answer == QMessageBox::Save) return save() ? Leave::go : Leave::stay;
  return answer == QMessageBox::Discard ? Leave::go : Leave::stay; // thrown away with what comes next, not before
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  const bool narrow = width() < 1180;
  rail_->setFixedWidth(narrow ? 132 : 150);
  findings_->setFixedWidth(narrow ? 262 : 318);
}

void MainWindow::closeEvent(QCloseEvent* event) {
  const Leave run = settle_run(true);
  if (run == Leave::stay || (run == Leave::go && settle_changes() == Leave::stay)) {
    event->ignore();
    return;
  }
  settings_.setValue("geometry", saveGeometry());
  settings_.setValue("folder", file_dialogs::folder());
  if (run == Leave::keep)
    document().autosave(); // offered at the next start, with changes that are not saved
  else
    document().discard_recovery(); // saved, or given up
  event->accept();
}

void MainWindow::show_text(const QString& title, const QString& html) {
  auto* sheet = new QDialog(this);
  sheet->setAttribute(Qt::WA_DeleteOnClose);
  sheet->setObjectName("sheet");
  sheet->setWindowTitle(title);
  auto* column = new QVBoxLayout(sheet);
  column->setContentsMargins(space::large, space::large, space::large, space::medium);
  auto* text = make_marked_up(html, sheet);
  text->setWordWrap(true);
  text->setMinimumWidth(480);
  text->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
  column->addWidget(text);
  auto* close = new QPushButton("Close", sheet);
  close->setDefault(true);
  connect(close, &QPushButton::clicked, sheet, &QDialog::accept);
  column->addWidget(close, 0, Qt::AlignRight);
  sheet->open();
}

void MainWindow::show_tolerances() {
  show_tolerance_sheet(workspace_, this);
}

void MainWindow::show_first_fault() {
  show_first_fault_sheet(workspace_, this);
}

void MainWindow::show_help() {
  const StageSpec& stage = stages()[static_cast<std::size_t>(canvas_->currentIndex())];
  if (!help_) help_ = new HelpSheet(workspace_, this);
  help_->show_at(stage.help.isEmpty() ? stage.title : stage.help);
}

// A design dropped on the window is opened, as from the menu.
void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  const QList<QUrl> urls = event->mimeData()->urls();
  if (urls.size() == 1 && urls.front().isLocalFile()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  const QString path = event->mimeData()->urls().value(0).toLocalFile();
  event->acceptProposedAction();
  if (!path.isEmpty() && may_leave()) open_file(path);
}

void MainWindow::show_shortcuts() {
  QString rows;
  for (const QAction* action : actions_)
    if (!action->shortcut().isEmpty())
      rows += QString("<tr><td style='padding-right:24px'><b>%1</b></td><td>%2</td></tr>")
                  .arg(action->shortcut().toString(QKeySequence::NativeText), action->text());
  rows += "<tr><td><b>Tab, arrow keys</b></td><td>On the drawing: choose a handle, move it; Shift for larger "
          "steps</td></tr>"
          "<tr><td><b>Insert, Delete</b></td><td>On a point of a drawn profile: add one beside it, take it "
          "away</td></tr>"
          "<tr><td><b>Plus, Minus, 0, wheel</b></td><td>On the drawing: larger, smaller, fit</td></tr>"
          "<tr><td><b>Left, Right</b></td><td>On the ruler: move the tank mark</td></tr>"
          "<tr><td><b>Up, Down</b></td><td>In a field: step the value; Shift for smaller steps</td></tr>"
          "<tr><td><b>Ctrl+C</b></td><td>On a reading: its value with the unit; with Shift the plain number in SI "
          "units. In a table: the chosen cells</td></tr>"
          "<tr><td><b>Escape</b></td><td>In a field: back to the last good value</td></tr>";
  show_text("Keyboard shortcuts", "<table cellspacing='4'>" + rows + "</table>");
}

void MainWindow::show_about() {
  show_text(
      "About High Arc",
      QString("<h3>High Arc %1</h3><p>Designs and tunes Tesla coils and follows the build to the logged run.</p>"
              "<p><b>High voltage kills.</b> Stored charge, RF burns, fire, ozone, ultraviolet, noise and X-rays "
              "from hard vacuum come with "
              "this work. High Arc computes and reminds; it never declares a step safe, and defers to local "
              "electrical codes and to licensed "
              "practice for anything on the mains side.</p>"
              "<p>Free software under the GNU General Public License, version 3 or later. Text face made from "
              "Inter (SIL Open Font License 1.1).</p>")
          .arg(HIGH_ARC_VERSION));
}

void MainWindow::show_about_stage() {
  const StageSpec& stage = stages()[static_cast<std::size_t>(canvas_->currentIndex())];
  show_text("What this is: " + title_of(stage, arc::kind_of(document().design())),
            "<p>" + stage.about + "</p><p>F1 opens the guide at this stage.</p>");
}

void MainWindow::show_cautions() {
  const StageSpec& stage = stages()[static_cast<std::size_t>(canvas_->currentIndex())];
  QString items;
  for (const QString& caution : stage.cautions) items += "<li style='margin-bottom:6px'>" + caution + "</li>";
  show_text("Cautions: " + stage.title, "<ul>" + items + "</ul>");
}
